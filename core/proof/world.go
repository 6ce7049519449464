package proof

import (
	"slices"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// world is what a form is for every input at once: for each item, section and page the
// formula for when it is shown, what its value can be, whether it is accepted. Some answers
// may be taken as never given, or as given.
type world struct {
	side    *side
	without map[string]bool // keys of items that nothing is answered to
	fixed   map[string]*val // and of those that are answered in one way, by key and row

	values map[cellKey]*val
	lits   map[litKey]lit
	truths map[truthKey]truth
	loose  map[looseKey]truth
	counts map[*group]*val
	frames map[string]*expr.Frame

	candidate string // the choice at hand, where one is
	later     bool   // after changes by anyone, so that what only the office fills in is free
}

type cellKey struct {
	it  *item
	row int
}

type litKey struct {
	what string
	of   any
	row  int
}

type truthKey struct {
	of        *condition
	row       int
	candidate string
	entry     string
}

type looseKey struct {
	text, group string
	row         int
}

func (sd *side) world() *world {
	return &world{
		side: sd, values: map[cellKey]*val{}, lits: map[litKey]lit{}, truths: map[truthKey]truth{}, loose: map[looseKey]truth{},
		counts: map[*group]*val{}, frames: map[string]*expr.Frame{},
	}
}

// frame is one for expressions at a place, in a row.
func (w *world) frame(pl place, row int) *expr.Frame {
	f := w.frames[pl.group]
	if f == nil {
		n, index := 1, -1
		if g := w.side.groups[pl.group]; g != nil {
			n, index = g.depth+1, w.side.program.Symbols.Groups[pl.group].Index
		}
		f = w.side.program.NewFrame(index, n)
		w.frames[pl.group] = f
	}
	if g := w.side.program.Symbols.Groups[pl.group]; g != nil {
		f.Groups[g.Index].Row = row
	}
	return f
}

// once computes a literal the first time that it is asked for.
func (w *world) once(what string, of any, row int, compute func() lit) lit {
	key := litKey{what, of, row}
	if l, ok := w.lits[key]; ok {
		return l
	}
	l := compute()
	w.lits[key] = l
	return l
}

// of is the truth of a condition of the form, in a row.
func (w *world) of(c *condition, row int) truth {
	if c == nil {
		return truth{yes, no}
	}
	key := truthKey{c, row, w.candidate, ""}
	if c.place.scope.Candidate == nil {
		key.candidate = ""
	}
	if t, ok := w.truths[key]; ok {
		return t
	}
	t := w.truth(c.node, c.place, row)
	w.truths[key] = t
	return t
}

// met is when a rule takes effect.
func (w *world) met(r rule, row int) lit {
	if r.condition == nil {
		if r.yes {
			return yes
		}
		return no
	}
	return w.of(r.condition, row).met
}

// onRoute is when a respondent comes through a page.
func (w *world) onRoute(pg *page) lit {
	return w.once("route", pg, 0, func() lit {
		m := w.side.model
		var passed []lit
		for _, before := range w.side.pages[:pg.index] {
			for j, target := range before.targets {
				if target > pg.index {
					passed = append(passed, w.leads(before, j))
				}
			}
		}
		return m.and(m.or(passed...).not(), w.met(pg.shown, 0))
	})
}

// leads is when a page is left by one of its ways.
func (w *world) leads(pg *page, j int) lit {
	m := w.side.model
	all := []lit{w.onRoute(pg), w.of(pg.next[j], 0).met}
	for _, earlier := range pg.next[:j] {
		all = append(all, w.of(earlier, 0).met.not())
	}
	return m.and(all...)
}

func (w *world) sectionShown(s *section) lit {
	return w.once("section", s, 0, func() lit { return w.side.model.and(w.onRoute(s.page), w.met(s.shown, 0)) })
}

// count is how many rows a section has.
func (w *world) count(g *group) *val {
	if v := w.counts[g]; v != nil {
		return v
	}
	m := w.side.model
	shown := w.sectionShown(g.section)
	out := blankVal()
	add := func(n int, when lit) {
		out.cases = append(out.cases, vcase{when, expr.NumberValue(expr.Int(int64(n)))})
	}
	least := g.Repeat.Min
	if g.rows == nil {
		in := m.rowsSent(g)
		for i, raw := range in.raws {
			n, _ := raw.(int)
			when := in.lits[i]
			if w.without[g.key] {
				when = no
				if i == 0 {
					when = yes
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
			n := least
			if floor, ok := c.v.Number().Floor(); ok {
				if whole, ok := floor.Whole(); ok {
					n = min(max(whole, least), g.limit)
				}
			}
			add(n, c.when)
		}
		if v.free != no {
			in := m.loose(g.limit + 1)
			for n, l := range in {
				add(max(n, least), m.and(v.free, l))
			}
		}
		add(least, m.blankOnly(v))
	}
	out.cases = m.merged(out.cases)
	for i := range out.cases {
		out.cases[i].when = m.and(out.cases[i].when, shown)
	}
	out.cases = m.merged(append(out.cases, vcase{shown.not(), expr.NumberValue(expr.Int(0))}))
	out.free = m.and(out.free, shown)
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
func (m *model) given(g *group, row int) lit {
	in := m.rowsSent(g)
	var some []lit
	for i, raw := range in.raws {
		if n, _ := raw.(int); n > row {
			some = append(some, in.lits[i])
		}
	}
	return m.or(some...)
}

// blankOnly is when a value is none of its cases and not unknown either.
func (m *model) blankOnly(v *val) lit {
	some := []lit{v.free}
	for _, c := range v.cases {
		some = append(some, c.when)
	}
	return m.or(some...).not()
}

// loose are literals of which exactly one holds, for what is beyond the model.
func (m *model) loose(n int) []lit {
	out := m.oneOf(n)
	for _, l := range out {
		if l != yes {
			m.gates[l.variable()].free, m.gates[l.variable()].shaky = true, true
		}
	}
	return out
}

// exists is when a section has a row of that number, from 0.
func (w *world) exists(g *group, row int) lit {
	return w.once("exists", g, row, func() lit {
		var some []lit
		for _, c := range w.count(g).cases {
			if n, _ := c.v.Number().Whole(); n > row {
				some = append(some, c.when)
			}
		}
		return w.side.model.or(some...)
	})
}

// part is when an item takes part.
func (w *world) part(it *item, row int) lit {
	if it.Parked {
		return no
	}
	return w.once("part", it, row, func() lit { return w.side.model.and(w.around(it, row), w.met(it.shown, row)) })
}

// around is when all that an item stands in is shown.
func (w *world) around(it *item, row int) lit {
	if g := it.section.group; g != nil {
		return w.exists(g, row)
	}
	return w.sectionShown(it.section)
}

// shown is when a respondent sees an item.
func (w *world) shown(it *item, row int) lit {
	if it.Staff {
		return no
	}
	return w.part(it, row)
}

func (w *world) locked(it *item, row int) lit { return w.met(it.locked, row) }

// closed is when a respondent can't fill an item.
func (w *world) closed(it *item, row int) lit {
	if it.property == "is" || it.Staff {
		return yes
	}
	return w.locked(it, row)
}

// value is what the answer to an item counts as.
func (w *world) value(it *item, row int) *val {
	key := cellKey{it, row}
	if v := w.values[key]; v != nil {
		return v
	}
	v := &val{}
	if w.side.model.late() { // nothing is claimed any more
		*v = *it.hollow()
		v.free = w.side.model.unknown()
	} else {
		v = w.decide(it, row)
	}
	w.values[key] = v
	return v
}

func (w *world) decide(it *item, row int) *val {
	m := w.side.model
	part, shown := w.part(it, row), w.shown(it, row)
	auto := w.automatic(it, row)
	v := auto
	if w.later && (it.Staff || it.once()) {
		auto = &val{free: m.unknown(), set: auto.set, cells: auto.cells, parts: auto.parts}
		v = auto
	}
	if it.property != "is" {
		own, touched := w.own(it, row)
		if g := it.section.group; g != nil && m.comparesRows(g.key) {
			given := m.given(g, row)
			own, touched = m.gate(own, given), m.and(touched, given)
		}
		v = m.choose(m.and(touched, w.closed(it, row).not()), own, auto)
	}
	var kept *val
	if it.WhenHidden == "keep" && !it.Parked {
		kept = m.gate(v, m.and(part.not(), w.fits(it, row, v)))
	}
	switch it.Type {
	case form.Tick:
		unticked := vcase{m.and(shown, m.blankOnly(v)), expr.YesNoValue(false)}
		v = &val{free: v.free, cases: m.merged(append(slices.Clone(v.cases), unticked))}
	case form.ChoicesType:
		set := *v
		set.set = &picks{m.or(v.set.present, m.and(shown, v.free.not())), slices.Clone(v.set.of)}
		for i, p := range set.set.of {
			set.set.of[i] = m.and(p, v.set.present)
		}
		v = &set
	}
	if it.rows != nil && it.kind() == expr.Grid {
		whole := *v
		whole.cells = nil
		for i, c := range v.cells {
			whole.cells = append(whole.cells, m.gate(c, m.or(part.not(), w.met(it.rows[i], row))))
		}
		v = &whole
	}
	if it.varies() && it.kind() != expr.Grid && it.symbol.Type.Options != nil {
		v = w.offeredOnly(it, row, v, m.and(shown, w.locked(it, row).not()))
	}
	v = m.gate(v, part)
	if kept != nil {
		v = m.choose(part, v, kept)
	}
	return v
}

// offeredOnly drops the picks that are not on offer, where they are judged by that.
func (w *world) offeredOnly(it *item, row int, v *val, judged lit) *val {
	m := w.side.model
	out := *v
	if v.set != nil {
		out.set = &picks{present: v.set.present, of: make([]lit, len(v.set.of))}
		for i := range v.set.of {
			out.set.of[i] = m.and(v.set.of[i], m.or(judged.not(), w.offer(it, row, i)))
		}
		return &out
	}
	out.cases = nil
	for _, c := range v.cases {
		keep := judged.not()
		for i, cand := range it.candidates {
			if cand.Value == c.v.Text() {
				keep = m.or(keep, w.offer(it, row, i))
			}
		}
		if when := m.and(c.when, keep); when != no {
			out.cases = append(out.cases, vcase{when, c.v})
		}
	}
	return &out
}

// offer is when a choice of an item is on offer.
func (w *world) offer(it *item, row, i int) lit {
	return w.once("offer"+expr.Int(int64(i)).String(), it, row, func() lit {
		m := w.side.model
		cand := it.candidates[i]
		before := w.candidate
		w.candidate = cand.Value
		defer func() { w.candidate = before }()
		all := []lit{w.met(it.offered, row), w.met(it.withheld, row).not()}
		if cand.Written >= 0 {
			ch := it.choices[cand.Written]
			all = append(all, w.met(ch.offered, row), w.met(ch.withheld, row).not())
		}
		if cand.Entry != nil && it.where != nil {
			pl := it.where.place
			pl.entry = cand.Entry
			all = append(all, w.truth(it.where.node, pl, row).met)
		}
		if it.HasPlaces() && (it.Places != nil || cand.Written >= 0 && it.Choices[cand.Written].Places != nil) {
			all = append(all, m.unknown().not()) // others may have taken them all
		}
		return m.and(all...)
	})
}

// about is the truth of a condition as it is tried on one choice or entry of a list.
func (w *world) about(cand engine.Candidate, n expr.Node, pl place, row int) truth {
	before := w.candidate
	w.candidate, pl.entry = cand.Value, cand.Entry
	defer func() { w.candidate = before }()
	return w.truth(n, pl, row)
}

// automatic is the value that comes by itself.
func (w *world) automatic(it *item, row int) *val {
	m := w.side.model
	out := it.hollow()
	if it.value == nil {
		return out
	}
	when := yes
	if it.when != nil {
		when = w.of(it.when, row).met
	}
	p := w.side.program
	if member, ok := it.value.node.(*expr.Member); ok && member.Of == "url" && w.side.beyond[it.value.node] == "" {
		lits, inputs := m.paramInput(member.Name)
		for i, texts := range inputs {
			if i > 0 {
				w.come(it, out, vcase{lits[i], p.Comes(it.Key, expr.TextValue(texts[0]), texts)})
			}
		}
	} else {
		got := w.valueOf(it.value, row)
		switch {
		case got.set != nil && out.set != nil:
			w.comeAll(it, out, got)
		case got.set != nil || got.cells != nil || got.parts != nil && it.Type.Computed():
			if it.Type.Computed() {
				out = got
			} else {
				out.free = m.unknown()
			}
		default:
			for _, c := range got.cases {
				w.come(it, out, vcase{c.when, p.Comes(it.Key, c.v, nil)})
			}
			out.free = got.free
		}
	}
	out.cases = m.merged(out.cases)
	return m.gate(out, when)
}

// come adds a case to a value, or the picks that it is.
func (w *world) come(it *item, out *val, c vcase) {
	m := w.side.model
	if out.set == nil {
		out.cases = append(out.cases, c)
		return
	}
	if c.v.Kind() != expr.Choices {
		return
	}
	out.set.present = m.or(out.set.present, c.when)
	for i := range out.set.of {
		if c.v.Holds(w.optionAt(it, i)) {
			out.set.of[i] = m.or(out.set.of[i], c.when)
		}
	}
}

func (w *world) optionAt(it *item, i int) string {
	if len(it.candidates) > 0 {
		return it.candidates[i].Value
	}
	return it.symbol.Type.Options.Values[i]
}

// comeAll fills a set with another one.
func (w *world) comeAll(it *item, out, got *val) {
	m := w.side.model
	from := optionsOf(it.value.node, w.side)
	if from == nil || it.Type == form.Ranking {
		out.free = m.unknown()
		return
	}
	out.set.present, out.free = got.set.present, got.free
	for j, p := range got.set.of {
		if i, ok := it.symbol.Type.Options.Match(from[j]); ok && i < len(out.set.of) {
			out.set.of[i] = m.or(out.set.of[i], m.and(p, got.set.present))
		}
	}
}

// expr is what the value of an expression can be.
func (w *world) expr(n expr.Node, pl place, row int) *val {
	m := w.side.model
	switch n := n.(type) {
	case *expr.Name:
		if v := w.named(n, pl, row); v != nil {
			if it := w.side.items[n.Name]; it.kind() != expr.Choice && it.kind() != expr.Address {
				return v
			}
			bare := *v
			if bare.parts = nil; w.side.items[n.Name].kind() == expr.Choice {
				return &bare
			}
		}
	case *expr.Call:
		switch n.Name {
		case "if":
			c := w.truth(n.Args[0], pl, row)
			a, b := w.expr(n.Args[1], pl, row), w.expr(n.Args[2], pl, row)
			if plain(a) && plain(b) {
				return m.choose(c.met, w.common(n, pl, a), m.gate(w.common(n, pl, b), c.not))
			}
		case "first":
			return w.first(n.Args, n, pl, row)
		}
	}
	out := blankVal()
	known := w.tabulate(n, pl, row, func(code *expr.Code, f *expr.Frame, when lit) {
		if v := code.Value(f); v.Kind() != expr.Blank {
			out.cases = append(out.cases, vcase{when, v})
		}
	})
	if !known {
		// Truth is followed further than values are.
		if code := w.side.code(n, pl.scope); code != nil && code.Type.Kind == expr.YesNo {
			t := w.truth(n, pl, row)
			return &val{free: no, cases: []vcase{{t.met, expr.YesNoValue(true)}, {t.not, expr.YesNoValue(false)}}}
		}
		return &val{free: yes}
	}
	out.cases = m.merged(out.cases)
	return out
}

// plain reports whether a value has no parts.
func plain(v *val) bool { return v.set == nil && v.cells == nil && v.parts == nil }

// common is a choice as a text, where it stands beside texts.
func (w *world) common(n expr.Node, pl place, v *val) *val {
	code := w.side.code(n, pl.scope)
	if code == nil || code.Type.Kind != expr.Text {
		return v
	}
	out := &val{free: v.free}
	for _, c := range v.cases {
		if c.v.Kind() == expr.Choice {
			c.v = expr.TextValue(c.v.Text())
		}
		out.cases = append(out.cases, c)
	}
	return out
}

// first is the first of several values that is answered.
func (w *world) first(args []expr.Node, n expr.Node, pl place, row int) *val {
	m := w.side.model
	out := blankVal()
	blank := yes
	for _, a := range args {
		v := w.expr(a, pl, row)
		if !plain(v) {
			return &val{free: yes}
		}
		v = m.gate(w.common(n, pl, v), blank)
		out.cases = append(out.cases, v.cases...)
		out.free = m.or(out.free, v.free)
		blank = m.and(blank, m.blank(v))
	}
	out.cases = m.merged(out.cases)
	return out
}

// fits is when an answer keeps its limits.
func (w *world) fits(it *item, row int, v *val) lit {
	m := w.side.model
	var wrong []lit
	p := w.side.program
	for _, c := range v.cases {
		if v.parts != nil && it.kind() != expr.Address {
			break
		}
		if !it.judges(c.v) {
			wrong = append(wrong, m.and(c.when, m.unknown()))
		} else if !p.Fits(it.Key, c.v) {
			wrong = append(wrong, c.when)
		}
	}
	if v.free != no {
		wrong = append(wrong, m.and(v.free, m.unknown()))
	}
	if other := v.parts[otherPart]; other != nil && it.kind() != expr.Address {
		picked := w.isOther(it, v)
		if v.set != nil {
			picked = m.and(v.set.present, w.otherPicked(it, v))
		}
		wrong = append(wrong, m.and(picked, m.blank(other)))
	}
	for _, b := range it.bounds {
		wrong = append(wrong, w.beyondBound(it, row, v, b))
	}
	if v.set != nil {
		wrong = append(wrong, w.miscounted(it, row, v))
	}
	return m.or(wrong...).not()
}

// beyondBound is when an answer does not keep a bound that is an expression.
func (w *world) beyondBound(it *item, row int, v *val, b boundary) lit {
	m := w.side.model
	if strings.HasSuffix(b.property, "_picked") {
		return no // counted with the fixed ones
	}
	x := bounded(b.property, &expr.Name{Name: it.Key})
	if x == nil || w.side.beyond[b.node] != "" {
		return m.unknown()
	}
	var wrong []lit
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
				wrong = append(wrong, m.and(c.when, bc.when))
			}
		}
		if bound.free != no {
			wrong = append(wrong, m.and(c.when, bound.free, m.unknown()))
		}
	}
	return m.or(wrong...)
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
func (w *world) miscounted(it *item, row int, v *val) lit {
	m := w.side.model
	low, high := w.picked(it, "min_picked", row), w.picked(it, "max_picked", row)
	if low == nil && high == nil {
		return no
	}
	var of []lit
	for _, p := range v.set.of {
		of = append(of, m.and(v.set.present, p))
	}
	at := m.atLeast(of, len(of))
	some := no
	if len(at) > 0 {
		some = at[0]
	}
	var wrong []lit
	reach := func(n int) lit { // when at least n are picked
		switch {
		case n <= 0:
			return yes
		case n > len(at):
			return no
		}
		return at[n-1]
	}
	for i, bound := range []*val{low, high} {
		if bound == nil {
			continue
		}
		for _, c := range bound.cases {
			if i == 0 {
				ceil, ok := c.v.Number().Ceil()
				n, fits := wholeOf(ceil, ok)
				if !fits {
					n = len(at) + 1
				}
				wrong = append(wrong, m.and(c.when, some, reach(n).not()))
			} else {
				floor, ok := c.v.Number().Floor()
				if n, fits := wholeOf(floor, ok); fits {
					wrong = append(wrong, m.and(c.when, some, reach(n+1)))
				}
			}
		}
		if bound.free != no {
			wrong = append(wrong, m.and(bound.free, some, m.unknown()))
		}
	}
	return m.or(wrong...)
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
				return &val{free: no, cases: []vcase{{yes, expr.NumberValue(lit.Num)}}}
			}
		}
	}
	return nil
}

