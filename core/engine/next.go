package engine

import (
	"slices"
	"time"

	"lazo/core/expr"
)

// nextTries bounds how many moments NextChange looks at before it answers with
// one that may turn out to change nothing.
const nextTries = 64

// NextChange returns the earliest moment after in.At at which the outcome may
// differ although nothing else changes; ok is false if there is none. It is
// never late.
//
// The conditions that read the clock say until when they hold. At that moment
// the form is run again, since a condition can change without an effect; the
// first run that comes out differently is the next change.
func (p *Program) NextChange(in Input) (at time.Time, ok bool) {
	if !p.clocked {
		return time.Time{}, false
	}
	now := p.run(&in, true)
	next := now
	for range nextTries {
		if next.until == expr.Never {
			return time.Time{}, false
		}
		in.At = time.Unix(next.until, 0)
		next = p.run(&in, true)
		if !now.same(next) {
			break
		}
	}
	return in.At.In(p.loc), true
}

// same reports whether two outcomes of one program are alike but for their moment.
func (o *Outcome) same(u *Outcome) bool {
	if o.Open != u.Open || o.Accepted != u.Accepted || !slices.Equal(o.onRoute, u.onRoute) || !slices.Equal(o.Sections, u.Sections) ||
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
