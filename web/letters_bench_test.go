package web_test

import (
	"context"
	"fmt"
	"net"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/notify"
	"lazo/notify/postbox"
	"lazo/store"
	"lazo/web"
)

// Respondents that send at once, and how many responses they send to each form.
const (
	atOnce   = 20
	sendings = 10_000
)

// BenchmarkLetters has twenty respondents send ten thousand responses to a form without a
// letter and to one that thanks each of them, while its letters are delivered, in turns of a
// thousand. All letters arrive once.
func BenchmarkLetters(b *testing.B) {
	box := postbox.New(nil)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(b, err)
	go func() { _ = box.Serve(l) }()
	defer box.Close()
	smtp, err := notify.SMTP("smtp://"+l.Addr().String()+"?tls=none", "office@pedralta.example")
	require.NoError(b, err)
	office := notify.New(db, notify.Options{Server: smtp, Quiet: true,
		Limits: store.Limits{Form: 1 << 30, Address: 1 << 30}})
	handler := web.New(db, web.Options{Quiet: true, Trust: true, Office: office})
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- office.Run(ctx) }()
	defer func() { cancel(); require.NoError(b, <-ended) }()

	run := fmt.Sprint(time.Now().UnixNano())
	quiet, loud := thanking(b, "without-letters-"+run, nil), thanking(b, "with-letters-"+run, []form.Message{
		{Key: "thanks", Name: "Thanks", To: []string{"{email}"}, Subject: "Thank you, {name}",
			Body: "Dear {name},\n\nwe have your answer."},
	})
	var n atomic.Int64
	send := func(address string, bodies []string) time.Duration {
		begun := time.Now()
		var next atomic.Int64
		var all sync.WaitGroup
		for range atOnce {
			all.Go(func() {
				for i := next.Add(1) - 1; i < int64(len(bodies)); i = next.Add(1) - 1 {
					who := n.Add(1)
					r := httptest.NewRequest(http.MethodPost, "/f/"+address, strings.NewReader(bodies[i]))
					r.RemoteAddr = fmt.Sprintf("10.%d.%d.%d:1", who>>16&255, who>>8&255, who&255)
					r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
					w := httptest.NewRecorder()
					handler.ServeHTTP(w, r)
					if w.Code != http.StatusSeeOther {
						panic(w.Body.String())
					}
				}
			})
		}
		all.Wait()
		return time.Since(begun)
	}
	for b.Loop() {
		var took [2]time.Duration
		for turn := range 2 * sendings / 1000 {
			which := []int{0, 1, 1, 0}[turn%4] // neither always comes first
			address := []string{quiet, loud}[which]
			bodies := arrivals(b, address, 1000)
			took[which] += send(address, bodies)
		}
		want := sendings
		require.Eventually(b, func() bool { return len(box.Letters()) >= want }, 5*time.Minute, 50*time.Millisecond)
		require.Len(b, box.Letters(), want, "each once")
		to := map[string]bool{}
		for _, l := range box.Letters() {
			to[l.To[0]] = true
		}
		require.Len(b, to, want)
		b.ReportMetric(sendings/took[0].Seconds(), "without/s")
		b.ReportMetric(sendings/took[1].Seconds(), "with/s")
		b.ReportMetric(took[0].Seconds()/took[1].Seconds(), "of-its-rate")
	}
}

// thanking publishes a form with messages, and gives its address.
func thanking(b *testing.B, key string, messages []form.Message) string {
	b.Helper()
	ctx := context.Background()
	def := &form.Form{Lazo: 1, Key: key, Title: "Thanks", Timezone: "UTC", Messages: messages,
		Pages: []*form.Page{{Key: "p",
			Sections: []*form.Section{{Key: "s", Items: []*form.Item{
				{Key: "email", Type: form.Email, Label: "E-mail address"}, {Key: "name", Type: form.Text, Label: "Name"}}}}}}}
	any, err := db.FormByAddress(ctx, "lake-bulletin")
	require.NoError(b, err)
	m, err := db.MemberByEmail(ctx, "office@pedralta.example")
	require.NoError(b, err)
	f, err := db.InWorkspace(any.WorkspaceID).CreateForm(ctx, def)
	require.NoError(b, err)
	_, err = db.InWorkspace(any.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(b, err)
	return f.Address
}

var arrived atomic.Int64

// arrivals are pages of a form, filled in by as many people, ready to be sent.
func arrivals(b *testing.B, address string, n int) []string {
	b.Helper()
	c := newClient(b)
	out := make([]string, n)
	for i := range out {
		_, page := c.get("/f/" + address)
		who := arrived.Add(1)
		out[i] = with(fields(page), "a.email", fmt.Sprintf("rower%d@lakeside.example", who), "a.name", "Zulma", "_do",
			"send").Encode()
	}
	return out
}