// problem is when something is wrong with the answer to an item.
func (w *world) problem(it *item, row int) lit {
	return w.once("problem", it, row, func() lit {
		m := w.side.model
		part := w.part(it, row)
		if it.symbol == nil || part == no {
			return no
		}
		v := w.value(it, row)
		var wrong []lit
		open := m.and(w.shown(it, row), w.closed(it, row).not())
		wrong = append(wrong, m.and(open, w.met(it.required, row), w.missing(it, row, v)))
		wrong = append(wrong, m.and(open, w.fits(it, row, v).not()))
		if it.Type == form.Ranking && v.set != nil {
			wrong = append(wrong, m.and(open, w.halfRanked(it, row, v)))
		}
		for _, c := range it.checks {
			wrong = append(wrong, w.of(c, row).not)
		}
		return m.and(part, m.or(wrong...))
	})
}

// halfRanked is when some of the choices on offer are ranked and others are not.
func (w *world) halfRanked(it *item, row int, v *val) lit {
	m := w.side.model
	var some, left []lit
	for i, p := range v.set.of {
		offered := yes
		if it.varies() {
			offered = w.offer(it, row, i)
		}
		some, left = append(some, m.and(v.set.present, p)), append(left, m.and(offered, p.not()))
	}
	return m.and(m.or(some...), m.or(left...))
}

