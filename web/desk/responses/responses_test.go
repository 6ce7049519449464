package responses_test

import (
	"context"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestResponses(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{{Name: "none", Path: "responses", SaysNot: []string{"Eight"}}})
	v.Receive(`{"boat": "eight", "cox": "=cmd()", "length": 17}`)
	v.Receive(`{"boat": "single"}`)
	list, err := v.In().Responses(context.Background(), 0, 10)
	require.NoError(t, err)
	eight := list[1].ID
	v.Try([]desktest.Case{
		{Name: "two", Path: "responses", Says: []string{"Eight", "Single"}},
		{Name: "a page that is not there", Path: "responses?page=99", Says: []string{"Eight"}},
		{Name: "one", Path: "responses/" + eight, Says: []string{"Eight", "=cmd()", "17"}},
		{Name: "no such response", Path: "responses/00000000-0000-0000-0000-000000000000", Status: 404},
		{Name: "no id", Path: "responses/x", Status: 404},
		{Name: "no such file", Path: "responses/" + eight + "/files/00000000-0000-0000-0000-000000000000", Status: 404},
		{Name: "as CSV", Path: "responses.csv", Says: []string{"eight", "'=cmd()"}, SaysNot: []string{",=cmd()"}},
		{Name: "deleted without being sure", Path: "responses/" + eight + "/delete", Post: desktest.Fields(), Says: []string{"Eight"}},
		{Name: "deleted", Path: "responses/" + eight + "/delete", Post: desktest.Fields("sure", "1"), SaysNot: []string{"Eight"}},
		{Name: "and gone", Path: "responses/" + eight, Status: 404},
	})
}
