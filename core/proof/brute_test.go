package proof_test

import (
	"fmt"
	"maps"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof"
	"lazo/core/proof/prooftest"
)

const mostInputs = 2_500

// tally is what was seen of a form in all its inputs.
type tally struct {
	seen  map[string]bool // what was the case at least once
	shape map[string]bool
}

func (y *tally) note(format string, args ...any) { y.seen[fmt.Sprintf(format, args...)] = true }

func run(p *engine.Program, fl engine.Filling) *engine.Outcome { return prooftest.Run(p, fl) }

// tried runs a form with every input.
func tried(p *engine.Program, all []engine.Filling) *tally {
	y := &tally{seen: map[string]bool{}, shape: map[string]bool{}}
	f := p.Form
	for _, fl := range all {
		o := run(p, fl)
		if o.Accepted {
			y.note("accepted")
			for i, e := range f.Ends {
				if o.End() == e.Text {
					y.note("read %d", i)
				}
			}
		}
		for _, m := range o.Messages() {
			y.note("sent %s", m.Key)
		}
		for _, pg := range f.Pages {
			if o.OnRoute(pg.Key) {
				y.note("shown %s", pg.Key)
			}
			for _, s := range pg.Sections {
				if o.SectionShown(s.Key) {
					y.note("shown %s", s.Key)
				}
			}
		}
		y.conditions(o, f)
		shape, refused := "", prooftest.Refused(o, f)
		for pl := range f.Places() {
			for row := 0; row < 2; row++ {
				st := o.State(pl.Item.Key, row)
				if st == nil || row > 0 && pl.Section.Repeat == nil {
					continue
				}
				y.state(pl.Item, st, o)
				if st.Shown && !refused {
					y.note("fine with %s", pl.Item.Key)
				}
				if blankIn(pl.Item, st, o, row) {
					y.note("blank %s", pl.Item.Key)
				}
				if pl.Section.Repeat == nil {
					shape += fmt.Sprint(st.Shown, st.Required, " ")
				}
			}
		}
		if !refused {
			y.shape[shape] = true
		}
	}
	return y
}

// blankIn reports whether all can be sent while an item is blank that is to be filled in.
func blankIn(it *form.Item, st *engine.ItemState, o *engine.Outcome, row int) bool {
	if it.Value == nil || !o.Accepted || !st.Part() || st.Touched() {
		return false
	}
	if it.Value.When != "" {
		if t, _, _ := o.Truth(it.Key, "value.when", row); t != expr.Met {
			return false
		}
	}
	v := o.Value(st, row)
	return v.IsBlank()
}

func (y *tally) state(it *form.Item, st *engine.ItemState, o *engine.Outcome) {
	if st.Shown {
		y.note("shown %s", it.Key)
		if o.Accepted {
			y.note("sent with %s", it.Key)
		}
	}
	for i := range it.Rows {
		if st.RowShown(i) {
			y.note("shown %s.%d", it.Key, i)
		}
	}
	for _, c := range st.Choices() {
		y.note("offered %s.%s", it.Key, c)
	}
	for i, w := range it.Wording {
		if st.Shown && st.Label() == w.Label {
			y.note("worded %s.%d", it.Key, i)
		}
	}
}

// conditions notes how each came out where it could matter.
func (y *tally) conditions(o *engine.Outcome, f *form.Form) {
	for _, tie := range f.AllTies() {
		for row := 0; row < 2; row++ {
			t, there, ok := o.Truth(tie.Owner, tie.Property, row)
			if !ok || !there {
				continue
			}
			if t == expr.Met {
				y.note("met %s.%s", tie.Owner, tie.Property)
			} else {
				y.note("not %s.%s", tie.Owner, tie.Property)
			}
			if _, repeated := f.Section("rowers"); repeated == nil || tie.Owner != "cox" {
				break
			}
		}
	}
}

func claims(r *proof.Report) map[string]proof.Remark {
	out := map[string]proof.Remark{}
	for _, m := range r.Remarks {
		out[m.Kind+" "+m.At+" "+m.Part] = m
	}
	return out
}

