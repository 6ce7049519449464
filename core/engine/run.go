package engine

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"lazo/core/expr"
	"lazo/core/form"
)

// Input is all that a decision needs.
type Input struct {
	Answers   *Answers            // what was sent; nil is nothing
	Prior     *Answers            // the response as it stands, in Revisit and Staff
	Params    map[string][]string // the address parameters as they arrived
	At        time.Time           // the moment, taken to the second
	Mode      Mode                // "" is New
	Taken     Taken               // how many responses hold the choices that have places
	Responses int                 // how many the form has, for its limit
	Offline   bool                // the workspace has taken the form out of public
	Apart     map[string]bool     // keys that texts do not tell, beside what is sensitive; nil for who may see all
	Record    *Answers            // a stored response, to be shown as it stands: nothing comes by itself
	Begun     time.Time           // when this respondent began, for the grace; zero is now
}

type run struct {
	p      *Program
	in     *Input
	out    *Outcome
	frame  *expr.Evaluation
	next   int       // the page that the route leads to
	track  bool      // whether until is kept
	past   bool      // the run is of prior answers, for another to compare with
	before *Outcome  // of the prior answers, where a change asks for it; see recall
	inRow  int       // the repeating section whose rows are being visited, -1 outside
	places [][]int32 // of each repeating section: the place of each of its rows among the prior ones, -1 for a new row
	asked  *asked    // what would be asked in any mode, nil where that makes no difference
	as     Mode      // the mode as conditions see it, "" for that of the input
	until  int64     // the first moment at which a condition evaluated so far may change
}

// Run decides everything about a form for one input.
func (p *Program) Run(in Input) *Outcome { return p.run(&in, false) }

func (p *Program) run(in *Input, track bool) *Outcome {
	return p.newRun(in, &run{track: track, asked: p.askedInAnyMode(in)})
}

// runPast runs the form on prior answers alone, as they were given.
func (p *Program) runPast(in *Input) *Outcome { return p.newRun(in, &run{past: true}) }

// newRun begins and ends a run, of which what it is for is said.
func (p *Program) newRun(in *Input, r *run) *Outcome {
	if in.Mode == "" {
		in.Mode = New
	}
	out := &Outcome{p: p, Items: make([]ItemState, p.scalars), Sections: make([]bool, len(p.sections)), mode: in.Mode,
		apart: in.Apart}
	f := &out.frame
	f.Slots = make([]expr.Value, len(p.bySlot))
	f.Clock = expr.ClockAt(in.At.Unix(), p.loc)
	f.Speech = p.speech
	if len(p.groups) > 0 {
		f.Groups = make([]expr.Rows, len(p.groups))
		out.Rows = make([]RowsState, len(p.groups))
	}
	if len(p.Form.Parameters) > 0 {
		f.Params = make([]expr.Param, len(p.Form.Parameters))
		for i, param := range p.Form.Parameters {
			var strange bool
			if f.Params[i], strange = p.Symbols.Params[param.Name].Read(paramValues(in.Params, param.Name)); strange {
				out.Unmatched = append(out.Unmatched, "url."+param.Name)
			}
		}
	}
	r.p, r.in, r.out, r.frame, r.until, r.inRow = p, in, out, f, expr.Never, -1
	f.Mode = r.modeOf()
	if p.limited {
		f.Left = r.left
	}
	r.recall()
	out.onRoute = make([]bool, len(p.pages))
	for _, s := range p.order {
		switch s.kind {
		case stepRoute:
			out.onRoute[s.at] = s.at >= r.next && r.met(&p.pages[s.at].shown)
		case stepExit:
			r.exit(s.at)
		case stepSection:
			sec := &p.sections[s.at]
			out.Sections[s.at] = out.onRoute[sec.page] && r.met(&sec.shown)
		case stepRows:
			r.rows(s.at)
		case stepItem:
			r.visit(p.items[s.at])
		}
	}
	r.open()
	r.finish()
	return out
}

// paramValues finds a parameter by its name, whatever its letter case.
func paramValues(params map[string][]string, name string) []string {
	if v, ok := params[name]; ok {
		return v
	}
	for k, v := range params {
		if strings.EqualFold(strings.TrimSpace(k), name) {
			return v
		}
	}
	return nil
}

