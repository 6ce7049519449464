package notify_test

import (
	"context"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"net/netip"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	standardwebhooks "github.com/standard-webhooks/standard-webhooks/libraries/go"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/notify"
	"lazo/store"
)

// loopback is allowed where a test is told on this machine.
var loopback = []netip.Prefix{netip.MustParsePrefix("127.0.0.0/8")}

// told is a program that is told of a place’s responses: what it was told, and how it
// answers.
type told struct {
	*httptest.Server
	requests chan *http.Request
	bodies   chan string
	answer   atomic.Value // func(http.ResponseWriter, *http.Request)
}

func program(t *testing.T) *told {
	t.Helper()
	p := &told{requests: make(chan *http.Request, 100), bodies: make(chan string, 100)}
	p.answer.Store(func(w http.ResponseWriter, _ *http.Request) { _, _ = io.WriteString(w, "thanks") })
	p.Server = httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		data, _ := io.ReadAll(r.Body)
		p.requests <- r
		p.bodies <- string(data)
		p.answer.Load().(func(http.ResponseWriter, *http.Request))(w, r)
	}))
	t.Cleanup(p.Close)
	return p
}

// hook writes to the outbox that a program is told of a response.
func (p *place) hook(to, event, answers string) string {
	p.t.Helper()
	id := p.receive(answers)
	now := time.Now()
	l := store.Letter{Kind: store.Hook, ResponseID: &id, Edition: 1, Message: "desk", Recipient: to, Subject: event,
		Body:   answers,
		Reason: "Told always.", State: store.Waiting, DueAt: now, MadeAt: now}
	require.NoError(p.t, p.db.InWorkspace(p.form.WorkspaceID).Form(p.form.ID).Tell(context.Background(), l))
	return id
}

func TestAProgramIsToldAndKnowsByWhom(t *testing.T) {
	p, other := open(t, "told"), program(t)
	secret, err := p.db.InWorkspace(p.form.WorkspaceID).Form(p.form.ID).HookSecret(context.Background(), "desk")
	require.NoError(t, err)
	p.work(nil, notify.Options{Networks: loopback})
	id := p.hook(other.URL+"/boats", "received", `{"metres": 14}`)
	p.state(store.Sent, "")
	r, body := <-other.requests, <-other.bodies
	assert.Equal(t, "/boats", r.URL.Path)
	assert.Equal(t, "application/cloudevents+json; charset=utf-8", r.Header.Get("Content-Type"))
	checker, err := standardwebhooks.NewWebhook(notify.WrittenSecret(secret.Secret))
	require.NoError(t, err)
	require.NoError(t, checker.Verify([]byte(body), r.Header), "a library that is not ours knows the signature")
	require.Error(t, checker.Verify([]byte(body+" "), r.Header))
	var e map[string]any
	require.NoError(t, json.Unmarshal([]byte(body), &e))
	assert.Equal(t, "1.0", e["specversion"])
	assert.Equal(t, "lazo.response.received", e["type"])
	assert.Equal(t, "https://forms.lake.example/f/told", e["source"])
	assert.Equal(t, id, e["subject"])
	assert.Equal(t, r.Header.Get("Webhook-Id"), e["id"])
	assert.Equal(t, map[string]any{"metres": 14.0}, e["data"].(map[string]any)["answers"])

	letters := p.letters()
	assert.Contains(t, letters[0].Asked, `"metres":14`)
	assert.Equal(t, "200 OK\nthanks", letters[0].Reply)

	_, err = p.db.InWorkspace(p.form.WorkspaceID).Form(p.form.ID).NewHookSecret(context.Background(), "desk", nil)
	require.NoError(t, err)
	p.hook(other.URL, "changed", `{"metres": 15}`)
	p.state(store.Sent, "")
	r, body = <-other.requests, <-other.bodies
	require.NoError(t, checker.Verify([]byte(body), r.Header), "the secret before counts for a day")
}

