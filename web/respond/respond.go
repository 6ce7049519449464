// Package respond is the public side: a form being filled, its live changes and
// its end. It sets no cookie and keeps nothing between requests; all that a
// filling needs travels with the page, signed where it must not be changed.
package respond

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/editions"
	"lazo/held"
	"lazo/notify"
	"lazo/store"
	"lazo/web/byhand"
	"lazo/web/fill"
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
	taken    *held.Cache[store.FormID, takenThen]
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
		pages: ui.NewRenderer(nil, fill.Templates, byhand.Templates, templates),
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

// filling is one request of a form being filled.
type filling struct {
	ticket  ticket
	program *engine.Program
	posted  url.Values
	input   engine.Input
	address string          // of the form
	out     *engine.Outcome // of the last run
	words   *wording.Words  // of its language

	// The edition that is live now says whether the form takes responses. It is looked
	// up where a page is stepped through, and where a response is stored.
	live        *engine.Program
	withdrawn   bool                    // the response that it is the change of counts for nothing
	base        []byte                  // its answers as the page found them
	since       []store.ResponseVersion // and how it was changed after that, the newest first
	clashes     []fill.Clash            // answers that others changed, too
	touched     map[string]any          // what the page itself changed
	liveEdition int                     // 0 while it was not looked up
	offline     string                  // what is said while the form is offline, "" for the usual
	limit       int                     // of the responses that the form takes, 0 for any number
	counted     bool                    // the responses there are were counted

	counts func(took time.Duration) // its runs; nil for nobody who does
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
	Kept       kept         // how long what is sent is kept
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
	about, _ := abouts.Of(greeting, func() (string, error) { return aboutOf(greeting), nil })
	return about
}

// abouts remembers what greetings say, since every visit of a form asks for the same.
var abouts = held.New(1<<20, func(greeting, about string) int { return len(greeting) + len(about) })

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

// kept is how long what is sent is kept, where respondents are told: so many days after
// it is received, or after what was answered to the question with a label.
type kept struct {
	Days int
	From string
}

func (s *Side) kept(ctx context.Context, f *filling) (kept, error) {
	k, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).Keeping(ctx)
	if err != nil || !k.Told || k.Days == 0 {
		return kept{}, err
	}
	out := kept{Days: k.Days}
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
		out[i] = Tongue{tag, wording.OwnName(tag), wording.Direction(tag), tag == p.Form.Language || p.Form.Language == "" && i == 0}
	}
	return out
}

// run runs the form on what was posted; the live edition says whether it is open.
func (f *filling) run() *engine.Outcome {
	begun := time.Now()
	out := f.program.Run(f.input)
	if f.counts != nil {
		f.counts(time.Since(begun))
	}
	f.out = out
	if f.liveEdition != 0 && f.liveEdition != f.ticket.Edition {
		in := f.input
		in.Answers, in.Prior = f.live.AnswersFrom(fill.Posting{Fields: f.posted}), nil
		out.JudgedBy(f.live.Run(in))
	}
	return out
}

// opening is the edition that says whether the form takes responses, and where it may
// be shown.
func (f *filling) opening() *engine.Program {
	if f.live != nil {
		return f.live
	}
	return f.program
}

// errGone is for a form that was deleted since its page was opened.
var errGone = fmt.Errorf("the form is gone: %w", store.ErrNotFound)

// lookUpLive finds the live edition, which judges whether the form takes responses.
func (s *Side) lookUpLive(ctx context.Context, f *filling) error {
	live, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).Live(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return errGone
	}
	if err != nil {
		return err
	}
	return s.isLive(ctx, f, live)
}

// isLive takes what was found to be live for a filling's judge.
func (s *Side) isLive(ctx context.Context, f *filling, live store.Live) (err error) {
	f.input.Offline, f.offline = live.Offline, live.Message
	if live.Edition == f.liveEdition {
		return nil
	}
	if live.Edition == f.ticket.Edition {
		f.live, f.liveEdition = f.program, live.Edition
		return s.count(ctx, f)
	}
	p, err := s.programs.Get(ctx, f.ticket.EditionID(live.Edition))
	if err != nil {
		return err
	}
	if slices.Contains(p.Form.Languages(), f.ticket.Language) {
		if p, err = s.programs.In(ctx, f.ticket.EditionID(live.Edition), f.ticket.Language); err != nil {
			return err
		}
	}
	f.live, f.liveEdition = p, live.Edition
	return s.count(ctx, f)
}

