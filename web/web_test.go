package web_test

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
	"lazo/store/storetest"
	"lazo/web"
)

var (
	db   *store.Store
	site *httptest.Server
)

func TestMain(m *testing.M) {
	os.Exit(storetest.Main(m, func(s *store.Store) func() {
		db = s
		if err := demo.Ensure(context.Background(), s, time.Now()); err != nil {
			panic(err)
		}
		site = httptest.NewServer(web.New(s, web.Options{Quiet: true, Trust: true}))
		return site.Close
	}))
}

// atLength leaves a test out where one wants an answer within a minute (make check).
func atLength(t *testing.T) {
	t.Helper()
	if testing.Short() {
		t.Skip("it takes long; make test runs it")
	}
}

type client struct {
	t testing.TB
	*http.Client
	base string // of the application that it visits
}

func newClient(t testing.TB) client {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return client{t, &http.Client{Jar: jar}, site.URL}
}

// at visits another copy of the application.
func (c client) at(base string) client {
	c.base = base
	return c
}

func (c client) read(res *http.Response, err error) (int, string) {
	c.t.Helper()
	require.NoError(c.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	return res.StatusCode, string(body)
}

func (c client) get(path string) (int, string) { c.t.Helper(); return c.read(c.Get(c.base + path)) }

func (c client) post(path string, v url.Values) (int, string) {
	c.t.Helper()
	return c.read(c.PostForm(c.base+path, v))
}

func (c client) signIn() client {
	c.t.Helper()
	status, _ := c.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	require.Equal(c.t, http.StatusOK, status)
	return c
}

var hiddenField = regexp.MustCompile(`name="(_token|_page|_digest|_faulty)" value="([^"]*)"`)

// fields are those that a page of a public form carries along, but for what it says
// of what was seen on it: these posts were not made on it step by step.
func fields(page string) url.Values {
	v := seenFields(page)
	v.Del("_digest")
	return v
}

// seenFields are all of them.
func seenFields(page string) url.Values {
	v := url.Values{}
	for _, m := range hiddenField.FindAllStringSubmatch(page, -1) {
		v.Set(m[1], m[2])
	}
	return v
}

func count(t testing.TB, address string) int {
	f, err := db.FormByAddress(context.Background(), address)
	require.NoError(t, err)
	n, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(context.Background())
	require.NoError(t, err)
	return n
}

func TestNoBadPostIsStoredOrFails(t *testing.T) {
	c := newClient(t)
	before := count(t, "shore-crew")
	good := func() url.Values {
		_, page := c.get("/f/shore-crew")
		v := fields(page)
		for k, x := range map[string]string{"a.name": "Ana", "a.phone": "+59894123456", "a.born_on": "1980-01-01",
			"a.roles": "timing", "a.free_days": "sat", "_do": "send"} {
			v.Set(k, x)
		}
		return v
	}
	for name, spoil := range map[string]func(v url.Values){
		"a choice that does not exist": func(v url.Values) { v.Set("a.roles", "admiral") },
		"a choice withheld":            func(v url.Values) { v.Set("a.roles", "launch"); v.Set("a.born_on", "2015-01-01") },
		"the same field twice":         func(v url.Values) { v.Add("a.name", "Bea") },
		"a date that is none":          func(v url.Values) { v.Set("a.born_on", "yesterday") },
		"letters for a phone":          func(v url.Values) { v.Set("a.phone", "call me") },
		"a required one missing":       func(v url.Values) { v.Del("a.name") },
		"a forged ticket":              func(v url.Values) { v.Set("_token", "x"+v.Get("_token")) },
		"no ticket":                    func(v url.Values) { v.Del("_token") },
		"not UTF-8":                    func(v url.Values) { v.Set("a.name", "\xff\xfe") },
		"a null byte":                  func(v url.Values) { v.Set("a.name", "a\x00b") },
		"ten megabytes":                func(v url.Values) { v.Set("a.notes", strings.Repeat("x", 10<<20)) },
	} {
		t.Run(name, func(t *testing.T) {
			v := good()
			spoil(v)
			status, page := client{t, c.Client, site.URL}.post("/f/shore-crew", v)
			assert.Less(t, status, 500)
			assert.NotContains(t, page, "Thank you")
			assert.Equal(t, before, count(t, "shore-crew"))
		})
	}
	v := good()
	v.Set("a.unknown", "x")
	v.Set("r.nowhere.7.x", "y")
	_, page := c.post("/f/shore-crew", v)
	assert.Contains(t, page, "Thank you", "unknown fields are passed over")
	assert.Equal(t, before+1, count(t, "shore-crew"))
}

func TestADoubledClickStoresOnce(t *testing.T) {
	c := newClient(t)
	_, page := c.get("/f/lake-bulletin")
	v := fields(page)
	v.Set("a.email", "twice@lakeside.example")
	v.Set("a.email#again", "twice@lakeside.example")
	v.Set("_do", "send")
	before := count(t, "lake-bulletin")
	var wait sync.WaitGroup
	for range 8 {
		wait.Go(func() {
			status, _ := c.post("/f/lake-bulletin", v)
			assert.Equal(t, http.StatusOK, status)
		})
	}
	wait.Wait()
	assert.Equal(t, before+1, count(t, "lake-bulletin"))
}

func TestALiveChangeSendsOnlyWhatChanged(t *testing.T) {
	c := newClient(t)
	_, page := c.get("/f/crew-entry")
	v := seenFields(page)
	v.Set("a.boat_source", "own")
	status, body := c.post("/f/crew-entry/live", v)
	require.Equal(t, http.StatusOK, status)
	assert.Contains(t, body, `hx-target="#u-a-trailer"`)
	assert.NotContains(t, body, `hx-target="#u-a-boat_class"`)
	assert.Less(t, len(body), len(page)/2)
}

// A form is republished while someone fills it in: they are judged by the
// edition that they were given.
func TestTheEditionOfTheArrivalJudges(t *testing.T) {
	ctx := context.Background()
	m, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(t, err)
	def := &form.Form{
		Lazo:     1,
		Key:      "republished",
		Title:    "Republished",
		Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s",
			Items: []*form.Item{{Key: "one", Type: form.Text, Label: "One", Required: form.Always}}}}}},
	}
	f, err := db.InWorkspace(m.WorkspaceID).CreateForm(ctx, def)
	require.NoError(t, err)
	c := newClient(t)
	status, _ := c.get("/f/republished")
	assert.Equal(t, http.StatusNotFound, status, "a draft has no public page")
	_, err = db.InWorkspace(m.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	_, page := c.get("/f/republished")
	f, err = db.InWorkspace(m.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.Edit{Op: form.AddItem, Into: "s", Index: 1,
			Item: &form.Item{Key: "two", Type: form.Text, Label: "Two", Required: form.Always}})
	require.NoError(t, err)
	_, err = db.InWorkspace(m.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	v := fields(page)
	v.Set("a.one", "x")
	v.Set("_do", "send")
	_, answer := c.post("/f/republished", v)
	assert.Contains(t, answer, "Thank you")
	list, err := db.InWorkspace(m.WorkspaceID).Form(f.ID).Responses(ctx, 0, 9)
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, 1, list[0].Edition)
}

