package proof_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof"
)

// edited is another edition of a drawn form: a few things are otherwise.
func edited(t *rapid.T, f *form.Form) *form.Form {
	now := f.Clone()
	d := &drawer{t: t, f: now, clock: usesClock(f)}
	for range d.n(1, 2) {
		if len(slices.Collect(now.Places())) > 0 {
			d.edit(now, d.place(now))
		}
	}
	return now
}

// place picks an item, and lets conditions name what stands before it.
func (d *drawer) place(f *form.Form) form.Place {
	places := slices.Collect(f.Places())
	pl := places[d.n(0, len(places)-1)]
	d.before, d.row, d.group = nil, nil, ""
	for _, other := range places {
		if other.Item == pl.Item {
			break
		}
		switch {
		case other.Item.Type == form.Note:
		case other.Section.Repeat == nil:
			d.before = append(d.before, other.Item)
		case other.Section == pl.Section:
			d.row = append(d.row, other.Item)
		default:
			d.group = other.Section.Key
		}
	}
	return pl
}

// edit changes one thing at an item, or of the form.
func (d *drawer) edit(f *form.Form, pl form.Place) {
	it := pl.Item
	ties := f.AllTies()
	switch d.n(0, 11) {
	case 0, 1:
		it.Shown = form.When(d.cond(1))
	case 2:
		it.Shown = form.Rule{}
	case 3:
		if it.Type != form.Note && it.Type != form.Calculation {
			it.Required = form.When(d.cond(1))
		}
	case 4:
		if len(it.Choices) > 0 && it.Type != form.Grid {
			it.Choices[0].Offered = form.When(d.cond(1))
		}
	case 5:
		if len(it.Choices) > 1 {
			it.Choices = it.Choices[:len(it.Choices)-1]
		}
	case 6, 7:
		if len(ties) > 0 {
			tie := ties[d.n(0, len(ties)-1)]
			tie.Set("not (" + tie.Expr + ")")
		}
	case 8:
		if r := pl.Section.Repeat; r != nil {
			r.Rows, r.Max, r.Min = "", 1, d.n(0, 1)
		} else if len(it.Rows) > 1 {
			it.Rows[1].Shown = form.When(d.cond(0))
		} else if it.Type == form.Number {
			it.Max = form.BoundOf(d.n(1, 4))
		}
	case 9:
		it.WhenHidden = map[string]string{"": "keep", "keep": ""}[it.WhenHidden]
	case 10:
		for i := range f.Messages {
			f.Messages[i].When = d.cond(1)
		}
		it.Staff = d.chance(50) && it.Type != form.Note
	case 11:
		pl.Section.Items = slices.DeleteFunc(pl.Section.Items, func(o *form.Item) bool {
			return o == it && pl.Section.Repeat == nil && len(f.Pages[0].Sections[0].Items) > 1
		})
	}
}

// between is what is otherwise in one of two outcomes of the same input, in the words of a
// difference. f is the newer edition.
func between(f *form.Form, old, now *engine.Outcome) (out []string) {
	note := func(gained bool, effect, item, part string) {
		out = append(out, fmt.Sprint(effect, " ", item, " ", part, " ", gained))
	}
	differ := func(was, is bool, effect, item, part string) {
		if was != is {
			note(is, effect, item, part)
		}
	}
	for pl := range f.Places() {
		it := pl.Item
		if st := old.State(it.Key, 0); pl.Section.Repeat == nil && (st == nil || st.Item().Type != it.Type) {
			continue // the older edition does not have it
		}
		for row := range 2 {
			a, b := old.State(it.Key, row), now.State(it.Key, row)
			was, is := a != nil && a.Shown, b != nil && b.Shown
			differ(was, is, "shown", it.Key, "")
			if was && is {
				differ(a.Required, b.Required, "required", it.Key, "")
				differ(a.Locked, b.Locked, "locked", it.Key, "")
				filled(it, old, now, row, note)
				worded(it, a, b, note)
				both(a.Item(), b.Item(), func(what, key string, i, j int) {
					if what == "row" {
						differ(a.RowShown(i), b.RowShown(j), "shown", it.Key, key)
					} else if it.Type.Picks() || it.Type == form.Grid {
						differ(slices.Contains(a.Choices(), key), slices.Contains(b.Choices(), key), "offered", it.Key, key)
					}
				})
			}
			if pl.Section.Repeat == nil {
				break
			}
		}
	}
	differ(old.Accepted, now.Accepted, "accepted", "", "")
	if old.Accepted && now.Accepted {
		differ(len(old.Messages()) > 0, len(now.Messages()) > 0, "sent", "m", "")
	}
	return out
}

