package proof

import (
	"cmp"
	"maps"
	"slices"
	"strings"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof/sat"
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
	lits []sat.Lit // what holds in all that are still to be looked at

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
	lits := slices.Concat(a.lits, same, []sat.Lit{m.Assuming(wrong, maps.Clone(copies)).Not()})
	for range 4 {
		switch m.Ask(questionEffort, lits...) {
		case sat.Impossible:
			return true
		case sat.Unsure:
			return false
		}
		f := m.Found()
		more := slices.Clone(f)
		for v, l := range copies {
			more[v] = f.Holds(l)
		}
		if a.isStuck(f) && a.mended(more) {
			f = p.fewer(f, nil, func(f sat.Filling) bool { return a.isStuck(f) && a.further(f) == sat.Satisfiable })
			if a.further(f) != sat.Satisfiable {
				return false
			}
			more = p.fewer(m.Found(), f, a.mended)
			if helpers := p.added(f, more, a.it); len(helpers) > 0 {
				a.waits = true
				a.sayWaits(f, helpers)
			}
			return a.waits
		}
		if !slices.ContainsFunc(lits, m.Shaky) {
			return false
		}
		m.Shake()
	}
	return false
}

// copies are second inputs for those that a formula is made of, by their variables, and what
// holds if they are such in which more is answered: the answer to the item may be any, others
// are the same unless they were blank.
func (a *attempts) copies(of sat.Lit) (copies map[int]sat.Lit, same []sat.Lit) {
	p, m := a.p, a.p.m
	within := map[int]bool{}
	for _, v := range m.Cone([]sat.Lit{of}) {
		within[v] = true
	}
	copies = map[int]sat.Lit{}
	for _, in := range m.listed {
		if len(in.lits) < 2 || !slices.ContainsFunc(in.lits, func(l sat.Lit) bool { return within[l.Variable()] }) {
			continue
		}
		fresh := m.OneOf(len(in.lits))
		blank := p.leftBlank(in)
		for i, l := range in.lits {
			copies[l.Variable()] = fresh[i]
			delete(within, l.Variable())
			if p.itemOf(in) != a.it || in.row != a.row {
				same = append(same, m.Or(blank, l.Not(), fresh[i]))
			}
		}
	}
	for _, row := range m.taken { // what others have taken stays so
		for _, l := range row {
			delete(within, l.Variable())
		}
	}
	for v := range within {
		if m.Alone(v) {
			copies[v] = m.Unknown()
		}
	}
	return copies, same
}

// leftBlank is when what an input is of is blank: an item, or the rows of a section.
func (p *prover) leftBlank(in *input) sat.Lit {
	if it := p.itemOf(in); it != nil {
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
		switch m.Ask(questionEffort, a.lits...) {
		case sat.Impossible:
			return true
		case sat.Unsure:
			return false
		}
		f := m.Found()
		if !a.isStuck(f) {
			if !slices.ContainsFunc(a.lits, m.Shaky) {
				return false
			}
			m.Shake()
			continue
		}
		switch a.further(f) {
		case sat.Impossible:
			a.end = true
			a.sayEnd(p.fewer(f, nil, func(f sat.Filling) bool { return a.isStuck(f) && a.further(f) == sat.Impossible }))
			return true
		case sat.Unsure:
			return false
		}
		more := p.fewer(m.Found(), f, a.mended)
		if !a.mended(more) {
			return false
		}
		at, still := map[int]sat.Lit{}, []sat.Lit{}
		for _, in := range m.listed {
			own := p.itemOf(in) == a.it && in.row == a.row
			if chosen(in, f) == chosen(in, more) && !own {
				continue
			}
			if !own {
				still = append(still, p.leftBlank(in).Not())
			}
			for _, l := range in.lits {
				at[l.Variable()] = sat.No
			}
			at[chosen(in, more).Variable()] = sat.Yes
		}
		a.lits = append(a.lits, m.Or(append(still, m.Assuming(wrong, at))...))
	}
	return false
}

func (a *attempts) isStuck(f sat.Filling) bool {
	return a.p.isStuck(a.it, a.row, a.p.m.read(a.p.side, f))
}

func (a *attempts) mended(f sat.Filling) bool {
	return !a.p.wrong(a.it, a.row, a.p.m.read(a.p.side, f))
}

// further decides whether answers to what was left blank in an input mend it.
func (a *attempts) further(f sat.Filling) sat.Answer {
	p := a.p
	return p.m.Ask(questionEffort, append(p.held(f, a.it, a.row), p.w.problem(a.it, a.row).Not())...)
}

