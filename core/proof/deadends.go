package proof

import (
	"maps"
	"slices"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// deadEnds looks for inputs with which an item is required and takes no answer.
func (p *prover) deadEnds() {
	for _, it := range p.side.list {
		if p.never[it.Key] || !it.answerable() || it.symbol == nil || it.required.fixed && !it.required.yes {
			continue
		}
		if p.up() {
			p.leave(it.remarkPlace()+".required", it.Key, "Whether "+it.Name()+" can ever be answered is not decided.",
				sentence(p.why(nil)))
			continue
		}
		for row := range min(2, len(p.overRows(it.section, func(int) sat.Lit { return sat.Yes }))) {
			if p.deadEnd(it, row) {
				break
			}
		}
	}
}

// deadEnd looks in a row of an item for inputs with which it is required and takes no
// answer, while nothing is wrong with any other. It returns whether it found one.
func (p *prover) deadEnd(it *item, row int) bool {
	l, all := p.stuck(it, row)
	if l == sat.No || p.impossible(l) || !all && p.answeredSomehow(it) {
		return false
	}
	a := &attempts{p: p, it: it, row: row, lits: append(p.othersSound(it, row), l)}
	if !all || !a.run() {
		p.leave(it.remarkPlace()+".required", it.Key,
			"Whether there is always an answer to "+it.Name()+" that is accepted is not decided.",
			sentence(p.whyBound(it)))
	}
	return a.end || a.waits
}

// followed reports whether what decides on an answer to an item is followed as far as it is
// about that answer, so that the answers which are looked at stand for all.
func (p *prover) followed(it *item) bool {
	lost := func(b boundary) bool { return p.side.beyond[b.node] != "" }
	if it.vague || it.Type == form.Ranking && len(it.checks) > 0 || slices.ContainsFunc(it.bounds, lost) {
		return false
	}
	about := map[string]bool{it.Key: true, it.section.Key: true}
	for _, t := range p.side.program.Form.Graph().Drives(it.Key) {
		about[t.Key] = true
	}
	seen := map[*condition]bool{}
	for queue := slices.Clone(it.checks); len(queue) > 0; queue = queue[1:] {
		c := queue[0]
		if c == nil || seen[c] {
			continue
		}
		seen[c] = true
		lost := false
		expr.Walk(c.node, func(n expr.Node) { lost = lost || p.side.beyond[n] != "" && names(n, about) })
		if lost {
			return false
		}
		queue = append(queue, p.conditionsBehind(c)...)
	}
	return true
}

// names reports whether an expression names one of some items or sections.
func names(n expr.Node, some map[string]bool) (found bool) {
	expr.Walk(n, func(n expr.Node) {
		switch n := n.(type) {
		case *expr.Name:
			found = found || some[n.Name]
		case *expr.Member:
			found = found || some[n.Of] || n.Of == "row" && some[n.Name]
		}
	})
	return found
}

// answeredSomehow looks for an answer that is accepted whatever else is answered: for items
// whose checks are about nothing else.
func (p *prover) answeredSomehow(it *item) bool {
	if len(it.checks) == 0 || len(it.bounds) > 0 || it.varies() || p.runs < 10 {
		return false
	}
	for _, c := range it.checks {
		if slices.ContainsFunc(c.code.Items, func(s *expr.Symbol) bool { return s.Key != it.Key }) ||
			len(c.code.Groups) > 0 || len(c.code.Params) > 0 || c.code.Clock || c.code.Mode || c.code.Places ||
			names(c.node, map[string]bool{"row_number": true}) {
			return false
		}
	}
	l := p.m.And(p.w.open(), p.w.shown(it, 0), p.w.closed(it, 0).Not())
	if p.m.Ask(questionEffort, l) != sat.Satisfiable {
		return false
	}
	runs := min(p.runs/4, mostRuns)
	p.runs -= runs
	fl, ok := p.side.program.SeekWithin(runs, it.Key, it.checks[0].property(), expr.Met, p.m.read(p.side, p.m.Found()))
	if !ok {
		return false
	}
	o := run(p.side.program, fl)
	st := o.State(it.Key, 0)
	return st != nil && st.Fillable() && len(st.Problems()) == 0 &&
		slices.ContainsFunc(o.Answered(), func(a engine.Answered) bool { return a.Key == it.Key })
}

// stuck is when an item is shown and required and none of its answers would do, of those
// that are looked at; all tells whether they stand for all that there are.
func (p *prover) stuck(it *item, row int) (l sat.Lit, all bool) {
	m := p.m
	need := m.And(p.w.open(), p.w.shown(it, row), p.w.met(it.required, row))
	if need == sat.No {
		return sat.No, true
	}
	if len(it.checks) == 0 && it.Type != form.Ranking {
		switch it.kind() {
		case expr.Choices:
			few := p.tooFew(it, row)
			return m.And(need, p.w.closed(it, row).Not(), few), !m.Shaky(few) || len(it.candidates) <= mostSubsets
		case expr.Choice:
			return m.And(need, p.w.closed(it, row).Not(), p.noneOffered(it, row)), true
		}
	}
	if p.surelyAnswered(it, row) {
		return sat.No, true
	}
	ways := p.w.ways(it, row)
	if len(ways) == 0 {
		return need, false
	}
	lits := []sat.Lit{need}
	for i, v := range ways {
		other := p.side.world()
		other.fixed = map[string]*val{inputKey(it.Key, row): v}
		if i == 0 && len(it.checks) > 0 {
			lits = append(lits, other.met(it.required, row))
		}
		lits = append(lits, other.problem(it, row))
	}
	return m.And(lits...), it.finite() || p.followed(it)
}

// finite reports whether every answer to an item is looked at, not one of each kind.
func (it *item) finite() bool {
	if it.Type == form.Ranking {
		return false // in one order only
	}
	switch it.kind() {
	case expr.YesNo, expr.Grid:
		return true
	case expr.Choice, expr.Choices:
		return it.symbol.Type.Options.Other == "" && !it.unknownList()
	}
	return false
}

// noneOffered is when no choice is on offer.
func (p *prover) noneOffered(it *item, row int) sat.Lit {
	var offered []sat.Lit
	for i := range it.candidates {
		offer := sat.Yes
		if it.varies() {
			offer = p.w.offer(it, row, i)
		}
		offered = append(offered, offer)
	}
	return p.m.Or(offered...).Not()
}

// surelyAnswered reports whether some answer is always accepted, so that no more has to be
// looked at.
func (p *prover) surelyAnswered(it *item, row int) bool {
	if len(it.checks) > 0 || len(it.bounds) > 0 || it.varies() || !it.locked.fixed {
		return false
	}
	if it.kind() == expr.Grid || it.kind() == expr.Address {
		return true
	}
	p.w.own(it, row)
	in := p.m.inputs[inputKey(p.m.inputName(it), row)]
	if in == nil {
		return true
	}
	for _, raw := range in.raws[1:] {
		if v, ok := it.side.program.ReadAnswer(it.Key, sent(it, raw)); ok && !v.IsBlank() &&
			it.side.program.Fits(it.Key, v) &&
			(it.Type != form.Tick || v.Yes()) {
			return true
		}
	}
	return false
}

// tooFew is when fewer choices are on offer than have to be picked, or fewer may be.
func (p *prover) tooFew(it *item, row int) sat.Lit {
	m := p.m
	offered := make([]sat.Lit, len(it.candidates))
	for i := range it.candidates {
		offered[i] = sat.Yes
		if it.varies() {
			offered[i] = p.w.offer(it, row, i)
		}
	}
	at := m.atLeast(offered, len(offered))
	short := func(n int) sat.Lit {
		switch {
		case n <= 0:
			return sat.No
		case n > len(at):
			return sat.Yes
		}
		return at[n-1].Not()
	}
	lows := []vcase{{sat.Yes, expr.NumberValue(expr.Int(1))}}
	if low := p.w.picked(it, "min_picked", row); low != nil {
		lows = append(low.cases, vcase{m.blankOnly(low), expr.NumberValue(expr.Int(1))})
	}
	highs := []vcase{}
	if high := p.w.picked(it, "max_picked", row); high != nil {
		highs = high.cases
	}
	var stuck []sat.Lit
	for _, lc := range lows {
		low := lc.v.Number().Ceil().Held(1, len(at)+1)
		stuck = append(stuck, m.And(lc.when, short(low)))
		for _, hc := range highs {
			if hc.v.Number().Held(0, low) < low {
				stuck = append(stuck, m.And(lc.when, hc.when))
			}
		}
	}
	return m.Or(stuck...)
}

// isStuck runs the form to see whether an item is required and takes none of the answers
// that make a difference, while nothing is wrong with any other.
func (p *prover) isStuck(it *item, row int, fl engine.Filling) bool {
	o := run(p.side.program, fl)
	st := o.State(it.Key, row)
	if st == nil || o.Open != engine.Open || !st.Shown || !st.Required || p.othersWrong(o, it, row) {
		return false
	}
	return !slices.ContainsFunc(p.tries(it), func(raw any) bool { return !p.wrong(it, row, answered(fl, it, row, raw)) })
}

// wrong runs the form to see whether something is wrong with the answer to an item.
func (p *prover) wrong(it *item, row int, fl engine.Filling) bool {
	st := run(p.side.program, fl).State(it.Key, row)
	return st != nil && len(st.Problems()) > 0
}

// othersWrong reports whether something is wrong with any item but one.
func (p *prover) othersWrong(o *engine.Outcome, it *item, row int) bool {
	for other, r := range p.states(o) {
		if len(o.State(other.Key, r).Problems()) > 0 && !(other == it && r == row) {
			return true
		}
	}
	return false
}

// othersSound are what holds when nothing is wrong with any item but one, and no section has
// more rows than it can.
func (p *prover) othersSound(it *item, row int) (out []sat.Lit) {
	for _, other := range p.side.list {
		for r := range p.overRows(other.section, func(int) sat.Lit { return sat.Yes }) {
			if other != it || r != row {
				out = append(out, p.w.problem(other, r).Not())
			}
		}
	}
	for _, g := range p.side.groups {
		out = append(out, p.w.overLimit(g).Not())
	}
	return out
}

// mostSubsets is of how many choices every selection is tried.
const mostSubsets = 8

// tries are answers to an item, one of each kind.
func (p *prover) tries(it *item) []any {
	out := []any{nil}
	if it.kind() == expr.Choices {
		var list []any
		for _, c := range it.candidates {
			list = append(list, c.Value)
		}
		for n := range len(list) { // as many as it takes, from either end
			out = append(out, list[:n+1], list[n:])
		}
		for _, one := range list {
			out = append(out, []any{one})
		}
		if len(list) <= mostSubsets {
			for bits := range 1 << len(list) {
				var some []any
				for i, l := range list {
					if bits>>i&1 == 1 {
						some = append(some, l)
					}
				}
				out = append(out, some)
			}
		}
		return out
	}
	switch it.kind() {
	case expr.Grid:
		return append(out, gridAnswers(it)...)
	case expr.Address:
		for _, parts := range p.m.addresses(it) {
			one := map[string]any{}
			for name, text := range parts {
				one[name] = text
			}
			out = append(out, one)
		}
		return out
	}
	for _, raw := range p.m.raws(it) {
		raw = sent(it, raw)
		if o := it.symbol.Type.Options; o != nil && o.Other != "" && raw == any(o.Other) {
			for _, text := range p.m.othersOf(it) {
				out = append(out, map[string]any{"value": raw, "text": text})
			}
			continue
		}
		out = append(out, raw)
	}
	return out
}

// gridAnswers are all fillings of a small grid.
func gridAnswers(it *item) []any {
	out := []any{map[string]any{}}
	for _, r := range it.Rows {
		for _, before := range slices.Clone(out) {
			for _, o := range it.symbol.Type.Options.Values {
				one := maps.Clone(before.(map[string]any))
				one[r.Key] = o
				out = append(out, one)
			}
		}
		if len(out) > 4*maxWays {
			break
		}
	}
	return out
}

// answered is a filling in which an item is answered otherwise.
func answered(fl engine.Filling, it *item, row int, raw any) engine.Filling {
	answers := map[string]any{}
	for k, v := range fl.Answers {
		answers[k] = v
	}
	g := it.section.group
	if g == nil {
		answers[it.Key] = raw
	} else {
		rows, _ := answers[g.key].([]any)
		rows = slices.Clone(rows)
		for len(rows) <= row {
			rows = append(rows, map[string]any{})
		}
		one := map[string]any{}
		if m, ok := rows[row].(map[string]any); ok {
			for k, v := range m {
				one[k] = v
			}
		}
		one[it.Key] = raw
		rows[row] = one
		answers[g.key] = rows
	}
	fl.Answers = answers
	return fl
}
