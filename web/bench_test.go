package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/web"
)

// largeForm has n items, two ties for three of them.
func largeForm(n int) *form.Form {
	f := &form.Form{Lazo: 1, Key: fmt.Sprintf("large-%d", n), Title: "Large", Timezone: "America/Montevideo"}
	types := []form.Type{form.ChoiceType, form.Number, form.Text, form.YesNo, form.Date}
	for i := range n {
		if i%30 == 0 {
			f.Pages = append(f.Pages, &form.Page{Key: fmt.Sprintf("p%d", i), Title: "Page"})
		}
		page := f.Pages[len(f.Pages)-1]
		if i%10 == 0 {
			page.Sections = append(page.Sections, &form.Section{Key: fmt.Sprintf("s%d", i), Title: "Section"})
		}
		it := &form.Item{
			Key: fmt.Sprintf("q%d", i), Type: types[i%5], Label: fmt.Sprintf("Question %d: what the office needs to know", i),
			Help: "As it stands in the register",
		}
		if it.Type.Picks() {
			it.Choices = []form.Choice{
				{Value: "a", Label: "First of them"}, {Value: "b", Label: "Second of them"}, {Value: "c", Label: "Third of them"},
			}
		}
		if base := i - 5 - i%5; base >= 0 && i%3 > 0 {
			it.Shown = form.When(fmt.Sprintf(`q%d in ("b", "c") and q%d >= %d`, base, base+1, i))
		}
		sec := page.Sections[len(page.Sections)-1]
		sec.Items = append(sec.Items, it)
	}
	return f
}

