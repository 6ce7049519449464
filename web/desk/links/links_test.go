package links_test

import (
	"os"
	"testing"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestLinks(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "parameters first", Path: "edit", Post: desktest.Fields("do", "parameters", "value", "club = Partner club\nsource")},
		{Name: "published", Path: "publish", Post: desktest.Fields()},
		{Name: "none yet", Path: "links", Says: []string{"Partner club"}},
		{Name: "a link without a name", Path: "links", Post: desktest.Fields("name", " "), Status: 422},
		{Name: "a link", Path: "links", Post: desktest.Fields("name", "Letter to Lago", "p.club", "Lago"),
			Says: []string{"Letter to Lago", "club=Lago"}},
		{Name: "no CSV", Path: "links/many", Post: desktest.Fields("csv", ""), Status: 422, Says: []string{"The first line names the columns"}},
		{Name: "a column that is no parameter", Path: "links/many", Post: desktest.Fields("csv", "name,pier\nA,North"),
			Status: 422, Says: []string{"There is no parameter “pier”"}},
		{Name: "a line without a name", Path: "links/many", Post: desktest.Fields("csv", "name,club\n,Lago"), Status: 422,
			Says: []string{"Line 2 has no name"}},
		{Name: "many", Path: "links/many", Post: desktest.Fields("csv", "name,club\nNorth,N\nSouth,S"), Says: []string{"North",
			"South", "club=S"}},
		{Name: "an address checked", Path: "links?address=http://x.example/f/entry?clubb=Lago", Says: []string{"clubb"}},
		{Name: "no such link", Path: "links/999999/delete", Post: desktest.Fields(), Status: 404},
		{Name: "no such kind", Path: "links/1/code.gif", Status: 404},
	})
}
