package web_test

import (
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/demo"
	"lazo/store"
	"lazo/store/storetest"
	"lazo/web/respond"
)

// built is the application as it is, or as a commit had it, as a program.
func built(t *testing.T, commit string) string {
	t.Helper()
	binary := filepath.Join(t.TempDir(), "lazo")
	cmd := exec.Command("go", "build", "-o", binary, "lazo/cmd/lazo")
	if commit != "" {
		cmd.Dir = filepath.Join(t.TempDir(), "before")
		require.NoError(t, os.Mkdir(cmd.Dir, 0o755))
		taken := exec.Command("bash", "-c", "git archive "+commit+" | tar -x -C "+cmd.Dir)
		taken.Dir = ".."
		out, err := taken.CombinedOutput()
		require.NoError(t, err, string(out))
	}
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	return binary
}

// running starts copies of a program over a database.
func running(t *testing.T, binary, database string, ports []int, also ...string) (copies []*copyOf) {
	t.Helper()
	for _, port := range ports {
		c := &copyOf{binary: binary, address: fmt.Sprintf("127.0.0.1:%d", port), database: database, also: also,
			log: filepath.Join(t.TempDir(), "log")}
		c.start(t)
		t.Cleanup(func() {
			c.kill()
			if log, _ := os.ReadFile(c.log); t.Failed() {
				t.Logf("%s said:\n%s", c.address, log)
			}
		})
		copies = append(copies, c)
	}
	for _, c := range copies {
		if !assert.Eventually(t, func() bool { return c.health() == http.StatusOK }, 20*time.Second, 50*time.Millisecond) {
			t.FailNow()
		}
	}
	return copies
}

