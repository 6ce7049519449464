// Package sheet writes forms as spreadsheets and reads them again: one row a question,
// pages and sections beside it, and a sheet for each language. What a column holds comes
// back as it went out; what no column holds stays as it is in the form.
package sheet

import (
	"fmt"
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// The names of the sheets; a sheet of a language is called by its tag.
const (
	Questions = "Questions"
	Parts     = "Pages and sections"
)

// The columns of the first sheet that say which row it is and where it stands.
const (
	keyColumn     = "Key"
	pageColumn    = "Page"
	sectionColumn = "Section"
)

// column is a column of the sheet of questions: what it says of a question, and which
// property becomes what by what was written in it. A nil value takes the property away.
type column struct {
	title string
	prop  string // for faults that are found later
	show  func(w *writer, it *form.Item) string
	read  func(r *reader, it *form.Item, text string) (any, error)
	has   func(it *form.Item) bool // whether the type has it; nil for all
}

// has reports whether types have a property.
func has(property string) func(it *form.Item) bool {
	return func(it *form.Item) bool { return it.Type.Has(property) }
}

// columns are all columns but those of the row's place, in their order. Adding one is
// adding a row and its line in docs/spreadsheet.md.
var columns []column

func init() { // they call what reads them
	columns = []column{
		plain("Question", "label"),
		{"Type", "type", func(_ *writer, it *form.Item) string { return it.Type.Words() }, readType, nil},
		plain("Help", "help"),
		{"Choices", "choices", showChoices, readChoices, has("choices")},
		{"Rows", "rows", showRows, readRows, has("rows")},
		{"Required", "required", func(w *writer, it *form.Item) string { return w.rule(it, "required", it.Required, false) },
			func(r *reader, it *form.Item, text string) (any, error) {
				return r.rule(it, "required", text, it.Required, false)
			}, has("required")},
		{"Shown when", "shown", func(w *writer, it *form.Item) string { return w.rule(it, "shown", it.Shown, true) },
			func(r *reader, it *form.Item, text string) (any, error) {
				return r.rule(it, "shown", text, it.Shown, true)
			}, nil},
		{"Locked when", "locked", func(w *writer, it *form.Item) string { return w.rule(it, "locked", it.Locked, false) },
			func(r *reader, it *form.Item, text string) (any, error) {
				return r.rule(it, "locked", text, it.Locked, false)
			}, has("locked")},
		{"Value", "value", showValue, readValue, has("value")},
		plain("Least", "min"),
		plain("Greatest", "max"),
		{"Check", "checks", showChecks, readChecks, has("checks")},
		plain("Words at the least", "low"),
		plain("Words at the greatest", "high"),
		plain("In the empty field", "placeholder"),
	}
}

// plain is a column of a property that is a text or a bound, under a title.
func plain(title, key string) column {
	p, _ := form.PropertyNamed(key)
	c := column{title: title, prop: key, read: readText, has: func(it *form.Item) bool { return p.Fits(it.Type) }}
	c.show = func(_ *writer, it *form.Item) string {
		v, _ := p.ValueIn(it)
		text, _ := v.(string)
		return text
	}
	if p.Kind == form.ABound {
		c.read = readBound
		c.show = func(_ *writer, it *form.Item) string {
			v, _ := p.ValueIn(it)
			b, _ := v.(*form.Bound)
			return showBound(b)
		}
	}
	return c
}

func readText(_ *reader, _ *form.Item, text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	return text, nil
}

// readType takes a type by its words or by the word that the form file has.
func readType(_ *reader, it *form.Item, text string) (any, error) {
	if text == "" {
		if it.Type == "" {
			return form.ProposeType(it.Label), nil
		}
		return it.Type, nil
	}
	var all []string
	for _, t := range form.Types() {
		if expr.Fold(text) == expr.Fold(t.Words) || text == string(t.Type) {
			return t.Type, nil
		}
		all = append(all, t.Words)
	}
	if near := expr.Nearest(text, all); near != "" {
		return nil, fmt.Errorf("there is no type “%s”; did you mean “%s”?", text, near)
	}
	return nil, fmt.Errorf("there is no type “%s”; there are %s", text, strings.Join(all, ", "))
}

// lines are the lines of a cell that are not empty.
func lines(text string) []string {
	var out []string
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line != "" {
			out = append(out, line)
		}
	}
	return out
}

// named writes “value = Label”, or just the label where the value follows from it.
func named(value, label string) string {
	switch {
	case label == "" || label == value:
		return value
	case form.ProposeKey(label) == value && !strings.Contains(label, "="):
		return label
	}
	return value + " = " + label
}

// parts takes what named wrote apart.
func parts(line string) (value, label string) {
	if v, l, ok := strings.Cut(line, " = "); ok {
		return strings.TrimSpace(v), strings.TrimSpace(l)
	}
	return "", line
}

func showChoices(_ *writer, it *form.Item) string {
	var out []string
	for _, c := range it.Choices {
		out = append(out, named(c.Value, c.Label))
	}
	if it.ChoicesFrom != nil {
		out = append(out, fromList+it.ChoicesFrom.List)
	}
	return strings.Join(out, "\n")
}

const fromList = "from the list "

