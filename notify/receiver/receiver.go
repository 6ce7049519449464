// Package receiver is a small program that hooks can tell, to try them out: it checks that
// what it is told is signed, keeps it, and shows it as a web page. It can be told to behave
// as programs do on a bad day.
package receiver

import (
	"bytes"
	"crypto/hmac"
	"embed"
	"encoding/json"
	"html/template"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/notify"
)

// Fault is what is wrong with the program.
type Fault string

// Faults are all that can be asked for, in words.
var Faults = []struct {
	Fault Fault
	Says  string
}{
	{"", "takes what it is told"}, {"fail", "fails (500)"}, {"gone", "is gone (410)"}, {"slow", "takes twenty seconds"},
	{"elsewhere", "leads elsewhere (307)"}, {"endless", "answers without an end"},
}

// Event is something that the program was told.
type Event struct {
	At     time.Time
	Type   string // of the CloudEvent, "" if it is none
	Signed string // why the signature is not right, "" if it is
	Body   string
}

// Bounds of what is kept: events, the oldest of which go first, and the bytes of one.
const (
	mostEvents = 500
	mostBytes  = 4 << 20
	// lately is how old a signature may be.
	lately = 5 * time.Minute
	slowly = 20 * time.Second
)

// Receiver keeps what it is told. It is safe for use by many goroutines.
type Receiver struct {
	mu     sync.Mutex
	secret []byte
	fault  Fault
	events []Event // the oldest first
}

// New is a receiver that knows a hook's secret.
func New(secret []byte) *Receiver { return &Receiver{secret: secret} }

// Events are what it was told, the oldest first.
func (rc *Receiver) Events() []Event {
	rc.mu.Lock()
	defer rc.mu.Unlock()
	return slices.Clone(rc.events)
}

// Suffer has it behave as a fault has it, from now on.
func (rc *Receiver) Suffer(f Fault) {
	rc.mu.Lock()
	defer rc.mu.Unlock()
	rc.fault = f
}

// Handler takes events at every address, and shows them at /.
func (rc *Receiver) Handler() http.Handler {
	r := chi.NewRouter()
	r.Get("/", rc.list)
	r.With(http.NewCrossOriginProtection().Handler).Post("/fault", rc.suffer)
	r.Post("/*", rc.take)
	return r
}

func (rc *Receiver) take(w http.ResponseWriter, r *http.Request) {
	body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, mostBytes))
	if err != nil {
		http.Error(w, "that is too much", http.StatusRequestEntityTooLarge)
		return
	}
	e := Event{At: time.Now(), Signed: rc.check(r.Header, body)}
	var told struct {
		Type string `json:"type"`
	}
	if json.Unmarshal(body, &told) == nil {
		e.Type = told.Type
	}
	var laid bytes.Buffer
	if json.Indent(&laid, body, "", "  ") != nil {
		laid.Reset()
		laid.Write(body)
	}
	e.Body = laid.String()
	rc.mu.Lock()
	rc.events = append(rc.events, e)
	rc.events = rc.events[max(0, len(rc.events)-mostEvents):]
	fault := rc.fault
	rc.mu.Unlock()
	switch {
	case e.Signed != "":
		http.Error(w, e.Signed, http.StatusUnauthorized)
	case fault == "fail":
		http.Error(w, "something is wrong here", http.StatusInternalServerError)
	case fault == "gone":
		http.Error(w, "nobody wants to know any more", http.StatusGone)
	case fault == "slow":
		time.Sleep(slowly)
	case fault == "elsewhere":
		http.Redirect(w, r, "/elsewhere", http.StatusTemporaryRedirect)
	case fault == "endless":
		endless(w, r)
	default:
		_, _ = io.WriteString(w, "taken\n")
	}
}

// endless answers until nobody listens.
func endless(w http.ResponseWriter, r *http.Request) {
	chunk := strings.Repeat("and so on\n", 1000)
	for r.Context().Err() == nil {
		if _, err := io.WriteString(w, chunk); err != nil {
			return
		}
	}
}

// check says why what was told is not from Lazo, "" if it is.
func (rc *Receiver) check(h http.Header, body []byte) string {
	seconds, err := strconv.ParseInt(h.Get("Webhook-Timestamp"), 10, 64)
	at := time.Unix(seconds, 0)
	if err != nil || time.Since(at).Abs() > lately {
		return "it is not of now"
	}
	want := notify.Signed(rc.secret, h.Get("Webhook-Id"), at, body)
	for _, got := range strings.Fields(h.Get("Webhook-Signature")) {
		if hmac.Equal([]byte(got), []byte(want)) {
			return ""
		}
	}
	return "it is not signed with the secret"
}

//go:embed *.html
var files embed.FS

var pages = template.Must(template.ParseFS(files, "*.html"))

func (rc *Receiver) list(w http.ResponseWriter, _ *http.Request) {
	events := rc.Events()
	slices.Reverse(events)
	rc.mu.Lock()
	fault := rc.fault
	rc.mu.Unlock()
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'")
	err := pages.ExecuteTemplate(w, "events", map[string]any{"Events": events, "Faults": Faults, "Fault": fault})
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
	}
}

func (rc *Receiver) suffer(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 1<<10)
	fault := Fault(r.FormValue("fault"))
	for _, f := range Faults {
		if f.Fault == fault {
			rc.Suffer(fault)
			http.Redirect(w, r, "/", http.StatusSeeOther)
			return
		}
	}
	http.Error(w, "there is no such fault", http.StatusUnprocessableEntity)
}