// truth decides a condition and notes until when it holds.
func (r *run) truth(c *condition) expr.Truth {
	if c.clocked && r.track {
		r.until = min(r.until, c.code.Until(r.frame))
	}
	return c.test.Truth(r.frame)
}

func (r *run) value(code *expr.Code) expr.Value {
	if r.track && code.Clock {
		r.until = min(r.until, code.Until(r.frame))
	}
	return code.Value(r.frame)
}

func (r *run) met(ru *rule) bool {
	if ru.fixed {
		return ru.yes
	}
	return r.truth(&ru.condition) == expr.Met
}

// exit decides which page follows one that is on the route.
func (r *run) exit(at int) {
	if !r.out.onRoute[at] {
		return
	}
	for i := range r.p.pages[at].next {
		if n := &r.p.pages[at].next[i]; r.truth(&n.condition) == expr.Met {
			r.next = n.page
			return
		}
	}
	r.next = at + 1
}

// rows decides how many rows a repeating section has and makes room for them.
func (r *run) rows(at int) {
	g := &r.p.groups[at]
	rep := r.p.sections[g.section].Repeat
	state := &r.out.Rows[at]
	rows := &r.frame.Groups[at]
	rows.Width = g.width
	state.Shown = r.out.Sections[g.section]
	kept := r.keptRowsInMode(at)
	if !state.Shown && kept == 0 {
		return
	}
	n, limit := rep.Min, rep.Limit()
	if !state.Shown {
		n = kept
	} else if g.rows != nil && r.in.Record == nil {
		if v := r.value(g.rows); v.Kind() == expr.Num {
			n = v.Number().Held(0, form.MaxRows+1)
		}
	} else if sent := r.group(at); sent != nil {
		n = sent.rows
	}
	if n > limit {
		// What is over the limit takes no part, so that the work of a run is bounded.
		state.Problems = append(state.Problems, Problem{Code: TooManyRows, Arg: strconv.Itoa(limit)})
		n = limit
	}
	if state.Shown {
		n = max(n, rep.Min)
	}
	r.identify(at, n)
	rows.Count, state.Count, state.Width = n, n, len(g.items)
	rows.Cells = make([]expr.Value, n*g.width)
	state.Items = make([]ItemState, n*len(g.items))
	for row := range n {
		for i, it := range g.items {
			state.Items[row*len(g.items)+i] = ItemState{item: it}
		}
	}
	if g.sends {
		r.asSent(g, rows)
	}
}

// asSent notes what was sent in each row, whatever becomes of it.
func (r *run) asSent(g *group, rows *expr.Rows) {
	rows.Sent = make([]expr.Value, len(rows.Cells))
	for rows.Row = 0; rows.Row < rows.Count; rows.Row++ {
		for _, it := range g.items {
			if it.slot < 0 {
				continue
			}
			a, prior := r.p.answer(r.in.Answers, it, r.frame.Groups), r.had(it)
			if r.in.Record != nil {
				a = r.p.answer(r.in.Record, it, r.frame.Groups)
			} else if a.state == untouched {
				a = prior
			}
			rows.Sent[rows.Row*rows.Width+int(it.slot)] = a.value
		}
	}
	rows.Row = 0
}

// group returns the rows that count: those sent or, if none were, those before.
func (r *run) group(at int) *groupAnswers {
	if r.in.Record != nil {
		return &r.in.Record.groups[at]
	}
	if r.in.Answers != nil && r.in.Answers.groups[at].sent && !r.rowsClosedInMode(at) {
		return &r.in.Answers.groups[at]
	}
	if r.in.Mode != New && r.in.Prior != nil && r.in.Prior.groups[at].sent {
		return &r.in.Prior.groups[at]
	}
	return nil
}

