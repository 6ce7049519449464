package proof

import (
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// fits is when an answer keeps its limits.
func (w *world) fits(it *item, row int, v *val) sat.Lit {
	m := w.side.model
	var wrong []sat.Lit
	p := w.side.program
	for _, c := range v.cases {
		if v.parts != nil && it.kind() != expr.Address {
			break
		}
		if !it.judges(c.v) {
			wrong = append(wrong, m.And(c.when, m.Unknown()))
		} else if !p.Fits(it.Key, c.v) {
			wrong = append(wrong, c.when)
		}
	}
	if v.free != sat.No {
		wrong = append(wrong, m.And(v.free, m.Unknown()))
	}
	if other := v.parts[otherPart]; other != nil && it.kind() != expr.Address {
		picked := w.isOther(it, v)
		if v.set != nil {
			picked = m.And(v.set.present, w.otherPicked(it, v))
		}
		wrong = append(wrong, m.And(picked, m.blank(other)))
	}
	for _, b := range it.bounds {
		wrong = append(wrong, w.beyondBound(it, row, v, b))
	}
	if v.set != nil {
		wrong = append(wrong, w.miscounted(it, row, v))
	}
	return m.Or(wrong...).Not()
}

// beyondBound is when an answer does not keep a bound that is an expression.
func (w *world) beyondBound(it *item, row int, v *val, b boundary) sat.Lit {
	m := w.side.model
	if strings.HasSuffix(b.property, "_picked") {
		return sat.No // counted with the fixed ones
	}
	x := bounded(b.property, &expr.Name{Name: it.Key})
	if x == nil || w.side.beyond[b.node] != "" {
		return m.Unknown()
	}
	var wrong []sat.Lit
	bound := w.expr(b.node, b.place, row)
	for _, c := range v.cases {
		val := c.v
		if strings.HasSuffix(b.property, "_length") {
			val = expr.NumberValue(expr.Int(int64(expr.Length(c.v.Text()))))
		}
		for _, bc := range bound.cases {
			less, more := val, bc.v
			if strings.HasPrefix(b.property, "max") {
				less, more = more, less
			}
			if order, ok := compareValues(&less, &more); ok && order < 0 {
				wrong = append(wrong, m.And(c.when, bc.when))
			}
		}
		if bound.free != sat.No {
			wrong = append(wrong, m.And(c.when, bound.free, m.Unknown()))
		}
	}
	return m.Or(wrong...)
}

// compareValues orders two values of one kind.
func compareValues(a, b *expr.Value) (int, bool) {
	if a.Kind() != b.Kind() {
		return 0, false
	}
	switch a.Kind() {
	case expr.Num:
		return a.Number().Cmp(b.Number()), true
	case expr.Text:
		return strings.Compare(a.Text(), b.Text()), true
	case expr.Date, expr.Time, expr.Moment:
		switch {
		case a.Unix() < b.Unix():
			return -1, true
		case a.Unix() > b.Unix():
			return 1, true
		}
		return 0, true
	}
	return 0, false
}

// miscounted is when too few or too many are picked; a set without picks is left alone.
func (w *world) miscounted(it *item, row int, v *val) sat.Lit {
	m := w.side.model
	low, high := w.picked(it, "min_picked", row), w.picked(it, "max_picked", row)
	if low == nil && high == nil {
		return sat.No
	}
	var of []sat.Lit
	for _, p := range v.set.of {
		of = append(of, m.And(v.set.present, p))
	}
	at := m.atLeast(of, len(of))
	some := sat.No
	if len(at) > 0 {
		some = at[0]
	}
	var wrong []sat.Lit
	reach := func(n int) sat.Lit { // when at least n are picked
		switch {
		case n <= 0:
			return sat.Yes
		case n > len(at):
			return sat.No
		}
		return at[n-1]
	}
	for i, bound := range []*val{low, high} {
		if bound == nil {
			continue
		}
		for _, c := range bound.cases {
			if i == 0 {
				n := c.v.Number().Ceil().Held(0, len(at)+1)
				wrong = append(wrong, m.And(c.when, some, reach(n).Not()))
			} else {
				n := c.v.Number().Held(-1, len(at))
				wrong = append(wrong, m.And(c.when, some, reach(n+1)))
			}
		}
		if bound.free != sat.No {
			wrong = append(wrong, m.And(bound.free, some, m.Unknown()))
		}
	}
	return m.Or(wrong...)
}

// picked is a bound on how many are picked, nil if there is none.
func (w *world) picked(it *item, property string, row int) *val {
	for _, b := range it.bounds {
		if b.property == property {
			return w.valueOf(b.condition, row)
		}
	}
	for _, b := range it.Bounds() {
		if b.Property == property {
			if lit, ok := literalBound(b, expr.Num).(*expr.Literal); ok && lit != nil {
				return &val{free: sat.No, cases: []vcase{{sat.Yes, expr.NumberValue(lit.Num)}}}
			}
		}
	}
	return nil
}

// problem is when something is wrong with the answer to an item.
func (w *world) problem(it *item, row int) sat.Lit {
	return w.once("problem", it, row, func() sat.Lit {
		m := w.side.model
		part := w.part(it, row)
		if it.symbol == nil || part == sat.No {
			return sat.No
		}
		v := w.value(it, row)
		var wrong []sat.Lit
		open := m.And(w.shown(it, row), w.closed(it, row).Not())
		wrong = append(wrong, m.And(open, w.met(it.required, row), w.missing(it, row, v)))
		wrong = append(wrong, m.And(open, w.fits(it, row, v).Not()))
		if it.Type == form.Ranking && v.set != nil {
			wrong = append(wrong, m.And(open, w.halfRanked(it, row, v)))
		}
		for _, c := range it.checks {
			wrong = append(wrong, w.truthOf(c, row).not)
		}
		return m.And(part, m.Or(wrong...))
	})
}

// refused is when an answer to an item stands that is not accepted; what is not ticked is no
// answer here.
func (w *world) refused(it *item, row int) sat.Lit {
	return w.once("refused", it, row, func() sat.Lit {
		m := w.side.model
		v := w.value(it, row)
		missing := m.blank(v)
		if it.Type == form.Tick {
			missing = w.missing(it, row, v)
		}
		return m.And(w.problem(it, row), missing.Not())
	})
}

// noneRefused is when no answer stands that is not accepted.
func (w *world) noneRefused() sat.Lit {
	return w.once("none refused", w.side, 0, func() sat.Lit { return w.side.model.And(w.accepts()...) })
}

// accepts are for every item, in each row, that no answer to it stands that is not accepted.
func (w *world) accepts() (out []sat.Lit) {
	for _, it := range w.side.list {
		if it.symbol == nil {
			continue
		}
		rows := 1
		if g := it.section.group; g != nil {
			rows = g.depth
		}
		for row := range rows {
			out = append(out, w.refused(it, row).Not())
		}
	}
	return out
}

// halfRanked is when some of the choices on offer are ranked and others are not.
func (w *world) halfRanked(it *item, row int, v *val) sat.Lit {
	m := w.side.model
	var some, left []sat.Lit
	for i, p := range v.set.of {
		offered := sat.Yes
		if it.varies() {
			offered = w.offer(it, row, i)
		}
		some, left = append(some, m.And(v.set.present, p)), append(left, m.And(offered, p.Not()))
	}
	return m.And(m.Or(some...), m.Or(left...))
}

// missing is when a required answer is not there.
func (w *world) missing(it *item, row int, v *val) sat.Lit {
	m := w.side.model
	switch {
	case it.Type == form.Tick:
		var ticked []sat.Lit
		for _, c := range v.cases {
			if c.v.Yes() {
				ticked = append(ticked, c.when)
			}
		}
		if v.free != sat.No {
			ticked = append(ticked, m.And(v.free, m.Unknown()))
		}
		return m.Or(ticked...).Not()
	case it.kind() == expr.Grid:
		var empty []sat.Lit
		for i, c := range v.cells {
			empty = append(empty, m.And(w.met(it.rows[i], row), m.blank(c)))
		}
		return m.Or(empty...)
	}
	return m.blank(v)
}

// accepted is when a filling can be sent.
func (w *world) accepted() sat.Lit {
	return w.once("accepted", w.side, 0, func() sat.Lit {
		m := w.side.model
		all := []sat.Lit{}
		if !w.later {
			all = append(all, w.open())
		}
		for _, pg := range w.side.pages {
			for _, c := range pg.checks {
				all = append(all, m.And(w.onRoute(pg), w.truthOf(c, 0).not).Not())
			}
			for _, sec := range pg.sections {
				all = append(all, w.sound(sec))
			}
		}
		return m.And(all...)
	})
}

// sound is when nothing is wrong in a section.
func (w *world) sound(sec *section) sat.Lit {
	m := w.side.model
	rows := 1
	if sec.group != nil {
		rows = sec.group.depth
	}
	var all []sat.Lit
	for row := range rows {
		there := w.sectionShown(sec)
		if sec.group != nil {
			there = w.exists(sec.group, row)
		}
		for _, c := range sec.checks {
			all = append(all, m.And(there, w.truthOf(c, row).not).Not())
		}
		for _, it := range sec.items {
			all = append(all, w.problem(it, row).Not())
		}
	}
	if g := sec.group; g != nil {
		all = append(all, w.overLimit(g).Not())
	}
	return m.And(all...)
}

// open is when the form takes responses.
func (w *world) open() sat.Lit {
	return w.once("open", w.side, 0, func() sat.Lit {
		m := w.side.model
		all := []sat.Lit{w.truthOf(w.side.within, 0).met}
		var times []sat.Lit
		for _, c := range m.clockCases() {
			if w.side.program.WithinDates(time.Unix(c.v.Unix(), 0)) {
				times = append(times, c.when)
			}
		}
		return m.And(append(all, m.Or(times...))...)
	})
}
