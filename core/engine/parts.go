package engine

import (
	"slices"
	"strings"
	"time"

	"lazo/core/expr"
)

// What follows are the parts of a decision one by one, for what reasons about all inputs
// at once rather than running one.

// Scope are the symbols as the expressions of an item see them or, by the key of a
// repeating section, those of its checks.
func (p *Program) Scope(key string) *expr.Symbols {
	if it := p.lookup[key]; it != nil && it.group >= 0 {
		return p.Symbols.InRow(p.groups[it.group].symbol).SeenBy(it.symbol)
	}
	if g := p.Symbols.Groups[key]; g != nil {
		return p.Symbols.InRow(g)
	}
	return p.Symbols
}

// NewFrame is a frame in which everything is blank, with count rows in the repeating
// section of that number and one in each other.
func (p *Program) NewFrame(group, count int) *expr.Evaluation {
	f := &expr.Evaluation{
		Slots: make([]expr.Value, len(p.bySlot)), Params: make([]expr.Param, len(p.Form.Parameters)),
		Mode: expr.ChoiceValue(string(New)), Speech: p.speech, Clock: expr.ClockAt(0, p.loc),
	}
	for i, g := range p.groups {
		rows := expr.Rows{Count: 1, Width: g.width}
		if i == group {
			rows.Count = count
		}
		rows.Cells = make([]expr.Value, rows.Count*g.width)
		f.Groups = append(f.Groups, rows)
	}
	return f
}

// ReadAnswer is what a raw answer to an item counts as; ok is false if it can't be read or
// names no choice.
func (p *Program) ReadAnswer(key string, raw any) (v expr.Value, ok bool) {
	it := p.lookup[key]
	if it == nil || it.slot < 0 || it.Type.Computed() {
		return expr.Value{}, false
	}
	var a answer
	p.read(it, raw, &a)
	return a.value, a.problem == nil && !a.unmatched
}

// Comes is the value of an item when its expression gives one; texts are the values of the
// address parameter if it is nothing but that.
func (p *Program) Comes(key string, got expr.Value, texts []string) expr.Value {
	it := p.lookup[key]
	if got.Kind() == expr.Text && got.Text() == "" {
		got = expr.Value{}
	}
	if it.Type.Computed() || got.Kind() == it.kind && it.options == nil && !reads(it.Type) {
		return got
	}
	if texts == nil {
		switch got.Kind() {
		case expr.Text, expr.Choice:
			texts = []string{got.Text()}
		case expr.Choices:
			texts = got.Picks()
		}
	}
	texts = slices.DeleteFunc(slices.Clone(texts), func(t string) bool { return strings.TrimSpace(t) == "" })
	if len(texts) == 0 {
		return expr.Value{}
	}
	v, _, _ := p.fromText(it, texts)
	return v
}

// Fits reports whether a value keeps the limits of an item that are written out; those that
// are expressions are left aside, and so is how much of a ranking is ranked.
func (p *Program) Fits(key string, v expr.Value) bool {
	it := *p.lookup[key]
	b := &it.bounds
	for _, one := range []*bound{&b.min, &b.max, &b.step, &b.minLength, &b.maxLength, &b.minPicked, &b.maxPicked} {
		one.code = nil
	}
	out := &Outcome{p: p}
	st := &ItemState{item: &it, Shown: true}
	it.offers = true // so that no choice has to be ranked
	(&run{p: p, in: &Input{}, out: out, frame: &out.frame}).constrain(&it, st, &v)
	return len(st.Problems()) == 0
}

// Candidate is a choice that a question can have, with its entry in the list, if it is
// drawn from one under a condition.
type Candidate struct {
	Value   string
	Entry   []expr.Value
	Written int // its place among the choices that are written out, -1 for another
}

