package proof

import (
	"slices"
	"strconv"
	"unicode"
	"unicode/utf8"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// remarks finds everything that is never, or always, so.
func (p *prover) remarks() {
	p.acceptance()
	for _, pg := range p.side.pages {
		p.page(pg)
	}
	p.outgoing()
	p.alike()
	p.deadEnds()
	p.passed()
	p.report.Conditions = len(p.m.conditions)
}

// acceptance asks first of all whether the form can be sent, for where it can't nothing else
// that is said of sending means anything. That the formulas allow it is not enough: what is
// free in them may be what is refused, so an input has to be accepted by the engine.
func (p *prover) acceptance() {
	switch p.decide(nil, func(o *engine.Outcome) bool { return o.Accepted }, expr.Met, p.w.accepted()) {
	case cannot:
		p.say(NeverAccepted, form.Error, "pages", "", "Whatever is answered, the form can’t be sent.")
		p.never[""] = true
	case open:
		if !p.mayBeSent() {
			p.leave("pages", "", "Whether the form can be sent is not decided.", sentence(p.why(nil)))
		}
	}
}

// mayBeSent looks for a filling that is accepted among some.
func (p *prover) mayBeSent() bool {
	for range 20 {
		if p.m.Ask(questionEffort, append([]sat.Lit{p.w.accepted()}, p.m.plain...)...) != sat.Satisfiable {
			return false
		}
		f := p.m.Found()
		if run(p.side.program, p.m.read(p.side, f)).Accepted {
			return true
		}
		p.m.Shake()
	}
	return false
}

// page remarks on a page before on what stands in it: of what is in a page that is never shown
// only that it isn't is said, which p.never hands down.
func (p *prover) page(pg *page) {
	name := p.side.program.Form.PageName(pg.index)
	at := "pages/" + pg.Key
	on := p.w.onRoute(pg)
	test := func(o *engine.Outcome) bool { return o.OnRoute(pg.Key) }
	switch p.decide(pg.shown.condition, test, expr.Met, on) {
	case cannot:
		p.never[pg.Key] = true
		why := "no way leads to it."
		if p.w.met(pg.shown, 0) == sat.No || p.impossible(p.w.met(pg.shown, 0)) {
			why = p.needs(pg.shown.condition)
		}
		p.say(NeverShown, form.Warning, at, pg.Key, "The page %s is never shown: %s", name, why)
	case open:
		p.leave(at+".shown", pg.Key, "Whether the page "+name+" is ever shown is not decided.",
			sentence(p.why(pg.shown.condition)))
	}
	if !p.never[pg.Key] {
		p.tie(pg.shown.condition, "The page "+name, "", p.reached(pg), 1)
		p.routes(pg, name)
		p.checks(pg.checks, name, []sat.Lit{on})
	}
	for _, sec := range pg.sections {
		p.section(sec)
	}
}

// reached is when the pages before do not lead past a page.
func (p *prover) reached(pg *page) []sat.Lit {
	m := p.m
	var passed []sat.Lit
	for _, before := range p.side.pages[:pg.index] {
		for j, target := range before.targets {
			if target > pg.index {
				passed = append(passed, p.w.leads(before, j))
			}
		}
	}
	return []sat.Lit{m.Or(passed...).Not()}
}

// impossible is the only ground for a claim of never: what is not followed is free, so what
// the formulas rule out even so, the engine can't do.
func (p *prover) impossible(lits ...sat.Lit) bool {
	v, _ := p.possible(lits...)
	return v == cannot
}

func sentence(s string) string {
	if s == "" {
		return s
	}
	first, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(first)) + s[size:] + "."
}

// needs is the reason that authors can mend, the condition, rather than the formula.
func (p *prover) needs(c *condition) string {
	if c == nil {
		return "it is fixed so."
	}
	return "it needs that " + p.phrase(c.node, c) + "."
}

func (p *prover) phrase(n expr.Node, c *condition) string {
	return expr.PiecesText(c.place.scope.Phrase(n))
}

