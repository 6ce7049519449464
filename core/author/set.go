package author

import (
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
)

// SetProperty sets a property of an item, section or page, or for "" of the form, from
// what was typed for it; a blank takes it away.
type SetProperty struct {
	Key      string `form:"key"`
	Property string `form:"property"`
	Value    string `form:"value"`
}

// MaxTitle is the longest title of a form, in bytes.
const MaxTitle = 200

// settings reads what was typed for each property that can be set so; nil takes it away.
var settings = func() map[string]func(text string) (any, error) {
	out := map[string]func(string) (any, error){
		"title": always, "intro": asTyped, "end": asTyped, "timezone": asTyped, "language": asTyped, "columns": number,
	}
	for _, p := range form.Properties() {
		switch read := ofKind[p.Kind]; {
		case p.Kind == form.ABound && p.Counts:
			out[p.Key] = countedOf
		case p.Above0:
			out[p.Key] = above0
		case read != nil:
			out[p.Key] = read
		}
	}
	out["label"] = always // a blank one is remarked on, not refused
	return out
}()

// ofKind reads what was typed for a property of a kind.
var ofKind = map[form.PropertyKind]func(text string) (any, error){
	form.AText: asTyped, form.AWord: asTyped, form.AYes: ifTyped(true), form.ANo: ifTyped(false),
	form.ABound: boundOf, form.APlaces: countedOf, form.ACount: number, form.AList: kindsOfFiles,
}

func always(text string) (any, error) { return text, nil }

func asTyped(text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	return text, nil
}

func ifTyped(v bool) func(string) (any, error) {
	return func(text string) (any, error) {
		if text == "" {
			return nil, nil
		}
		return v, nil
	}
}

func number(text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	return count(text, 1<<31-1)
}

func kindsOfFiles(text string) (any, error) {
	if kinds := strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ' ' }); len(kinds) > 0 {
		return kinds, nil
	}
	return nil, nil
}

func above0(text string) (any, error) {
	if n, err := expr.ParseNumber(text); err == nil && n.Sign() <= 0 {
		return nil, misfit("a number above 0 was expected, “%s” was found", text)
	}
	return boundOf(text)
}

// bound is what was read as a bound; nil for none.
func bound(v any) *form.Bound {
	switch v := v.(type) {
	case expr.Number:
		return &form.Bound{Number: &v}
	case int:
		return form.BoundOf(v)
	case string:
		return &form.Bound{Text: v}
	}
	return nil
}

// countedOf is a whole number, or an expression.
func countedOf(text string) (any, error) {
	if _, err := expr.ParseNumber(text); err == nil {
		return number(text)
	}
	return boundOf(text)
}

// boundOf is a number, or what the form judges as a day, a time or an expression.
func boundOf(text string) (any, error) {
	if text == "" {
		return nil, nil
	}
	if n, err := expr.ParseNumber(text); err == nil {
		return n, nil
	}
	return text, nil
}

func (c SetProperty) Do(f *form.Form, now time.Time) (Doing, error) {
	value := strings.TrimSpace(c.Value)
	if c.Property == "type" {
		return ChangeType{c.Key, form.Type(value)}.Do(f, now)
	}
	d := Doing{At: c.Key}
	read := settings[c.Property]
	switch {
	case read == nil:
		return d, misfit("“%s” can’t be set here", c.Property)
	case c.Property == "title" && c.Key == "" && (value == "" || len(value) > MaxTitle):
		return d, misfit("a form needs a title of at most %d characters", MaxTitle)
	}
	v, err := read(value)
	d.Edit = form.SetProperty(c.Key, c.Property, v)
	return d, err
}

// RenameKey gives an item, section or page another key, in all conditions too.
type RenameKey struct {
	Key string `form:"key"`
	To  string `form:"value"`
}

func (c RenameKey) Do(*form.Form, time.Time) (Doing, error) {
	to := strings.TrimSpace(c.To)
	switch to {
	case "":
		return Doing{At: c.Key}, misfit("a key can’t be empty; it names the answer in conditions and exports")
	case c.Key:
		return nothing(c.Key), nil
	}
	return Doing{Edit: form.Edit{Op: form.RenameKey, Key: c.Key, To: to}, At: to}, nil
}

// SetChoices sets the choices of a question, one a line, "value = Label" or just the
// label. A choice that keeps its value keeps its ties, help and picture.
type SetChoices struct {
	Key   string `form:"key"`
	Lines string `form:"value"`
}

