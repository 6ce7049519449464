package proof

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/form"
)

// mostAttempts bounds how many inputs are looked at with which one item takes no answer.
const mostAttempts = 24

// attempts looks for inputs with which an item is required and takes no answer, while nothing
// is wrong with any other: for one that further answers mend, so that the item waits for
// them, and for a dead end, which none do.
type attempts struct {
	p    *prover
	it   *item
	row  int
	lits []lit // what holds in all that are still to be looked at

	end, waits bool // whether one of either kind was found
}

// run reports whether it is settled which kinds there are.
func (a *attempts) run() bool {
	return a.waiting() && a.ending()
}

// waiting looks for an input that takes no answer and, at once, for one in which more is
// answered and it does.
func (a *attempts) waiting() (settled bool) {
	p, m := a.p, a.p.m
	wrong := p.w.problem(a.it, a.row)
	copies, same := a.copies(wrong)
	lits := slices.Concat(a.lits, same, []lit{m.under(wrong, maps.Clone(copies)).not()})
	for range 4 {
		switch m.ask(questionEffort, lits...) {
		case impossible:
			return true
		case unsure:
			return false
		}
		f := m.found()
		more := slices.Clone(f)
		for v, l := range copies {
			more[v] = f.holds(l)
		}
		if a.isStuck(f) && a.mended(more) {
			f = p.fewer(f, nil, func(f filling) bool { return a.isStuck(f) && a.further(f) == satisfiable })
			if a.further(f) != satisfiable {
				return false
			}
			more = p.fewer(m.found(), f, a.mended)
			if helpers := p.added(f, more, a.it); len(helpers) > 0 {
				a.waits = true
				a.sayWaits(f, helpers)
			}
			return a.waits
		}
		if !slices.ContainsFunc(lits, m.shaky) {
			return false
		}
		m.shake()
	}
	return false
}

// copies are second inputs for those that a formula is made of, by their variables, and what
// holds if they are such in which more is answered: the answer to the item may be any, others
// are the same unless they were blank.
func (a *attempts) copies(of lit) (copies map[int]lit, same []lit) {
	p, m := a.p, a.p.m
	within := map[int]bool{}
	for _, v := range m.cone([]lit{of}) {
		within[v] = true
	}
	copies = map[int]lit{}
	for _, in := range m.listed {
		if len(in.lits) < 2 || !slices.ContainsFunc(in.lits, func(l lit) bool { return within[l.variable()] }) {
			continue
		}
		fresh := m.oneOf(len(in.lits))
		blank := p.leftBlank(in)
		for i, l := range in.lits {
			copies[l.variable()] = fresh[i]
			delete(within, l.variable())
			if p.about(in) != a.it || in.row != a.row {
				same = append(same, m.or(blank, l.not(), fresh[i]))
			}
		}
	}
	for _, row := range m.taken { // what others have taken stays so
		for _, l := range row {
			delete(within, l.variable())
		}
	}
	for v := range within {
		if g := m.gates[v]; g.free && g.group < 0 {
			copies[v] = m.unknown()
		}
	}
	return copies, same
}

// leftBlank is when what an input is of is blank: an item, or the rows of a section.
func (p *prover) leftBlank(in *input) lit {
	if it := p.about(in); it != nil {
		return p.m.blank(p.w.value(it, in.row))
	}
	return in.lits[0]
}

// ending looks for an input that no further answers mend. Whenever some do, all other inputs
// that they mend are left out.
func (a *attempts) ending() (settled bool) {
	p, m := a.p, a.p.m
	wrong := p.w.problem(a.it, a.row)
	for range mostAttempts {
		switch m.ask(questionEffort, a.lits...) {
		case impossible:
			return true
		case unsure:
			return false
		}
		f := m.found()
		if !a.isStuck(f) {
			if !slices.ContainsFunc(a.lits, m.shaky) {
				return false
			}
			m.shake()
			continue
		}
		switch a.further(f) {
		case impossible:
			a.end = true
			a.sayEnd(p.fewer(f, nil, func(f filling) bool { return a.isStuck(f) && a.further(f) == impossible }))
			return true
		case unsure:
			return false
		}
		more := p.fewer(m.found(), f, a.mended)
		if !a.mended(more) {
			return false
		}
		at, still := map[int]lit{}, []lit{}
		for _, in := range m.listed {
			own := p.about(in) == a.it && in.row == a.row
			if chosen(in, f) == chosen(in, more) && !own {
				continue
			}
			if !own {
				still = append(still, p.leftBlank(in).not())
			}
			for _, l := range in.lits {
				at[l.variable()] = no
			}
			at[chosen(in, more).variable()] = yes
		}
		a.lits = append(a.lits, m.or(append(still, m.under(wrong, at))...))
	}
	return false
}

func (a *attempts) isStuck(f filling) bool { return a.p.isStuck(a.it, a.row, a.p.m.read(a.p.side, f)) }

func (a *attempts) mended(f filling) bool { return !a.p.wrong(a.it, a.row, a.p.m.read(a.p.side, f)) }

// further decides whether answers to what was left blank in an input mend it.
func (a *attempts) further(f filling) answer {
	p := a.p
	return p.m.ask(questionEffort, append(p.held(f, a.it, a.row), p.w.problem(a.it, a.row).not())...)
}