// compared fails where a claim and what was seen differ.
func compared(t require.TestingT, p *engine.Program, y *tally, r *proof.Report) {
	got := claims(r)
	check := func(kind, at string, want bool) {
		_, is := got[kind+" "+at+" "]
		require.Equal(t, want, is, "%s at %s of\n%s", kind, at, p.Form.JSON())
	}
	check(proof.NeverAccepted, "pages", !y.seen["accepted"])
	for _, pg := range p.Form.Pages {
		at := "pages/" + pg.Key
		check(proof.NeverShown, at, !y.seen["shown "+pg.Key])
		for _, s := range pg.Sections {
			at := at + "/" + s.Key
			check(proof.NeverShown, at, !y.seen["shown "+s.Key])
		}
	}
	for pl := range p.Form.Places() {
		it, at := pl.Item, pl.RemarkPlace()
		shown := y.seen["shown "+it.Key]
		check(proof.NeverShown, at, !shown)
		if !shown {
			continue
		}
		check(proof.OnlyRefused, at, !y.seen["fine with "+it.Key])
		if it.Value != nil {
			at := at + ".value." + it.Value.Property()
			_, never := got[proof.NeverFilled+" "+at+" "]
			check(proof.CanBeBlank, at, !never && y.seen["blank "+it.Key])
		}
		for i := range it.Rows {
			check(proof.NeverShown, fmt.Sprintf("%s.rows.%d", at, i), !y.seen[fmt.Sprintf("shown %s.%d", it.Key, i)])
		}
		for i, c := range it.Choices {
			_, is := got[fmt.Sprintf("%s %s.choices.%d %s", proof.NeverOffered, at, i, c.Value)]
			if it.Type.Picks() {
				require.Equal(t, !y.seen["offered "+it.Key+"."+c.Value], is, "choice %s of %s of\n%s", c.Value, it.Key,
					p.Form.JSON())
			}
		}
		for i := range it.Wording {
			check(proof.NeverWorded, fmt.Sprintf("%s.wording.%d.when", at, i), !y.seen[fmt.Sprintf("worded %s.%d", it.Key, i)])
		}
		for _, tie := range it.Ties() {
			compareTie(y, check, it, at, tie)
		}
	}
	for i := range p.Form.Ends {
		if y.seen["accepted"] {
			check(proof.NeverRead, fmt.Sprintf("ends.%d.when", i), !y.seen[fmt.Sprintf("read %d", i)])
		}
	}
	for _, m := range p.Form.Messages {
		if y.seen["accepted"] && m.When != "" {
			check(proof.NeverSent, "messages.0.when", !y.seen["sent "+m.Key])
		}
	}
}

func compareTie(y *tally, check func(kind, at string, want bool), it *form.Item, at string, tie form.Tie) {
	met, not := y.seen["met "+it.Key+"."+tie.Property], y.seen["not "+it.Key+"."+tie.Property]
	at += "." + tie.Property
	switch {
	case tie.Property == "shown":
		check(proof.Always, at, !not)
	case tie.Property == "required":
		check(proof.NeverRequired, at, !met)
		check(proof.Always, at, !not)
	case tie.Property == "locked":
		check(proof.NeverLocked, at, !met)
		check(proof.Always, at, !not)
	case tie.Property == "value.when":
		check(proof.NeverFilled, at, !met)
		check(proof.Always, at, !not)
	case strings.HasPrefix(tie.Property, "checks."):
		check(proof.Always, at, !not)
	}
}

// Whatever is claimed of a small form is so in every input, and whatever is so in every
// input is claimed.
func TestAgainstEveryInput(t *testing.T) {
	tried1, runs, found := 0, 0, map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		f, p, all := tryable(t)
		tried1++
		runs += len(all)
		r := proof.Of(p, proof.Options{At: time.Date(2026, 5, 20, 15, 0, 0, 0, time.UTC)})
		require.Empty(t, r.Undecided, "of\n%s", f.JSON())
		for _, m := range r.Remarks {
			found[m.Kind]++
		}
		y := tried(p, all)
		compared(t, p, y, r)
		deadEnds(t, p, all, r)
		reduced(t, p, all, r)
	})
	t.Logf("%d forms, %d inputs, %v", tried1, runs, found)
}

// deadEnds compares the dead ends that are named, and the questions that wait for others,
// with those that trying finds.
func deadEnds(t require.TestingT, p *engine.Program, all []engine.Filling, r *proof.Report) {
	named := map[string]proof.Remark{}
	for _, m := range r.Remarks {
		if m.Kind == proof.DeadEnd || m.Kind == proof.WaitsFor {
			named[m.Kind+" "+m.Item] = m
		}
	}
	for pl := range p.Form.Places() {
		it := pl.Item
		if pl.Section.Repeat != nil || it.Type == form.Calculation || it.Type == form.Note {
			continue
		}
		found := map[string]bool{}
		for _, fl := range all {
			if stuck(p, it, fl) {
				found[afterwards(p, it, fl, all)] = true
			}
		}
		for _, kind := range []string{proof.DeadEnd, proof.WaitsFor} {
			m, is := named[kind+" "+it.Key]
			require.Equal(t, found[kind], is, "%s at %s of\n%s", kind, it.Key, p.Form.JSON())
			if is {
				require.True(t, stuck(p, it, m.Witness.Filling()), "%s with %v of\n%s", m, m.Witness, p.Form.JSON())
				require.Equal(t, kind, afterwards(p, it, m.Witness.Filling(), all), "%s with %v of\n%s", m, m.Witness,
					p.Form.JSON())
			}
		}
	}
}