// missing is when a required answer is not there.
func (w *world) missing(it *item, row int, v *val) lit {
	m := w.side.model
	switch {
	case it.Type == form.Tick:
		var ticked []lit
		for _, c := range v.cases {
			if c.v.Yes() {
				ticked = append(ticked, c.when)
			}
		}
		if v.free != no {
			ticked = append(ticked, m.and(v.free, m.unknown()))
		}
		return m.or(ticked...).not()
	case it.kind() == expr.Grid:
		var empty []lit
		for i, c := range v.cells {
			empty = append(empty, m.and(w.met(it.rows[i], row), m.blank(c)))
		}
		return m.or(empty...)
	}
	return m.blank(v)
}

// accepted is when a filling can be sent.
func (w *world) accepted() lit {
	return w.once("accepted", w.side, 0, func() lit {
		m := w.side.model
		all := []lit{}
		if !w.later {
			all = append(all, w.open())
		}
		for _, pg := range w.side.pages {
			for _, c := range pg.checks {
				all = append(all, m.and(w.onRoute(pg), w.of(c, 0).not).not())
			}
			for _, sec := range pg.sections {
				all = append(all, w.sound(sec))
			}
		}
		return m.and(all...)
	})
}

// sound is when nothing is wrong in a section.
func (w *world) sound(sec *section) lit {
	m := w.side.model
	rows := 1
	if sec.group != nil {
		rows = sec.group.depth
	}
	var all []lit
	for row := range rows {
		there := w.sectionShown(sec)
		if sec.group != nil {
			there = w.exists(sec.group, row)
		}
		for _, c := range sec.checks {
			all = append(all, m.and(there, w.of(c, row).not).not())
		}
		for _, it := range sec.items {
			all = append(all, w.problem(it, row).not())
		}
	}
	if g := sec.group; g != nil {
		all = append(all, w.overLimit(g).not())
	}
	return m.and(all...)
}

