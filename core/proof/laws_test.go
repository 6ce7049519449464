package proof_test

import (
	"encoding/json"
	"fmt"
	"maps"
	"math/rand/v2"
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
)

var usual = proof.Options{At: time.Date(2026, 5, 20, 15, 0, 0, 0, time.UTC)}

// kinds are the claims about a form, without their words.
func kinds(r *proof.Report, rename func(string) string) map[string]bool {
	out := map[string]bool{}
	for _, m := range r.Remarks {
		out[m.Kind+" "+rename(m.At)+" "+rename(m.Part)] = true
	}
	return out
}

func compiled(t *rapid.T) (*form.Form, *engine.Program) {
	f := drawForm(t)
	p, _ := engine.Compile(f)
	if p == nil {
		t.Skip("a form with errors")
	}
	return f, p
}

// tryable is a form of which all inputs can be tried.
func tryable(t *rapid.T) (*form.Form, *engine.Program, []engine.Filling) {
	f, p := compiled(t)
	all, ok := inputs(mostInputs, usesClock(f), f)
	if !ok {
		t.Skip("too many inputs")
	}
	return f, p, all
}

func same(s string) string { return s }

// Other keys for the questions change nothing.
func TestOtherKeysChangeNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := compiled(t)
		text := string(f.JSON())
		for n := 12; n >= 0; n-- {
			text = strings.ReplaceAll(text, fmt.Sprintf("q%d", n), fmt.Sprintf("zeta_%d", n))
		}
		renamed, remarks := engine.Load([]byte(text))
		require.NotNil(t, renamed, "%v", remarks)
		back := func(s string) string { return strings.ReplaceAll(s, "zeta_", "q") }
		require.Equal(t, kinds(proof.Of(p, usual), same), kinds(proof.Of(renamed, usual), back), "of\n%s", f.JSON())
	})
}

// The order of sections and items does not matter to what can be, but for the remarks
// about neighbours.
func TestOtherOrderChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := compiled(t)
		turned := f.Clone()
		for _, pg := range turned.Pages {
			slices.Reverse(pg.Sections)
			for _, s := range pg.Sections {
				slices.Reverse(s.Items)
			}
		}
		q, _ := engine.Compile(turned)
		require.NotNil(t, q)
		without := func(r *proof.Report) map[string]bool {
			out := kinds(r, same)
			maps.DeleteFunc(out, func(k string, _ bool) bool { return strings.HasPrefix(k, proof.SameAs) })
			return out
		}
		require.Equal(t, without(proof.Of(p, usual)), without(proof.Of(q, usual)), "of\n%s", f.JSON())
	})
}

// A condition and its double negation by De Morgan's laws come to the same.
func TestDeMorganChangesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p := compiled(t)
		turned := f.Clone()
		for _, tie := range turned.AllTies() {
			if n, err := expr.Parse(tie.Expr); err == nil {
				tie.Set(turn(n).String())
			}
		}
		q, remarks := engine.Compile(turned)
		require.NotNil(t, q, "%v", remarks)
		without := func(r *proof.Report) map[string]bool { // parts and neighbours are written otherwise
			out := kinds(r, same)
			maps.DeleteFunc(out, func(k string, _ bool) bool {
				return strings.HasPrefix(k, proof.NoDifference) || strings.HasPrefix(k, proof.SameAs)
			})
			return out
		}
		require.Equal(t, without(proof.Of(p, usual)), without(proof.Of(q, usual)), "of\n%s", f.JSON())
	})
}

// turn writes each “a and b” as “not (not a or not b)”, and the other way round.
func turn(n expr.Node) expr.Node {
	kids := expr.Children(n)
	turned := make([]expr.Node, len(kids))
	for i, k := range kids {
		turned[i] = turn(k)
	}
	if len(kids) > 0 {
		n = expr.WithChildren(n, turned)
	}
	logic, ok := n.(*expr.Logic)
	if !ok {
		return n
	}
	terms := make([]expr.Node, len(logic.Terms))
	for i, t := range logic.Terms {
		terms[i] = &expr.Not{X: t}
	}
	return &expr.Not{X: &expr.Logic{Op: map[string]string{"and": "or", "or": "and"}[logic.Op], Terms: terms}}
}