// routes remarks on ways that are never gone. A way is gone where it is met and none before it
// is; the first needs no look at others, and is judged as the tie that it is.
func (p *prover) routes(pg *page, name string) {
	m := p.m
	for j := 1; j < len(pg.next); j++ {
		c := pg.next[j]
		var earlier []sat.Lit
		for _, e := range pg.next[:j] {
			earlier = append(earlier, p.w.truthOf(e, 0).met)
		}
		met := p.w.truthOf(c, 0).met
		taken := m.And(met, m.Or(earlier...).Not())
		switch p.decide(c, nil, expr.Met, p.w.onRoute(pg), taken) {
		case cannot:
			if p.impossible(p.w.onRoute(pg), met) {
				p.say(RouteShadowed, form.Warning, c.at, pg.Key,
					"On %s, the way “%s” is never taken: its condition can’t be met there.",
					name, p.phrase(c.node, c))
				continue
			}
			p.say(RouteShadowed, form.Warning, c.at, pg.Key,
				"On %s, the way “%s” is never taken: one before it is always met when it is.",
				name, p.phrase(c.node, c))
		case open:
			p.leave(c.at, pg.Key, "Whether this way is ever taken is not decided.", sentence(p.why(c)))
		}
	}
	for _, c := range pg.next {
		p.parts(c, name, p.leadsOn(c, pg))
	}
}

func (p *prover) section(sec *section) {
	name := sec.Name()
	at := "pages/" + sec.page.Key + "/" + sec.Key
	if p.never[sec.page.Key] {
		p.never[sec.Key] = true
		p.say(NeverShown, form.Warning, at, sec.Key, "The section %s is never shown: its page never is.",
			name).Other = sec.page.Key
	} else {
		shown := p.w.sectionShown(sec)
		switch p.decide(sec.shown.condition, func(o *engine.Outcome) bool { return o.SectionShown(sec.Key) }, expr.Met,
			shown) {
		case cannot:
			p.never[sec.Key] = true
			p.say(NeverShown, form.Warning, at, sec.Key, "The section %s is never shown: %s", name, p.needs(sec.shown.condition))
		case open:
			p.leave(at+".shown", sec.Key, "Whether the section "+name+" is ever shown is not decided.",
				sentence(p.why(sec.shown.condition)))
		}
		if !p.never[sec.Key] {
			p.tie(sec.shown.condition, "The section "+name, "", []sat.Lit{p.w.onRoute(sec.page)}, 1)
			p.checks(sec.checks, name, p.overRows(sec, func(row int) sat.Lit { return p.there(sec, row) }))
		}
	}
	for _, it := range sec.items {
		p.item(it)
	}
}

// there is when a section is shown and has a row of that number.
func (p *prover) there(sec *section, row int) sat.Lit {
	if sec.group != nil {
		return p.w.exists(sec.group, row)
	}
	return p.w.sectionShown(sec)
}

// overRows gathers a literal for each row of a section that is looked at.
func (p *prover) overRows(sec *section, of func(row int) sat.Lit) []sat.Lit {
	n := 1
	if sec.group != nil {
		n = sec.group.depth
	}
	out := make([]sat.Lit, n)
	for row := range out {
		out[row] = of(row)
	}
	return out
}

// limited reports whether what is so in the rows that are looked at need not be so in all:
// where a form counts its rows.
func (p *prover) limited(sec *section) bool {
	g := sec.group
	if g == nil || g.depth == g.limit {
		return false
	}
	for _, c := range p.m.conditions {
		counts := false
		expr.Walk(c.node, func(n expr.Node) {
			name, ok := n.(*expr.Name)
			counts = counts || ok && name.Name == "row_number"
		})
		if counts && c.place.group == g.key {
			return true
		}
	}
	return false
}

// item remarks on an item. It is not asked of its section again: parts is when it takes part, in
// each row, and every tie is judged within that, since a tie that is never met where its item
// is not shown says nothing about the tie.
func (p *prover) item(it *item) {
	if it.Parked {
		return
	}
	sec := it.section
	if p.limited(sec) {
		if !p.never[sec.Key] {
			p.leave(it.remarkPlace(), it.Key, "What becomes of "+it.Name()+" is not decided.",
				"It stands in more rows than are looked at, and their number counts.")
		}
		return
	}
	if p.never[sec.Key] {
		p.never[it.Key] = true
		if !it.Staff {
			p.say(NeverShown, form.Warning, it.remarkPlace(), it.Key, "%s is never shown: %s never is.", called(it),
				sec.Name()).Other = sec.Key
		}
		return
	}
	parts := p.overRows(sec, func(row int) sat.Lit { return p.w.part(it, row) })
	if !it.Staff {
		test := func(o *engine.Outcome) bool {
			return anyRow(o, it, func(st *engine.ItemState) bool { return st.Shown })
		}
		switch p.decide(it.shown.condition, test, expr.Met, p.m.Or(parts...)) {
		case cannot:
			p.never[it.Key] = true
			p.neverShown(it)
			return
		case open:
			p.leave(it.remarkPlace()+".shown", it.Key, "Whether "+called(it)+" is ever shown is not decided.",
				sentence(p.why(it.shown.condition)))
		case can:
			p.onlyRefused(it, parts)
		}
	} else if p.impossible(p.m.Or(parts...)) {
		p.never[it.Key] = true
		return
	}
	p.tie(it.shown.condition, it.Name(), "", p.overRows(sec, func(row int) sat.Lit { return p.w.around(it, row) }),
		len(parts))
	p.itemTies(it, parts)
}

