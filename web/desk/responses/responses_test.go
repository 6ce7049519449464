package responses_test

import (
	"context"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
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
	list, err := v.InForm().Responses(context.Background(), 0, 10)
	require.NoError(t, err)
	eight := list[1].ID
	v.Try([]desktest.Case{
		{Name: "two", Path: "responses", Says: []string{"Eight", "Single"}},
		{Name: "one", Path: "responses/" + eight, Says: []string{"Eight", "=cmd()", "17"}},
		{Name: "no such response", Path: "responses/00000000-0000-0000-0000-000000000000", Status: 404},
		{Name: "no id", Path: "responses/x", Status: 404},
		{Name: "no such file", Path: "responses/" + eight + "/files/00000000-0000-0000-0000-000000000000", Status: 404},
		{Name: "as CSV", Path: "responses.csv", Says: []string{"eight", "'=cmd()"}, SaysNot: []string{",=cmd()"}},
		{Name: "deleted without being sure", Path: "responses/" + eight + "/delete", Post: desktest.Fields(),
			Says: []string{"Eight"}},
		{Name: "deleted", Path: "responses/" + eight + "/delete", Post: desktest.Fields("sure", "1"),
			SaysNot: []string{"Eight"}},
		{Name: "and gone", Path: "responses/" + eight, Status: 404},
	})
}

// A list may change; what was picked from it reads as it did when it was stored.
func TestPicksReadAsTheyDid(t *testing.T) {
	v := desktest.Visit(t, `{"key": "pier", "type": "choice", "label": "Pier",
		"choices_from": {"list": "piers", "value": "code", "label": "name"}}`)
	ctx := context.Background()
	in := v.Workspace()
	table := form.Table{Columns: []form.Column{{Key: "code", Name: "Code", Type: "text"},
		{Key: "name", Name: "Name", Type: "text"}},
		Entries: []form.Entry{{"code": "h", "name": "Heron pier"}, {"code": "t", "name": "Teal pier"}}}
	l, err := in.AddList(ctx, "piers", "Piers", table, v.Member(), "begun")
	require.NoError(t, err)
	f, err := v.InForm().Edit(ctx, v.Form.DraftVersion, v.Member(),
		form.SetProperty("", "lists", map[string]form.List{"piers": {Shared: "piers"}}))
	require.NoError(t, err)
	_, err = v.InForm().Publish(ctx, f.DraftVersion, v.Member())
	require.NoError(t, err)
	_, page := v.Get("/f/" + f.Address)
	fields := desktest.Hidden(page)
	fields.Set("a.pier", "t")
	fields.Set("_do", "send")
	_, page = v.Post("/f/"+f.Address, fields)
	require.Contains(t, page, "Thank you")
	table.Entries = []form.Entry{{"code": "h", "name": "Heron jetty"}}
	_, err = in.SaveList(ctx, l.ID, 1, table, v.Member(), "cut")
	require.NoError(t, err)
	_, page = v.Get(v.Base + "/responses")
	assert.Contains(t, page, "Teal pier")
	one := regexp.MustCompile(`responses/[0-9a-f-]{36}`).FindString(page)
	_, page = v.Get(v.Base + "/" + one)
	assert.Contains(t, page, "Teal pier")
	assert.NotContains(t, page, "Heron")
}

// Columns are chosen, moved and made wide by pointing; the address that this leads to shows
// the same again.
func TestColumnsAreMoved(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Your name"}, {"key": "length", "type": "number", "label": "Length"}`)
	v.Receive(`{"name": "Ana", "length": 17}`)
	_, page := v.Get(v.Base + "/responses?col=name&col=length&width.name=wide&width.length=&move=length:-1")
	assert.Contains(t, page, "cols=length%2Cname~wide")
	assert.Less(t, strings.Index(page, ">Length"), strings.Index(page, ">Your name"))
	assert.Contains(t, page, "line-clamp-6")
	assert.Contains(t, page, `<details class="relative" open>`)
	_, page = v.Get(v.Base + "/responses?col=name&move=name:-1&move=length:9")
	assert.Contains(t, page, "cols=name&amp;")
	_, page = v.Post(v.Base+"/responses/views?cols=length,name~wide", desktest.Fields("name", "Wide"))
	assert.Contains(t, page, "Wide")
	assert.Contains(t, page, "line-clamp-6")
}

