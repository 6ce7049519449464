package proof

import (
	"cmp"
	"slices"
	"strconv"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// Difference is what another edition of a form makes otherwise of the same input.
type Difference struct {
	Item    string   `json:"item"`
	Effect  string   `json:"effect"` // shown, required, locked, filled, worded, offered, accepted or sent
	Now     bool     `json:"now"`    // whether it is so in the newer edition, and was not before
	Choice  string   `json:"choice,omitempty"`
	Row     string   `json:"row,omitempty"` // of a grid
	Text    string   `json:"text"`
	Witness *Witness `json:"witness"`
}

// comparer asks a model of two editions.
type comparer struct {
	prover
	old, now   *world
	oldP, nowP *engine.Program
	found      []Difference
}

// Between finds what a newer edition makes otherwise than an older one: which questions
// that both have are shown, required, locked, filled in by themselves, worded in another way
// or offer a choice to somebody now, or no longer do, and what can be sent, each with an input
// that both were run with. What it does not name is the
// same for every input whose answers can be read and keep the fixed limits of their
// questions, but for what stands among the undecided. A question of another type under the
// same key, or in other rows, is another question.
func Between(old, now *engine.Program, o Options) ([]Difference, []Undecided) {
	m := newModel(o, old, now)
	c := &comparer{
		prover: prover{m: m, side: m.sides[1], never: map[string]bool{}, listed: map[string]bool{}, report: &Report{}},
		old:    m.sides[0].world(), now: m.sides[1].world(), oldP: old, nowP: now, found: []Difference{},
	}
	c.w = c.now
	for _, it := range m.sides[1].list {
		if before := m.sides[0].items[it.Key]; before != nil && before.Type == it.Type &&
			before.place().group == it.place().group {
			c.item(before, it)
		}
	}
	c.sending()
	return c.found, append([]Undecided{}, c.report.Undecided...)
}

// effect is what is compared, and how it is said.
type effect struct {
	name, key, choice, row string
	spots                  []spot
	gained, lost           string
}

// spot is a place of an effect: one row of a section, or all there is.
type spot struct {
	row      int
	where    sat.Lit                      // under what it is compared
	old, now sat.Lit                      // when it is so
	stands   func(o *engine.Outcome) bool // what is compared under, of one edition
	holds    func(o *engine.Outcome) bool

	// What is not only so or not is compared between both: what is so now and was otherwise
	// or not at all, and what was so and no longer is.
	gained, lost sat.Lit
	pair         func(old, now *engine.Outcome, gained bool) bool
}

// differs is when a spot is so in one edition only.
func (c *comparer) differs(s spot, gained bool) sat.Lit {
	switch {
	case s.pair != nil && gained:
		return c.m.And(s.where, s.gained)
	case s.pair != nil:
		return c.m.And(s.where, s.lost)
	case gained:
		return c.m.And(s.where, s.now, s.old.Not())
	}
	return c.m.And(s.where, s.now.Not(), s.old)
}

func (s spot) differs(old, now *engine.Outcome, gained bool) bool {
	if !s.stands(old) || !s.stands(now) {
		return false
	}
	if s.pair != nil {
		return s.pair(old, now, gained)
	}
	return s.holds(now) == gained && s.holds(old) != gained
}

func always(*engine.Outcome) bool { return true }

func (c *comparer) item(before, it *item) {
	if c.limited(it.section) || c.limited(before.section) {
		c.leave(it.remarkPlace(), it.Key, "Whether the editions differ in "+it.Name()+" is not decided.",
			"It stands in more rows than are looked at, and their number counts.")
		return
	}
	name := it.Name()
	if a, b := before.section.group, it.section.group; b != nil && a.limit != b.limit &&
		(a.depth < a.limit || b.depth < b.limit) {
		c.leave(it.remarkPlace(), it.Key, "Whether the editions differ in further rows of "+name+" is not decided.",
			"Not all rows are looked at.")
	}
	shown := effect{name: "shown", key: it.Key, gained: name + " is now asked", lost: name + " is no longer asked"}
	required := effect{name: "required", key: it.Key, gained: name + " is now required",
		lost: name + " is no longer required"}
	for row := range rowsBetween(before.section.group, it.section.group) {
		is := func(o *engine.Outcome) bool { return shownIn(o, it.Key, row) }
		was, now := c.shownIn(c.old, before, row), c.shownIn(c.now, it, row)
		shown.spots = append(shown.spots, spot{row: row, where: sat.Yes, old: was, now: now, stands: always, holds: is})
		if both := c.m.And(was, now); both != sat.No {
			required.spots = append(required.spots, spot{
				row: row, where: both, old: c.old.met(before.required, row), now: c.now.met(it.required, row), stands: is,
				holds: func(o *engine.Outcome) bool { return o.State(it.Key, row).Required },
			})
		}
	}
	c.compare(shown)
	c.compare(required)
	c.locked(before, it, required.spots)
	c.filled(before, it, required.spots)
	c.worded(before, it, required.spots)
	c.gridRows(before, it, required.spots)
	c.choices(before, it, required.spots)
}

// rowsBetween is how many rows of a section that both editions have are looked at.
func rowsBetween(a, b *group) int {
	switch {
	case b == nil:
		return 1
	case a.depth == a.limit && b.depth == b.limit:
		return max(a.depth, b.depth)
	}
	return min(a.depth, b.depth)
}

// shownIn is when an item is shown in a row, if there can be one of that number.
func (c *comparer) shownIn(w *world, it *item, row int) sat.Lit {
	if g := it.section.group; g != nil && row >= g.depth {
		return sat.No
	}
	return w.shown(it, row)
}

func shownIn(o *engine.Outcome, key string, row int) bool {
	st := o.State(key, row)
	return st != nil && st.Shown
}

// gridRows compares which rows of a grid are shown where the grid is.
func (c *comparer) gridRows(before, it *item, both []spot) {
	for i, r := range it.rows {
		j := slices.IndexFunc(before.Rows, func(b form.GridRow) bool { return b.Key == it.Rows[i].Key })
		if j < 0 {
			continue
		}
		name := it.Rows[i].Name() + " of " + it.Name()
		e := effect{name: "shown", key: it.Key, row: it.Rows[i].Key, gained: name + " is now asked",
			lost: name + " is no longer asked"}
		for _, s := range both {
			s.old, s.now = c.old.met(before.rows[j], s.row), c.now.met(r, s.row)
			s.holds = func(o *engine.Outcome) bool { return gridRowShown(o.State(it.Key, s.row), it.Rows[i].Key) }
			e.spots = append(e.spots, s)
		}
		c.compare(e)
	}
}

func gridRowShown(st *engine.ItemState, key string) bool {
	return st.RowShown(slices.IndexFunc(st.Item().Rows, func(r form.GridRow) bool { return r.Key == key }))
}

// choices compares what is offered where the question is shown.
func (c *comparer) choices(before, it *item, both []spot) {
	picks := it.Type.Picks() || it.Type == form.Grid
	if !picks || it.symbol == nil || before.symbol == nil || !it.varies() && !before.varies() {
		return
	}
	if len(it.candidates) > maxLooked {
		c.leave(it.remarkPlace()+".choices", it.Key,
			"Whether the editions differ in what "+it.Name()+" offers is not decided.",
			"There are "+strconv.Itoa(len(it.candidates))+" choices.")
		return
	}
	for i, cand := range it.candidates {
		j := slices.IndexFunc(before.candidates, func(b engine.Candidate) bool { return b.Value == cand.Value })
		if j < 0 {
			continue
		}
		label := it.symbol.Type.Options.Labels[i]
		e := effect{
			name: "offered", key: it.Key, choice: cand.Value,
			gained: it.Name() + " now offers " + label, lost: it.Name() + " no longer offers " + label,
		}
		for _, s := range both {
			s.old, s.now = c.offers(c.old, before, s.row, j), c.offers(c.now, it, s.row, i)
			s.holds = func(o *engine.Outcome) bool { return slices.Contains(o.State(it.Key, s.row).Choices(), cand.Value) }
			e.spots = append(e.spots, s)
		}
		c.compare(e)
	}
}

func (c *comparer) offers(w *world, it *item, row, i int) sat.Lit {
	if !it.varies() {
		return sat.Yes
	}
	return w.offer(it, row, i)
}

func (c *comparer) sending() {
	accepted := func(o *engine.Outcome) bool { return o.Accepted }
	was, now := c.old.accepted(), c.now.accepted()
	c.compare(effect{
		name: "accepted", spots: []spot{{where: sat.Yes, old: was, now: now, stands: always, holds: accepted}},
		gained: "What could not be sent before can be now", lost: "What could be sent before can’t be any more",
	})
	goes := func(key, name string, old, is *condition, sent func(o *engine.Outcome) bool) {
		c.compare(effect{
			name: "sent", key: key, gained: name + " now goes out", lost: name + " no longer goes out",
			spots: []spot{{where: c.m.And(was, now), old: c.old.truthOf(old, 0).met, now: c.now.truthOf(is, 0).met,
				stands: accepted,
				holds:  sent}},
		})
	}
	before, sides := c.oldP.Form, c.m.sides
	for i, m := range c.nowP.Form.Messages {
		if j := slices.IndexFunc(before.Messages, func(b form.Message) bool { return b.Key == m.Key }); j >= 0 {
			goes(m.Key, "The message "+cmp.Or(m.Name, m.Key), sides[0].letters[j], sides[1].letters[i],
				func(o *engine.Outcome) bool {
					return slices.ContainsFunc(o.Messages(), func(g engine.Outgoing) bool { return g.Key == m.Key })
				})
		}
	}
	for i, h := range c.nowP.Form.Hooks {
		if j := slices.IndexFunc(before.Hooks, func(b form.Hook) bool { return b.Key == h.Key }); j >= 0 {
			goes(h.Key, "The hook "+h.Key, sides[0].hooks[j], sides[1].hooks[i], func(o *engine.Outcome) bool {
				return slices.Contains(o.Hooks(), h.Key)
			})
		}
	}
}

// compare looks for an input of each kind: with which something is so now and was not, and
// the other way round.
func (c *comparer) compare(e effect) {
	for _, gained := range []bool{true, false} {
		some := make([]sat.Lit, len(e.spots))
		for i, s := range e.spots {
			some[i] = c.differs(s, gained)
		}
		fl, found, settled := c.seek(c.m.Or(some...), c.readBoth, func(fl engine.Filling) bool {
			old, now := run(c.oldP, fl), run(c.nowP, fl)
			return slices.ContainsFunc(e.spots, func(s spot) bool { return s.differs(old, now, gained) })
		})
		switch {
		case found:
			text := e.gained
			if !gained {
				text = e.lost
			}
			c.found = append(c.found, Difference{
				Item: e.key, Effect: e.name, Now: gained, Choice: e.choice, Row: e.row, Text: text + withAnswers(c.told(fl, e.key)),
				Witness: witnessOf(fl),
			})
		case !settled:
			c.leave(e.key+"."+e.name, e.key, "Whether the editions differ here is not decided.", sentence(c.why(nil)))
		}
	}
}

// withAnswers ends a sentence with the answers for which it is so.
func withAnswers(told string) string {
	if told == "" {
		return "."
	}
	return ", with " + told + "."
}

// readBoth is what was found as answers to both editions.
func (c *comparer) readBoth() engine.Filling {
	f := c.m.Found()
	fl, old := c.m.read(c.m.sides[1], f), c.m.read(c.m.sides[0], f)
	for k, v := range old.Answers {
		rows, ok := fl.Answers[k].([]any)
		older, too := v.([]any)
		if _, answered := fl.Answers[k]; !answered {
			fl.Answers[k] = v
		} else if ok && too && c.m.sides[0].groups[k] != nil {
			fl.Answers[k] = rowsOfBoth(older, rows)
		}
	}
	return fl
}

// rowsOfBoth puts the answers of rows together, the newer ones first.
func rowsOfBoth(old, now []any) []any {
	for i, v := range old {
		if i == len(now) {
			return append(now, old[i:]...)
		}
		row, ok := now[i].(map[string]any)
		older, too := v.(map[string]any)
		if !ok || !too {
			continue
		}
		for k, v := range older {
			if _, answered := row[k]; !answered {
				row[k] = v
			}
		}
	}
	return now
}
