package proof

import (
	"encoding/binary"
	"slices"
)

// circuit holds formulas as conjunctions of literals that share their parts. A variable is
// an input or the conjunction of others; inputs that exclude each other stand in groups, of
// which exactly one is true. Clauses are made for the solver as questions need them.
type circuit struct {
	gates  []gate // by variable
	groups [][]lit
	byKey  map[string]lit
	solver *solver

	mark  []int32 // by variable: the question that last saw it
	epoch int32
	ready []bool // by variable: its clauses stand in the solver

	samples [][]uint64 // 64 fillings in each, by variable
	kept64  int        // how many were made near one that was found
	luck    luck
}

type gate struct {
	of    []lit // nil for an input
	group int   // of an input, -1 if it stands alone
	free  bool  // an input that stands for what is beyond the model
	shaky bool  // whether anything in it is
}

func newCircuit() *circuit {
	c := &circuit{byKey: map[string]lit{}, solver: newSolver(), luck: 0x9E3779B97F4A7C15}
	c.gates = []gate{{group: -1}} // the constant
	return c
}

// input is a new variable that can be either.
func (c *circuit) input() lit {
	c.gates = append(c.gates, gate{group: -1})
	return lit(len(c.gates)-1) << 1
}

// unknown is a new variable for what is beyond the model.
func (c *circuit) unknown() lit {
	l := c.input()
	g := &c.gates[l.variable()]
	g.free, g.shaky = true, true
	return l
}

// oneOf are n new inputs of which exactly one is true.
func (c *circuit) oneOf(n int) []lit {
	if n == 1 {
		return []lit{yes}
	}
	out := make([]lit, n)
	for i := range out {
		c.gates = append(c.gates, gate{group: len(c.groups)})
		out[i] = lit(len(c.gates)-1) << 1
	}
	c.groups = append(c.groups, out)
	return out
}

// and is the conjunction of literals.
func (c *circuit) and(lits ...lit) lit {
	kept := make([]lit, 0, len(lits))
	for _, l := range lits {
		switch l {
		case yes:
		case no:
			return no
		default:
			kept = append(kept, l)
		}
	}
	slices.Sort(kept)
	kept = slices.Compact(kept)
	group, shaky := -1, false
	for i, l := range kept {
		if i > 0 && l == kept[i-1].not() {
			return no
		}
		g := &c.gates[l.variable()]
		shaky = shaky || g.shaky
		if g.of == nil && g.group >= 0 && !l.negated() { // two of one group exclude each other
			if g.group == group {
				return no
			}
			group = g.group
		}
	}
	switch len(kept) {
	case 0:
		return yes
	case 1:
		return kept[0]
	}
	key := make([]byte, 0, 4*len(kept))
	for _, l := range kept {
		key = binary.LittleEndian.AppendUint32(key, uint32(l))
	}
	if l, ok := c.byKey[string(key)]; ok {
		return l
	}
	c.gates = append(c.gates, gate{of: kept, group: -1, shaky: shaky})
	l := lit(len(c.gates)-1) << 1
	c.byKey[string(key)] = l
	return l
}

// or is the disjunction of literals.
func (c *circuit) or(lits ...lit) lit {
	neg := make([]lit, len(lits))
	for i, l := range lits {
		neg[i] = l.not()
	}
	if group := c.groupOf(lits); group != nil {
		// All but a few of one group are none of those few.
		if len(lits) == len(group) {
			return yes
		}
		if 2*len(lits) > len(group) {
			rest := make([]lit, 0, len(group)-len(lits))
			for _, l := range group {
				if !slices.Contains(lits, l) {
					rest = append(rest, l.not())
				}
			}
			return c.and(rest...)
		}
	}
	return c.and(neg...).not()
}

// groupOf is the group to which all literals belong as they stand, each once, or nil.
func (c *circuit) groupOf(lits []lit) []lit {
	group := -1
	for i, l := range lits {
		g := c.gates[l.variable()]
		if g.of != nil || g.group < 0 || l.negated() || i > 0 && g.group != group || slices.Contains(lits[:i], l) {
			return nil
		}
		group = g.group
	}
	if group < 0 {
		return nil
	}
	return c.groups[group]
}

// shaky reports whether anything beyond the model stands in a formula.
func (c *circuit) shaky(l lit) bool { return c.gates[l.variable()].shaky }

