package engine

import (
	"lazo/core/expr"
	"lazo/core/form"
)

// constraints compiles the fixed limits of an item's answer and remarks on
// those that make no sense.
func (c *compiler) constraints(it *item) {
	senseless := func(property, format string, args ...any) {
		c.remark("senseless", form.Warning, it.at+"."+property, it.Key, format, args...)
	}
	it.min, it.max = c.bound(it, "min", it.Min), c.bound(it, "max", it.Max)
	if it.min.Kind() != expr.Blank && it.max.Kind() != expr.Blank && below(&it.max, &it.min) {
		senseless("max", "the greatest, %s, is under the least, %s: no answer fits", it.Max, it.Min)
	}
	if it.Step != nil {
		if it.Step.Sign() <= 0 {
			senseless("step", "a step is greater than 0")
		} else {
			it.step = *it.Step
		}
	}
	if it.MaxLength > 0 && it.MaxLength < it.MinLength {
		senseless("max_length", "the greatest length, %d, is under the least, %d: no answer fits", it.MaxLength, it.MinLength)
	}
	if it.MaxPicked > 0 && it.MaxPicked < it.MinPicked {
		senseless("max_picked", "at most %d and at least %d picks: no answer fits", it.MaxPicked, it.MinPicked)
	}
	if it.Type == form.ChoicesType && it.MinPicked > len(it.all) && it.ChoicesFrom == nil {
		senseless("min_picked", "more picks are asked for, %d, than there are choices, %d", it.MinPicked, len(it.all))
	}
	if it.Pattern != "" {
		re, err := expr.Pattern("^(?:" + it.Pattern + ")$")
		if err != nil {
			// Tried again bare, so that the message shows the author's own pattern.
			if _, bare := expr.Pattern(it.Pattern); bare != nil {
				err = bare
			}
			c.remark("syntax", form.Error, it.at+".pattern", it.Key, "%s", err)
		}
		it.pattern = re
		if it.kind != expr.Text {
			senseless("pattern", "a pattern is for texts, %s is %s", it.Name(), it.Type.Words())
		}
	}
	if it.Type == form.Note && (!it.Required.IsZero() || !it.Locked.IsZero()) {
		senseless("required", "a note is not answered and can’t be required or locked")
	}
	it.constraint = it.min.Kind() != expr.Blank || it.max.Kind() != expr.Blank || it.Step != nil || it.MinLength > 0 || it.MaxLength > 0 ||
		it.MinPicked > 0 || it.MaxPicked > 0 || it.pattern != nil || len(it.Accept) > 0 || it.kind == expr.File
}

func (c *compiler) bound(it *item, property string, b *form.Bound) expr.Value {
	if b == nil {
		return expr.Value{}
	}
	wrong := func(expected string) expr.Value {
		c.remark("wrong-type", form.Error, it.at+"."+property, it.Key, "%s was expected, “%s” was found", expected, b)
		return expr.Value{}
	}
	switch it.Type {
	case form.Number:
		if b.Number != nil {
			return expr.NumberValue(*b.Number)
		}
		if n, err := expr.ParseNumber(b.Text); err == nil {
			return expr.NumberValue(n)
		}
		return wrong("a number")
	case form.Date:
		if d, ok := expr.ParseDay(b.Text); ok {
			return expr.DayValue(d)
		}
		return wrong("a date such as 2026-05-30")
	case form.Time:
		if sec, ok := expr.ParseTime(b.Text); ok {
			return expr.TimeValue(sec)
		}
		return wrong("a time such as 18:00")
	case form.MonthDay:
		if s, ok := monthDay(b.Text); ok {
			return expr.TextValue(s)
		}
		return wrong("a month and day such as 05-30")
	}
	c.remark("senseless", form.Warning, it.at+"."+property, it.Key, "%s has no least or greatest value", it.Type.Words())
	return expr.Value{}
}

// below orders two values of the same kind, as constraints need it.
func below(a, b *expr.Value) bool {
	switch a.Kind() {
	case expr.Num:
		return a.Number().Cmp(b.Number()) < 0
	case expr.Text:
		return a.Text() < b.Text()
	}
	return a.Unix() < b.Unix() // dates and times share the integer
}
