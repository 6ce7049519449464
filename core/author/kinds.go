package author

import (
	"slices"
	"time"

	"lazo/core/form"
)

// looksSo reports whether a type can be laid out in a way.
func looksSo(t form.Type, look string) bool {
	return slices.ContainsFunc(t.Looks(), func(l form.Look) bool { return l.Name == look })
}

// ChangeType makes an item be of another type. What the new type does not have is
// dropped, and said; a value, a check or a tie that it has but that no longer fits stays, since
// a remark says so.
type ChangeType struct {
	Key string    `form:"key"`
	To  form.Type `form:"value"`
}

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
	drop := func(p form.Property, words string) {
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, p.Key, nil))
		if !slices.Contains(d.Drops, words) {
			d.Drops = append(d.Drops, words)
		}
	}
	for _, p := range form.Properties() {
		_, has := p.ValueIn(it)
		if has && p.Goes != "" && (!p.Fits(t) || p.Bounds() && t != it.Type) {
			drop(p, p.Goes)
		}
	}
	if it.Look != "" && !looksSo(t, it.Look) {
		look, _ := form.PropertyNamed("look")
		drop(look, "how it looks")
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