// called is the name of an item within a sentence: a note is a sentence itself.
func called(it *item) string {
	if it.Type == form.Note {
		return "“" + it.Name() + "”"
	}
	return it.Name()
}

// anyRow reports whether a test holds for an item in any of its rows.
func anyRow(o *engine.Outcome, it *item, test func(*engine.ItemState) bool) bool {
	for row := 0; ; row++ {
		st := o.State(it.Key, row)
		if st == nil {
			return false
		}
		if st.Item() != nil && test(st) {
			return true
		}
		if it.section.group == nil {
			return false
		}
	}
}

// neverShown remarks on an item that nobody sees. One that is hidden for everybody and fills
// itself in is meant so: a stamp for the office.
func (p *prover) neverShown(it *item) {
	if it.value != nil && it.shown.fixed && !it.shown.yes {
		p.say(NeverShown, form.Hint, it.remarkPlace(), it.Key, "%s is never shown: it is hidden from everybody, and fills itself in.",
			called(it))
		return
	}
	p.say(NeverShown, form.Warning, it.remarkPlace(), it.Key, "%s is never shown: %s", called(it), p.whyNever(it))
}

// whyNever says what keeps an item from being shown: of several parts of a condition the first
// that is impossible by itself, for that is the one to mend; else that they are so together.
func (p *prover) whyNever(it *item) string {
	c := it.shown.condition
	if c == nil {
		if it.section.group != nil && !(it.shown.fixed && !it.shown.yes) {
			return "its section never has a row."
		}
		return "it is fixed so."
	}
	said := p.needs(c)
	if logic, ok := c.node.(*expr.Logic); ok && logic.Op == "and" {
		for _, t := range logic.Terms {
			lits := p.overRows(it.section, func(row int) sat.Lit {
				return p.m.And(p.w.around(it, row), p.w.truth(t, c.place, row).met)
			})
			if p.impossible(p.m.Or(lits...)) {
				return "it needs that " + p.phrase(t, c) + ", which never is so there."
			}
		}
		return said[:len(said)-1] + ", which never is so at once."
	}
	return said[:len(said)-1] + ", which never is so there."
}

// onlyRefused remarks on what is shown only while an answer stands that is not accepted.
func (p *prover) onlyRefused(it *item, parts []sat.Lit) {
	if !p.impossible(p.m.Or(parts...), p.w.noneRefused()) {
		return
	}
	why := "where it stands is shown only then."
	if c := it.shown.condition; c != nil {
		why = p.needs(c)
	}
	p.say(OnlyRefused, form.Warning, it.remarkPlace(), it.Key, "%s is shown only while an answer stands that is not accepted: %s",
		called(it), why)
}

// tie remarks on a condition that is always met where it could matter, or has parts that
// make no difference. kind is the remark for one that is never met there, "" for none.
func (p *prover) tie(c *condition, name, kind string, around []sat.Lit, rows int) {
	if c != nil {
		p.tieWith(c, name, kind, around, rows, p.comesOut(c, around, true))
	}
}

// tieWith is tie, with the difference that a part of the condition makes.
func (p *prover) tieWith(c *condition, name, kind string, around []sat.Lit, rows int, look differs) {
	var mets, others []sat.Lit
	for row := range rows {
		t := p.w.truthOf(c, row)
		mets = append(mets, p.m.And(around[row], t.met))
		others = append(others, p.m.And(around[row], t.met.Not()))
	}
	if p.impossible(p.m.Or(around...)) {
		return
	}
	if kind != "" {
		switch p.decide(c, p.comes(c, true), expr.Met, p.m.Or(mets...)) {
		case cannot:
			p.neverMet(c, name, kind)
			return
		case open:
			p.leave(c.at, c.owner, p.neverText(kind, name)+"? That is not decided.", sentence(p.why(c)))
			return
		}
	}
	switch p.decide(c, p.comes(c, false), expr.NotMet, p.m.Or(others...)) {
	case cannot:
		p.say(Always, form.Hint, c.at, c.owner, "%s: “%s” is always so there, and so the condition says nothing.", name,
			p.phrase(c.node, c))
		return
	case open:
		p.leave(c.at, c.owner, "Whether “"+p.phrase(c.node, c)+"” is always so there is not decided.", sentence(p.why(c)))
	}
	if len(p.report.Remarks) > 0 && kind == "" && p.impossible(p.m.Or(mets...)) {
		return
	}
	p.parts(c, name, look)
}

