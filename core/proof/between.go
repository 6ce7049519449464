package proof

import (
	"slices"
	"time"

	"lazo/core/engine"
	"lazo/core/form"
)

// Difference is what another edition of a form makes otherwise of the same input.
type Difference struct {
	Item    string   `json:"item"`
	Effect  string   `json:"effect"` // shown, required, offered, accepted or sent
	Now     bool     `json:"now"`    // whether it is so in the newer edition, and was not before
	Choice  string   `json:"choice,omitempty"`
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
// that both have are shown, required, offer a choice to somebody now, or no longer do, and
// what can be sent, each with an input that both were run with. What it does not name is the
// same for every input, but for what stands among the undecided.
func Between(old, now *engine.Program, o Options) ([]Difference, []Undecided) {
	begun := time.Now()
	m := newModel(o.At, old, now)
	c := &comparer{
		prover: prover{m: m, side: m.sides[1], never: map[string]bool{}, listed: map[string]bool{}, report: &Report{}},
		old:    m.sides[0].world(), now: m.sides[1].world(), oldP: old, nowP: now, found: []Difference{},
	}
	c.w = c.now
	c.within(o.Limit, begun)
	for _, it := range m.sides[1].list {
		before := m.sides[0].items[it.Key]
		if before != nil && before.Type == it.Type && (before.section.group == nil) == (it.section.group == nil) {
			c.item(before, it)
		}
	}
	c.sending()
	return c.found, append([]Undecided{}, c.report.Undecided...)
}

// effect is what is compared: a literal on each side, and how the engine says it.
type effect struct {
	name, key, choice string
	old, now          lit
	holds             func(o *engine.Outcome) bool
	gained, lost      string
}

func (c *comparer) item(before, it *item) {
	state := func(o *engine.Outcome) *engine.ItemState { return o.State(it.Key, 0) }
	shown := func(o *engine.Outcome) bool { st := state(o); return st != nil && st.Shown }
	name := it.Name()
	wasShown, isShown := c.old.shown(before, 0), c.now.shown(it, 0)
	c.compare(effect{
		name: "shown", key: it.Key, old: wasShown, now: isShown, holds: shown,
		gained: name + " is now asked", lost: name + " is no longer asked",
	}, yes)
	both := c.m.and(wasShown, isShown)
	c.compare(effect{
		name: "required", key: it.Key, old: c.old.met(before.required, 0), now: c.now.met(it.required, 0),
		holds: func(o *engine.Outcome) bool { return shown(o) && state(o).Required }, gained: name + " is now required",
		lost: name + " is no longer required",
	}, both)
	if !it.Type.Picks() || it.symbol == nil || before.symbol == nil || len(it.candidates) > maxLooked {
		return
	}
	for i, cand := range it.candidates {
		j := slices.IndexFunc(before.candidates, func(b engine.Candidate) bool { return b.Value == cand.Value })
		if j < 0 || !it.varies() && !before.varies() {
			continue
		}
		was, is := yes, yes
		if before.varies() {
			was = c.old.offer(before, 0, j)
		}
		if it.varies() {
			is = c.now.offer(it, 0, i)
		}
		label := it.symbol.Type.Options.Labels[i]
		c.compare(effect{
			name: "offered", key: it.Key, choice: cand.Value, old: was, now: is,
			holds:  func(o *engine.Outcome) bool { return shown(o) && slices.Contains(state(o).Choices(), cand.Value) },
			gained: name + " now offers " + label, lost: name + " no longer offers " + label,
		}, both)
	}
}

func (c *comparer) sending() {
	c.compare(effect{
		name: "accepted", old: c.old.accepted(), now: c.now.accepted(), holds: func(o *engine.Outcome) bool { return o.Accepted },
		gained: "What could not be sent before can be now", lost: "What could be sent before can’t be any more",
	}, yes)
	f := c.nowP.Form
	for i, m := range f.Messages {
		j := slices.IndexFunc(c.oldP.Form.Messages, func(b form.Message) bool { return b.Key == m.Key })
		if j < 0 {
			continue
		}
		name := m.Name
		if name == "" {
			name = m.Key
		}
		c.compare(effect{
			name: "sent", key: m.Key, old: c.old.of(c.m.sides[0].letters[j], 0).met, now: c.now.of(c.m.sides[1].letters[i], 0).met,
			holds: func(o *engine.Outcome) bool {
				return slices.ContainsFunc(o.Messages(), func(g engine.Outgoing) bool { return g.Key == m.Key })
			},
			gained: "The message " + name + " now goes out", lost: "The message " + name + " no longer goes out",
		}, c.m.and(c.old.accepted(), c.now.accepted()))
	}
}

// compare looks for an input of each kind: with which something is so now and was not, and
// the other way round.
func (c *comparer) compare(e effect, where lit) {
	for _, gained := range []bool{true, false} {
		a, b := e.now, e.old.not()
		if !gained {
			a, b = e.now.not(), e.old
		}
		l := c.m.and(where, a, b)
		test := func(fl engine.Filling) bool {
			now, old := run(c.nowP, fl), run(c.oldP, fl)
			if !c.stands(now, old, e, where) {
				return false
			}
			return e.holds(now) == gained && e.holds(old) != gained
		}
		fl, found, settled := c.seek(l, test)
		at := e.key
		switch {
		case found:
			text := e.gained
			if !gained {
				text = e.lost
			}
			c.found = append(c.found, Difference{
				Item: e.key, Effect: e.name, Now: gained, Choice: e.choice, Text: text + withAnswers(c.told(fl, e.key)),
				Witness: witnessOf(fl),
			})
		case !settled:
			c.leave(at+"."+e.name, e.key, "Whether the editions differ here is not decided.", sentence(c.why(nil)))
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

// stands reports whether what an effect is compared under is so on both sides.
func (c *comparer) stands(now, old *engine.Outcome, e effect, where lit) bool {
	switch {
	case where == yes:
		return true
	case e.name == "sent":
		return now.Accepted && old.Accepted
	}
	a, b := now.State(e.key, 0), old.State(e.key, 0)
	return a != nil && b != nil && a.Shown && b.Shown
}

// seek finds an input for which a literal and a test hold, as small as can be. settled is
// false if there may be one that was not found.
func (c *comparer) seek(l lit, test func(engine.Filling) bool) (fl engine.Filling, found, settled bool) {
	if c.impossible(l) {
		return fl, false, true
	}
	for range 4 {
		if c.m.ask(questionEffort, l) != satisfiable {
			return fl, false, false
		}
		fl = c.readBoth()
		if test(fl) {
			return shrink(fl, test), true, true
		}
		for v := range c.m.solver.phases {
			c.m.solver.phases[v] = c.m.luck.below(3) == 0
		}
	}
	return fl, false, false
}

// readBoth is what was found as answers to both editions.
func (c *comparer) readBoth() engine.Filling {
	f := c.m.found()
	fl := c.m.read(c.m.sides[1], f)
	old := c.m.read(c.m.sides[0], f)
	for k, v := range old.Answers {
		if _, ok := fl.Answers[k]; !ok {
			fl.Answers[k] = v
		}
	}
	return fl
}
