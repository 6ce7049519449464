package proof

import (
	"slices"
	"strconv"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/proof/sat"
)

// Walk is a filling to try, and what it tries: places of conditions, met or not, and of
// their parts, as shown#2 for the second.
type Walk struct {
	Witness
	Covers []string `json:"covers"`
}

// goal is a condition, or a part of one, that is to come out met, or not.
type goal struct {
	label string
	lit   sat.Lit
	c     *condition
	code  *expr.Code
	met   bool
	each  []engine.Candidate // of which it is to come out so for one; a blank one where it is about none
}

// walks finds few fillings that together bring every condition out both ways.
func (p *prover) walks(kept []engine.Filling) {
	goals := p.goals()
	p.report.Goals, p.report.Walks = len(goals), []Walk{}
	for _, g := range goals {
		if p.up() {
			break
		}
		if slices.ContainsFunc(kept, func(fl engine.Filling) bool { return p.reaches(run(p.side.program, fl), g) }) {
			p.report.Tried = append(p.report.Tried, g.label)
		}
	}
	best := p.cover(goals)
	for range 2 { // in another order it may take fewer
		if p.up() || len(best) < 3 {
			break
		}
		shuffled := slices.Clone(goals)
		for i := range shuffled {
			j := i + p.m.Any(len(shuffled)-i)
			shuffled[i], shuffled[j] = shuffled[j], shuffled[i]
		}
		if other := p.cover(shuffled); len(other) < len(best) && !p.up() {
			best = other
		}
	}
	p.report.Least = p.least(goals, best)
	for _, f := range best {
		if p.up() && len(p.report.Walks) > 0 {
			break
		}
		fl := p.m.read(p.side, f)
		o := run(p.side.program, fl)
		var covers []string
		for _, g := range goals {
			if f.Holds(g.lit) {
				covers = append(covers, g.label)
			}
		}
		if len(covers) <= 400 {
			fl = p.shrink(fl, p.covering(goals, f, o.Accepted))
		}
		p.report.Walks = append(p.report.Walks, Walk{*witnessOf(fl), covers})
	}
}

// covering tests whether a filling covers what another does, and is accepted if that is.
func (p *prover) covering(goals []goal, f sat.Filling, accepted bool) func(engine.Filling) bool {
	return func(fl engine.Filling) bool {
		o := run(p.side.program, fl)
		if accepted && !o.Accepted {
			return false
		}
		return !slices.ContainsFunc(goals, func(g goal) bool { return f.Holds(g.lit) && !p.reaches(o, g) })
	}
}

// reaches reports whether a condition came out as a goal has it, where it matters.
func (p *prover) reaches(o *engine.Outcome, g goal) bool {
	for row := 0; ; row++ {
		there := p.matters(o, g.c, row)
		if there && slices.ContainsFunc(g.each, func(cand engine.Candidate) bool {
			return (o.TruthOf(g.code, g.c.owner, row, cand) == expr.Met) == g.met
		}) {
			return true
		}
		if g.c.place.group == "" || o.Group(g.c.place.group).Count <= row+1 {
			return false
		}
	}
}

// matters reports whether nothing but a condition itself keeps it from having effect.
func (p *prover) matters(o *engine.Outcome, c *condition, row int) bool {
	if c.owner == "" {
		return o.Accepted || c == p.side.within
	}
	if it := p.side.items[c.owner]; it != nil {
		if c == it.shown.condition {
			g := it.section.group
			return o.SectionShown(it.section.Key) && (g == nil || row < o.Group(g.key).Count)
		}
		st := o.State(c.owner, row)
		return st != nil && st.Part()
	}
	_, there, ok := o.Truth(c.owner, c.property(), row)
	return !ok || there
}

// goals are all that can be covered: every condition, and every part of one that matters,
// met and not.
func (p *prover) goals() (out []goal) {
	useless := map[string]bool{}
	for _, r := range p.report.Remarks {
		if r.Kind == NoDifference {
			useless[r.At+"\x00"+r.Part] = true
		}
	}
	add := func(c *condition, label string, n expr.Node, around []sat.Lit) {
		code := p.side.code(n, c.place.scope)
		if code == nil {
			return
		}
		each := p.each(c)
		for _, met := range []bool{true, false} {
			var lits []sat.Lit
			for row := range around {
				for _, cand := range each {
					l := p.w.truthAbout(cand, n, c.place, row).met
					if !met {
						l = l.Not()
					}
					lits = append(lits, p.m.And(around[row], l))
				}
			}
			l := p.m.Or(lits...)
			if v, _ := p.possible(l); v == can && !p.m.Shaky(l) {
				out = append(out, goal{label + map[bool]string{true: ":met", false: ":not"}[met], l, c, code, met, each})
			}
		}
	}
	for _, c := range p.m.conditions {
		around := p.aroundOf(c)
		if around == nil || p.up() {
			continue
		}
		add(c, c.at, c.node, around)
		n := 0
		for _, part := range partsOf(c.node) {
			if n++; !useless[c.at+"\x00"+part.String()] {
				add(c, c.at+"#"+strconv.Itoa(n), part, around)
			}
		}
	}
	return out
}

// partsOf are the terms that a condition is joined of.
func partsOf(n expr.Node) (out []expr.Node) {
	switch n := n.(type) {
	case *expr.Logic:
		for _, t := range n.Terms {
			if deeper := partsOf(t); len(deeper) > 0 {
				out = append(out, deeper...)
			} else {
				out = append(out, t)
			}
		}
	case *expr.Not:
		return partsOf(n.X)
	}
	return out
}

