package workspace_test

import (
	"os"
	"strings"
	"testing"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestPicturesOfOtherSites(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "none", Path: "/workspace", Says: []string{"No site is allowed"}},
		{Name: "no site", Path: "/workspace/pictures", Post: desktest.Fields("site", "maps"), Status: 422,
			Says: []string{"This is no site", `value="maps"`}},
		{Name: "a site", Path: "/workspace/pictures", Post: desktest.Fields("site", "https://Maps.example/a.png", "to",
			"/workspace"), Says: []string{"https://maps.example<"}},
		{Name: "the same again", Path: "/workspace/pictures", Post: desktest.Fields("site", "https://maps.example", "to",
			"/workspace"), Says: []string{"https://maps.example<"}},
		{Name: "elsewhere", Path: "/workspace/pictures", Post: desktest.Fields("site", "https://b.example", "to",
			"https://evil.example"), Says: []string{"Forms"}},
		{Name: "taken back", Path: "/workspace/pictures/forbid", Post: desktest.Fields("site", "https://maps.example"),
			SaysNot: []string{"https://maps.example<"}},
	})
}

// What the workspace says of itself stands above its forms.
func TestANoteAboveTheForms(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Name"}`)
	v.Try([]desktest.Case{
		{Name: "none", Path: "/forms", SaysNot: []string{"About this workspace"}},
		{Name: "set", Path: "/workspace/note", Post: desktest.Fields("note", "Ask **Ana** <b>first</b>."),
			Says: []string{"Ask **Ana**"}},
		{Name: "above the forms", Path: "/forms", Says: []string{"About this workspace", "<strong>Ana</strong>"},
			SaysNot: []string{"<b>first"}},
		{Name: "too long", Path: "/workspace/note", Post: desktest.Fields("note", strings.Repeat("x", 4001)), Status: 422,
			Says: []string{"too long"}},
		{Name: "taken away", Path: "/workspace/note", Post: desktest.Fields("note", " "), SaysNot: []string{"<strong>Ana"}},
	})
}
