package proof

import (
	"lazo/core/expr"
	"lazo/core/proof/sat"
)

// world is what a form is for every input at once: for each item, section and page the
// formula for when it is shown, what its value can be, whether it is accepted. Some answers
// may be taken as never given, or as given.
type world struct {
	side    *side
	without map[string]bool // keys of items that nothing is answered to
	fixed   map[string]*val // and of those that are answered in one way, by key and row

	values map[cellKey]*val
	lits   map[litKey]sat.Lit
	truths map[truthKey]truth
	loose  map[looseKey]truth
	counts map[*group]*val
	frames map[string]*expr.Evaluation

	parent *world                   // of which this one differs in a condition
	read   map[*condition]expr.Node // how conditions read instead
	below  map[string]bool          // what hangs on those

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
		side: sd, values: map[cellKey]*val{}, lits: map[litKey]sat.Lit{}, truths: map[truthKey]truth{},
		loose:  map[looseKey]truth{},
		counts: map[*group]*val{}, frames: map[string]*expr.Evaluation{},
	}
}

// frame is one for expressions at a place, in a row.
func (w *world) frame(pl place, row int) *expr.Evaluation {
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
func (w *world) once(what string, of any, row int, compute func() sat.Lit) sat.Lit {
	key := litKey{what, of, row}
	if l, ok := w.lits[key]; ok {
		return l
	}
	l := compute()
	w.lits[key] = l
	return l
}

// truthOf is the truth of a condition of the form, in a row.
func (w *world) truthOf(c *condition, row int) truth {
	if c == nil {
		return truth{sat.Yes, sat.No}
	}
	key := truthKey{c, row, w.candidate, ""}
	if c.place.scope.Candidate == nil {
		key.candidate = ""
	}
	if t, ok := w.truths[key]; ok {
		return t
	}
	t := w.truth(w.node(c), c.place, row)
	w.truths[key] = t
	return t
}

// node is how a condition reads.
func (w *world) node(c *condition) expr.Node {
	if other := w.read[c]; other != nil {
		return other
	}
	return c.node
}

// instead is a world in which a condition reads otherwise. What does not hang on it is that
// of this one.
func (w *world) instead(c *condition, n expr.Node) *world {
	out := w.side.world()
	out.parent, out.read, out.below = w, map[*condition]expr.Node{c: n}, w.side.hangingOn(c.owner)
	return out
}

// shares reports whether something is the same in the world that this one differs from.
func (w *world) shares(key string) bool { return w.parent != nil && !w.below[key] }

// hangingOn is what hangs on the conditions of an item, a section or a page: that itself,
// what stands in it, what names any of these and, of a page, all that come later.
func (sd *side) hangingOn(owner string) map[string]bool {
	if out := sd.hanging[owner]; out != nil {
		return out
	}
	graph := sd.program.Form.Graph()
	out := map[string]bool{}
	var add func(key string)
	addSection := func(sec *section) {
		add(sec.Key)
		for _, it := range sec.items {
			add(it.Key)
		}
	}
	add = func(key string) {
		if out[key] || key == "" {
			return
		}
		out[key] = true
		for _, pg := range sd.pages {
			for _, sec := range pg.sections {
				if sec.Key == key || pg.Key == key {
					addSection(sec)
				}
			}
			if pg.Key == key && pg.index+1 < len(sd.pages) {
				add(sd.pages[pg.index+1].Key)
			}
		}
		for _, t := range graph.Drives(key) {
			add(t.Key)
		}
	}
	add(owner)
	sd.hanging[owner] = out
	return out
}

// met is when a rule takes effect.
func (w *world) met(r rule, row int) sat.Lit {
	if r.condition == nil {
		if r.yes {
			return sat.Yes
		}
		return sat.No
	}
	return w.truthOf(r.condition, row).met
}

// onRoute is when a respondent comes through a page.
func (w *world) onRoute(pg *page) sat.Lit {
	if w.shares(pg.Key) {
		return w.parent.onRoute(pg)
	}
	return w.once("route", pg, 0, func() sat.Lit {
		m := w.side.model
		var passed []sat.Lit
		for _, before := range w.side.pages[:pg.index] {
			for j, target := range before.targets {
				if target > pg.index {
					passed = append(passed, w.leads(before, j))
				}
			}
		}
		return m.And(m.Or(passed...).Not(), w.met(pg.shown, 0))
	})
}

// leads is when a page is left by one of its ways.
func (w *world) leads(pg *page, j int) sat.Lit {
	m := w.side.model
	all := []sat.Lit{w.onRoute(pg), w.truthOf(pg.next[j], 0).met}
	for _, earlier := range pg.next[:j] {
		all = append(all, w.truthOf(earlier, 0).met.Not())
	}
	return m.And(all...)
}

func (w *world) sectionShown(s *section) sat.Lit {
	return w.once("section", s, 0, func() sat.Lit { return w.side.model.And(w.onRoute(s.page), w.met(s.shown, 0)) })
}

// part is when an item takes part.
func (w *world) part(it *item, row int) sat.Lit {
	if it.Parked {
		return sat.No
	}
	return w.once("part", it, row, func() sat.Lit { return w.side.model.And(w.around(it, row), w.met(it.shown, row)) })
}

// around is when all that an item stands in is shown.
func (w *world) around(it *item, row int) sat.Lit {
	if g := it.section.group; g != nil {
		return w.exists(g, row)
	}
	return w.sectionShown(it.section)
}

// shown is when a respondent sees an item.
func (w *world) shown(it *item, row int) sat.Lit {
	if it.Staff {
		return sat.No
	}
	return w.part(it, row)
}

func (w *world) locked(it *item, row int) sat.Lit { return w.met(it.locked, row) }

// closed is when a respondent can't fill an item.
func (w *world) closed(it *item, row int) sat.Lit {
	if it.property == "is" || it.Staff {
		return sat.Yes
	}
	return w.locked(it, row)
}
