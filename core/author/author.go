// Package author is what a designer does to a form, as functions from a form to the
// edit that does it. Each returns besides the edit what it drops, in words, so that
// nothing goes without being said; undo brings it back with the rest.
package author

import (
	"fmt"
	"slices"
	"strings"

	"lazo/core/form"
)

// Doing is an edit with what it takes along, in words for the designer.
type Doing struct {
	Edit  form.Edit
	Drops []string // "its choices", "its least and greatest"
}

func misfit(format string, args ...any) error {
	return fmt.Errorf("%w: %s", form.ErrEdit, fmt.Sprintf(format, args...))
}

// FirstChoices are the choices that a question begins with.
func FirstChoices() []form.Choice {
	return []form.Choice{{Value: "first", Label: "First choice"}, {Value: "second", Label: "Second choice"}}
}

// untouched reports whether choices are still those that a question begins with.
func untouched(choices []form.Choice) bool {
	first := FirstChoices()
	return slices.EqualFunc(choices, first, func(a, b form.Choice) bool {
		return a.Value == b.Value && a.Label == b.Label && a.Help == "" && a.Image == "" && a.Offered.IsZero() && a.Withheld.IsZero()
	})
}

// belongs is a property that only some types of items have.
type belongs struct {
	properties []string
	words      string // what is dropped
	of         func(form.Type) bool
	has        func(*form.Item) bool
}

func of(types ...form.Type) func(form.Type) bool {
	return func(t form.Type) bool { return slices.Contains(types, t) }
}

func asked(t form.Type) bool { return t != form.Note }

func filled(t form.Type) bool { return asked(t) && !t.Computed() }

// belongings are the properties that go when a type does not have them. A value, a
// check or a tie that no longer fits the type stays, since a remark says so.
var belongings = []belongs{
	{[]string{"choices"}, "its choices", form.Type.Picks, func(it *form.Item) bool { return len(it.Choices) > 0 }},
	{[]string{"choices_from"}, "the list that its choices came from", form.Type.Picks, func(it *form.Item) bool { return it.ChoicesFrom != nil }},
	{[]string{"offered", "withheld"}, "which of its choices are offered", form.Type.Picks, func(it *form.Item) bool { return !it.Offered.IsZero() || !it.Withheld.IsZero() }},
	{[]string{"min_picked", "max_picked"}, "how many can be picked", of(form.ChoicesType), func(it *form.Item) bool { return it.MinPicked > 0 || it.MaxPicked > 0 }},
	{[]string{"step"}, "its step", of(form.Number), func(it *form.Item) bool { return it.Step != nil }},
	{[]string{"min_length", "max_length"}, "its length", of(form.Text, form.Paragraph), func(it *form.Item) bool { return it.MinLength > 0 || it.MaxLength > 0 }},
	{[]string{"pattern", "pattern_message"}, "the form that it has to have", of(form.Text, form.Email, form.Website), func(it *form.Item) bool { return it.Pattern != "" || it.PatternMessage != "" }},
	{[]string{"accept", "max_bytes"}, "which files it takes", of(form.File), func(it *form.Item) bool { return len(it.Accept) > 0 || it.MaxBytes > 0 }},
	{[]string{"twice"}, "that it is typed twice", of(form.Text, form.Email, form.Phone), func(it *form.Item) bool { return it.Twice }},
	{[]string{"placeholder"}, "its placeholder", of(form.Text, form.Paragraph, form.Number, form.Email, form.Phone, form.Website), func(it *form.Item) bool { return it.Placeholder != "" }},
	{[]string{"required"}, "that it is required", filled, func(it *form.Item) bool { return !it.Required.IsZero() }},
	{[]string{"locked"}, "that it is locked", filled, func(it *form.Item) bool { return !it.Locked.IsZero() }},
	{[]string{"checks"}, "its checks", asked, func(it *form.Item) bool { return len(it.Checks) > 0 }},
	{[]string{"value"}, "where its value comes from", asked, func(it *form.Item) bool { return it.Value != nil }},
}

// looks are the looks that types have; "list" is the usual one.
var looks = map[form.Type][]string{form.ChoiceType: {"list", "menu", "pictures", "search"}, form.ChoicesType: {"list", "menu", "pictures", "search"}, form.YesNo: {"list", "switch"}}

