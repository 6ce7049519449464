package web_test

import (
	"context"
	"encoding/json"
	"net/http"
	"net/url"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
)

// publishFile publishes a form file in the sample workspace.
func publishFile(t *testing.T, src string) visited {
	t.Helper()
	f, remarks := form.Read([]byte(src))
	require.Empty(t, form.Errors(remarks))
	return visited{published(t, f).Address, newClient(t)}
}

// visited is a published form and who visits it.
type visited struct {
	address string
	client
}

// open begins a filling.
func (s visited) open() url.Values {
	s.t.Helper()
	status, page := s.get("/f/" + s.address)
	require.Equal(s.t, http.StatusOK, status)
	return fields(page)
}

// send posts fields, as pairs, on top of those of a page.
func (s visited) send(v url.Values, pairs ...string) string {
	s.t.Helper()
	post := url.Values{"_do": {"send"}}
	for k, x := range v {
		post[k] = x
	}
	for i := 0; i < len(pairs); i += 2 {
		post.Add(pairs[i], pairs[i+1])
	}
	_, page := s.post("/f/"+s.address, post)
	return page
}

// newest are the answers of the newest response.
func (s visited) newest() map[string]any {
	s.t.Helper()
	ctx := context.Background()
	f, err := db.FormByAddress(ctx, s.address)
	require.NoError(s.t, err)
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(ctx, 0, 1)
	require.NoError(s.t, err)
	require.NotEmpty(s.t, list)
	out := map[string]any{}
	require.NoError(s.t, json.Unmarshal(list[0].Answers, &out))
	return out
}

func TestTheLastPlaceIsLostWhileFilling(t *testing.T) {
	s := publishFile(t, `{"lazo": 1, "key": "last-place", "title": "Saturday", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "name", "type": "text", "label": "Name"},
		{"key": "slot", "type": "choice", "label": "Slot", "show_left": "few", "choices": [{"value": "am", "label": "Morning", "places": 1}, {"value": "pm", "label": "Afternoon"}]}]}]}]}`)
	_, page := s.get("/f/last-place")
	assert.Contains(t, page, "(one left)")
	mine, theirs := s.open(), s.open()
	assert.Contains(t, s.send(theirs, "a.name", "Bo", "a.slot", "am"), "Thank you")
	page = s.send(mine, "a.name", "Ana", "a.slot", "am")
	assert.Contains(t, page, "“Morning” is full by now. Please pick again.")
	assert.Contains(t, page, `value="Ana"`, "nothing else is lost")
	assert.Regexp(t, `value="am" disabled`, page)
	assert.Contains(t, page, "(full)")
	assert.Contains(t, s.send(mine, "a.name", "Ana", "a.slot", "pm"), "Thank you")
	assert.Equal(t, map[string]any{"name": "Ana", "slot": "pm"}, s.newest())
	// Even if both were judged before either was stored.
	f, err := db.FormByAddress(context.Background(), "last-place")
	require.NoError(t, err)
	taken, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Taken(context.Background())
	require.NoError(t, err)
	assert.Equal(t, map[string]map[string]int{"slot": {"am": 1}}, taken)
}

