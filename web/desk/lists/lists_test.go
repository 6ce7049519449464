package lists_test

import (
	"context"
	"fmt"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "pier", "type": "choice", "label": "Pier", "choices_from": {"list": "piers", "value": "code", "label": "name"}},
	{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "pier.fee"}}`

var aList = regexp.MustCompile(`/lists/(\d+)/entries`)

// begin makes a list and returns its address.
func begin(t *testing.T, v *desktest.Visitor, name string) string {
	_, page := v.Post("/lists", desktest.Fields("name", name))
	id := aList.FindStringSubmatch(page)
	require.NotNil(t, id, page)
	return "/lists/" + id[1]
}

func TestAListIsBegunFilledAndEmptied(t *testing.T) {
	v := desktest.Visit(t, `{"key": "a", "type": "text", "label": "A"}`)
	v.Try([]desktest.Case{
		{Name: "none yet", Path: "/lists", Says: []string{"There are no lists yet"}},
		{Name: "no name", Path: "/lists", Post: desktest.Fields("name", " "), Status: 422,
			Says: []string{"Give the list a name first."}},
		{Name: "a long name", Path: "/lists", Post: desktest.Fields("name", strings.Repeat("x", 81)), Status: 422,
			Says: []string{"at most 80"}},
	})
	at := begin(t, v, "Piers & <b>more</b>")
	v.Try([]desktest.Case{
		{Name: "its name is text", Path: at, Says: []string{"Piers &amp; &lt;b&gt;more&lt;/b&gt;", "No form yet"}},
		{Name: "two entries", Path: at + "/entries",
			Post: desktest.Fields("version", "1", "n.0.code", "h", "n.0.name", "Heron",
				"n.1.code", "t", "n.1.name", "Teal", "n.2.code", "", "n.2.name", ""),
			Says: []string{"2 entries, version 2", `name="e.0.code" value="h"`}},
		{Name: "a doubled code, with what was typed", Path: at + "/entries",
			Post: desktest.Fields("version", "2", "e.1.code", "H", "e.1.name", "Swan"),

			Status: 422, Says: []string{"“H” stands twice", `value="Swan"`}},
		{Name: "no code", Path: at + "/entries", Post: desktest.Fields("version", "2", "n.0.name", "Nameless"),
			Status: 422, Says: []string{"an entry needs a Code"}},
		{Name: "a column", Path: at + "/columns",
			Post: desktest.Fields("name.code", "Code", "name.name", "Pier", "type.name", "text",
				"name", "Fee", "type", "number"), Says: []string{"version 3", "Fee of h", "Pier of h"}},
		{Name: "not a number", Path: at + "/entries", Post: desktest.Fields("version", "3", "e.0.fee", "much"), Status: 422,
			Says: []string{"“Fee” takes a number", `value="much"`}},
		{Name: "a number", Path: at + "/entries", Post: desktest.Fields("version", "3", "e.0.fee", "12,5"),
			Says: []string{`value="12.5"`}},
		{Name: "a type that does not fit", Path: at + "/columns", Post: desktest.Fields("type.name", "date"), Status: 422,
			Says: []string{"The columns can’t be changed so", "takes a date"}},
		{Name: "someone else was quicker", Path: at + "/entries", Post: desktest.Fields("version", "3", "e.0.fee", "9"),
			Status: 409,
			Says:   []string{"Someone else has changed this list", "h: Fee “9” instead of “”", `value="12.5"`}},
		{Name: "one goes", Path: at + "/entries", Post: desktest.Fields("version", "4", "gone", "e.1"),
			Says: []string{"1 entry, version 5"}, SaysNot: []string{"Teal"}},
		{Name: "back is shown first", Path: at + "/back", Post: desktest.Fields("number", "2"),
			Says: []string{"What would change", "t – Teal", "the column “Fee” goes away"}},
		{Name: "a name of its own", Path: at + "/name", Post: desktest.Fields("name", "Jetties"),
			Says: []string{"Jetties", "<code>piers_b_more_b</code>"}},
		{Name: "not by mistake", Path: at + "/delete", Post: desktest.Fields(), Status: 422, Says: []string{"Tick the box"}},
		{Name: "deleted", Path: at + "/delete", Post: desktest.Fields("sure", "yes"),
			Says: []string{"There are no lists yet"}},
		{Name: "gone", Path: at, Status: 404},
	})
}

var proposal = regexp.MustCompile(`/lists/\d+/proposals/[0-9a-f-]+`)

func TestASpreadsheetIsLookedAtBeforeItIsTaken(t *testing.T) {
	v := desktest.Visit(t, `{"key": "a", "type": "text", "label": "A"}`)
	at := begin(t, v, "Piers")
	status, page := v.Upload(at+"/read", "piers.csv", []byte("Code;Pier;Fee\nh;H\xe9ron;40\nt;Teal;10\n"), "columns",
		"new")
	require.Equal(t, 200, status)
	assert.Contains(t, page, "h – Héron")
	assert.Contains(t, page, "read from piers.csv")
	_, before := v.Get(at)
	assert.Contains(t, before, "0 entries, version 1", "nothing is taken yet")
	_, page = v.Post(proposal.FindString(page), desktest.Fields())
	assert.Contains(t, page, "2 entries, version 2")

	_, page = v.Upload(at+"/read", "", nil, "cells", "Code\tFee\nt\t12\ns\t5", "keep", "yes")
	assert.Contains(t, page, "1 would be added")
	assert.NotContains(t, page, "would be taken out")
	assert.Contains(t, page, ">10</td>")
	stale := proposal.FindString(page)
	sheet, err := exchange.WriteXLSX([]exchange.Sheet{{Name: "Piers",
		Cells: [][]string{{"Code", "Pier", "Fee"}, {"h", "Heron", "41"}}}})
	require.NoError(t, err)
	_, page = v.Upload(at+"/read", "piers.xlsx", sheet)
	assert.Contains(t, page, "1 would be taken out")
	_, page = v.Post(proposal.FindString(page), desktest.Fields())
	assert.Contains(t, page, "1 entry, version 3")
	_, page = v.Get(stale)
	assert.Contains(t, page, "was changed after this was read")
	status, page = v.Post(stale, desktest.Fields())
	assert.Equal(t, 409, status)
	assert.Contains(t, page, "Someone else has changed this list")

	for name, c := range map[string]struct{ data, says string }{
		"a fault at its cell": {"Code,Fee\nh,much", "B2: the column “Fee” takes a number"},
		"a doubled code":      {"Code,Fee\nh,1\nH,2", "A3: “H” stands in line 2 already"},
		"no code":             {"Fee\n1", "the column “Code” is missing"},
		"a password":          {"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1", "password"},
		"too many lines":      {"Code\n" + strings.Repeat("x\n", 100_000), "more than 25000 lines"},
		"nothing":             {"", "Choose a file"},
	} {
		status, page := v.Upload(at+"/read", "x.csv", []byte(c.data))
		assert.Equal(t, 422, status, name)
		assert.Contains(t, page, c.says, name)
	}
	_, out := v.Get(at + "/file.csv")
	assert.Equal(t, "\ufeffCode,Pier,Fee\r\nh,Heron,41\r\n", out)
	status, _ = v.Get(at + "/file.pdf")
	assert.Equal(t, 404, status)
}

func TestWhatAFormUsesIsNotTakenFromIt(t *testing.T) {
	v := desktest.Visit(t, items)
	at := begin(t, v, "Piers")
	_, page := v.Upload(at+"/read", "", nil, "cells", "Code\tName\tFee\nh\tHeron\t40\nt\tTeal\t10", "keep", "yes")
	_, page = v.Post(proposal.FindString(page), desktest.Fields())
	require.Contains(t, page, "2 entries")
	ctx := context.Background()
	_, version := v.Draft()
	var at0 int64
	fmt.Sscan(version, &at0)
	_, err := v.InForm().EditWhole(ctx, at0, v.Member(),
		form.SetProperty("", "lists", map[string]form.List{"piers": {Shared: "piers"}}))
	require.NoError(t, err)
	f, err := v.InForm().Get(ctx)
	require.NoError(t, err)
	_, err = v.InForm().Publish(ctx, f.DraftVersion, v.Member())
	require.NoError(t, err)
	v.Receive(`{"pier": "t"}`)

	_, page = v.Get(at)
	assert.Contains(t, page, "is live with it")
	_, page = v.Post(at+"/columns", desktest.Fields("gone.fee", "yes"))
	assert.Contains(t, page, "is live and could not be filled in any more")
	assert.Contains(t, page, "This can’t be taken")
	_, page = v.Post(v.At, desktest.Fields())
	assert.Contains(t, page, "This can’t be taken", "nor by pressing on")
	_, page = v.Post(at+"/entries", desktest.Fields("version", "2", "gone", "e.1"))
	assert.Contains(t, page, "has one response that holds what goes away")
	_, page = v.Post(proposal.FindString(page), desktest.Fields())
	assert.Contains(t, page, "1 entry, version 3")
	status, page := v.Post(at+"/delete", desktest.Fields("sure", "yes"))
	assert.Equal(t, 409, status)
	assert.Contains(t, page, "Forms draw from this list")

	// The live form has the newest version; what is no longer in it can't be sent.
	_, page = v.Get("/f/" + f.Address)
	assert.Contains(t, page, "Heron")
	assert.NotContains(t, page, "Teal")
}