// filled notes where what an item is filled in with is otherwise.
func filled(it *form.Item, old, now *engine.Outcome, row int, note func(gained bool, effect, item, part string)) {
	said := func(o *engine.Outcome) string {
		st := o.State(it.Key, row)
		v := o.Value(st, row)
		if !st.Automatic() || v.IsBlank() || it.Type == form.Tick && !v.Yes() {
			return ""
		}
		return fmt.Sprint(v.JSON(time.UTC))
	}
	switch was, is := said(old), said(now); {
	case was != is && is != "":
		note(true, "filled", it.Key, "")
	case was != is:
		note(false, "filled", it.Key, "")
	}
}

// worded notes where an item is worded otherwise; the wordings of drawn forms are labels of
// their own.
func worded(it *form.Item, a, b *engine.ItemState, note func(gained bool, effect, item, part string)) {
	was, is := a.Label(), b.Label()
	switch {
	case was != is && is != it.Label:
		note(true, "worded", it.Key, "")
	case was != is && was != a.Item().Label:
		note(false, "worded", it.Key, "")
	}
}

// both goes through the rows and choices that an item has in both editions.
func both(a, b *form.Item, each func(what, key string, i, j int)) {
	for i, r := range a.Rows {
		if j := slices.IndexFunc(b.Rows, func(o form.GridRow) bool { return o.Key == r.Key }); j >= 0 {
			each("row", r.Key, i, j)
		}
	}
	for i, c := range a.Choices {
		if j := slices.IndexFunc(b.Choices, func(o form.Choice) bool { return o.Value == c.Value }); j >= 0 {
			each("choice", c.Value, i, j)
		}
	}
}

// Whatever is said to be otherwise in another edition is so for its example, and whatever
// is otherwise for any input is said.
func TestEditionsDifferAsInEveryInput(t *testing.T) {
	tried, runs, found := 0, 0, map[string]int{}
	rapid.Check(t, editionsDiffer(&tried, &runs, found))
	t.Logf("%d pairs, %d inputs, %v", tried, runs, found)
}

// The same, as long as one likes.
func FuzzAgainst(f *testing.F) {
	tried, runs := 0, 0
	f.Fuzz(rapid.MakeFuzz(editionsDiffer(&tried, &runs, map[string]int{})))
}

// editions are two of a form, and all their inputs. Several are drawn until there are not too
// many of these, so that few draws are for nothing.
func editions(t *rapid.T) (f, g *form.Form, old, now *engine.Program, all []engine.Filling) {
	for range 4 {
		f, old = compiled(t)
		g = edited(t, f)
		if now, _ = engine.Compile(g); now == nil {
			continue // with errors
		}
		if all, ok := inputs(mostInputs, usesClock(f) || usesClock(g), f, g); ok {
			return f, g, old, now, all
		}
	}
	t.Skip("too many inputs, or errors")
	return
}

func editionsDiffer(tried, runs *int, found map[string]int) func(t *rapid.T) {
	return func(t *rapid.T) {
		f, g, old, now, all := editions(t)
		*tried++
		*runs += len(all)
		want := map[string]bool{}
		for _, fl := range all {
			for _, one := range between(g, run(old, fl), run(now, fl)) {
				want[one] = true
			}
		}
		said, undecided := proof.Between(old, now, usual)
		require.Empty(t, undecided, "of\n%s\nand\n%s", f.JSON(), g.JSON())
		got := map[string]bool{}
		for _, one := range said {
			name := fmt.Sprint(one.Effect, " ", one.Item, " ", one.Choice+one.Row, " ", one.Now)
			fl := one.Witness.Filling()
			require.Contains(t, between(g, run(old, fl), run(now, fl)), name, "of\n%s\nand\n%s", f.JSON(), g.JSON())
			got[name] = true
			found[strings.Fields(name)[0]]++
		}
		require.Equal(t, slices.Sorted(maps.Keys(want)), slices.Sorted(maps.Keys(got)), "of\n%s\nand\n%s", f.JSON(), g.JSON())
	}
}
