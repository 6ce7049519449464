package web_test

import (
	"bytes"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"os"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/demo"
	"lazo/metrics"
	"lazo/web"
)

// Behind https browsers are told to stay there, and the cookie is one that nothing else
// can set.
func TestBehindHTTPS(t *testing.T) {
	signIn := url.Values{"email": {demo.Email}, "password": {demo.Password}}
	secure := from(web.New(db, web.Options{Quiet: true, Secure: true, Base: "https://forms.club.example"}), "192.0.2.90")
	page := secure(http.MethodGet, "/sign-in", nil)
	assert.Equal(t, "max-age=31536000", page.Header().Get("Strict-Transport-Security"))
	assert.Equal(t, "same-origin", page.Header().Get("Cross-Origin-Opener-Policy"))
	assert.Contains(t, page.Header().Get("Permissions-Policy"), "camera=()")
	assert.Contains(t, page.Header().Get("Content-Security-Policy"), "default-src 'none'")
	in := secure(http.MethodPost, "/sign-in", signIn)
	require.Equal(t, http.StatusSeeOther, in.Code)
	cookie := in.Result().Cookies()[0]
	assert.Equal(t, "__Host-lazo", cookie.Name)
	assert.True(t, cookie.Secure && cookie.HttpOnly)
	assert.Equal(t, http.SameSiteLaxMode, cookie.SameSite)
	assert.Equal(t, "/", cookie.Path)
	assert.Empty(t, cookie.Domain)

	plain := from(web.New(db, web.Options{Quiet: true}), "192.0.2.91")
	in = plain(http.MethodPost, "/sign-in", signIn)
	assert.Empty(t, in.Header().Get("Strict-Transport-Security"))
	assert.Equal(t, "lazo", in.Result().Cookies()[0].Name)
}

// Whoever runs the application sees how it does; visitors don't.
func TestWhatIsCounted(t *testing.T) {
	f := metrics.New(db, "1.2.3")
	ending := make(chan struct{})
	app := web.New(db, web.Options{Quiet: true, Figures: f, Ending: ending})
	visit := from(app, "192.0.2.92")
	visit(http.MethodGet, "/f/shore-crew", nil)
	visit("BREW", "/f/shore-crew", nil)
	assert.Equal(t, http.StatusNotFound, visit(http.MethodGet, "/metrics", nil).Code)
	w := httptest.NewRecorder()
	f.Handler().ServeHTTP(w, httptest.NewRequest(http.MethodGet, "/", nil))
	said := w.Body.String()
	for _, line := range []string{
		`lazo_request_seconds_count{method="GET",route="/f/{address}",status="200"} 1`, "lazo_run_seconds_count 1",
		`lazo_build{version="1.2.3"} 1`,
		"lazo_database_up 1", `lazo_connections{of="public",state="most"}`, `lazo_connections{of="desk",state="used"}`,
		`lazo_attempts_total{ended="failed",kind="email"} 0`, `lazo_outbox{kind="hook",state="failed"} 0`,
		"lazo_faults_total 0", `lazo_bytes{of="database"}`, "lazo_responses ", `lazo_forms{state="live"}`,
		"lazo_outbox_oldest_seconds", `method="other"`, "process_resident_memory_bytes",
	} {
		assert.Contains(t, said, line)
	}
	assert.NotContains(t, said, "shore-crew")
	assertWatched(t, said)

	assert.Equal(t, http.StatusOK, visit(http.MethodGet, "/readyz", nil).Code)
	close(ending)
	assert.Equal(t, http.StatusServiceUnavailable, visit(http.MethodGet, "/readyz", nil).Code,
		"a proxy sends visitors to others")
	assert.Equal(t, http.StatusOK, visit(http.MethodGet, "/healthz", nil).Code, "it still lives")
	assert.Equal(t, http.StatusOK, visit(http.MethodGet, "/f/shore-crew", nil).Code, "and serves who is there")
}

// assertWatched looks whether what the rules and the picture for who runs Lazo ask for is
// there to be collected.
func assertWatched(t *testing.T, said string) {
	t.Helper()
	named := regexp.MustCompile(`\b(?:lazo|process)_[a-z_]+`)
	for _, file := range []string{"../deploy/alerts.yml", "../deploy/dashboard.json"} {
		data, err := os.ReadFile(file)
		require.NoError(t, err)
		found := named.FindAllString(string(data), -1)
		assert.Greater(t, len(found), 6)
		for _, name := range found {
			assert.Contains(t, said, "\n"+name, "%s asks for it", file)
		}
	}
}

// The log says who made a request by a number, and what they answered not at all.
func TestTheLogSaysWhoAndNotWhat(t *testing.T) {
	var log bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewJSONHandler(&log, nil)))
	defer slog.SetDefault(before)
	server := httptest.NewServer(web.New(db, web.Options{Trust: true}))
	defer server.Close()
	c := newClient(t).at(server.URL).signIn()
	status, _ := c.get("/forms?find=very-private")
	require.Equal(t, http.StatusOK, status)
	c.post("/f/shore-crew", url.Values{"a.name": {"very-private"}})
	assert.Regexp(t, `"msg":"request","id":"[^"]+","method":"GET","route":"/forms","status":200,"bytes":\d+,"ms":\d+,"member":\d+`, log.String())
	assert.NotContains(t, log.String(), "very-private")
}
