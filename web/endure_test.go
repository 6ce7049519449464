package web_test

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
)

// copyOf is a copy of the application in a process of its own, which is stopped hard
// and started again.
type copyOf struct {
	binary, address, database, log string
	also                           []string // further flags

	mu      sync.Mutex
	process *exec.Cmd
	up      atomic.Bool // it was not stopped
}

func (c *copyOf) start(t *testing.T) {
	c.mu.Lock()
	defer c.mu.Unlock()
	log, err := os.OpenFile(c.log, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	require.NoError(t, err)
	c.process = exec.Command(c.binary, append([]string{"serve", "--listen", c.address}, c.also...)...)
	c.process.Env = append(os.Environ(), "LAZO_DATABASE_URL="+c.database)
	c.process.Stdout, c.process.Stderr = log, log
	require.NoError(t, c.process.Start())
	c.up.Store(true)
}

func (c *copyOf) kill() {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.up.Store(false)
	_ = c.process.Process.Kill()
	_ = c.process.Wait()
}

// megabytes is how much memory the copy has resident.
func (c *copyOf) megabytes() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	status, _ := os.ReadFile(fmt.Sprintf("/proc/%d/status", c.process.Process.Pid))
	_, after, _ := strings.Cut(string(status), "VmRSS:")
	kb := 0
	_, _ = fmt.Sscan(after, &kb)
	return kb / 1024
}

// health is the status that the copy's page of readiness has, 0 if it does not answer. The
// version before has another page for it.
func (c *copyOf) health() int {
	client := http.Client{Timeout: 5 * time.Second}
	status := 0
	for _, page := range []string{"/readyz", "/healthz"} {
		res, err := client.Get("http://" + c.address + page)
		if err != nil {
			return 0
		}
		res.Body.Close()
		if status = res.StatusCode; status != http.StatusNotFound {
			break
		}
	}
	return status
}

// either dials the copies as a balancer before them does: the next one if one is gone.
func either(copies []*copyOf, from int) *http.Client {
	var turn atomic.Int64
	dial := &net.Dialer{LocalAddr: &net.TCPAddr{IP: net.IPv4(127, 0, 2+byte(from/250), byte(from%250+1))},
		Timeout: 3 * time.Second}
	return &http.Client{
		Timeout:       15 * time.Second,
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		Transport: &http.Transport{
			DisableKeepAlives: true,
			DialContext: func(ctx context.Context, network, _ string) (conn net.Conn, err error) {
				for range copies {
					if conn, err = dial.DialContext(ctx, network, copies[int(turn.Add(1))%len(copies)].address); err == nil {
						return conn, nil
					}
				}
				return nil, err
			},
		},
	}
}

// A run of some minutes (LAZO_ENDURE, such as 10m; it is skipped without): two copies of
// the application, respondents, slow senders and slow readers, and hard stops of a copy
// and of the database in turn. Nothing acknowledged is lost, and the health page tells
// the truth.
func TestTwoCopiesEndureStopsAndSlowVisitors(t *testing.T) {
	lasts, err := time.ParseDuration(os.Getenv("LAZO_ENDURE"))
	if err != nil {
		t.Skip("make endure runs it")
	}
	ctx := context.Background()
	postgres := func(verb string) string {
		out, err := exec.Command("bash", "../scripts/postgres.sh", verb, "../.run/endure").CombinedOutput()
		require.NoError(t, err, string(out))
		return strings.TrimSpace(string(out))
	}
	address := postgres("start")
	defer postgres("stop")
	s, err := store.Open(ctx, address)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Migrate(ctx))
	f, email := enduring(t, s)

	binary, err := filepath.Abs("../.run/endure/lazo")
	require.NoError(t, err)
	out, err := exec.Command("go", "build", "-o", binary, "lazo/cmd/lazo").CombinedOutput()
	require.NoError(t, err, string(out))
	var copies []*copyOf
	for n := range 2 {
		c := &copyOf{binary: binary, address: fmt.Sprintf("127.0.0.1:%d", 24610+n), database: address,
			log: fmt.Sprintf("%s-%d.log", binary, n)}
		c.start(t)
		defer c.kill()
		copies = append(copies, c)
	}
	for _, c := range copies {
		require.Eventually(t, func() bool { return c.health() == http.StatusOK }, 20*time.Second, 100*time.Millisecond)
	}

	e := &endurance{t: t, form: f, copies: copies, until: time.Now().Add(lasts)}
	e.there.Store(true)
	for n := range 120 {
		e.everyone.Go(func() { e.respond(n) })
	}
	for n := range 20 {
		e.everyone.Go(func() { e.sendSlowly(n) })
	}
	for n := range 8 {
		e.everyone.Go(func() { e.readSlowly(n, email) })
	}
	e.everyone.Go(e.watchHealth)
	e.everyone.Go(func() { e.measure(s) })
	e.everyone.Go(func() { e.stopHard(postgres) })
	e.everyone.Wait()

	there := map[string]int{}
	rows, err := s.Pool().Query(ctx, "select filling::text from responses where form_id = $1", f.ID)
	require.NoError(t, err)
	defer rows.Close()
	for rows.Next() {
		var filling string
		require.NoError(t, rows.Scan(&filling))
		there[filling]++
	}
	require.NoError(t, rows.Err())
	lost := 0
	e.received.Range(func(filling, _ any) bool {
		if there[filling.(string)] != 1 {
			lost++
		}
		return true
	})
	assert.Zero(t, lost, "what was answered “received” is there, once")
	t.Logf(
		"%d received, %d stored, %d lost; %d looks at the health page, %d of them untrue", e.total.Load(), len(there), lost,
		e.looks.Load(), e.untrue.Load(),
	)
	assert.Zero(t, e.untrue.Load())
	assert.Greater(t, e.total.Load(), int64(lasts.Seconds()), "it was under load")
}