func (a *attempts) sayEnd(f sat.Filling) {
	p, m := a.p, a.p.m
	fl := m.read(p.side, f)
	wrong := p.w.problem(a.it, a.row)
	held := fewest(p.held(f, a.it, a.row), func(held []sat.Lit) bool {
		return m.Ask(questionEffort, append(slices.Clone(held), wrong.Not())...) == sat.Impossible
	})
	for _, in := range m.listed { // what is not ticked is answered, too
		it := p.side.items[in.name]
		if it != nil && it.Type == form.Tick && it.Value == nil && it.section.group == nil &&
			slices.Contains(held, in.lits[0]) {
			fl.Answers = maps.Clone(fl.Answers)
			fl.Answers[it.Key] = false
		}
	}
	a.say(fl, DeadEnd, form.Error, "%s is required, and with %s no answer to it is accepted.",
		a.it.Name(), cmp.Or(p.told(fl, a.it.Key), "nothing else answered"))
}

func (a *attempts) sayWaits(f sat.Filling, helpers []helper) {
	p, m := a.p, a.p.m
	fl := m.read(p.side, f)
	var names []string
	lits := append(p.held(f, a.it, a.row), p.w.problem(a.it, a.row).Not())
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
	if m.Ask(questionEffort, lits...) != sat.Impossible {
		said = "%s can’t be answered before something else is, such as %s."
	}
	a.say(fl, WaitsFor, form.Warning, said, a.it.Name(), strings.Join(names, " and "))
}

func (a *attempts) say(fl engine.Filling, kind string, severity form.Severity, format string, args ...any) {
	r := a.p.say(kind, severity, a.it.remarkPlace()+".required", a.it.Key, format, args...)
	r.With = a.p.told(fl, a.it.Key)
	r.Witness = witnessOf(fl)
}

// chosen is the literal that holds among those of an input.
func chosen(in *input, f sat.Filling) sat.Lit {
	for _, l := range in.lits {
		if f.Holds(l) {
			return l
		}
	}
	return in.lits[0]
}

// itemOf is the item that an input is of, nil for the number of rows of a section.
func (p *prover) itemOf(in *input) *item {
	base, _, _ := strings.Cut(in.name, "\x00")
	base, _ = cut(base)
	return p.side.items[base]
}

// held is what stays of an input while questions are answered that were left blank in it:
// the answers, the address and the moment. The answer to one item is left open.
func (p *prover) held(f sat.Filling, but *item, row int) (out []sat.Lit) {
	m := p.m
	o := run(p.side.program, m.read(p.side, f))
	for _, in := range m.listed {
		it := p.itemOf(in)
		switch {
		case it == nil:
			if !f.Holds(in.lits[0]) {
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
		out = append(out, lits[slices.IndexFunc(lits, f.Holds)])
	}
	for _, l := range m.clock {
		if f.Holds(l) {
			out = append(out, l)
		}
	}
	return out
}

// fewer leaves out as much of what is answered in a filling as can be with which a test still
// holds, the address too, and takes the usual moment. If there is another filling, what is
// answered in it stays, and so do its address and its moment.
func (p *prover) fewer(f, but sat.Filling, test func(sat.Filling) bool) sat.Filling {
	var answered []*input
	if but == nil {
		for _, name := range slices.Sorted(maps.Keys(p.m.params)) {
			answered = append(answered, &input{lits: p.m.params[name]})
		}
		answered = append(answered, &input{lits: p.m.usualFirst()})
	}
	for _, in := range p.m.listed {
		if !f.Holds(in.lits[0]) && (but == nil || but.Holds(in.lits[0])) {
			answered = append(answered, in)
		}
	}
	only := func(rest []*input) sat.Filling {
		out := slices.Clone(f)
		for _, in := range answered {
			if slices.Contains(rest, in) {
				continue
			}
			for i, l := range in.lits {
				out[l.Variable()] = (i == 0) != l.Negated()
			}
		}
		return out
	}
	return only(fewest(answered, func(rest []*input) bool { return !p.up() && test(only(rest)) }))
}

// helper is what was answered besides: an item in one row, or how many rows there are.
type helper struct {
	name  string
	blank sat.Lit
}

// added is what is answered in one filling and not in another, but for one item.
func (p *prover) added(f, more sat.Filling, but *item) (out []helper) {
	for _, in := range p.m.listed {
		it := p.itemOf(in)
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
