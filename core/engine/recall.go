package engine

import "lazo/core/expr"

// recall runs the form on the answers that a response has so far, as they were,
// where its change asks for it: what an expression gave then, and whether an
// answer that a condition names is still the same. Only the answers are those of
// then; a value that came from the clock so counts as the respondent's own and
// stays.
func (r *run) recall() {
	prior := r.prior()
	if prior == nil || !r.p.recalls || r.past {
		return
	}
	in := *r.in
	in.Answers = nil
	r.before = r.p.runPast(&in)
	// What was stored stands, whether or not it would be asked for now.
	f := &r.before.frame
	for i := range f.Slots {
		if a := &prior.slots[i]; a.state == given && a.problem == nil && r.p.bySlot[i].reads() {
			f.Slots[i] = a.value
		}
	}
	for gi := range f.Groups {
		g := &f.Groups[gi]
		for _, it := range r.p.groups[gi].items {
			for row := 0; it.slot >= 0 && it.reads() && row < g.Count; row++ {
				if a := prior.groups[gi].cell(r.p, it, row); a.state == given && a.problem == nil {
					g.Cells[row*g.Width+int(it.slot)] = a.value
				}
			}
		}
	}
}

// inPriorRow tests something in the frame of the prior answers, at the prior row of
// the row at hand; it is false for a row that there was not.
func (r *run) inPriorRow(it *item, f func(frame *expr.Evaluation) bool) bool {
	frame := &r.before.frame
	if it.group < 0 {
		return f(frame)
	}
	g, place := &frame.Groups[it.group], r.place(it.group)
	if place < 0 || place >= g.Count {
		return false
	}
	g.Row = place
	defer func() { g.Row = 0 }()
	return f(frame)
}

// following reports whether an item's prior answer is the one that its expression
// gives on the prior answers, so that it goes on coming by itself. One that was
// emptied by hand stays empty.
func (r *run) following(it *item, prior *answer) bool {
	if r.before == nil || it.value == nil || it.property == "is" || prior.value.IsBlank() {
		return false
	}
	return r.inPriorRow(it, func(f *expr.Evaluation) bool {
		if it.when != nil && it.when.code.Truth(f) != expr.Met {
			return false
		}
		then := run{p: r.p, in: r.in, out: &Outcome{}, frame: f}
		var v expr.Value
		then.fill(it, &ItemState{}, &v)
		return v.Same(&prior.value)
	})
}

// decided reports whether a value that is decided once was: the response has it,
// or the item took part when it was received and came out blank.
func (r *run) decided(it *item, prior *answer) bool {
	if r.before == nil {
		return false
	}
	if prior.state == given {
		return true
	}
	if it.group < 0 {
		return r.before.Items[it.index].part
	}
	state, place := &r.before.Rows[it.group], r.place(it.group)
	return place >= 0 && place < state.Count && state.Row(place)[it.index].part
}

// unchanged reports whether the answers that a condition names are what they were
// before the change; nil names none.
func (r *run) unchanged(code *expr.Code) bool {
	if r.before == nil {
		return false
	}
	if code == nil {
		return true
	}
	now, then := r.frame, &r.before.frame
	for _, sym := range code.Items {
		if !r.same(sym, now, then) {
			return false
		}
	}
	for _, sym := range code.Sent {
		if !r.sameSent(sym, now, then) {
			return false
		}
	}
	for _, sym := range code.Over {
		if !sameInAll(sym, now, then) {
			return false
		}
	}
	for _, g := range code.Groups {
		if now.Groups[g.Index].Count != then.Groups[g.Index].Count {
			return false
		}
	}
	return true
}

// sameSent compares what was sent in the other rows with what it was.
func (r *run) sameSent(sym *expr.Symbol, now, then *expr.Evaluation) bool {
	a, b := &now.Groups[sym.Group.Index], &then.Groups[sym.Group.Index]
	if a.Count != b.Count || len(a.Sent) != len(b.Sent) {
		return false
	}
	for row := range a.Count {
		if at := row*a.Width + sym.Slot; row != a.Row && !a.Sent[at].Same(&b.Sent[at]) {
			return false
		}
	}
	return true
}

// same compares an answer with what it was: of a question in rows, that of the row
// at hand, or of all rows where the condition stands outside of them.
func (r *run) same(sym *expr.Symbol, now, then *expr.Evaluation) bool {
	if sym.Group == nil {
		return now.Slots[sym.Slot].Same(&then.Slots[sym.Slot])
	}
	at := sym.Group.Index
	a, b := &now.Groups[at], &then.Groups[at]
	if r.inRow == at {
		place := r.place(int32(at))
		return place >= 0 && place < b.Count && a.Cells[a.Row*a.Width+sym.Slot].Same(&b.Cells[place*b.Width+sym.Slot])
	}
	return sameInAll(sym, now, then)
}

// sameInAll compares the answers in all rows with what they were.
func sameInAll(sym *expr.Symbol, now, then *expr.Evaluation) bool {
	a, b := &now.Groups[sym.Group.Index], &then.Groups[sym.Group.Index]
	if a.Count != b.Count {
		return false
	}
	for row := range a.Count {
		if !a.Cells[row*a.Width+sym.Slot].Same(&b.Cells[row*b.Width+sym.Slot]) {
			return false
		}
	}
	return true
}
