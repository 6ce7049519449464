package links_test

import (
	"context"
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/require"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestLinks(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "parameters first", Path: "edit",
			Post: desktest.Fields("do", "parameters", "value", "club = Partner club\nsource")},
		{Name: "published", Path: "publish", Post: desktest.Fields()},
		{Name: "none yet", Path: "links", Says: []string{"Partner club"}},
		{Name: "a link without a name", Path: "links", Post: desktest.Fields("name", " "), Status: 422},
		{Name: "a link", Path: "links", Post: desktest.Fields("name", "Letter to Lago", "p.club", "Lago"),
			Says: []string{"Letter to Lago", "club=Lago"}},
		{Name: "no CSV", Path: "links/many", Post: desktest.Fields("csv", ""), Status: 422,
			Says: []string{"The first line names the columns"}},
		{Name: "a column that is no parameter", Path: "links/many", Post: desktest.Fields("csv", "name,pier\nA,North"),
			Status: 422, Says: []string{"There is no parameter “pier”"}},
		{Name: "a line without a name", Path: "links/many", Post: desktest.Fields("csv", "name,club\n,Lago"), Status: 422,
			Says: []string{"Line 2 has no name"}},
		{Name: "many", Path: "links/many", Post: desktest.Fields("csv", "name,club\nNorth,N\nSouth,S"),
			Says: []string{"North",
				"South", "club=S"}},
		{Name: "an address checked", Path: "links?address=http://x.example/f/entry?clubb=Lago", Says: []string{"clubb"}},
		{Name: "no such link", Path: "links/999999/delete", Post: desktest.Fields(), Status: 404},
		{Name: "no such kind", Path: "links/1/code.gif", Status: 404},
	})
}

// What the form knows for a parameter is picked by its label, several at once where several
// can be answered; and visits are a small line.
func TestValuesOfLinksArePicked(t *testing.T) {
	v := desktest.Visit(t, `{"key": "boat", "type": "choice", "label": "Boat", "value": {"starts": "url.class"},
			"choices": [{"value": "single", "label": "Single scull"}, {"value": "eight", "label": "Eight"}]},
		{"key": "topics", "type": "choices", "label": "Topics", "value": {"starts": "url.about"},
			"choices": [{"value": "results", "label": "The results"}, {"value": "weather", "label": "The weather"}]}`)
	v.Try([]desktest.Case{
		{Name: "parameters", Path: "edit",
			Post: desktest.Fields("do", "parameters", "value", "class = Boat class\nabout\nsource")},
		{Name: "published", Path: "publish", Post: desktest.Fields()},
		{Name: "a menu, boxes and a text", Path: "links", Says: []string{`<option value="single">Single scull</option>`,
			`type="checkbox" name="p.about" value="results"`, `id="p-source"`}},
		{Name: "several", Path: "links",
			Post: desktest.Fields("name", "Both", "p.class", "eight", "p.about", "results", "p.about", "weather"),
			Says: []string{"about=results&amp;about=weather&amp;class=eight"}, SaysNot: []string{"Visits by the day"}},
		{Name: "good and bad", Path: "links?address=" + url.QueryEscape("?about=results&about=wether&class=eight"),
			Says: []string{"wether"}},
	})
	list, err := v.InForm().Links(context.Background())
	require.NoError(t, err)
	for range 3 {
		status, _ := v.Get("/l/" + list[0].Code)
		require.Equal(t, 200, status)
	}
	v.Try([]desktest.Case{{Name: "visits", Path: "links",
		Says: []string{"Visits by the day", `<rect x="29" y="0" width=".8" height="16"/>`}}})
}
