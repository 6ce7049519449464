// Package posted reads the fields that a page posts, within bounds, as answers for the engine,
// and writes answers as fields.
//
// How fields are named stands in names.go. A question whose value can come by
// itself is touched once the respondent has done something to it; its page says so
// (own.…), and where no script could mark it, a control that no longer says what
// it did when the page was made (auto.…) has been.
package posted

import (
	"cmp"
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// Posting is a page's posted fields as a source of answers for the engine. Fields
// that belong to no item are left out. Files completes what was posted for a
// question for files; without it, in a rehearsal, a file that was chosen stands for
// itself by its name.
type Posting struct {
	Fields url.Values
	Files  func(it *form.Item, parts map[string]any) any
}

func (p Posting) Answer(it *form.Item) (any, bool) { return p.AnswerAt(it, AnswerHead+it.Key) }

// Text is that of engine.Texts: of a question of one control that nothing fills by itself.
func (p Posting) Text(it *form.Item) (string, bool) {
	if it.Value != nil {
		return "", false
	}
	switch it.Type {
	case form.Text, form.Paragraph, form.Number, form.Scale, form.Email, form.Phone, form.Website, form.Date, form.Time:
		if values := p.Fields[AnswerHead+it.Key]; len(values) == 1 {
			return values[0], true
		}
	case form.ChoiceType, form.YesNo, form.Tick:
		if it.Type == form.ChoiceType && (len(p.Fields[AsideHead+it.Key]) > 0 || it.Other() != "") {
			return "", false
		}
		return onlyOne(p.Fields[AnswerHead+it.Key])
	}
	return "", false
}

// onlyOne is the one value that is not blank, or a blank if there is none.
func onlyOne(values []string) (one string, ok bool) {
	for _, v := range values {
		switch {
		case v == "":
		case one != "":
			return "", false
		default:
			one = v
		}
	}
	return one, len(values) > 0
}

// AnswerAt reads one item; ok is false if it counts as untouched.
func (p Posting) AnswerAt(it *form.Item, name string) (v any, ok bool) {
	if !it.Asked() || it.Type.Computed() {
		return nil, false
	}
	v, text, sent := p.control(it, name)
	if it.Type.Picks() {
		v, sent = p.withAside(it, name, v, sent)
	}
	if it.Value == nil {
		return v, sent
	}
	if p.Fields.Get(Headed(OwnHead, name)) != "" {
		return v, true
	}
	if auto, has := p.Fields[Headed(AutoHead, name)]; has && sent && PlainText(it, auto[0]) == PlainText(it, text) {
		return nil, false
	}
	return v, sent
}

// control is what the controls of a question say: as the engine reads it, and as
// one text that tells whether they were changed.
func (p Posting) control(it *form.Item, name string) (v any, text string, sent bool) {
	switch it.Type {
	case form.Address:
		return p.address(name)
	case form.File, form.Signature:
		return p.file(it, name)
	case form.Grid:
		return p.grid(it, name)
	case form.Ranking:
		if list, sent := p.ranking(name); sent {
			return list, strings.Join(list, "\n"), true
		}
	case form.MonthDay:
		if p.Fields.Has(name + MonthPart) {
			text = monthDay(p.Fields.Get(name+MonthPart), p.Fields.Get(name+DayPart))
			return text, text, true
		}
	}
	values, sent := p.Fields[name]
	if !sent {
		return nil, "", false
	}
	if it.Type.Picks() || it.Type == form.Tick || it.Type == form.YesNo || it.Type == form.Scale {
		values = answered(values) // an empty one says that the question was there
	}
	if other := it.Other(); other != "" && slices.Contains(values, other) {
		return p.withOther(it, name, values)
	}
	switch {
	case it.Type == form.ChoicesType, it.Type == form.Ranking:
		return anyList(values), strings.Join(values, "\n"), true
	case len(values) == 0 && it.Type == form.Tick:
		return "", "no", true
	case len(values) == 0:
		return "", "", true
	case len(values) == 1:
		return values[0], values[0], true
	}
	return anyList(values), strings.Join(values, "\n"), true // twice the same field: the engine says what is wrong with it
}

// withOther adds what was written for the choice that brings a text of its own.
func (p Posting) withOther(it *form.Item, name string, values []string) (v any, text string, sent bool) {
	list := p.saying(it, name, values)
	text = strings.Join(append(values, p.Fields.Get(name+OtherPart)), "\n")
	if it.Type == form.ChoiceType && len(list) == 1 {
		return list[0], text, true
	}
	return list, text, true
}

// saying are picks, the one that brings a text of its own with it.
func (p Posting) saying(it *form.Item, name string, values []string) []any {
	list := anyList(values)
	said := p.Fields.Get(name + OtherPart)
	for i, value := range values {
		if said != "" && value == it.Other() {
			list[i] = map[string]any{"value": value, "text": said}
		}
	}
	return list
}

// ranking reads the places that were given to choices. Of two with the same place the
// second has none.
func (p Posting) ranking(name string) (list []string, sent bool) {
	var all []Placed
	for field, values := range p.Fields {
		if n, ok := strings.CutPrefix(field, name+PlacePart); ok && n != "" && len(values) > 0 {
			sent = true
			all = append(all, ReadPlaces(values[:1])...)
		}
	}
	sortPlaces(all)
	list = []string{}
	for i, g := range all {
		if i == 0 || all[i-1].Place != g.Place {
			list = append(list, g.Value)
		}
	}
	return list, sent
}

// Placed is a choice in a ranking, written as PLACE:VALUE.
type Placed struct {
	Place int
	Value string
}

func (p Placed) String() string { return strconv.Itoa(p.Place) + ":" + p.Value }

// ReadPlaces leaves out what has no place.
func ReadPlaces(texts []string) (out []Placed) {
	for _, text := range texts {
		at, value, _ := strings.Cut(text, ":")
		if place, err := strconv.Atoi(at); err == nil {
			out = append(out, Placed{place, value})
		}
	}
	return out
}

func sortPlaces(all []Placed) {
	slices.SortFunc(all, func(a,
		b Placed) int {
		return cmp.Or(cmp.Compare(a.Place, b.Place), strings.Compare(a.Value, b.Value))
	})
}

// grid reads what was picked in the rows of a grid.
func (p Posting) grid(it *form.Item, name string) (v any, text string, sent bool) {
	cells := map[string]any{}
	var texts []string
	for _, row := range it.Rows {
		values, ok := p.Fields[name+"."+row.Key]
		if !ok {
			continue
		}
		sent = true
		values = answered(values)
		switch {
		case it.Many:
			cells[row.Key] = anyList(values)
		case len(values) == 1:
			cells[row.Key] = values[0]
		case len(values) > 1:
			cells[row.Key] = anyList(values)
		}
		if len(values) > 0 {
			texts = append(texts, row.Key+": "+strings.Join(values, ", "))
		}
	}
	return cells, strings.Join(texts, "; "), sent
}

func answered(values []string) []string {
	out := make([]string, 0, len(values))
	for _, v := range values {
		if v != "" {
			out = append(out, v)
		}
	}
	return out
}

func anyList(values []string) []any {
	list := make([]any, len(values))
	for i, v := range values {
		list[i] = v
	}
	return list
}

func (p Posting) address(name string) (v any, text string, sent bool) {
	parts := map[string]any{}
	texts := make([]string, len(expr.AddressParts))
	for i, part := range expr.AddressParts {
		if p.Fields.Has(name + "." + part) {
			texts[i] = p.Fields.Get(name + "." + part)
			parts[part] = texts[i]
		}
	}
	return parts, strings.Join(texts, "\n"), len(parts) > 0
}

// file reads what is said of a file or a signature.
func (p Posting) file(it *form.Item, name string) (v any, text string, sent bool) {
	parts := map[string]any{}
	for _, part := range engine.FileParts {
		if v := p.Fields.Get(name + "." + part); v != "" {
			parts[part] = v
		}
	}
	id, _ := parts["id"].(string)
	chosen := p.Fields.Get(name)
	typed, drawn := strings.TrimSpace(p.Fields.Get(name+Typed)), p.Fields.Get(name+Drawn)
	if !strings.HasPrefix(drawn, drawnHead) {
		drawn = ""
	}
	switch {
	case p.Fields.Get(name+FileGone) != "":
		return nil, "", true
	case it.Type == form.Signature && id == "" && (typed != "" || drawn != ""):
		pending := typed
		if drawn != "" {
			pending = "drawn.png"
		}
		return map[string]any{"id": Pending, "name": pending, "type": "image/png", "size": "1"}, Pending, true
	case p.Files != nil && (len(parts) > 0 || p.Fields.Has(name+FileID)):
		return p.Files(it, parts), id, true
	case p.Files == nil && chosen != "" && len(parts) == 0:
		return map[string]any{"id": "rehearsal", "name": chosen, "size": "1000"}, chosen, true
	}
	return parts, id, p.Fields.Has(name+FileID) || len(parts) > 0
}

// withAside adds the picks that were set aside: all of them to a set, one to a
// question for one choice as long as nothing else is picked, to a ranking where they stood.
func (p Posting) withAside(it *form.Item, name string, v any, sent bool) (any, bool) {
	aside := answered(p.Fields[Headed(AsideHead, name)])
	if len(aside) == 0 {
		return v, sent
	}
	switch it.Type {
	case form.Ranking:
		list, _ := v.([]string)
		back := ReadPlaces(aside)
		sortPlaces(back)
		for _, b := range back {
			list = slices.Insert(list, max(0, min(b.Place-1, len(list))), b.Value)
		}
		return list, true
	case form.ChoicesType:
		list, _ := v.([]any)
		return append(p.saying(it, name, aside), list...), true
	}
	if v == nil || v == "" {
		return p.saying(it, name, aside[:1])[0], true
	}
	return v, sent
}

// PlainText is a control's text as browsers may have changed it: their line ends,
// and none where a control has one line.
func PlainText(it *form.Item, text string) string {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	if it.Type == form.Paragraph || it.Type == form.Address || it.Type.Picks() {
		return text
	}
	return strings.ReplaceAll(text, "\n", "")
}

func (p Posting) Again(it *form.Item) (any, bool) {
	name := AnswerHead + it.Key + engine.Again
	return p.Fields.Get(name), p.Fields.Has(name)
}

func (p Posting) Rows(s *form.Section) ([]any, bool) {
	n, ok := RowCount(s.Key, p.Fields)
	if !ok {
		return nil, false
	}
	rows := make([]any, n)
	for r := range n {
		row := map[string]any{}
		if id := p.Fields.Get(RowIDName(s.Key, r)); id != "" {
			row[engine.RowID] = id
		}
		for _, it := range s.Items {
			name := RowName(s.Key, r, it.Key)
			if v, ok := p.AnswerAt(it, name); ok {
				row[it.Key] = v
				if it.Twice && p.Fields.Has(name+engine.Again) {
					row[it.Key+engine.Again] = p.Fields.Get(name + engine.Again)
				}
			}
		}
		rows[r] = row
	}
	return rows, true
}

// Answers reads posted fields as raw answers by key.
func Answers(f *form.Form, posted url.Values) map[string]any {
	out := map[string]any{}
	p := Posting{Fields: posted}
	for _, page := range f.Pages {
		for _, sec := range page.Sections {
			if sec.Repeat != nil {
				if rows, ok := p.Rows(sec); ok {
					out[sec.Key] = rows
				}
				continue
			}
			for _, it := range sec.Items {
				v, ok := p.Answer(it)
				if !ok {
					continue
				}
				out[it.Key] = v
				if again, ok := p.Again(it); ok && it.Twice {
					out[it.Key+engine.Again] = again
				}
			}
		}
	}
	return out
}

// monthDay puts the two parts together; one alone stays as it is, to be refused.
func monthDay(month, day string) string {
	month, day = strings.TrimSpace(month), strings.TrimSpace(day)
	if month == "" && day == "" {
		return ""
	}
	if len(day) == 1 {
		day = "0" + day
	}
	return month + "-" + day
}

// Answered reports whether any question was answered in posted fields.
func Answered(posted url.Values) bool {
	for name, values := range posted {
		if (strings.HasPrefix(name, AnswerHead) || strings.HasPrefix(name, RowHead)) && len(answered(values)) > 0 {
			return true
		}
	}
	return false
}

// Fields writes raw answers by key as the fields that Answers reads them from,
// for a filling that was not typed but made.
func Fields(f *form.Form, answers map[string]any) url.Values {
	out := url.Values{}
	for _, page := range f.Pages {
		for _, sec := range page.Sections {
			if sec.Repeat == nil {
				for _, it := range sec.Items {
					fields(it, AnswerHead+it.Key, answers, out)
				}
				continue
			}
			rows, ok := answers[sec.Key].([]any)
			if !ok {
				continue
			}
			out.Set(RowsHead+sec.Key, strconv.Itoa(len(rows)))
			for r, row := range rows {
				given, _ := row.(map[string]any)
				if id, ok := given[engine.RowID].(string); ok {
					out.Set(RowIDName(sec.Key, r), id)
				}
				for _, it := range sec.Items {
					fields(it, RowName(sec.Key, r, it.Key), given, out)
				}
			}
		}
	}
	return out
}

func fields(it *form.Item, name string, answers map[string]any, out url.Values) {
	v, given := answers[it.Key]
	if given && it.Value != nil {
		out.Set(Headed(OwnHead, name), "yes")
	}
	switch v := v.(type) {
	case nil:
	case bool:
		out.Set(name, map[bool]string{true: "yes", false: "no"}[v])
		if !v && it.Type == form.Tick {
			out.Set(name, "")
		}
	case []any:
		for i, e := range v {
			switch {
			case it.Type == form.Ranking:
				out.Set(name+PlacePart+strconv.Itoa(i), Placed{i + 1, fmt.Sprint(e)}.String())
			case otherOf(e) != nil:
				out.Add(name, fmt.Sprint(otherOf(e)["value"]))
				out.Set(name+OtherPart, fmt.Sprint(otherOf(e)["text"]))
			default:
				out.Add(name, fmt.Sprint(e))
			}
		}
	case map[string]any:
		if it.Type.Picks() {
			out.Set(name, fmt.Sprint(v["value"]))
			out.Set(name+OtherPart, fmt.Sprint(v["text"]))
			return
		}
		for part, text := range v {
			if several, ok := text.([]any); ok {
				for _, e := range several {
					out.Add(name+"."+part, fmt.Sprint(e))
				}
				continue
			}
			out.Set(name+"."+part, fmt.Sprint(text))
		}
	default:
		out.Set(name, fmt.Sprint(v))
	}
}

// otherOf is a pick that brings a text of its own, nil for any other.
func otherOf(pick any) map[string]any {
	m, _ := pick.(map[string]any)
	return m
}
