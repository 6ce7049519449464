package expr

import (
	"maps"
	"slices"
	"strings"
	"time"
)

// Type is the static type of an expression.
type Type struct {
	Kind    Kind
	Of      Kind     // Column: the kind of each row's answer
	Options *Options // Choice and Choices: what can be picked, if it is known
	Tick    bool     // YesNo: it is a box that is ticked or not, and never blank
	Reads   Reads    // Text: what it is to people
	Stored  bool     // of a subject: a question of responses, of which it is known whether it was asked
}

// Options are the values that a choice can take.
type Options struct {
	folded         []string // the labels, to be searched
	Values, Labels []string
	Lines          map[string]string // of a grid: what its rows are called, by their keys
	Other          string            // the value of the choice that brings a text of its own, or ""
	index          map[string]int    // folded value to position
	byLabel        map[string]int    // folded label to position
}

// NewOptions indexes values and their labels; of two that text comparison can't
// tell apart the first is found.
func NewOptions(values, labels []string) *Options {
	o := &Options{Values: values, Labels: labels, index: make(map[string]int, len(values)),
		byLabel: make(map[string]int, len(values))}
	for i := range values {
		if f := Fold(values[i]); !has(o.index, f) {
			o.index[f] = i
		}
		f := Fold(labels[i])
		o.folded = append(o.folded, f)
		if !has(o.byLabel, f) {
			o.byLabel[f] = i
		}
	}
	return o
}

// Alias lets Match find the option at i by another label too, unless that is one
// of the labels already.
func (o *Options) Alias(label string, i int) {
	if f := Fold(label); !has(o.byLabel, f) {
		o.byLabel[f] = i
	}
}

func has(m map[string]int, k string) bool { _, ok := m[k]; return ok }

// Find returns the position of the option with that value by text comparison.
func (o *Options) Find(value string) (int, bool) {
	i, ok := o.index[Fold(value)]
	return i, ok
}

// Says reports whether the label of the option at i holds all of some words; they are
// folded.
func (o *Options) Says(i int, words []string) bool {
	for _, w := range words {
		if !strings.Contains(o.folded[i], w) {
			return false
		}
	}
	return true
}

// Match returns the position of the option with that value or, failing that, label.
func (o *Options) Match(text string) (int, bool) {
	f := Fold(text)
	if i, ok := o.index[f]; ok {
		return i, true
	}
	i, ok := o.byLabel[f]
	return i, ok
}

var (
	modeOptions = NewOptions([]string{"new", "revisit", "staff"},
		[]string{"someone for the first time", "someone coming back", "the office"})
	weekdayOptions = NewOptions([]string{"mon", "tue", "wed", "thu", "fri", "sat", "sun"},
		[]string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"})
)

// AddressParts are the parts of an address, in their order.
var AddressParts = []string{"street", "extra", "city", "region", "postcode", "country"}

// Symbol is a key that expressions can use.
type Symbol struct {
	Key, Label string
	Type       Type
	Slot       int          // the place in Frame.Slots, or the column in its group
	Group      *GroupSymbol // the repeating section it is asked in, or nil
	List       *List        // what its choices are drawn from, or nil
	Rows       []string     // of a grid: the keys of its rows
	RowLabels  []string     // and what they are called
	Many       bool         // of a grid: several choices in each row
}

// List is what the choices of a question are drawn from: its columns and, by the folded
// value of the choice, its entries.
type List struct {
	Columns map[string]*Symbol
	Entries map[string][]Value
	Unknown bool // it is one of the workspace that is not at hand; any column may be there
}

// GroupSymbol is a repeating section.
type GroupSymbol struct {
	Key, Label string
	Index      int // the place in Frame.Groups
	Items      map[string]*Symbol
}

// ParamSymbol is an address parameter.
type ParamSymbol struct {
	Slot  int // the place in Frame.Params
	Label string
	Type  Type // Text, Num, Date, YesNo or, of one with values, Choice; with the values that it takes, if not any
}

// Symbols are the names that an expression at some place can use.
type Symbols struct {
	Items        map[string]*Symbol // every question of the form, those in repeating sections too
	Groups       map[string]*GroupSymbol
	Params       map[string]ParamSymbol // the address parameters by name
	Entry        map[string]*Symbol     // columns of the list, inside where only
	Response     []*Symbol              // what is known of a stored response, in a view only
	EntryUnknown bool                   // the list is not at hand; any column may be there
	Candidate    *Type                  // the question's own choices, inside offered and withheld only
	Row          *GroupSymbol           // the section whose row the expression stands in, or nil
	Asker        *GroupSymbol           // inside others: the section whose row asks
	Self         *Symbol                // the question whose tie the expression is, or nil
	Zone         *time.Location
}

// response finds what is known of a stored response by its name; nil if there is none.
func (s *Symbols) response(name string) *Symbol {
	for _, sym := range s.Response {
		if sym.Key == name {
			return sym
		}
	}
	return nil
}

// Repeats reports whether a key is that of a repeating section.
func (s *Symbols) Repeats(key string) bool { return s.Groups[key] != nil }

// InRow returns the symbols as seen from a row of g.
func (s *Symbols) InRow(g *GroupSymbol) *Symbols {
	c := *s
	c.Row = g
	return &c
}

// SeenBy returns the symbols as the ties of one question see them.
func (s *Symbols) SeenBy(sym *Symbol) *Symbols {
	c := *s
	c.Self = sym
	return &c
}

// WithCandidate returns the symbols with choice bound to a candidate of type t.
func (s *Symbols) WithCandidate(t Type) *Symbols {
	c := *s
	c.Candidate = &t
	return &c
}

// WithEntry returns the symbols with entry bound to a list's columns.
func (s *Symbols) WithEntry(columns map[string]*Symbol, unknown bool) *Symbols {
	c := *s
	c.Entry, c.EntryUnknown = columns, unknown
	return &c
}

// Names lists the keys that can stand alone at this place, sorted.
func (s *Symbols) Names() []string {
	var out []string
	for key, sym := range s.Items {
		if sym.Group == nil || sym.Group == s.Row {
			out = append(out, key)
		}
	}
	slices.Sort(out)
	return out
}

// meant returns the name near to a misspelt one, trying keys and then labels.
func (s *Symbols) meant(name string, more ...string) string {
	keys := append(slices.Collect(maps.Keys(s.Items)), slices.Collect(maps.Keys(s.Groups))...)
	if near := Nearest(name, append(keys, more...)); near != "" {
		return near
	}
	byLabel := map[string]string{}
	for _, sym := range s.Items {
		byLabel[sym.Label] = sym.Key
	}
	return byLabel[Nearest(name, slices.Collect(maps.Keys(byLabel)))]
}