// valueOf is what the value of an expression of the form can be, in a row.
func (w *world) valueOf(c *condition, row int) *val {
	if w.side.beyond[c.node] != "" {
		return &val{free: yes}
	}
	return w.expr(c.node, c.place, row)
}

// overLimit is when a section is to have more rows than it can.
func (w *world) overLimit(g *group) lit {
	m := w.side.model
	var over []lit
	if g.rows == nil {
		in := m.rowsSent(g)
		for i, raw := range in.raws {
			if n, _ := raw.(int); n > g.limit { // as another edition takes
				over = append(over, in.lits[i])
			}
		}
		return m.and(w.sectionShown(g.section), m.or(over...))
	}
	v := w.valueOf(g.rows, 0)
	over = append(over, m.and(v.free, m.unknown()))
	for _, c := range v.cases {
		if floor, ok := c.v.Number().Floor(); ok && floor.Cmp(expr.Int(int64(g.limit))) > 0 {
			over = append(over, c.when)
		}
	}
	return m.and(w.sectionShown(g.section), m.or(over...))
}

// open is when the form takes responses.
func (w *world) open() lit {
	return w.once("open", w.side, 0, func() lit {
		m := w.side.model
		all := []lit{w.of(w.side.within, 0).met}
		var times []lit
		for _, c := range m.clockCases() {
			if w.side.program.Within(time.Unix(c.v.Unix(), 0)) {
				times = append(times, c.when)
			}
		}
		return m.and(append(all, m.or(times...))...)
	})
}
