package proof

import (
	"cmp"
	"maps"
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

// deadEnds looks for inputs with which an item is required and takes no answer.
func (p *prover) deadEnds() {
	for _, it := range p.side.list {
		if p.never[it.Key] || !it.answerable() || it.symbol == nil || it.required.fixed && !it.required.yes {
			continue
		}
		if p.up() {
			p.leave(it.at()+".required", it.Key, "Whether "+it.Name()+" can ever be answered is not decided.", sentence(p.why(nil)))
			continue
		}
		for row := range min(2, len(p.overRows(it.section, func(int) lit { return yes }))) {
			if p.deadEnd(it, row) {
				break
			}
		}
	}
}

// deadEnd looks for one in a row of an item.
func (p *prover) deadEnd(it *item, row int) bool {
	l, all := p.stuck(it, row)
	if l == no || p.impossible(l) || !all && p.answeredSomehow(it) {
		return false
	}
	for range 4 {
		if !all || p.m.ask(questionEffort, l) != satisfiable {
			break
		}
		fl := p.m.read(p.side, p.m.found())
		if !p.isStuck(it, row, fl) {
			if !p.m.shaky(l) {
				break
			}
			for v := range p.m.solver.phases {
				p.m.solver.phases[v] = p.m.luck.below(3) == 0
			}
			continue
		}
		fl = shrink(fl, func(fl engine.Filling) bool { return p.isStuck(it, row, fl) })
		with := p.told(fl, it.Key)
		r := p.say(DeadEnd, form.Error, it.at()+".required", it.Key, "%s is required, and with %s no answer to it is accepted.",
			it.Name(), cmp.Or(with, "nothing else answered"))
		r.With = with
		r.Witness = witnessOf(fl)
		return true
	}
	p.leave(it.at()+".required", it.Key, "Whether there is always an answer to "+it.Name()+" that is accepted is not decided.",
		sentence(p.whyBound(it)))
	return false
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
		queue = append(queue, p.behind(c)...)
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
			found = found || some[n.Of]
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
			len(c.code.Groups) > 0 || len(c.code.Params) > 0 || c.code.Clock || c.code.Mode || c.code.Places {
			return false
		}
	}
	l := p.m.and(p.w.open(), p.w.shown(it, 0), p.w.closed(it, 0).not())
	if p.m.ask(questionEffort, l) != satisfiable {
		return false
	}
	runs := min(p.runs/4, mostRuns)
	p.runs -= runs
	fl, ok := p.side.program.SeekWithin(runs, it.Key, it.checks[0].property(), expr.Met, p.m.read(p.side, p.m.found()))
	if !ok {
		return false
	}
	o := run(p.side.program, fl)
	st := o.State(it.Key, 0)
	return st != nil && st.Fillable() && len(st.Problems()) == 0 &&
		slices.ContainsFunc(o.Answered(), func(a engine.Answered) bool { return a.Key == it.Key })
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

// stuck is when an item is shown and required and none of its answers would do, of those
// that are looked at; all tells whether they stand for all that there are.
func (p *prover) stuck(it *item, row int) (l lit, all bool) {
	m := p.m
	need := m.and(p.w.open(), p.w.shown(it, row), p.w.met(it.required, row))
	if need == no {
		return no, true
	}
	if len(it.checks) == 0 && it.Type != form.Ranking {
		switch it.kind() {
		case expr.Choices:
			few := p.tooFew(it, row)
			return m.and(need, p.w.closed(it, row).not(), few), !m.shaky(few) || len(it.candidates) <= mostSubsets
		case expr.Choice:
			return m.and(need, p.w.closed(it, row).not(), p.noneOffered(it, row)), true
		}
	}
	if p.surelyAnswered(it, row) {
		return no, true
	}
	ways := p.w.ways(it, row)
	if len(ways) == 0 {
		return need, false
	}
	lits := []lit{need}
	for i, v := range ways {
		other := p.side.world()
		other.fixed = map[string]*val{inputKey(it.Key, row): v}
		if i == 0 && len(it.checks) > 0 {
			lits = append(lits, other.met(it.required, row))
		}
		lits = append(lits, other.problem(it, row))
	}
	return m.and(lits...), it.finite() || p.followed(it)
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
func (p *prover) noneOffered(it *item, row int) lit {
	var offered []lit
	for i := range it.candidates {
		offer := yes
		if it.varies() {
			offer = p.w.offer(it, row, i)
		}
		offered = append(offered, offer)
	}
	return p.m.or(offered...).not()
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
		if v, ok := it.side.program.ReadAnswer(it.Key, sent(it, raw)); ok && !v.IsBlank() && it.side.program.Fits(it.Key, v) &&
			(it.Type != form.Tick || v.Yes()) {
			return true
		}
	}
	return false
}

// tooFew is when fewer choices are on offer than have to be picked, or fewer may be.
func (p *prover) tooFew(it *item, row int) lit {
	m := p.m
	offered := make([]lit, len(it.candidates))
	for i := range it.candidates {
		offered[i] = yes
		if it.varies() {
			offered[i] = p.w.offer(it, row, i)
		}
	}
	at := m.atLeast(offered, len(offered))
	short := func(n int) lit {
		switch {
		case n <= 0:
			return no
		case n > len(at):
			return yes
		}
		return at[n-1].not()
	}
	lows := []vcase{{yes, expr.NumberValue(expr.Int(1))}}
	if low := p.w.picked(it, "min_picked", row); low != nil {
		lows = append(low.cases, vcase{m.blankOnly(low), expr.NumberValue(expr.Int(1))})
	}
	highs := []vcase{}
	if high := p.w.picked(it, "max_picked", row); high != nil {
		highs = high.cases
	}
	var stuck []lit
	for _, lc := range lows {
		ceil, ok := lc.v.Number().Ceil()
		low, fits := wholeOf(ceil, ok)
		if !fits {
			continue
		}
		low = max(low, 1)
		stuck = append(stuck, m.and(lc.when, short(low)))
		for _, hc := range highs {
			if floor, ok := hc.v.Number().Floor(); ok && floor.Cmp(expr.Int(int64(low))) < 0 {
				stuck = append(stuck, m.and(lc.when, hc.when))
			}
		}
	}
	return m.or(stuck...)
}

// isStuck runs the form to see whether an item is required and takes none of the answers
// that make a difference.
func (p *prover) isStuck(it *item, row int, fl engine.Filling) bool {
	need := func(fl engine.Filling) (required, wrong bool) {
		o := run(p.side.program, fl)
		st := o.State(it.Key, row)
		return st != nil && o.Open == engine.Open && st.Shown && st.Required, st != nil && len(st.Problems()) > 0
	}
	if required, _ := need(fl); !required {
		return false
	}
	for _, raw := range p.tries(it) {
		if _, wrong := need(answered(fl, it, row, raw)); !wrong {
			return false
		}
	}
	return true
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

// passed looks for items that can appear on a page that the respondent has left behind.
func (p *prover) passed() {
	graph := p.side.program.Form.Graph()
	for _, pg := range p.side.pages {
		later := map[string]bool{}
		for _, after := range p.side.pages[pg.index+1:] {
			for _, sec := range after.sections {
				if sec.group != nil {
					later[sec.Key] = true
				}
				for _, it := range sec.items {
					later[it.Key] = true
				}
			}
		}
		var before *world
		for _, sec := range pg.sections {
			for _, it := range sec.items {
				if p.never[it.Key] || it.Parked || it.Staff || it.Type.Computed() || p.up() || !dependsOn(graph, later, it.Key, sec.Key) {
					continue
				}
				if before == nil {
					before = p.side.world()
					before.without = later
				}
				p.late(it, before, later)
			}
		}
	}
}

func dependsOn(g *form.Graph, later map[string]bool, keys ...string) bool {
	for _, key := range keys {
		for _, t := range g.Needs(key) {
			if later[t.Key] {
				return true
			}
		}
	}
	return false
}

// late looks for an input with which an item is shown that was not while the pages after
// its own were not filled in yet.
func (p *prover) late(it *item, before *world, later map[string]bool) {
	rows := p.overRows(it.section, func(row int) lit {
		return p.m.and(p.w.shown(it, row), before.shown(it, row).not())
	})
	l := p.m.or(rows...)
	if l == no || p.impossible(l) {
		return
	}
	shown := func(fl engine.Filling) bool {
		return anyRow(run(p.side.program, fl), it, func(st *engine.ItemState) bool { return st.Shown })
	}
	test := func(fl engine.Filling) bool {
		if !shown(fl) {
			return false
		}
		early := fl
		early.Answers = map[string]any{}
		for k, v := range fl.Answers {
			if !later[k] {
				early.Answers[k] = v
			}
		}
		return !shown(early)
	}
	for range 4 {
		if p.m.ask(questionEffort, l) != satisfiable {
			break
		}
		fl := p.m.read(p.side, p.m.found())
		if !test(fl) {
			for v := range p.m.solver.phases {
				p.m.solver.phases[v] = p.m.luck.below(3) == 0
			}
			continue
		}
		fl = shrink(fl, test)
		r := p.say(Late, form.Hint, it.at()+".shown", it.Key, "%s can appear on a page that the respondent has passed, with %s.", it.Name(), cmp.Or(p.told(fl, it.Key), "nothing else answered"))
		r.Witness = witnessOf(fl)
		return
	}
	p.leave(it.at()+".shown", it.Key, "Whether "+it.Name()+" can appear after its page was passed is not decided.", sentence(p.why(it.shown.condition)))
}
