package respond

import (
	"context"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
	"lazo/web/wording"
)

// receivedFor is how long after sending the end page shows what was sent, to be
// printed or changed; whoever has its address then sees it no more.
const receivedFor = 2 * time.Hour

// Token is empty: there is nothing to be posted from the end page.
func (endPage) Token() string { return "" }

// endPage is what a respondent sees after sending.
type endPage struct {
	*fill.View
	Filling string
	Address string
	Edition int
	Text    string
	Sent    bool // what was sent is shown
	Changed bool
	When    time.Time
	Change  string // the private address at which it can be changed, where it is shown
	Renew   bool   // it was shown before, and can be made anew
}

// received is the end page of a filling: its text may depend on the answers. The
// private address for changes is made and shown when it is first looked at.
func (s *Side) received(w http.ResponseWriter, r *http.Request) error {
	return s.end(w, r, s.store.AddFirstReturn)
}

// renew is the end page with a new private address; the one before leads nowhere from
// then on.
func (s *Side) renew(w http.ResponseWriter, r *http.Request) error {
	return s.end(w, r, s.store.RenewReturn)
}

// end is the end page of a filling, with a private address made by way.
func (s *Side) end(w http.ResponseWriter, r *http.Request, way func(context.Context, store.Return) (string, error)) error {
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return err
	}
	resp, err := s.store.ResponseOfFilling(r.Context(), f.ID, chi.URLParam(r, "filling"))
	if err != nil {
		return err
	}
	p, err := s.programs.In(r.Context(), f.ID, resp.Edition, resp.Language)
	if err != nil {
		return err
	}
	raw, err := engine.ParseAnswers(resp.Answers)
	if err != nil {
		return err
	}
	params, err := resp.Params()
	if err != nil {
		return err
	}
	out := p.Run(engine.Input{Record: p.Record(raw), Params: params, At: resp.ReceivedAt, Mode: engine.Revisit})
	page := endPage{View: fill.Build(p, out, url.Values{}, "", fill.Unjudged), Filling: resp.Filling, Address: f.Address, Edition: resp.Edition, Text: out.End(), Changed: resp.ChangedAt != nil,
		When: resp.ReceivedAt.In(p.Location())}
	at := resp.ReceivedAt
	if resp.ChangedAt != nil {
		at = *resp.ChangedAt
	}
	if page.Sent = s.now().Sub(at) < receivedFor; page.Sent && p.MayChange(s.now()) && resp.ChangedAt == nil {
		back, err := s.wayToChange(p, f, resp, params)
		if err != nil {
			return err
		}
		secret, err := way(r.Context(), back)
		if err != nil {
			return err
		}
		if page.Renew = secret == ""; !page.Renew {
			page.Change = ui.Origin(r) + "/r/" + secret
		}
	}
	frame(w, p.Form)
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Referrer-Policy", "no-referrer")
	return s.pages.In(p.Form.Language).Page(w, http.StatusOK, "received", page)
}

// theme serves the style rules of an edition's theme.
func (s *Side) theme(w http.ResponseWriter, r *http.Request) error {
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
	if p.Form.Theme == nil {
		return store.ErrNotFound
	}
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "public, max-age=31536000, immutable") // an edition never changes
	_, _ = w.Write([]byte(p.Form.Theme.CSS()))
	return nil
}

// frame lets the sites that the form names show it inside their pages; all others
// stay shut out.
func frame(w http.ResponseWriter, f *form.Form) {
	if !f.MayFrame() {
		return
	}
	h := w.Header()
	h.Set("Content-Security-Policy", strings.Replace(h.Get("Content-Security-Policy"), "frame-ancestors 'none'", "frame-ancestors "+strings.Join(f.Framing.Origins, " "), 1))
}

