package responses_test

import (
	"context"
	"net/url"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
	"lazo/web/desk/desktest"
)

func TestViews(t *testing.T) {
	v, _ := desktest.Entries(t)
	long := url.QueryEscape(`length > 16`)
	v.Try([]desktest.Case{
		{Name: "by a condition", Path: "responses?when=" + long, Says: []string{"Ana", "Length in metres"},
			SaysNot: []string{"Ciro"}},
		{Name: "counted", Path: "responses/count?when=" + long, Says: []string{"1 of 3"}},
		{Name: "that can't be read", Path: "responses?when=length+%3E", Says: []string{"can’t be read"},
			SaysNot: []string{"Ciro"}},
		{Name: "about what is gone", Path: "responses?when=gone+%3D+1", Says: []string{"there is no question “gone”"},
			SaysNot: []string{"Ciro"}},
		{Name: "decided by the core", Path: "responses?when=" + url.QueryEscape(`name matches "^C"`),
			Says:    []string{"Ciro", "takes longer"},
			SaysNot: []string{"Ana"}},
		{Name: "by a very long one", Path: "responses?when=" + strings.Repeat("length%3E1+or+", 500) + "length%3E1",
			Says: []string{"it is longer than 4000"}, SaysNot: []string{"Ciro"}},
		{Name: "in the order of what is no column", Path: "responses?sort=length*length*length", Says: []string{"Ciro"}},
		{Name: "found by a word", Path: "responses?find=CIR", Says: []string{"Ciro"}, SaysNot: []string{"Ana"}},
		{Name: "nothing found", Path: "responses?find=zebra", Says: []string{"No response here says “zebra”"}},
		{Name: "in order", Path: "responses?sort=length&up=1", Says: []string{`aria-sort="ascending"`}},
		{Name: "other columns", Path: "responses?col=length&col=gone", Says: []string{"Length in metres"}},
		{Name: "a place that is none", Path: "responses?behind=x~y", Status: 404},
		{Name: "the editor", Path: "responses?edit=1&when=" + long, Says: []string{`name="op0"`, "is over"}},
		{Name: "a clause added", Path: "responses/condition?do=add", Says: []string{`name="op0"`}},
		{Name: "a clause changed", Path: "responses/condition?when=" + long + "&key0=length&op0=%3C&value0=16",
			Says:    []string{"Ciro"},
			SaysNot: []string{"Ana"}},
		{Name: "a clause that changes its subject", Path: "responses/condition?when=" + long + "&key0=boat&op0=%3C&value0=16",
			Says: []string{"Boat class", "is answered"}},
		{Name: "taken away", Path: "responses/condition?do=remove:0&when=" + long, Says: []string{"Ana", "Ciro"}},
		{Name: "none of that path", Path: "responses/condition?do=remove:7.x&when=" + long, Says: []string{"Ana"}},
		{Name: "as it is written", Path: "responses/condition?do=written&source=" + url.QueryEscape(`boat = "single"`),
			Says:    []string{"Ciro"},
			SaysNot: []string{"Ana"}},
		{Name: "without a name", Path: "responses/views?when=" + long, Post: desktest.Fields("name", " "), Status: 422,
			Says: []string{"Give the view a name first"}},
		{Name: "kept", Path: "responses/views?when=" + long, Post: desktest.Fields("name", "Long boats"),
			Says:    []string{"Long boats"},
			SaysNot: []string{"Ciro"}},
		{Name: "its name is taken", Path: "responses/views?when=" + long, Post: desktest.Fields("name", "long boats"),
			Status: 422,
			Says:   []string{"a view of this name already"}},
		{Name: "no such view", Path: "responses?view=999999", Status: 404},
		{Name: "nothing new", Path: "responses/news?since=2099-01-01T00:00:00Z", SaysNot: []string{"more have"}},
		{Name: "news", Path: "responses/news?since=2001-01-01T00:00:00Z", Says: []string{"3 more have come"}},
	})
	list, err := v.InForm().Views(context.Background(), v.Member())
	require.NoError(t, err)
	require.Len(t, list, 1)
	view := "responses?view=" + jsonID(list[0].ID)
	v.Try([]desktest.Case{
		{Name: "by the view", Path: view, Says: []string{"Long boats", "Ana"}, SaysNot: []string{"Ciro"}},
		{Name: "with another condition", Path: view + "&when=", Says: []string{"Ciro", "Keep this view as"}},
		{Name: "forgotten", Path: strings.Replace(view, "responses?", "responses/views/delete?", 1), Post: desktest.Fields(),
			SaysNot: []string{"Long boats"}},
	})
}

func jsonID(id store.ViewID) string { return strconv.FormatInt(int64(id), 10) }

func TestTheWorkspaceFillsIn(t *testing.T) {
	v, ids := desktest.Entries(t)
	one := "responses/" + ids["Ana"]
	v.Try([]desktest.Case{
		{Name: "ticked", Path: one + "/set", Post: desktest.Fields("key", "called", "value", "yes"),
			Says: []string{"Changed by"}},
		{Name: "a question that anybody answers", Path: one + "/set", Post: desktest.Fields("key", "length", "value", "3"),
			Status: 404},
		{Name: "no such response", Path: "responses/00000000-0000-0000-0000-000000000000/set",
			Post: desktest.Fields("key", "called"), Status: 404},
	})
	assert.Equal(t, true, v.Answers(ids["Ana"])["called"])
	assert.Equal(t, "Ana", v.Answers(ids["Ana"])["name"], "all else stays")
	both := url.Values{"marked": {ids["=Bo()"], ids["Ciro"]}, "set": {"paid"}, "value.paid": {"cash"}}
	v.Try([]desktest.Case{
		{Name: "for many", Path: "responses/set", Post: both, Says: []string{"Done for 2 responses", "Take"}},
		{Name: "to no choice", Path: "responses/set",
			Post: url.Values{"marked": {ids["Ana"]}, "set": {"paid"}, "value.paid": {"gold"}},
			Says: []string{"Nothing was changed", "Not for 1"}},
		{Name: "for none", Path: "responses/set", Post: url.Values{"set": {"paid"}},
			Says: []string{"mark some responses first"}},
	})
	assert.Equal(t, "cash", v.Answers(ids["Ciro"])["paid"])
	// One of them is changed by somebody else before the rest is taken back.
	v.Post(v.Base+"/responses/"+ids["Ciro"]+"/set", desktest.Fields("key", "paid", "value", ""))
	v.Try([]desktest.Case{
		{Name: "taken back", Path: "responses/take-back", Post: desktest.Fields(),
			Says: []string{"Done for one response", "changed since"}},
		{Name: "once", Path: "responses/take-back", Post: desktest.Fields(), Status: 404},
		{Name: "for all of the view", Path: "responses/set?when=" + url.QueryEscape(`boat = "single"`),
			Post: url.Values{"whom": {"all"}, "set": {"called"}, "value.called": {"yes"}},
			Says: []string{"Done for 2 responses"}},
	})
	assert.Nil(t, v.Answers(ids["=Bo()"])["paid"])
	assert.Equal(t, true, v.Answers(ids["Ciro"])["called"])
}
