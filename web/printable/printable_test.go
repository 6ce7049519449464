package printable_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/web/printable"
	"lazo/web/wording"
)

func printed(t *testing.T, head, items string) printable.Form {
	t.Helper()
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "entry", "title": "Entry", "timezone": "UTC"` + head + `, "pages": [{"key": "p", "sections": [
		{"key": "s", "title": "Hull", "items": [` + items + `]},
		{"key": "rowers", "title": "Rowers", "repeat": {"max": 8}, "shown": "boat = \"eight\"", "items": [{"key": "name", "type": "text", "label": "Name"}]}]}]}`))
	require.NotNil(t, p, remarks)
	return printable.Of(p, p.Run(engine.Input{At: time.Now(), Mode: engine.New}), wording.For(p.Form.Language))
}

const boat = `{"key": "boat", "type": "choice", "look": "menu", "label": "Boat class", "required": true,
	"choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]}`

// Everything that is asked stands on the paper, what is asked of some with its condition.
func TestAFormOnPaper(t *testing.T) {
	f := printed(t, "", boat+`,
		{"key": "cox", "type": "yes_no", "label": "Cox", "shown": "boat = \"eight\""},
		{"key": "agreed", "type": "tick", "label": "I agree"},
		{"key": "how", "type": "scale", "label": "How was it", "low": "bad", "high": "good", "max": 3},
		{"key": "meals", "type": "grid", "label": "Meals", "rows": [{"key": "fri", "label": "Friday"}], "choices": [{"value": "veg", "label": "Vegetarian"}]},
		{"key": "home", "type": "address", "label": "Address"}, {"key": "sign", "type": "signature", "label": "Signed"},
		{"key": "order", "type": "ranking", "label": "Order", "choices": [{"value": "a", "label": "A"}, {"value": "b", "label": "B"}]},
		{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "3"}}, {"key": "office", "type": "text", "label": "Paid", "staff": true},
		{"key": "gone", "type": "text", "label": "Gone", "shown": false}`)
	var got []string
	for _, it := range f.Pages[0].Sections[0].Items {
		got = append(got, fmt.Sprintf("%s|%s|%s|%s", it.Label, it.Kind, strings.Join(it.Choices, ","), it.When))
	}
	assert.Equal(t, []string{
		"Boat class|boxes|Single,Eight|", "Cox|boxes|Yes,No|Only if Boat class is Eight", "|boxes|I agree|",
		"How was it|numbers|1,2,3|",
		"Meals|grid|Vegetarian|", "Address|parts|Street and number,Further line,Town,Region,Postcode,Country|",
		"Signed|sign||", "Order|order|A,B|",
	}, got)
	rowers := f.Pages[0].Sections[1]
	assert.Len(t, rowers.Rows, 8)
	assert.Equal(t, "Only if Boat class is Eight", rowers.When)
	assert.True(t, f.Pages[0].Sections[0].Items[0].Needed)
}

func TestPaperInAnotherLanguage(t *testing.T) {
	f := printed(t, `, "language": "es"`,
		boat+`, {"key": "cox", "type": "yes_no", "label": "Timonel", "shown": "boat = \"eight\""}`)
	cox := f.Pages[0].Sections[0].Items[1]
	assert.Equal(t, "Sí,No", strings.Join(cox.Choices, ","))
	assert.Contains(t, cox.When, "Solo para algunas personas")
}

// A list of hundreds is a line to write on.
func TestHundredsAreALine(t *testing.T) {
	var choices []string
	for i := range 200 {
		choices = append(choices, fmt.Sprintf(`{"value": "c%d", "label": "Club %d"}`, i, i))
	}
	f := printed(t, "", boat+`, {"key": "club", "type": "choice", "label": "Club", "choices": [`+strings.Join(choices,
		",")+`]}`)
	club := f.Pages[0].Sections[0].Items[1]
	assert.Equal(t, "line", club.Kind)
	assert.Equal(t, 200, club.Left)
}

// Every type of question has room for its answer.
func TestEveryTypeIsPrinted(t *testing.T) {
	for _, ty := range form.Types() {
		if ty.Type.Computed() {
			continue
		}
		f := printed(t, "", boat+fmt.Sprintf(`, {"key": "one", "type": %q, "label": "One"}`, ty.Type))
		assert.NotEmpty(t, f.Pages[0].Sections[0].Items[1].Kind, ty.Type)
	}
}