// identify gives each of n rows the identity and the prior row that it has.
func (r *run) identify(at, n int) {
	now := r.group(at)
	if now == nil {
		return
	}
	var before *groupAnswers
	if p := r.prior(); p != nil && p.groups[at].sent {
		before = &p.groups[at]
	}
	state := &r.out.Rows[at]
	ids := func(g *groupAnswers, row int) string {
		if row < len(g.ids) {
			return g.ids[row]
		}
		return ""
	}
	if now.ids != nil || before != nil && before.ids != nil {
		state.IDs = make([]string, n)
	}
	places := make([]int32, n)
	for row := range n {
		place := -1
		switch {
		case before == nil || row >= now.rows:
		case now == before, now.ids == nil && row < before.rows: // none were sent, or nothing but the place tells which it is
			place = row
		case ids(now, row) != "":
			place = slices.Index(before.ids, ids(now, row))
		}
		places[row] = int32(place)
		if state.IDs == nil {
			continue
		}
		if state.IDs[row] = ids(now, row); place >= 0 && state.IDs[row] == "" {
			state.IDs[row] = ids(before, place)
		}
	}
	if before != nil {
		if r.places == nil {
			r.places = make([][]int32, len(r.p.groups))
		}
		r.places[at] = places
	}
}

// place is the place among the prior rows of the row at hand of a repeating
// section, -1 if it is new.
func (r *run) place(group int32) int {
	if r.places == nil || r.places[group] == nil {
		return -1
	}
	return int(r.places[group][r.frame.Groups[group].Row])
}

var noAnswer answer

// answers returns what was sent for an item, in the row at hand, and what was
// answered before.
func (r *run) answers(it *item) (sent, prior *answer) {
	return r.sent(it), r.had(it)
}

func (r *run) prior() *Answers {
	if r.in.Mode == New {
		return nil
	}
	return r.in.Prior
}

// sent is what was sent for an item, in the row at hand.
func (r *run) sent(it *item) *answer {
	if r.closedInMode(it) {
		return &noAnswer
	}
	return r.p.answer(r.in.Answers, it, r.frame.Groups)
}

// had is what the response has for it so far.
func (r *run) had(it *item) *answer {
	prior := r.prior()
	if prior == nil || it.slot < 0 {
		return &noAnswer
	}
	if it.group < 0 {
		return &prior.slots[it.slot]
	}
	return prior.groups[it.group].cell(r.p, it, r.place(it.group))
}

// answer is what answers hold for an item, in the row at hand of groups.
func (p *Program) answer(a *Answers, it *item, groups []expr.Rows) *answer {
	if a == nil || it.slot < 0 {
		return &noAnswer
	}
	if it.group < 0 {
		return &a.slots[it.slot]
	}
	return a.groups[it.group].cell(p, it, groups[it.group].Row)
}

// cell is the answer to an item in a row; none for a row that there is not.
func (g *groupAnswers) cell(p *Program, it *item, row int) *answer {
	if at := row*p.groups[it.group].width + int(it.slot); row >= 0 && at < len(g.cells) {
		return &g.cells[at]
	}
	return &noAnswer
}

// visit decides an item, in a repeating section for every row.
func (r *run) visit(it *item) {
	if it.group < 0 {
		st := &r.out.Items[it.index]
		st.item = it
		var v *expr.Value
		if it.slot >= 0 {
			v = &r.frame.Slots[it.slot]
		}
		if it.plain && r.in.Record == nil {
			if r.out.Sections[it.section] && (it.part || r.met(&it.shown)) {
				r.visitPlain(it, st, v)
				return
			}
			if r.asked == nil {
				return
			}
		}
		r.decide(it, st, v)
		return
	}
	g := &r.frame.Groups[it.group]
	state := &r.out.Rows[it.group]
	r.inRow = int(it.group)
	defer func() { r.inRow = -1 }()
	for g.Row = 0; g.Row < g.Count; g.Row++ {
		var v *expr.Value
		if it.slot >= 0 {
			v = &g.Cells[g.Row*g.Width+int(it.slot)]
		}
		r.decide(it, &state.Items[g.Row*state.Width+int(it.index)], v)
	}
	g.Row = 0
}

// visitPlain is decide for the many items that are shown, always fillable, and
// take nothing but what was sent.
func (r *run) visitPlain(it *item, st *ItemState, v *expr.Value) {
	st.Shown, st.part = true, true
	a, prior := r.answers(it)
	if a.state == untouched {
		a = prior
	}
	r.take(it, st, v, a)
}

