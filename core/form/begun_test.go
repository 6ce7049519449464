package form_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
)

// unfinished has something begun at every place that holds a condition or a value.
const unfinished = `{"lazo": 1, "key": "crew", "title": "Crew", "timezone": "UTC",
 "opening": {"shown": "url.club = …"}, "parameters": [{"name": "club"}],
 "ends": [{"when": "class = …", "text": "T"}, {"when": "class = \"eight\"", "text": "E"}],
 "messages": [{"key": "m", "when": "class = …", "to": ["a@pedralta.example"], "subject": "S", "body": "B"},
  {"key": "later", "at": "born + …", "to": ["a@pedralta.example"], "subject": "S", "body": "B"}],
 "hooks": [{"key": "h", "url": "https://desk.example/x", "when": "metres > …"}],
 "pages": [{"key": "p", "next": [{"when": "class = …", "page": "q"}], "checks": [{"ok": "metres < …", "message": "c"}], "sections": [
  {"key": "s", "items": [
   {"key": "class", "type": "choice", "label": "Class", "choices": [{"value": "single"}, {"value": "eight"}]},
   {"key": "metres", "type": "number", "label": "Metres", "max": "…", "value": {"starts": "…"}},
   {"key": "born", "type": "date", "label": "Born", "required": "class = … or metres > …"},
   {"key": "cox", "type": "text", "label": "Cox", "shown": "class = \"eight\" and metres >= …", "required": "not (class = …)",
    "checks": [{"ok": "cox contains …", "message": "c"}, {"ok": "cox != \"x\"", "message": "d"}],
    "wording": [{"when": "metres >= …", "label": "W"}, {"when": "metres >= 3", "label": "V"}]},
   {"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "if(class = …, 1, if(class = \"eight\", 2, if(metres > 3, …)))"}}]}]},
  {"key": "q", "sections": [{"key": "t", "items": [{"key": "word", "type": "text", "label": "Word"}]}]}]}`

func TestWhatIsBegunTakesNoEffect(t *testing.T) {
	f, remarks := form.Read([]byte(unfinished))
	require.NotNil(t, f, remarks)
	before := string(f.JSON())
	p, remarks := engine.Compile(f)
	require.NotNil(t, p, remarks)
	begun := 0
	for _, r := range remarks {
		if r.Kind == "begun" {
			begun++
		}
	}
	assert.Len(t, f.Begun(), 15)
	assert.Equal(t, 16, begun, "each part that waits is remarked on: %v", remarks)

	data, err := p.Run(engine.Input{Answers: p.Answers(map[string]any{"class": "eight"})}).MarshalJSON()
	require.NoError(t, err)
	var out struct {
		Open  string
		Route []string
		Items map[string]struct {
			Shown, Required bool
			Problems        []string
			Label           string
			Value           any
		}
		Messages, Hooks []any
	}
	require.NoError(t, json.Unmarshal(data, &out), string(data))
	assert.Equal(t, "open", out.Open)
	assert.True(t, out.Items["cox"].Shown, "the clause that is whole counts")
	assert.False(t, out.Items["cox"].Required)
	assert.Equal(t, "Cox", out.Items["cox"].Label)
	assert.False(t, out.Items["born"].Required)
	assert.Nil(t, out.Items["metres"].Value)
	assert.InDelta(t, 2, out.Items["fee"].Value, 0, "the case that is whole counts")
	assert.Empty(t, out.Messages)
	assert.Empty(t, out.Hooks)
	assert.Equal(t, []string{"p", "q"}, out.Route)
	assert.Equal(t, before, string(f.JSON()), "the draft keeps what was begun")
}

func TestWhatIsBegunIsNotPublished(t *testing.T) {
	f, _ := form.Read([]byte(unfinished))
	before := string(f.JSON())
	out := f.Publishable()
	assert.NotContains(t, string(out.JSON()), "…")
	assert.Equal(t, before, string(f.JSON()))
	assert.Len(t, out.Ends, 1)
	assert.Empty(t, out.Messages)
	assert.Empty(t, out.Hooks)
	assert.Empty(t, out.Pages[0].Next)
	assert.Empty(t, out.Pages[0].Checks)
	cox, _ := out.Find("cox")
	assert.Equal(t, `class = "eight"`, cox.Item.Shown.Expr)
	assert.Equal(t, []form.Check{{OK: `cox != "x"`, Message: "d"}}, cox.Item.Checks)
	assert.Len(t, cox.Item.Wording, 1)
	fee, _ := out.Find("fee")
	assert.Equal(t, `if(class = "eight", 2)`, fee.Item.Value.Is)
	metres, _ := out.Find("metres")
	assert.Nil(t, metres.Item.Max)
	assert.Nil(t, metres.Item.Value)
	again, remarks := form.Read(out.JSON())
	require.NotNil(t, again, remarks)
	assert.Same(t, out, out.Publishable(), "a form of which all is given is published as it is")
}
