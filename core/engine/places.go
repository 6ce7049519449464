package engine

import (
	"encoding/json"
	"math"
	"slices"
	"strings"

	"lazo/core/expr"
	"lazo/core/form"
)

// Taken is how many responses hold each choice that has places: by the key of the question
// and the value of the choice.
type Taken map[string]map[string]int

// places compiles how many responses may hold the choices of a question.
func (c *compiler) places(it *item) {
	limit := func(property string, b *form.Bound) bound {
		if b == nil {
			return bound{}
		}
		it.limited = true
		return c.place(it, property, b)
	}
	whole := limit("places", it.Places)
	if it.Places == nil && !hasPlaces(it.Choices) {
		return
	}
	it.limits = make([]bound, len(it.all))
	for i, value := range it.all {
		it.limits[i] = whole
		for j, ch := range it.Choices {
			if ch.Value == value && ch.Places != nil {
				it.limits[i] = limit("choices."+itoa(j)+".places", ch.Places)
			}
		}
	}
	if !it.IsStored() {
		c.remark("senseless", form.Warning, it.at+".places", it.Key, "what is not stored takes no places")
	}
}

func hasPlaces(choices []form.Choice) bool {
	for _, ch := range choices {
		if ch.Places != nil {
			return true
		}
	}
	return false
}

// place compiles one number of places: whole, or an expression without answers.
func (c *compiler) place(it *item, property string, b *form.Bound) bound {
	at := it.at + "." + property
	wrong := func(format string, args ...any) bound {
		c.remark("wrong-type", form.Error, at, it.Key, format, args...)
		return bound{}
	}
	if v, ok := fixedBound(it.Type, expr.Num, b); ok {
		if n, whole := v.Number().Whole(); !whole || n < 0 {
			return wrong("a whole number of places was expected, “%s” was found", b)
		}
		return bound{fixed: v}
	}
	code := c.compile(b.Text, place{at, it.Key, stepOf(it), false}, c.p.Symbols, false)
	switch {
	case code == nil:
		return bound{}
	case code.Type.Kind != expr.Num && code.Type.Kind != expr.Blank:
		return wrong("a number of places was expected, %s is %s", b, code.Type.Kind)
	case len(code.Items) > 0 || len(code.Groups) > 0 || len(code.Params) > 0 || code.Mode || code.Places:
		return wrong("how many places there are can’t depend on answers; only the clock can be named here")
	case code.Constant():
		return bound{fixed: code.Value(c.still())}
	}
	return bound{code: code}
}

// HasPlaces reports whether any choice of the form has places, so that what is taken has
// to be known.
func (p *Program) HasPlaces() bool { return p.limited }

// limit is how many responses may hold the choice at i; ok is false if any number may.
func (r *run) limit(it *item, i int) (n int, ok bool) {
	if it.limits == nil {
		return 0, false
	}
	v := r.bound(&it.limits[i])
	if v.Kind() != expr.Num {
		return 0, false
	}
	return v.Number().Held(0, math.MaxInt32), true
}

// left is what the conditions read as the places of a choice that are left.
func (r *run) left(key, choice string) (int, bool) {
	it := r.p.lookup[key]
	if it == nil || it.options == nil {
		return 0, false
	}
	i, ok := it.options.Find(choice)
	if !ok {
		return 0, false
	}
	limit, ok := r.limit(it, i)
	if !ok {
		return 0, false
	}
	return max(0, limit-r.in.Taken[key][it.all[i]]), true
}

// full reports whether a choice has no place for the respondent, or for the row at hand.
// Who has a place keeps it.
func (r *run) full(it *item, i int, has bool) bool {
	limit, ok := r.limit(it, i)
	if !ok || has {
		return false
	}
	value := it.all[i]
	free := limit - r.in.Taken[it.Key][value]
	if it.group >= 0 {
		free += r.moved(it, value)
	}
	return free <= 0
}

// withoutPlaces drops the picks that have no place left from a value that nobody picks now:
// one that is locked, or stays stored while it is hidden, takes no place that is not there.
func (r *run) withoutPlaces(it *item, v *expr.Value, prior *answer) {
	if !it.limited || r.in.Mode == Staff || r.in.Record != nil {
		return
	}
	lost := func(pick string) bool {
		i := slices.Index(it.all, pick)
		return i >= 0 && r.full(it, i, prior.state == given && prior.value.Holds(pick))
	}
	switch v.Kind() {
	case expr.Choice:
		if lost(v.Text()) {
			*v = expr.Value{}
		}
	case expr.Choices:
		keepPicks(it, v, slices.DeleteFunc(slices.Clone(v.Picks()), lost))
	}
}

