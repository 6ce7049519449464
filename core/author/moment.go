package author

import (
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// SetLetterMoment says when a letter goes, by pointing: at once, or so long before or after
// what was answered to a question.
type SetLetterMoment struct {
	Letter string `form:"letter"` // its key
	When   string `form:"when"`   // "" for at once, or before, on or after
	Count  string `form:"count"`  // how many of the unit
	Unit   string `form:"unit"`   // days, weeks or months
	Of     string `form:"of"`     // the key of a date or moment, "" while it is still to be said
}

// LetterMoment is when a letter goes, as far as that can be said by pointing; ok is false
// for what has to be written.
func LetterMoment(f *form.Form, at string) (m SetLetterMoment, ok bool) {
	if at == "" {
		return m, true
	}
	n, err := expr.Parse(at)
	if err != nil {
		return m, false
	}
	m.When = "on"
	if shift, is := n.(*expr.Arith); is {
		lit, long := shift.R.(*expr.Literal)
		if !long || lit.Kind != expr.Duration || lit.Unit == "hours" || lit.Unit == "minutes" || lit.Unit == "years" {
			return m, false
		}
		m.When = map[string]string{"-": "before", "+": "after"}[shift.Op]
		m.Count, m.Unit, n = lit.Num.String(), lit.Unit, shift.L
	}
	switch n := n.(type) {
	case *expr.Gap:
		return m, true
	case *expr.Name:
		m.Of = n.Name
		for _, it := range Moments(f) {
			if it.Key == n.Name {
				return m, true
			}
		}
	}
	return m, false
}

// Moments are the questions that are answered once by a date: what a letter can go before
// or after.
func Moments(f *form.Form) (out []*form.Item) {
	for p := range f.Places() {
		if p.Item.Type == form.Date && p.Section.Repeat == nil {
			out = append(out, p.Item)
		}
	}
	return out
}

func (c SetLetterMoment) Do(f *form.Form, now time.Time) (Doing, error) {
	set := SetLetter{Letter: c.Letter, Property: "at"}
	if c.When == "" {
		return set.Do(f, now)
	}
	of := strings.TrimSpace(c.Of)
	if of == "" {
		of = expr.GapSign
	}
	set.Value = of
	if c.When == "before" || c.When == "after" {
		count := strings.TrimSpace(c.Count)
		if count == "" {
			count = "3"
		}
		n, err := engine.NumbersOf(f.Language).Read(count)
		if whole, ok := n.Whole(); err != nil || !ok || whole < 0 {
			return Doing{At: LetterAt(c.Letter)}, misfit("a whole number of days was expected, “%s” was found", c.Count)
		}
		unit := c.Unit
		if unit != "weeks" && unit != "months" {
			unit = "days"
		}
		set.Value += map[string]string{"before": " - ", "after": " + "}[c.When] + n.String() + " " + unit
	}
	return set.Do(f, now)
}
