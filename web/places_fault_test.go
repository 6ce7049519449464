package web_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os/exec"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/web"
)

// Two hundred ask for five places at once, over two copies of the application, while the
// database is stopped without warning and started again: five have one, whoever was told
// so has it, and after changes and deletions the count is right.
func TestNoPlaceIsGivenTwiceWhenTheDatabaseCrashes(t *testing.T) {
	atLength(t)
	logged := slog.Default()
	slog.SetDefault(slog.New(slog.DiscardHandler)) // many requests fail, as they must
	defer slog.SetDefault(logged)
	ctx := context.Background()
	postgres := func(verb string) string {
		out, err := exec.Command("bash", "../scripts/postgres.sh", verb, "../.run/fault").CombinedOutput()
		require.NoError(t, err, string(out))
		return strings.TrimSpace(string(out))
	}
	address := postgres("start") // durable, unlike the server of the other tests
	defer postgres("stop")
	copies := make([]*httptest.Server, 2)
	var s *store.Store
	for i := range copies {
		one, err := store.Open(ctx, address)
		require.NoError(t, err)
		defer one.Close()
		require.NoError(t, one.Migrate(ctx))
		copies[i] = httptest.NewServer(web.New(one, web.Options{Quiet: true, Trust: true}))
		defer copies[i].Close()
		s = one
	}
	w, err := s.CreateWorkspace(ctx, "Places run")
	require.NoError(t, err)
	m, err := s.CreateMember(ctx, store.Member{
		WorkspaceID: w.ID, Email: fmt.Sprintf("%d@pedralta.example", time.Now().UnixNano()), PasswordHash: "none"})
	require.NoError(t, err)
	def := &form.Form{Lazo: 1, Key: fmt.Sprintf("five-%d", time.Now().UnixNano()), Title: "Five", Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{{
			Key: "slot", Type: form.ChoiceType, Label: "Shift", Required: form.Always, Places: form.BoundOf(5),
			Choices: []form.Choice{{Value: "am", Label: "Morning"},
				{Value: "pm", Label: "Afternoon", Places: form.BoundOf(500)}}}}}}}},
	}
	f, err := s.InWorkspace(w.ID).CreateForm(ctx, def)
	require.NoError(t, err)
	in := s.InWorkspace(w.ID).Form(f.ID)
	_, err = in.Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)

	var mu sync.Mutex
	got, refused := map[string]bool{}, 0
	var everyone sync.WaitGroup
	for n := range 200 {
		everyone.Go(func() { wantsMorning(t, copies[n%2].URL+"/f/"+f.Address, n, &mu, got, &refused) })
	}
	for range 2 {
		time.Sleep(150 * time.Millisecond)
		postgres("crash")
		time.Sleep(300 * time.Millisecond)
		postgres("start")
	}
	everyone.Wait()
	taken := func() int {
		all, err := in.Taken(ctx)
		require.NoError(t, err)
		return all["slot"]["am"]
	}
	list, err := in.Responses(ctx, 0, 1000)
	require.NoError(t, err)
	require.Len(t, list, 5, "as many as there are places")
	assert.Equal(t, 5, taken())
	assert.Len(t, got, 5, "and as many were told so")
	assert.Equal(t, 195, refused, "all others were told that it is full")
	for _, r := range list {
		assert.True(t, got[r.Filling], "who has one was told so")
	}
	_, err = in.ChangeResponse(ctx, list[0].ID, store.Response{Edition: 1, Answers: []byte(`{"slot": "pm"}`)}, time.Now())
	require.NoError(t, err)
	assert.Equal(t, 4, taken(), "a change gives it back")
	require.NoError(t, in.DeleteResponse(ctx, list[1].ID))
	assert.Equal(t, 3, taken(), "and so does deleting")
}

// wantsMorning asks for a place until it is answered, whatever fails meanwhile.
func wantsMorning(t *testing.T, address string, n int, mu *sync.Mutex, got map[string]bool, refused *int) {
	c := &http.Client{Timeout: 10 * time.Second,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	var fieldsOf url.Values
	for end := time.Now().Add(40 * time.Second); time.Now().Before(end); time.Sleep(30 * time.Millisecond) {
		var req *http.Request
		if fieldsOf == nil {
			req, _ = http.NewRequest(http.MethodGet, address, nil)
		} else {
			req, _ = http.NewRequest(http.MethodPost, address, strings.NewReader(fieldsOf.Encode()))
			req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		}
		res, err := c.Do(req)
		if err != nil {
			continue
		}
		data, err := io.ReadAll(res.Body)
		res.Body.Close()
		if err != nil {
			continue
		}
		page := string(data)
		switch {
		case fieldsOf == nil && res.StatusCode == http.StatusOK:
			fieldsOf = fields(page)
			fieldsOf.Set("a.slot", "am")
			fieldsOf.Set("_do", "send")
		case fieldsOf != nil && res.StatusCode == http.StatusSeeOther:
			to, _ := url.Parse(res.Header.Get("Location"))
			mu.Lock()
			got[to.Path[strings.LastIndex(to.Path, "/")+1:]] = true
			mu.Unlock()
			return
		case strings.Contains(page, "is full by now"):
			mu.Lock()
			*refused++
			mu.Unlock()
			return
		}
	}
	t.Errorf("respondent %d was never answered", n)
}

// Who sends a page twice is not told that the place that it took itself is gone.
func TestAPlaceIsNotLostToOneself(t *testing.T) {
	def := &form.Form{Lazo: 1, Key: "own-place", Title: "Own place", Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{{
			Key: "slot", Type: form.ChoiceType, Label: "Shift", Places: form.BoundOf(1),
			Choices: []form.Choice{{Value: "am", Label: "Morning"}}}}}}}},
	}
	f := published(t, def)
	c := newClient(t)
	_, page := c.get("/f/" + f.Address)
	v := with(fields(page), "a.slot", "am", "_do", "send")
	for range 2 {
		fresh := httptest.NewServer(web.New(db, web.Options{Quiet: true, Trust: true})) // which remembers nothing
		status, page := client{t, &http.Client{}, fresh.URL}.post("/f/"+f.Address, v)
		assert.Equal(t, http.StatusOK, status)
		assert.Contains(t, page, "Thank you")
		fresh.Close()
	}
	assert.Equal(t, 1, count(t, f.Address))
}