// under is a formula in which some inputs, by their variables, are something else.
func (c *circuit) under(l lit, at map[int]lit) lit {
	if known, ok := at[l.variable()]; ok {
		if l.negated() {
			return known.not()
		}
		return known
	}
	of := c.gates[l.variable()].of
	if of == nil {
		return l
	}
	next := make([]lit, len(of))
	for i, o := range of {
		next[i] = c.under(o, at)
	}
	at[l.variable()] = c.and(next...)
	return c.under(l, at)
}

// cone visits the variables that some literals are made of, those of whole
// groups too, and returns its inputs.
func (c *circuit) cone(lits []lit) (inputs []int) {
	c.epoch++
	for len(c.mark) < len(c.gates) {
		c.mark = append(c.mark, 0)
	}
	var stack []int
	push := func(l lit) {
		if v := l.variable(); c.mark[v] != c.epoch {
			c.mark[v] = c.epoch
			stack = append(stack, v)
		}
	}
	for _, l := range lits {
		push(l)
	}
	for len(stack) > 0 {
		v := stack[len(stack)-1]
		stack = stack[:len(stack)-1]
		g := c.gates[v]
		if g.of == nil {
			if v != 0 {
				inputs = append(inputs, v)
			}
		}
		if g.group >= 0 {
			for _, l := range c.groups[g.group] {
				push(l)
			}
		}
		for _, l := range g.of {
			push(l)
		}
		c.clauses(v)
	}
	slices.Sort(inputs)
	return inputs
}

// clauses gives the solver those of a variable.
func (c *circuit) clauses(v int) {
	s := c.solver
	s.grow(len(c.gates))
	for len(c.ready) < len(c.gates) {
		c.ready = append(c.ready, false)
	}
	if c.ready[v] {
		return
	}
	c.ready[v] = true
	g := c.gates[v]
	self := lit(v << 1)
	if g.group >= 0 && c.groups[g.group][0].variable() == v {
		c.exclude(c.groups[g.group])
	}
	if g.of == nil {
		return
	}
	all := make([]lit, 0, len(g.of)+1)
	all = append(all, self)
	for _, l := range g.of {
		s.add(self.not(), l)
		all = append(all, l.not())
	}
	s.add(all...)
}

// exclude lets exactly one of a group be true: in blocks of a few, each with a variable that
// says whether any before it is.
func (c *circuit) exclude(group []lit) {
	s := c.solver
	s.add(group...)
	const block = 6
	before := no
	for from := 0; from < len(group); from += block {
		part := group[from:min(len(group), from+block)]
		for i, a := range part {
			if before != no {
				s.add(a.not(), before.not())
			}
			for _, b := range part[:i] {
				s.add(a.not(), b.not())
			}
		}
		if from+block < len(group) {
			c.gates = append(c.gates, gate{group: -1, of: nil})
			v := len(c.gates) - 1
			s.grow(len(c.gates))
			next := lit(v << 1)
			for len(c.ready) < len(c.gates) {
				c.ready = append(c.ready, true)
			}
			for _, a := range part {
				s.add(a.not(), next)
			}
			if before != no {
				s.add(before.not(), next)
			}
			before = next
		}
	}
}

// ask decides whether literals can hold together. effort bounds the conflicts.
func (c *circuit) ask(effort int, lits ...lit) answer {
	all := slices.DeleteFunc(slices.Clone(lits), func(l lit) bool { return l == yes })
	switch {
	case slices.Contains(all, no):
		return impossible
	case c.late():
		return unsure
	}
	inputs := c.cone(all)
	return c.solver.solve(all, inputs, effort)
}

// shake lets the solver look elsewhere first.
func (c *circuit) shake() {
	for v := range c.solver.phases {
		c.solver.phases[v] = c.luck.below(3) == 0
	}
}

// filling is a value for every input.
type filling []bool

// found is what the solver found, and for the inputs that it was not asked about the first
// of their group, or no.
func (c *circuit) found() filling {
	f := make(filling, len(c.gates))
	f[0] = true
	for v := 1; v < len(c.gates) && v < len(c.solver.values); v++ {
		f[v] = c.solver.values[v] == isTrue
	}
	for _, g := range c.groups {
		if !slices.ContainsFunc(g, func(l lit) bool { return f[l.variable()] }) {
			f[g[0].variable()] = true
		}
	}
	c.evaluate(f)
	return f
}

