package author

import (
	"slices"
	"time"

	"lazo/core/form"
)

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
	for _, p := range form.Properties() {
		if _, has := p.ValueIn(it); !has || p.Goes == "" || p.Stays(it, t) {
			continue
		}
		d.Edit.Edits = append(d.Edit.Edits, form.SetProperty(key, p.Key, nil))
		if !slices.Contains(d.Drops, p.Goes) {
			d.Drops = append(d.Drops, p.Goes)
		}
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
