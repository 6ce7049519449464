package summary_test

import (
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

func TestWhatResponsesSayAllTogether(t *testing.T) {
	v := desktest.Visit(t, `{"key": "boat", "type": "choice", "label": "Boat class",
		"choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
		{"key": "name", "type": "text", "label": "Your name"}, {"key": "length", "type": "number", "label": "Length in metres"},
		{"key": "called", "type": "tick", "label": "Called", "staff": true}`)
	v.Try([]desktest.Case{
		{Name: "of none", Path: "responses/summary", Says: []string{"No response to sum up"}},
		{Name: "no sheet", Path: "responses/sheets", Says: []string{"There is no response to print"}},
	})
	v.Receive(`{"boat": "eight", "name": "Ana", "length": 17}`)
	v.Receive(`{"boat": "single", "name": "=Bo()", "length": 8}`)
	v.Receive(`{"boat": "single", "name": "Ciro", "length": 9}`)
	long := url.QueryEscape("length > 16")
	v.Try([]desktest.Case{
		{Name: "summed up", Path: "responses/summary", Says: []string{"Boat class", "Single", "67 %", "on average 11.33"}},
		{Name: "crossed", Path: "responses/summary?of=boat&by=called", Says: []string{"Yes", "<td"}},
		{Name: "as a picture", Path: "responses/summary/boat/picture.svg", Says: []string{"<svg", "Single"}},
		{Name: "by no link", Path: "responses/summary/response.link/picture.svg", Status: 404},
		{Name: "of no question", Path: "responses/summary/gone/picture.svg", Status: 404},
		{Name: "out", Path: "responses/out", Says: []string{"NDJSON"}},
		{Name: "CSV of the view", Path: "responses/as.csv?when=" + long, Says: []string{"Ana"}, SaysNot: []string{"Ciro"}},
		{Name: "NDJSON", Path: "responses/as.ndjson", Says: []string{`"name":"=Bo()"`}},
		{Name: "in no such format", Path: "responses/as.doc", Status: 404},
		{Name: "JSON Schema", Path: "responses/schema.json", Says: []string{"json-schema.org", `"length"`}},
		{Name: "sheets", Path: "responses/sheets?when=" + long, Says: []string{"Ana"}, SaysNot: []string{"Ciro"}},
		{Name: "of a condition that can't be read", Path: "responses/summary?when=length+%3E", Says: []string{"can’t be read"}},
		{Name: "out by such a one", Path: "responses/as.csv?when=length+%3E", Status: 404},
	})
	_, body := v.Get(v.Base + "/responses/as.xlsx")
	sheets, err := exchange.ReadSheets([]byte(body))
	require.NoError(t, err)
	assert.Equal(t, "Responses", sheets[0].Name)
	assert.Len(t, sheets[0].Cells, 4)
}