// ChangeType makes an item be of another type. What the new type does not have is
// dropped, and said; a question to pick from begins with two choices if it has none.
func ChangeType(f *form.Form, key string, t form.Type) (Doing, error) {
	p, ok := f.Find(key)
	if !ok || !t.Known() {
		return Doing{}, misfit("there is no type “%s”", t)
	}
	it := p.Item
	d := Doing{Edit: form.Edit{Op: form.Batch}}
	drop := func(properties ...string) {
		for _, property := range properties {
			d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, property, nil))
		}
	}
	for _, b := range belongings {
		if b.has(it) && !b.of(t) {
			drop(b.properties...)
			if b.properties[0] != "choices" || !untouched(it.Choices) {
				d.Drops = append(d.Drops, b.words)
			}
		}
	}
	if (it.Min != nil || it.Max != nil) && t != it.Type {
		drop("min", "max")
		d.Drops = append(d.Drops, "its least and greatest")
	}
	if it.Look != "" && !slices.Contains(looks[t], it.Look) {
		drop("look")
		d.Drops = append(d.Drops, "how it looks")
	}
	if t.Computed() && it.Value != nil && it.Value.Property() != "is" {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "value", form.Value{Is: it.Value.Expr()}))
		if it.Value.When != "" {
			d.Drops = append(d.Drops, "when its value comes by itself")
		}
	}
	d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "type", string(t)))
	if t.Picks() && len(it.Choices) == 0 && it.ChoicesFrom == nil {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "choices", FirstChoices()))
	}
	return d, nil
}

// DrawChoices draws a question's choices from a list of the form, or from none for
// "". The two choices that it began with go, since nobody wrote them.
func DrawChoices(f *form.Form, key string, from *form.ChoicesFrom) (Doing, error) {
	p, ok := f.Find(key)
	if !ok {
		return Doing{}, misfit("there is no item “%s”", key)
	}
	d := Doing{Edit: form.Edit{Op: form.Batch}}
	switch {
	case from == nil:
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "choices_from", nil))
		if len(p.Item.Choices) == 0 {
			d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "choices", FirstChoices()))
		}
		return d, nil
	case len(f.Lists[from.List]) == 0:
		return Doing{}, misfit("the list %s is empty", from.List)
	}
	d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "choices_from", from))
	if untouched(p.Item.Choices) {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, "choices", nil))
	}
	return d, nil
}

// SetValueSource says where an item's value comes from: how is starts, follows or is,
// or "" for nowhere. What a value of the other kind had, and this has not, is said.
func SetValueSource(f *form.Form, key, how, src string) (Doing, error) {
	p, ok := f.Find(key)
	if !ok {
		return Doing{}, misfit("there is no item “%s”", key)
	}
	before := p.Item.Value
	d := Doing{}
	var v *form.Value
	switch how {
	case "":
	case "starts":
		v = &form.Value{Starts: src}
	case "follows":
		v = &form.Value{Follows: src}
		if before != nil {
			v.When = before.When
		}
	case "is":
		v = &form.Value{Is: src}
		if before != nil {
			v.Once = before.Once
		}
	default:
		return Doing{}, misfit("a value starts, follows or is; “%s” is none of these", how)
	}
	if before != nil && before.When != "" && (v == nil || v.When == "") {
		d.Drops = append(d.Drops, "“only while”, the condition of its value")
	}
	if v == nil {
		d.Edit = form.SetProperty(key, "value", nil)
	} else {
		d.Edit = form.SetProperty(key, "value", v)
	}
	return d, nil
}

// Says joins what an edit drops to one sentence, "" for nothing.
func (d Doing) Says() string {
	switch len(d.Drops) {
	case 0:
		return ""
	case 1:
		return "Dropped with this: " + d.Drops[0] + ". Undo brings it back."
	}
	last := len(d.Drops) - 1
	return "Dropped with this: " + strings.Join(d.Drops[:last], ", ") + " and " + d.Drops[last] + ". Undo brings it back."
}

// Empty reports whether nothing would change.
func (d Doing) Empty() bool { return d.Edit.Op == form.Batch && len(d.Edit.Edits) == 0 }
