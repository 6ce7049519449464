package sat

import (
	"math"
	"slices"
)

// Lit is a literal: twice the number of a variable, plus one if it is negated.
type Lit int32

const (
	Yes Lit = 0 // variable 0 is always true
	No  Lit = 1
)

func (l Lit) Not() Lit      { return l ^ 1 }
func (l Lit) Variable() int { return int(l >> 1) }
func (l Lit) Negated() bool { return l&1 == 1 }

// Answer is what a solver says.
type Answer int8

const (
	Unsure Answer = iota // the time was up
	Satisfiable
	Impossible
)

const (
	unset int8 = iota
	isTrue
	isFalse
)

// clause is a disjunction of literals; a learned one may be forgotten again.
type clause struct {
	lits     []Lit
	learned  bool
	activity float32
}

type watch struct {
	clause  *clause
	blocker Lit // another literal of it: if that is true there is nothing to do
}

// solver decides whether literals can hold together, by conflict-driven clause learning
// (Marques-Silva and Sakallah 1996, Eén and Sörensson 2003). What it learns stays for the
// questions that follow, since all are about the same clauses. Only the variables that a
// question names are decided on; the others must follow from those, or be of no
// consequence.
type solver struct {
	watches  [][]watch // by literal
	values   []int8    // by variable
	levels   []int32
	reasons  []*clause
	phases   []bool // the last value, so that a search goes on where it was
	activity []float64
	trail    []Lit
	marks    []int // the ends of the levels in the trail
	head     int   // of the trail, up to where it was propagated
	bump     float64
	learned  []*clause
	seen     []bool
	heap     heap
	broken   bool // the clauses contradict each other

	past      func() bool // whether the time is up; nil is never
	conflicts int         // all told
	ticks     int
	expired   bool
}

func newSolver() *solver {
	s := &solver{bump: 1}
	s.heap.s = s
	s.grow(1)
	s.add(Yes)
	return s
}

// grow makes room for n variables.
func (s *solver) grow(n int) {
	for len(s.values) < n {
		s.watches = append(s.watches, nil, nil)
		s.values = append(s.values, unset)
		s.levels = append(s.levels, 0)
		s.reasons = append(s.reasons, nil)
		s.phases = append(s.phases, false)
		s.activity = append(s.activity, 0)
		s.seen = append(s.seen, false)
		s.heap.at = append(s.heap.at, -1)
	}
}

func (s *solver) value(l Lit) int8 {
	v := s.values[l.Variable()]
	if v == unset || !l.Negated() {
		return v
	}
	return isTrue + isFalse - v
}

// add puts a clause in. It is called between questions only.
func (s *solver) add(lits ...Lit) {
	s.cancel(0)
	kept := make([]Lit, 0, len(lits))
	for _, l := range lits {
		switch {
		case s.value(l) == isTrue || slices.Contains(kept, l.Not()):
			return
		case s.value(l) != isFalse && !slices.Contains(kept, l):
			kept = append(kept, l)
		}
	}
	switch len(kept) {
	case 0:
		s.broken = true
	case 1:
		s.set(kept[0], nil)
		s.broken = s.propagate() != nil || s.broken
	default:
		s.attach(&clause{lits: kept})
	}
}

func (s *solver) attach(c *clause) {
	s.watches[c.lits[0].Not()] = append(s.watches[c.lits[0].Not()], watch{c, c.lits[1]})
	s.watches[c.lits[1].Not()] = append(s.watches[c.lits[1].Not()], watch{c, c.lits[0]})
}

func (s *solver) set(l Lit, why *clause) {
	v := l.Variable()
	s.values[v] = isTrue
	if l.Negated() {
		s.values[v] = isFalse
	}
	s.levels[v], s.reasons[v] = int32(len(s.marks)), why
	s.trail = append(s.trail, l)
}

// propagate draws the consequences of what was set; it returns a clause that they break.
func (s *solver) propagate() *clause {
	for s.head < len(s.trail) {
		l := s.trail[s.head]
		s.head++
		list := s.watches[l]
		kept := list[:0]
		for i := 0; i < len(list); i++ {
			w := list[i]
			if s.value(w.blocker) == isTrue {
				kept = append(kept, w)
				continue
			}
			c := w.clause
			if c.lits[0] == l.Not() {
				c.lits[0], c.lits[1] = c.lits[1], c.lits[0]
			}
			if s.value(c.lits[0]) == isTrue {
				kept = append(kept, watch{c, c.lits[0]})
				continue
			}
			if s.rewatch(c) {
				continue
			}
			kept = append(kept, watch{c, c.lits[0]})
			if s.value(c.lits[0]) == isFalse {
				kept = append(kept, list[i+1:]...)
				s.watches[l] = kept
				s.head = len(s.trail)
				return c
			}
			s.set(c.lits[0], c)
		}
		s.watches[l] = kept
	}
	return nil
}