// count counts the responses that the form has, if it takes so many only.
func (s *Side) count(ctx context.Context, f *filling) (err error) {
	if o := f.opening().Form.Opening; o != nil {
		f.limit = o.Limit
	}
	if f.counted || f.ticket.Response != "" || f.limit == 0 {
		return nil
	}
	f.input.Responses, err = s.store.In(f.ticket.Workspace).Form(f.ticket.Form).CountResponses(ctx)
	f.counted = err == nil
	return err
}

func (s *Side) begin(ctx context.Context, t ticket, posted url.Values) (*filling, error) {
	p, err := s.programs.In(ctx, t.EditionID(t.Edition), t.Language)
	if err != nil {
		return nil, err
	}
	f := &filling{ticket: t, posted: posted, address: t.Address, counts: s.counts}
	f.by(p)
	f.input = engine.Input{Params: t.Params, At: s.now(), Mode: engine.New, Begun: time.Unix(t.Begun, 0)}
	if err := s.read(ctx, f); err != nil {
		return nil, err
	}
	if err := s.places(ctx, f, posted.Get("_do") == "send"); err != nil {
		return nil, err
	}
	if t.Response != "" {
		if err := s.prior(ctx, f); err != nil {
			return nil, err
		}
	}
	return f, s.count(ctx, f)
}

// in prints pages in the filling's language.
func (s *Side) in(f *filling) *ui.Renderer { return s.pages.In(f.program.Form.Language) }

// by has the filling go on by a program, in the words of its language.
func (f *filling) by(p *engine.Program) {
	f.program, f.words = p, wording.For(p.Form.Language)
}

// read reads the posted fields as answers.
func (s *Side) read(ctx context.Context, f *filling) error {
	files := files{s: s, ctx: ctx, ticket: f.ticket}
	f.input.Answers = f.program.AnswersFrom(fill.Posting{Fields: f.posted, Files: files.complete})
	return files.err
}

// rerun runs the form on the fields as they are now.
func (s *Side) rerun(ctx context.Context, f *filling) error {
	err := s.read(ctx, f)
	f.run()
	return err
}

// judgeAnew runs the form by what is live and taken now.
func (s *Side) judgeAnew(ctx context.Context, f *filling) error {
	if err := s.lookUpLive(ctx, f); err != nil {
		return err
	}
	err := s.places(ctx, f, false)
	f.run()
	return err
}

// languageParam is the address parameter that asks for a language; no form can have
// a parameter of that name.
const languageParam = "_language"

// newTicket begins a filling of the live edition. It is in the language that the
// address asks for, or else in the one that the browser prefers.
func (s *Side) newTicket(r *http.Request, address string, params url.Values) (ticket, store.Live, error) {
	ctx := r.Context()
	f, err := s.store.FormByAddress(ctx, address)
	if err != nil {
		return ticket{}, store.Live{}, err
	}
	live, err := f.Live()
	if err != nil {
		return ticket{}, live, err
	}
	t := ticket{
		Form: f.ID, Address: f.Address, Workspace: f.WorkspaceID, Edition: live.Edition, Begun: s.now().Unix(),
		Filling: newFilling(),
	}
	p, err := s.programs.Get(ctx, f.EditionID(t.Edition))
	if err != nil {
		return ticket{}, live, err
	}
	t.Language = languageFor(r, p.Form)
	// Only the parameters that the form knows travel on, within bounds.
	for _, param := range p.Form.Parameters {
		for name, values := range params {
			if strings.EqualFold(strings.TrimSpace(name), param.Name) {
				if t.Params == nil {
					t.Params = map[string][]string{}
				}
				for _, v := range values[:min(len(values), 20)] {
					if len(v) <= 1000 {
						t.Params[param.Name] = append(t.Params[param.Name], strings.ToValidUTF8(v, "�"))
					}
				}
			}
		}
	}
	return t, live, nil
}

// languageFor is the language of a form that a visitor is to read, "" for its own.
func languageFor(r *http.Request, f *form.Form) string {
	languages := f.Languages()
	asked := r.URL.Query().Get(languageParam)
	if !slices.Contains(languages, asked) {
		asked = wording.Best(languages, r.Header.Get("Accept-Language"))
	}
	if asked == languages[0] {
		return ""
	}
	return asked
}

