package public_test

import (
	"os"
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestInPublic(t *testing.T) {
	v := desktest.Visit(t, items)
	part := func(name string, pairs ...string) map[string][]string {
		return desktest.Fields(append([]string{"part", name}, pairs...)...)
	}
	v.Try([]desktest.Case{
		{Name: "as it is", Path: "public", Says: []string{"When it is open"}},
		{Name: "no such part", Path: "public", Post: part("paint"), Status: 422, Says: []string{"There is no part “paint”"}},
		{Name: "a limit", Path: "public", Post: part("opening", "limit", "77")},
		{Name: "a text alone leaves the limit", Path: "public", Post: part("opening", "after", "Too late."),
			Says: []string{`value="77"`, "Too late."}},
		{Name: "no number", Path: "public", Post: part("opening", "limit", "many"), Status: 422, Says: []string{"A whole number was expected"}},
		{Name: "hours without a time", Path: "public", Post: part("opening", "day", "MO"), Status: 422, Says: []string{"need a time"}},
		{Name: "no condition", Path: "public", Post: part("opening", "condition", "nobody = 1"), Status: 422,
			Says: []string{"there is no question"}},
		{Name: "on an older state", Path: "public", Post: part("opening", "limit", "5", "version", "1"), Status: 409,
			Says: []string{"changed meanwhile"}},
		{Name: "a colour that can't be read", Path: "public", Post: part("theme", "accent", "#ffff00"), Status: 422,
			Says: []string{"can’t be read well enough", "#7a7a00"}},
		{Name: "a colour", Path: "public", Post: part("theme", "accent", "#0e5a4a"), Says: []string{"#0e5a4a"}},
		{Name: "a guard", Path: "public", Post: part("sending", "question", "Which lake?", "answers", "Pedralta"), Says: []string{"Which lake?"}},
		{Name: "an end", Path: "public", Post: part("ends", "end", "Thank you.", "when", `boat = "eight"`, "text",
			"Bring a cox."), Says: []string{"Bring a cox."}},
		{Name: "no origin", Path: "public", Post: part("framing", "origins", "club.example"), Status: 422, Says: []string{"one is written like https://club.example"}},
		{Name: "no language", Path: "public", Post: part("languages", "language", "no language"), Status: 422, Says: []string{"is no language"}},
		{Name: "a language", Path: "public", Post: part("languages", "language", "es"), Says: []string{"Spanish"}},
		{Name: "its texts", Path: "languages/es", Says: []string{"Boat class"}},
		{Name: "translated", Path: "languages/es", Post: desktest.Fields("text", "Boat class", "said-0", "Clase"), Says: []string{"Clase"}},
		{Name: "another language", Path: "languages/ar", Status: 404},
	})
	def, _ := v.Draft()
	assert.Equal(t, 77, def.Opening.Limit)
	assert.Equal(t, "Clase", def.Translations["es"]["Boat class"])
}
