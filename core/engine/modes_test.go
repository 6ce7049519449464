package engine_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/engine"
	"lazo/core/form"
)

// The parks department asks who is responsible at the first filling alone, and answers on a
// page of its own, which applicants are not shown: none of it goes when an applicant changes
// a telephone number, nor does what the office asked in rows, or in one row of a grid.
func TestTheModeNeverErases(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "language": "en", "pages": [
		{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": [
			{"key": "phone", "type": "text", "label": "Phone"},
			{"key": "responsible", "type": "text", "label": "Responsible", "shown": "mode = \"new\""},
			{"key": "thanks", "type": "note", "label": "Thanks, {responsible}", "shown": "decision = \"No objection\""},
			{"key": "days", "type": "grid", "label": "Days", "choices": [{"value": "a"}, {"value": "b"}],
				"rows": [{"key": "fri"}, {"key": "sat", "shown": "mode = \"staff\""}]}]}]},
		{"key": "office", "title": "Office", "shown": "mode = \"staff\"", "sections": [
			{"key": "o", "title": "O", "items": [{"key": "decision", "type": "text", "label": "Decision"}]},
			{"key": "steps", "title": "Steps", "repeat": {"max": 5}, "items": [{"key": "step", "type": "text", "label": "Step"},
				{"key": "odd", "type": "text", "label": "Odd", "shown": "phone = \"1\""}]}]}]}`))
	require.NotNil(t, p, remarks)
	prior := map[string]any{"phone": "1", "responsible": "Ana", "decision": "No objection",
		"days": map[string]any{"fri": "a", "sat": "b"},
		"steps": []any{map[string]any{"_row": "x", "step": "seen", "odd": "gone"},
			map[string]any{"_row": "y", "step": "signed"}}}
	change := func(mode engine.Mode, answers map[string]any) *engine.Outcome {
		return p.Run(engine.Input{Answers: p.Answers(answers), Prior: p.Answers(prior), Mode: mode})
	}
	out := change(engine.Revisit, map[string]any{"phone": "2", "responsible": "Mallory", "decision": "Mine",
		"days":  map[string]any{"fri": "b", "sat": "a"},
		"steps": []any{map[string]any{"step": "mine"}}})
	require.True(t, out.Accepted)
	assert.Equal(t, map[string]any{
		"phone": "2", "responsible": "Ana", "decision": "No objection", "days": map[string]any{"fri": "b", "sat": "b"},
		"steps": []any{map[string]any{"_row": "x", "step": "seen"}, map[string]any{"_row": "y", "step": "signed"}},
	}, out.Stored(), "what was shown for another answer goes with that")
	assert.True(t, out.State("thanks", 0).Shown, "what is kept counts")
	assert.Equal(t, "Thanks, Ana", out.State("thanks", 0).Label())
	assert.Equal(t, []string{"p"}, out.Route())

	out = change(engine.Staff, map[string]any{"decision": "Objection"})
	assert.Equal(t, "Ana", out.Stored()["responsible"], "nor does the office erase what it is not asked")
	assert.False(t, out.State("thanks", 0).Shown)
}

// Whoever comes back and changes nothing leaves everything that the response has, whatever
// the mode decides in a form.
func TestComingBackErasesNothing(t *testing.T) {
	tried := 0
	rapid.Check(t, func(t *rapid.T) {
		f, _ := drawProgram(t)
		for pl := range f.Places() {
			pl.Item.Stored = nil // what is never kept can't be there again
		}
		p, remarks := engine.Compile(f)
		require.NotNil(t, p, remarks)
		d := drawInput(t, f)
		first := p.Run(engine.Input{Answers: p.Answers(d.answers), Params: d.url, At: d.at, Mode: engine.New})
		stored := storedOf(t, first)
		if len(stored) == 0 {
			return
		}
		tried++
		for _, mode := range []engine.Mode{engine.Revisit, engine.Staff} {
			again := p.Run(engine.Input{Answers: p.Answers(nil), Prior: p.Answers(stored), Params: d.url, At: d.at, Mode: mode})
			is := storedOf(t, again)
			if again.Accepted {
				for key := range stored {
					if byItself(f, key) {
						continue
					}
					require.Contains(t, is, key, "%s, coming back as %s to %v of\n%s", key, mode, stored, f.JSON())
				}
			}
		}
	})
	t.Logf("%d responses", tried)
}

// byItself reports whether a value comes by itself, or one in a section does, or how many
// rows it has: those follow what they are made of.
func byItself(f *form.Form, key string) bool {
	for pl := range f.Places() {
		it := pl.Item
		if pl.Section.Key == key && pl.Section.Repeat.Rows != "" {
			return true
		}
		comes := it.Type.Computed() || it.WhenHidden == "fill" || it.Value != nil && it.Value.Is != ""
		if comes && (it.Key == key || pl.Section.Key == key) {
			return true
		}
	}
	return false
}

// storedOf is what is stored, as it comes back from the database.
func storedOf(t require.TestingT, out *engine.Outcome) map[string]any {
	data, err := json.Marshal(out.Stored())
	require.NoError(t, err)
	raw, err := engine.ParseAnswers(data)
	require.NoError(t, err)
	return raw
}