func (c SetChoices) Do(f *form.Form, _ time.Time) (Doing, error) {
	it, err := item(f, c.Key)
	if err != nil {
		return Doing{}, err
	}
	old, byLabel := map[string]form.Choice{}, map[string]form.Choice{}
	for _, choice := range it.Choices {
		old[choice.Value], byLabel[choice.Name()] = choice, choice
	}
	taken := map[string]bool{}
	var out []form.Choice
	for line := range strings.Lines(c.Lines) {
		value, label, written := strings.Cut(strings.TrimSpace(line), "=")
		value, label = strings.TrimSpace(value), strings.TrimSpace(label)
		if value == "" && !written {
			continue
		}
		if !written {
			label = value
			if same, ok := byLabel[label]; ok {
				value = same.Value
			} else if _, ok := old[value]; !ok {
				value = form.ProposeKey(label)
			}
		}
		value = form.FreeKey(value, "choice", taken)
		taken[value] = true
		choice := old[value]
		choice.Value, choice.Label = value, label
		out = append(out, choice)
	}
	return Doing{Edit: form.SetProperty(c.Key, "choices", out), At: c.Key}, nil
}

// SetRows sets the rows of a grid, one a line, "key = Label" or just the label. A row that
// keeps its key keeps its tie.
type SetRows struct {
	Key   string `form:"key"`
	Lines string `form:"value"`
}

func (c SetRows) Do(f *form.Form, _ time.Time) (Doing, error) {
	it, err := item(f, c.Key)
	if err != nil {
		return Doing{}, err
	}
	old, byLabel := map[string]form.GridRow{}, map[string]form.GridRow{}
	for _, row := range it.Rows {
		old[row.Key], byLabel[row.Name()] = row, row
	}
	taken := map[string]bool{}
	var out []form.GridRow
	for line := range strings.Lines(c.Lines) {
		key, label, written := strings.Cut(strings.TrimSpace(line), "=")
		key, label = strings.TrimSpace(key), strings.TrimSpace(label)
		if key == "" {
			continue
		}
		if !written {
			label = key
			if key = byLabel[label].Key; key == "" {
				key = form.ProposeKey(label)
			}
		}
		if !expr.IsKey(key) {
			return Doing{}, misfit("the key of a row is made of a to z, 0 to 9 and _; “%s” is not", key)
		}
		key = form.FreeKey(key, "row", taken)
		taken[key] = true
		row := old[key]
		row.Key, row.Label = key, label
		out = append(out, row)
	}
	return Doing{Edit: form.SetProperty(c.Key, "rows", out), At: c.Key}, nil
}

// SetChoice sets what one choice has besides its value: "help", "image", "label", its
// "places", or that it brings a text of its own ("other").
type SetChoice struct {
	Key      string `form:"key"`
	N        string `form:"n"` // which of them, from 0
	Property string `form:"property"`
	Value    string `form:"value"`
}

func (c SetChoice) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	choices, n, err := choiceAt(f, c.Key, c.N)
	if err != nil {
		return d, err
	}
	value := strings.TrimSpace(c.Value)
	switch c.Property {
	case "help":
		choices[n].Help = value
	case "image":
		choices[n].Image = value
	case "label":
		choices[n].Label = value
	case "other":
		choices[n].Other = value != ""
	case "places":
		b, err := countedOf(value)
		if err != nil {
			return d, err
		}
		choices[n].Places = bound(b)
	default:
		return d, misfit("“%s” can’t be set here", c.Property)
	}
	d.Edit = form.SetProperty(c.Key, "choices", choices)
	return d, nil
}

// choiceAt finds one of a question's choices, and copies all of them.
func choiceAt(f *form.Form, key, number string) (choices []form.Choice, n int, err error) {
	p, ok := f.Find(key)
	n, err = strconv.Atoi(number)
	if !ok || err != nil || n < 0 || n >= len(p.Item.Choices) {
		return nil, 0, misfit("this choice is no longer there")
	}
	return slices.Clone(p.Item.Choices), n, nil
}

// SetPicture puts a picture where it belongs: at a choice of a question, behind the
// text of a note, or for "" behind the greeting.
type SetPicture struct {
	Key     string `form:"key"`
	N       string `form:"n"`
	Address string `form:"-"`
}

func (c SetPicture) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	markdown := "\n\n![](" + c.Address + ")"
	if c.Key == "" {
		d.Edit = form.SetProperty("", "intro", strings.TrimSpace(f.Intro+markdown))
		return d, nil
	}
	it, err := item(f, c.Key)
	if err != nil {
		return d, err
	}
	if it.Type == form.Note {
		d.Edit = form.SetProperty(c.Key, "help", strings.TrimSpace(it.Help+markdown))
		return d, nil
	}
	choices, n, err := choiceAt(f, c.Key, c.N)
	if err != nil {
		return d, err
	}
	choices[n].Image = c.Address
	d.Edit = batch(form.SetProperty(c.Key, "choices", choices))
	if it.Look == "" {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(c.Key, "look", "pictures"))
	}
	return d, nil
}

// DrawChoices draws a question's choices from a list of the form, or from none for "". The
// choices that were typed are set aside meanwhile, or both would be offered.
type DrawChoices struct {
	Key    string `form:"key"`
	List   string `form:"list"`
	Column string `form:"column"` // that is stored, of a list that they come from already
	Label  string `form:"label"`  // the column that is shown
	// Typed are the choices that the question had before it was drawn from a list; they come
	// back with List "".
	Typed []form.Choice
}

