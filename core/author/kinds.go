package author

import (
	"slices"
	"time"

	"lazo/core/form"
)

// belonging is what only some types of items have: properties that go together.
type belonging struct {
	properties []string
	words      string // what is dropped
	has        func(*form.Item) bool
}

// belongings are what goes when a type does not have it. A value, a check or a tie that no
// longer fits the type stays, since a remark says so.
var belongings = []belonging{
	{[]string{"choices"}, "its choices", func(it *form.Item) bool { return len(it.Choices) > 0 }},
	{[]string{"choices_from"}, "the list that its choices came from",
		func(it *form.Item) bool { return it.ChoicesFrom != nil }},
	{
		[]string{"offered", "withheld"}, "which of its choices are offered",
		func(it *form.Item) bool { return !it.Offered.IsZero() || !it.Withheld.IsZero() },
	},
	{
		[]string{"min_picked", "max_picked"}, "how many can be picked",
		func(it *form.Item) bool { return it.MinPicked != nil || it.MaxPicked != nil },
	},
	{[]string{"rows", "many"}, "its rows", func(it *form.Item) bool { return len(it.Rows) > 0 }},
	{[]string{"low", "high"}, "the words at its ends", func(it *form.Item) bool { return it.Low != "" || it.High != "" }},
	{[]string{"step"}, "its step", func(it *form.Item) bool { return it.Step != nil }},
	{[]string{"min_length", "max_length"}, "its length",
		func(it *form.Item) bool { return it.MinLength != nil || it.MaxLength != nil }},
	{
		[]string{"pattern", "pattern_message"}, "the form that it has to have",
		func(it *form.Item) bool { return it.Pattern != "" || it.PatternMessage != "" },
	},
	{[]string{"accept", "max_bytes"}, "which files it takes",
		func(it *form.Item) bool { return len(it.Accept) > 0 || it.MaxBytes > 0 }},
	{[]string{"twice"}, "that it is typed twice", func(it *form.Item) bool { return it.Twice }},
	{[]string{"placeholder"}, "its placeholder", func(it *form.Item) bool { return it.Placeholder != "" }},
	{[]string{"required"}, "that it is required", func(it *form.Item) bool { return !it.Required.IsZero() }},
	{[]string{"locked"}, "that it is locked", func(it *form.Item) bool { return !it.Locked.IsZero() }},
	{[]string{"checks"}, "its checks", func(it *form.Item) bool { return len(it.Checks) > 0 }},
	{[]string{"value"}, "where its value comes from", func(it *form.Item) bool { return it.Value != nil }},
}

// looksSo reports whether a type can be laid out in a way.
func looksSo(t form.Type, look string) bool {
	return slices.ContainsFunc(t.Looks(), func(l form.Look) bool { return l.Name == look })
}

// ChangeType makes an item be of another type. What the new type does not have is
// dropped, and said.
type ChangeType struct {
	Key string    `form:"key"`
	To  form.Type `form:"value"`
}

// Do is a Command's.
func (c ChangeType) Do(f *form.Form, _ time.Time) (Doing, error) {
	key, t := c.Key, c.To
	it, err := item(f, key)
	if err != nil {
		return Doing{}, err
	}
	if !t.Known() {
		return Doing{}, misfit("there is no type “%s”", t)
	}
	d := Doing{At: key, Edit: form.Edit{Op: form.Batch}}
	drop := func(properties ...string) {
		for _, property := range properties {
			d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, property, nil))
		}
	}
	for _, b := range belongings {
		if b.has(it) && !t.Has(b.properties[0]) {
			drop(b.properties...)
			d.Drops = append(d.Drops, b.words)
		}
	}
	if (it.Min != nil || it.Max != nil) && t != it.Type {
		drop("min", "max")
		d.Drops = append(d.Drops, "its least and greatest")
	}
	if it.Look != "" && !looksSo(t, it.Look) {
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
	return d, nil
}