// take puts an answer in its place.
func (r *run) take(it *item, st *ItemState, v *expr.Value, a *answer) {
	if a.state == untouched {
		return
	}
	st.touched = true
	st.emptied = a.value.IsBlank() && !a.unmatched && a.problem == nil
	*v = a.value
	if a.problem != nil && !r.repeated(it, a) {
		st.own().problems = append(st.own().problems, *a.problem)
	}
	if a.unmatched {
		st.unmatched = true
		if it.shared && a.problem == nil && r.in.Mode != Staff { // it has left the list meanwhile
			st.own().problems = append(st.own().problems, Problem{Code: NotOffered})
		}
		if it.Type.Picks() || it.Type == form.Grid {
			r.unmatch(it.Key)
		}
	}
}

// repeated reports whether an answer that is to be typed twice is the one that was there
// before, of which nobody asks that.
func (r *run) repeated(it *item, a *answer) bool {
	if !a.once || r.in.Prior == nil {
		return false
	}
	_, prior := r.answers(it)
	return prior.state == given && prior.value.Plain(r.p.loc) == a.value.Plain(r.p.loc)
}

func (r *run) unmatch(name string) {
	if !slices.Contains(r.out.Unmatched, name) {
		r.out.Unmatched = append(r.out.Unmatched, name)
	}
}

var emptySet = expr.ChoicesValue(nil)

// decide finds whether an item takes part, whether it is locked, and its value.
func (r *run) decide(it *item, st *ItemState, v *expr.Value) {
	st.part = !it.Parked && r.out.Sections[it.section] && r.met(&it.shown)
	st.Shown = st.part && (!it.Staff || r.in.Mode == Staff)
	keep := !st.part && it.WhenHidden == "keep" && !it.Parked
	filled := !st.part && it.WhenHidden == "fill" && !it.Parked
	if it.slot < 0 {
		return
	}
	if had := r.had(it); !st.part && r.keepsInMode(it, had) {
		*v, st.kept, st.emptied = had.value, true, had.value.IsBlank() && !had.unmatched && had.problem == nil
		return
	}
	if filled && r.in.Record == nil {
		r.automatic(it, st, v)
		r.onlyOffered(it, st, v, &noAnswer)
		r.withoutPlaces(it, v, &noAnswer)
		st.kept, st.closed = true, true
		return
	}
	if !st.part && !keep && !filled {
		return
	}
	locked := st.part && r.met(&it.locked) // no lock keeps what is hidden and kept from coming along
	closed := locked || it.property == "is" || (it.Staff && r.in.Mode != Staff)
	st.Locked = st.Shown && (locked || (it.property == "is" && !it.Type.Computed()))
	st.closed = closed
	a, prior := r.answers(it)
	switch {
	case r.in.Record != nil:
		*v = r.p.answer(r.in.Record, it, r.frame.Groups).value
	case it.once && r.decided(it, prior):
		*v = prior.value
	case it.property == "is":
		r.automatic(it, st, v)
	case !closed && a.state == given:
		r.take(it, st, v, a)
	case prior.state == untouched || r.following(it, prior):
		r.automatic(it, st, v)
	case closed:
		*v = prior.value
	default:
		r.take(it, st, v, prior)
	}
	if v.Kind() == expr.Blank && st.Shown && r.in.Record == nil {
		switch it.Type {
		case form.Tick:
			*v = expr.YesNoValue(false)
		case form.ChoicesType:
			*v = emptySet
		}
	}
	if filled {
		st.kept = true
		return
	}
	if keep {
		r.keepHidden(it, st, v, prior)
		return
	}
	if it.rows != nil && st.part {
		r.grid(it, st, v, prior)
	}
	if it.options != nil && st.Shown {
		r.offer(it, st, prior)
		if r.in.Record == nil {
			setAside(it, st, v)
			if !locked {
				return
			}
		}
	}
	r.withoutPlaces(it, v, prior)
}

