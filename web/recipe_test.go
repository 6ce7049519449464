//go:build recipe

// These are about what docs/adding.md adds as examples, which is not in the program but while
// [TestTheRecipesOfTheDocs] builds it with them.

package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
)

// A type that the program has never heard of is a row of a table, and goes all the way: it is
// read, offered, tied, printed, answered, stored and exported.
func TestATypeIsAddedByItsRow(t *testing.T) {
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "hulls", "title": "Hulls", "timezone": "UTC", "pages": [
		{"key": "p", "sections": [{"key": "s", "items": [
			{"key": "hull", "type": "colour", "label": "Colour of the hull", "required": true,
				"checks": [{"ok": "hull != \"pink\"", "message": "Not pink."}]},
			{"key": "why", "type": "paragraph", "label": "Why", "shown": "hull starts with \"r\""}]}]}]}`))
	require.Empty(t, remarks)
	_, remarks = engine.Compile(def)
	require.Empty(t, remarks)
	assert.Contains(t, string(form.Schema()), `"colour"`)
	f := published(t, def)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	assert.Contains(t, page, "Colour of the hull")
	_, said := c.post("/f/"+f.Address, with(fields(page), "a.hull", "pink", "_do", "send"))
	assert.Contains(t, said, "Not pink.")
	status, said := c.post("/f/"+f.Address, with(fields(page), "a.hull", "red", "a.why", "It is quick", "_do", "send"))
	assert.Equal(t, http.StatusOK, status, said)
	_, answers := last(t, f)
	assert.Equal(t, map[string]any{"hull": "red", "why": "It is quick"}, answers)

	desk := newClient(t).signIn()
	base := fmt.Sprintf("/forms/%d", f.ID)
	_, said = desk.get(base + "?at=why")
	assert.Contains(t, said, `<option value="colour">colour</option>`)
	_, said = desk.get(base + "/responses.csv")
	assert.Contains(t, said, "red")
	status, said = desk.post(base+"/edit", url.Values{
		"version": {draftVersion(t, f)}, "do": {"set"}, "key": {"hull"}, "property": {"type"}, "value": {"number"},
	})
	assert.Equal(t, http.StatusOK, status, said)
}

// A property is a row too: it is set, kept, compared, dropped and shown.
func TestAPropertyIsAddedByItsRow(t *testing.T) {
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "names", "title": "Names", "timezone": "UTC", "pages": [
		{"key": "p", "sections": [{"key": "s", "items": [{"key": "name", "type": "text", "label": "Boat’s name"}]}]}]}`))
	require.Empty(t, remarks)
	assert.Contains(t, string(form.Schema()), `"unspelt"`)
	f := published(t, def)
	desk := newClient(t).signIn()
	base := fmt.Sprintf("/forms/%d", f.ID)
	_, said := desk.get(base + "?at=name")
	assert.Contains(t, said, "has its spelling left alone")
	set := func(property, value string) string {
		status, said := desk.post(base+"/edit", url.Values{
			"version": {draftVersion(t, f)}, "do": {"set"}, "key": {"name"}, "property": {property}, "value": {value},
		})
		require.Equal(t, http.StatusOK, status, said)
		return said
	}
	set("unspelt", "1")
	_, said = desk.get(base + "/publish")
	assert.Contains(t, said, "the spelling")
	draft, remarks := form.Read([]byte(strings.Replace(string(def.JSON()), `"type": "text"`,
		`"type": "text", "unspelt": true`, 1)))
	require.Empty(t, remarks)
	_, page := newClient(t).get("/f/" + published(t, draft).Address)
	assert.Contains(t, page, `spellcheck="false"`)
	assert.Contains(t, set("type", "number"), "has its spelling left alone")
	assert.NotContains(t, set("type", "note"), "has its spelling left alone")
	assert.NotContains(t, set("type", "text"), `value="1" checked`, "it was dropped")
}

// A function is a row, and means what its row says.
func TestAFunctionIsAddedByItsRow(t *testing.T) {
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "k", "title": "T", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "name", "type": "text", "label": "Name"},
		{"key": "long", "type": "calculation", "label": "Long", "value": {"is": "letters(name) * 2"}}]}]}]}`))
	require.Empty(t, remarks)
	p, remarks := engine.Compile(def)
	require.NotNil(t, p, remarks)
	out := p.Run(engine.Input{Answers: p.Answers(map[string]any{"name": "Ana"})})
	assert.Equal(t, "6", fmt.Sprint(out.Stored()["long"]))
	_, list := def.Symbols().Complete("lett", 4)
	assert.Contains(t, list[0].Says, "letters(text), such as ")
	def.Pages[0].Sections[0].Items[1].Value.Is = "letters(name, name)"
	_, remarks = engine.Compile(def)
	require.NotEmpty(t, remarks)
	assert.Contains(t, remarks[0].Text, "letters is written letters(text)")
}
