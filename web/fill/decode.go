// Package fill is a form being filled in a browser: it reads posted fields into
// answers for the engine, and prints an outcome as controls. The public form and
// the rehearsal share it. It decides nothing itself.
//
// How fields are named stands in names.go. A question whose value can come by
// itself is touched once the respondent has done something to it; its page says so
// (own.…), and where no script could mark it, a control that no longer says what
// it did when the page was made (auto.…) has been.
package fill

import (
	"fmt"
	"net/url"
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

// Answer is a Source's.
func (p Posting) Answer(it *form.Item) (any, bool) { return p.answer(it, answerHead+it.Key) }

// answer reads one item; ok is false if it counts as untouched.
func (p Posting) answer(it *form.Item, name string) (v any, ok bool) {
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
	if p.Fields.Get(headed(ownHead, name)) != "" {
		return v, true
	}
	if auto, has := p.Fields[headed(autoHead, name)]; has && sent && plainText(it, auto[0]) == plainText(it, text) {
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
	case form.MonthDay:
		if p.Fields.Has(name + monthPart) {
			text = monthDay(p.Fields.Get(name+monthPart), p.Fields.Get(name+dayPart))
			return text, text, true
		}
	}
	values, sent := p.Fields[name]
	if !sent {
		return nil, "", false
	}
	if it.Type.Picks() || it.Type == form.Tick || it.Type == form.YesNo {
		values = answered(values) // an empty one says that the question was there
	}
	switch {
	case it.Type == form.ChoicesType:
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
// question for one choice as long as nothing else is picked.
func (p Posting) withAside(it *form.Item, name string, v any, sent bool) (any, bool) {
	aside := answered(p.Fields[headed(asideHead, name)])
	if len(aside) == 0 {
		return v, sent
	}
	if it.Type == form.ChoicesType {
		list, _ := v.([]any)
		return append(anyList(aside), list...), true
	}
	if v == nil || v == "" {
		return aside[0], true
	}
	return v, sent
}

// plainText is a control's text as browsers may have changed it: their line ends,
// and none where a control has one line.
func plainText(it *form.Item, text string) string {
	text = strings.ReplaceAll(text, "\r\n", "\n")
	if it.Type == form.Paragraph || it.Type == form.Address || it.Type.Picks() {
		return text
	}
	return strings.ReplaceAll(text, "\n", "")
}

// Again is a Source's.
func (p Posting) Again(it *form.Item) (any, bool) {
	name := answerHead + it.Key + engine.Again
	return p.Fields.Get(name), p.Fields.Has(name)
}

// Rows is a Source's.
func (p Posting) Rows(s *form.Section) ([]any, bool) {
	n, ok := rowCount(s.Key, p.Fields)
	if !ok {
		return nil, false
	}
	rows := make([]any, n)
	for r := range n {
		row := map[string]any{}
		if id := p.Fields.Get(rowIDName(s.Key, r)); id != "" {
			row[engine.RowID] = id
		}
		for _, it := range s.Items {
			name := RowName(s.Key, r, it.Key)
			if v, ok := p.answer(it, name); ok {
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

// Kept reports whether a posted field belongs to the filling rather than to the
// page that it was posted from.
func Kept(name string) bool {
	return name != "" && name[0] != '_' && !strings.HasSuffix(name, FileNew) || strings.HasPrefix(name, seenHead)
}

// Answered reports whether any question was answered in posted fields.
func Answered(posted url.Values) bool {
	for name, values := range posted {
		if (strings.HasPrefix(name, answerHead) || strings.HasPrefix(name, rowHead)) && len(answered(values)) > 0 {
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
					fields(it, answerHead+it.Key, answers, out)
				}
				continue
			}
			rows, ok := answers[sec.Key].([]any)
			if !ok {
				continue
			}
			out.Set(rowsHead+sec.Key, strconv.Itoa(len(rows)))
			for r, row := range rows {
				given, _ := row.(map[string]any)
				if id, ok := given[engine.RowID].(string); ok {
					out.Set(rowIDName(sec.Key, r), id)
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
		out.Set(headed(ownHead, name), "yes")
	}
	switch v := v.(type) {
	case nil:
	case bool:
		out.Set(name, map[bool]string{true: "yes", false: "no"}[v])
		if !v && it.Type == form.Tick {
			out.Set(name, "")
		}
	case []any:
		for _, e := range v {
			out.Add(name, fmt.Sprint(e))
		}
	case map[string]any:
		for part, text := range v {
			out.Set(name+"."+part, fmt.Sprint(text))
		}
	default:
		out.Set(name, fmt.Sprint(v))
	}
}