// Candidates are all choices of a question in their order.
func (p *Program) Candidates(key string) []Candidate {
	it := p.lookup[key]
	if it == nil {
		return nil
	}
	out := make([]Candidate, len(it.all))
	for i, v := range it.all {
		out[i] = Candidate{Value: v, Entry: it.entry(i), Written: -1}
		if i < len(it.choices) {
			out[i].Written = i
		}
	}
	return out
}

// EntryScope are the symbols as the condition on the entries of a question's list sees them.
func (p *Program) EntryScope(key string) *expr.Symbols {
	list := p.Form.Lists[p.lookup[key].ChoicesFrom.List]
	return p.Scope(key).WithEntry(p.columns[p.lookup[key].ChoicesFrom.List], list.Unknown())
}

// WithinDates reports whether the form takes responses at a moment, but for the condition on who
// it is for.
func (p *Program) WithinDates(at time.Time) bool {
	out := &Outcome{p: p}
	open := *p
	open.openIf = rule{fixed: true, yes: true}
	r := &run{p: &open, in: &Input{At: at, Mode: New}, out: out, frame: &out.frame, until: expr.Never}
	r.open()
	return out.Open == Open
}

// Edges are the moments and the times of day, in seconds after midnight, at which the form
// opens or closes.
func (p *Program) Edges() (moments []int64, times []int) {
	for _, m := range []*int64{p.from, p.until} {
		if m != nil {
			moments = append(moments, *m)
		}
	}
	if p.hours != nil {
		times = append(times, p.hours.from, p.hours.until%86400)
	}
	return moments, times
}

// Recurs reports whether the form opens and closes by recurring hours.
func (p *Program) Recurs() bool { return p.hours != nil }

// Truth is how the condition at a property of an item, section or page came out, in a row,
// and whether nothing but it keeps it from having effect; ok is false if there is none
// there that stands by itself.
func (o *Outcome) Truth(owner, property string, row int) (t expr.Truth, there, ok bool) {
	c := o.p.conditionAt(owner, property)
	if c == nil || c.code == nil || c.code.Node == nil {
		return expr.Undecided, false, false
	}
	it := o.p.lookup[owner]
	if it != nil && it.group >= 0 {
		if row >= o.Rows[it.group].Count {
			return expr.Undecided, false, true
		}
		o.frame.Groups[it.group].Row = row
		defer func() { o.frame.Groups[it.group].Row = 0 }()
	}
	there = (&seeker{p: o.p}).takesPart(o, owner, property)
	if it != nil && property != "shown" {
		st := o.State(owner, row)
		there = st != nil && st.part
	}
	return c.code.Truth(&o.frame), there, true
}

// OnRoute reports whether a respondent comes through the page with that key.
func (o *Outcome) OnRoute(key string) bool {
	for i := range o.p.pages {
		if o.p.pages[i].Key == key {
			return o.onRoute[i]
		}
	}
	return false
}

// Holds reports whether a condition outside repeating sections, compiled for this form, is
// met.
func (o *Outcome) Holds(code *expr.Code) bool { return code.Truth(&o.frame) == expr.Met }

// TruthOf is how a condition comes out, compiled for the place of an item or a repeating
// section, in a row of it, tried on one of the item's choices; a blank one for a condition
// that is about none.
func (o *Outcome) TruthOf(code *expr.Code, owner string, row int, about Candidate) expr.Truth {
	group := int32(-1)
	if it := o.p.lookup[owner]; it != nil {
		group = it.group
	} else if g := o.p.Symbols.Groups[owner]; g != nil {
		group = int32(g.Index)
	}
	if group >= 0 {
		if row >= o.Rows[group].Count {
			return expr.Undecided
		}
		o.frame.Groups[group].Row = row
		defer func() { o.frame.Groups[group].Row = 0 }()
	}
	if about.Value != "" {
		o.frame.Candidate, o.frame.Entry = expr.ChoiceValue(about.Value), about.Entry
		defer func() { o.frame.Candidate, o.frame.Entry = expr.Value{}, nil }()
	}
	return code.Truth(&o.frame)
}