// empty is the form to be printed and filled in by hand: all pages, without what
// is hidden.
func (s *Side) empty(w http.ResponseWriter, r *http.Request) error {
	f, err := s.enter(r, chi.URLParam(r, "address"), r.URL.Query(), 0)
	if err != nil {
		return err
	}
	out := f.run()
	if out.Open != engine.Open {
		return s.closed(w, f, out)
	}
	return s.in(f).Page(w, http.StatusOK, "empty", page{View: fill.Build(f.program, out, f.posted, "", fill.Unjudged), Address: f.address})
}

// closedPage says why a form takes no responses now, with the times in its zone.
type closedPage struct {
	Title, Text, Address string
	Opens, Closed        *time.Time
	Zone                 string
	Calendar             bool
	Typed                *typedAnswers // what was typed and not sent, nil for nothing
}

// typedAnswers are answers to be read, with no way back to them.
type typedAnswers struct {
	*fill.View
	Token string
}

var closedTexts = map[engine.Opening]string{engine.Before: "This form is not open yet.", engine.After: "This form is closed.", engine.Full: "This form has all the responses it can take."}

func (s *Side) closed(w http.ResponseWriter, f *filling, out *engine.Outcome) error {
	judge, open := f.opening(), out.Open
	o := judge.Form.Opening
	page := closedPage{Title: f.program.Form.Title, Address: f.address, Zone: f.program.Form.Timezone}
	if o != nil {
		page.Text = map[engine.Opening]string{engine.Before: o.Before, engine.After: o.After, engine.Full: o.Full}[open]
	}
	if page.Text == "" {
		page.Text = f.words().Say(closedTexts[open])
	}
	from, until := judge.Opening()
	switch open {
	case engine.Before:
		if from != nil && from.After(s.now()) {
			page.Opens = from
		} else if next, _, ok := judge.NextHours(s.now()); ok {
			page.Opens = &next
		}
		page.Calendar = page.Opens != nil
	case engine.After:
		page.Closed = until
	}
	if fill.Answered(f.posted) {
		page.Typed = &typedAnswers{View: fill.Build(f.program, out, f.posted, "", fill.Unjudged)}
	}
	return s.in(f).Page(w, http.StatusOK, "closed", page)
}

// gone says that a form was deleted while it was being filled, with what was typed.
func (s *Side) gone(w http.ResponseWriter, f *filling) error {
	page := closedPage{Title: f.program.Form.Title, Text: f.words().Say("This form is no longer here; what you typed was not sent."), Address: f.address, Zone: f.program.Form.Timezone}
	if fill.Answered(f.posted) {
		page.Typed = &typedAnswers{View: fill.Build(f.program, f.program.Run(f.input), f.posted, "", fill.Unjudged)}
	}
	return s.in(f).Page(w, http.StatusGone, "closed", page)
}

// calendar is a calendar file (RFC 5545) of the form's opening and deadline.
func (s *Side) calendar(w http.ResponseWriter, r *http.Request) error {
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return err
	}
	if f.LiveEdition == nil {
		return store.ErrNotFound
	}
	p, err := s.programs.Get(r.Context(), f.ID, *f.LiveEdition)
	if err != nil {
		return err
	}
	if p, err = s.programs.In(r.Context(), f.ID, *f.LiveEdition, languageFor(r, p.Form)); err != nil {
		return err
	}
	say := wording.For(p.Form.Language).Say
	from, until := p.Opening()
	if from == nil && until == nil {
		return store.ErrNotFound
	}
	cal := ics.NewCalendarFor("Lazo")
	add := func(id, title string, at *time.Time) {
		if at == nil {
			return
		}
		e := cal.AddEvent(id + "-" + f.Address + "@" + r.Host)
		e.SetDtStampTime(s.now())
		e.SetStartAt(*at)
		e.SetEndAt(at.Add(15 * time.Minute))
		e.SetSummary(title)
		e.SetURL(ui.Origin(r) + "/f/" + f.Address)
	}
	add("opens", say("%s opens", p.Form.Title), from)
	add("closes", say("%s closes", p.Form.Title), until)
	w.Header().Set("Content-Type", "text/calendar; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="`+f.Address+`.ics"`)
	return cal.SerializeTo(w, ics.WithNewLineWindows)
}
