package engine

import (
	"fmt"

	"lazo/core/expr"
	"lazo/core/form"
)

// constraints compiles the fixed limits of an item's answer and remarks on
// those that make no sense.
func (c *compiler) constraints(it *item) {
	senseless := func(property, format string, args ...any) {
		c.remark("senseless", form.Warning, it.at+"."+property, it.Key, format, args...)
	}
	b := &it.bounds
	if it.Type == form.Scale {
		one := expr.NumberValue(expr.Int(1))
		b.min, b.max, b.step = bound{fixed: one}, bound{fixed: expr.NumberValue(expr.Int(5))}, bound{fixed: one}
	}
	for _, named := range it.Bounds() {
		*b.boundOf(named.Property) = c.bound(it, named)
	}
	if below(&b.max.fixed, &b.min.fixed) {
		senseless("max", "the greatest, %s, is under the least, %s: no answer fits", it.Max, it.Min)
	}
	if b.step.fixed.Kind() == expr.Num && b.step.fixed.Number().Sign() <= 0 {
		senseless("step", "a step is greater than 0")
	}
	if below(&b.maxLength.fixed, &b.minLength.fixed) {
		senseless("max_length", "the greatest length, %s, is under the least, %s: no answer fits", it.MaxLength, it.MinLength)
	}
	if below(&b.maxPicked.fixed, &b.minPicked.fixed) {
		senseless("max_picked", "at most %s and at least %s picks: no answer fits", it.MaxPicked, it.MinPicked)
	}
	all := expr.NumberValue(expr.Int(int64(len(it.all))))
	if it.Type == form.ChoicesType && it.ChoicesFrom == nil && below(&all, &b.minPicked.fixed) {
		senseless("min_picked", "more picks are asked for, %s, than there are choices, %d", it.MinPicked, len(it.all))
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
	it.constraint = len(it.Bounds()) > 0 || it.Type == form.Scale || it.Type == form.Ranking || it.otherChoice() != "" ||
		it.pattern != nil || len(it.Accept) > 0 || it.kind == expr.File
}

// bounds are the least and greatest values of an answer.
type bounds struct{ min, max, step, minLength, maxLength, minPicked, maxPicked bound }

// bound is a fixed value or an expression; the zero bound does not bound.
type bound struct {
	fixed expr.Value
	code  *expr.Code
}

func (b *bounds) boundOf(property string) *bound {
	return map[string]*bound{
		"min": &b.min, "max": &b.max, "step": &b.step, "min_length": &b.minLength, "max_length": &b.maxLength,
		"min_picked": &b.minPicked, "max_picked": &b.maxPicked,
	}[property]
}

var bounding = map[form.Type]struct {
	kind expr.Kind
	such string // an example in a message
}{
	form.Number: {expr.Num, "a number"}, form.Date: {expr.Date, "a date such as 2026-05-30"},
	form.Scale: {expr.Num, "a whole number"},
	form.Time:  {expr.Time, "a time such as 18:00"}, form.MonthDay: {expr.Text, "a month and day such as 05-30"},
}

func (c *compiler) bound(it *item, named form.NamedBound) bound {
	want := bounding[it.Type]
	if named.Property != "min" && named.Property != "max" {
		want.kind, want.such = expr.Num, "a number"
	}
	if want.kind == expr.Blank {
		c.remark("senseless", form.Warning, it.at+"."+named.Property, it.Key, "%s has no least or greatest value",
			it.Type.Words())
		return bound{}
	}
	if v, ok := fixedBound(it.Type, want.kind, named.Bound); ok {
		return bound{fixed: v}
	}
	wrong := func(found any) bound {
		c.remark("wrong-type", form.Error, it.at+"."+named.Property, it.Key, "%s was expected, “%s” was found", want.such,
			found)
		return bound{}
	}
	if named.Expr() == "" {
		return wrong(named.Bound)
	}
	// A hidden answer that is kept counts only as long as it fits.
	pl := place{it.at + "." + named.Property, it.Key, stepOf(it), it.WhenHidden == "keep"}
	code := c.compile(named.Expr(), pl, c.scope(it), false)
	switch {
	case code == nil:
		return bound{}
	case code.Type.Kind != want.kind && code.Type.Kind != expr.Blank:
		return wrong(fmt.Sprintf("%s, which is %s,", named.Expr(), code.Type.Kind))
	case code.Constant():
		return bound{fixed: code.Value(c.still())}
	}
	return bound{code: code}
}

// fixedBound is a bound that is written out as a value.
func fixedBound(t form.Type, kind expr.Kind, b *form.Bound) (expr.Value, bool) {
	if b.Number != nil {
		return expr.NumberValue(*b.Number), kind == expr.Num
	}
	switch kind {
	case expr.Num:
		n, err := expr.ParseNumber(b.Text)
		return expr.NumberValue(n), err == nil
	case expr.Date:
		d, ok := expr.ParseDay(b.Text)
		return expr.DayValue(d), ok
	case expr.Time:
		sec, ok := expr.ParseTime(b.Text)
		return expr.TimeValue(sec), ok
	}
	s, ok := monthDay(b.Text)
	return expr.TextValue(s), ok && t == form.MonthDay
}

// below orders two values of the same kind, as bounds need it; nothing is below a blank.
func below(a, b *expr.Value) bool {
	if a.Kind() != b.Kind() {
		return false
	}
	switch a.Kind() {
	case expr.Blank:
		return false
	case expr.Num:
		return a.Number().Cmp(b.Number()) < 0
	case expr.Text:
		return a.Text() < b.Text()
	}
	return a.Unix() < b.Unix() // dates and times share the integer
}
