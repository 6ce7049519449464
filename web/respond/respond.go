// Package respond is the public side: a form being filled, its live changes and
// its end. It sets no cookie and keeps nothing between requests; all that a
// filling needs travels with the page, signed where it must not be changed.
package respond

import (
	"context"
	"embed"
	"encoding/json"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Side is the public side of the application.
type Side struct {
	store    *store.Store
	programs *fill.Programs
	pages    *ui.Renderer
	secret   func(context.Context) ([]byte, error)
	now      func() time.Time
}

// New returns the public side. The secret signs what travels with a page.
func New(s *store.Store, programs *fill.Programs, secret func(context.Context) ([]byte, error), now func() time.Time) *Side {
	return &Side{s, programs, ui.NewRenderer(nil, fill.Templates, templates), secret, now}
}

// Routes adds the side's addresses.
func (s *Side) Routes(r chi.Router) {
	r.Get("/f/{address}", s.pages.Handle(s.arrive))
	r.Post("/f/{address}", s.pages.Handle(s.step))
	r.Post("/f/{address}/live", s.pages.Handle(s.live))
	r.Get("/l/{code}", s.pages.Handle(s.follow))
	r.Get("/p/{picture}", s.pages.Handle(s.picture))
	r.Get("/f/{address}/received/{edition}", s.pages.Handle(s.received))
}

// filling is one request of a form being filled.
type filling struct {
	ticket  ticket
	program *engine.Program
	posted  url.Values
	input   engine.Input
	address string // of the form
}

// page is what the form's page prints.
type page struct {
	*fill.View
	Address string
	Token   string
	Notice  string
	Clock   int64 // milliseconds until something changes by itself, 0 for never
	Judged  bool
}

func (s *Side) begin(ctx context.Context, t ticket, posted url.Values) (*filling, error) {
	p, err := s.programs.Get(ctx, t.Form, t.Edition)
	if err != nil {
		return nil, err
	}
	f := &filling{ticket: t, program: p, posted: posted}
	answers := fill.Answers(p.Form, posted)
	if err := s.fillFiles(ctx, p.Form, t, answers); err != nil {
		return nil, err
	}
	f.input = engine.Input{Answers: p.Answers(answers), Params: t.Params, At: s.now(), Mode: engine.New, Begun: time.Unix(t.Begun, 0)}
	if o := p.Form.Opening; o != nil && o.Limit > 0 {
		if f.input.Responses, err = s.store.CountResponses(ctx, t.Form); err != nil {
			return nil, err
		}
	}
	return f, nil
}

// newTicket begins a filling of the live edition.
func (s *Side) newTicket(ctx context.Context, address string, params url.Values) (ticket, error) {
	f, err := s.store.FormByAddress(ctx, address)
	if err != nil {
		return ticket{}, err
	}
	if f.LiveEdition == nil {
		return ticket{}, store.ErrNotFound
	}
	t := ticket{Form: f.ID, Workspace: f.WorkspaceID, Edition: *f.LiveEdition, Begun: s.now().Unix(), Filling: newFilling()}
	p, err := s.programs.Get(ctx, f.ID, t.Edition)
	if err != nil {
		return ticket{}, err
	}
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
	return t, nil
}

func (s *Side) arrive(w http.ResponseWriter, r *http.Request) error {
	t, err := s.newTicket(r.Context(), chi.URLParam(r, "address"), r.URL.Query())
	if err != nil {
		return err
	}
	f, err := s.begin(r.Context(), t, url.Values{})
	if err != nil {
		return err
	}
	f.address = chi.URLParam(r, "address")
	return s.print(w, r, f, f.program.Run(f.input), "", false, "")
}

// follow is an arrival by the short address of a link; parameters that stand in
// the address besides those of the link count too.
func (s *Side) follow(w http.ResponseWriter, r *http.Request) error {
	l, err := s.store.VisitLink(r.Context(), chi.URLParam(r, "code"))
	if err != nil {
		return err
	}
	preset, err := l.Params()
	if err != nil {
		return err
	}
	address, err := s.store.FormAddress(r.Context(), l.FormID)
	if err != nil {
		return err
	}
	params := r.URL.Query()
	for name, values := range preset {
		params[name] = values
	}
	t, err := s.newTicket(r.Context(), address, params)
	if err != nil {
		return err
	}
	t.Link = l.ID
	f, err := s.begin(r.Context(), t, url.Values{})
	if err != nil {
		return err
	}
	f.address = address
	return s.print(w, r, f, f.program.Run(f.input), "", false, "")
}

// print shows the form at a page, or why it takes no responses.
func (s *Side) print(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, at string, judged bool, notice string) error {
	if out.Open != engine.Open {
		return s.closed(w, f, out.Open)
	}
	secret, err := s.secret(r.Context())
	if err != nil {
		return err
	}
	token, err := f.ticket.sign(secret)
	if err != nil {
		return err
	}
	data := page{View: fill.Build(f.program, out, f.posted, at, judged), Address: f.address, Token: token, Notice: notice, Judged: judged,
		Clock: s.clock(f)}
	status := http.StatusOK
	if judged && len(data.Summary()) > 0 {
		status = http.StatusUnprocessableEntity
	}
	// Kept by this browser alone, so that its back button finds a page that came by a post.
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.pages.Page(w, status, "form", data)
}

// clock is the time in milliseconds until something changes by itself.
func (s *Side) clock(f *filling) int64 {
	next, ok := f.program.NextChange(f.input)
	if !ok {
		return 0
	}
	// A moment later rather than sooner, and not beyond what browsers can wait.
	return min(max(next.Sub(f.input.At).Milliseconds()+250, 1000), 1<<31-1)
}

func (s *Side) closed(w http.ResponseWriter, f *filling, open engine.Opening) error {
	o := f.program.Form.Opening
	text := map[engine.Opening]string{engine.Before: o.Before, engine.After: o.After, engine.Full: o.Full}[open]
	usual := map[engine.Opening]string{engine.Before: "This form is not open yet.", engine.After: "This form is closed.", engine.Full: "This form has all the responses it can take."}[open]
	if text == "" {
		text = usual
	}
	return s.pages.Page(w, http.StatusOK, "closed", map[string]any{"Title": f.program.Form.Title, "Text": text})
}

// reopen reads a posted page. If its ticket is no longer valid a new filling
// begins, with what was typed; fresh tells.
func (s *Side) reopen(w http.ResponseWriter, r *http.Request) (f *filling, fresh bool, err error) {
	posted, err := s.posted(w, r)
	if err != nil {
		return nil, false, err
	}
	secret, err := s.secret(r.Context())
	if err != nil {
		return nil, false, err
	}
	t, err := openTicket(secret, posted.Get("_token"), s.now())
	if err != nil {
		fresh = true
		if t, err = s.newTicket(r.Context(), chi.URLParam(r, "address"), nil); err != nil {
			return nil, false, err
		}
	}
	if !fresh {
		p, err := s.programs.Get(r.Context(), t.Form, t.Edition)
		if err != nil {
			return nil, false, err
		}
		if err := s.sign(r.Context(), t, p.Form, posted); err != nil {
			return nil, false, err
		}
	}
	if f, err = s.begin(r.Context(), t, posted); err != nil {
		return nil, false, err
	}
	f.address = chi.URLParam(r, "address")
	return f, fresh, nil
}

const staleNotice = "This page had been open for long. Your answers are still here; please check them and go on."

func (s *Side) step(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	do, at := f.posted.Get("_do"), f.posted.Get("_page")
	if fill.EditRows(f.program.Form, f.posted, do) {
		f.input.Answers = f.program.Answers(fill.Answers(f.program.Form, f.posted))
		do = "update"
	}
	out := f.program.Run(f.input)
	notice := ""
	if fresh {
		notice, do = staleNotice, "update"
	}
	view := fill.Build(f.program, out, f.posted, at, true)
	switch do {
	case "back":
		return s.print(w, r, f, out, view.Pages[max(0, view.At-1)].Key, false, notice)
	case "next":
		if len(view.Summary()) > 0 {
			return s.print(w, r, f, out, at, true, notice)
		}
		return s.print(w, r, f, out, view.Pages[min(len(view.Pages)-1, view.At+1)].Key, false, notice)
	case "send":
		return s.send(w, r, f, out, view)
	}
	return s.print(w, r, f, out, at, false, notice)
}

func (s *Side) send(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, view *fill.View) error {
	faulty := view.FirstFaulty()
	if faulty >= 0 {
		return s.print(w, r, f, out, view.Pages[faulty].Key, true, "")
	}
	if !out.Accepted {
		return s.print(w, r, f, out, "", true, "This can’t be sent yet.")
	}
	stored := out.Stored()
	answers, err := json.Marshal(stored)
	if err != nil {
		return err
	}
	params, err := json.Marshal(f.ticket.Params)
	if err != nil {
		return err
	}
	response := store.Response{WorkspaceID: f.ticket.Workspace, FormID: f.ticket.Form, Edition: f.ticket.Edition, Answers: answers, Parameters: params,
		ReceivedAt: f.input.At, Filling: f.ticket.Filling, Uploads: uploadsIn(f.program.Form, stored)}
	if f.ticket.Link > 0 {
		response.LinkID = &f.ticket.Link
	}
	if o := f.program.Form.Opening; o != nil && o.Limit > 0 {
		full, err := s.store.AddResponseWithin(r.Context(), response, o.Limit)
		if err != nil {
			return err
		}
		if full {
			return s.closed(w, f, engine.Full)
		}
	} else if err := s.store.AddResponse(r.Context(), response); err != nil {
		return err
	}
	http.Redirect(w, r, "/f/"+f.address+"/received/"+strconv.Itoa(f.ticket.Edition), http.StatusSeeOther)
	return nil
}

func (s *Side) received(w http.ResponseWriter, r *http.Request) error {
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return err
	}
	edition, err := strconv.Atoi(chi.URLParam(r, "edition"))
	if err != nil {
		return store.ErrNotFound
	}
	p, err := s.programs.Get(r.Context(), f.ID, edition)
	if err != nil {
		return err
	}
	return s.pages.Page(w, http.StatusOK, "received", map[string]any{"Form": p.Form, "Address": f.Address})
}

// live answers a change of a driving input with the units that changed.
func (s *Side) live(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	if fresh {
		return ui.Refusal{Status: http.StatusConflict, Title: "This page is too old", Text: staleNotice}
	}
	out := f.program.Run(f.input)
	if out.Open != engine.Open {
		w.Header().Set("HX-Refresh", "true") // it closed meanwhile: the whole page says so
		return nil
	}
	view := fill.Build(f.program, out, f.posted, f.posted.Get("_page"), false)
	units := view.Changed(f.posted.Get("_digest"))
	data := struct {
		*fill.View
		Units  []fill.Unit
		Clock  int64
		Spoken string
	}{view, units, s.clock(f), fill.Announcement(units)}
	return s.pages.Page(w, http.StatusOK, "live", data)
}