// neverMet remarks on a condition that is never met where it could matter.
func (p *prover) neverMet(c *condition, name, kind string) {
	if p.waitsForReturns(c) {
		p.say(kind, form.Warning, c.at, c.owner, "%s: it needs that %s, and respondents can’t change yet what they sent.",
			p.neverText(kind, name), p.phrase(c.node, c)).Needs = "returning"
		return
	}
	p.say(kind, form.Warning, c.at, c.owner, "%s: it needs that %s, which never is so while it is shown.",
		p.neverText(kind, name), p.phrase(c.node, c))
}

// waitsForReturns reports whether a condition asks who fills the form in, while nobody comes
// back to it.
func (p *prover) waitsForReturns(c *condition) (asks bool) {
	if r := p.side.program.Form.Returning; r != nil && r.Change {
		return false
	}
	expr.Walk(c.node, func(n expr.Node) {
		name, ok := n.(*expr.Name)
		asks = asks || ok && name.Name == "mode"
	})
	return asks
}

// comes tests whether a condition comes out as wanted, where it could matter.
func (p *prover) comes(c *condition, met bool) func(o *engine.Outcome) bool {
	return func(o *engine.Outcome) bool {
		for row := 0; row < form.MaxRows; row++ {
			t, there, ok := o.Truth(c.owner, c.property(), row)
			if !ok {
				return false
			}
			if there && (t == expr.Met) == met {
				return true
			}
			if c.place.group == "" || !there && row > 8 {
				return false
			}
		}
		return false
	}
}

func (p *prover) neverText(kind, name string) string {
	switch kind {
	case NeverRequired:
		return name + " is never required"
	case NeverLocked:
		return name + " is never locked"
	case NeverFilled:
		return name + " is never filled in by itself"
	case NeverWorded:
		return "This wording of " + name + " is never read"
	case NeverSent:
		return name + " never goes out"
	case NeverRead:
		return name + " is never read"
	}
	return name + " never comes about"
}

// checks remarks on checks that never refuse anything.
func (p *prover) checks(list []*condition, name string, around []sat.Lit) {
	for _, c := range list {
		var others []sat.Lit
		for row := range around {
			others = append(others, p.m.And(around[row], p.w.truthOf(c, row).met.Not()))
		}
		if p.impossible(p.m.Or(around...)) {
			return
		}
		switch p.decide(c, p.comes(c, false), expr.NotMet, p.m.Or(others...)) {
		case cannot:
			p.say(Always, form.Hint, c.at, c.owner, "%s: the check “%s” is always met, and so it says nothing.", name,
				p.phrase(c.node, c))
			continue
		case open:
			p.leave(c.at, c.owner, "Whether the check “"+p.phrase(c.node, c)+"” ever refuses anything is not decided.",
				sentence(p.why(c)))
		}
		p.parts(c, name, p.comesOut(c, around, false))
	}
}

// itemTies judges what hangs on an item that can be shown. A required or locked that is fixed is
// no tie; what comes by itself is judged by when it comes and by what comes.
func (p *prover) itemTies(it *item, parts []sat.Lit) {
	p.tie(it.required.condition, it.Name(), NeverRequired, parts, len(parts))
	p.tie(it.locked.condition, it.Name(), NeverLocked, parts, len(parts))
	if it.when != nil {
		p.tieWith(it.when, it.Name(), NeverFilled, parts, len(parts), p.answersWith(it.when, it, parts))
	}
	if p.filled(it, parts) {
		p.blankSometimes(it)
	}
	p.worded(it, parts)
	p.checks(it.checks, it.Name(), parts)
	for i, r := range it.rows {
		p.gridRow(it, i, r, parts)
	}
	p.choices(it, parts)
}

