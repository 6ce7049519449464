package engine

import (
	"slices"
	"time"

	"lazo/core/expr"
)

// nextTries bounds how many moments NextChange looks at before it answers with
// one that may turn out to change nothing.
const nextTries = 64

// NextChange returns the earliest moment after in.At at which the outcome, with the messages
// and hooks that follow from it, may differ although nothing else changes; ok is false if
// there is none. It is never late.
//
// The conditions that read the clock say until when they hold. At that moment
// the form is run again, since a condition can change without an effect; the
// first run that comes out differently is the next change.
func (p *Program) NextChange(in Input) (at time.Time, ok bool) { return p.next(in, p.sends) }

// NextSeen is [Program.NextChange] of what is seen of a form while it is filled in, without
// what goes out of it: a letter of now + 3 days goes out otherwise at every second.
func (p *Program) NextSeen(in Input) (at time.Time, ok bool) { return p.next(in, false) }

func (p *Program) next(in Input, sends bool) (at time.Time, ok bool) {
	timed := sends && slices.ContainsFunc(p.messages, func(l letter) bool { return l.at != nil })
	if !p.clocked && !timed {
		return time.Time{}, false
	}
	run := func() (o *Outcome, until int64) {
		if o = p.run(&in, true); sends {
			return o, min(o.until, o.sendsUntil())
		}
		return o, o.until
	}
	now, until := run()
	for range nextTries {
		if until == expr.Never {
			return time.Time{}, false
		}
		in.At = time.Unix(until, 0)
		var next *Outcome
		if next, until = run(); !now.same(next) || sends && !now.sendsAsWell(next) {
			break
		}
	}
	return in.At.In(p.loc), true
}

// sendsUntil is until when the same messages and hooks follow from the outcome, as far as
// their conditions and moments tell; what is shown of it has its own end.
func (o *Outcome) sendsUntil() int64 {
	until := expr.Never
	if !o.Accepted || o.waits() {
		return until
	}
	holds := func(code *expr.Code, f *expr.Evaluation) {
		if code != nil {
			until = min(until, code.Until(f))
		}
	}
	var before *Outcome
	if o.mode != New { // then it counts whether a condition was met before
		before = o.priorAlone(true)
	}
	for i, l := range o.p.messages {
		holds(l.when.code, &o.frame)
		if !l.when.holds(o) {
			continue
		}
		if before != nil && !o.p.Form.Messages[i].Again {
			until = min(until, before.until)
			if holds(l.when.code, &before.frame); l.when.holds(before) {
				continue
			}
		}
		holds(l.at, &o.frame)
		if at, _ := o.moment(l.at); at != nil { // from then on it goes at once
			until = min(until, at.Unix())
		}
	}
	for _, h := range o.p.hooks {
		holds(h.code, &o.frame)
	}
	return until
}

// sendsAsWell reports whether the same follows from another outcome.
func (o *Outcome) sendsAsWell(u *Outcome) bool {
	return slices.Equal(o.Hooks(), u.Hooks()) && slices.EqualFunc(o.Messages(), u.Messages(), func(a, b Outgoing) bool {
		return a.Key == b.Key && a.Subject == b.Subject && slices.Equal(a.To, b.To) &&
			(a.At == nil) == (b.At == nil) && (a.At == nil || a.At.Equal(*b.At))
	})
}

// same reports whether two outcomes of one program are alike but for their moment.
func (o *Outcome) same(u *Outcome) bool {
	if o.Open != u.Open || o.Accepted != u.Accepted || !slices.Equal(o.onRoute, u.onRoute) ||
		!slices.Equal(o.Sections, u.Sections) ||
		!slices.Equal(o.Unmatched, u.Unmatched) {
		return false
	}
	sameProblems := func(a, b [][]Problem) bool { return slices.EqualFunc(a, b, slices.Equal[[]Problem]) }
	if !sameProblems(o.pageProblems, u.pageProblems) || !sameProblems(o.sectionProblems, u.sectionProblems) {
		return false
	}
	for i := range o.Items {
		if !o.sameItem(&o.Items[i], u, &u.Items[i], 0) {
			return false
		}
	}
	for g := range o.Rows {
		a, b := &o.Rows[g], &u.Rows[g]
		if a.Shown != b.Shown || a.Count != b.Count || !slices.Equal(a.Problems, b.Problems) ||
			!sameProblems(a.RowProblems, b.RowProblems) {
			return false
		}
		for i := range a.Items {
			if !o.sameItem(&a.Items[i], u, &b.Items[i], i/a.Width) {
				return false
			}
		}
	}
	return true
}

func (o *Outcome) sameItem(s *ItemState, u *Outcome, t *ItemState, row int) bool {
	return s.Shown == t.Shown && s.Required == t.Required && s.Locked == t.Locked && s.wording == t.wording &&
		s.part == t.part && s.kept == t.kept &&
		slices.Equal(s.more().offered, t.more().offered) && slices.Equal(s.more().full, t.more().full) &&
		slices.Equal(s.more().rows, t.more().rows) && slices.Equal(s.Problems(), t.Problems()) &&
		s.Label() == t.Label() && s.Help() == t.Help() &&
		o.valueOf(s, row).Same(u.valueOf(t, row))
}