// BenchmarkManuscript is what a designer waits for, and is sent, on a form of 300 items and
// 197 ties with a live edition: opening a question, changing its label, writing another.
func BenchmarkManuscript(b *testing.B) {
	ctx := context.Background()
	m, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(b, err)
	f, err := db.InWorkspace(m.WorkspaceID).CreateForm(ctx, largeForm(300))
	require.NoError(b, err)
	_, err = db.InWorkspace(m.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(b, err)
	jar, err := cookiejar.New(nil)
	require.NoError(b, err)
	c := client{b, &http.Client{Jar: jar}, site.URL}
	c.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	path := fmt.Sprintf("%s/forms/%d", site.URL, f.ID)
	version := f.DraftVersion
	sent := 0
	send := func(method, to string, body url.Values) {
		req, err := http.NewRequest(method, to, strings.NewReader(body.Encode()))
		require.NoError(b, err)
		req.Header.Set("HX-Request", "true")
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		status, text := c.read(c.Do(req))
		require.Equal(b, http.StatusOK, status, text)
		sent = len(text)
	}
	edit := func(name string, fields func() url.Values) {
		b.Run(name, func(b *testing.B) {
			for b.Loop() {
				body := fields()
				body.Set("version", fmt.Sprint(version))
				body.Set("was", "q155")
				body.Set("wastied", "")
				send("POST", path+"/edit", body)
				version++
			}
			b.ReportMetric(float64(sent), "bytes")
		})
	}
	b.Run("open", func(b *testing.B) {
		for b.Loop() {
			send("GET", fmt.Sprintf("%s?at=q155&version=%d", path, version), nil)
		}
		b.ReportMetric(float64(sent), "bytes")
	})
	edit("label", func() url.Values {
		return url.Values{"do": {"set"}, "key": {"q155"}, "at": {"q155"}, "property": {"label"},
			"value": {fmt.Sprint("Label ", version)}}
	})
	edit("add", func() url.Values {
		return url.Values{"do": {"add"}, "into": {"s150"}, "at": {"q155"}, "label": {fmt.Sprint("Name of the ", version)}}
	})
}

// turns runs two things turn by turn, so that whatever else the machine does meets
// both.
func turns(b *testing.B, ours, bare func()) {
	var a, c []time.Duration
	for b.Loop() {
		begun := time.Now()
		ours()
		middle := time.Now()
		bare()
		a, c = append(a, middle.Sub(begun)), append(c, time.Since(middle))
	}
	report(b, a, c)
}

func took(f func()) time.Duration {
	begun := time.Now()
	f()
	return time.Since(begun)
}

// clients are how many send at once where throughput is measured.
const clients = 8

// throughput has many clients do two things in turn, for a second each, three
// times over, and gives how much of the second's rate the first has (the median).
func throughput(ours, bare func()) float64 {
	rate := func(f func()) float64 {
		var n atomic.Int64
		var w sync.WaitGroup
		end := time.Now().Add(time.Second)
		for range clients {
			w.Go(func() {
				for time.Now().Before(end) {
					f()
					n.Add(1)
				}
			})
		}
		w.Wait()
		return float64(n.Load())
	}
	var shares []float64
	for range 3 {
		shares = append(shares, rate(ours)/rate(bare))
	}
	slices.Sort(shares)
	return shares[1]
}

// report gives the medians and how much of the second's rate the first has.
func report(b *testing.B, ours, bare []time.Duration) {
	slices.Sort(ours)
	slices.Sort(bare)
	a, c := ours[len(ours)/2], bare[len(bare)/2]
	b.ReportMetric(float64(a.Nanoseconds())/1e3, "lazo-µs")
	b.ReportMetric(float64(c.Nanoseconds())/1e3, "bare-µs")
	b.ReportMetric(float64(c)/float64(a), "of-its-rate")
}

// answered posts a public page of a large form, fully answered.
func answered(c client, address string, def *form.Form) url.Values {
	_, page := c.get("/f/" + address)
	v := fields(page)
	i := 0
	for p := range def.Places() {
		v.Set(
			"a."+p.Item.Key,
			map[form.Type]string{form.ChoiceType: "b", form.Number: fmt.Sprint(i), form.Text: "Zulma Olivera", form.YesNo: "yes",
				form.Date: "2026-05-30"}[p.Item.Type],
		)
		i++
	}
	return v
}

// BenchmarkLiveChange is a live change of a form of 200 questions on one page,
// through the whole application, beside a bare chi handler that parses the same
// body and writes the same bytes.
func BenchmarkLiveChange(b *testing.B) {
	def := largeForm(200)
	def.Key = "large-live"
	one := &form.Page{Key: "all", Title: "All"}
	for _, p := range def.Pages {
		one.Sections = append(one.Sections, p.Sections...)
	}
	def.Pages = []*form.Page{one}
	f := published(b, def)
	c := newClient(b)
	v := answered(c, f.Address, def)
	handler := web.New(db, web.Options{Quiet: true, Trust: true})
	post := func(h http.Handler, v string) *httptest.ResponseRecorder {
		r := httptest.NewRequest(http.MethodPost, "/f/"+f.Address+"/live", strings.NewReader(v))
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		return w
	}
	// The page as it is with all answers, then one answer changed.
	first := post(handler, v.Encode()).Body.String()
	digest := regexp.MustCompile(`name="_digest" value="([^"]*)"`).FindStringSubmatch(first)
	require.NotNil(b, digest)
	v.Set("_digest", digest[1])
	v.Set("a.q0", "a")
	body := v.Encode()
	answer := post(handler, body).Body.Bytes()
	require.Greater(b, len(answer), 300)
	bare := chi.NewRouter()
	bare.Post("/f/{address}/live", func(w http.ResponseWriter, r *http.Request) {
		if err := r.ParseForm(); err != nil || len(r.PostForm) == 0 {
			panic("the body can't be parsed")
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		_, _ = w.Write(answer)
	})
	b.ReportMetric(float64(len(answer)), "bytes")
	ours, beside := func() { post(handler, body) }, func() { post(bare, body) }
	share := throughput(ours, beside)
	turns(b, ours, beside)
	b.ReportMetric(share, "of-its-throughput")
	b.ReportMetric(float64(len(answer)), "bytes")
}

// BenchmarkSubmission is a submission of the sample bulletin, posted and stored,
// beside one prepared INSERT of the same row in its own transaction through the
// same pool. The arrivals are not measured.
func BenchmarkSubmission(b *testing.B) {
	ctx := context.Background()
	handler := web.New(db, web.Options{Quiet: true, Trust: true})
	def := demo.LakeBulletin() // without its letters, which BenchmarkLetters is about
	def.Key, def.Confirm, def.Messages = fmt.Sprintf("bulletin-%d", time.Now().UnixNano()), nil, nil
	f := published(b, def)
	c := newClient(b)
	arrive := func() string {
		_, page := c.get("/f/" + f.Address)
		return with(
			fields(page), "a.email", "bench@lakeside.example", "a.email#again", "bench@lakeside.example", "a.first_name",
			"Zulma", "_do", "send",
		).Encode()
	}
	var n atomic.Int64
	send := func(body string) {
		i := n.Add(1)
		r := httptest.NewRequest(http.MethodPost, "/f/"+f.Address, strings.NewReader(body))
		r.RemoteAddr = fmt.Sprintf("10.%d.%d.%d:1", i>>16&255, i>>8&255, i&255)
		r.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		w := httptest.NewRecorder()
		handler.ServeHTTP(w, r)
		if w.Code != http.StatusSeeOther {
			panic(w.Body.String())
		}
	}
	run := time.Now().UnixNano() & 0xffffffff // fillings of its own
	bare := func() {
		_, err := db.Pool().
			Exec(ctx, `insert into responses (workspace_id, form_id, edition, answers, parameters, received_at, filling) values ($1, $2, $3, $4, $5, $6, $7)`,
				f.WorkspaceID, f.ID, 1, []byte(`{"email": "bench@lakeside.example", "first_name": "Zulma", "source": "direct"}`),
				[]byte(`null`), time.Now(), fmt.Sprintf("%08x-0000-4000-9000-%012x", run, n.Add(1)))
		if err != nil {
			panic(err)
		}
	}
	bodies := make(chan string, 20_000) // more than three seconds take
	for range cap(bodies) {
		bodies <- arrive()
	}
	share := throughput(func() {
		select {
		case body := <-bodies:
			send(body)
		default: // a quick machine; then the arrival counts
			send(arrive())
		}
	}, bare)
	var a, p []time.Duration
	for b.Loop() {
		body := arrive()
		// In either order, since the disk is quicker just after a flush.
		if len(a)%2 == 0 {
			a, p = append(a, took(func() { send(body) })), append(p, took(bare))
		} else {
			p, a = append(p, took(bare)), append(a, took(func() { send(body) }))
		}
	}
	report(b, a, p)
	b.ReportMetric(share, "of-its-throughput")
}