// Every route of a form is closed to strangers and to members of another workspace.
func TestPostsFromOtherSitesAreRefused(t *testing.T) {
	c := newClient(t).signIn()
	req, err := http.NewRequest(http.MethodPost, site.URL+"/forms", strings.NewReader("title=Stolen"))
	require.NoError(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	req.Header.Set("Sec-Fetch-Site", "cross-site")
	status, _ := c.read(c.Do(req))
	assert.Equal(t, http.StatusForbidden, status)
}

func TestSignInIsLimited(t *testing.T) {
	c := newClient(t)
	for range 10 {
		status, _ := c.post("/sign-in", url.Values{"email": {"nobody@pedralta.example"}, "password": {"x"}})
		require.Equal(t, http.StatusUnprocessableEntity, status)
	}
	status, _ := c.post("/sign-in", url.Values{"email": {"nobody@pedralta.example"}, "password": {"x"}})
	assert.Equal(t, http.StatusTooManyRequests, status)
	forgetCounts(t)
}

// forgetCounts lets the limits begin anew for the tests that follow.
func forgetCounts(t testing.TB) {
	_, err := db.Pool().Exec(context.Background(), "delete from public_counts")
	require.NoError(t, err)
}

func TestCSVHoldsEveryResponse(t *testing.T) {
	c := newClient(t).signIn()
	f, err := db.FormByAddress(context.Background(), "crew-entry")
	require.NoError(t, err)
	status, body := c.get(fmt.Sprintf("/forms/%d/responses.csv", f.ID))
	require.Equal(t, http.StatusOK, status)
	assert.True(t, strings.HasPrefix(body, "\ufeffresponse,received,edition,boat_class"))
	assert.Equal(t, count(t, "crew-entry")+1, strings.Count(body, "\r\n"))
	assert.Contains(t, body, "rowers.8.born")
}

func TestUnknownPagesAndAClosedDatabase(t *testing.T) {
	c := newClient(t)
	for _, path := range []string{"/f/nothing", "/nothing", "/f/crew-entry/received/99", "/f/crew-entry/received/x"} {
		status, page := c.get(path)
		assert.Equal(t, http.StatusNotFound, status, path)
		assert.Contains(t, page, "There is no such page")
	}
	gone, err := store.Open(context.Background(), "postgres://lazo@127.0.0.1:1/none?sslmode=disable")
	require.NoError(t, err)
	defer gone.Close()
	w := httptest.NewRecorder()
	web.New(gone, web.Options{Quiet: true, Trust: true}).ServeHTTP(w,
		httptest.NewRequest(http.MethodGet, "/f/crew-entry", nil))
	assert.Equal(t, http.StatusServiceUnavailable, w.Code)
	assert.Contains(t, w.Body.String(), "Nothing is lost")
}