func (a *attempts) sayEnd(f filling) {
	p, m := a.p, a.p.m
	fl := m.read(p.side, f)
	wrong := p.w.problem(a.it, a.row)
	held := fewest(p.held(f, a.it, a.row), func(held []lit) bool {
		return m.ask(questionEffort, append(slices.Clone(held), wrong.not())...) == impossible
	})
	for _, in := range m.listed { // what is not ticked is answered, too
		it := p.side.items[in.name]
		if it != nil && it.Type == form.Tick && it.Value == nil && it.section.group == nil && slices.Contains(held, in.lits[0]) {
			fl.Answers = maps.Clone(fl.Answers)
			fl.Answers[it.Key] = false
		}
	}
	a.say(fl, DeadEnd, form.Error, "%s is required, and with %s no answer to it is accepted.",
		a.it.Name(), cmp.Or(p.told(fl, a.it.Key), "nothing else answered"))
}

func (a *attempts) sayWaits(f filling, helpers []helper) {
	p, m := a.p, a.p.m
	fl := m.read(p.side, f)
	var names []string
	lits := append(p.held(f, a.it, a.row), p.w.problem(a.it, a.row).not())
	for _, h := range helpers {
		lits = append(lits, h.blank)
		if !slices.Contains(names, h.name) {
			names = append(names, h.name)
		}
	}
	is := "is"
	if len(names) > 1 {
		is = "are"
	}
	said := "%s can be answered only once %s " + is + "."
	if m.ask(questionEffort, lits...) != impossible {
		said = "%s can’t be answered before something else is, such as %s."
	}
	a.say(fl, WaitsFor, form.Warning, said, a.it.Name(), strings.Join(names, " and "))
}

func (a *attempts) say(fl engine.Filling, kind string, severity form.Severity, format string, args ...any) {
	r := a.p.say(kind, severity, a.it.at()+".required", a.it.Key, format, args...)
	r.With = a.p.told(fl, a.it.Key)
	r.Witness = witnessOf(fl)
}

// chosen is the literal that holds among those of an input.
func chosen(in *input, f filling) lit {
	for _, l := range in.lits {
		if f.holds(l) {
			return l
		}
	}
	return in.lits[0]
}

// about is the item that an input is of, nil for the number of rows of a section.
func (p *prover) about(in *input) *item {
	base, _, _ := strings.Cut(in.name, "\x00")
	base, _ = cut(base)
	return p.side.items[base]
}

// held is what stays of an input while questions are answered that were left blank in it:
// the answers, the address and the moment. The answer to one item is left open.
func (p *prover) held(f filling, but *item, row int) (out []lit) {
	m := p.m
	o := run(p.side.program, m.read(p.side, f))
	for _, in := range m.listed {
		it := p.about(in)
		switch {
		case it == nil:
			if !f.holds(in.lits[0]) {
				out = append(out, chosen(in, f))
			}
		case it == but && in.row == row:
		default:
			if st := o.State(it.Key, in.row); st != nil && st.Item() != nil {
				if v := o.Value(st, in.row); !v.IsBlank() {
					out = append(out, chosen(in, f))
				}
			}
		}
	}
	for _, lits := range m.params {
		out = append(out, lits[slices.IndexFunc(lits, f.holds)])
	}
	for _, l := range m.clock {
		if f.holds(l) {
			out = append(out, l)
		}
	}
	return out
}

// fewer leaves out as much of what is answered in a filling as can be with which a test still
// holds, the address too, and takes the usual moment. If there is another filling, what is
// answered in it stays, and so do its address and its moment.
func (p *prover) fewer(f, but filling, test func(filling) bool) filling {
	var answered []*input
	if but == nil {
		for _, name := range slices.Sorted(maps.Keys(p.m.params)) {
			answered = append(answered, &input{lits: p.m.params[name]})
		}
		answered = append(answered, &input{lits: p.m.usualFirst()})
	}
	for _, in := range p.m.listed {
		if !f.holds(in.lits[0]) && (but == nil || but.holds(in.lits[0])) {
			answered = append(answered, in)
		}
	}
	only := func(rest []*input) filling {
		out := slices.Clone(f)
		for _, in := range answered {
			if slices.Contains(rest, in) {
				continue
			}
			for i, l := range in.lits {
				out[l.variable()] = (i == 0) != l.negated()
			}
		}
		return out
	}
	return only(fewest(answered, func(rest []*input) bool { return !p.up() && test(only(rest)) }))
}

// helper is what was answered besides: an item in one row, or how many rows there are.
type helper struct {
	name  string
	blank lit
}

// added is what is answered in one filling and not in another, but for one item.
func (p *prover) added(f, more filling, but *item) (out []helper) {
	for _, in := range p.m.listed {
		it := p.about(in)
		if it == but || chosen(in, f) == chosen(in, more) {
			continue
		}
		h := helper{blank: p.leftBlank(in)}
		if it != nil {
			h.name = it.Name()
		} else if g := p.side.groups[in.name]; g != nil {
			h.name = g.Name()
		}
		if !slices.Contains(out, h) {
			out = append(out, h)
		}
	}
	return out
}