func TestOfWhatIsDeletedNothingIsTold(t *testing.T) {
	p, other := open(t, "deleted"), program(t)
	id := p.receive(`{"metres": 14, "name": "Ana Prado"}`)
	in := p.db.InWorkspace(p.form.WorkspaceID).Form(p.form.ID)
	now := time.Now()
	require.NoError(t, in.DeleteResponse(context.Background(), id,
		store.Letter{Kind: store.Hook, Edition: 1, Message: "desk",
			Recipient: other.URL, Subject: "deleted", Body: `{"response": "` + id + `"}`, State: store.Waiting, DueAt: now,
			MadeAt: now}))
	p.work(nil, notify.Options{Networks: loopback})
	p.state(store.Sent, "")
	body := <-other.bodies
	assert.Contains(t, body, `"response":"`+id+`"`)
	assert.NotContains(t, body, "Ana")
	assert.Len(t, p.letters(), 1, "letters that waited are gone")
}

func TestProgramsThatAreNotWell(t *testing.T) {
	p, other := open(t, "unwell"), program(t)
	p.work(nil, notify.Options{Networks: loopback})
	elsewhere := program(t)
	for _, try := range []struct {
		answer func(http.ResponseWriter, *http.Request)
		state  store.LetterState
		says   string
	}{
		{func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(500) }, store.Waiting,
			"The program answered with 500. It is tried again."},
		{func(w http.ResponseWriter, _ *http.Request) { w.WriteHeader(410) }, store.Failed, "gone for good (410)"},
		{func(w http.ResponseWriter, r *http.Request) {
			http.Redirect(w, r, elsewhere.URL, http.StatusTemporaryRedirect)
		},
			store.Waiting, "The program led elsewhere (307)"},
		{func(w http.ResponseWriter, _ *http.Request) {
			chunk := strings.Repeat("x", 1<<16)
			for range 1 << 14 { // a gigabyte
				if _, err := io.WriteString(w, chunk); err != nil {
					return
				}
			}
		}, store.Sent, ""},
		{func(w http.ResponseWriter, _ *http.Request) {
			conn, _, _ := w.(http.Hijacker).Hijack()
			_ = conn.Close()
		}, store.Waiting, "The program can’t be reached."},
	} {
		other.answer.Store(try.answer)
		p.hook(other.URL, "received", `{}`)
		p.state(try.state, try.says)
	}
	assert.Empty(t, elsewhere.requests, "nobody follows")
	for _, l := range p.letters() {
		assert.Less(t, len(l.Reply), 3000)
	}
}

func TestOnlyPublicAddressesAreTold(t *testing.T) {
	p, other := open(t, "public"), program(t)
	p.work(nil, notify.Options{})
	secure := httptest.NewTLSServer(http.HandlerFunc(func(http.ResponseWriter, *http.Request) { t.Error("it was told") }))
	t.Cleanup(secure.Close)
	_, port, _ := strings.Cut(strings.TrimPrefix(secure.URL, "https://"), ":")
	for _, to := range []string{
		other.URL, secure.URL, "https://localhost:" + port, "https://[::1]:" + port, "https://[::ffff:127.0.0.1]:" + port,
		"https://0.0.0.0:" + port,
		"https://10.0.0.1/", "https://169.254.169.254/", "https://[fe80::1]/", "https://[fd00::1]/",
		"https://[64:ff9b::7f00:1]/",
		"https://100.64.0.1/",
		"http://desk.example/", "ftp://desk.example/", "https://2130706433:" + port,
	} {
		p.hook(to, "received", `{}`)
		require.EventuallyWithT(t, func(c *assert.CollectT) {
			l := p.letters()[0]
			assert.NotEqual(c, store.Sent, l.State, to)
			assert.NotEmpty(c, l.Answer, to)
			assert.Contains(c, []string{"It is told only by https and at public addresses.",
				"The program can’t be reached. It is tried again."}, l.Answer, to)
		}, 20*time.Second, 20*time.Millisecond)
	}
	assert.Empty(t, other.requests)
}

func TestAHookFollowsItsCondition(t *testing.T) {
	p, remarks := engine.Load([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "metres", "type": "number", "label": "Length in metres"}]}]}],
		"hooks": [{"key": "desk", "url": "https://desk.example/boats", "when": "metres > 5", "events": ["received"]}]}`))
	require.NotNil(t, p, remarks)
	r := store.Response{Answers: []byte(`{"metres": 14}`)}
	going, err := p.GoesOut(nil, engine.Submitted{Answers: r.Answers}, time.Now(), engine.New)
	require.NoError(t, err)
	letters := notify.Letters(1, r, going, time.Now())
	require.Len(t, letters, 1)
	assert.Equal(t, "Told because Length in metres is 14.", letters[0].Reason)
	assert.Equal(t, "https://desk.example/boats", letters[0].Recipient)
}