// endurance is one run.
type endurance struct {
	t        *testing.T
	form     store.Form
	copies   []*copyOf
	until    time.Time
	everyone sync.WaitGroup

	received      sync.Map // filling to true
	total         atomic.Int64
	there         atomic.Bool // the database was not stopped
	changed       atomic.Int64
	looks, untrue atomic.Int64
}

func (e *endurance) over() bool { return time.Now().After(e.until) }

// enduring is a form with a file and a signature, and the address of a member whose
// password is the demo's.
func enduring(t *testing.T, s *store.Store) (store.Form, string) {
	ctx := context.Background()
	w, err := s.CreateWorkspace(ctx, "Endurance")
	require.NoError(t, err)
	hash := storetest.Hash("regatta")
	m, err := s.CreateMember(
		ctx,
		store.Member{WorkspaceID: w.ID, Email: fmt.Sprintf("%d@pedralta.example", time.Now().UnixNano()), PasswordHash: hash},
	)
	require.NoError(t, err)
	f, err := s.InWorkspace(w.ID).CreateForm(ctx,
		aForm(fmt.Sprintf("endure-%d", time.Now().UnixNano()), func(f *form.Form) {
			f.Pages[0].Sections[0].Items = append(
				f.Pages[0].Sections[0].Items,
				&form.Item{Key: "signed", Type: form.Signature, Label: "Signature", Required: form.Always},
				&form.Item{Key: "paper", Type: form.File, Label: "Paper"},
			)
		}))
	require.NoError(t, err)
	_, err = s.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	return f, m.Email
}

// respond fills the form in again and again.
func (e *endurance) respond(n int) {
	p := &respondent{base: "http://lazo.example/f/" + e.form.Address, n: n, http: either(e.copies, n)}
	for !e.over() || p.fields != nil && time.Now().Before(e.until.Add(20*time.Second)) {
		fresh := p.fields == nil
		if filling := p.step(); filling != "" {
			if _, twice := e.received.LoadOrStore(filling, true); twice {
				e.t.Error("a filling is received once")
			}
			e.total.Add(1)
		}
		if time.Sleep(100 * time.Millisecond); fresh {
			time.Sleep(2100 * time.Millisecond) // nobody fills in faster, and 30 a minute are taken from each
		}
	}
}