// each are the choices or entries that a condition is about, one after the other: one that
// is blank for a condition that is about none.
func (p *prover) each(c *condition) []engine.Candidate {
	if !aboutEach(c) {
		return []engine.Candidate{{}}
	}
	var out []engine.Candidate
	it := p.side.items[c.owner]
	one := slices.IndexFunc(it.choices,
		func(ch choice) bool { return c == ch.offered.condition || c == ch.withheld.condition })
	for _, cand := range it.candidates {
		if (c.place.scope.Entry == nil || cand.Entry != nil) && (one < 0 || one == cand.Written) {
			out = append(out, cand)
		}
	}
	if len(out) > maxLooked {
		return nil
	}
	return out
}

// aroundOf is when a condition could have effect, in each row; nil for what is no condition.
func (p *prover) aroundOf(c *condition) []sat.Lit {
	if c.code.Type.Kind != expr.YesNo || p.never[c.owner] && c.owner != "" {
		return nil
	}
	if it := p.side.items[c.owner]; it != nil {
		if it.Parked || c == it.value || p.limited(it.section) {
			return nil
		}
		return p.overRows(it.section, func(row int) sat.Lit {
			if c == it.shown.condition {
				return p.w.around(it, row)
			}
			return p.w.part(it, row)
		})
	}
	for _, pg := range p.side.pages {
		if pg.Key == c.owner {
			if c == pg.shown.condition {
				return p.reached(pg)
			}
			return []sat.Lit{p.w.onRoute(pg)}
		}
		for _, sec := range pg.sections {
			if sec.Key != c.owner {
				continue
			}
			if c == sec.shown.condition {
				return []sat.Lit{p.w.onRoute(pg)}
			}
			return p.overRows(sec, func(row int) sat.Lit { return p.there(sec, row) })
		}
	}
	if c == p.side.within {
		return []sat.Lit{sat.Yes}
	}
	return []sat.Lit{p.w.accepted()}
}

// aboutEach reports whether a condition is about each of several choices or entries.
func aboutEach(c *condition) bool {
	each := c.place.scope.Entry != nil
	expr.Walk(c.node, func(n expr.Node) {
		name, ok := n.(*expr.Name)
		each = each || ok && name.Name == "choice" && c.place.scope.Candidate != nil
	})
	return each
}

// cover finds fillings that cover the goals, each as many as go together.
func (p *prover) cover(goals []goal) (out []sat.Filling) {
	done := make([]bool, len(goals))
	for first := range goals {
		if done[first] || p.up() {
			continue
		}
		fixed := []sat.Lit{p.w.accepted(), goals[first].lit}
		if p.m.Ask(questionEffort, fixed...) != sat.Satisfiable {
			fixed = fixed[1:]
			if p.m.Ask(questionEffort, fixed...) != sat.Satisfiable {
				continue
			}
		}
		f := p.m.Found()
		for i := first + 1; i < len(goals); i++ {
			g := goals[i]
			if done[i] || slices.Contains(fixed, g.lit.Not()) {
				continue
			}
			if !f.Holds(g.lit) {
				if p.up() || p.m.Ask(questionEffort/10, append(fixed, g.lit)...) != sat.Satisfiable {
					continue
				}
				f = p.m.Found()
			}
			fixed = append(fixed, g.lit)
		}
		for i := range goals {
			done[i] = done[i] || f.Holds(goals[i].lit)
		}
		out = append(out, f)
	}
	for i := len(out) - 1; i >= 0; i-- { // what the others cover anyway
		rest := slices.Delete(slices.Clone(out), i, i+1)
		if !slices.ContainsFunc(goals, func(g goal) bool {
			return out[i].Holds(g.lit) && !slices.ContainsFunc(rest, func(f sat.Filling) bool { return f.Holds(g.lit) })
		}) {
			out = rest
		}
	}
	return out
}

// maxPairs bounds how many pairs of goals are looked at for the least number of walks.
const maxPairs = 3000

// least is a number of walks below which it can't be done: so many goals exclude each other.
func (p *prover) least(goals []goal, walks []sat.Filling) int {
	if len(goals) == 0 {
		return 0
	}
	rarity := func(g goal) int {
		n := 0
		for _, f := range walks {
			if f.Holds(g.lit) {
				n++
			}
		}
		return n
	}
	sorted := slices.Clone(goals)
	slices.SortStableFunc(sorted, func(a, b goal) int { return rarity(a) - rarity(b) })
	best, pairs := 1, 0
	for begin := range min(len(sorted), 12) {
		var apart []goal
		for _, g := range sorted[begin:] {
			if !slices.ContainsFunc(apart, func(h goal) bool {
				pairs++
				return pairs > maxPairs || p.up() || together(walks, g, h) || !p.impossible(g.lit, h.lit)
			}) {
				apart = append(apart, g)
			}
			if len(apart) == len(walks) {
				return len(walks)
			}
		}
		best = max(best, len(apart))
	}
	return best
}

// together reports whether one of some fillings covers two goals.
func together(walks []sat.Filling, a, b goal) bool {
	return slices.ContainsFunc(walks, func(f sat.Filling) bool { return f.Holds(a.lit) && f.Holds(b.lit) })
}
