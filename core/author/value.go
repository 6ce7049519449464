package author

import (
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// SetValueSource says where an item's value comes from. How it does is starts, follows
// or is, or "" for not at all; from is "today", "now", "parameter", "answer", "fixed" or
// "written". What a value of the other kind had, and this has not, is dropped and said.
type SetValueSource struct {
	Key       string `form:"key"`
	How       string `form:"how"`
	From      string `form:"from"`
	Fixed     string `form:"fixed"`
	Answer    string `form:"answer"` // the label or key of a question; "" for the first that fits
	Parameter string `form:"parameter"`
	Source    string `form:"source"`
}

func (c SetValueSource) Do(f *form.Form, _ time.Time) (Doing, error) {
	d := Doing{At: c.Key}
	it, err := item(f, c.Key)
	if err != nil {
		return d, err
	}
	if c.How == "" {
		d.Edit, d.Drops = form.SetProperty(c.Key, "value", nil), lostWhen(it.Value, nil)
		return d, nil
	}
	src, err := c.expression(f, it)
	if err != nil {
		return d, err
	}
	n, err := written(f, c.Key, "value", src)
	if err != nil {
		return d, err
	}
	v, err := c.value(n.String(), it.Value)
	if err != nil {
		return d, err
	}
	d.Edit, d.Drops = form.SetProperty(c.Key, "value", v), lostWhen(it.Value, v)
	return d, nil
}

// value is what an item had as its value before, from an expression now.
func (c SetValueSource) value(src string, before *form.Value) (*form.Value, error) {
	switch c.How {
	case "starts":
		return &form.Value{Starts: src}, nil
	case "follows":
		v := &form.Value{Follows: src}
		if before != nil {
			v.When = before.When
		}
		return v, nil
	case "is":
		v := &form.Value{Is: src}
		if before != nil {
			v.Once = before.Once
		}
		return v, nil
	}
	return nil, misfit("a value starts, follows or is; “%s” is none of these", c.How)
}

func lostWhen(before, after *form.Value) []string {
	if before != nil && before.When != "" && (after == nil || after.When == "") {
		return []string{"“only while”, the condition of its value"}
	}
	return nil
}

// expression writes what was picked as the value's source.
func (c SetValueSource) expression(f *form.Form, it *form.Item) (string, error) {
	switch c.From {
	case "cases":
		src := strings.TrimSpace(c.Source)
		if src == expr.GapSign {
			src = ""
		}
		if _, _, already := form.Cases(src); already {
			return src, nil
		}
		return oneMoreCase(f, it, src)
	case "today", "now":
		return c.From, nil
	case "parameter":
		name := c.Parameter
		if name == "" && len(f.Parameters) > 0 {
			name = f.Parameters[0].Name
		}
		if name == "" {
			return "", misfit("the form has no address parameters yet; add one at its head, under “Address parameters”")
		}
		return "url." + name, nil
	case "answer":
		return c.answer(f, it)
	case "fixed":
		return fixed(f, it, strings.TrimSpace(c.Fixed))
	}
	if src := strings.TrimSpace(c.Source); src != "" {
		return src, nil
	}
	return expr.GapSign, nil
}

// answer is the question that the value is taken from.
func (c SetValueSource) answer(f *form.Form, it *form.Item) (string, error) {
	syms := f.Scope(c.Key, "value")
	key, err := Resolve(f, syms, c.Answer, "")
	if err != nil || key != "" {
		return key, err
	}
	for _, s := range Subjects(f, syms, "") {
		if p, ok := f.Find(s.Key); ok && p.Item.Type == it.Type && s.Key != it.Key {
			return s.Key, nil
		}
	}
	return "", misfit("there is no other question of this type to take it from")
}

// fixed writes a plain value as an expression of the item's type; a blank one is still to
// be given.
func fixed(f *form.Form, it *form.Item, text string) (string, error) {
	if text == "" {
		return expr.GapSign, nil
	}
	switch it.Type {
	case form.Number:
		if n, err := engine.NumbersOf(f.Language).Read(text); err == nil {
			return n.String(), nil
		}
		return "", misfit("a number was expected, “%s” was found", text)
	case form.Date:
		if d, ok := expr.ParseDay(text); ok {
			return d.String(), nil
		}
		return "", misfit("a day was expected, such as 2026-05-30; “%s” was found", text)
	case form.Time:
		if _, ok := expr.ParseTime(text); ok {
			return text, nil
		}
		return "", misfit("a time of day was expected, such as 09:30; “%s” was found", text)
	case form.YesNo, form.Tick:
		if text != "no" {
			text = "yes"
		}
		return text, nil
	case form.Calculation, form.Hidden: // which take the type of what they are
		if n, err := engine.NumbersOf(f.Language).Read(text); err == nil {
			return n.String(), nil
		}
	}
	return expr.Quote(text), nil
}

// typedValue reads what is typed for a value: a plain one of the item's type, or an
// expression. Where the type is open, a number is a number, what reads as an expression of
// what is there is one, and all else is a text.
func typedValue(f *form.Form, it *form.Item, text string) (string, error) {
	text = strings.TrimSpace(text)
	if text == "" {
		return expr.GapSign, nil
	}
	plain, err := fixed(f, it, text)
	if err == nil && !it.Type.Computed() {
		return plain, nil
	}
	if n, bad := engine.NumbersOf(f.Language).Read(text); bad == nil {
		return n.String(), nil
	}
	n, bad := expr.Parse(text)
	if bad == nil {
		if _, faults := expr.Compile(n, f.Scope(it.Key, "value")); len(faults) == 0 {
			return n.String(), nil
		}
	}
	return plain, err
}