// filled remarks on a value that is always blank, and reports whether it can be another.
func (p *prover) filled(it *item, parts []sat.Lit) bool {
	if it.value == nil {
		return false
	}
	some := make([]sat.Lit, len(parts))
	for row := range parts {
		some[row] = p.m.And(parts[row], p.m.blank(p.w.automatic(it, row)).Not())
	}
	if it.when != nil { // judged by itself
		when := make([]sat.Lit, len(parts))
		for row := range parts {
			when[row] = p.m.And(parts[row], p.w.truthOf(it.when, row).met)
		}
		if p.impossible(p.m.Or(when...)) {
			return false
		}
	}
	if !p.impossible(p.m.Or(some...)) {
		return true
	}
	said := "“" + p.phrase(it.value.node, it.value) + "” is always blank while it is shown."
	if literal, ok := it.value.node.(*expr.Literal); ok && literal.Kind == expr.Text && literal.Text == "" {
		said = "what it is given is empty."
	}
	p.say(NeverFilled, form.Warning, it.value.at, it.Key, "%s is never filled in by itself: %s", it.Name(), said)
	return false
}

// worded remarks on wordings. The first that is met is read, so each is judged where none before
// it is.
func (p *prover) worded(it *item, parts []sat.Lit) {
	for j, c := range it.wording {
		lits := p.unworded(it, j, parts)
		for row := range lits {
			lits[row] = p.m.And(lits[row], p.w.truthOf(c, row).met)
		}
		switch v, _ := p.possible(p.m.Or(lits...)); v {
		case cannot:
			p.say(NeverWorded, form.Warning, c.at, it.Key,
				"This wording of %s is never read: “%s” never is so there, or one before it is.",
				it.Name(), p.phrase(c.node, c))
		case open:
			p.leave(c.at, it.Key, "Whether this wording of "+it.Name()+" is ever read is not decided.", sentence(p.why(c)))
		case can:
			p.tieWith(c, "The wording of "+it.Name(), "", parts, len(parts), p.comesOut(c, p.unworded(it, j, parts), true))
		}
	}
}

// unworded is when an item is shown and none of its first wordings is read.
func (p *prover) unworded(it *item, n int, parts []sat.Lit) []sat.Lit {
	out := make([]sat.Lit, len(parts))
	for row := range parts {
		all := []sat.Lit{parts[row]}
		for _, e := range it.wording[:n] {
			all = append(all, p.w.truthOf(e, row).met.Not())
		}
		out[row] = p.m.And(all...)
	}
	return out
}

// gridRow remarks on a row of a grid, which is shown or not within its item.
func (p *prover) gridRow(it *item, i int, r rule, parts []sat.Lit) {
	at := it.remarkPlace() + ".rows." + strconv.Itoa(i)
	lits := make([]sat.Lit, len(parts))
	for row := range parts {
		lits[row] = p.m.And(parts[row], p.w.met(r, row))
	}
	test := func(o *engine.Outcome) bool {
		return anyRow(o, it, func(st *engine.ItemState) bool { return st.RowShown(i) })
	}
	switch p.decide(nil, test, expr.Met, p.m.Or(lits...)) {
	case cannot:
		p.say(NeverShown, form.Warning, at, it.Key, "The row %s of %s is never shown: %s", it.Rows[i].Name(), it.Name(),
			p.needs(r.condition))
		return
	case open:
		p.leave(at+".shown", it.Key,
			"Whether the row "+it.Rows[i].Name()+" of "+it.Name()+" is ever shown is not decided.", sentence(p.why(r.condition)))
	}
	p.tie(r.condition, "The row "+it.Rows[i].Name()+" of "+it.Name(), "", parts, len(parts))
}

// maxLooked bounds how many choices of one question are looked at one by one.
const maxLooked = 400