// keepHidden keeps what was typed while it is hidden; it stays and counts as long as it could
// be accepted.
func (r *run) keepHidden(it *item, st *ItemState, v *expr.Value, prior *answer) {
	if r.constrain(it, st, v); len(st.Problems()) > 0 {
		st.extra.problems = nil
		if !r.fitsInMode(it, v) {
			*v = expr.Value{}
		}
	}
	r.onlyOffered(it, st, v, prior)
	r.withoutPlaces(it, v, prior)
	st.kept = true
}

// onlyOffered leaves what is kept while it is hidden without picks that are not on offer.
func (r *run) onlyOffered(it *item, st *ItemState, v *expr.Value, prior *answer) {
	if !it.offers || it.options == nil || v.IsBlank() || r.in.Record != nil {
		return
	}
	var offer ItemState
	offer.item = it
	r.offer(it, &offer, prior)
	setAside(it, &offer, v)
}

// automatic gives the value that comes by itself.
func (r *run) automatic(it *item, st *ItemState, v *expr.Value) {
	if it.value == nil || (it.when != nil && r.truth(it.when) != expr.Met) {
		return
	}
	r.fill(it, st, v)
}

// fill puts the value in that its expression gives.
func (r *run) fill(it *item, st *ItemState, v *expr.Value) {
	got := r.value(it.value)
	if got.Kind() == expr.Text && got.Text() == "" {
		got = expr.Value{}
	}
	st.automatic = true
	if it.Type.Computed() || got.Kind() == it.kind && it.options == nil && !reads(it.Type) {
		*v = got
		return
	}
	texts := r.texts(it.value, &got)
	if texts == nil {
		return
	}
	var unmatched bool
	*v, _, unmatched = r.p.fromText(it, texts)
	if unmatched {
		if len(it.value.Params) == 0 {
			r.unmatch(it.Key)
		}
		for _, name := range it.value.Params {
			r.unmatch("url." + name)
		}
	}
}

// reads reports whether texts of the type are rewritten or refused when read.
func reads(t form.Type) bool {
	return t == form.Email || t == form.Phone || t == form.Website || t == form.MonthDay
}

// texts returns a value as what a respondent might have typed; of an address
// parameter all its values.
func (r *run) texts(code *expr.Code, got *expr.Value) []string {
	if m, ok := code.Node.(*expr.Member); ok && m.Of == "url" {
		return r.frame.Params[r.p.Symbols.Params[m.Name].Slot].Texts
	}
	switch got.Kind() {
	case expr.Text, expr.Choice:
		return []string{got.Text()}
	case expr.Choices:
		return got.Picks()
	}
	return nil
}

// offer finds which choices are on offer. One that the response has already stays
// so while the answers that its conditions name are as they were: what the clock or
// others took away meanwhile is not taken from who has it.
func (r *run) offer(it *item, st *ItemState, prior *answer) {
	if !it.offers {
		return
	}
	if it.narrow != nil && it.narrow.values != nil && prior.state != given {
		st.own().offered = nothingOffered
		if v := r.value(it.narrow.by); !v.IsBlank() {
			if values := it.narrow.values[expr.Fold(v.Text())]; values != nil {
				st.own().offered = values
			}
		}
		return
	}
	if it.narrow != nil {
		places := r.candidates(it, prior)
		st.own().offered = make([]string, 0, len(places))
		for _, i := range places {
			r.offerOne(it, st, prior, int(i))
		}
	} else {
		st.own().offered = make([]string, 0, len(it.all))
		for i := range it.all {
			r.offerOne(it, st, prior, i)
		}
	}
	r.frame.Entry, r.frame.Candidate = nil, expr.Value{}
}

// nothingOffered is an offer of nothing, unlike none at all.
var nothingOffered = []string{}

// offerOne finds whether one choice is on offer, or full.
func (r *run) offerOne(it *item, st *ItemState, prior *answer, i int) {
	value := it.all[i]
	r.frame.Candidate = expr.ChoiceValue(value)
	r.frame.Entry = it.entry(i)
	has := prior.state == given && holds(&prior.value, value)
	if !r.onOffer(it, i, has) {
		return
	}
	full := r.full(it, i, has)
	if full {
		st.own().full = append(st.own().full, value)
	}
	if !full || r.in.Mode == Staff { // who may go beyond
		st.own().offered = append(st.own().offered, value)
	}
}

