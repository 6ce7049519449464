// Package fill is a form being filled in a browser: it reads posted fields into
// answers for the engine, and prints an outcome as controls. The public form and
// the rehearsal share it. It decides nothing itself.
//
// Fields are named by what they belong to:
//
//	a.KEY             an answer; several of one name for a set of choices
//	a.KEY.PART        a part of an address
//	r.SECTION.N.KEY   an answer in row N, from 0, of a repeating section
//	rows.SECTION      how many rows there are
//	auto.…            the value that came by itself when the page was made; an
//	                  answer that still equals it counts as untouched
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
func (p Posting) Answer(it *form.Item) (any, bool) { return p.answer(it, "a."+it.Key) }

func (p Posting) answer(it *form.Item, name string) (any, bool) {
	v, ok := answer(it, name, p.Fields)
	if it.Type != form.File && it.Type != form.Signature {
		return v, ok
	}
	parts, _ := v.(map[string]any)
	switch chosen := p.Fields.Get(name); {
	case p.Files != nil && ok:
		return p.Files(it, parts), true
	case p.Files == nil && chosen != "" && len(parts) == 0 && p.Fields.Get(name+FileGone) == "":
		return map[string]any{"id": "rehearsal", "name": chosen, "size": "1000"}, true
	}
	return v, ok
}

// Again is a Source's.
func (p Posting) Again(it *form.Item) (any, bool) {
	name := "a." + it.Key + engine.Again
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

// RowName is the name of a field in a repeating section.
func RowName(section string, row int, key string) string {
	return "r." + section + "." + strconv.Itoa(row) + "." + key
}

func rowCount(section string, posted url.Values) (int, bool) {
	v := posted.Get("rows." + section)
	if v == "" {
		return 0, false
	}
	n, err := strconv.Atoi(v)
	if err != nil || n < 0 {
		return 0, false
	}
	return min(n, form.MaxRows+1), true
}

// autoName is the name of the field that remembers what came by itself.
func autoName(name string) string { return "auto." + name[strings.IndexByte(name, '.')+1:] }

// answer reads one item; ok is false if it counts as untouched.
func answer(it *form.Item, name string, posted url.Values) (any, bool) {
	if !it.Asked() || it.Type.Computed() {
		return nil, false
	}
	var auto []string
	hasAuto := false
	if it.Value != nil { // nothing else comes by itself
		auto, hasAuto = posted[autoName(name)]
	}
	if it.Type == form.Address {
		parts := map[string]any{}
		for _, part := range expr.AddressParts {
			if posted.Has(name + "." + part) {
				parts[part] = posted.Get(name + "." + part)
			}
		}
		return parts, len(parts) > 0
	}
	if it.Type == form.File || it.Type == form.Signature {
		return file(name, posted)
	}
	values, sent := posted[name]
	if it.Type == form.MonthDay && posted.Has(name+monthPart) {
		values, sent = []string{monthDay(posted.Get(name+monthPart), posted.Get(name+dayPart))}, true
	}
	if hasAuto && strings.Join(values, "\n") == auto[0] {
		return nil, false
	}
	switch {
	case !sent:
		return nil, hasAuto // unticked, where something was ticked by itself
	case it.Type == form.ChoicesType:
		list := make([]any, 0, len(values))
		for _, v := range values {
			if v != "" {
				list = append(list, v)
			}
		}
		return list, true
	case len(values) == 1:
		return values[0], true
	}
	list := make([]any, len(values)) // twice the same field: the engine says what is wrong with it
	for i, v := range values {
		list[i] = v
	}
	return list, true
}

// file reads what is said of a file.
func file(name string, posted url.Values) (any, bool) {
	parts := map[string]any{}
	for _, part := range engine.FileParts {
		if v := posted.Get(name + "." + part); v != "" {
			parts[part] = v
		}
	}
	if posted.Get(name+FileGone) != "" {
		return nil, true
	}
	return parts, posted.Has(name+FileID) || len(parts) > 0
}

// The fields of a file's question beside the file itself: the id of what was sent,
// a wish to take it away, and a signature drawn or typed.
const (
	FileID   = ".id"
	FileGone = ".gone"
	Drawn    = ".drawn"
	Typed    = ".typed"
)

// The parts in which a month and day is asked.
const (
	monthPart = ".month"
	dayPart   = ".day"
)

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

// Fields writes raw answers by key as the fields that Answers reads them from,
// for a filling that was not typed but made.
func Fields(f *form.Form, answers map[string]any) url.Values {
	out := url.Values{}
	for _, page := range f.Pages {
		for _, sec := range page.Sections {
			if sec.Repeat == nil {
				for _, it := range sec.Items {
					fields(it, "a."+it.Key, answers[it.Key], out)
				}
				continue
			}
			rows, ok := answers[sec.Key].([]any)
			if !ok {
				continue
			}
			out.Set("rows."+sec.Key, strconv.Itoa(len(rows)))
			for r, row := range rows {
				given, _ := row.(map[string]any)
				for _, it := range sec.Items {
					fields(it, RowName(sec.Key, r, it.Key), given[it.Key], out)
				}
			}
		}
	}
	return out
}

func fields(it *form.Item, name string, v any, out url.Values) {
	switch v := v.(type) {
	case nil:
	case bool:
		out.Set(name, map[bool]string{true: "yes", false: "no"}[v])
		if !v && it.Type == form.Tick {
			out.Del(name)
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
