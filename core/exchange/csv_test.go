package exchange_test

import (
	"encoding/csv"
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/core/form"
)

func TestCSVIsSafeAndWhole(t *testing.T) {
	f := &form.Form{
		Timezone:   "America/Montevideo",
		Parameters: []form.Parameter{{Name: "club"}},
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{
			{Key: "s", Items: []*form.Item{{Key: "name", Type: form.Text}, {Key: "note", Type: form.Note},
				{Key: "weight", Type: form.Number}}},
			{Key: "rows", Repeat: &form.Repeat{}, Items: []*form.Item{{Key: "x", Type: form.ChoicesType}}}}}},
	}
	var b strings.Builder
	err := written(&b, exchange.NewTable([]*form.Form{f}, map[string]int{"rows": 2}),
		func(write func(exchange.Response) error) error {
			return write(
				exchange.Response{
					ID:         "1",
					Edition:    2,
					Received:   time.Date(2026, 5, 1, 2, 0, 0, 0, time.UTC),
					Parameters: map[string][]string{"club": {"@x"}},
					Answers: map[string]any{
						"name": "=cmd(\"x\")\nand, more", "weight": json.Number("-5"),
						"rows": []any{map[string]any{"x": []any{"a", "b"}}},
					},
				},
			)
		})
	require.NoError(t, err)
	assert.Equal(t, "\ufeffresponse,received,edition,name,weight,rows.1.x,rows.2.x,url.club\r\n"+
		"1,2026-04-30 23:00:00,2,\"'=cmd(\"\"x\"\")\r\nand, more\",-5,\"a, b\",,'@x\r\n", b.String())
}

// TestWhatASpreadsheetWouldRunIsText has cells that a spreadsheet takes for a formula
// once it has dropped what stands before.
func TestWhatASpreadsheetWouldRunIsText(t *testing.T) {
	f := &form.Form{
		Pages: []*form.Page{{Key: "p",
			Sections: []*form.Section{{Key: "s", Items: []*form.Item{{Key: "name", Type: form.Text}}}}}},
	}
	for text, want := range map[string]string{
		"=1+1": "'=1+1", "  =1+1": "'  =1+1", "\n=1+1": "'\n=1+1", "\r\n +1": "'\r\n +1", "\u00a0@x": "'\u00a0@x",
		"\u200b-x": "'\u200b-x", "＝1+1": "'＝1+1", "\tx": "'\tx",
		"a=1": "a=1", "  a": "  a", "": "", " ": " ", "5 + 5": "5 + 5",
	} {
		var b strings.Builder
		require.NoError(t, written(&b, exchange.NewTable([]*form.Form{f}, nil),
			func(write func(exchange.Response) error) error {
				return write(exchange.Response{Answers: map[string]any{"name": text}})
			}))
		rows, err := csv.NewReader(strings.NewReader(b.String())).ReadAll()
		require.NoError(t, err)
		assert.Equal(t, strings.ReplaceAll(want, "\r\n", "\n"), rows[1][3], "%q", text)
	}
}

// A grid has a column for each of its rows, and the text that a choice brings one of its own.
func TestColumnsOfGridsAndTexts(t *testing.T) {
	f := &form.Form{Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{
		{Key: "meals", Type: form.Grid, Rows: []form.GridRow{{Key: "friday"}, {Key: "sunday"}}},
		{Key: "how", Type: form.ChoiceType, Choices: []form.Choice{{Value: "bus"}, {Value: "o", Other: true}}},
		{Key: "why", Type: form.ChoicesType, Choices: []form.Choice{{Value: "a"}, {Value: "o", Other: true}}},
		{Key: "order", Type: form.Ranking}}}}}}}
	var b strings.Builder
	require.NoError(t, written(&b, exchange.NewTable([]*form.Form{f}, nil),
		func(write func(exchange.Response) error) error {
			return write(exchange.Response{ID: "1", Answers: map[string]any{
				"meals": map[string]any{"friday": "veg", "sunday": []any{"a", "b"}},
				"how":   map[string]any{"value": "o", "text": "=swan"},
				"why":   []any{"a", map[string]any{"value": "o", "text": "x"}}, "order": []any{"z", "y"}}})
		}))
	rows, err := csv.NewReader(strings.NewReader(strings.TrimPrefix(b.String(), "\ufeff"))).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"meals.friday", "meals.sunday", "how", "how.other", "why", "why.other", "order"}, rows[0][3:])
	assert.Equal(t, []string{"veg", "a, b", "o", "'=swan", "a, o", "x", "z, y"}, rows[1][3:])
}

// written writes responses with the pieces that a table asks for.
func written(b *strings.Builder, t *exchange.Table, each func(write func(exchange.Response) error) error) error {
	return t.CSV(b, func(write func(exchange.Response, [][]byte) error) error {
		return each(func(r exchange.Response) error {
			pieces, err := exchange.Cut(r.Answers, t.Pieces())
			if err != nil {
				return err
			}
			return write(r, pieces)
		})
	})
}