// entry is the list entry of the choice at i, nil for one that is written out.
func (it *item) entry(i int) []expr.Value {
	if from := len(it.all) - len(it.entries); it.where != nil && i >= from {
		return it.entries[i-from]
	}
	return nil
}

// onOffer decides the conditions of one choice; has tells that the response has it.
func (r *run) onOffer(it *item, i int, has bool) bool {
	if r.frame.Entry != nil && r.truth(it.where) != expr.Met && !(has && r.unchanged(it.where.code)) {
		return false
	}
	if i < len(it.choices) && !r.allows(&it.choices[i], has) {
		return false
	}
	return r.allows(&choice{it.offered, it.withheld}, has)
}

// allows decides the pair of conditions on a choice.
func (r *run) allows(ch *choice, has bool) bool {
	return (r.met(&ch.offered) || has && r.unchanged(ch.offered.code)) &&
		(!r.met(&ch.withheld) || has && r.unchanged(ch.withheld.code))
}

// setAside drops picks that are not on offer.
func setAside(it *item, st *ItemState, v *expr.Value) {
	if !it.offers {
		return
	}
	defer func() {
		for _, pick := range st.more().aside {
			if st.touched && slices.Contains(st.more().full, pick) {
				st.own().problems = append(st.own().problems, Problem{Code: NoPlaces, Arg: it.labelOf(pick)})
			}
		}
	}()
	switch v.Kind() {
	case expr.Choice:
		if !slices.Contains(st.more().offered, v.Text()) {
			st.own().aside = []string{v.Text()}
			*v = expr.Value{}
		}
	case expr.Choices:
		var kept []string
		for _, pick := range v.Picks() {
			if slices.Contains(st.more().offered, pick) {
				kept = append(kept, pick)
			} else {
				st.own().aside = append(st.own().aside, pick)
			}
		}
		keepPicks(it, v, kept)
	case expr.Grid:
		setCellsAside(st, v)
	}
}

// setCellsAside drops the picks of a grid that are not on offer, in each of its rows.
func setCellsAside(st *ItemState, v *expr.Value) {
	var out []expr.Cell
	for _, cell := range v.Cells() {
		had := cell.Value.Picks()
		if cell.Value.Kind() == expr.Choice {
			had = []string{cell.Value.Text()}
		}
		picks := slices.DeleteFunc(slices.Clone(had), func(pick string) bool {
			gone := !slices.Contains(st.more().offered, pick)
			if gone && !slices.Contains(st.more().aside, pick) {
				st.own().aside = append(st.own().aside, pick)
			}
			return gone
		})
		switch {
		case len(picks) == len(had):
			out = append(out, cell)
		case len(picks) > 0:
			out = append(out, expr.Cell{Row: cell.Row, Value: expr.ChoicesValue(picks)})
		}
	}
	*v = expr.GridValue(out)
}

// holds reports whether a pick, one of several, or one in a row of a grid is a value.
func holds(v *expr.Value, value string) bool {
	return v.Holds(value) || slices.ContainsFunc(v.Cells(), func(c expr.Cell) bool { return c.Value.Holds(value) })
}

// keepPicks leaves some of the picks of a set, and what was written for one of them.
func keepPicks(it *item, v *expr.Value, kept []string) {
	if len(kept) == len(v.Picks()) {
		return
	}
	other := v.Other()
	if *v = expr.ChoicesValue(kept); other != "" && v.Holds(it.options.Other) {
		*v = v.WithOther(it.options.Other, other)
	}
}

