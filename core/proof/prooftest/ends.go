package prooftest

import (
	"fmt"
	"maps"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof"
)

// Witness tells what is wrong with the input that a remark shows, "" if it shows what it says
// and nothing that is drawn disputes it. tries is how many answers are drawn.
func (d *Disputed) Witness(m proof.Remark, pool *Pool, draw Draw, tries int) string {
	if m.Witness == nil {
		return ""
	}
	fl := m.Witness.Filling()
	wrong := func(format string, args ...any) string {
		return fmt.Sprintf("%s with %v: ", m, m.Witness) + fmt.Sprintf(format, args...)
	}
	o := Run(d.program, fl)
	pl, ok := d.program.Form.Find(m.Item)
	if !ok {
		return wrong("there is no such item")
	}
	switch m.Kind {
	case proof.DeadEnd, proof.WaitsFor:
		row := 0
		if pl.Section.Repeat != nil && !Stuck(d.program, m.Item, 0, fl) {
			row = 1
		}
		if !Stuck(d.program, m.Item, row, fl) {
			return wrong("it is not stuck")
		}
		for range tries {
			answered := with(fl, pl, row, pool.Answer(draw, pl.Item))
			if st := Run(d.program, answered).State(m.Item, row); st != nil && len(st.Problems()) == 0 {
				return wrong("%v is accepted", answered.Answers)
			}
			if m.Kind == proof.WaitsFor {
				continue
			}
			more := further(fl, o, pool.Filling(draw), d.program.Form)
			if draw(2) == 0 {
				more = with(more, pl, row, pool.Answer(draw, pl.Item))
			}
			if st := Run(d.program, more).State(m.Item, row); st != nil && len(st.Problems()) == 0 {
				return wrong("%v helps", more.Answers)
			}
		}
	case proof.CanBeBlank:
		if !o.Accepted || !d.anyRow(m.Item, o,
			func(st *engine.ItemState, row int) bool { return blankIn(pl.Item, st, o, row) }) {
			return wrong("it is not blank")
		}
	case proof.Late:
		if !d.anyRow(m.Item, o, func(st *engine.ItemState, _ int) bool { return st.Shown }) {
			return wrong("it is not shown")
		}
	}
	return ""
}

func blankIn(it *form.Item, st *engine.ItemState, o *engine.Outcome, row int) bool {
	if it.Value.When != "" {
		if t, _, _ := o.Truth(it.Key, "value.when", row); t != expr.Met {
			return false
		}
	}
	v := o.Value(st, row)
	return st.Part() && !st.Touched() && v.IsBlank()
}

// with is an input in which an item is answered otherwise.
func with(fl engine.Filling, pl form.Place, row int, answer any) engine.Filling {
	fl.Answers = maps.Clone(fl.Answers)
	if pl.Section.Repeat == nil {
		fl.Answers[pl.Item.Key] = answer
		return fl
	}
	old, _ := fl.Answers[pl.Section.Key].([]any)
	rows := append([]any{}, old...)
	for len(rows) <= row {
		rows = append(rows, map[string]any{})
	}
	answers, _ := rows[row].(map[string]any)
	if answers = maps.Clone(answers); answers == nil {
		answers = map[string]any{}
	}
	answers[pl.Item.Key] = answer
	rows[row] = answers
	fl.Answers[pl.Section.Key] = rows
	return fl
}

// further is an input in which what was left blank may be answered as in another one.
func further(fl engine.Filling, o *engine.Outcome, other engine.Filling, f *form.Form) engine.Filling {
	fl.Answers = maps.Clone(fl.Answers)
	for pl := range f.Places() {
		if pl.Section.Repeat != nil {
			if rows, ok := other.Answers[pl.Section.Key]; ok && fl.Answers[pl.Section.Key] == nil {
				fl.Answers[pl.Section.Key] = rows
			}
			continue
		}
		answer, given := other.Answers[pl.Item.Key]
		if v := o.Value(o.State(pl.Item.Key, 0), 0); given && v.IsBlank() {
			fl.Answers[pl.Item.Key] = answer
		}
	}
	return fl
}
