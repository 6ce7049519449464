// Package engine decides: which items of a form are shown, required and locked,
// what their values are, which choices are on offer, what is accepted and what
// is stored.
//
// [Compile] turns a form into a [Program], checking every expression in it, or
// returns the remarks that say why it can't. A Program is immutable and safe
// for use by many goroutines. [Program.Run] takes all that a decision needs, the
// answers, the address parameters, the moment, the mode and prior answers, and
// returns an [Outcome], which can say why it came out so ([Outcome.Why]).
//
// A run visits pages, sections and items in the order of their dependency, each
// once; a second pass adds what no other item can depend on: required status,
// problems and wording.
package engine

import (
	"regexp"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

// Mode says who fills the form in.
type Mode string

// The modes: a first filling, a respondent who returns to a response, and
// someone of the workspace.
const (
	New     Mode = "new"
	Revisit Mode = "revisit"
	Staff   Mode = "staff"
)

// Known reports whether m is one of the modes.
func (m Mode) Known() bool { return m == New || m == Revisit || m == Staff }

// Program is a compiled form.
type Program struct {
	Form *form.Form
	// Symbols are the names that the form's expressions use, with their types.
	Symbols *expr.Symbols

	loc      *time.Location
	reading  reading // how numbers and phone numbers are written
	pages    []page
	sections []section
	groups   []group
	items    []*item // in the order of the form
	bySlot   []*item // the scalar items that have a value
	order    []step
	codes    int  // how many expressions were compiled
	written  int  // their characters
	recalls  bool // a change of a response asks what the expressions gave on the answers before
	clocked  bool
	modal    bool // an expression names the mode
	drivers  map[string]bool

	from, until *int64 // the opening
	hours       *hours // within it, or nil
	openIf      rule
	changeUntil *int64 // how long what was sent can be changed, or nil
	ends        []condition
	messages    []letter
	hooks       []condition // with a nil code for one that is always met
	sends       bool        // something can go out
	confirmBy   *expr.Code  // until when an address is to be confirmed that is given now

	scalars  int // items outside repeating sections
	openings *form.Opening
	lookup   map[string]*item
	columns  map[string]map[string]*expr.Symbol // of each list

	speech       expr.Speech                // how values are read out
	texts        map[textKey]*text.Compiled // those in which answers stand
	outside      map[textKey]*text.Compiled // and those of them that leave, without what is sensitive
	clockedTexts bool                       // whether any of them depends on the clock
	limited      bool                       // whether any choice has places
	checked      bool                       // whether any section or page has checks
	sensitive    map[string]bool            // see [form.Form.Sensitive]
	later        bool                       // whether any check names a question of a later page
}

// condition is a compiled condition: the code explains it, the test decides it.
type condition struct {
	code    *expr.Code
	test    expr.Test
	clocked bool // whether it depends on the clock
}

// rule is a compiled form.Rule.
type rule struct {
	fixed, yes bool
	condition
}

type page struct {
	*form.Page
	shown  rule
	next   []nextPage
	checks []check
}

type nextPage struct {
	condition
	page int
}

type section struct {
	*form.Section
	page   int
	shown  rule
	checks []check // of each row, if it repeats
	number int
	group  int // -1 unless it repeats
	items  []*item
}

type group struct {
	section int
	rows    *expr.Code
	items   []*item // all items, notes too; their index is the column of states
	width   int     // number of values in a row
	sends   bool    // whether a condition reads its answers as they were sent
	symbol  *expr.GroupSymbol
}

// item is laid out for the run: what every visit reads stands together in front.
type item struct {
	*form.Item
	number  int32 // among all items
	section int32
	group   int32 // -1 outside repeating sections
	index   int32 // of its state: among the scalar items, or within a row
	slot    int32 // of its value, -1 for notes

	kind       expr.Kind
	plain      bool // locked is never met and no value comes by itself
	part       bool // shown is always met
	tick       bool // it is a tick box
	offers     bool // whether what is on offer can vary
	constraint bool // whether any constraint has to be tested
	textual    bool // whether answers stand in any of its texts
	limited    bool // whether any of its choices has places
	shared     bool // whether its choices come from a list of the workspace

	shown, required rule
	checks          []check
	wording         []condition

	all      []string // the values of all choices, in order
	options  *expr.Options
	property string // of its value: starts, follows, is or ""
	once     bool   // an is that is kept once it was decided
	value    *expr.Code
	when     *condition // of the value, or nil
	locked   rule

	offered, withheld rule     // with choice bound
	choices           []choice // nil if none has a tie of its own
	limits            []bound  // the places of each of all choices, nil for none
	rows              []rule   // of a grid: whether each is shown
	entries           [][]expr.Value
	where             *condition // of the list's entries, or nil
	narrow            *narrow    // which of them can meet it at all, or nil for any

	pattern *regexp.Regexp
	bounds  bounds

	at     string
	symbol *expr.Symbol
}

type choice struct{ offered, withheld rule }

type check struct {
	condition
	message string
	later   []*item // that it names on later pages, outside rows, in the order of the form
}

// step is one visit of a run.
type step struct {
	kind stepKind
	at   int // the page, section, group or item
}

type stepKind uint8

const (
	stepRoute   stepKind = iota // is the page on the route?
	stepExit                    // which page comes next?
	stepSection                 // is the section shown?
	stepRows                    // how many rows?
	stepItem
)

// Item is the definition of the item with that key, or nil.
func (p *Program) Item(key string) *form.Item {
	if it := p.lookup[key]; it != nil {
		return it.Item
	}
	return nil
}

// Location is the form's time zone.
func (p *Program) Location() *time.Location { return p.loc }

// Clocked reports whether anything in the form depends on the clock.
func (p *Program) Clocked() bool { return p.clocked }

// Drives reports whether any condition or value of the form reads the answer to key.
func (p *Program) Drives(key string) bool { return p.drivers[key] }

// Expressions is the number of expressions in the form.
func (p *Program) Expressions() int { return p.codes }

// What parts of a program take in memory, in bytes; BenchmarkBytes compares.
const (
	itemBytes      = 1400
	optionBytes    = 350
	characterBytes = 85 // of an expression
)

// Bytes is about how much memory a program and its form take, but for their texts. It
// is for a cache that is bounded: between half and twice of what is measured.
func (p *Program) Bytes() int {
	options := 0
	for _, it := range p.items {
		options += len(it.all) + len(it.entries)
	}
	for _, list := range p.Form.Lists {
		options += len(list.Entries)
	}
	return len(p.items)*itemBytes + options*optionBytes + p.written*characterBytes
}
