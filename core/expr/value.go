package expr

import (
	"encoding/json"
	"strings"
	"time"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Kind is the kind of a value.
type Kind uint8

// The kinds of values. Group and Column occur only as static types: a repeating
// section, and one question over all its rows.
const (
	Blank Kind = iota
	Text
	Num
	YesNo
	Date
	Time
	Moment
	Duration
	Choice
	Choices
	Address
	File
	Group
	Column
)

var kindNames = [...]string{"nothing", "a text", "a number", "a yes or no", "a date", "a time", "a moment", "a length of time", "a choice", "a set of choices", "an address", "a file", "a repeating section", "one answer per row"}

// String returns the kind with its article, as it stands in messages.
func (k Kind) String() string { return kindNames[k] }

// Value is an answer or a result. The zero Value is blank.
type Value struct {
	kind Kind
	num  Number // Num
	i    int64  // YesNo 0 or 1; Date in days; Time in seconds; Moment in Unix seconds; Duration in seconds
	span span   // Duration
	s    string // Text, Choice
	fold string // s as compared
	x    any    // Choices: *picks; Address, File: *Parts
}

// span is the calendar part of a duration.
type span struct{ months, days int32 }

type picks struct {
	values, folds []string
}

// Part is a named part of an address or a file.
type Part struct{ Name, Text string }

// Parts are the named parts of an address or a file in their order.
type Parts []Part

// Get returns the part with that name, or "".
func (p Parts) Get(name string) string {
	for _, part := range p {
		if part.Name == name {
			return part.Text
		}
	}
	return ""
}

// Fold returns s as text comparison sees it: without surrounding blanks, with
// full Unicode case folding, in normalization form C (Unicode 15, D145).
func Fold(s string) string {
	s = strings.TrimSpace(s)
	plain := true
	for i := 0; i < len(s); i++ {
		if c := s[i]; c >= utf8.RuneSelf || (c >= 'A' && c <= 'Z') {
			plain = false
			break
		}
	}
	if plain {
		return s
	}
	return norm.NFC.String(cases.Fold().String(norm.NFD.String(s)))
}

// TextValue returns a text without its surrounding blanks, or blank if nothing is left.
func TextValue(s string) Value {
	s = strings.TrimSpace(s)
	if s == "" {
		return Value{}
	}
	return Value{kind: Text, s: s, fold: Fold(s)}
}

// NumberValue returns a number.
func NumberValue(n Number) Value { return Value{kind: Num, num: n} }

// YesNoValue returns a truth value.
func YesNoValue(b bool) Value {
	v := Value{kind: YesNo}
	if b {
		v.i = 1
	}
	return v
}

// DayValue returns a date.
func DayValue(d Day) Value { return Value{kind: Date, i: int64(d)} }

// TimeValue returns a time of day in seconds after midnight.
func TimeValue(sec int) Value { return Value{kind: Time, i: int64(sec)} }

// MomentValue returns an instant in Unix seconds.
func MomentValue(unix int64) Value { return Value{kind: Moment, i: unix} }

// ChoiceValue returns one choice's value.
func ChoiceValue(s string) Value { return Value{kind: Choice, s: s, fold: Fold(s)} }

// ChoicesValue returns a set of picks, which may be empty; the slice is kept.
func ChoicesValue(values []string) Value {
	if values == nil {
		values = []string{}
	}
	p := &picks{values: values, folds: make([]string, len(values))}
	for i, v := range values {
		p.folds[i] = Fold(v)
	}
	return Value{kind: Choices, x: p}
}

// PartsValue returns an address or a file, or blank if every part is empty.
func PartsValue(k Kind, parts Parts) Value {
	for _, p := range parts {
		if p.Text != "" {
			return Value{kind: k, x: &parts}
		}
	}
	return Value{}
}

// Kind returns the kind of v.
func (v *Value) Kind() Kind { return v.kind }

// IsBlank reports whether v counts as not answered: blank, or an empty set.
func (v *Value) IsBlank() bool {
	return v.kind == Blank || (v.kind == Choices && len(v.x.(*picks).values) == 0)
}

// Text returns the text of a Text or the value of a Choice, else "".
func (v *Value) Text() string { return v.s }

// Picks returns the picked values of Choices, in order; callers must not change them.
func (v *Value) Picks() []string {
	if v.kind != Choices {
		return nil
	}
	return v.x.(*picks).values
}

// Number returns the number of a Num.
func (v *Value) Number() Number { return v.num }

// Yes reports whether v is a yes.
func (v *Value) Yes() bool { return v.kind == YesNo && v.i == 1 }

// Day returns the date of a Date.
func (v *Value) Day() Day { return Day(v.i) }

// Unix returns the instant of a Moment in seconds.
func (v *Value) Unix() int64 { return v.i }

// Parts returns the parts of an Address or File.
func (v *Value) Parts() Parts {
	if p, ok := v.x.(*Parts); ok {
		return *p
	}
	return nil
}

// JSON returns the value as it is written in JSON, with loc as the zone of moments.
func (v *Value) JSON(loc *time.Location) any {
	switch v.kind {
	case Text, Choice:
		return v.s
	case Num:
		return json.Number(v.num.String())
	case YesNo:
		return v.i == 1
	case Date:
		return Day(v.i).String()
	case Time:
		return timeText(v.i)
	case Moment:
		return time.Unix(v.i, 0).In(loc).Format(time.RFC3339)
	case Choices:
		return v.x.(*picks).values
	case Address, File:
		out := map[string]string{}
		for _, p := range *v.x.(*Parts) {
			if p.Text != "" {
				out[p.Name] = p.Text
			}
		}
		return out
	}
	return nil
}

// Plain returns the value as a person reads it in plain text; choices by value.
func (v *Value) Plain(loc *time.Location) string {
	switch v.kind {
	case YesNo:
		if v.i == 1 {
			return "yes"
		}
		return "no"
	case Num:
		return v.num.String()
	case Choices:
		return strings.Join(v.x.(*picks).values, ", ")
	case Moment:
		return time.Unix(v.i, 0).In(loc).Format("2006-01-02 15:04")
	case Address, File:
		var parts []string
		for _, p := range *v.x.(*Parts) {
			if p.Text != "" {
				parts = append(parts, p.Text)
			}
		}
		return strings.Join(parts, ", ")
	case Text, Choice:
		return v.s
	case Date:
		return Day(v.i).String()
	case Time:
		return timeText(v.i)
	}
	return ""
}

// Same reports whether two values are stored alike, letter case included.
func (v *Value) Same(w *Value) bool {
	if v.kind != w.kind {
		return false
	}
	switch v.kind {
	case Num:
		return v.num.Cmp(w.num) == 0
	case Choices:
		a, b := v.Picks(), w.Picks()
		if len(a) != len(b) {
			return false
		}
		for i := range a {
			if a[i] != b[i] {
				return false
			}
		}
		return true
	case Address, File:
		a, b := v.Parts(), w.Parts()
		if len(a) != len(b) {
			return false
		}
		for i := range a {
			if a[i] != b[i] {
				return false
			}
		}
		return true
	}
	return v.i == w.i && v.s == w.s && v.span == w.span
}

// Truth is the value of a condition.
type Truth uint8

// The three values of a condition. The zero value is Undecided.
const (
	Undecided Truth = iota
	NotMet
	Met
)

func (t Truth) String() string { return [...]string{"undecided", "not met", "met"}[t] }

func truthOf(b bool) Truth {
	if b {
		return Met
	}
	return NotMet
}

func (t Truth) not() Truth {
	switch t {
	case Met:
		return NotMet
	case NotMet:
		return Met
	}
	return Undecided
}

func (t Truth) value() Value {
	if t == Undecided {
		return Value{}
	}
	return YesNoValue(t == Met)
}
