package expr

import "strings"

// Speech says values as people of a language read them.
type Speech interface {
	Number(n Number) string
	Day(d Day) string
	Time(sec int64) string
	Moment(d Day, sec int64) string
	YesNo(yes bool) string
	List(words []string) string // "a, b and c"
}

// labels are the labels of picks, in their order; what was written for the choice that
// brings a text follows its label.
func (t Type) labels(v *Value) []string {
	picks := v.Picks()
	if v.kind == Choice {
		picks = []string{v.s}
	}
	out := make([]string, len(picks))
	for i, p := range picks {
		out[i] = p
		if t.Options == nil {
			continue
		}
		if at, ok := t.Options.Find(p); ok {
			out[i] = t.Options.Labels[at]
			if other := v.Other(); other != "" && p == t.Options.Other {
				out[i] += ": " + other
			}
		}
	}
	return out
}

// label is a choice, or several, as people read it.
func (t Type) label(v *Value, s Speech) string {
	words := t.labels(v)
	if s == nil || len(words) < 2 {
		return strings.Join(words, ", ")
	}
	return s.List(words)
}

// stored is a choice by its value, several with commas.
func (v *Value) stored() string {
	if v.kind == Choices {
		return strings.Join(v.Picks(), ", ")
	}
	return v.s
}

// Speak says a value as people read it in a language; a blank is nothing.
func (t Type) Speak(v *Value, f *Frame) string {
	s := f.Speech
	if s == nil {
		return t.Say(v, f)
	}
	switch v.kind {
	case Blank:
		return ""
	case Choice, Choices:
		return t.label(v, s)
	case Num:
		return s.Number(v.num())
	case YesNo:
		return s.YesNo(v.i == 1)
	case Time:
		return s.Time(v.i)
	}
	return t.joined(v, f)
}

// joined says a value as join does: choices by label, dates as people read them, and
// numbers in plain digits.
func (t Type) joined(v *Value, f *Frame) string {
	switch v.kind {
	case Choice, Choices:
		return strings.Join(t.labels(v), ", ")
	case Date:
		if f.Speech != nil {
			return f.Speech.Day(Day(v.i))
		}
		return dayWords(Day(v.i))
	case Moment:
		c := ClockAt(v.i, f.Clock.loc)
		if f.Speech != nil {
			return f.Speech.Moment(c.day, c.sec)
		}
		return dayWords(c.day) + ", " + timeText(c.sec)
	case YesNo:
		if f.Speech != nil {
			return f.Speech.YesNo(v.i == 1)
		}
	}
	return v.Plain(f.Clock.loc)
}