// moved is by how many places the rows of this response change what others see as taken:
// those that it gives back, less those that rows before the one at hand take.
func (r *run) moved(it *item, value string) int {
	g := &r.frame.Groups[it.group]
	at, n := g.Row, 0
	if p := r.prior(); p != nil {
		for row := range p.groups[it.group].rows {
			if a := p.groups[it.group].cell(r.p, it, row); a.state == given && a.value.Holds(value) {
				n++
			}
		}
	}
	for g.Row = 0; g.Row < g.Count; g.Row++ {
		sent, prior := r.answers(it)
		held := prior.state == given && prior.value.Holds(value)
		switch {
		case held && (sent.state == untouched || sent.value.Holds(value)):
			n--
		case !held && g.Row < at && g.Cells[g.Row*g.Width+int(it.slot)].Holds(value):
			n--
		}
	}
	g.Row = at
	return n
}

// Take is how many places of a choice a response takes, and how many all may take; Of is
// nil where the workspace goes beyond.
type Take struct {
	N  int
	Of *int
}

// MarshalJSON writes a pair: [1, 12].
func (t Take) MarshalJSON() ([]byte, error) { return json.Marshal([]any{t.N, t.Of}) }

// Takes are places, by question and choice.
type Takes map[string]map[string]Take

// Takes are the places that the response takes, by question and choice; of choices that
// any number may hold there are none.
func (o *Outcome) Takes() Takes {
	if !o.p.limited || !o.Accepted {
		return nil
	}
	out := Takes{}
	r := &run{p: o.p, in: &Input{}, out: o, frame: &o.frame}
	take := func(st *ItemState, row int) {
		it := st.item
		if !it.limited || !st.part && !st.kept || !it.IsStored() {
			return
		}
		v := o.valueOf(st, row)
		for i, value := range it.all {
			of, ok := r.limit(it, i)
			if !ok || !v.Holds(value) {
				continue
			}
			if out[it.Key] == nil {
				out[it.Key] = map[string]Take{}
			}
			take := Take{N: out[it.Key][value].N + 1, Of: &of}
			if o.mode == Staff { // who may go beyond
				take.Of = nil
			}
			out[it.Key][value] = take
		}
	}
	o.each(take)
	return out
}

// each visits every item, in each row that it stands in.
func (o *Outcome) each(visit func(st *ItemState, row int)) {
	for i := range o.Items {
		visit(&o.Items[i], 0)
	}
	for gi := range o.Rows {
		state := &o.Rows[gi]
		for row := range state.Count {
			for i := range state.Row(row) {
				visit(&state.Row(row)[i], row)
			}
		}
	}
}

// Labels are what the picks from lists of the workspace read, by question and code; a
// response keeps them, since a list may change.
func (o *Outcome) Labels() map[string]map[string]string {
	if len(o.p.Form.SharedLists()) == 0 {
		return nil
	}
	out := map[string]map[string]string{}
	keep := func(st *ItemState, row int) {
		it := st.item
		if !it.shared || !st.part && !st.kept || !it.IsStored() {
			return
		}
		v := o.valueOf(st, row)
		codes := v.Picks()
		if v.Kind() == expr.Choice {
			codes = []string{v.Text()}
		}
		for _, code := range codes {
			if out[it.Key] == nil {
				out[it.Key] = map[string]string{}
			}
			if i, ok := it.options.Find(code); ok {
				out[it.Key][code] = it.options.Labels[i]
			}
		}
	}
	o.each(keep)
	return out
}

// Left is how many places a choice has left; ok is false if it has no number of them.
func (o *Outcome) Left(key, value string) (int, bool) {
	if o.frame.Left == nil {
		return 0, false
	}
	return o.frame.Left(key, expr.Fold(value))
}

// Scale are the ends of a scale for an item; row counts from 0 in a repeating section.
func (o *Outcome) Scale(s *ItemState, row int) (least, most int) {
	it := s.item
	if it.group >= 0 {
		g := &o.frame.Groups[it.group]
		defer func(before int) { g.Row = before }(g.Row)
		g.Row = row
	}
	r := &run{p: o.p, in: &Input{}, out: o, frame: &o.frame}
	end := func(b *bound, up bool, otherwise int) int {
		v := r.bound(b)
		if v.Kind() != expr.Num {
			return otherwise
		}
		whole := v.Number().Floor()
		n, fits := whole.Whole()
		if !fits {
			return otherwise
		}
		if up && whole.Cmp(v.Number()) != 0 {
			n++
		}
		return n
	}
	least = end(&it.bounds.min, true, 1)
	return least, min(max(least, end(&it.bounds.max, false, 5)), least+MaxScale-1)
}

// MaxScale is the greatest number of points of a scale.
const MaxScale = 101

// labelOf is what a choice is called.
func (it *item) labelOf(value string) string {
	if i, ok := it.options.Find(value); ok {
		return strings.TrimSpace(it.options.Labels[i])
	}
	return value
}
