package proof

import (
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// parts remarks on parts of a condition that can be left out. refuses is for checks, which
// take effect where they are not met.
func (p *prover) parts(c *condition, name string, around []lit, refuses bool) {
	if c == nil {
		return
	}
	effect := func(n expr.Node, row int) lit {
		if t := p.w.truth(n, c.place, row); refuses {
			return t.not
		} else {
			return t.met
		}
	}
	var visit func(n expr.Node, whole func(expr.Node) expr.Node)
	visit = func(n expr.Node, whole func(expr.Node) expr.Node) {
		logic, ok := n.(*expr.Logic)
		if !ok {
			if not, ok := n.(*expr.Not); ok {
				visit(not.X, func(x expr.Node) expr.Node { return whole(&expr.Not{Place: not.Place, X: x}) })
			}
			return
		}
		for i, term := range logic.Terms {
			if p.up() {
				return
			}
			rest := whole(without(logic, i))
			differ := make([]lit, len(around))
			for row := range around {
				differ[row] = p.m.and(around[row], p.m.differ(effect(c.node, row), effect(rest, row)))
			}
			if v, _ := p.possible(p.m.or(differ...)); v == cannot {
				r := p.say(NoDifference, form.Hint, c.at, c.owner, "%s: “%s” makes no difference and can be left out.", name, p.phrase(term, c))
				r.Part, r.Shorter = term.String(), rest.String()
				continue
			}
			visit(term, func(x expr.Node) expr.Node {
				next := *logic
				next.Terms = slices.Clone(logic.Terms)
				next.Terms[i] = x
				return whole(&next)
			})
		}
	}
	visit(c.node, func(n expr.Node) expr.Node { return n })
}

// without is a conjunction or disjunction without one of its terms.
func without(l *expr.Logic, i int) expr.Node {
	rest := slices.Delete(slices.Clone(l.Terms), i, i+1)
	if len(rest) == 1 {
		return rest[0]
	}
	return &expr.Logic{Place: l.Place, Op: l.Op, Terms: rest}
}

// differ is when two literals are not the same.
func (m *model) differ(a, b lit) lit {
	if a == b {
		return no
	}
	return m.or(m.and(a, b.not()), m.and(a.not(), b))
}

// alike remarks on conditions of items that stand side by side and come to the same.
func (p *prover) alike() {
	for _, pg := range p.side.pages {
		for _, sec := range pg.sections {
			var before *item
			for _, it := range sec.items {
				if it.Parked || p.never[it.Key] || p.limited(sec) {
					before = nil
					continue
				}
				if before != nil {
					p.compareTies(before, it, before.shown.condition, it.shown.condition, false)
					p.compareTies(before, it, before.required.condition, it.required.condition, true)
				}
				before = it
			}
		}
	}
}

// compareTies compares one tie of two neighbours; shown tells that it matters only while
// both are.
func (p *prover) compareTies(a, b *item, ca, cb *condition, shown bool) {
	if ca == nil || cb == nil || expr.Equal(ca.node, cb.node) || p.up() {
		return
	}
	var same, opposite, swapped []lit
	for row := range p.overRows(a.section, func(int) lit { return yes }) {
		around := p.w.around(a, row)
		if shown {
			around = p.m.and(p.w.part(a, row), p.w.part(b, row))
		}
		x, y := p.w.of(ca, row), p.w.of(cb, row)
		same = append(same, p.m.and(around, p.m.differ(x.met, y.met)))
		opposite = append(opposite, p.m.and(around, p.m.or(p.m.differ(x.met, y.not), p.m.differ(x.not, y.met))))
		swapped = append(swapped, p.m.and(around, p.m.differ(x.met, y.met.not())))
	}
	switch {
	case p.impossible(p.m.or(same...)):
		r := p.say(SameAs, form.Hint, cb.at, b.Key, "“%s” of %s is the same as “%s” of %s, written differently.",
			p.phrase(cb.node, cb), b.Name(), p.phrase(ca.node, ca), a.Name())
		r.Other = ca.at
	case p.impossible(p.m.or(opposite...)), p.impossible(p.m.or(swapped...)):
		r := p.say(SameAs, form.Hint, cb.at, b.Key, "“%s” of %s is the opposite of “%s” of %s, written differently.",
			p.phrase(cb.node, cb), b.Name(), p.phrase(ca.node, ca), a.Name())
		r.Other = ca.at
	}
}

// toldFew are how many answers are said of an example that takes many.
const toldFew = 3

// told says the answers of a filling, but for one, the first few.
func (p *prover) told(fl engine.Filling, but string) string {
	var parts []string
	for _, a := range run(p.side.program, fl).Answered() {
		if _, answered := fl.Answers[a.Key]; answered && a.Key != but {
			parts = append(parts, a.Label+" "+a.Text)
		}
	}
	switch {
	case len(parts) > toldFew+1:
		return strings.Join(parts[:toldFew], " and ") + " and " + strconv.Itoa(len(parts)-toldFew) + " more answers"
	case len(parts) > 0:
		return strings.Join(parts, " and ")
	case len(fl.Params) > 0:
		return "such an address"
	}
	return ""
}