// choices remarks on what is offered, choice by choice: a condition that names the choice is
// another formula for each. A list of thousands is not gone through, and said so.
func (p *prover) choices(it *item, parts []sat.Lit) {
	if !it.varies() || it.symbol == nil {
		return
	}
	if len(it.candidates) > maxLooked {
		p.leave(it.remarkPlace()+".choices", it.Key,
			"Which choices of "+it.Name()+" are ever offered is not decided.", "There are "+strconv.Itoa(len(it.candidates))+".")
		return
	}
	for i, cand := range it.candidates {
		lits := make([]sat.Lit, len(parts))
		for row := range parts {
			lits[row] = p.m.And(parts[row], p.w.offer(it, row, i))
		}
		at := it.remarkPlace() + ".choices." + strconv.Itoa(i)
		test := func(o *engine.Outcome) bool {
			return anyRow(o, it, func(st *engine.ItemState) bool { return slices.Contains(st.Choices(), cand.Value) })
		}
		label := it.symbol.Type.Options.Labels[i]
		switch p.decide(nil, test, expr.Met, p.m.Or(lits...)) {
		case cannot:
			p.say(NeverOffered, form.Warning, at, it.Key, "The choice %s of %s is never offered.", label,
				it.Name()).Part = cand.Value
		case open:
			p.leave(at, it.Key, "Whether the choice "+label+" of "+it.Name()+" is ever offered is not decided.",
				sentence(p.why(it.where)))
		case can:
			if cand.Written >= 0 {
				p.offerTie(it, it.choices[cand.Written].offered.condition, parts, "The choice "+label+" of "+it.Name(), i)
				p.parts(it.choices[cand.Written].withheld.condition, it.Name(),
					p.answersWith(it.choices[cand.Written].withheld.condition, it, parts))
			}
		}
	}
	every := make([]int, len(it.candidates))
	for i := range every {
		every[i] = i
	}
	p.offerTie(it, it.offered.condition, parts, it.Name(), every...)
	p.parts(it.withheld.condition, it.Name(), p.answersWith(it.withheld.condition, it, parts))
	p.parts(it.where, it.Name(), p.answersWith(it.where, it, parts))
}

// offerTie remarks on a condition on what is offered that is always met, for some choices.
func (p *prover) offerTie(it *item, c *condition, parts []sat.Lit, name string, of ...int) {
	if c == nil {
		return
	}
	before := p.w.candidate
	defer func() { p.w.candidate = before }()
	var others []sat.Lit
	for _, i := range of {
		p.w.candidate = it.candidates[i].Value
		for row := range parts {
			others = append(others, p.m.And(parts[row], p.w.truthOf(c, row).met.Not()))
		}
	}
	p.w.candidate = before
	if p.impossible(p.m.Or(others...)) {
		p.say(Always, form.Hint, c.at, it.Key, "%s: “%s” is always so there, and so the condition says nothing.", name,
			p.phrase(c.node, c))
		return
	}
	p.parts(c, it.Name(), p.answersWith(c, it, parts))
}

// outgoing remarks on messages, hooks and closing texts that never take effect.
func (p *prover) outgoing() {
	if p.never[""] {
		return
	}
	later := p.side.world()
	later.later = true
	accepted := p.w.accepted()
	f := p.side.program.Form
	each := func(kind string, list []*condition, name func(i int) string, first bool) {
		var earlier []sat.Lit
		for i, c := range list {
			if c == nil {
				continue
			}
			met := p.w.truthOf(c, 0).met
			test := func(o *engine.Outcome) bool {
				t, _, ok := o.Truth("", c.at, 0)
				return ok && t == expr.Met && o.Accepted
			}
			around := accepted
			if first {
				around = p.m.And(accepted, p.m.Or(earlier...).Not())
				earlier = append(earlier, met)
			}
			switch p.decide(c, test, expr.Met, around, met) {
			case cannot:
				after := []sat.Lit{later.accepted(), later.truthOf(c, 0).met}
				for _, e := range list[:i] {
					if first && e != nil {
						after = append(after, later.truthOf(e, 0).met.Not())
					}
				}
				if !p.impossible(after...) {
					continue // a change brings it about
				}
				p.say(kind, form.Warning, c.at, "", "%s: “%s” never is so in what can be sent%s.", p.neverText(kind, name(i)),
					p.phrase(c.node, c),
					map[bool]string{true: ", or one before it is"}[first && i > 0])
				continue
			case open:
				p.leave(c.at, "", p.neverText(kind, name(i))+"? That is not decided.", sentence(p.why(c)))
			}
			p.parts(c, name(i), p.comesOut(c, []sat.Lit{around}, true))
		}
	}
	each(NeverSent, p.side.letters, func(i int) string {
		if f.Messages[i].Name != "" {
			return "The message " + f.Messages[i].Name
		}
		return "The message " + f.Messages[i].Key
	}, false)
	each(NeverSent, p.side.hooks, func(i int) string { return "The hook " + f.Hooks[i].Key }, false)
	each(NeverRead, p.side.ends, func(i int) string { return "Closing text " + strconv.Itoa(i+1) }, true)
}
