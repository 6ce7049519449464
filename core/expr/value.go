package expr

import (
	"encoding/json"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/cockroachdb/apd/v3"
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
	Grid
	Group
	Column
)

var kindNames = [...]string{
	"nothing", "a text", "a number", "a yes or no", "a date", "a time", "a moment", "a length of time", "a choice",
	"a set of choices", "an address", "a file", "a grid", "a repeating section", "one answer per row",
}

// String returns the kind with its article, as it stands in messages.
func (k Kind) String() string { return kindNames[k] }

// Value is an answer or a result. The zero Value is blank. It is small, since a
// run of a large form reads and writes many.
type Value struct {
	kind  Kind
	scale uint8 // Num: its Number.scale
	// Num: its Number.coef; YesNo 0 or 1; Date in days; Time in seconds; Moment in Unix seconds;
	// Duration in seconds
	i    int64
	s    string // Text, Choice
	more *more  // what only some values have
}

// more is the part of a value that few values have.
type more struct {
	fold   string       // Text, Choice: s as compared, unless that is s itself
	big    *apd.Decimal // Num that is too long for coef
	span   span         // Duration
	values []string     // Choices, and as compared
	folds  []string
	parts  Parts  // Address, File
	other  string // Choice, Choices: what was written for the choice that brings a text
	of     string // and which choice that is
	cells  []Cell // Grid
}

// span is the calendar part of a duration.
type span struct{ months, days int32 }

func (v *Value) num() Number {
	n := Number{coef: v.i, scale: v.scale}
	if v.more != nil {
		n.big = v.more.big
	}
	return n
}

// folded is the text of a Text or Choice as it is compared.
func (v *Value) folded() string {
	if v.more != nil {
		return v.more.fold
	}
	return v.s
}

func (v *Value) span() span {
	if v.more == nil {
		return span{}
	}
	return v.more.span
}

// textOf is a value of kind Text or Choice.
func textOf(k Kind, s string) Value {
	v := Value{kind: k, s: s}
	if f := Fold(s); f != s {
		v.more = &more{fold: f}
	}
	return v
}

// Cell is the answer in one row of a grid.
type Cell struct {
	Row   string
	Value Value
}

// GridValue returns the answered cells of a grid in the order of its rows, or blank if
// there are none.
func GridValue(cells []Cell) Value {
	if len(cells) == 0 {
		return Value{}
	}
	return Value{kind: Grid, more: &more{cells: cells}}
}

// Cells are the answered rows of a grid, in their order.
func (v *Value) Cells() []Cell {
	if v.kind != Grid {
		return nil
	}
	return v.more.cells
}

// Cell is the answer in one row of a grid, blank if there is none.
func (v *Value) Cell(row string) Value {
	for _, c := range v.Cells() {
		if c.Row == row {
			return c.Value
		}
	}
	return Value{}
}

// WithOther returns a choice, or several, with what was written for the one that brings a
// text of its own.
func (v Value) WithOther(of, text string) Value {
	m := more{}
	if v.more != nil {
		m = *v.more
	} else {
		m.fold = v.s
	}
	m.other, m.of = Clean(text), of
	v.more = &m
	return v
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
	ascii, lower := true, true
	for i := 0; i < len(s) && ascii; i++ {
		c := s[i]
		ascii = c < utf8.RuneSelf
		lower = lower && (c < 'A' || c > 'Z')
	}
	switch {
	case ascii && lower:
		return s
	case ascii:
		return strings.ToLower(s)
	}
	return norm.NFC.String(cases.Fold().String(norm.NFD.String(Clean(s))))
}

// TextValue returns a text as Clean keeps it, or blank if nothing is left.
func TextValue(s string) Value {
	s = Clean(s)
	if s == "" {
		return Value{}
	}
	return textOf(Text, s)
}

// NumberValue returns a number.
func NumberValue(n Number) Value {
	v := Value{kind: Num, i: n.coef, scale: n.scale}
	if n.big != nil {
		v.more = &more{big: n.big}
	}
	return v
}

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
func ChoiceValue(s string) Value { return textOf(Choice, s) }

// ChoicesValue returns a set of picks, which may be empty; the slice is kept.
func ChoicesValue(values []string) Value {
	if values == nil {
		values = []string{}
	}
	m := &more{values: values, folds: make([]string, len(values))}
	for i, v := range values {
		m.folds[i] = Fold(v)
	}
	return Value{kind: Choices, more: m}
}