// stuck reports whether an item is shown and required and takes no answer, while nothing is
// wrong with any other.
func stuck(p *engine.Program, it *form.Item, fl engine.Filling) bool {
	if !prooftest.Stuck(p, it.Key, 0, fl) {
		return false
	}
	return !slices.ContainsFunc(answers(it), func(a any) bool { return acceptedWith(p, fl, it.Key, a) })
}

// afterwards is what it is that an item takes no answer: whether any input in which more is
// answered mends it.
func afterwards(p *engine.Program, it *form.Item, fl engine.Filling, all []engine.Filling) string {
	o := run(p, fl)
	var held []string
	for pl := range p.Form.Places() {
		st := o.State(pl.Item.Key, 0)
		switch {
		case pl.Section.Repeat != nil:
			if fl.Answers[pl.Section.Key] != nil {
				held = append(held, pl.Section.Key)
			}
		case pl.Item != it && st.Item() != nil:
			if v := o.Value(st, 0); !v.IsBlank() {
				held = append(held, pl.Item.Key)
			}
		}
	}
	for _, more := range all {
		if !more.At.Equal(all[0].At) || !reflect.DeepEqual(more.Params, all[0].Params) {
			continue
		}
		more.Answers, more.Params, more.At = maps.Clone(more.Answers), fl.Params, fl.At
		for _, key := range held {
			delete(more.Answers, key)
			if a, given := fl.Answers[key]; given {
				more.Answers[key] = a
			}
		}
		if len(run(p, more).State(it.Key, 0).Problems()) == 0 {
			return proof.WaitsFor
		}
	}
	return proof.DeadEnd
}

func acceptedWith(p *engine.Program, fl engine.Filling, key string, a any) bool {
	fl.Answers = maps.Clone(fl.Answers)
	delete(fl.Answers, key)
	if a != any(untouched{}) {
		fl.Answers[key] = a
	}
	return len(run(p, fl).State(key, 0).Problems()) == 0
}

// mostReduced bounds how many inputs a form is run with while its conditions are reduced.
const mostReduced = 10_000

// reduced leaves the terms of conditions out one by one and compares all that comes out.
func reduced(t require.TestingT, p *engine.Program, all []engine.Filling, r *proof.Report) {
	ties := p.Form.AllTies()
	if len(all)*len(ties) > mostReduced {
		return
	}
	whole := make([]string, len(all))
	for i, fl := range all {
		whole[i] = prooftest.Outcome(p, fl)
	}
	said, claimed := []string{}, map[string]bool{}
	for _, m := range r.Remarks {
		switch m.Kind {
		case proof.NoDifference:
			claimed[m.At+" "+m.Shorter] = true
		case proof.NeverAccepted:
			said = append(said, "messages", "ends")
		case proof.Always, proof.NeverShown, proof.NeverOffered, proof.NeverRequired, proof.NeverLocked, proof.NeverFilled,
			proof.NeverWorded, proof.NeverSent, proof.NeverRead:
			said = append(said, m.At)
		}
	}
	for n, tie := range ties {
		node, err := expr.Parse(tie.Expr)
		require.NoError(t, err)
		logic, ok := node.(*expr.Logic)
		if !ok {
			continue
		}
		at := prooftest.PlaceOf(p.Form, tie)
		more := slices.ContainsFunc(said, func(s string) bool { // of which nothing else is said
			return at == s || strings.HasPrefix(at, s+".") || strings.HasPrefix(at, s+"/")
		})
		for i := range logic.Terms {
			rest := slices.Delete(slices.Clone(logic.Terms), i, i+1)
			var less expr.Node = &expr.Logic{Op: logic.Op, Terms: rest}
			if len(rest) == 1 {
				less = rest[0]
			}
			f := p.Form.Clone()
			f.AllTies()[n].Set(less.String())
			other, _ := engine.Compile(f)
			require.NotNil(t, other, "%s without %s", tie.Expr, logic.Terms[i])
			same := true
			for j, fl := range all {
				if prooftest.Outcome(other, fl) != whole[j] {
					same = false
					break
				}
			}
			if is := claimed[at+" "+less.String()]; is || !more {
				require.Equal(t, same, is, "%s instead of %s at %s of\n%s", less, tie.Expr, at, p.Form.JSON())
			}
		}
	}
}
