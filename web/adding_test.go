package web_test

import (
	"fmt"
	"net/http"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
)

// A type that the program has never heard of is a row of a table, and goes all the way:
// it is read, offered, tied, printed, answered, stored and exported.
func TestATypeIsAddedByItsRow(t *testing.T) {
	remove := form.AddType(form.TypeRow{Type: "colour", Words: "colour", Kind: expr.Text,
		Has: []string{"required", "checks", "placeholder"}})
	defer remove()
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "hulls", "title": "Hulls", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "hull", "type": "colour", "label": "Colour of the hull", "required": true, "checks": [{"ok": "hull != \"pink\"", "message": "Not pink."}]},
		{"key": "why", "type": "paragraph", "label": "Why", "shown": "hull starts with \"r\""}]}]}]}`))
	require.Empty(t, remarks)
	_, remarks = engine.Compile(def)
	require.Empty(t, remarks)
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

// A function is a row too, and means what its row says.
func TestAFunctionIsAddedByItsRow(t *testing.T) {
	length, ok := expr.FunctionNamed("length")
	require.True(t, ok)
	length.Usage = "letters(text)"
	defer expr.AddFunction("letters", length)()
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
	_, remarks = engine.Compile(must(form.Read([]byte(strings.Replace(string(def.JSON()), "letters(name)",
		"letters(name, name)", 1)))))
	require.NotEmpty(t, remarks)
	assert.Contains(t, remarks[0].Text, "letters is written letters(text)")
}

func must(f *form.Form, _ []form.Remark) *form.Form { return f }

// docs/adding.md names the files in which something grows; all of them are there.
func TestTheFilesInWhichSomethingGrowsAreThere(t *testing.T) {
	text, err := os.ReadFile("../docs/adding.md")
	require.NoError(t, err)
	names := regexp.MustCompile("`([a-z_0-9/]+\\.(?:go|html|json|sql|md))`").FindAllStringSubmatch(string(text), -1)
	require.Greater(t, len(names), 15)
	for _, name := range names {
		assert.FileExists(t, "../"+name[1])
	}
}