// sendSlowly sends a file that takes a minute.
func (e *endurance) sendSlowly(n int) {
	client := either(e.copies, 200+n)
	client.Timeout = 0
	for !e.over() {
		res, err := client.Get("http://lazo.example/f/" + e.form.Address)
		if err != nil {
			time.Sleep(time.Second)
			continue
		}
		page, _ := io.ReadAll(res.Body)
		res.Body.Close()
		var head bytes.Buffer
		w := multipart.NewWriter(&head)
		for name, values := range with(fields(string(page)), "_do", "update") {
			_ = w.WriteField(name, values[0])
		}
		_, _ = w.CreateFormFile("a.paper", "paper.txt")
		body := io.MultiReader(&head, &trickle{left: 60, until: e.until}, strings.NewReader("\r\n--"+w.Boundary()+"--\r\n"))
		if res, err := client.Post("http://lazo.example/f/"+e.form.Address, w.FormDataContentType(), body); err == nil {
			res.Body.Close()
		}
	}
}

// trickle is some kilobytes, one a second.
type trickle struct {
	left  int
	until time.Time
}

func (s *trickle) Read(p []byte) (int, error) {
	if s.left--; s.left < 0 || time.Now().After(s.until) {
		return 0, io.EOF
	}
	time.Sleep(time.Second)
	return copy(p, bytes.Repeat([]byte("Oars. "), 170)), nil
}

// readSlowly reads an export a little at a time.
func (e *endurance) readSlowly(n int, email string) {
	client := either(e.copies, 230+n)
	client.Timeout, client.CheckRedirect = 0, nil
	client.Jar, _ = cookiejar.New(nil)
	for !e.over() {
		res, err := client.PostForm("http://lazo.example/sign-in", url.Values{"email": {email}, "password": {"regatta"}})
		if err == nil {
			res.Body.Close()
			res, err = client.Get(fmt.Sprintf("http://lazo.example/forms/%d/responses.csv", e.form.ID))
		}
		if err != nil {
			time.Sleep(time.Second)
			continue
		}
		for piece := make([]byte, 1000); err == nil && !e.over(); time.Sleep(200 * time.Millisecond) {
			_, err = res.Body.Read(piece)
		}
		res.Body.Close()
	}
}

// watchHealth holds what the health pages say against what was stopped. Nothing is said
// about the seconds around a stop or a start.
func (e *endurance) watchHealth() {
	for ; !e.over(); time.Sleep(500 * time.Millisecond) {
		for _, c := range e.copies {
			before, up, there := e.changed.Load(), c.up.Load(), e.there.Load()
			if time.Since(time.Unix(0, before)) < 5*time.Second {
				continue
			}
			status := c.health()
			if e.changed.Load() != before {
				continue
			}
			e.looks.Add(1)
			if want := map[bool]int{true: http.StatusOK, false: http.StatusServiceUnavailable}[there]; up && status != want ||
				!up && status != 0 {
				e.untrue.Add(1)
				e.t.Logf("the health page says %d; up %v, database there %v", status, up, there)
			}
		}
	}
}

// stopHard stops a copy, the other, and the database, again and again.
func (e *endurance) stopHard(postgres func(string) string) {
	change := func(do func()) {
		e.changed.Store(time.Now().UnixNano())
		do()
		e.changed.Store(time.Now().UnixNano())
	}
	for n := 0; ; n++ {
		time.Sleep(20 * time.Second)
		if e.over() {
			return
		}
		if n%3 == 2 {
			change(func() { e.there.Store(false); postgres("crash") })
			time.Sleep(8 * time.Second)
			change(func() { postgres("start"); e.there.Store(true) })
			continue
		}
		c := e.copies[n%3]
		change(c.kill)
		time.Sleep(8 * time.Second)
		change(func() { c.start(e.t) })
	}
}

// measure says how much memory and how many rows there are, a few times.
func (e *endurance) measure(s *store.Store) {
	every := time.Until(e.until) / 10
	for n := 1; ; n++ {
		time.Sleep(every)
		if e.over() {
			return
		}
		var said strings.Builder
		fmt.Fprintf(
			&said, "after %v: %d received; memory %d and %d MB; rows", time.Duration(n)*every, e.total.Load(),
			e.copies[0].megabytes(), e.copies[1].megabytes(),
		)
		for _, table := range []string{"responses", "uploads", "upload_pieces", "public_counts", "returns", "sessions",
			"presences", "erased_fillings"} {
			rows := -1
			_ = s.Pool().QueryRow(context.Background(), "select count(*) from "+table).Scan(&rows)
			fmt.Fprintf(&said, " %s %d", table, rows)
		}
		e.t.Log(said.String())
	}
}