func TestMoreControls(t *testing.T) {
	s := publishFile(t, `{"lazo": 1, "key": "more-controls", "title": "More", "timezone": "UTC", "pages": [{"key": "p", "sections": [
		{"key": "s", "checks": [{"ok": "how is answered or well is answered", "message": "Say one of the two, {who}"}], "items": [
		{"key": "who", "type": "text", "label": "Who"},
		{"key": "how", "type": "choice", "label": "How", "choices": [{"value": "bus", "label": "Bus"}, {"value": "other", "label": "Otherwise", "other": true}]},
		{"key": "why", "type": "choices", "label": "Why", "choices": [{"value": "a"}, {"value": "o", "other": true}]},
		{"key": "menu", "type": "choice", "look": "menu", "label": "Menu", "choices": [{"value": "a"}, {"value": "o", "other": true}]},
		{"key": "well", "type": "scale", "label": "How well, {who}?", "low": "not at all", "high": "very"},
		{"key": "order", "type": "ranking", "label": "Order", "choices": [{"value": "x"}, {"value": "y"}, {"value": "z"}]},
		{"key": "meals", "type": "grid", "label": "Meals", "choices": [{"value": "veg"}, {"value": "fish"}],
		 "rows": [{"key": "friday", "label": "Friday"}, {"key": "sunday", "label": "Sunday", "shown": "well > 3"}]},
		{"key": "tools", "type": "grid", "label": "Tools", "many": true, "choices": [{"value": "a"}, {"value": "b"}], "rows": [{"key": "one"}]}]}]}]}`)
	page := s.send(s.open(), "a.how", "other", "a.order.at.0", "2:x", "a.order.at.1", "2:y", "a.order.at.2", "1:z")
	assert.Contains(t, page, "Please say what you mean by “Otherwise”.")
	assert.Contains(t, page, "Please give every choice a place of its own.")
	assert.Contains(t, page, `<option value="2:y" selected>`, "what was chosen stands there")
	assert.Contains(t, page, "not at all")
	page = s.send(s.open(), "a.who", "<Ana>")
	assert.Contains(t, page, "Say one of the two, &lt;Ana&gt;")
	assert.Contains(t, page, "How well, &lt;Ana&gt;?")
	page = s.send(s.open(), "a.how", "other", "a.how.other", "By swan", "a.why", "o", "a.why", "a", "a.why.other",
		"Because",
		"a.menu", "o", "a.menu.other", "m",
		"a.well", "4", "a.order.at.0", "2:x", "a.order.at.1", "3:y", "a.order.at.2", "1:z",
		"a.meals.friday", "", "a.meals.friday", "fish", "a.meals.sunday", "", "a.meals.sunday", "veg",
		"a.tools.one", "", "a.tools.one", "b", "a.tools.one", "a")
	assert.Contains(t, page, "Thank you")
	for _, said := range []string{"Otherwise: By swan", "a, o: Because", "z, x, y", "Friday: fish", "Sunday: veg"} {
		assert.Contains(t, page, said)
	}
	assert.Equal(t, map[string]any{
		"how":  map[string]any{"value": "other", "text": "By swan"},
		"why":  []any{"a", map[string]any{"value": "o", "text": "Because"}},
		"menu": map[string]any{"value": "o", "text": "m"}, "well": 4.0, "order": []any{"z", "x", "y"},
		"meals": map[string]any{"friday": "fish", "sunday": "veg"}, "tools": map[string]any{"one": []any{"a", "b"}},
	}, s.newest())

	// A live change brings a label that names an answer, and a row of a grid.
	_, page = s.get("/f/more-controls")
	v := seenFields(page)
	v.Set("a.who", "Bo")
	v.Set("a.well", "5")
	_, live := s.post("/f/more-controls/live", v)
	assert.Contains(t, live, "How well, Bo?")
	assert.Contains(t, live, "Sunday")
	assert.NotContains(t, live, "u-a-how")
}

// The words of a scale and the rows of a grid change with the answer that they name.
func TestEveryWordIsLive(t *testing.T) {
	five := form.BoundOf(5)
	f := published(t, &form.Form{Lazo: 1, Key: "live-words", Title: "Live words", Timezone: "UTC",
		Pages: []*form.Page{{Key: "p",
			Sections: []*form.Section{{Key: "s", Items: []*form.Item{
				{Key: "boat", Type: form.Text, Label: "Boat"},
				{Key: "well", Type: form.Scale, Label: "How well?", Max: five, Low: "{boat} sank", High: "{boat} flew"},
				{Key: "meals", Type: form.Grid, Label: "Meals", Choices: []form.Choice{{Value: "fish", Label: "Fish"}},
					Rows: []form.GridRow{{Key: "first", Label: "On {boat}"}}}}}}}}})
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	assert.NotContains(t, page, "{boat}")
	v := seenFields(page)
	v.Set("a.boat", "Swan")
	_, live := c.post("/f/"+f.Address+"/live", v)
	assert.Contains(t, live, "Swan sank")
	assert.Contains(t, live, "Swan flew")
	assert.Contains(t, live, "On Swan")
	v.Set("_digest", regexp.MustCompile(`name="_digest" value="([^"]*)"`).FindStringSubmatch(live)[1])
	v.Set("a.boat", "Teal")
	_, live = c.post("/f/"+f.Address+"/live", v)
	assert.Contains(t, live, "Teal sank")
	assert.Contains(t, live, "On Teal")
}

// A label and its help may have links to read; an answer in them is never one.
func TestLinksInLabelsAndHelp(t *testing.T) {
	def := &form.Form{Lazo: 1, Key: "with-links", Title: "With links", Timezone: "UTC", Pages: []*form.Page{{Key: "p",
		Sections: []*form.Section{{Key: "s", Items: []*form.Item{
			{Key: "name", Type: form.Text, Label: "Name", Value: &form.Value{Starts: `"[free](https://evil.example)"`}},
			{Key: "terms", Type: form.Tick, Required: form.Always,
				Label: "I accept the [terms](https://pedralta.example/terms), {name}",
				Help:  "Or [write to us](mailto:office@pedralta.example)"}}}}}}}
	f := published(t, def)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	assert.Contains(t, page, `<a href="https://pedralta.example/terms" target="_blank" rel="noopener">terms</a>, [free](https://evil.example)`)
	assert.Contains(t, page, `<a href="mailto:office@pedralta.example" target="_blank" rel="noopener">write to us</a>`)
	assert.NotContains(t, page, `href="https://evil.example`)
	v := fields(page)
	v.Set("_do", "send")
	_, page = c.post("/f/"+f.Address, v)
	assert.Contains(t, page, "I accept the terms, [free](https://evil.example)</a>: Please tick",
		"the summary has no second link")
}
