// Package respond is the public side: a form being filled, its live changes and
// its end. It sets no cookie and keeps nothing between requests; all that a
// filling needs travels with the page, signed where it must not be changed.
package respond

import (
	"context"
	"embed"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/cache"
	"lazo/core/form"
	"lazo/editions"
	"lazo/notify"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/printable"
	"lazo/web/ui"
	"lazo/web/wording"
)

//go:embed templates/*.html
var templates embed.FS

// Side is the public side of the application.
type Side struct {
	store    *store.Store
	programs *editions.Programs
	pages    *ui.Renderer
	keys     func(context.Context) (Keys, error)
	counts   func(took time.Duration)
	now      func() time.Time
	least    time.Duration
	quotas   Quotas
	tickets  tickets
	taken    *cache.Cache[store.FormID, takenThen]
	progress *progress
}

// LeastTime is quicker than anyone fills a form in, with whatever tools.
const LeastTime = 2 * time.Second

// New returns the public side. The keys sign what travels with a page; what is
// sent within least of its arrival is doubted once.
func New(
	s *store.Store, programs *editions.Programs, keys func(context.Context) (Keys, error), now func() time.Time,
	least time.Duration, quotas Quotas,
) *Side {
	return &Side{
		progress: &progress{store: s}, store: s, programs: programs, quotas: quotas,
		pages: ui.NewRenderer(nil, fill.Templates, printable.Templates, templates),
		keys:  keys, now: now, least: least, tickets: newTickets(), taken: newTaken(),
	}
}

// Routes adds the side's addresses.
func (s *Side) Routes(r chi.Router) {
	own := r.With(unlisted) // what is one respondent's
	r.Get("/f/{address}", s.pages.HandleSpoken(s.arrive))
	r.Post("/f/{address}", s.pages.HandleSpoken(s.step))
	r.Post("/f/{address}/live", s.pages.HandleSpoken(s.live))
	r.Post("/f/{address}/begun", s.pages.HandleSpoken(s.begun))
	r.Get("/l/{code}", s.pages.HandleSpoken(s.follow))
	r.Get("/p/{picture}", s.pages.HandleSpoken(s.picture))
	own.Get("/f/{address}/received/{filling}", s.pages.HandleSpoken(s.received))
	own.Post("/f/{address}/received/{filling}", s.pages.HandleSpoken(s.renew))
	r.Get("/f/{address}/opening.ics", s.pages.HandleSpoken(s.calendar))
	r.Get("/f/{address}/theme/{edition}.css", s.pages.HandleSpoken(s.theme))
	r.Get("/f/{address}/empty", s.pages.HandleSpoken(s.empty))
	own.Get("/r/{secret}", s.pages.HandleSpoken(s.comeBack))
	own.Get("/c/{token}", s.pages.HandleSpoken(s.confirming))
	own.Post("/c/{token}", s.pages.HandleSpoken(s.confirm))
	own.Get("/f/{address}/received/{filling}/documents/{document}", s.pages.HandleSpoken(s.document))
	own.Get("/f/{address}/received/{filling}/documents/{document}.pdf", s.pages.HandleSpoken(s.documentPDF))
	own.Post("/f/{address}/received/{filling}/ask-again", s.pages.HandleSpoken(s.askAgain))
}

// Counting has each run of a form counted.
func (s *Side) Counting(counts func(took time.Duration)) { s.counts = counts }

// page is what the form's page prints.
type page struct {
	*fill.View
	Address string
	Token   string
	Notice  string
	Edition int
	Clock   int64 // milliseconds until something changes by itself, 0 for never
	Judged  bool
	Revisit bool // a response is being changed
	Save    bool // the filling can be left and gone on with later

	Clashes    []fill.Clash // answers that others changed, too
	SentBefore string       // the filling that this browser sent before, "" for none
	Far        string       // the page that the filling came to last for the first time
	Kept       retention    // how long what is sent is kept
	Deadline   *time.Time
	Origin     string // of the installation
}

// unlisted asks search engines to keep what is one respondent's out of what they find.
func unlisted(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("X-Robots-Tag", "noindex")
		next.ServeHTTP(w, r)
	})
}

// longestAbout bounds what is said of a form where its address is sent on, in characters.
const longestAbout = 200

// About is what a form is about, in one plain line: how its greeting begins.
func (p page) About() string {
	greeting := p.Greeting()
	about, _ := abouts.GetOrMake(greeting, func() (string, error) { return aboutOf(greeting), nil })
	return about
}

// abouts remembers what greetings say, since every visit of a form asks for the same.
var abouts = cache.New(1<<20, func(greeting, about string) int { return len(greeting) + len(about) })

func aboutOf(greeting string) string {
	words := strings.Join(strings.Fields(notify.Plain(greeting)), " ")
	if r := []rune(words); len(r) > longestAbout {
		return string(r[:longestAbout-1]) + "…"
	}
	return words
}

// Picture is the address of the form's logo, "" if it has none.
func (p page) Picture() string {
	if p.Form.Theme == nil || p.Form.Theme.Logo == "" {
		return ""
	}
	if strings.HasPrefix(p.Form.Theme.Logo, "/") {
		return p.Origin + p.Form.Theme.Logo
	}
	return p.Form.Theme.Logo
}

// retention is how long what is sent is kept, where respondents are told: so many days after
// it is received, or after what was answered to the question with a label.
type retention struct {
	Days int
	From string
}

func (s *Side) retention(ctx context.Context, f filling) (retention, error) {
	k, err := s.inForm(f.ticket).Retention(ctx)
	if err != nil || !k.Told || k.Days == 0 {
		return retention{}, err
	}
	out := retention{Days: k.Days}
	if it := f.program.Item(k.From); it != nil {
		out.From = it.Name()
	}
	return out, nil
}

// Words are what the buttons say, in the author's words; "" for the usual ones.
func (p page) Words() form.Theme { return wordsOf(p.Form) }

// wordsOf are what the buttons of a form say, in its author's words.
func wordsOf(f *form.Form) form.Theme {
	if f.Theme == nil {
		return form.Theme{}
	}
	return *f.Theme
}

// Tongue is a language that a form can be read in.
type Tongue struct {
	Tag, Name, Direction string
	Now                  bool
}

// Tongues are the languages to switch between; none if there is only one.
func (p page) Tongues() []Tongue {
	languages := p.Form.Languages()
	if len(languages) < 2 {
		return nil
	}
	out := make([]Tongue, len(languages))
	for i, tag := range languages {
		out[i] = Tongue{tag, wording.OwnName(tag), wording.Direction(tag), tag == p.Form.Language || p.Form.Language == "" &&
			i == 0}
	}
	return out
}

// token is a ticket as it travels.
func (s *Side) token(ctx context.Context, t ticket) (string, error) {
	keys, err := s.keys(ctx)
	if err != nil {
		return "", err
	}
	return t.sign(keys)
}
