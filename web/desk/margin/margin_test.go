package margin_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/author"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web/desk/margin"
)

const regatta = `{"key": "entry", "title": "Entry", "pages": [
	{"key": "boat", "title": "The boat", "next": [{"when": "club = \"none\"", "page": "end"}], "sections": [
		{"key": "hull", "items": [
			{"key": "club", "type": "choice", "label": "Club", "required": true,
				"choices": [{"value": "teal", "label": "Teal Rowers"}, {"value": "none", "label": "None"}]},
			{"key": "length", "type": "number", "label": "Length", "value": {"starts": "12"}, "max": "if(club = \"teal\", 20, 12)"},
			{"key": "crane", "type": "yes_no", "label": "Crane", "shown": "length > 12 and club != \"none\"", "required": "length > 20",
				"checks": [{"ok": "crane or length < 30", "message": "Too long"}],
				"wording": [{"when": "length > 18", "label": "A large crane"}]},
			{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "length * 4"}}]},
		{"key": "crew", "shown": "club = \"teal\"", "repeat": {"max": 4, "name": "Rower", "rows": "length"}, "items": [
			{"key": "born", "type": "date", "label": "Born"}]}]},
	{"key": "end", "sections": [{"key": "s", "items": [{"key": "word", "type": "text", "label": "A word"}]}]}]}`

func marginOf(t *testing.T) (*form.Form, *margin.Margin) {
	def, remarks := form.Read([]byte(regatta))
	require.NotNil(t, def, remarks)
	day, _ := expr.ParseDay("2026-05-02")
	return def, &margin.Margin{Def: def, Syms: def.Symbols(), Today: day}
}

// lines are ties as people read them in the margin.
func lines(ties []margin.Line) []string {
	var out []string
	for _, l := range ties {
		out = append(out, strings.TrimSpace(l.Kind+": "+l.Lead+expr.PiecesText(l.Pieces)+" "+l.Faulty)+" ["+l.Sources+"]")
	}
	return out
}

func TestLines(t *testing.T) {
	def, m := marginOf(t)
	item := func(key string) []margin.Line { p, _ := def.Find(key); return m.ItemTies(p.Item) }
	_, crew := def.Section("crew")
	for name, try := range map[string]struct {
		ties []margin.Line
		want []string
	}{
		"always required": {item("club"), nil},
		"a value and a bound": {item("length"), []string{
			"value: Starts as 12 []", "check: At most 20 if Club is Teal Rowers, otherwise 12 [club]"}},
		"all kinds": {item("crane"), []string{
			"shown: Shown when Length is over 12 and Club is not None [length club]",
			"required: Required when Length is over 20 [length]",
			"check: Accepted when Crane is yes or Length is under 30 [crane length]",
			"wording: Worded “A large crane” when Length is over 18 [length]"}},
		"computed": {item("fee"), []string{"value: Always is Length × 4 [length]"}},
		"of rows":  {item("born"), nil},
		"of a section": {m.SectionTies(crew), []string{
			"shown: Shown when Club is Teal Rowers [club]", "value: As many rows as Length [length]"}},
		"of a page":        {m.PageTies(def.Pages[0]), []string{"route: Then Page 2 when Club is None [club]"}},
		"of the last page": {m.PageTies(def.Pages[1]), nil},
	} {
		assert.Equal(t, try.want, lines(try.ties), name)
	}
	assert.Equal(t, 10, m.Ties, "all lines are counted")
}

func TestEditors(t *testing.T) {
	def, m := marginOf(t)
	crane, _ := def.Find("crane")
	m.Write = "required"
	all := map[string]*margin.Editor{}
	for _, e := range m.Editors(crane.Item) {
		all[e.Property] = e
	}
	shown := all["shown"]
	require.NotNil(t, shown)
	assert.Equal(t, "when", shown.State)
	assert.False(t, shown.Written)
	require.True(t, shown.Root.Group())
	require.Len(t, shown.Root.Parts, 2)
	second := shown.Root.Parts[1].Clause
	assert.Equal(t, "Club", second.Label)
	assert.Len(t, second.Options, 2, "its choices can be picked")
	assert.True(t, all["required"].Written, "as it was asked for")
	assert.Equal(t, "Length is over 20", all["required"].Reads)
	assert.Equal(t, "Too long", all["checks.0.ok"].Texts[0].Value)
	assert.Equal(t, "A large crane", all["wording.0.when"].Texts[0].Value)

	// What was not taken stays in its field, with what is wrong about it.
	m.Fault = &author.Fault{Owner: "crane", Property: "shown", Source: "length >", Text: "the expression ends"}
	m.Write = ""
	for _, e := range m.Editors(crane.Item) {
		if e.Property == "shown" {
			assert.Equal(t, "length >", e.Source)
			assert.Equal(t, "the expression ends", e.Fault)
		}
	}
	_, crew := def.Section("crew")
	m.Fault = nil
	assert.Equal(t, "Length", m.RowsEditor(crew).Reads)
}

func TestValues(t *testing.T) {
	def, m := marginOf(t)
	for key, want := range map[string]struct{ how, from, fixed string }{
		"length": {"starts", "fixed", "12"}, "fee": {"is", "written", ""}, "club": {"", "fixed", ""},
	} {
		p, _ := def.Find(key)
		for _, e := range m.Editors(p.Item) {
			if e.Value != nil {
				assert.Equal(t, want, struct{ how, from, fixed string }{e.Value.How, e.Value.From, e.Value.Fixed}, key)
			}
		}
	}
	p, _ := def.Find("length")
	var can []string
	for _, o := range margin.Addable(p.Item) {
		can = append(can, o.Label)
	}
	assert.Equal(t, []string{"Locked", "Checked", "Reworded"}, can, "its value is there already")
}