// A response is found by the reference that its receipt has, which its own page shows too.
func TestAResponseIsFoundByItsReference(t *testing.T) {
	v, ids := desktest.Entries(t)
	reference := store.Reference(ids["Ciro"])
	v.Try([]desktest.Case{
		{Name: "on its page", Path: "responses/" + ids["Ciro"], Says: []string{"Reference " + reference}},
		{Name: "found", Path: "responses?find=" + reference, Says: []string{ids["Ciro"]}, SaysNot: []string{ids["Ana"]}},
		{Name: "of nobody", Path: "responses?find=00000000", SaysNot: []string{ids["Ciro"], ids["Ana"]}},
	})
}

// A count that comes late has no place any more in a page that is looked at by another
// condition by then.
func TestACountBelongsToItsCondition(t *testing.T) {
	v, _ := desktest.Entries(t)
	id := regexp.MustCompile(`id="(count-[0-9a-f]+)"`)
	_, a := v.Get(v.Base + "/responses?find=Ana")
	_, b := v.Get(v.Base + "/responses?find=Ciro")
	assert.NotEqual(t, id.FindStringSubmatch(a)[1], id.FindStringSubmatch(b)[1])
}

// What many changes at once would send is said on the button, before anything is changed.
func TestManyAtOnceSayWhatTheySend(t *testing.T) {
	v, ids := desktest.Entries(t)
	ctx := t.Context()
	f, err := v.InForm().Get(ctx)
	require.NoError(t, err)
	f, err = v.InForm().Edit(ctx, f.DraftVersion, v.Member(), form.SetProperty("", "messages", []form.Message{{
		Key: "called", When: "called", To: []string{"crew@pedralta.example"}, Subject: "We have called", Body: "{name}"}}))
	require.NoError(t, err)
	_, err = v.InForm().Publish(ctx, f.DraftVersion, v.Member())
	require.NoError(t, err)
	two := desktest.Fields("set", "called", "value.called", "yes", "marked", ids["Ana"], "marked", ids["Ciro"])
	status, page := v.Post(v.Base+"/responses/set", two)
	assert.Equal(t, 409, status)
	assert.Contains(t, page, "Set Called for 2 · 2 e-mails will be sent")
	assert.Nil(t, v.Answers(ids["Ana"])["called"], "nothing is changed yet")
	sure := desktest.Hidden(page[strings.Index(page, `id="bulk-ask"`):])
	sure.Set("set", "called")
	status, page = v.Post(v.Base+"/responses/set", sure)
	assert.Equal(t, 200, status)
	assert.Contains(t, page, "Done for 2 responses")
	assert.Equal(t, true, v.Answers(ids["Ana"])["called"])
	assert.Nil(t, v.Answers(ids["=Bo()"])["called"])
	// What sends nothing is done at once.
	status, page = v.Post(v.Base+"/responses/set",
		desktest.Fields("set", "paid", "value.paid", "cash", "marked", ids["Ana"]))
	assert.Equal(t, 200, status)
	assert.Contains(t, page, "Done for one response")
}

// A question of the workspace with several picks is filled in the table, and for many.
func TestSeveralPicksAreFilledByTheOffice(t *testing.T) {
	v := desktest.Visit(t, items+`, {"key": "gear", "type": "choices", "label": "Gear lent", "staff": true,
		"choices": [{"value": "oars", "label": "Oars"}, {"value": "rack", "label": "Rack"}]}`)
	v.Receive(`{"boat": "eight"}`)
	list, err := v.InForm().Responses(t.Context(), 0, 1)
	require.NoError(t, err)
	id := list[0].ID
	_, page := v.Get(v.Base + "/responses")
	assert.Contains(t, page, `aria-label="Gear lent"`)
	set := func(path string, pairs ...string) []any {
		status, page := v.Post(v.Base+path, desktest.Fields(pairs...))
		require.Equal(t, 200, status, page)
		picks, _ := v.Answers(id)["gear"].([]any)
		return picks
	}
	assert.Equal(t, []any{"oars", "rack"},
		set("/responses/"+id+"/set", "key", "gear", "value", "", "value", "oars", "value", "rack"))
	assert.Equal(t, []any{"rack"}, set("/responses/"+id+"/set", "key", "gear", "value", "", "value", "rack"))
	assert.Empty(t, set("/responses/"+id+"/set", "key", "gear", "value", ""))
	assert.Equal(t, []any{"oars"}, set("/responses/set", "set", "gear", "marked", id, "value.gear", "oars"))
}
