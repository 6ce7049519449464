package proof

import (
	"maps"
	"slices"
	"strconv"
	"strings"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// differs is when it makes a difference that a condition reads otherwise.
type differs func(rest expr.Node) sat.Lit

// comesOut is the difference of a condition that takes effect where it is met, or not met,
// in the rows in which something holds around it.
func (p *prover) comesOut(c *condition, around []sat.Lit, met bool) differs {
	effect := func(n expr.Node, row int) sat.Lit {
		if t := p.w.truth(n, c.place, row); met {
			return t.met
		} else {
			return t.not
		}
	}
	return func(rest expr.Node) sat.Lit {
		differ := make([]sat.Lit, len(around))
		for row := range around {
			differ[row] = p.m.And(around[row], p.m.differ(effect(c.node, row), effect(rest, row)))
		}
		return p.m.Or(differ...)
	}
}

// leadsOn is the difference of a way to another page: that some page is on the route.
func (p *prover) leadsOn(c *condition, pg *page) differs {
	here := p.comesOut(c, []sat.Lit{p.w.onRoute(pg)}, true)
	return func(rest expr.Node) sat.Lit {
		if here(rest) == sat.No {
			return sat.No
		}
		other := p.w.instead(c, rest)
		var differ []sat.Lit
		for _, later := range p.side.pages[pg.index+1:] {
			differ = append(differ, p.m.differ(p.w.onRoute(later), other.onRoute(later)))
		}
		return p.m.And(here(rest), p.m.Or(differ...)) // what is not known may differ, but not without the condition
	}
}

// answersWith is the difference of a condition on what is offered or filled in: what is
// offered while the item is shown, and what counts as its answer, shown or not.
func (p *prover) answersWith(c *condition, it *item, parts []sat.Lit) differs {
	if c == nil {
		return nil
	}
	here := p.candidates(c, it, len(parts))
	if c == it.when && names(it.value.node, map[string]bool{"url": true}) {
		return here // what the address brings and is no answer is told, though nothing comes of it
	}
	return func(rest expr.Node) sat.Lit {
		if here(rest) == sat.No {
			return sat.No
		}
		other := p.w.instead(c, rest)
		var differ []sat.Lit
		for row := range parts {
			differ = append(differ, p.m.differs(p.w.value(it, row), other.value(it, row)))
			if !it.varies() {
				continue
			}
			for i := range it.candidates {
				differ = append(differ, p.m.And(parts[row], p.m.differ(p.w.offer(it, row, i), other.offer(it, row, i))))
			}
		}
		return p.m.And(here(rest), p.m.Or(differ...))
	}
}

// candidates is when a condition differs for some choice at all, in some row.
func (p *prover) candidates(c *condition, it *item, rows int) differs {
	around := make([]sat.Lit, rows)
	for row := range around {
		around[row] = sat.Yes
	}
	one := p.comesOut(c, around, true)
	if c.place.scope.Candidate == nil && it.where != c {
		return one
	}
	if it.where == c {
		return func(expr.Node) sat.Lit { return sat.Yes }
	}
	return func(rest expr.Node) sat.Lit {
		before := p.w.candidate
		defer func() { p.w.candidate = before }()
		var some []sat.Lit
		for _, cand := range it.candidates {
			p.w.candidate = cand.Value
			some = append(some, one(rest))
		}
		return p.m.Or(some...)
	}
}

// parts remarks on parts of a condition that can be left out, since without them nothing
// comes out otherwise.
func (p *prover) parts(c *condition, name string, look differs) {
	if c == nil {
		return
	}
	times, nth := map[string]int{}, map[expr.Node]int{}
	expr.Walk(c.node, func(n expr.Node) {
		times[n.String()]++
		nth[n] = times[n.String()]
	})
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
			if p.impossible(look(rest)) {
				which := ""
				if times[term.String()] > 1 {
					which = ", where it stands the " + ordinal(nth[term]) + " time,"
				}
				r := p.say(NoDifference, form.Hint, c.at, c.owner, "%s: “%s”%s makes no difference and can be left out.", name,
					p.phrase(term, c), which)
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

// ordinal says which of several is meant.
func ordinal(n int) string {
	if words := []string{"first", "second", "third", "fourth", "fifth"}; n <= len(words) {
		return words[n-1]
	}
	return strconv.Itoa(n) + "th"
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
func (m *model) differ(a, b sat.Lit) sat.Lit {
	if a == b {
		return sat.No
	}
	return m.Or(m.And(a, b.Not()), m.And(a.Not(), b))
}

// differs is when two values of one make are not the same; what is not known may differ.
func (m *model) differs(a, b *val) sat.Lit {
	if a == b {
		return sat.No
	}
	at := map[string][2]sat.Lit{}
	for i, cases := range [][]vcase{a.cases, b.cases} {
		for _, c := range cases {
			both, ok := at[keyOf(&c.v)]
			if !ok {
				both = [2]sat.Lit{sat.No, sat.No}
			}
			both[i] = m.Or(both[i], c.when)
			at[keyOf(&c.v)] = both
		}
	}
	differ := []sat.Lit{a.free, b.free}
	for _, key := range slices.Sorted(maps.Keys(at)) {
		differ = append(differ, m.differ(at[key][0], at[key][1]))
	}
	if a.set != nil && b.set != nil {
		for i := range a.set.of {
			differ = append(differ, m.differ(m.And(a.set.present, a.set.of[i]), m.And(b.set.present, b.set.of[i])))
		}
	}
	for i := range a.cells {
		differ = append(differ, m.differs(a.cells[i], b.cells[i]))
	}
	for _, name := range slices.Sorted(maps.Keys(a.parts)) {
		if b.parts[name] != nil {
			differ = append(differ, m.differs(a.parts[name], b.parts[name]))
		}
	}
	return m.Or(differ...)
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
	var same, opposite, swapped []sat.Lit
	for row := range p.overRows(a.section, func(int) sat.Lit { return sat.Yes }) {
		around := p.w.around(a, row)
		if shown {
			around = p.m.And(p.w.part(a, row), p.w.part(b, row))
		}
		x, y := p.w.truthOf(ca, row), p.w.truthOf(cb, row)
		same = append(same, p.m.And(around, p.m.differ(x.met, y.met)))
		opposite = append(opposite, p.m.And(around, p.m.Or(p.m.differ(x.met, y.not), p.m.differ(x.not, y.met))))
		swapped = append(swapped, p.m.And(around, p.m.differ(x.met, y.met.Not())))
	}
	switch {
	case p.impossible(p.m.Or(same...)):
		r := p.say(SameAs, form.Hint, cb.at, b.Key, "“%s” of %s is the same as “%s” of %s, written differently.",
			p.phrase(cb.node, cb), b.Name(), p.phrase(ca.node, ca), a.Name())
		r.Other = ca.at
	case p.impossible(p.m.Or(opposite...)), p.impossible(p.m.Or(swapped...)):
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