// Three copies stand behind a balancer, and one is stopped hard. Who is signed in stays so,
// what was answered “received” is stored once, and nobody waits for the one that is gone.
func TestThreeCopiesAndOneIsKilled(t *testing.T) {
	atLength(t)
	ctx := context.Background()
	s, address, done := storetest.OpenURL()
	defer done()
	require.NoError(t, demo.Ensure(ctx, s, time.Now()))
	copies := running(t, built(t, ""), address, []int{24620, 24621, 24622})

	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	desk := either(copies, 1)
	desk.Jar = jar
	at := "http://" + copies[0].address
	res, err := desk.PostForm(at+"/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	require.NoError(t, err)
	res.Body.Close()
	require.Equal(t, http.StatusSeeOther, res.StatusCode)

	people := respondents(at, 12, 5*time.Second, func(n int) *http.Client { return either(copies, 2+n) })
	time.Sleep(respond.LeastTime + time.Second)
	copies[1].kill()
	for range 10 { // whichever of the two is asked
		res, err := desk.Get(at + "/forms")
		require.NoError(t, err)
		page, err := io.ReadAll(res.Body)
		res.Body.Close()
		require.NoError(t, err)
		assert.Equal(t, http.StatusOK, res.StatusCode)
		assert.Contains(t, string(page), "Crew entry")
	}
	n := people.stored(t, s)
	assert.Greater(t, n, 12, "responses were received before and after")
	t.Logf("%d received", n)
}

// answering are people who fill the sample bulletin in again and again.
type answering struct {
	everyone sync.WaitGroup
	all      atomic.Int32
	received sync.Map // the fillings that were answered “received”
	failed   sync.Map // what else was answered, by its status
}

// respondents has so many of them answer for a while, each by a client of their own.
func respondents(at string, many int, long time.Duration, by func(n int) *http.Client) *answering {
	p := &answering{}
	until := time.Now().Add(long)
	for n := range many {
		p.everyone.Go(func() {
			visitor := by(n)
			for time.Now().Before(until) {
				p.answer(visitor, at, n)
			}
		})
	}
	return p
}

var received = regexp.MustCompile(`/received/([\w-]+)`)

// answer fills the form in once; whoever it is with may be gone, and people try again.
func (p *answering) answer(visitor *http.Client, at string, n int) {
	res, err := visitor.Get(at + "/f/lake-bulletin")
	if err != nil {
		return
	}
	page, err := io.ReadAll(res.Body)
	res.Body.Close()
	if err != nil || res.StatusCode != http.StatusOK {
		p.failed.Store(res.StatusCode, true)
		return
	}
	mail := fmt.Sprintf("r%d-%d@lake.example", n, p.all.Add(1))
	v := with(fields(string(page)), "a.email", mail, "a.email#again", mail, "_do", "send")
	time.Sleep(respond.LeastTime + 200*time.Millisecond) // as somebody who types
	for range tries {
		if res, err = visitor.PostForm(at+"/f/lake-bulletin", v); err != nil {
			return
		}
		res.Body.Close()
		if res.StatusCode < http.StatusInternalServerError {
			break
		}
		p.failed.Store(res.StatusCode, true)
		time.Sleep(50 * time.Millisecond)
	}
	if m := received.FindStringSubmatch(res.Header.Get("Location")); m != nil {
		p.received.Store(m[1], true)
	}
}

// stored waits for all of them, and looks whether what they were told was received is there
// once; it gives how much that is.
func (p *answering) stored(t *testing.T, s *store.Store) (n int) {
	t.Helper()
	p.everyone.Wait()
	p.received.Range(func(filling, _ any) bool {
		n++
		var stored int
		require.NoError(t, s.Pool().QueryRow(context.Background(), "select count(*) from responses where filling = $1",
			filling).Scan(&stored))
		assert.Equal(t, 1, stored, filling)
		return true
	})
	return n
}

// patient tries again where a plan that a connection has prepared is of the schema before:
// each is made anew after it failed once.
type patient struct{ client }

// tries is more than one for each connection.
const tries = 20

func (p patient) get(path string) (status int, page string) {
	for range tries {
		if status, page = p.client.get(path); status < 500 {
			break
		}
	}
	return status, page
}

func (p patient) post(path string, v url.Values) (status int, page string) {
	for range tries {
		if status, page = p.client.post(path, v); status < 500 {
			break
		}
	}
	return status, page
}

// earlier runs a copy of an earlier state, with its own schema and the sample workspace, and
// opens its database.
func earlier(t *testing.T, commit string, port int) (copies []*copyOf, address string, s *store.Store) {
	t.Helper()
	if os.Getenv("LAZO_UPGRADE") == "" {
		t.Skip("make upgrade runs it, since it builds another version first")
	}
	if exec.Command("git", "-C", "..", "cat-file", "-e", commit+"^{commit}").Run() != nil {
		t.Skip("the history of this checkout does not go back to the version before")
	}
	ctx := context.Background()
	address, done := storetest.Empty()
	t.Cleanup(done)
	copies = running(t, built(t, commit), address, []int{port}, "--demo")
	s, err := store.Open(ctx, address)
	require.NoError(t, err)
	t.Cleanup(s.Close)
	require.Eventually(t, func() bool { // the last that is laid out
		f, err := s.FormByAddress(ctx, "crew-entry")
		return err == nil && f.LiveEdition != nil
	}, 20*time.Second, 100*time.Millisecond)
	return copies, address, s
}

// theLastVersion is the one that is out while this one is made; it moves on with each release.
const theLastVersion = "67dc579"

// While an installation is brought up to date, copies of the version before run on the
// schema of this one: people sign in, answer, look, edit and publish, and what they do is
// there afterwards.
func TestTheLastVersionRunsOnTheNewSchema(t *testing.T) {
	ctx := context.Background()
	copies, _, s := earlier(t, theLastVersion, 24623)
	before := copies[0]
	time.Sleep(time.Second)
	require.NoError(t, s.Migrate(ctx))
	c := patient{newClient(t).at("http://" + before.address)}
	status, page := c.post("/sign-in", url.Values{"email": {demo.Email}, "password": {demo.Password}})
	require.Equal(t, http.StatusOK, status, page)
	f, err := s.FormByAddress(ctx, "lake-bulletin")
	require.NoError(t, err)
	desk := fmt.Sprintf("/forms/%d", f.ID)
	for _, path := range []string{"/forms", desk, desk + "/rehearsal", desk + "/responses", desk + "/responses/summary",
		desk + "/responses.csv", desk + "/links", desk + "/public", desk + "/publish", "/lists", "/workspace",
		"/f/crew-entry"} {
		status, page := c.get(path)
		assert.Equal(t, http.StatusOK, status, "%s: %.300s", path, page)
	}
	f, err = s.InWorkspace(f.WorkspaceID).Form(f.ID).Get(ctx)
	require.NoError(t, err)
	status, page = c.post(desk+"/edit",
		url.Values{"version": {fmt.Sprint(f.DraftVersion)}, "do": {"set"}, "property": {"title"},
			"value": {"Bulletin of the lake"}})
	require.Equal(t, http.StatusOK, status, page)
	f, err = s.InWorkspace(f.WorkspaceID).Form(f.ID).Get(ctx)
	require.NoError(t, err)
	assert.Equal(t, "Bulletin of the lake", f.Title)
	status, page = c.post(desk+"/publish", url.Values{"version": {fmt.Sprint(f.DraftVersion)}, "sure": {"1"}})
	require.Equal(t, http.StatusOK, status, page)
	e, err := s.InWorkspace(f.WorkspaceID).Form(f.ID).LastEdition(ctx)
	require.NoError(t, err)
	assert.Equal(t, 2, e)
	n, err := s.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	respondent := patient{newClient(t).at("http://" + before.address)}
	_, form := respondent.get("/f/lake-bulletin")
	time.Sleep(respond.LeastTime + 200*time.Millisecond) // as somebody who types
	sent := with(fields(form), "a.email", "old@lake.example", "a.email#again", "old@lake.example", "_do", "send")
	status, page = respondent.post("/f/lake-bulletin", sent)
	require.Equal(t, http.StatusOK, status, page)
	after, err := s.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, n+1, after)

	// A password that is set by this version is good for the one before at once.
	a, err := s.AccountByEmail(ctx, demo.SecondEmail)
	require.NoError(t, err)
	require.NoError(t, s.SetPassword(ctx, a.ID, storetest.Hash("oars by the jetty"), ""))
	again := patient{newClient(t).at("http://" + before.address)}
	status, page = again.post("/sign-in", url.Values{"email": {demo.SecondEmail}, "password": {"oars by the jetty"}})
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, "Crew entry")
	assert.False(t, strings.Contains(page, "do not go together"))
	_, err = s.CreateMember(ctx,
		store.Member{WorkspaceID: f.WorkspaceID, Email: "late@pedralta.example", Name: "Late", PasswordHash: "x"})
	require.NoError(t, err)
}

