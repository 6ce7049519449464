package engine

import (
	"maps"
	"slices"

	"lazo/core/expr"
)

// The mode decides what is asked, and never what is kept: what is not shown, and would be if
// only the mode were another, keeps the answer that the response has, which counts as it
// stands. To find it, the form is run as if in each mode, on the same answers, until what is
// so kept does not become more or less; it does not hang on itself, since nothing in a form
// does, so there are at most as many rounds as things that hang on each other.

// asked is what is asked in any mode.
type asked struct {
	items []bool        // outside rows, by the index of their states
	rows  []int         // of sections that repeat: how many at most, 0 for one that is not shown
	cells [][]bool      // in rows, by section, laid out as its states are
	lines map[line]bool // of grids
	is    *Outcome      // what comes out in the mode at hand
}

// line is a row of a grid, in a row of a section if it repeats.
type line struct {
	it      *item
	row, at int
}

// askedInAnyMode finds what would be asked in any mode; nil where that makes no difference.
func (p *Program) askedInAnyMode(in *Input) *asked {
	if !p.modal || in.Mode == New || in.Mode == "" || in.Prior == nil || in.Record != nil {
		return nil
	}
	var was *asked
	for range len(p.items) + len(p.groups) + 2 {
		is := &asked{items: make([]bool, p.scalars), rows: make([]int, len(p.groups)), cells: make([][]bool, len(p.groups)),
			lines: map[line]bool{}}
		for _, m := range []Mode{New, Revisit, Staff} {
			out := p.newRun(in, &run{asked: was, as: m})
			if is.add(out); m == in.Mode {
				is.is = out
			}
		}
		if was != nil && is.same(was) {
			return is
		}
		was = is
	}
	return was
}

// add adds what takes part in an outcome.
func (a *asked) add(o *Outcome) {
	for i := range o.Items {
		a.items[i] = a.items[i] || o.Items[i].part
		a.addLines(&o.Items[i], 0)
	}
	for g := range o.Rows {
		state := &o.Rows[g]
		if state.Shown {
			a.rows[g] = max(a.rows[g], state.Count)
		}
		for i := range state.Items {
			if i == len(a.cells[g]) {
				a.cells[g] = append(a.cells[g], false)
			}
			a.cells[g][i] = a.cells[g][i] || state.Items[i].part
			a.addLines(&state.Items[i], i/state.Width)
		}
	}
}

// addLines adds the rows of a grid that are shown.
func (a *asked) addLines(st *ItemState, row int) {
	for i, shown := range st.more().rows {
		if shown {
			a.lines[line{st.item, row, i}] = true
		}
	}
}

// keepsLineInMode reports whether a row of a grid that is not shown in this mode keeps what
// the response has for it.
func (r *run) keepsLineInMode(it *item, at int) bool {
	row := 0
	if it.group >= 0 {
		row = r.frame.Groups[it.group].Row
	}
	return r.asked != nil && r.asked.lines[line{it, row, at}]
}

func (a *asked) same(b *asked) bool {
	return slices.Equal(a.items, b.items) && slices.Equal(a.rows, b.rows) &&
		slices.EqualFunc(a.cells, b.cells, slices.Equal[[]bool]) &&
		maps.Equal(a.lines, b.lines)
}

// keepsInMode reports whether an item that is not shown in this mode keeps what the response
// has for it, in the row at hand.
func (r *run) keepsInMode(it *item, prior *answer) bool {
	if r.asked == nil || prior.state != given || it.Parked {
		return false
	}
	if it.group < 0 {
		return r.asked.items[it.index]
	}
	cells, at := r.asked.cells[it.group], r.frame.Groups[it.group].Row*r.out.Rows[it.group].Width+int(it.index)
	return at < len(cells) && cells[at]
}

// keptRowsInMode is how many rows of the response a repeating section keeps that is not
// shown in this mode.
func (r *run) keptRowsInMode(group int) int {
	if r.asked == nil {
		return 0
	}
	return min(r.asked.rows[group], r.in.Prior.groups[group].rows)
}

// rowsClosedInMode reports whether nothing is taken from the rows that were sent of a
// section, since it is not shown, here or in the mode that the form is filled in.
func (r *run) rowsClosedInMode(group int) bool {
	return r.asked != nil && (!r.out.Rows[group].Shown || r.asked.is != nil && !r.asked.is.Rows[group].Shown)
}

// closedInMode reports whether nothing is taken from what was sent for an item, in the row
// at hand, since it is not shown in the mode that the form is filled in. What is kept while
// it is hidden was answered before.
func (r *run) closedInMode(it *item) bool {
	if r.asked == nil || r.asked.is == nil || it.WhenHidden == "keep" {
		return false
	}
	if it.group < 0 {
		return !r.asked.is.Items[it.index].part
	}
	row := r.frame.Groups[it.group].Row
	state := &r.asked.is.Rows[it.group]
	return !state.Shown || row < state.Count && !state.Row(row)[it.index].part
}

// fitsInMode reports whether a response that is changed keeps an answer whose limits it would
// keep if only the mode were another.
func (r *run) fitsInMode(it *item, v *expr.Value) bool {
	if r.in.Mode == New {
		return false
	}
	defer func() { r.frame.Mode = r.modeOf() }()
	for _, mode := range []Mode{New, Revisit, Staff} {
		r.frame.Mode = expr.ChoiceValue(string(mode))
		other := ItemState{item: it}
		if r.constrain(it, &other, v); len(other.Problems()) == 0 {
			return true
		}
	}
	return false
}

// modeOf is the mode as conditions see it.
func (r *run) modeOf() expr.Value {
	if r.as != "" {
		return expr.ChoiceValue(string(r.as))
	}
	return expr.ChoiceValue(string(r.in.Mode))
}
