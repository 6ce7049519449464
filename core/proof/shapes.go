package proof

import (
	"iter"
	"slices"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// How many shapes are listed, and up to how many they are counted.
const (
	MaxListed  = 200
	MaxCounted = 100_000
)

// Shapes are the ways in which a form can look.
type Shapes struct {
	Count  int     `json:"count"`
	Capped bool    `json:"capped"` // there are more, or there was no time to count on
	List   []Shape `json:"list"`
}

// Shape is one of them: what is shown and required of the items outside rows.
type Shape struct {
	Shown    []string `json:"shown"`
	Required []string `json:"required"`
	Witness  *Witness `json:"witness"`
}

// aspect is one thing that a shape is made of.
type aspect struct {
	it       *item
	required bool
	lit      sat.Lit
}

// component are aspects that hang together through what is answered, and the ways in which
// they can be while no answer stands that is not accepted. All components together can be in
// all combinations of those.
type component struct {
	aspects []sat.Lit
	sound   []sat.Lit // that answers are accepted, as far as those hang together with the aspects
	inputs  []int
	ways    []sat.Filling
	capped  bool
}

// shapes counts in how many ways the form can look, and lists some.
func (p *prover) shapes() {
	out := &Shapes{Count: 1, List: []Shape{}}
	p.report.Shapes = out
	aspects := p.aspects()
	parts := p.components(aspects)
	if p.impossible(p.w.noneRefused()) {
		out.Count = 0
		return
	}
	for _, c := range parts {
		if p.up() {
			out.Capped = true
			break
		}
		p.enumerate(c)
		out.Capped = out.Capped || c.capped
		if out.Count *= max(1, len(c.ways)); out.Count > MaxCounted {
			out.Count, out.Capped = MaxCounted, true
			break
		}
	}
	for _, c := range parts {
		if len(c.ways) == 0 { // not reached: one way will do
			if v, f := p.possible(p.w.noneRefused()); v == can && f != nil {
				c.ways = []sat.Filling{f}
			}
		}
	}
	p.list(out, aspects, parts)
}

func (p *prover) aspects() (out []aspect) {
	for _, it := range p.side.list {
		if it.section.group != nil || it.Staff || it.Parked {
			continue
		}
		shown := p.w.shown(it, 0)
		out = append(out, aspect{it, false, shown})
		if it.symbol != nil {
			out = append(out, aspect{it, true, p.m.And(shown, p.w.met(it.required, 0))})
		}
	}
	return out
}

// components gathers the aspects that share inputs.
func (p *prover) components(aspects []aspect) (out []*component) {
	sound := p.w.accepts()
	sets := newUnion(p.m.Size())
	var lits []sat.Lit
	for _, a := range aspects {
		if l := a.lit &^ 1; l != sat.Yes && !slices.Contains(lits[max(0, len(lits)-8):], l) {
			lits = append(lits, l)
			sets.below(p.m.Circuit, l)
		}
	}
	for _, l := range sound {
		if l != sat.Yes {
			sets.below(p.m.Circuit, l)
		}
	}
	by := map[int]*component{}
	seen := map[sat.Lit]bool{}
	for _, l := range lits {
		root := sets.root(l.Variable())
		if by[root] == nil {
			by[root] = &component{}
			out = append(out, by[root])
		}
		if !seen[l] {
			seen[l] = true
			by[root].aspects = append(by[root].aspects, l)
		}
	}
	for _, l := range sound {
		if l == sat.Yes {
			continue
		}
		root := sets.root(l.Variable())
		if by[root] == nil { // answers on which no aspect hangs
			by[root] = &component{}
			out = append(out, by[root])
		}
		by[root].sound = append(by[root].sound, l)
	}
	for _, c := range out {
		if p.up() {
			return out
		}
		c.inputs = p.m.Cone(slices.Concat(c.aspects, c.sound))
	}
	return out
}

// union are sets of variables that hang together (Tarjan 1975).
type union struct {
	parent []int
	seen   []bool
}

func newUnion(n int) *union {
	u := &union{parent: make([]int, n), seen: make([]bool, n)}
	for i := range u.parent {
		u.parent[i] = i
	}
	return u
}

func (u *union) root(i int) int {
	for u.parent[i] != i {
		u.parent[i] = u.parent[u.parent[i]]
		i = u.parent[i]
	}
	return i
}

// below joins a formula with all that it is made of.
func (u *union) below(c *sat.Circuit, l sat.Lit) {
	stack := []int{l.Variable()}
	for len(stack) > 0 {
		v := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		if u.seen[v] {
			continue
		}
		u.seen[v] = true
		for _, k := range c.Parts(v) {
			if k.Variable() != 0 {
				u.parent[u.root(k.Variable())] = u.root(v)
				stack = append(stack, k.Variable())
			}
		}
	}
}

// enumerate finds all ways in which the aspects of a component can be.
func (p *prover) enumerate(c *component) {
	shaky := slices.ContainsFunc(c.aspects, p.m.Shaky)
	fixed := slices.Clone(c.sound)
	var visit func(i int, f sat.Filling)
	visit = func(i int, f sat.Filling) {
		if c.capped = c.capped || p.up(); c.capped {
			return
		}
		if i == len(c.aspects) {
			if len(c.ways) >= MaxCounted {
				c.capped = true
				return
			}
			if !shaky || p.asFound(c, f) {
				c.ways = append(c.ways, f)
			}
			return
		}
		l := c.aspects[i]
		if !f.Holds(l) {
			l = l.Not()
		}
		n := len(fixed)
		fixed = append(fixed, l)
		visit(i+1, f)
		fixed[n] = l.Not()
		switch p.m.Decide(fixed, c.inputs, questionEffort) {
		case sat.Satisfiable:
			visit(i+1, p.m.Found())
		case sat.Unsure:
			c.capped = true
		}
		fixed = fixed[:n]
	}
	if p.m.Decide(fixed, c.inputs, questionEffort) == sat.Satisfiable {
		visit(0, p.m.Found())
	}
}

// asFound reports whether the engine agrees with a filling about the aspects of a component.
func (p *prover) asFound(c *component, f sat.Filling) bool {
	o := run(p.side.program, p.m.read(p.side, f))
	if p.refusedIn(o) {
		return false
	}
	for _, a := range p.aspects() {
		if slices.Contains(c.aspects, a.lit&^1) && p.aspectHolds(o, a) != f.Holds(a.lit) {
			return false
		}
	}
	return true
}

// refusedIn reports whether an answer stands that is not accepted.
func (p *prover) refusedIn(o *engine.Outcome) bool {
	for it, row := range p.states(o) {
		st := o.State(it.Key, row)
		if v := o.Value(st, row); len(st.Problems()) > 0 && !v.IsBlank() && (it.Type != form.Tick || v.Yes()) {
			return true
		}
	}
	return false
}

// states are the items with answers, in each row that there is.
func (p *prover) states(o *engine.Outcome) iter.Seq2[*item, int] {
	return func(yield func(*item, int) bool) {
		for _, it := range p.side.list {
			rows := 1
			if g := it.section.group; g != nil {
				rows = o.Group(g.key).Count
			}
			for row := range rows {
				if it.symbol != nil && !yield(it, row) {
					return
				}
			}
		}
	}
}

func (p *prover) aspectHolds(o *engine.Outcome, a aspect) bool {
	st := o.State(a.it.Key, 0)
	if a.required {
		return st.Shown && st.Required
	}
	return st.Shown
}

// list shows some of the shapes, in the order in which their combinations come.
func (p *prover) list(out *Shapes, aspects []aspect, parts []*component) {
	at := make([]int, len(parts))
	for n := 0; n < min(out.Count, MaxListed) && !p.up(); n++ {
		f := make(sat.Filling, p.m.Size())
		for i, c := range parts {
			if len(c.ways) == 0 {
				continue
			}
			for _, v := range c.inputs {
				f[v] = v < len(c.ways[at[i]]) && c.ways[at[i]][v]
			}
		}
		p.m.Complete(f)
		if s, ok := p.shape(f, aspects); ok {
			out.List = append(out.List, s)
		}
		for i := len(parts) - 1; i >= 0; i-- { // the next combination
			if at[i]++; at[i] < len(parts[i].ways) {
				break
			}
			at[i] = 0
		}
	}
}

// shape is what the engine shows for a filling; ok is false if that is not what was found.
func (p *prover) shape(f sat.Filling, aspects []aspect) (Shape, bool) {
	same := func(fl engine.Filling) bool {
		o := run(p.side.program, fl)
		return !p.refusedIn(o) &&
			!slices.ContainsFunc(aspects, func(a aspect) bool { return p.aspectHolds(o, a) != f.Holds(a.lit) })
	}
	fl := p.m.read(p.side, f)
	if !same(fl) {
		return Shape{}, false
	}
	if len(aspects) <= 400 {
		fl = p.shrink(fl, same)
	}
	s := Shape{Shown: []string{}, Required: []string{}, Witness: witnessOf(fl)}
	for _, a := range aspects {
		switch {
		case f.Holds(a.lit) && a.required:
			s.Required = append(s.Required, a.it.Key)
		case f.Holds(a.lit):
			s.Shown = append(s.Shown, a.it.Key)
		}
	}
	return s, true
}
