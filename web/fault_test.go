package web_test

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os/exec"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/web"
)

// respondent fills a form in again and again from an address of its own. Like a
// person it sends a page again when no answer comes.
type respondent struct {
	http   *http.Client
	base   string
	n      int
	sent   int
	fields url.Values // of the page at hand, nil before a form has come
	stuck  atomic.Value
}

func newRespondent(base string, n int) *respondent {
	from := &net.TCPAddr{IP: net.IPv4(127, 0, 1, byte(n+1))} // Linux answers for all of 127/8
	dial := &net.Dialer{LocalAddr: from, Timeout: 5 * time.Second}
	return &respondent{
		base: base,
		n:    n,
		http: &http.Client{Timeout: 10 * time.Second, Transport: &http.Transport{DialContext: dial.DialContext},
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }},
	}
}

// step is one request: a form is fetched, or the answers are sent. Received is the
// filling that was answered with “received”, if any.
func (p *respondent) step() (received string) {
	var res *http.Response
	var err error
	if p.fields == nil {
		res, err = p.http.Get(p.base)
	} else {
		res, err = p.http.PostForm(p.base, p.fields)
	}
	if err != nil {
		return ""
	}
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	if err != nil {
		return ""
	}
	switch {
	case p.fields != nil && res.StatusCode == http.StatusOK:
		p.stuck.Store(string(body))
	case p.fields == nil && res.StatusCode == http.StatusOK:
		p.sent++
		name := fmt.Sprintf("Rower %d of boat %d", p.sent, p.n)
		p.fields = with(fields(string(body)), "a.name", name, "a.signed.typed", name, "a.signed.drawn", "", "_do", "send")
	case res.StatusCode == http.StatusSeeOther:
		p.fields = nil
		_, received, _ = strings.Cut(res.Header.Get("Location"), "/received/")
	}
	return received
}

// PostgreSQL is stopped hard under fifty respondents and started again: all that
// was answered “received” is there, once, whole, and the application goes on by
// itself.
func TestNothingReceivedIsLostWhenTheDatabaseCrashes(t *testing.T) {
	atLength(t)
	logged := slog.Default()
	slog.SetDefault(slog.New(slog.DiscardHandler)) // hundreds of requests fail, as they must
	defer slog.SetDefault(logged)
	ctx := context.Background()
	postgres := func(verb string) string {
		out, err := exec.Command("bash", "../scripts/postgres.sh", verb, "../.run/fault").CombinedOutput()
		require.NoError(t, err, string(out))
		return strings.TrimSpace(string(out))
	}
	address := postgres("start") // durable, unlike the server of the other tests
	defer postgres("stop")
	s, err := store.Open(ctx, address)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Migrate(ctx))

	w, err := s.CreateWorkspace(ctx, "Fault run")
	require.NoError(t, err)
	m, err := s.CreateMember(
		ctx,
		store.Member{WorkspaceID: w.ID, Email: fmt.Sprintf("%d@pedralta.example", time.Now().UnixNano()),
			PasswordHash: "none"},
	)
	require.NoError(t, err)
	def := &form.Form{
		Lazo:     1,
		Key:      fmt.Sprintf("fault-%d", time.Now().UnixNano()),
		Title:    "Waiver",
		Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s", Items: []*form.Item{
			{
				Key: "name", Type: form.Text, Label: "Name", Required: form.Always,
			}, {Key: "signed", Type: form.Signature, Label: "Signature", Required: form.Always}}}}}},
	}
	f, err := s.InWorkspace(w.ID).CreateForm(ctx, def)
	require.NoError(t, err)
	_, err = s.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	app := httptest.NewServer(web.New(s, web.Options{Quiet: true, Trust: true}))
	defer app.Close()

	var received sync.Map // filling to true
	var total, crashes atomic.Int64
	var everyone sync.WaitGroup
	stop := make(chan struct{})
	var respondents []*respondent
	for n := range 50 {
		p := newRespondent(app.URL+"/f/"+f.Address, n)
		respondents = append(respondents, p)
		everyone.Go(func() {
			own := 0
			for {
				select {
				case <-stop:
					if own > 0 {
						return
					}
				default:
				}
				if filling := p.step(); filling != "" {
					_, twice := received.LoadOrStore(filling, true)
					assert.False(t, twice, "a filling is received once")
					total.Add(1)
					if crashes.Load() == 2 { // after the last crash
						own++
					}
				}
				time.Sleep(40 * time.Millisecond) // no faster than a quick person's script
			}
		})
	}
	for range 2 {
		at := total.Load()
		require.Eventually(t, func() bool { return total.Load() > at+100 }, 20*time.Second, 10*time.Millisecond)
		postgres("crash")
		time.Sleep(500 * time.Millisecond)
		postgres("start")
		crashes.Add(1)
	}
	ended := make(chan struct{})
	go func() { everyone.Wait(); close(ended) }()
	close(stop)
	select {
	case <-ended: // each of the fifty was received once more
	case <-time.After(30 * time.Second):
		for _, p := range respondents {
			t.Logf("%d: %.3000v", p.n, p.stuck.Load())
		}
		require.Fail(t, "the application did not recover by itself")
	}

	type row struct{ Filling, Name, Signed, Stored string }
	rows, err := s.Pool().Query(ctx, `select r.filling::text, r.answers->>'name', coalesce(u.id::text, ''),
		coalesce((select string_agg(convert_from(p.data, 'UTF8'), '' order by p.number) from upload_pieces p where p.upload_id = u.id), '')
		from responses r left join uploads u on u.response_id = r.id and u.id::text = r.answers->'signed'->>'id' where r.form_id = $1`, f.ID)
	require.NoError(t, err)
	defer rows.Close()
	there := map[string]bool{}
	for rows.Next() {
		var r row
		require.NoError(t, rows.Scan(&r.Filling, &r.Name, &r.Signed, &r.Stored))
		assert.False(t, there[r.Filling], "stored once")
		there[r.Filling] = true
		assert.NotEmpty(t, r.Signed, "a response without its signature is half of one")
		assert.Contains(t, r.Stored, r.Name, "and so is a signature that is not whole")
	}
	require.NoError(t, rows.Err())
	received.Range(func(filling, _ any) bool {
		assert.True(t, there[filling.(string)], "what was answered “received” is there")
		return true
	})
	t.Logf("%d received over two crashes, %d stored", total.Load(), len(there))
	assert.LessOrEqual(t, total.Load(), int64(len(there)))
}
