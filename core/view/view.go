// Package view is a way of looking at stored responses: a condition in Lazo's own
// language, columns and an order.
package view

import (
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// View is one way of looking at a form's responses. Columns and Sort are keys: those of
// questions, of repeating sections (the number of their rows), url.NAME and response.NAME.
type View struct {
	When    string   `json:"when,omitempty"`    // "" for all responses
	Columns []string `json:"columns,omitempty"` // their keys, with ~narrow or ~wide behind; nil for the usual ones
	Sort    string   `json:"sort,omitempty"`    // "" for when they were received
	Up      bool     `json:"up,omitempty"`      // the least first, else the greatest
}

// MaxWhen is the greatest length of a view's condition in bytes.
const MaxWhen = 4000

// MaxColumns is the greatest number of columns of a view.
const MaxColumns = 60

// linkFact is where the link stands among what is known of a response.
const linkFact = 3

// Received is the column by which responses are in order unless another is asked for.
const Received = "response.received"

// The states of a response and who it came from, as conditions name them.
const (
	StateReceived  = "received"
	StateChanged   = "changed"
	StateWithdrawn = "withdrawn"
	ByRespondent   = "respondent"
	ByOffice       = "office"
)

// Link is one of the form's links, as a condition names it.
type Link struct {
	ID   int64
	Name string
}

// Lens is a form as its views see it: the newest edition's questions, under which the
// answers of older ones are found by their keys, and what is known of each response. It
// may be used by several goroutines.
type Lens struct {
	Program *engine.Program
	Syms    *expr.Symbols
	Earlier map[string][]string // by key: those that the question had before, the newest first
	// Edition is the program of an edition, nil where there is none; without it nobody knows
	// what a response was asked.
	Edition func(number int) *engine.Program
	slots   int
	mask    Mask            // what is not shown
	ticks   map[string]bool // the tick boxes: one that is not stored is not ticked
}

// NewLens lays a form out for its views.
func NewLens(p *engine.Program, links []Link, earlier map[string][]string) *Lens {
	syms := *p.Symbols
	l := &Lens{Program: p, Syms: &syms, Earlier: earlier, ticks: map[string]bool{}}
	for pl := range p.Form.Places() {
		if pl.Item.Type == form.Tick {
			l.ticks[pl.Item.Key] = true
		}
		if sym := syms.Items[pl.Item.Key]; sym != nil && sym.Group == nil {
			l.slots = max(l.slots, sym.Slot+1)
		}
	}
	options := func(pairs ...string) *expr.Options {
		var values, labels []string
		for i := 0; i < len(pairs); i += 2 {
			values, labels = append(values, pairs[i]), append(labels, pairs[i+1])
		}
		return expr.NewOptions(values, labels)
	}
	var byLink, languages []string
	for _, link := range links {
		byLink = append(byLink, strconv.FormatInt(link.ID, 10), link.Name)
	}
	for _, tag := range p.Form.Languages() {
		languages = append(languages, tag, form.LanguageName(tag))
	}
	for i, fact := range []struct {
		key, label string
		t          expr.Type
	}{
		{"received", "Received", expr.Type{Kind: expr.Moment}},
		{"changed", "Last changed", expr.Type{Kind: expr.Moment}},
		{"edition", "Edition", expr.Type{Kind: expr.Num}},
		{"link", "Link", expr.Type{Kind: expr.Choice, Options: options(byLink...)}},
		{"language", "Language", expr.Type{Kind: expr.Choice, Options: options(languages...)}},
		{"state", "State", expr.Type{Kind: expr.Choice, Options: options(
			StateReceived, "as it was received", StateChanged, "changed since", StateWithdrawn, "withdrawn",
		)}},
		{"by", "Sent by", expr.Type{Kind: expr.Choice,
			Options: options(ByRespondent, "the respondent", ByOffice, "the office")}},
	} {
		syms.Response = append(syms.Response, &expr.Symbol{Key: fact.key, Label: fact.label, Type: fact.t, Slot: l.slots + i})
	}
	return l
}

// Record is a stored response as conditions see it.
type Record struct {
	Answers    map[string]any // see [engine.ParseAnswers]
	Parameters map[string][]string
	Received   time.Time
	Changed    *time.Time
	Edition    int
	Link       int64 // 0 for none
	Language   string
	By         string // ByRespondent or ByOffice
	Withdrawn  bool
}

// Condition is a checked condition of a view.
type Condition struct {
	Node expr.Node
	lens *Lens
	code *expr.Code
}

// Compile checks the condition of a view; nil for none, as for one of which nothing takes
// effect yet since it waits for a value. The error is an [expr.Fault].
func (l *Lens) Compile(when string) (*Condition, error) {
	if strings.TrimSpace(when) == "" {
		return nil, nil
	}
	if len(when) > MaxWhen {
		return nil, &expr.Fault{Kind: "syntax", Text: fmt.Sprintf("it is longer than %d characters", MaxWhen)}
	}
	n, err := expr.Parse(when)
	if err != nil {
		return nil, err
	}
	if faults := expr.CheckBegun(n, l.Syms, true); len(faults) > 0 {
		return nil, faults[0]
	}
	if n = expr.Finished(n); n == nil {
		return nil, nil
	}
	code, faults := expr.CompileCondition(n, l.Syms)
	if len(faults) > 0 {
		return nil, faults[0]
	}
	return &Condition{n, l, code}, nil
}

// Words is the condition as a sentence.
func (c *Condition) Words() []expr.Piece { return c.lens.Syms.Sentence(c.Node) }

// Truth decides the condition on a response at a moment.
func (c *Condition) Truth(r Record, now time.Time) expr.Truth {
	return c.code.Truth(c.lens.frame(r, now))
}

// Clock is the moment as conditions see it.
func (l *Lens) Clock(now time.Time) expr.Clock { return expr.ClockAt(now.Unix(), l.Syms.Zone) }

func (l *Lens) frame(r Record, now time.Time) *expr.Evaluation {
	f := &expr.Evaluation{
		Slots: make([]expr.Value, l.slots+len(l.Syms.Response)), Groups: make([]expr.Rows, len(l.Syms.Groups)),
		Params: make([]expr.Param, len(l.Program.Form.Parameters)), Clock: l.Clock(now), Mode: expr.ChoiceValue("staff"),
	}
	for key, sym := range l.Syms.Items {
		if sym.Group == nil {
			f.Slots[sym.Slot] = l.value(sym, l.answer(r.Answers, key))
		}
	}
	for key, g := range l.Syms.Groups {
		rows, _ := l.answer(r.Answers, key).([]any)
		out := &f.Groups[g.Index]
		out.Count, out.Width = len(rows), len(g.Items)
		out.Cells = make([]expr.Value, out.Count*out.Width)
		for n, row := range rows {
			cells, _ := row.(map[string]any)
			for key, sym := range g.Items {
				out.Cells[n*out.Width+sym.Slot] = l.value(sym, l.answer(cells, key))
			}
		}
		out.Sent = out.Cells
	}
	for name, p := range l.Syms.Params {
		f.Params[p.Slot], _ = p.Read(r.Parameters[name])
	}
	for _, sym := range l.Syms.Response {
		f.Slots[sym.Slot] = r.fact(sym.Key)
	}
	if l.Edition != nil {
		f.Asked = l.asked(r)
	}
	return f
}

// asked tells whether questions were asked of a response: they are answered, or its edition
// shows them with its answers, to who fills it in or to the office.
func (l *Lens) asked(r Record) func(key string) bool {
	at := r.Received
	if r.Changed != nil {
		at = *r.Changed
	}
	outcomes := sync.OnceValue(func() (out []*engine.Outcome) {
		p := l.Edition(r.Edition)
		if p == nil {
			return nil
		}
		for _, mode := range []engine.Mode{engine.New, engine.Staff} {
			out = append(out, p.Run(engine.Input{Record: p.Record(r.Answers), Params: r.Parameters, At: at, Mode: mode}))
		}
		return out
	})
	return func(key string) bool {
		if l.answer(r.Answers, key) != nil {
			return true
		}
		for _, out := range outcomes() {
			for _, was := range append([]string{key}, l.Earlier[key]...) {
				if st := out.State(was, 0); st != nil && st.Shown {
					return true
				}
			}
		}
		return false
	}
}

// answer is what is stored under a key, or under one that the question had before.
func (l *Lens) answer(answers map[string]any, key string) any {
	if v := answers[key]; v != nil {
		return v
	}
	for _, was := range l.Earlier[key] {
		if v := answers[was]; v != nil {
			return v
		}
	}
	return nil
}

// State is the state that the response is in.
func (r Record) State() string {
	switch {
	case r.Withdrawn:
		return StateWithdrawn
	case r.Changed != nil:
		return StateChanged
	}
	return StateReceived
}

// NamesState reports whether the condition itself says which states it is about; a view
// of any other leaves out what was withdrawn. A nil condition says nothing.
func (c *Condition) NamesState() bool {
	names := false
	if c != nil {
		expr.Walk(c.Node, func(n expr.Node) {
			m, is := n.(*expr.Member)
			names = names || is && m.Of == "response" && m.Name == "state"
		})
	}
	return names
}

// fact is what is known of a response.
func (r Record) fact(name string) expr.Value {
	choice := func(s string) expr.Value {
		if s == "" {
			return expr.Value{}
		}
		return expr.ChoiceValue(s)
	}
	switch name {
	case "received":
		return expr.MomentValue(r.Received.Unix())
	case "changed":
		if r.Changed != nil {
			return expr.MomentValue(r.Changed.Unix())
		}
	case "edition":
		return expr.NumberValue(expr.Int(int64(r.Edition)))
	case "link":
		if r.Link != 0 {
			return choice(strconv.FormatInt(r.Link, 10))
		}
	case "language":
		return choice(r.Language)
	case "state":
		return choice(r.State())
	case "by":
		return choice(r.By)
	}
	return expr.Value{}
}

// value reads a stored answer by the type that its question has now; one of another
// type, of an older edition, counts as blank. A tick box that is not stored is not
// ticked.
func (l *Lens) value(sym *expr.Symbol, raw any) expr.Value {
	if l.ticks[sym.Key] && raw == nil {
		return expr.YesNoValue(false)
	}
	switch v := raw.(type) {
	case string:
		return l.readText(sym.Type.Kind, v)
	case json.Number:
		if n, err := expr.ParseNumber(v.String()); err == nil && sym.Type.Kind == expr.Num {
			return expr.NumberValue(n)
		}
	case bool:
		if sym.Type.Kind == expr.YesNo {
			return expr.YesNoValue(v)
		}
	case []any:
		if sym.Type.Kind == expr.Choices {
			return picksOf(v)
		}
	case map[string]any:
		return partsOf(sym, v)
	}
	return expr.Value{}
}

func (l *Lens) readText(kind expr.Kind, s string) expr.Value {
	switch kind {
	case expr.Text:
		return expr.TextValue(s)
	case expr.Choice:
		if s != "" {
			return expr.ChoiceValue(s)
		}
	case expr.Date:
		if d, ok := expr.ParseDay(s); ok {
			return expr.DayValue(d)
		}
	case expr.Time:
		if sec, ok := expr.ParseTime(s); ok {
			return expr.TimeValue(sec)
		}
	case expr.Moment:
		if t, err := time.Parse(time.RFC3339, s); err == nil {
			return expr.MomentValue(t.Unix())
		}
	}
	return expr.Value{}
}

func picksOf(raw []any) expr.Value {
	var values []string
	var of, other string
	for _, pick := range raw {
		value, text := engine.PickOf(pick)
		if value != "" {
			values = append(values, value)
		}
		if text != "" {
			of, other = value, text
		}
	}
	if len(values) == 0 {
		return expr.Value{}
	}
	v := expr.ChoicesValue(values)
	if other != "" {
		v = v.WithOther(of, other)
	}
	return v
}

func partsOf(sym *expr.Symbol, raw map[string]any) expr.Value {
	switch sym.Type.Kind {
	case expr.Choice:
		value, text := engine.PickOf(raw)
		if value == "" {
			return expr.Value{}
		}
		v := expr.ChoiceValue(value)
		if text != "" {
			v = v.WithOther(value, text)
		}
		return v
	case expr.Grid:
		var cells []expr.Cell
		for _, row := range sym.Rows {
			switch v := raw[row].(type) {
			case string:
				cells = append(cells, expr.Cell{Row: row, Value: expr.ChoiceValue(v)})
			case []any:
				if picks := picksOf(v); !picks.IsBlank() {
					cells = append(cells, expr.Cell{Row: row, Value: picks})
				}
			}
		}
		return expr.GridValue(cells)
	case expr.Address, expr.File:
		names := expr.AddressParts
		if sym.Type.Kind == expr.File {
			names = engine.FileParts
		}
		var parts expr.Parts
		for _, name := range names {
			text, _ := raw[name].(string)
			parts = append(parts, expr.Part{Name: name, Text: text})
		}
		return expr.PartsValue(sym.Type.Kind, parts)
	}
	return expr.Value{}
}

// Column is something that a view can show of each response.
type Column struct {
	Key   string
	Label string
	Item  *form.Item // of a question
	Staff bool
	Width string // Narrow or Wide, "" for the usual one
}

// How wide a column is, behind its key in a view.
const (
	Narrow = "narrow"
	Wide   = "wide"
)

// Columns are all that a view can show, in the order of the form.
func (l *Lens) Columns() []Column {
	var out []Column
	for _, sym := range l.Syms.Response {
		out = append(out, Column{Key: "response." + sym.Key, Label: sym.Label})
	}
	labels := author.LabelsOf(l.Program.Form)
	seen := map[string]bool{}
	for p := range l.Program.Form.Places() {
		if p.Section.Repeat != nil {
			if !seen[p.Section.Key] {
				seen[p.Section.Key] = true
				out = append(out, Column{Key: p.Section.Key, Label: p.Section.Name()})
			}
			continue
		}
		if p.Item.Asked() && !p.Item.Parked && p.Item.IsStored() && !l.mask[p.Item.Key] {
			out = append(out, Column{Key: p.Item.Key, Label: labels.Name(p.Item.Key, p.Item.Name()), Item: p.Item,
				Staff: p.Item.Staff})
		}
	}
	for _, p := range l.Program.Form.Parameters {
		if l.mask["url."+p.Name] {
			continue
		}
		label := p.Label
		if label == "" {
			label = p.Name
		}
		out = append(out, Column{Key: "url." + p.Name, Label: label})
	}
	return out
}

// usual is how many questions a view shows unless it says which.
const usual = 5

// Shown are the columns of a view, without those that there are no longer.
func (l *Lens) Shown(v View) []Column {
	all := l.Columns()
	if len(v.Columns) > 0 {
		var out []Column
		for _, key := range v.Columns {
			key, width, _ := strings.Cut(key, "~")
			if i := slices.IndexFunc(all, func(c Column) bool { return c.Key == key }); i >= 0 && len(out) < MaxColumns {
				c := all[i]
				if width == Narrow || width == Wide {
					c.Width = width
				}
				out = append(out, c)
			}
		}
		return out
	}
	var out, staff []Column
	for _, c := range all {
		switch {
		case c.Staff:
			staff = append(staff, c)
		case c.Item != nil && c.Item.Type != form.Hidden && len(out) < usual:
			out = append(out, c)
		}
	}
	return append(out, staff...)
}

// Check says what of a view does not hold for the form as it is now.
func (l *Lens) Check(v View) error {
	if _, err := l.Compile(v.When); err != nil {
		return err
	}
	if len(v.Columns) > MaxColumns {
		return fmt.Errorf("a view shows %d columns at the most", MaxColumns)
	}
	return nil
}

// Ticks reports whether a question is a tick box.
func (l *Lens) Ticks(key string) bool { return l.ticks[key] }

// Answer is what is stored under a question's key, or one that it had before.
func (l *Lens) Answer(answers map[string]any, key string) any { return l.answer(answers, key) }
