package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
	"lazo/web"
)

// longList is a list of the workspace with n boats on 40 shores.
func longList(t testing.TB, key string, n int) {
	ctx := context.Background()
	m, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(t, err)
	table := form.Table{Columns: []form.Column{
		{Key: "code", Name: "Code", Type: form.TextColumn}, {Key: "name", Name: "Name", Type: form.TextColumn},
		{Key: "shore", Name: "Shore", Type: form.TextColumn},
	}}
	for i := range n {
		table.Entries = append(table.Entries, form.Entry{
			"code": fmt.Sprint("b", i), "name": fmt.Sprintf("Boat %d of the lake", i), "shore": fmt.Sprint("s", i%40),
		})
	}
	_, err = db.InWorkspace(m.WorkspaceID).AddList(ctx, key, key, table, m.ID, "begun")
	require.NoError(t, err)
}

// drawn is a question with the choices of such a list, narrowed or not.
func drawn(key, where string) *form.Item {
	return &form.Item{Key: key, Type: form.ChoiceType, Label: "Boat", Look: "search",
		ChoicesFrom: &form.ChoicesFrom{List: "boats", Value: "code", Label: "name", Where: where}}
}

// The first page with a question of 20,000 choices is light, and a search finds what is
// looked for without a script.
func TestAListOfTwentyThousandIsLight(t *testing.T) {
	longList(t, "twenty_thousand", 20_000)
	def := &form.Form{Lazo: 1, Key: "long-list", Title: "Long list", Timezone: "UTC",
		Lists: map[string]form.List{"boats": {Shared: "twenty_thousand"}},
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{drawn("boat", "")}}}}}}
	f := published(t, def)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	assert.Less(t, len(page), 20_000)
	assert.Contains(t, page, "The first 20 of 20,000")
	v := fields(page)
	v.Set("find.boat", "19999")
	v.Set("_do", "update")
	_, page = c.post("/f/"+f.Address, v)
	assert.Equal(t, 2, strings.Count(page, `type="radio"`), "the one that was found, and none")
	assert.Contains(t, page, `name="find.boat" value="19999"`)
	v = fields(page)
	v.Set("find.boat", "19999")
	v.Set("a.boat", "b19999")
	v.Set("_do", "send")
	_, page = c.post("/f/"+f.Address, v)
	assert.Contains(t, page, "Thank you")
	_, answers := last(t, f)
	assert.Equal(t, "b19999", answers["boat"])
	v.Set("_do", "update")
	v.Set("find.boat", "no such boat")
	_, page = c.post("/f/"+f.Address, v)
	assert.Contains(t, page, "Nothing is called so.")
}

// An entry that leaves the list while someone fills the form is set aside with a message;
// nothing else is lost, and nothing is stored without it being said.
func TestAnEntryLeavesTheListMeanwhile(t *testing.T) {
	ctx := context.Background()
	longList(t, "shrinking", 5)
	def := &form.Form{Lazo: 1, Key: "shrinking", Title: "Shrinking", Timezone: "UTC",
		Lists: map[string]form.List{"boats": {Shared: "shrinking"}},
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{
			{Key: "name", Type: form.Text, Label: "Name"}, drawn("boat", "")}}}}}}
	f := published(t, def)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := fields(page)
	v.Set("a.name", "Zulma")
	v.Set("a.boat", "b3")
	v.Set("_do", "send")
	in := db.InWorkspace(f.WorkspaceID)
	states, err := in.ListStates(ctx, []string{"shrinking"})
	require.NoError(t, err)
	table, err := in.ListTable(ctx, states[0].ID, 1)
	require.NoError(t, err)
	table.Entries = table.Entries[:3]
	_, err = in.SaveList(ctx, states[0].ID, 1, table, 0, "by another copy")
	require.NoError(t, err)
	before := count(t, f.Address)
	status, page := c.post("/f/"+f.Address, v)
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.Contains(t, page, "What was picked is not on offer. Please pick again.")
	assert.Contains(t, page, `value="Zulma"`)
	assert.NotContains(t, page, "Boat 3 of")
	assert.Equal(t, before, count(t, f.Address))
	v = fields(page)
	v.Set("a.name", "Zulma")
	v.Set("_do", "send")
	_, page = c.post("/f/"+f.Address, v)
	assert.Contains(t, page, "Thank you", "it need not be answered")
	r, answers := last(t, f)
	assert.Equal(t, map[string]any{"name": "Zulma"}, answers)
	assert.Empty(t, r.Labels)
}

