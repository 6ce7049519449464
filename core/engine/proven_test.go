package engine_test

import (
	"fmt"
	"maps"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/proof"
)

// No input of a form in the whole language contradicts what is claimed of it.
func TestNoInputContradictsAProof(t *testing.T) {
	claims := map[string]int{}
	rapid.Check(t, func(t *rapid.T) {
		f := drawForm(t)
		p, _ := engine.Compile(f)
		if p == nil {
			t.Skip("a form with errors")
		}
		end := time.Now().Add(5 * time.Second)
		r := proof.Of(p, proof.Options{At: time.Date(2026, 5, 10, 12, 0, 0, 0, time.UTC), Left: func() time.Duration { return time.Until(end) }})
		by := map[string]proof.Remark{}
		for _, m := range r.Remarks {
			claims[m.Kind]++
			by[m.Kind+" "+m.At+" "+m.Part] = m
			if m.Witness != nil {
				o := p.Run(engine.Input{Answers: p.Answers(m.Witness.Answers), Params: m.Witness.URL, At: m.Witness.At})
				st := o.State(m.Item, 0)
				if st == nil || !st.Shown {
					st = o.State(m.Item, 1)
				}
				require.True(t, st != nil && st.Shown, "%s of\n%s", m, f.JSON())
			}
		}
		for range 8 {
			d := drawInput(t, f)
			o := p.Run(engine.Input{Answers: p.Answers(d.answers), Params: d.url, At: d.at, Taken: d.taken})
			contradicted(t, f, o, by)
			for _, m := range r.Remarks {
				if m.Kind == proof.DeadEnd {
					stays(t, p, m, d.answers)
				}
			}
		}
	})
	t.Log(claims)
}

// stays tries an answer to an item of which it is claimed that with some other answers none
// is accepted.
func stays(t *rapid.T, p *engine.Program, m proof.Remark, answers map[string]any) {
	given, ok := answers[m.Item]
	if !ok {
		return
	}
	tried := maps.Clone(m.Witness.Answers)
	tried[m.Item] = given
	o := p.Run(engine.Input{Answers: p.Answers(tried), Params: m.Witness.URL, At: m.Witness.At})
	require.NotEmpty(t, o.State(m.Item, 0).Problems(), "%s with %v of\n%s", m, given, p.Form.JSON())
}

func contradicted(t *rapid.T, f *form.Form, o *engine.Outcome, by map[string]proof.Remark) {
	no := func(kind, at string, so bool) {
		_, claimed := by[kind+" "+at]
		require.False(t, claimed && so, "%s at %s is false of\n%s", kind, at, f.JSON())
	}
	no(proof.NeverAccepted, "pages ", o.Accepted)
	for _, pg := range f.Pages {
		no(proof.NeverShown, "pages/"+pg.Key+" ", o.OnRoute(pg.Key))
		for _, s := range pg.Sections {
			no(proof.NeverShown, "pages/"+pg.Key+"/"+s.Key+" ", o.SectionShown(s.Key))
		}
	}
	for pl := range f.Places() {
		it := pl.Item
		for row := range 6 {
			st := o.State(it.Key, row)
			if st == nil || row > 0 && pl.Section.Repeat == nil {
				break
			}
			no(proof.NeverShown, pl.At()+" ", st.Shown)
			for i := range it.Rows {
				no(proof.NeverShown, fmt.Sprintf("%s.rows.%d ", pl.At(), i), st.RowShown(i))
			}
			for i, c := range it.Choices {
				no(proof.NeverOffered, fmt.Sprintf("%s.choices.%d %s", pl.At(), i, c.Value), slices.Contains(st.Choices(), c.Value))
			}
			for _, tie := range it.Ties() {
				truth, there, ok := o.Truth(it.Key, tie.Property, row)
				if !ok || !there {
					continue
				}
				at := pl.At() + "." + tie.Property + " "
				no(proof.Always, at, truth != expr.Met)
				for _, kind := range []string{proof.NeverRequired, proof.NeverLocked, proof.NeverFilled} {
					no(kind, at, truth == expr.Met)
				}
			}
		}
	}
}
