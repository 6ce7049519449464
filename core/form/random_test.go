package form_test

import (
	"encoding/json"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/form"
	"lazo/core/form/formtest"
)

// stored is an edit as it comes back from the database.
func stored(t *rapid.T, e form.Edit) form.Edit {
	data, err := json.Marshal(e)
	require.NoError(t, err)
	var out form.Edit
	require.NoError(t, json.Unmarshal(data, &out))
	again, err := json.Marshal(out)
	require.NoError(t, err)
	require.JSONEq(t, string(data), string(again))
	return out
}

// Random edits, each kept as JSON, are undone to the last and done again to the
// last, and every state on the way survives a form file.
func TestRandomEditsAreUndoneAndRedoneExactly(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, remarks := form.Read([]byte(formtest.Everything))
		require.Empty(t, remarks)
		type step struct {
			edit, inverse form.Edit
			after         string
		}
		first := string(f.JSON())
		var steps []step
		for range rapid.IntRange(1, 12).Draw(t, "edits") {
			e := formtest.AnyEdit(t, f)
			changed, inverse, err := form.Apply(f, stored(t, e))
			if err != nil {
				continue
			}
			f = changed
			steps = append(steps, step{stored(t, e), stored(t, inverse), string(f.JSON())})
			again, remarks := form.Read(f.JSON())
			require.Empty(t, form.Errors(remarks), "a draft is taken back as it was saved, whatever stands in it")
			require.Equal(t, string(f.JSON()), string(again.JSON()), "a form file holds all of it")
		}
		for i, s := range slices.Backward(steps) {
			back, _, err := form.Apply(f, s.inverse)
			require.NoError(t, err)
			f = back
			want := first
			if i > 0 {
				want = steps[i-1].after
			}
			require.Equal(t, want, string(f.JSON()))
		}
		for _, s := range steps {
			forth, _, err := form.Apply(f, s.edit)
			require.NoError(t, err)
			f = forth
			require.Equal(t, s.after, string(f.JSON()))
		}
	})
}

// A copy is the same form, and no change of it is one of the form.
func TestACopyIsTheSameAndItsOwn(t *testing.T) {
	f, remarks := form.Read([]byte(formtest.Everything))
	require.Empty(t, remarks)
	before := string(f.JSON())
	c := f.Clone()
	require.Equal(t, before, string(c.JSON()))
	for p := range c.Places() {
		p.Item.Label, p.Section.Title, p.Page.Title = "x", "x", "x"
		for i := range p.Item.Choices {
			p.Item.Choices[i].Value = "x"
		}
		if p.Item.Value != nil {
			p.Item.Value.When = "x"
		}
	}
	for _, l := range c.Lists {
		for _, e := range l.Entries {
			for column := range e {
				e[column] = "x"
			}
		}
	}
	clear(c.Translations)
	require.Equal(t, before, string(f.JSON()))
}
