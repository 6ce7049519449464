package forms_test

import (
	"context"
	"fmt"
	"html"
	"net/url"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
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
		{Name: "a new form", Path: "/forms", Post: desktest.Fields("title", "Bulletin"),
			Says: []string{"Bulletin", "Not published yet"}},
		{Name: "a copy", Path: "duplicate", Post: desktest.Fields(), Says: []string{"Copy of Entry"}},
		{Name: "found by its title", Path: "/forms?find=ENTRY&by=title", Says: []string{"Copy of Entry"},
			SaysNot: []string{">Bulletin<"}},
		{Name: "none of that title", Path: "/forms?find=zebra", Says: []string{"No form here is called “zebra”"}},
		{Name: "on a shelf", Path: "shelf", Post: desktest.Fields("shelf", "Of 2026"),
			Says: []string{"Of 2026", "On no shelf"}},
		{Name: "found by its shelf", Path: "/forms?find=2026", Says: []string{">Entry<"}, SaysNot: []string{"Copy of Entry"}},
		{Name: "on one with too long a name", Path: "shelf", Post: desktest.Fields("shelf", strings.Repeat("x", 61)),
			Status: 422,
			Says:   []string{"at most 60"}},
		{Name: "set aside", Path: "aside", Post: desktest.Fields("aside", "1"), Says: []string{"Set aside (1)"},
			SaysNot: []string{">Entry<"}},
		{Name: "those aside", Path: "/forms?aside=1", Says: []string{">Entry<"}},
		{Name: "what can be done with it", Path: "more", Says: []string{"Put back", "Duplicate"}},
		{Name: "put back", Path: "aside", Post: desktest.Fields(), Says: []string{">Entry<"}},
		{Name: "the samples", Path: "/samples?search=crew", Says: []string{"Crew entry"}},
		{Name: "no sample of that name", Path: "/samples", Post: desktest.Fields("sample", "nobody"), Status: 404},
		{Name: "from a sample", Path: "/samples", Post: desktest.Fields("sample", "crew-entry"),
			Says: []string{"Crew entry"}},
		{Name: "the file", Path: "file", Says: []string{`"key": "boat"`}},
		{Name: "a new season", Path: "season", Says: []string{"Entry, new season"}},
		{Name: "a season without a title", Path: "season", Post: desktest.Fields("title", ""), Status: 422,
			Says: []string{"A form needs a title"}},
		{Name: "the next season", Path: "season", Post: desktest.Fields("title", "Entry 2027"), Says: []string{"Entry 2027",
			"Not published yet"}},
		{Name: "asked before it is deleted", Path: "delete", Says: []string{"Delete “Entry”?"}},
		{Name: "the wrong title", Path: "delete", Post: desktest.Fields("title", "Entri"), Status: 422,
			Says: []string{"nothing was deleted"}},
		{Name: "deleted", Path: "delete", Post: desktest.Fields("title", "Entry"), SaysNot: []string{v.Base + `"`}},
		{Name: "and gone", Path: "", Status: 404},
	})
}

var posted = regexp.MustCompile(`name="(version|edit)" value="([^"]*)"`)

func TestASpreadsheetGoesOutAndComesBack(t *testing.T) {
	v := desktest.Visit(t, items)
	status, out := v.Get(v.Base + "/sheet.csv?ties=sentences")
	require.Equal(t, 200, status)
	require.Contains(t, out, "Boat class is Eight")
	_, page := v.Upload(v.Base+"/sheet", "entry.csv", []byte(out))
	assert.Contains(t, page, "it says what the draft says")

	changed := strings.Replace(out, "Length in metres", "Length over all", 1)
	changed = strings.Replace(changed, "Boat class is Eight", "Boat class is Single", 1)
	_, page = v.Upload(v.Base+"/sheet", "entry.csv", []byte(changed))
	assert.Contains(t, page, "2 changes")
	assert.Contains(t, page, "Length over all")
	before, _ := v.Draft()
	fields := url.Values{}
	for _, m := range posted.FindAllStringSubmatch(page, -1) {
		fields.Set(m[1], html.UnescapeString(m[2]))
	}
	status, _ = v.Post(v.Base+"/sheet/take", fields)
	require.Equal(t, 200, status)
	after, version := v.Draft()
	p, _ := after.Find("cox")
	assert.Equal(t, `boat = "single"`, p.Item.Shown.Expr)
	status, _ = v.Post(v.Base+"/sheet/take", fields)
	assert.Equal(t, 200, status, "pressed twice is done once")
	v.Post(v.Base+"/edit", desktest.Fields("do", "undo", "version", version))
	undone, _ := v.Draft()
	assert.Equal(t, string(before.JSON()), string(undone.JSON()), "undone as one")

	status, page = v.Upload(v.Base+"/sheet", "entry.csv",
		[]byte(strings.Replace(out, "Boat class is Eight", "Boat class is blue", 1)))
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "neither the language nor a sentence")
	status, page = v.Upload(v.Base+"/sheet", "entry.xlsx", []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"))
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "password")
}