// What was never shown appears with one tie more, or less, only if the difference between
// both says so, and with one more never that which the tie is of.
func TestATieMakesNothingAppearWithoutAReason(t *testing.T) {
	appeared := 0
	rapid.Check(t, func(t *rapid.T) {
		f, before := compiled(t)
		g := f.Clone()
		d := &drawer{t: t, f: g, clock: usesClock(f)}
		it := d.place(g).Item
		kind := d.n(0, 3)
		switch cond := d.cond(1); {
		case kind == 0 && it.Shown.IsZero():
			it.Shown = form.When(cond)
		case kind == 1 && it.Type != form.Note && it.Type != form.Calculation && it.Locked.IsZero():
			it.Locked = form.When(cond)
		case kind == 2 && it.Type == form.ChoiceType && it.Choices[0].Offered.IsZero():
			it.Choices[0].Offered = form.When(cond)
		case kind == 3 && it.Type == form.Number && it.Value == nil:
			it.Value = &form.Value{Follows: "3", When: cond}
		default:
			t.Skip("there is a tie already")
		}
		after, _ := engine.Compile(g)
		if after == nil {
			t.Skip("a form with errors")
		}
		less := d.chance(50)
		if less {
			f, g, before, after = g, f, after, before
		}
		was, is := claims(proof.Of(before, usual)), claims(proof.Of(after, usual))
		said, undecided := proof.Between(before, after, usual)
		require.Empty(t, undecided)
		for pl := range g.Places() {
			claim := proof.NeverShown + " " + pl.RemarkPlace() + " "
			_, never := was[claim]
			_, still := is[claim]
			reason := slices.ContainsFunc(said, func(one proof.Difference) bool {
				return one.Item == pl.Item.Key && one.Effect == "shown" && one.Row == "" && one.Now
			})
			if never {
				require.Equal(t, !still, reason, "%s of\n%s\nand\n%s", pl.Item.Key, f.JSON(), g.JSON())
			}
			if never && !still {
				appeared++
				require.True(t, less || it.Key != pl.Item.Key, "of\n%s\nand\n%s", f.JSON(), g.JSON())
			}
		}
	})
	t.Logf("%d appeared", appeared)
}

// The same form gives the same report every time, witnesses and all.
func TestTheSameEveryTime(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		_, p := compiled(t)
		o := usual
		o.Shapes, o.Walks = true, true
		once, again := proof.Of(p, o), proof.Of(p, o)
		a, err := json.Marshal(once)
		require.NoError(t, err)
		b, err := json.Marshal(again)
		require.NoError(t, err)
		require.JSONEq(t, string(a), string(b))
	})
}

// There are as many shapes as trying everything shows, and each has a witness.
func TestShapesAreCounted(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p, all := tryable(t)
		o := usual
		o.Shapes = true
		r := proof.Of(p, o)
		require.Equal(t, len(tried(p, all).shape), r.Shapes.Count, "of\n%s", f.JSON())
		require.False(t, r.Shapes.Capped)
		require.Len(t, r.Shapes.List, min(r.Shapes.Count, proof.MaxListed))
		seen := map[string]bool{}
		for _, s := range r.Shapes.List {
			out := run(p, s.Witness.Filling())
			for pl := range f.Places() {
				if pl.Section.Repeat == nil {
					st := out.State(pl.Item.Key, 0)
					require.Equal(t, st.Shown, slices.Contains(s.Shown, pl.Item.Key))
					require.Equal(t, st.Shown && st.Required, slices.Contains(s.Required, pl.Item.Key))
				}
			}
			seen[fmt.Sprint(s.Shown, s.Required)] = true
		}
		require.Len(t, seen, len(r.Shapes.List))
	})
}

// The walks bring every condition out both ways that can be, and those that are said to be
// least are.
func TestWalksCoverEverything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, p, all := tryable(t)
		o := usual
		o.Walks = true
		r := proof.Of(p, o)
		require.LessOrEqual(t, r.Least, len(r.Walks))
		covered := map[string]bool{}
		for _, w := range r.Walks {
			y := tried(p, []engine.Filling{w.Filling()})
			for _, c := range w.Covers {
				covered[c] = true
				at, way, _ := strings.Cut(c, ":")
				if key, property, ok := ownerOf(f, at); ok {
					require.True(t, y.seen[way+" "+key+"."+property], "%s is not covered by %v of\n%s", c, w, f.JSON())
				}
			}
		}
		y := tried(p, all)
		for pl := range f.Places() {
			eachWithheld(t, p, all, pl, r)
			for _, tie := range pl.Item.Ties() {
				if tie.Property != "shown" && tie.Property != "required" && tie.Property != "locked" {
					continue
				}
				for _, way := range []string{"met", "not"} {
					if y.seen[way+" "+pl.Item.Key+"."+tie.Property] && y.seen["shown "+pl.Item.Key] {
						require.True(t, covered[pl.RemarkPlace()+"."+tie.Property+":"+way], "%s %s of %s of\n%s", way, tie.Property,
							pl.Item.Key,
							f.JSON())
					}
				}
			}
		}
	})
}

