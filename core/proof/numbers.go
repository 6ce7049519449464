package proof

import (
	"slices"

	"lazo/core/expr"
)

// steps are numbers so far apart, from one of them on.
type steps struct {
	taken       bool // whether no others are taken
	width, base expr.Number
}

// buildNumbers takes every number at which something changes, and one within each gap: one
// on a step if there is one, and where editions have different steps, one between them, too.
func (v *variable) buildNumbers() {
	for _, pr := range v.probes {
		for _, n := range pr.turns(v.name) {
			v.addNumber(n)
		}
	}
	slices.SortFunc(v.numbers, expr.Number.Cmp)
	add := func(n expr.Number, ok bool) {
		if ok && !slices.ContainsFunc(v.values, func(o expr.Value) bool { return o.Number().Cmp(n) == 0 }) {
			v.values = append(v.values, expr.NumberValue(n))
		}
	}
	if len(v.steps) == 0 {
		v.steps = []steps{{width: expr.Int(1)}}
	}
	for _, st := range v.steps {
		if len(v.numbers) == 0 {
			add(st.base.Add(st.width), true)
		}
		for i, n := range v.numbers {
			if i == 0 {
				add(st.outside(n, -1))
			}
			add(n, true)
			if i+1 == len(v.numbers) {
				add(st.outside(n, 1))
				continue
			}
			m := st.beside(n, 1)
			inside := m.Cmp(n) > 0 && m.Cmp(v.numbers[i+1]) < 0
			if inside {
				add(m, true)
			}
			if !inside || len(v.steps) > 1 {
				add(between(n, v.numbers[i+1]))
			}
		}
	}
}

// between is a number between two, if there is one: that in the middle, as long as numbers
// lie close enough for it.
func between(a, b expr.Number) (expr.Number, bool) {
	if mid, ok := a.Add(b).Div(expr.Int(2)); ok && mid.Cmp(a) > 0 && mid.Cmp(b) < 0 {
		return mid, true
	}
	return expr.Middle(a, b)
}

// beside is the next number on a step above n, or below it; n itself where numbers lie
// further apart than steps.
func (st steps) beside(n expr.Number, way int64) expr.Number {
	q, ok := n.Sub(st.base).Div(st.width)
	if !ok {
		return n
	}
	floor := q.Floor()
	if way < 0 {
		floor = q.Ceil()
	}
	return st.base.Add(floor.Add(expr.Int(way)).Mul(st.width))
}

// outside is a number beyond the last one at which something changes, if there is one.
func (st steps) outside(n expr.Number, way int) (expr.Number, bool) {
	if m := st.beside(n, int64(way)); m.Cmp(n) == way {
		return m, true
	}
	return n.Beside(way)
}

// turns are the numbers at which a condition changes. It is tried out around those at which
// its arithmetic says that it does, since the last digit of what is computed is rounded:
// 1 + 1e-40 is 1.
func (pr probe) turns(name string) (out []expr.Number) {
	samples := []expr.Number{expr.Least(), expr.Most()}
	slices.SortFunc(pr.near, expr.Number.Cmp)
	for i, n := range pr.near {
		samples = append(samples, n)
		for _, way := range []int{-1, 1} {
			if m, ok := n.Beside(way); ok {
				samples = append(samples, m)
			}
		}
		if i > 0 {
			if mid, ok := between(pr.near[i-1], n); ok {
				samples = append(samples, mid)
			}
		}
	}
	for _, n := range flips(samples, expr.Number.Cmp, expr.Middle, func(n expr.Number) expr.Truth {
		return pr.truth(name, expr.NumberValue(n), 0)
	}) {
		// It parts the others as well as the one before, which people may rather read.
		if before, ok := n.Beside(-1); ok && len(before.String()) <= len(n.String()) {
			n = before
		}
		out = append(out, n)
	}
	return out
}