func TestAFormBeginsWithASpreadsheet(t *testing.T) {
	v := desktest.Visit(t, items)
	_, page := v.Upload("/import", "Harbour dues.csv",
		[]byte("Page;Question;Type;Shown when\nBoat;Boat class;one choice;\n;Length;number;\n;Why so long?;;Length is over 12\n"))
	assert.Contains(t, page, "Harbour dues")
	assert.Contains(t, page, "Why so long?")
	// A draft that is not finished is taken back as it was saved: what is wrong in it, too.
	unfinished := `{"lazo": 1, "key": "unfinished", "title": "Unfinished", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "metres", "type": "number", "label": "Metres", "shown": "metres >", "required": "gone = 1"},
		{"key": "cox", "type": "text", "label": "Cox", "shown": "metres >= …", "value": {"starts": "…"}}]}]}]}`
	_, back := v.Upload("/import", "unfinished.json", []byte(unfinished))
	_, saved := v.Get(strings.TrimSuffix(regexp.MustCompile(`/forms/\d+`).FindString(back), "/") + "/file")
	want, _ := form.Read([]byte(unfinished))
	def, _ := form.Read([]byte(saved))
	require.NotNil(t, def, saved)
	assert.Equal(t, string(want.JSON()), string(def.JSON()))
	status, page := v.Upload("/import", "bad.csv", []byte("Question;Type\nA;colour\n"))
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "<code>B2</code>")
	status, _ = v.Upload("/import", "", nil)
	assert.Equal(t, 422, status)
}

// A form goes to another workspace with its lists; what that has under the same key stays.
func TestAFormBringsItsLists(t *testing.T) {
	ctx := context.Background()
	v := desktest.Visit(t, `{"key": "pier", "type": "choice", "label": "Pier", "choices_from": {"list": "piers", "value": "code", "label": "name"}}`)
	table := form.Table{Columns: []form.Column{{Key: "code", Name: "Code", Type: "text"},
		{Key: "name", Name: "Pier", Type: "text"}},
		Entries: []form.Entry{{"code": "h", "name": "Heron"}}}
	_, err := v.Workspace().AddList(ctx, "piers", "Piers", table, v.Member(), "begun")
	require.NoError(t, err)
	_, err = v.InForm().Edit(ctx, v.Form.DraftVersion, v.Member(),
		form.SetProperty("", "lists", map[string]form.List{"piers": {Shared: "piers"}}))
	require.NoError(t, err)
	_, bare := v.Get(v.Base + "/file")
	assert.NotContains(t, bare, "Heron")
	_, file := v.Get(v.Base + "/file?lists=too")
	assert.Contains(t, file, "Heron")

	other := desktest.Visit(t, items)
	for range 2 {
		status, page := other.Upload("/import", "entry.json", []byte(file))
		require.Equal(t, 200, status)
		assert.Contains(t, page, "No remarks")
	}
	lists, err := other.Workspace().Lists(ctx)
	require.NoError(t, err)
	require.Len(t, lists, 1)
	assert.Equal(t, "Piers", lists[0].Name)
	status, page := other.Upload("/import", "entry.json", []byte(strings.Replace(file, `"code": "h"`, `"code": ""`, 1)))
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "A2: an entry needs a Code")
}

// Of very many forms the first ones are listed, and all if one wants.
func TestVeryManyForms(t *testing.T) {
	v := desktest.Visit(t, items)
	for i := range 205 {
		_, err := v.Workspace().CreateForm(context.Background(), &form.Form{
			Lazo: 1, Key: "many", Title: fmt.Sprintf("Many %03d", i), Timezone: "UTC",
			Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s"}}}},
		})
		require.NoError(t, err)
	}
	v.Try([]desktest.Case{
		{Name: "the first", Path: "/forms?by=title", Says: []string{"106 more are not listed here", "Many 098"},
			SaysNot: []string{"Many 204"}},
		{Name: "all", Path: "/forms?by=title&all=1", Says: []string{"Many 204"}, SaysNot: []string{"are not listed here"}},
		{Name: "found", Path: "/forms?find=204", Says: []string{"Many 204"}, SaysNot: []string{"are not listed here"}},
	})
}
