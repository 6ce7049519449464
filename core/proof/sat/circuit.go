package sat

import (
	"encoding/binary"
	"slices"
)

// Circuit holds formulas as conjunctions of literals that share their parts. A variable is
// an input or the conjunction of others; inputs that exclude each other stand in groups, of
// which exactly one is true. Clauses are made for the solver as questions need them.
type Circuit struct {
	gates  []gate // by variable
	groups [][]Lit
	byKey  map[string]Lit
	solver *solver

	mark  []int32 // by variable: the question that last saw it
	epoch int32
	ready []bool // by variable: its clauses stand in the solver

	samples [][]uint64 // 64 fillings in each, by variable
	kept64  int        // how many were made near one that was found
	luck    luck
}

type gate struct {
	of    []Lit // nil for an input
	group int   // of an input, -1 if it stands alone
	free  bool  // an input that stands for what is beyond the model
	shaky bool  // whether anything in it is
}

func New() *Circuit {
	c := &Circuit{byKey: map[string]Lit{}, solver: newSolver(), luck: 0x9E3779B97F4A7C15}
	c.gates = []gate{{group: -1}} // the constant
	return c
}

// input is a new variable that can be either.
func (c *Circuit) input() Lit {
	c.gates = append(c.gates, gate{group: -1})
	return Lit(len(c.gates)-1) << 1
}

// Unknown is a new variable for what is beyond the model.
func (c *Circuit) Unknown() Lit {
	l := c.input()
	g := &c.gates[l.Variable()]
	g.free, g.shaky = true, true
	return l
}

// Loose are n new inputs of which exactly one is true, for what is beyond the model.
func (c *Circuit) Loose(n int) []Lit {
	out := c.OneOf(n)
	for _, l := range out {
		if l != Yes {
			c.gates[l.Variable()].free, c.gates[l.Variable()].shaky = true, true
		}
	}
	return out
}

// Alone reports whether a variable is an unknown that excludes no other.
func (c *Circuit) Alone(v int) bool { return c.gates[v].free && c.gates[v].group < 0 }

// Size is one more than the greatest variable.
func (c *Circuit) Size() int { return len(c.gates) }

// Parts are what a variable is the conjunction of; of an input, the group in which it stands.
func (c *Circuit) Parts(v int) []Lit {
	g := c.gates[v]
	if g.group >= 0 {
		return c.groups[g.group]
	}
	return g.of
}

// Until says when the time is up; what is asked after that is answered with unsure.
func (c *Circuit) Until(past func() bool) { c.solver.past = past }

// Expired reports whether the time was up before everything that was asked was answered.
func (c *Circuit) Expired() bool { return c.solver.expired }

// Any is one of n numbers, from 0; the same in every run.
func (c *Circuit) Any(n int) int { return c.luck.below(n) }

// Decide is ask for literals whose inputs are known.
func (c *Circuit) Decide(assumed []Lit, inputs []int, effort int) Answer {
	return c.solver.solve(assumed, inputs, effort)
}

// OneOf are n new inputs of which exactly one is true.
func (c *Circuit) OneOf(n int) []Lit {
	if n == 1 {
		return []Lit{Yes}
	}
	out := make([]Lit, n)
	for i := range out {
		c.gates = append(c.gates, gate{group: len(c.groups)})
		out[i] = Lit(len(c.gates)-1) << 1
	}
	c.groups = append(c.groups, out)
	return out
}