// readChoices keeps what no column holds of the choices that stay.
func readChoices(_ *reader, it *form.Item, text string) (any, error) {
	var out []form.Choice
	taken := map[string]bool{}
	for _, line := range lines(text) {
		if strings.HasPrefix(line, fromList) {
			if it.ChoicesFrom == nil || line != fromList+it.ChoicesFrom.List {
				return nil, fmt.Errorf("a list is drawn from in the manuscript; “%s” can’t be set here", line)
			}
			continue
		}
		value, label := parts(line)
		c := form.Choice{Value: value, Label: label}
		if old, ok := choiceOf(it, value, label); ok {
			c = old
			if value != "" || old.Label != "" || label != old.Value {
				c.Label = label
			}
		} else if value == "" {
			c.Value = form.FreeKey(form.ProposeKey(label), "choice", taken)
		}
		if taken[c.Value] || slices.ContainsFunc(out,
			func(o form.Choice) bool { return o.Label != "" && o.Label == c.Label }) {
			return nil, fmt.Errorf("the choice “%s” stands there twice", c.Name())
		}
		taken[c.Value] = true
		out = append(out, c)
	}
	if len(out) == 0 {
		return nil, nil
	}
	return out, nil
}

func choiceOf(it *form.Item, value, label string) (form.Choice, bool) {
	for _, c := range it.Choices {
		if value != "" && c.Value == value || value == "" && (c.Name() == label || c.Value == form.ProposeKey(label)) {
			return c, true
		}
	}
	return form.Choice{}, false
}

func showRows(_ *writer, it *form.Item) string {
	var out []string
	for _, row := range it.Rows {
		out = append(out, named(row.Key, row.Label))
	}
	return strings.Join(out, "\n")
}

func readRows(_ *reader, it *form.Item, text string) (any, error) {
	var out []form.GridRow
	taken := map[string]bool{}
	for _, line := range lines(text) {
		key, label := parts(line)
		row := form.GridRow{Key: key, Label: label}
		i := slices.IndexFunc(it.Rows, func(r form.GridRow) bool {
			return key != "" && r.Key == key || key == "" && (r.Name() == label || r.Key == form.ProposeKey(label))
		})
		if i >= 0 {
			row = it.Rows[i]
			if key != "" || row.Label != "" || label != row.Key {
				row.Label = label
			}
		} else if key == "" {
			row.Key = form.FreeKey(form.ProposeKey(label), "row", taken)
		}
		if taken[row.Key] || !expr.IsKey(row.Key) {
			return nil, fmt.Errorf("the row “%s” stands there twice, or its key is none", row.Key)
		}
		taken[row.Key] = true
		out = append(out, row)
	}
	if len(out) == 0 {
		return nil, nil
	}
	return out, nil
}

func showBound(b *form.Bound) string {
	if b == nil {
		return ""
	}
	return b.String()
}

func readBound(_ *reader, _ *form.Item, text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	if n, err := expr.ParseNumber(text); err == nil {
		return form.Bound{Number: &n}, nil
	}
	return form.Bound{Text: text}, nil
}

// showValue writes “starts as …”, “follows …” or “is …”, with a line for when it follows.
func showValue(w *writer, it *form.Item) string {
	v := it.Value
	switch {
	case v == nil:
		return ""
	case v.Starts != "":
		return "starts as " + w.value(it, v.Starts)
	case v.Follows != "" && v.When != "":
		return "follows " + w.value(it, v.Follows) + "\nwhen " + w.condition(it, "value.when", v.When)
	case v.Follows != "":
		return "follows " + w.value(it, v.Follows)
	case v.Once:
		return "is once " + w.value(it, v.Is)
	}
	return "is " + w.value(it, v.Is)
}

func readValue(r *reader, it *form.Item, text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	all := lines(text)
	v := form.Value{}
	when := ""
	if len(all) == 2 {
		var ok bool
		if when, ok = strings.CutPrefix(all[1], "when "); !ok {
			return nil, fmt.Errorf("the second line begins with “when”")
		}
	}
	for _, way := range []struct {
		words string
		into  *string
		once  bool
	}{{"starts as ", &v.Starts, false}, {"follows ", &v.Follows, false}, {"is once ", &v.Is, true},
		{"is ", &v.Is, false}} {
		rest, ok := strings.CutPrefix(all[0], way.words)
		if !ok {
			continue
		}
		src, err := r.expression(it, "value", rest, false)
		if err != nil {
			return nil, err
		}
		*way.into, v.Once = src, way.once
		if when != "" {
			if v.When, err = r.expression(it, "value.when", when, true); err != nil {
				return nil, err
			}
		}
		return v, nil
	}
	return nil, fmt.Errorf("a value begins with “starts as”, “follows” or “is”")
}

// showChecks writes a check in two lines: the condition, and the message after a dash.
func showChecks(w *writer, it *form.Item) string {
	var out []string
	for i, c := range it.Checks {
		out = append(out, w.condition(it, fmt.Sprintf("checks.%d.ok", i), c.OK)+"\n– "+strings.ReplaceAll(c.Message, "\n",
			" "))
	}
	return strings.Join(out, "\n")
}

func readChecks(r *reader, it *form.Item, text string) (any, error) {
	var out []form.Check
	for _, line := range lines(text) {
		if message, ok := strings.CutPrefix(line, "–"); ok {
			if len(out) == 0 {
				return nil, fmt.Errorf("a condition comes before its message")
			}
			out[len(out)-1].Message = strings.TrimSpace(message)
			continue
		}
		src, err := r.expression(it, fmt.Sprintf("checks.%d.ok", len(out)), line, true)
		if err != nil {
			return nil, err
		}
		out = append(out, form.Check{OK: src})
	}
	if len(out) == 0 {
		return nil, nil
	}
	return out, nil
}
