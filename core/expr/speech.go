package expr

import (
	"slices"
	"strings"
	"time"
)

// Speech says values as people of a language read them.
type Speech interface {
	Number(n Number) string
	Day(d Day) string
	Time(sec int64) string
	Moment(d Day, sec int64) string
	YesNo(yes bool) string
	List(words []string) string // "a, b and c"
	Weekday(d time.Weekday) string
	MonthDay(month, day int) string
	Country(code string) string // what is no code stays as it is
	Mode(mode string) string    // who fills the form in
}

// Reads is what a text is that people read otherwise than it is written down.
type Reads uint8

// What a text is.
const (
	AsWritten  Reads = iota
	AsMonthDay       // --05-30
	AsCountry        // a code of two letters
)

// spoken is a text as people read it.
func (t Type) spoken(v *Value, s Speech) string {
	switch t.Reads {
	case AsMonthDay:
		if at, err := time.Parse("01-02", v.s); err == nil {
			return s.MonthDay(int(at.Month()), at.Day())
		}
	case AsCountry:
		return s.Country(v.s)
	}
	return v.s
}

// named are the values of a choice that is none of the form's: the days of the week, and who
// fills it in; nil for all others.
func (t Type) named(v *Value, s Speech) []string {
	if s == nil || v.kind != Choice {
		return nil
	}
	switch t.Options {
	case weekdayOptions:
		return []string{s.Weekday(time.Weekday(slices.Index(weekdayNames[:], v.s)))}
	case modeOptions:
		return []string{s.Mode(v.s)}
	}
	return nil
}

// grid is what was picked in the rows of a grid, by their labels.
func (t Type) grid(v *Value, s Speech) string {
	var out []string
	for _, c := range v.Cells() {
		row := c.Row
		if t.Options != nil && t.Options.Lines[c.Row] != "" {
			row = t.Options.Lines[c.Row]
		}
		out = append(out, row+": "+t.label(&c.Value, s))
	}
	return strings.Join(out, ", ")
}

// Decimals is how many decimals of a number are printed at most.
const Decimals = 10

// printed is a number as it is printed.
func (n Number) printed() Number { return n.Round(Decimals) }

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
	if named := t.named(v, s); named != nil {
		words = named
	}
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
func (t Type) Speak(v *Value, f *Evaluation) string {
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
		return s.Number(v.num().printed())
	case Text:
		return t.spoken(v, s)
	case Grid:
		return t.grid(v, s)
	case YesNo:
		return s.YesNo(v.i == 1)
	case Time:
		return s.Time(v.i)
	}
	return t.joined(v, f)
}

// joined says a value as join does: choices by label, dates as people read them, and
// numbers in plain digits.
func (t Type) joined(v *Value, f *Evaluation) string {
	switch v.kind {
	case Choice, Choices:
		if named := t.named(v, f.Speech); named != nil {
			return named[0]
		}
		return strings.Join(t.labels(v), ", ")
	case Grid:
		return t.grid(v, f.Speech)
	case Num:
		return v.num().printed().String()
	case Text:
		if f.Speech != nil {
			return t.spoken(v, f.Speech)
		}
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