// And is the conjunction of literals.
func (c *Circuit) And(lits ...Lit) Lit {
	kept := make([]Lit, 0, len(lits))
	for _, l := range lits {
		switch l {
		case Yes:
		case No:
			return No
		default:
			kept = append(kept, l)
		}
	}
	slices.Sort(kept)
	kept = slices.Compact(kept)
	group, shaky := -1, false
	for i, l := range kept {
		if i > 0 && l == kept[i-1].Not() {
			return No
		}
		g := &c.gates[l.Variable()]
		shaky = shaky || g.shaky
		if g.of == nil && g.group >= 0 && !l.Negated() { // two of one group exclude each other
			if g.group == group {
				return No
			}
			group = g.group
		}
	}
	switch len(kept) {
	case 0:
		return Yes
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
	l := Lit(len(c.gates)-1) << 1
	c.byKey[string(key)] = l
	return l
}

// Or is the disjunction of literals.
func (c *Circuit) Or(lits ...Lit) Lit {
	neg := make([]Lit, len(lits))
	for i, l := range lits {
		neg[i] = l.Not()
	}
	if group := c.groupOf(lits); group != nil {
		// All but a few of one group are none of those few.
		if len(lits) == len(group) {
			return Yes
		}
		if 2*len(lits) > len(group) {
			rest := make([]Lit, 0, len(group)-len(lits))
			for _, l := range group {
				if !slices.Contains(lits, l) {
					rest = append(rest, l.Not())
				}
			}
			return c.And(rest...)
		}
	}
	return c.And(neg...).Not()
}

// groupOf is the group to which all literals belong as they stand, each once, or nil.
func (c *Circuit) groupOf(lits []Lit) []Lit {
	group := -1
	for i, l := range lits {
		g := c.gates[l.Variable()]
		if g.of != nil || g.group < 0 || l.Negated() || i > 0 && g.group != group || slices.Contains(lits[:i], l) {
			return nil
		}
		group = g.group
	}
	if group < 0 {
		return nil
	}
	return c.groups[group]
}

// Shaky reports whether anything beyond the model stands in a formula.
func (c *Circuit) Shaky(l Lit) bool { return c.gates[l.Variable()].shaky }

// Assuming is a formula in which some inputs, by their variables, are something else.
func (c *Circuit) Assuming(l Lit, at map[int]Lit) Lit {
	if known, ok := at[l.Variable()]; ok {
		if l.Negated() {
			return known.Not()
		}
		return known
	}
	of := c.gates[l.Variable()].of
	if of == nil {
		return l
	}
	next := make([]Lit, len(of))
	for i, o := range of {
		next[i] = c.Assuming(o, at)
	}
	at[l.Variable()] = c.And(next...)
	return c.Assuming(l, at)
}

// Cone visits the variables that some literals are made of, those of whole
// groups too, and returns its inputs.
func (c *Circuit) Cone(lits []Lit) (inputs []int) {
	c.epoch++
	for len(c.mark) < len(c.gates) {
		c.mark = append(c.mark, 0)
	}
	var stack []int
	push := func(l Lit) {
		if v := l.Variable(); c.mark[v] != c.epoch {
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
func (c *Circuit) clauses(v int) {
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
	self := Lit(v << 1)
	if g.group >= 0 && c.groups[g.group][0].Variable() == v {
		c.exclude(c.groups[g.group])
	}
	if g.of == nil {
		return
	}
	all := make([]Lit, 0, len(g.of)+1)
	all = append(all, self)
	for _, l := range g.of {
		s.add(self.Not(), l)
		all = append(all, l.Not())
	}
	s.add(all...)
}

// exclude lets exactly one of a group be true: in blocks of a few, each with a variable that
// says whether any before it is.
func (c *Circuit) exclude(group []Lit) {
	s := c.solver
	s.add(group...)
	const block = 6
	before := No
	for from := 0; from < len(group); from += block {
		part := group[from:min(len(group), from+block)]
		for i, a := range part {
			if before != No {
				s.add(a.Not(), before.Not())
			}
			for _, b := range part[:i] {
				s.add(a.Not(), b.Not())
			}
		}
		if from+block < len(group) {
			c.gates = append(c.gates, gate{group: -1, of: nil})
			v := len(c.gates) - 1
			s.grow(len(c.gates))
			next := Lit(v << 1)
			for len(c.ready) < len(c.gates) {
				c.ready = append(c.ready, true)
			}
			for _, a := range part {
				s.add(a.Not(), next)
			}
			if before != No {
				s.add(before.Not(), next)
			}
			before = next
		}
	}
}

// Ask decides whether literals can hold together. effort bounds the conflicts.
func (c *Circuit) Ask(effort int, lits ...Lit) Answer {
	all := slices.DeleteFunc(slices.Clone(lits), func(l Lit) bool { return l == Yes })
	switch {
	case slices.Contains(all, No):
		return Impossible
	case c.Late():
		return Unsure
	}
	inputs := c.Cone(all)
	return c.solver.solve(all, inputs, effort)
}

// Shake lets the solver look elsewhere first.
func (c *Circuit) Shake() {
	for v := range c.solver.phases {
		c.solver.phases[v] = c.luck.below(3) == 0
	}
}

// Filling is a value for every input.
type Filling []bool

// Found is what the solver found, and for the inputs that it was not asked about the first
// of their group, or no.
func (c *Circuit) Found() Filling {
	f := make(Filling, len(c.gates))
	for v := 1; v < len(c.gates) && v < len(c.solver.values); v++ {
		f[v] = c.solver.values[v] == isTrue
	}
	c.Complete(f)
	return f
}

// Complete has the first of each group hold of which none does, and computes all gates.
func (c *Circuit) Complete(f Filling) {
	f[0] = true
	for _, g := range c.groups {
		if !slices.ContainsFunc(g, func(l Lit) bool { return f[l.Variable()] }) {
			f[g[0].Variable()] = true
		}
	}
	c.evaluate(f)
}

// evaluate computes all gates from the inputs.
func (c *Circuit) evaluate(f Filling) {
	for v, g := range c.gates {
		if g.of == nil {
			continue
		}
		all := true
		for _, l := range g.of {
			if f[l.Variable()] == l.Negated() {
				all = false
				break
			}
		}
		f[v] = all
	}
}

func (f Filling) Holds(l Lit) bool {
	return l.Variable() < len(f) && f[l.Variable()] != l.Negated()
}

// sampleRounds times 64 fillings are tried before anything is asked.
const sampleRounds = 6

// Sample fills all inputs by luck, 64 times a round. What holds in one of them can hold.
func (c *Circuit) Sample() {
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
			case c.groups[g.group][0].Variable() == v:
				c.sampleGroup(w, c.groups[g.group], round)
			}
		}
		c.samples[round] = w
	}
}

// conjunction is that of some literals in 64 fillings.
func conjunction(w []uint64, of []Lit) uint64 {
	all := ^uint64(0)
	for _, l := range of {
		if l.Negated() {
			all &^= w[l.Variable()]
		} else {
			all &= w[l.Variable()]
		}
	}
	return all
}

// nearRounds is how many times 64 fillings are kept that are near ones that were found.
const nearRounds = 24

// Near keeps a filling that was found, and 63 in which a few answers are otherwise: where
// one question is hard to reach those after it are, too.
func (c *Circuit) Near(f Filling) {
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
		case c.groups[g.group][0].Variable() == v:
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
func (c *Circuit) nearGroup(w []uint64, f Filling, group []Lit) {
	at := group[0].Variable()
	for _, l := range group {
		if f.Holds(l) {
			at = l.Variable()
		}
	}
	w[at] = ^uint64(0)
	for range 4 {
		bit := uint64(1) << (1 + c.luck.below(63))
		for _, l := range group {
			w[l.Variable()] &^= bit
		}
		w[group[c.luck.below(len(group))].Variable()] |= bit
	}
}

// sampleGroup makes one of a group true in each filling; in some rounds mostly the first,
// which is no answer, in others mostly another.
func (c *Circuit) sampleGroup(w []uint64, group []Lit, round int) {
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
		w[group[at].Variable()] |= 1 << bit
	}
}

// Sampled reports whether literals hold together in a filling that was tried.
func (c *Circuit) Sampled(lits ...Lit) bool {
	for _, w := range c.samples {
		all := ^uint64(0)
		for _, l := range lits {
			if l.Variable() >= len(w) {
				return false
			}
			if l.Negated() {
				all &^= w[l.Variable()]
			} else {
				all &= w[l.Variable()]
			}
		}
		if all != 0 {
			return true
		}
	}
	return false
}

// Late reports whether the time is up.
func (c *Circuit) Late() bool {
	if past := c.solver.past; past != nil && past() {
		c.solver.expired = true
	}
	return c.solver.expired
}
