package author_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/form"
)

const harbour = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "lists": {"piers": [{"code": "n", "name": "North"}]}, "pages": [{"key": "p", "sections": [{"key": "s", "items": [
 {"key": "boat", "type": "choice", "label": "Boat", "required": true, "look": "menu", "withheld": "choice = \"b\"", "choices": [{"value": "a"}, {"value": "b"}]},
 {"key": "fresh", "type": "choices", "label": "Fresh", "max_picked": 2, "choices": [{"value": "first"}, {"value": "second"}]},
 {"key": "n", "type": "number", "label": "N", "min": 1, "max": 9, "step": 2, "placeholder": "p", "value": {"follows": "4", "when": "boat = \"a\""}},
 {"key": "t", "type": "text", "label": "T", "min_length": 2, "pattern": "x+", "pattern_message": "m", "twice": true},
 {"key": "photo", "type": "file", "label": "F", "accept": ["image/*"], "max_bytes": 10}]}]}]}`

func TestAChangeOfTypeDropsWhatTheNewTypeHasNotAndSaysSo(t *testing.T) {
	for _, c := range []struct {
		key   string
		to    form.Type
		drops []string
	}{
		{"boat", form.Text, []string{"its choices", "which of its choices are offered", "how it looks"}},
		{"boat", form.ChoicesType, nil},
		{"boat", form.Note, []string{"its choices", "which of its choices are offered", "that it is required",
			"how it looks"}},
		{"fresh", form.Number, []string{"its choices", "how many can be picked"}},
		{"n", form.Text, []string{"its least and greatest", "its step"}},
		{"n", form.Calculation, []string{"its least and greatest", "its placeholder", "its step",
			"when its value comes by itself"}},
		{"n", form.Number, nil},
		{"t", form.Paragraph, []string{"the form that it has to have", "that it is typed twice"}},
		{"t", form.ChoiceType, []string{"its length", "the form that it has to have", "that it is typed twice"}},
		{"photo", form.Signature, []string{"which files it takes"}},
	} {
		f, remarks := form.Read([]byte(harbour))
		require.Empty(t, remarks)
		d, err := author.ChangeType{Key: c.key, To: c.to}.Do(f, noon)
		require.NoError(t, err)
		assert.Equal(t, c.drops, d.Drops, "%s to %s", c.key, c.to)
		after, inverse, err := form.Apply(f, d.Edit)
		require.NoError(t, err)
		back, _, err := form.Apply(after, inverse)
		require.NoError(t, err)
		assert.Equal(t, string(f.JSON()), string(back.JSON()), "undo brings all of it back")
		p, _ := after.Find(c.key)
		assert.Equal(t, c.to, p.Item.Type)
		_, remarks = engine.Compile(after)
		for _, r := range remarks {
			if r.Text != "T has no choices" { // which nobody has written yet
				assert.NotEqual(t, "senseless", r.Kind, "%s to %s leaves %s", c.key, c.to, r)
			}
		}
	}
	f, _ := form.Read([]byte(harbour))
	_, err := author.ChangeType{Key: "boat", To: "colour"}.Do(f, noon)
	assert.ErrorIs(t, err, form.ErrEdit)
}

func TestTypedChoicesAreSetAsideForAList(t *testing.T) {
	f, _ := form.Read([]byte(harbour))
	d, err := author.DrawChoices{Key: "boat", List: "piers"}.Do(f, noon)
	require.NoError(t, err)
	after, _, err := form.Apply(f, d.Edit)
	require.NoError(t, err)
	p, _ := after.Find("boat")
	assert.Empty(t, p.Item.Choices)
	assert.Contains(t, d.Says(), "the choices that you typed")
	was, _ := f.Find("boat")
	d, err = author.DrawChoices{Key: "boat", Typed: was.Item.Choices}.Do(after, noon)
	require.NoError(t, err)
	after, _, err = form.Apply(after, d.Edit)
	require.NoError(t, err)
	p, _ = after.Find("boat")
	assert.Len(t, p.Item.Choices, 2)
	assert.Nil(t, p.Item.ChoicesFrom)
	_, err = author.DrawChoices{Key: "boat", List: "none"}.Do(f, noon)
	assert.ErrorIs(t, err, form.ErrEdit)
}

// What a tie begins with is the question before, with what it is likely compared with;
// never one that comes later.
func TestWhatATieBeginsWith(t *testing.T) {
	const pier = `{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "parameters": [%s], "pages": [{"key": "p", "sections": [{"key": "s", "items": [
 {"key": "name", "type": "text", "label": "Name"},
 {"key": "class", "type": "choice", "label": "Class", "choices": [{"value": "single"}, {"value": "double"}]},
 {"key": "hires", "type": "yes_no", "label": "Hires"},
 {"key": "days", "type": "choices", "label": "Days", "choices": [{"value": "sat"}, {"value": "sun"}]},
 {"key": "length", "type": "number", "label": "Length"},
 {"key": "born", "type": "date", "label": "Born"},
 {"key": "bare", "type": "choice", "label": "None yet"},
 {"key": "words", "type": "note", "label": "Words"},
 {"key": "last", "type": "text", "label": "Last"}]},
 {"key": "rest", "items": [{"key": "more", "type": "text", "label": "More"}]}]}],
 "messages": [{"key": "thanks", "to": ["office@pedralta.example"], "subject": "x", "body": "y"}]}`
	for _, c := range []struct{ key, property, parameters, begins string }{
		{"name", "shown", "", "today >= …"},
		{"name", "shown", `{"name": "club"}`, "url.club is answered"},
		{"class", "shown", "", "name is answered"},
		{"hires", "required", "", "class = …"},
		{"days", "shown", "", "hires"},
		{"length", "shown", "", "days has …"},
		{"born", "shown", "", "length >= …"},
		{"bare", "shown", "", "born >= …"},
		{"words", "shown", "", "bare is answered"},
		{"last", "shown", "", "bare is answered"},
		{"rest", "shown", "", "last is answered"},
		{"", "messages.0.when", "", "bare is answered"},
	} {
		f, remarks := form.Read(fmt.Appendf(nil, pier, c.parameters))
		require.Empty(t, remarks)
		d, err := author.SetState{Key: c.key, Property: c.property, State: "when"}.Do(f, noon)
		require.NoError(t, err, c.key)
		after, _, err := form.Apply(f, d.Edit)
		require.NoError(t, err)
		assert.Equal(t, c.begins, after.Expr(c.key, c.property), "%s.%s", c.key, c.property)
	}
}

func TestWhereAValueComesFromIsNeverNarrowedSilently(t *testing.T) {
	f, _ := form.Read([]byte(harbour))
	for how, says := range map[string]string{"is": "Dropped with this: “only while”, the condition of its value. Undo brings it back.", "follows": "", "starts": "Dropped with this: “only while”, the condition of its value. Undo brings it back.",
		"": "Dropped with this: “only while”, the condition of its value. Undo brings it back."} {
		d, err := author.SetValueSource{Key: "n", How: how, Source: "7"}.Do(f, noon)
		require.NoError(t, err)
		assert.Equal(t, says, d.Says(), how)
	}
	_, err := author.SetValueSource{Key: "n", How: "sometimes", Source: "7"}.Do(f, noon)
	assert.ErrorIs(t, err, form.ErrEdit)
}

// Questions that read alike are told apart by their section, else their page, else their
// key; and can be picked by that.
func TestLabelsThatStandTwice(t *testing.T) {
	f, remarks := form.Read([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [
	 {"key": "p", "title": "Boat", "sections": [
	  {"key": "s", "title": "Rowers", "items": [{"key": "a", "type": "text", "label": "Name"}, {"key": "n", "type": "text", "label": "Pier"}]},
	  {"key": "u", "title": "Cox", "items": [{"key": "b", "type": "text", "label": "name"}]},
	  {"key": "v", "title": "Shore", "items": [{"key": "c", "type": "text", "label": "Phone"}, {"key": "d", "type": "text", "label": "Phone"}]}]},
	 {"key": "q", "sections": [{"key": "w", "title": "Shore", "items": [{"key": "e", "type": "text", "label": "Hull"}]}]},
	 {"key": "r", "sections": [{"key": "x", "title": "Shore", "items": [{"key": "g", "type": "text", "label": "Hull"}]}]}]}`))
	require.Empty(t, remarks)
	labels := author.LabelsOf(f)
	for key, want := range map[string]string{"a": "Name (Rowers)", "b": "name (Cox)", "n": "Pier", "c": "Phone (c)",
		"d": "Phone (d)",
		"e": "Hull (Page 2)", "g": "Hull (Page 3)"} {
		p, _ := f.Find(key)
		got := labels.Name(key, p.Item.Name())
		assert.Equal(t, want, got)
		found, err := author.Resolve(f, f.Symbols(), got, "")
		require.NoError(t, err)
		assert.Equal(t, key, found)
	}
}
