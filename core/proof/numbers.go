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
			add(st.base.Add(st.width))
		}
		for i, n := range v.numbers {
			if i == 0 {
				add(st.beside(n, -1))
			}
			add(n, true)
			if i+1 == len(v.numbers) {
				add(st.beside(n, 1))
				continue
			}
			m, ok := st.beside(n, 1)
			inside := ok && m.Cmp(v.numbers[i+1]) < 0
			if inside {
				add(m, true)
			}
			if !inside || len(v.steps) > 1 {
				add(between(n, v.numbers[i+1]))
			}
		}
	}
}

// between is the number in the middle of two.
func between(a, b expr.Number) (expr.Number, bool) {
	sum, ok := a.Add(b)
	mid, ok2 := sum.Div(expr.Int(2))
	return mid, ok && ok2 && mid.Cmp(a) > 0 && mid.Cmp(b) < 0
}

// beside is the next number on a step above n, or below it.
func (st steps) beside(n expr.Number, way int64) (expr.Number, bool) {
	d, ok1 := n.Sub(st.base)
	q, ok2 := d.Div(st.width)
	floor, ok3 := q.Floor()
	if way < 0 {
		floor, ok3 = q.Ceil()
	}
	k, ok4 := floor.Add(expr.Int(way))
	whole, ok5 := k.Mul(st.width)
	out, ok6 := st.base.Add(whole)
	return out, ok1 && ok2 && ok3 && ok4 && ok5 && ok6
}
