package forms_test

import (
	"os"
	"testing"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestForms(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "the list", Path: "/forms", Says: []string{"Entry", "Edition 1 is live", "none"}},
		{Name: "a form without a title", Path: "/forms", Post: desktest.Fields("title", " "), Status: 422,
			Says: []string{"A form needs a title"}},
		{Name: "a new form", Path: "/forms", Post: desktest.Fields("title", "Bulletin"), Says: []string{"Bulletin", "Not published yet"}},
		{Name: "a copy", Path: "duplicate", Post: desktest.Fields(), Says: []string{"Copy of Entry"}},
		{Name: "the samples", Path: "/samples?search=crew", Says: []string{"Crew entry"}},
		{Name: "no sample of that name", Path: "/samples", Post: desktest.Fields("sample", "nobody"), Status: 404},
		{Name: "from a sample", Path: "/samples", Post: desktest.Fields("sample", "crew-entry"), Says: []string{"Crew entry"}},
		{Name: "the file", Path: "file", Says: []string{`"key": "boat"`}},
		{Name: "a new season", Path: "season", Says: []string{"Entry, new season"}},
		{Name: "a season without a title", Path: "season", Post: desktest.Fields("title", ""), Status: 422,
			Says: []string{"A form needs a title"}},
		{Name: "the next season", Path: "season", Post: desktest.Fields("title", "Entry 2027"), Says: []string{"Entry 2027",
			"Not published yet"}},
		{Name: "asked before it is deleted", Path: "delete", Says: []string{"Delete “Entry”?"}},
		{Name: "the wrong title", Path: "delete", Post: desktest.Fields("title", "Entri"), Status: 422, Says: []string{"nothing was deleted"}},
		{Name: "deleted", Path: "delete", Post: desktest.Fields("title", "Entry"), SaysNot: []string{v.Base + `"`}},
		{Name: "and gone", Path: "", Status: 404},
	})
}