// lastLanded is the state of the work before what is being made now; it moves on with it.
const lastLanded = "29c9624"

// An installation is brought up to date while people fill forms in and the office works: a
// copy of this version starts beside the one before, brings the tables up to date, and takes
// over. What was received is stored, once, and the desk goes on.
func TestBroughtUpToDateUnderLoad(t *testing.T) {
	ctx := context.Background()
	copies, address, s := earlier(t, lastLanded, 24640)
	after := built(t, "")
	at := "http://" + copies[0].address
	var all atomic.Pointer[[]*copyOf]
	all.Store(&copies)
	people := respondents(at, 8, 14*time.Second, func(int) *http.Client {
		return &http.Client{Timeout: 10 * time.Second, CheckRedirect: func(*http.Request,
			[]*http.Request) error {
			return http.ErrUseLastResponse
		},
			Transport: &http.Transport{DialContext: func(ctx context.Context, network, _ string) (net.Conn, error) {
				var last error
				for _, c := range *all.Load() {
					conn, err := (&net.Dialer{Timeout: time.Second}).DialContext(ctx, network, c.address)
					if err == nil {
						return conn, nil
					}
					last = err
				}
				return nil, last
			}}}
	})
	time.Sleep(4 * time.Second)
	fresh := running(t, after, address, []int{24641})
	both := append(append([]*copyOf{}, fresh...), copies...)
	all.Store(&both)
	before := 0
	people.received.Range(func(_, _ any) bool { before++; return true })
	time.Sleep(3 * time.Second)
	require.NoError(t, copies[0].process.Process.Signal(os.Interrupt))
	n := people.stored(t, s)
	assert.Positive(t, before, "responses were received by the version before")
	assert.Greater(t, n, before, "and by this one")
	people.failed.Range(func(status, _ any) bool { t.Logf("some were told %d, and tried again", status); return true })
	t.Logf("%d received, %d of them before", n, before)
	c := newClient(t).at("http://" + fresh[0].address).signIn()
	f, err := s.FormByAddress(ctx, "lake-bulletin")
	require.NoError(t, err)
	status, page := c.get(fmt.Sprintf("/forms/%d/responses", f.ID))
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, "@lake.example")
}

// One that is told to stop says so first, and goes on answering meanwhile.
func TestItSaysThatItEndsBeforeItDoes(t *testing.T) {
	atLength(t)
	s, address, done := storetest.OpenURL()
	defer done()
	require.NoError(t, s.Ready(context.Background()))
	one := running(t, built(t, ""), address, []int{24630}, "--drain=2s")[0]
	status := func(path string) int {
		res, err := http.Get("http://" + one.address + path)
		if err != nil {
			return 0
		}
		res.Body.Close()
		return res.StatusCode
	}
	require.Equal(t, http.StatusOK, status("/readyz"))
	require.NoError(t, one.process.Process.Signal(os.Interrupt))
	require.Eventually(t, func() bool { return status("/readyz") == http.StatusServiceUnavailable }, 2*time.Second,
		20*time.Millisecond)
	assert.Equal(t, http.StatusOK, status("/sign-in"), "all else answers")
	require.Eventually(t, func() bool { return status("/readyz") == 0 }, 10*time.Second, 50*time.Millisecond)
}