// PartsValue returns an address or a file, or blank if every part is empty.
func PartsValue(k Kind, parts Parts) Value {
	for _, p := range parts {
		if p.Text != "" {
			return Value{kind: k, more: &more{parts: parts}}
		}
	}
	return Value{}
}

// Kind returns the kind of v.
func (v *Value) Kind() Kind { return v.kind }

// IsBlank reports whether v counts as not answered: blank, or an empty set.
func (v *Value) IsBlank() bool {
	return v.kind == Blank || (v.kind == Choices && len(v.more.values) == 0)
}

// Other returns what was written for the choice that brings a text of its own.
func (v *Value) Other() string {
	if v.more == nil {
		return ""
	}
	return v.more.other
}

// Text returns the text of a Text or the value of a Choice, else "".
func (v *Value) Text() string { return v.s }

// Picks returns the picked values of Choices, in order; callers must not change them.
func (v *Value) Picks() []string {
	if v.kind != Choices {
		return nil
	}
	return v.more.values
}

// Holds reports whether v is the choice with that value, or a set in which it is.
func (v *Value) Holds(value string) bool {
	switch v.kind {
	case Choice:
		return v.s == value
	case Choices:
		return slices.Contains(v.more.values, value)
	}
	return false
}

// Number returns the number of a Num.
func (v *Value) Number() Number {
	if v.kind != Num {
		return Number{}
	}
	return v.num()
}

// Yes reports whether v is a yes.
func (v *Value) Yes() bool { return v.kind == YesNo && v.i == 1 }

// Day returns the date of a Date.
func (v *Value) Day() Day { return Day(v.i) }

// Unix returns the instant of a Moment in seconds.
func (v *Value) Unix() int64 { return v.i }

// Parts returns the parts of an Address or File.
func (v *Value) Parts() Parts {
	if v.kind != Address && v.kind != File {
		return nil
	}
	return v.more.parts
}

// JSON returns the value as it is written in JSON, with loc as the zone of moments.
func (v *Value) JSON(loc *time.Location) any {
	switch v.kind {
	case Text:
		return v.s
	case Choice:
		return v.pick(v.s)
	case Grid:
		out := map[string]any{}
		for _, c := range v.more.cells {
			out[c.Row] = c.Value.JSON(loc)
		}
		return out
	case Num:
		return json.Number(v.num().String())
	case YesNo:
		return v.i == 1
	case Date:
		return Day(v.i).String()
	case Time:
		return timeText(v.i)
	case Moment:
		return time.Unix(v.i, 0).In(loc).Format(time.RFC3339)
	case Choices:
		if v.more.other == "" {
			return v.more.values
		}
		out := make([]any, len(v.more.values))
		for i, pick := range v.more.values {
			out[i] = v.pick(pick)
		}
		return out
	case Address, File:
		out := map[string]string{}
		for _, p := range v.more.parts {
			if p.Text != "" {
				out[p.Name] = p.Text
			}
		}
		return out
	}
	return nil
}

// pick is a picked value as it is written in JSON: with its text, if it brings one.
func (v *Value) pick(value string) any {
	if v.more == nil || v.more.other == "" || v.more.of != value {
		return value
	}
	return map[string]string{"value": value, "text": v.more.other}
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
		return v.num().String()
	case Choices:
		return strings.Join(v.more.values, ", ")
	case Grid:
		parts := make([]string, len(v.more.cells))
		for i, c := range v.more.cells {
			parts[i] = c.Row + ": " + c.Value.Plain(loc)
		}
		return strings.Join(parts, "; ")
	case Moment:
		return time.Unix(v.i, 0).In(loc).Format("2006-01-02 15:04")
	case Address, File:
		var parts []string
		for _, p := range v.more.parts {
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
		return v.num().Cmp(w.num()) == 0
	case Grid:
		return slices.EqualFunc(v.Cells(), w.Cells(),
			func(a, b Cell) bool { return a.Row == b.Row && a.Value.Same(&b.Value) })
	case Choices:
		a, b := v.Picks(), w.Picks()
		if len(a) != len(b) || v.Other() != w.Other() {
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
	return v.i == w.i && v.s == w.s && v.span() == w.span() && v.Other() == w.Other()
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