// rewatch finds another literal of a clause to watch in place of its second.
func (s *solver) rewatch(c *clause) bool {
	for k := 2; k < len(c.lits); k++ {
		if s.value(c.lits[k]) != isFalse {
			c.lits[1], c.lits[k] = c.lits[k], c.lits[1]
			s.watches[c.lits[1].Not()] = append(s.watches[c.lits[1].Not()], watch{c, c.lits[0]})
			return true
		}
	}
	return false
}

func (s *solver) cancel(level int) {
	if len(s.marks) <= level {
		return
	}
	for i := len(s.trail) - 1; i >= s.marks[level]; i-- {
		v := s.trail[i].Variable()
		s.phases[v] = s.values[v] == isTrue
		s.values[v], s.reasons[v] = unset, nil
		s.heap.back(v)
	}
	s.trail = s.trail[:s.marks[level]]
	s.marks = s.marks[:level]
	s.head = len(s.trail)
}

// analyze finds the clause that a conflict teaches, its asserting literal first, and the
// level to go back to: the first unique implication point.
func (s *solver) analyze(conflict *clause) (learned []Lit, back int) {
	learned = append(learned, 0)
	open, at := 0, len(s.trail)-1
	var l Lit = -1
	for c := conflict; ; {
		s.bumpClause(c)
		for _, q := range c.lits {
			v := q.Variable()
			if q == l || s.seen[v] || s.levels[v] == 0 {
				continue
			}
			s.seen[v] = true
			s.bumpVariable(v)
			if int(s.levels[v]) == len(s.marks) {
				open++
			} else {
				learned = append(learned, q)
			}
		}
		for !s.seen[s.trail[at].Variable()] {
			at--
		}
		l = s.trail[at]
		at--
		c = s.reasons[l.Variable()]
		s.seen[l.Variable()] = false
		if open--; open == 0 {
			break
		}
	}
	learned[0] = l.Not()
	whole := slices.Clone(learned)
	learned = slices.DeleteFunc(learned, func(q Lit) bool { return q != learned[0] && s.redundant(q) })
	for _, q := range whole {
		s.seen[q.Variable()] = false
	}
	for i := 1; i < len(learned); i++ {
		if lv := int(s.levels[learned[i].Variable()]); lv > back {
			back = lv
			learned[1], learned[i] = learned[i], learned[1]
		}
	}
	return learned, back
}

// redundant reports whether a literal of a learned clause follows from its others.
func (s *solver) redundant(l Lit) bool {
	c := s.reasons[l.Variable()]
	if c == nil {
		return false
	}
	for _, q := range c.lits {
		if v := q.Variable(); v != l.Variable() && !s.seen[v] && s.levels[v] > 0 {
			return false
		}
	}
	return true
}

func (s *solver) bumpVariable(v int) {
	s.activity[v] += s.bump
	if s.activity[v] > 1e100 {
		for i := range s.activity {
			s.activity[i] *= 1e-100
		}
		s.bump *= 1e-100
	}
	s.heap.up(v)
}

func (s *solver) bumpClause(c *clause) {
	if c.learned {
		c.activity = float32(s.conflicts)
	}
}

// forget drops the half of the learned clauses that was of no use for longest.
func (s *solver) forget() {
	slices.SortFunc(s.learned, func(a, b *clause) int { return int(b.activity - a.activity) })
	gone := map[*clause]bool{}
	kept := s.learned[:0]
	for i, c := range s.learned {
		if i < len(s.learned)/2 || len(c.lits) == 2 || s.reasons[c.lits[0].Variable()] == c {
			kept = append(kept, c)
		} else {
			gone[c] = true
		}
	}
	s.learned = kept
	for l := range s.watches {
		s.watches[l] = slices.DeleteFunc(s.watches[l], func(w watch) bool { return gone[w.clause] })
	}
}

// late reports whether the time is up; it looks at the clock now and then.
func (s *solver) late() bool {
	if s.ticks++; s.ticks%512 == 0 && s.past != nil && s.past() {
		s.expired = true
	}
	return s.expired
}

// solve decides whether the assumed literals can hold together. decide are the variables
// to decide on. effort bounds the conflicts; 0 does not. After satisfiable the values
// stand until the next question.
func (s *solver) solve(assumed []Lit, decide []int, effort int) Answer {
	s.cancel(0)
	if s.broken {
		return Impossible
	}
	if s.expired {
		return Unsure
	}
	s.heap.fill(decide)
	begun := s.conflicts
	for round := 1; ; round++ {
		switch got := s.search(assumed, 64*luby(round)); {
		case got != Unsure:
			return got
		case s.expired, effort > 0 && s.conflicts-begun > effort:
			s.cancel(0)
			return Unsure
		}
		s.cancel(0)
	}
}

