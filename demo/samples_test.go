package demo_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/demo"
)

func TestEverySampleIsSound(t *testing.T) {
	keys := map[string]bool{}
	for _, s := range demo.Samples(time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)) {
		p, remarks := engine.Compile(s.Form)
		require.NotNil(t, p, "%s: %v", s.Form.Key, remarks)
		assert.Empty(t, remarks, s.Form.Key)
		assert.NotEmpty(t, s.About)
		assert.False(t, keys[s.Form.Key], "%s twice", s.Form.Key)
		keys[s.Form.Key] = true
		assert.True(t, s.Matches(""))
		assert.True(t, s.Matches(s.Form.Title))
		assert.False(t, s.Matches("submarine"))
	}
	assert.Greater(t, len(keys), 5)
}

// Whatever is deleted with its ties, nothing that is left names it, and undo
// brings all of it back; renaming and copying leave every form whole as well.
func TestEditsLeaveSampleFormsWhole(t *testing.T) {
	start := time.Date(2026, 2, 1, 12, 0, 0, 0, time.UTC)
	forms := []*form.Form{demo.CrewEntry(start), demo.ShoreCrew(start), demo.LakeBulletin()}
	for _, s := range demo.Samples(start) {
		forms = append(forms, s.Form)
	}
	whole := func(f *form.Form, e form.Edit, what string) *form.Form {
		out, back, err := form.Apply(f, e)
		require.NoError(t, err, what)
		again, _, err := form.Apply(out, back)
		require.NoError(t, err, what)
		require.JSONEq(t, string(f.JSON()), string(again.JSON()), "undo of: %s", what)
		p, remarks := engine.Compile(out)
		require.NotNil(t, p, "%s: %v", what, form.Errors(remarks))
		return out
	}
	for _, f := range forms {
		for key := range f.Keys() {
			what := f.Key + ": " + key
			e, err := f.Delete(key, true)
			require.NoError(t, err, what)
			out := whole(f, e, "deleting "+what)
			assert.False(t, out.Keys()[key], what)
			if len(f.Dependents(key)) == 0 && len(f.SaidOf(key)) == 0 {
				assert.Len(t, e.Edits, 1, "nothing else changes by deleting %s", what)
			}
			e, copied, err := f.CopyOf(key)
			require.NoError(t, err, what)
			assert.True(t, whole(f, e, "copying "+what).Keys()[copied], what)
			out = whole(f, form.Edit{Op: form.RenameKey, Key: key, To: key + "_renamed"}, "renaming "+what)
			assert.Empty(t, out.Dependents(key), "nothing names %s any more", what)
			assert.Len(t, out.Dependents(key+"_renamed"), len(f.Dependents(key)), what)
		}
		next := form.NewSeason(f, func(d expr.Day) expr.Day { return d + 364 })
		p, remarks := engine.Compile(next)
		require.NotNil(t, p, "%s, next season: %v", f.Key, form.Errors(remarks))
		assert.Len(t, next.Dates(), len(f.Dates()))
		for _, tag := range f.Languages() {
			p, remarks := engine.Compile(f.Translated(tag))
			require.NotNil(t, p, "%s in %s: %v", f.Key, tag, form.Errors(remarks))
		}
	}
}

// A short boat is not asked about the crane, and still knows its fee.
func TestAShortBoatKnowsItsFee(t *testing.T) {
	for _, s := range demo.Samples(time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC)) {
		if s.Form.Key != "mooring-request" {
			continue
		}
		p, remarks := engine.Compile(s.Form)
		require.NotNil(t, p, remarks)
		for metres, crane := range map[int]string{5: "", 7: "yes"} {
			out := p.Run(engine.Input{At: time.Date(2026, 5, 1, 0, 0, 0, 0, time.UTC), Answers: p.Answers(map[string]any{
				"metres": metres, "draught": "0.5", "shore": "n", "pier": "heron", "first_day": "2026-05-30",
				"last_day": "2026-05-31",
				"crane":    crane,
			})})
			fee := out.Value(out.State("fee", 0), 0)
			require.Equal(t, expr.Num, fee.Kind(), "a boat of %d metres", metres)
			assert.Equal(t, crane != "", fee.Number().Cmp(expr.Int(900)) > 0)
		}
		return
	}
	require.Fail(t, "there is no such sample")
}