// ownerOf is the item outside rows and the property that a place names; ok is false for any
// other place, and for parts.
// eachWithheld looks whether a condition about each choice, which withholds the first one
// under another condition, is tried both ways, if that can be.
func eachWithheld(t require.TestingT, p *engine.Program, all []engine.Filling, pl form.Place, r *proof.Report) {
	rest, ok := strings.CutPrefix(pl.Item.Withheld.Expr, `choice = "a" and `)
	if !ok || pl.Section.Repeat != nil {
		return
	}
	n, err := expr.Parse(rest)
	require.NoError(t, err)
	code, faults := expr.CompileCondition(n, p.Symbols)
	require.Empty(t, faults)
	met := func(fl engine.Filling) bool {
		o := run(p, fl)
		return o.State(pl.Item.Key, 0).Shown && o.Holds(code)
	}
	label, covered := pl.RemarkPlace()+".withheld:met", false
	for _, w := range r.Walks {
		if slices.Contains(w.Covers, label) {
			covered = true
			require.True(t, met(w.Filling()), "%s is not covered by %v of\n%s", label, w, p.Form.JSON())
		}
	}
	require.Equal(t, slices.ContainsFunc(all, met), covered, "%s of\n%s", label, p.Form.JSON())
}

func ownerOf(f *form.Form, at string) (key, property string, ok bool) {
	if strings.Contains(at, "#") || strings.Count(at, "/") != 3 {
		return "", "", false
	}
	key, property, _ = strings.Cut(at[strings.LastIndexByte(at, '/')+1:], ".")
	pl, ok := f.Find(key)
	return key, property, ok && pl.Section.Repeat == nil &&
		slices.Contains([]string{"shown", "required", "locked"}, property)
}

// In a form of 120 questions nothing that is claimed is ever contradicted by an input.
func TestLargeFormsKeepWhatIsClaimed(t *testing.T) {
	for seed := range uint64(6) {
		r := rand.New(rand.NewPCG(seed, 7))
		f := largeForm(r, 120)
		p, remarks := engine.Compile(f)
		require.NotNil(t, p, "%v", remarks)
		got := claims(proof.Of(p, usual))
		for range 400 {
			fl := engine.Filling{Answers: map[string]any{}, At: usual.At}
			for pl := range f.Places() {
				if of := answers(pl.Item); r.IntN(5) > 0 {
					if a := of[r.IntN(len(of))]; a != any(untouched{}) {
						fl.Answers[pl.Item.Key] = a
					}
				}
			}
			contradict(t, p, run(p, fl), got)
		}
	}
}

func contradict(t *testing.T, p *engine.Program, o *engine.Outcome, got map[string]proof.Remark) {
	for pl := range p.Form.Places() {
		it := pl.Item
		st := o.State(it.Key, 0)
		_, never := got[proof.NeverShown+" "+pl.RemarkPlace()+" "]
		require.False(t, never && st.Shown, "%s is shown", it.Key)
		for _, tie := range it.Ties() {
			truth, there, ok := o.Truth(it.Key, tie.Property, 0)
			if !ok || !there {
				continue
			}
			at := pl.RemarkPlace() + "." + tie.Property + " "
			_, always := got[proof.Always+" "+at]
			require.False(t, always && truth != expr.Met, "%s is not always met", at)
			_, never := got[proof.NeverRequired+" "+at]
			require.False(t, never && truth == expr.Met, "%s is met", at)
		}
	}
}

// largeForm has a few pages of questions, each tied to some of those before.
func largeForm(r *rand.Rand, n int) *form.Form {
	f := &form.Form{Lazo: 1, Key: "large", Title: "Large", Timezone: "America/Montevideo"}
	var before []*form.Item
	atom := func() string {
		it := before[max(0, len(before)-1-r.IntN(40))]
		switch it.Type {
		case form.ChoiceType:
			return it.Key + []string{` = "a"`, ` != "b"`, ` in ("a", "c")`, " is answered"}[r.IntN(4)]
		case form.Number:
			return fmt.Sprintf("%s %s %d", it.Key, []string{"<", ">=", "="}[r.IntN(3)], 1+r.IntN(3))
		case form.ChoicesType:
			return it.Key + ` has "x"`
		}
		return it.Key
	}
	for i := range n {
		if i%12 == 0 {
			f.Pages = append(f.Pages,
				&form.Page{Key: fmt.Sprintf("p%d", i/12), Sections: []*form.Section{{Key: fmt.Sprintf("s%d", i/12)}}})
		}
		it := &form.Item{Key: fmt.Sprintf("q%d", i), Label: fmt.Sprintf("Question %d", i)}
		it.Type = []form.Type{form.ChoiceType, form.Number, form.YesNo, form.Tick, form.ChoicesType}[r.IntN(5)]
		switch it.Type {
		case form.ChoiceType:
			it.Choices = letters("a", "b", "c")
		case form.ChoicesType:
			it.Choices = letters("x", "y")
		}
		if i > 3 && r.IntN(3) > 0 {
			it.Shown = form.When([]string{atom(), atom() + " or " + atom(), atom() + " and " + atom()}[r.IntN(3)])
		}
		if i > 3 && r.IntN(3) == 0 {
			it.Required = form.When(atom() + " or " + atom())
		}
		before = append(before, it)
		s := f.Pages[len(f.Pages)-1].Sections[0]
		s.Items = append(s.Items, it)
	}
	return f
}