// finish adds what no other item depends on: required status, problems and
// wording, and with them whether the response is accepted.
func (r *run) finish() {
	out := r.out
	out.sound = true
	r.finishChecks()
	for i := range out.Items {
		r.finishItem(&out.Items[i], r.out.valueOf(&out.Items[i], 0))
	}
	for gi := range out.Rows {
		state, g := &out.Rows[gi], &r.frame.Groups[gi]
		if len(state.Problems) > 0 {
			out.sound = false
		}
		for g.Row = 0; g.Row < g.Count; g.Row++ {
			for i := range state.Width {
				st := &state.Items[g.Row*state.Width+i]
				r.finishItem(st, out.valueOf(st, g.Row))
			}
		}
		g.Row = 0
	}
	if r.track && r.p.clockedTexts {
		for _, t := range r.p.texts {
			if t.Clocked() {
				r.until = min(r.until, t.Until(r.frame))
			}
		}
	}
	out.until = r.until
	out.Accepted = out.sound && out.Open == Open
	if r.p.sends {
		in := *r.in
		out.in = &in
	}
}

// finishChecks tests the checks of pages and sections.
func (r *run) finishChecks() {
	if !r.p.checked {
		return
	}
	out := r.out
	out.pageProblems, out.sectionProblems = make([][]Problem, len(r.p.pages)), make([][]Problem, len(r.p.sections))
	for i := range r.p.pages {
		if out.onRoute[i] && out.sees(r.p.pages[i].Staff) {
			out.pageProblems[i] = r.refused(r.p.pages[i].checks, -1)
		}
	}
	for i := range r.p.sections {
		sec := &r.p.sections[i]
		if !out.Sections[i] || len(sec.checks) == 0 || !out.sees(sec.Staff) {
			continue
		}
		if sec.group < 0 {
			out.sectionProblems[i] = r.refused(sec.checks, -1)
			continue
		}
		state, g := &out.Rows[sec.group], &r.frame.Groups[sec.group]
		state.RowProblems = make([][]Problem, state.Count)
		for g.Row = 0; g.Row < g.Count; g.Row++ {
			state.RowProblems[g.Row] = r.refused(sec.checks, int32(sec.group))
		}
		g.Row = 0
	}
}

// refused are the problems of checks that are not met.
func (r *run) refused(checks []check, group int32) []Problem {
	var out []Problem
	for i := range checks {
		if r.truth(&checks[i].condition) == expr.NotMet {
			r.out.sound = false
			message := checks[i].message
			if c := r.p.textFor(textKey{group, message}, r.in.Apart); c != nil {
				message = c.Plain(r.frame)
			}
			out = append(out, Problem{Refused, message, r.mend(&checks[i])})
		}
	}
	return out
}

// mend is the last question that a check names on a later page and that is there.
func (r *run) mend(ch *check) string {
	for _, it := range slices.Backward(ch.later) {
		if st := &r.out.Items[it.index]; st.Shown && !it.Staff {
			return it.Key
		}
	}
	return ""
}

func (r *run) finishItem(st *ItemState, v *expr.Value) {
	it := st.item
	for i := 0; i < len(it.wording) && st.part; i++ {
		if r.truth(&it.wording[i]) == expr.Met {
			st.wording = int32(i + 1)
			break
		}
	}
	r.word(it, st)
	if !st.part {
		return
	}
	if it.slot < 0 {
		return
	}
	if st.Shown {
		// What is never kept was given when the response was received.
		// Who names the mode says whether it is demanded again.
		again := it.required.code != nil && it.required.code.Mode
		st.Required = r.met(&it.required) && (it.IsStored() || r.prior() == nil || again)
		if st.Required && len(st.Problems()) == 0 && !st.closed {
			if it.tick && !v.Yes() {
				st.own().problems = append(st.own().problems, Problem{Code: NotTicked})
			} else if it.kind == expr.Grid && !st.complete(v) || it.kind != expr.Grid && v.IsBlank() {
				st.own().problems = append(st.own().problems, Problem{Code: Missing})
			}
		}
		if !st.closed {
			r.constrain(it, st, v)
		}
	}
	for i := range it.checks {
		if ch := &it.checks[i]; r.truth(&ch.condition) == expr.NotMet {
			st.own().problems = append(st.own().problems, Problem{Refused, r.plain(it, ch.message), r.mend(ch)})
		}
	}
	if len(st.Problems()) > 0 {
		r.out.sound = false
	}
}