// evaluate computes all gates from the inputs.
func (c *circuit) evaluate(f filling) {
	for v, g := range c.gates {
		if g.of == nil {
			continue
		}
		all := true
		for _, l := range g.of {
			if f[l.variable()] == l.negated() {
				all = false
				break
			}
		}
		f[v] = all
	}
}

func (f filling) holds(l lit) bool {
	return l.variable() < len(f) && f[l.variable()] != l.negated()
}

// sampleRounds times 64 fillings are tried before anything is asked.
const sampleRounds = 6

// sample fills all inputs by luck, 64 times a round. What holds in one of them can hold.
func (c *circuit) sample() {
	if len(c.samples) == 0 {
		c.samples = make([][]uint64, sampleRounds)
	}
	for round := range c.samples {
		w := c.samples[round]
		from := len(w)
		w = append(w, make([]uint64, len(c.gates)-from)...)
		for v := from; v < len(c.gates); v++ {
			g := c.gates[v]
			switch {
			case v == 0:
				w[v] = ^uint64(0)
			case g.of != nil:
				w[v] = conjunction(w, g.of)
			case g.group < 0:
				w[v] = c.luck.next()
			case c.groups[g.group][0].variable() == v:
				c.sampleGroup(w, c.groups[g.group], round)
			}
		}
		c.samples[round] = w
	}
}

// conjunction is that of some literals in 64 fillings.
func conjunction(w []uint64, of []lit) uint64 {
	all := ^uint64(0)
	for _, l := range of {
		if l.negated() {
			all &^= w[l.variable()]
		} else {
			all &= w[l.variable()]
		}
	}
	return all
}

// nearRounds is how many times 64 fillings are kept that are near ones that were found.
const nearRounds = 24

// near keeps a filling that was found, and 63 in which a few answers are otherwise: where
// one question is hard to reach those after it are, too.
func (c *circuit) near(f filling) {
	w := make([]uint64, len(c.gates))
	for v := range c.gates {
		g := c.gates[v]
		switch {
		case g.of != nil:
			w[v] = conjunction(w, g.of)
		case g.group < 0:
			if v < len(f) && f[v] {
				w[v] = ^uint64(0)
			}
			if v > 0 {
				w[v] ^= c.luck.few() &^ 1
			}
		case c.groups[g.group][0].variable() == v:
			c.nearGroup(w, f, c.groups[g.group])
		}
	}
	if c.kept64 < nearRounds {
		c.samples = append(c.samples, w)
	} else {
		c.samples[sampleRounds+c.kept64%nearRounds] = w
	}
	c.kept64++
}

// nearGroup takes the member of a group that a filling has, and in a few of the others
// another.
func (c *circuit) nearGroup(w []uint64, f filling, group []lit) {
	at := group[0].variable()
	for _, l := range group {
		if f.holds(l) {
			at = l.variable()
		}
	}
	w[at] = ^uint64(0)
	for range 4 {
		bit := uint64(1) << (1 + c.luck.below(63))
		for _, l := range group {
			w[l.variable()] &^= bit
		}
		w[group[c.luck.below(len(group))].variable()] |= bit
	}
}

// sampleGroup makes one of a group true in each filling; in some rounds mostly the first,
// which is no answer, in others mostly another.
func (c *circuit) sampleGroup(w []uint64, group []lit, round int) {
	for bit := range 64 {
		at := c.luck.below(len(group))
		switch {
		case round == 1 && len(group) > 1: // everything is answered, as long chains need it
			at = 1 + c.luck.below(len(group)-1)
		case at == 0 && round%3 != 0:
			at = c.luck.below(len(group))
		case round%3 == 0 && c.luck.below(2) == 0:
			at = 0
		}
		w[group[at].variable()] |= 1 << bit
	}
}

// sampled reports whether literals hold together in a filling that was tried.
func (c *circuit) sampled(lits ...lit) bool {
	for _, w := range c.samples {
		all := ^uint64(0)
		for _, l := range lits {
			if l.variable() >= len(w) {
				return false
			}
			if l.negated() {
				all &^= w[l.variable()]
			} else {
				all &= w[l.variable()]
			}
		}
		if all != 0 {
			return true
		}
	}
	return false
}

// late reports whether the time is up.
func (c *circuit) late() bool {
	if past := c.solver.past; past != nil && past() {
		c.solver.expired = true
	}
	return c.solver.expired
}
