package proof

import (
	"fmt"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof/sat"
)

// locked compares where a question is locked while both editions show it.
func (c *comparer) locked(before, it *item, both []spot) {
	e := effect{name: "locked", key: it.Key, gained: it.Name() + " is now locked",
		lost: it.Name() + " is no longer locked"}
	for _, s := range both {
		s.old, s.now = c.old.lockedFor(before, s.row), c.now.lockedFor(it, s.row)
		s.holds = func(o *engine.Outcome) bool { return o.State(it.Key, s.row).Locked }
		e.spots = append(e.spots, s)
	}
	c.compare(e)
}

// lockedFor is when respondents see an item that they can't fill: what is computed is not
// called locked.
func (w *world) lockedFor(it *item, row int) sat.Lit {
	if it.property == "is" && !it.Type.Computed() {
		return sat.Yes
	}
	return w.locked(it, row)
}

// filled compares what a question is filled in with by itself while both editions show it.
func (c *comparer) filled(before, it *item, both []spot) {
	if before.value == nil && it.value == nil {
		return
	}
	e := effect{
		name: "filled", key: it.Key,
		gained: it.Name() + " is now filled in by itself, or otherwise than before",
		lost:   it.Name() + " is no longer filled in by itself",
	}
	for _, s := range both {
		old, now := c.old.filledIn(before, s.row), c.now.filledIn(it, s.row)
		s.gained = c.m.And(c.m.blank(now).Not(), c.m.differs(old, now))
		s.lost = c.m.And(c.m.blank(old).Not(), c.m.blank(now))
		s.pair = func(old, now *engine.Outcome, gained bool) bool {
			was, is := filledIn(old, it.Key, s.row), filledIn(now, it.Key, s.row)
			if gained {
				return !is.IsBlank() && keyOf(&was) != keyOf(&is)
			}
			return !was.IsBlank() && is.IsBlank()
		}
		e.spots = append(e.spots, s)
	}
	c.compare(e)
}

// filledIn is what an item is filled in with by itself, blank where it is answered by hand. A
// box that is not ticked is not filled in.
func (w *world) filledIn(it *item, row int) *val {
	m := w.side.model
	out := w.offeredOnly(it, row, w.automatic(it, row), w.shown(it, row))
	if it.property != "is" {
		_, touched := w.own(it, row)
		if g := it.section.group; g != nil && m.comparesRows(g.key) {
			touched = m.And(touched, m.given(g, row))
		}
		out = m.gate(out, m.And(touched, w.closed(it, row).Not()).Not())
	}
	if it.Type == form.Tick {
		ticked := &val{free: out.free}
		for _, c := range out.cases {
			if c.v.Yes() {
				ticked.cases = append(ticked.cases, c)
			}
		}
		return ticked
	}
	return out
}

func filledIn(o *engine.Outcome, key string, row int) expr.Value {
	st := o.State(key, row)
	v := o.Value(st, row)
	if !st.Automatic() || v.IsBlank() || st.Item().Type == form.Tick && !v.Yes() {
		return expr.Value{}
	}
	return v
}

// worded compares which wording is read while both editions show a question, where it is not
// its own label and help in both.
func (c *comparer) worded(before, it *item, both []spot) {
	if len(before.wording) == 0 && len(it.wording) == 0 {
		return
	}
	e := effect{
		name: "worded", key: it.Key,
		gained: it.Name() + " is worded otherwise now", lost: it.Name() + " is no longer worded otherwise",
	}
	for _, s := range both {
		olds, news := c.old.wordings(before, s.row), c.now.wordings(it, s.row)
		var gained, lost []sat.Lit
		for j, now := range news {
			for i, old := range olds {
				last := j == len(news)-1
				switch differ := wordsOf(before.Item, i) != wordsOf(it.Item, j); {
				case differ && !last:
					gained = append(gained, c.m.And(old, now))
				case differ && i < len(olds)-1:
					lost = append(lost, c.m.And(old, now))
				}
			}
		}
		s.gained, s.lost = c.m.Or(gained...), c.m.Or(lost...)
		s.pair = func(old, now *engine.Outcome, gained bool) bool {
			i, j := wordingOf(old, it.Key, s.row), wordingOf(now, it.Key, s.row)
			own := j == len(it.wording)
			return wordsOf(before.Item, i) != wordsOf(it.Item, j) &&
				(gained && !own || !gained && own && i < len(before.wording))
		}
		e.spots = append(e.spots, s)
	}
	c.compare(e)
}

// wordings are when each wording of an item is read, and last when none is.
func (w *world) wordings(it *item, row int) []sat.Lit {
	m := w.side.model
	none, out := sat.Yes, []sat.Lit{}
	for _, c := range it.wording {
		met := w.truthOf(c, row).met
		out = append(out, m.And(none, met))
		none = m.And(none, met.Not())
	}
	return append(out, none)
}

// wordsOf are the label and the help of a wording as they are written, or of the item itself.
func wordsOf(it *form.Item, n int) [2]string {
	words := [2]string{it.Label, it.Help}
	if n < len(it.Wording) {
		if w := it.Wording[n]; w.Label != "" {
			words[0] = w.Label
		}
		if w := it.Wording[n]; w.Help != "" {
			words[1] = w.Help
		}
	}
	return words
}

// wordingOf is which wording of an item is read, their number if none is.
func wordingOf(o *engine.Outcome, key string, row int) int {
	n := len(o.State(key, row).Item().Wording)
	for i := range n {
		if t, _, ok := o.Truth(key, fmt.Sprintf("wording.%d.when", i), row); ok && t == expr.Met {
			return i
		}
	}
	return n
}