// bound is what a bound is now; it does not bound while it is blank.
func (r *run) bound(b *bound) expr.Value {
	if b.code != nil {
		return r.value(b.code)
	}
	return b.fixed
}

// said is a limit as people of the form's language read it.
func (r *run) said(v *expr.Value) string {
	return expr.Type{Kind: v.Kind()}.Speak(v, &expr.Evaluation{Speech: r.p.speech, Clock: expr.ClockAt(0, r.p.loc)})
}

// constrain tests the limits of an answer.
func (r *run) constrain(it *item, st *ItemState, v *expr.Value) {
	if !it.constraint || v.IsBlank() {
		return
	}
	add := func(code ProblemCode, arg string) {
		st.own().problems = append(st.own().problems, Problem{Code: code, Arg: arg})
	}
	within := func(v expr.Value, least, most *bound, under, over ProblemCode) {
		low, high := r.bound(least), r.bound(most)
		if below(&v, &low) {
			add(under, r.said(&low))
		}
		if below(&high, &v) {
			add(over, r.said(&high))
		}
	}
	b := &it.bounds
	under, over := TooSmall, TooGreat
	if k := v.Kind(); k == expr.Date || k == expr.Time || k == expr.Moment {
		under, over = TooEarly, TooLate
	}
	within(*v, &b.min, &b.max, under, over)
	if step := r.bound(&b.step); v.Kind() == expr.Num && step.Number().Sign() > 0 {
		from := r.bound(&b.min)
		if it.Type == form.Scale { // a whole number, wherever it begins
			from = expr.NumberValue(expr.Int(0))
		}
		if !onStep(v.Number(), from.Number(), step.Number()) {
			add(OffStep, step.Plain(r.p.loc))
		}
	}
	if other := it.otherChoice(); other != "" && v.Holds(other) && v.Other() == "" {
		add(OtherMissing, it.labelOf(other))
	}
	if it.Type == form.Ranking && len(v.Picks()) < len(st.Choices()) {
		add(NotRanked, "")
	}
	switch v.Kind() {
	case expr.Text:
		within(expr.NumberValue(expr.Int(int64(expr.Length(v.Text())))), &b.minLength, &b.maxLength, TooShort, TooLong)
		if it.pattern != nil && !it.pattern.MatchString(v.Text()) {
			add(NoMatch, r.plain(it, it.PatternMessage))
		}
	case expr.Choices:
		within(expr.NumberValue(expr.Int(int64(len(v.Picks())))), &b.minPicked, &b.maxPicked, TooFew, TooMany)
	case expr.File:
		parts := v.Parts()
		if len(it.Accept) > 0 && !slices.ContainsFunc(it.Accept, func(a string) bool { return accepts(a, parts) }) {
			add(WrongFile, strings.Join(it.Accept, ", "))
		}
		if size, err := strconv.Atoi(parts.Get("size")); err == nil && size > it.FileLimit() {
			add(FileTooLarge, Size(it.FileLimit()))
		}
	}
}

// otherChoice is the value of the choice that brings a text of its own, or "".
func (it *item) otherChoice() string {
	if it.options == nil {
		return ""
	}
	return it.options.Other
}

// Size says a size in bytes as people do.
func Size(bytes int) string {
	if bytes < 1<<20 {
		return strconv.Itoa(bytes>>10) + " kB"
	}
	return strconv.FormatFloat(float64(bytes)/(1<<20), 'f', -1, 64) + " MB"
}

// accepts reports whether a file fits image/*, image/png or .png.
func accepts(pattern string, file expr.Parts) bool {
	pattern = strings.ToLower(strings.TrimSpace(pattern))
	if strings.HasPrefix(pattern, ".") {
		return strings.HasSuffix(strings.ToLower(file.Get("name")), pattern)
	}
	kind := strings.ToLower(file.Get("type"))
	if family, ok := strings.CutSuffix(pattern, "/*"); ok {
		return strings.HasPrefix(kind, family+"/")
	}
	return kind == pattern
}

func onStep(v, from, step expr.Number) bool {
	d := v.Sub(from)
	q, ok := d.Div(step)
	return ok && q.Floor().Mul(step).Cmp(d) == 0
}