// enter begins a filling, with nothing in it yet, for one who arrives; link is the
// one that was followed, or 0.
func (s *Side) enter(r *http.Request, address string, params url.Values, link store.LinkID) (*filling, error) {
	t, live, err := s.newTicket(r, address, params)
	if err != nil {
		return nil, err
	}
	t.Link = link
	f, err := s.begin(r.Context(), t, url.Values{})
	if err != nil {
		return nil, err
	}
	return f, s.isLive(r.Context(), f, live)
}

func (s *Side) arrive(w http.ResponseWriter, r *http.Request) error {
	f, err := s.enter(r, chi.URLParam(r, "address"), r.URL.Query(), 0)
	if err != nil {
		return err
	}
	f.run()
	return s.tell(w, r, f, answer{})
}

// follow is an arrival by the short address of a link; parameters that stand in
// the address besides those of the link count too.
func (s *Side) follow(w http.ResponseWriter, r *http.Request) error {
	l, err := s.store.VisitLink(r.Context(), chi.URLParam(r, "code"))
	if err != nil {
		return err
	}
	address, err := s.store.In(l.WorkspaceID).Form(l.FormID).Address(r.Context())
	if err != nil {
		return err
	}
	params := r.URL.Query()
	for name, values := range l.Parameters {
		params[name] = values
	}
	f, err := s.enter(r, address, params, l.ID)
	if err != nil {
		return err
	}
	f.run()
	return s.tell(w, r, f, answer{})
}

// token is a ticket as it travels.
func (s *Side) token(ctx context.Context, t ticket) (string, error) {
	keys, err := s.keys(ctx)
	if err != nil {
		return "", err
	}
	return t.sign(keys)
}

// clock is the time in milliseconds until something changes by itself.
func (s *Side) clock(f *filling) int64 {
	next, ok := f.program.NextSeen(f.input)
	if !ok {
		return 0
	}
	// A moment later rather than sooner, and not beyond what browsers can wait.
	return min(max(next.Sub(f.input.At).Milliseconds()+250, 1000), 1<<31-1)
}

// reopen reads a posted page. If its ticket is no longer valid a new filling
// begins, with what was typed; fresh tells.
func (s *Side) reopen(w http.ResponseWriter, r *http.Request) (f *filling, fresh bool, err error) {
	posted, err := s.posted(w, r)
	if err != nil {
		return nil, false, err
	}
	keys, err := s.keys(r.Context())
	if err != nil {
		return nil, false, err
	}
	t, err := s.tickets.open(keys, posted.Get("_token"), s.now())
	if err != nil {
		fresh = true
		if t, _, err = s.newTicket(r, chi.URLParam(r, "address"), nil); err != nil {
			return nil, false, err
		}
	}
	if t.Address != chi.URLParam(r, "address") {
		return nil, false, store.ErrNotFound // a page of another form
	}
	if f, err = s.begin(r.Context(), t, posted); err != nil {
		return nil, false, err
	}
	return f, fresh, nil
}

// livePage is what a live change sends.
type livePage struct {
	page
	Units     []fill.Unit
	WasJudged bool // faults of the page were shown when it was posted
	Spoken    string
}

// The headers by which the page's script tells an answer of the application from
// any other that may stand in its way, and a form that closed meanwhile.
const (
	liveHeader   = "Lazo-Live"
	closedHeader = "Lazo-Closed"
)

// live answers a change of a driving input, or a button of a repeating section, with
// the units that changed.
func (s *Side) live(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	if fresh {
		return ui.Refusal{Status: http.StatusConflict, Title: "This page is too old", Text: staleNotice}
	}
	edit := fill.EditRows(f.program.Form, f.posted, f.posted.Get("_do"))
	if edit != nil {
		if err := s.read(r.Context(), f); err != nil {
			return err
		}
	}
	out := f.run()
	if out.Open != engine.Open {
		w.Header().Set(closedHeader, "yes") // the page asks for the whole, with what was typed
		return nil
	}
	view, units := fill.Live(f.program, out, f.posted, f.posted.Get("_page"), f.posted.Get(fill.DigestField), edit)
	w.Header().Set(liveHeader, "yes")
	judged := f.posted.Get(fill.FaultyField) != ""
	return s.in(f).Page(w, http.StatusOK, "live", livePage{
		page{View: view, Clock: s.clock(f), Revisit: f.ticket.Response != ""}, units, judged,
		fill.Announcement(f.words, units, edit, judged && len(view.Summary()) == 0),
	})
}
