package proof

import (
	"slices"

	"lazo/core/expr"
	"lazo/core/proof/sat"
)

// count is how many rows a section has.
func (w *world) count(g *group) *val {
	if w.shares(g.key) {
		return w.parent.count(g)
	}
	if v := w.counts[g]; v != nil {
		return v
	}
	m := w.side.model
	shown := w.sectionShown(g.section)
	out := blankVal()
	add := func(n int, when sat.Lit) {
		out.cases = append(out.cases, vcase{when, expr.NumberValue(expr.Int(int64(n)))})
	}
	least := g.Repeat.Min
	if g.rows == nil {
		in := m.rowsSent(g)
		for i, raw := range in.raws {
			n, _ := raw.(int)
			when := in.lits[i]
			if w.without[g.key] {
				when = sat.No
				if i == 0 {
					when = sat.Yes
				}
			}
			add(min(max(n, least), g.limit), when)
		}
		if g.limit > maxOptions { // not every number of rows is looked at
			out.free = in.lits[len(in.lits)-1]
		}
	} else {
		v := w.valueOf(g.rows, 0)
		for _, c := range v.cases {
			add(c.v.Number().Held(least, g.limit), c.when)
		}
		if v.free != sat.No {
			in := m.Loose(g.limit + 1)
			for n, l := range in {
				add(max(n, least), m.And(v.free, l))
			}
		}
		add(least, m.blankOnly(v))
	}
	out.cases = m.merged(out.cases)
	for i := range out.cases {
		out.cases[i].when = m.And(out.cases[i].when, shown)
	}
	out.cases = m.merged(append(out.cases, vcase{shown.Not(), expr.NumberValue(expr.Int(0))}))
	out.free = m.And(out.free, shown)
	w.counts[g] = out
	return out
}

// rowsSent is how many rows of a section are sent: as many as it can have, in any edition.
func (m *model) rowsSent(g *group) *input {
	return m.inputOf(g.key, 0, func() []any {
		most := 0
		for _, sd := range m.sides {
			if other := sd.groups[g.key]; other != nil {
				most = max(most, other.limit)
			}
		}
		var raws []any
		for n := 1; n <= min(most, maxOptions); n++ {
			raws = append(raws, n)
		}
		if most > maxOptions {
			raws = append(raws, most)
		}
		return raws
	})
}

// comparesRows reports whether editions are compared of which one lets respondents say how
// many rows there are: then an answer in a row is one only if so many are sent, for all.
func (m *model) comparesRows(key string) bool {
	return len(m.sides) > 1 && slices.ContainsFunc(m.sides, func(sd *side) bool {
		g := sd.groups[key]
		return g != nil && g.rows == nil
	})
}

// given is when a row of that number is sent.
func (m *model) given(g *group, row int) sat.Lit {
	in := m.rowsSent(g)
	var some []sat.Lit
	for i, raw := range in.raws {
		if n, _ := raw.(int); n > row {
			some = append(some, in.lits[i])
		}
	}
	return m.Or(some...)
}

// exists is when a section has a row of that number, from 0.
func (w *world) exists(g *group, row int) sat.Lit {
	return w.once("exists", g, row, func() sat.Lit {
		var some []sat.Lit
		for _, c := range w.count(g).cases {
			if n, _ := c.v.Number().Whole(); n > row {
				some = append(some, c.when)
			}
		}
		return w.side.model.Or(some...)
	})
}

// overLimit is when a section is to have more rows than it can.
func (w *world) overLimit(g *group) sat.Lit {
	m := w.side.model
	var over []sat.Lit
	if g.rows == nil {
		in := m.rowsSent(g)
		for i, raw := range in.raws {
			if n, _ := raw.(int); n > g.limit { // as another edition takes
				over = append(over, in.lits[i])
			}
		}
		return m.And(w.sectionShown(g.section), m.Or(over...))
	}
	v := w.valueOf(g.rows, 0)
	over = append(over, m.And(v.free, m.Unknown()))
	for _, c := range v.cases {
		if c.v.Number().Held(0, g.limit+1) > g.limit {
			over = append(over, c.when)
		}
	}
	return m.And(w.sectionShown(g.section), m.Or(over...))
}