// search goes on until it knows, or has met some conflicts.
func (s *solver) search(assumed []Lit, conflicts int) Answer {
	for {
		if c := s.propagate(); c != nil {
			s.conflicts++
			conflicts--
			if len(s.marks) == 0 {
				s.broken = true
				return Impossible
			}
			s.learn(s.analyze(c))
			continue
		}
		if s.late() || conflicts <= 0 {
			return Unsure
		}
		if len(s.learned) > 4000+s.conflicts/8 {
			s.forget()
		}
		if len(s.marks) < len(assumed) {
			l := assumed[len(s.marks)]
			if s.value(l) == isFalse {
				return Impossible
			}
			s.marks = append(s.marks, len(s.trail))
			if s.value(l) == unset {
				s.set(l, nil)
			}
			continue
		}
		v := s.heap.next()
		if v < 0 {
			return Satisfiable
		}
		l := Lit(v << 1)
		if !s.phases[v] {
			l = l.Not()
		}
		s.marks = append(s.marks, len(s.trail))
		s.set(l, nil)
	}
}

func (s *solver) learn(lits []Lit, back int) {
	s.cancel(back)
	s.bump /= 0.95
	if len(lits) == 1 {
		s.set(lits[0], nil)
		return
	}
	c := &clause{lits: lits, learned: true, activity: float32(s.conflicts)}
	s.learned = append(s.learned, c)
	s.attach(c)
	s.set(lits[0], c)
}

// luby is the sequence 1 1 2 1 1 2 4 … of Luby, Sinclair and Zuckerman (1993), from 1.
func luby(i int) int {
	for k := 1; ; k++ {
		if i == 1<<k-1 {
			return 1 << (k - 1)
		}
		if i < 1<<k-1 {
			return luby(i - 1<<(k-1) + 1)
		}
	}
}

// heap has the variables of a question that are not decided, the most active first.
type heap struct {
	s    *solver
	vars []int
	at   []int32 // by variable: its place, -1 outside, -2 if it is none of the question's
}

// fill begins a question about some variables.
func (h *heap) fill(vars []int) {
	for i := range h.at {
		h.at[i] = -2
	}
	h.vars = h.vars[:0]
	for _, v := range vars {
		h.at[v] = -1
	}
	for _, v := range vars {
		h.back(v)
	}
}

func (h *heap) back(v int) {
	if h.at[v] != -1 {
		return
	}
	h.vars = append(h.vars, v)
	h.at[v] = int32(len(h.vars) - 1)
	h.up(v)
}

func (h *heap) before(a, b int) bool {
	if h.s.activity[a] != h.s.activity[b] {
		return h.s.activity[a] > h.s.activity[b]
	}
	return a < b
}

func (h *heap) up(v int) {
	i := h.at[v]
	if i < 0 {
		return
	}
	for i > 0 {
		parent := (i - 1) / 2
		if !h.before(v, h.vars[parent]) {
			break
		}
		h.put(h.vars[parent], i)
		i = parent
	}
	h.put(v, i)
}

func (h *heap) put(v int, i int32) { h.vars[i], h.at[v] = v, i }

// next takes the most active variable that has no value; -1 if all have one.
func (h *heap) next() int {
	for len(h.vars) > 0 {
		top := h.vars[0]
		last := h.vars[len(h.vars)-1]
		h.vars = h.vars[:len(h.vars)-1]
		h.at[top] = -1
		if last != top {
			h.down(last)
		}
		if h.s.values[top] == unset {
			return top
		}
	}
	return -1
}

func (h *heap) down(v int) {
	i := int32(0)
	n := int32(len(h.vars))
	for {
		kid := 2*i + 1
		if kid >= n {
			break
		}
		if kid+1 < n && h.before(h.vars[kid+1], h.vars[kid]) {
			kid++
		}
		if !h.before(h.vars[kid], v) {
			break
		}
		h.put(h.vars[kid], i)
		i = kid
	}
	h.put(v, i)
}

// luck is a small generator of numbers, the same in every run, so that a proof is.
type luck uint64

func (r *luck) next() uint64 {
	*r ^= *r << 13
	*r ^= *r >> 7
	*r ^= *r << 17
	return uint64(*r)
}

// few has about four of its 64 bits set.
func (r *luck) few() uint64 {
	all := r.next()
	for range 3 {
		all &= r.next()
	}
	return all
}

func (r *luck) below(n int) int { return int(r.next() % uint64(min(n, math.MaxInt32))) }