// setAside is what a list says of the choices that were typed.
const setAside = "the choices that you typed (pick “those typed before” to have them back)"

// aside sets the typed choices of a question aside.
func (d *Doing) aside(it *form.Item) {
	if len(it.Choices) > 0 {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(it.Key, "choices", nil))
		d.Drops = append(d.Drops, setAside)
	}
}

func (c DrawChoices) Do(f *form.Form, _ time.Time) (Doing, error) {
	it, err := item(f, c.Key)
	if err != nil {
		return Doing{}, err
	}
	d := nothing(c.Key)
	if c.List == "" {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(c.Key, "choices_from", nil))
		if len(it.Choices) == 0 && len(c.Typed) > 0 {
			d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(c.Key, "choices", c.Typed))
		}
		return d, nil
	}
	if strings.HasPrefix(c.List, Workspace) {
		return drawShared(f, it, c.List)
	}
	if l := f.Lists[c.List]; len(l.Entries) == 0 && l.Shared == "" {
		return d, misfit("the list %s is empty", c.List)
	}
	from := form.ChoicesFrom{List: c.List}
	if columns := slices.Sorted(maps.Keys(f.Columns(c.List))); len(columns) > 0 {
		from.Value = columns[0]
	}
	if it.ChoicesFrom != nil && it.ChoicesFrom.List == c.List {
		from = *it.ChoicesFrom
		from.Value, from.Label = c.Column, c.Label
	}
	d.aside(it)
	d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(c.Key, "choices_from", &from))
	return d, nil
}

// SetRepeat makes a section be asked once, or in rows within bounds.
type SetRepeat struct {
	Key     string `form:"key"`
	Repeats string `form:"repeats"` // "" for once
	Min     string `form:"min"`
	Max     string `form:"max"`
	Name    string `form:"name"` // of a row
}

func (c SetRepeat) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	_, s := f.Section(c.Key)
	if s == nil {
		return d, misfit("there is no section “%s”", c.Key)
	}
	if c.Repeats == "" {
		d.Edit = form.SetProperty(c.Key, "repeat", nil)
		return d, nil
	}
	r := form.Repeat{Min: 1, Max: 8}
	if s.Repeat != nil {
		r = *s.Repeat
		var err error
		if r.Min, err = rows(c.Min); err != nil {
			return d, err
		}
		if r.Max, err = rows(c.Max); err != nil {
			return d, err
		}
		r.Name = strings.TrimSpace(c.Name)
	}
	d.Edit = form.SetProperty(c.Key, "repeat", r)
	return d, nil
}

func rows(text string) (int, error) {
	n, err := count(text, form.MaxRows)
	if err != nil {
		return 0, misfit("a whole number of rows up to %d was expected, “%s” was found", form.MaxRows,
			strings.TrimSpace(text))
	}
	return n, nil
}

// SetList sets a list of the form from CSV; an empty one is taken out.
type SetList struct {
	Name string `form:"name"`
	CSV  string `form:"value"`
}

func (c SetList) Do(f *form.Form, _ time.Time) (Doing, error) {
	name := strings.TrimSpace(c.Name)
	if !expr.IsKey(name) {
		return Doing{}, misfit("the name of a list is made of a to z, 0 to 9 and _; “%s” is not", name)
	}
	list, err := exchange.ReadList(strings.NewReader(c.CSV))
	if err != nil {
		return Doing{}, misfit("%s", err)
	}
	lists := maps.Clone(f.Lists)
	if lists == nil {
		lists = map[string]form.List{}
	}
	lists[name] = form.List{Entries: list}
	if len(list) == 0 {
		delete(lists, name)
	}
	if len(lists) == 0 {
		return Doing{Edit: form.SetProperty("", "lists", nil)}, nil
	}
	return Doing{Edit: form.SetProperty("", "lists", lists)}, nil
}

// SetParameters sets the form's address parameters, one a line, "name = Label" or just
// the name.
type SetParameters struct {
	Lines string `form:"value"`
}

func (c SetParameters) Do(f *form.Form, _ time.Time) (Doing, error) {
	var out []form.Parameter
	before := map[string]form.Parameter{}
	for _, p := range f.Parameters {
		before[p.Name] = p
	}
	for line := range strings.Lines(c.Lines) {
		name, label, _ := strings.Cut(line, "=")
		name, label = strings.TrimSpace(name), strings.TrimSpace(label)
		if name == "" {
			continue
		}
		if !expr.IsKey(name) {
			if label == "" {
				label = name
			}
			name = form.ProposeKey(name)
		}
		p := before[name] // its type and its values stay
		p.Name, p.Label = name, label
		out = append(out, p)
	}
	if len(out) == 0 {
		return Doing{Edit: form.SetProperty("", "parameters", nil)}, nil
	}
	return Doing{Edit: form.SetProperty("", "parameters", out)}, nil
}