// liveOf makes a live change of a page of a form, ready to be posted again and again.
func liveOf(b *testing.B, handler http.Handler, f store.Form, v url.Values, changed, to string) func() {
	post := func(body string) *httptest.ResponseRecorder {
		r := httptest.NewRequest(http.MethodPost, "/f/"+f.Address+"/live", strings.NewReader(body))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, r)
		return w
	}
	digest := regexp.MustCompile(`name="_digest" value="([^"]*)"`).FindStringSubmatch(post(v.Encode()).Body.String())
	require.NotNil(b, digest)
	v.Set("_digest", digest[1])
	v.Set(changed, to)
	body := v.Encode()
	require.Equal(b, http.StatusOK, post(body).Code)
	return func() { post(body) }
}

// BenchmarkLongList is a live change of a form of 200 questions one of which draws on a
// list of 20,000 entries narrowed by an answer, beside the same form without it; and a
// search in it, in milliseconds.
func BenchmarkLongList(b *testing.B) {
	longList(b, "long_list", 20_000)
	handler := web.New(db, web.Options{Quiet: true, Trust: true})
	one := func(key string, more ...*form.Item) (store.Form, url.Values) {
		def := largeForm(200)
		def.Key = key
		page := &form.Page{Key: "all", Title: "All"}
		for _, p := range def.Pages {
			page.Sections = append(page.Sections, p.Sections...)
		}
		page.Sections = append(page.Sections, &form.Section{Key: "more", Items: more})
		def.Pages, def.Lists = []*form.Page{page}, map[string]form.List{"boats": {Shared: "long_list"}}
		if len(more) == 0 {
			def.Lists, page.Sections = nil, page.Sections[:len(page.Sections)-1]
		}
		f := published(b, def)
		return f, answered(newClient(b), f.Address, def)
	}
	shore := &form.Item{Key: "shore", Type: form.Text, Label: "Shore"}
	plain, v := one("without-list", shore)
	v.Set("a.shore", "s7")
	without := liveOf(b, handler, plain, v, "a.q0", "a")
	narrowed, v := one("with-list", shore, drawn("boat", "entry.shore = shore"))
	v.Set("a.shore", "s7")
	v.Del("a.boat")
	with := liveOf(b, handler, narrowed, v, "a.q0", "a")
	all, v := one("all-of-list", shore, drawn("boat", ""))
	search := liveOf(b, handler, all, v, "find.boat", "19999")
	begun := time.Now()
	for range 50 {
		search()
	}
	searched := time.Since(begun)
	turns(b, with, without)
	b.ReportMetric(float64(searched.Microseconds())/50/1000, "search-ms")
}

// BenchmarkPlaces is a submission that takes a place, beside one of the same form without
// places.
func BenchmarkPlaces(b *testing.B) {
	make := func(key string, places *form.Bound) store.Form {
		return published(b, &form.Form{Lazo: 1, Key: key, Title: key, Timezone: "UTC",
			Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{
				{Key: "slot", Type: form.ChoiceType, Label: "Shift", Places: places,
					Choices: []form.Choice{{Value: "am"}, {Value: "pm"}, {Value: "eve"}}},
				{Key: "name", Type: form.Text, Label: "Name"}}}}}}})
	}
	handler := web.New(db, web.Options{Quiet: true, Trust: true})
	n := 0
	send := func(f store.Form, v url.Values) time.Duration {
		n++
		v.Set("_do", "send")
		v.Set("a.name", "Zulma")
		v.Set("a.slot", []string{"am", "pm", "eve"}[n/2%3])
		r := httptest.NewRequest(http.MethodPost, "/f/"+f.Address, strings.NewReader(v.Encode()))
		r.RemoteAddr = fmt.Sprintf("10.%d.%d.%d:1", n>>16&255, n>>8&255, n&255)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		w := httptest.NewRecorder()
		begun := time.Now()
		handler.ServeHTTP(w, r)
		took := time.Since(begun)
		if w.Code != http.StatusSeeOther {
			b.Fatal(w.Body.String())
		}
		return took
	}
	limited, free := make("places-"+uuid.NewString()[:8], form.BoundOf(1_000_000)), make("free-"+uuid.NewString()[:8], nil)
	var with, without []time.Duration
	c := newClient(b)
	for b.Loop() {
		_, page := c.get("/f/" + limited.Address)
		a := fields(page)
		_, page = c.get("/f/" + free.Address)
		other := fields(page)
		if n%4 == 0 {
			with, without = append(with, send(limited, a)), append(without, send(free, other))
		} else {
			without, with = append(without, send(free, other)), append(with, send(limited, a))
		}
	}
	report(b, with, without)
}
