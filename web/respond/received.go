package respond

import (
	"context"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/notify"
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
	Response string // its id
	Filling  string
	Address  string
	Edition  int
	Text     string
	Sent     bool // what was sent is shown
	Changed  bool
	When     time.Time
	Change   string // the private address at which it can be changed, where it is shown
	Renew    bool   // it was shown before, and can be made anew

	Documents []notify.Document // that are handed out

	Confirm   *time.Time // until when its address is to be confirmed, nil if it is not
	Recipient string     // the address
	Asked     bool       // the letter was sent again just now
	Confirmed bool
	Proof     string // by which its browser can change what was sent, "" for any other
	Anew      bool   // it was confirmed before it was changed
}

// sentCookie is the cookie by which the browser that sent a filling is known at its end page
// for as long as that shows what was sent; its address alone shows nothing to others.
const sentCookie = "lazo-sent"

// knows lets the browser that sent a filling see its end page.
func (s *Side) knows(w http.ResponseWriter, r *http.Request, j judgement) error {
	keys, err := s.keys(r.Context())
	if err != nil {
		return err
	}
	secure := strings.HasPrefix(ui.Origin(r), "https:")
	cookie := &http.Cookie{
		Name: sentCookie, Value: keys.sign(sentCookie+j.ticket.Filling, sentBytes),
		Path:   "/f/" + j.ticket.Address + "/received/" + j.ticket.Filling,
		MaxAge: int(receivedFor.Seconds()), HttpOnly: true, Secure: secure, SameSite: http.SameSiteLaxMode,
	}
	if secure && j.program.Form.MayFrame() { // inside a page of another site
		cookie.SameSite, cookie.Partitioned = http.SameSiteNoneMode, true
	}
	http.SetCookie(w, cookie)
	return nil
}

// sentBytes is how many bytes of a signature stand in the cookie.
const sentBytes = 16

// stillShown reports whether the end page shows what was sent: to the browser that sent
// it, for some time.
func (s *Side) stillShown(r *http.Request, resp store.Response) bool {
	cookie, err := r.Cookie(sentCookie)
	if err != nil {
		return false
	}
	keys, err := s.keys(r.Context())
	if err != nil || !keys.signed(sentCookie+resp.Filling, cookie.Value, sentBytes) {
		return false
	}
	at := resp.ReceivedAt
	if resp.ChangedAt != nil {
		at = *resp.ChangedAt
	}
	return s.now().Sub(at) < receivedFor
}

// Reference is by what the office finds the response: how its number begins.
func (p endPage) Reference() string { return store.Reference(p.Response) }

// DocumentsAt is the address below which its documents are.
func (p endPage) DocumentsAt() string {
	return "/f/" + p.Address + "/received/" + p.Filling + "/documents"
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
func (s *Side) end(
	w http.ResponseWriter, r *http.Request, way func(context.Context, store.Return) (string, error),
) error {
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return err
	}
	resp, err := s.store.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseOf(r.Context(), chi.URLParam(r, "filling"))
	if err != nil {
		return err
	}
	if resp.WithdrawnAt != nil {
		return withdrawn
	}
	p, err := s.programs.ProgramIn(r.Context(), f.EditionID(resp.Edition), resp.Language)
	if err != nil {
		return err
	}
	raw, err := engine.ParseAnswers(resp.Answers)
	if err != nil {
		return err
	}
	params := resp.Parameters
	out := p.Run(engine.Input{Record: p.Record(raw), Params: params, At: resp.ReceivedAt, Mode: engine.Revisit})
	page := endPage{
		View: fill.Build(p, out, url.Values{}, "", fill.Unjudged).AsSent(), Response: resp.ID, Filling: resp.Filling,
		Address: f.Address,
		Edition: resp.Edition, Text: out.End(), Changed: resp.ChangedAt != nil, When: resp.ReceivedAt.In(p.Location()),
	}
	if resp.ConfirmBy != nil && p.Form.Confirm != nil {
		until := resp.ConfirmBy.In(p.Location())
		page.Confirm, page.Asked = &until, r.URL.Query().Get("asked") != ""
		page.Recipient, _ = raw[p.Form.Confirm.Item].(string)
	}
	page.Confirmed, page.Anew = resp.ConfirmBy == nil && resp.ConfirmedAt != nil, resp.ConfirmedAt != nil
	if page.Sent = s.stillShown(r, resp); page.Sent && p.MayChange(s.now()) && resp.ChangedAt == nil {
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
	if page.Sent {
		if page.Proof, err = s.proofOf(r.Context(), resp.Filling); err != nil {
			return err
		}
	}
	if page.Sent && page.Confirm == nil {
		for _, d := range p.Form.Documents {
			one, err := notify.DocumentOf(p, resp, d.Key)
			if err != nil {
				return err
			}
			page.Documents = append(page.Documents, one)
		}
	}
	s.others(w, r, p.Form, resp.Edition, ticket{Form: f.ID, Workspace: f.WorkspaceID})
	w.Header().Set("Cache-Control", "no-store")
	w.Header().Set("Referrer-Policy", "no-referrer")
	return s.pages.InLanguage(p.Form.Language).Page(w, http.StatusOK, "received", page)
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
	p, err := s.programs.Get(r.Context(), f.EditionID(edition))
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

// others lets in what a page has to do with other sites: those that its form names may
// show it inside their pages, and it shows pictures of those that its workspace allows.
// All others stay shut out.
func (s *Side) others(w http.ResponseWriter, r *http.Request, f *form.Form, edition int, t ticket) {
	if f.MayFrame() {
		ui.Allow(w, "frame-ancestors", f.Framing.Origins)
	}
	sites := s.programs.PictureSites(r.Context(), t.EditionID(edition))
	if len(sites) == 0 {
		return
	}
	allowed, err := s.store.InWorkspace(t.Workspace).PictureSites(r.Context())
	if err != nil {
		return // a page without its pictures is better than none
	}
	ui.Allow(w, "img-src", slices.DeleteFunc(slices.Clone(sites),
		func(site string) bool { return !slices.Contains(allowed, site) }))
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

// calendar is a calendar file (RFC 5545) of the form's opening and deadline.
func (s *Side) calendar(w http.ResponseWriter, r *http.Request) error {
	f, err := s.store.FormByAddress(r.Context(), chi.URLParam(r, "address"))
	if err != nil {
		return err
	}
	live, err := f.Live()
	if err != nil {
		return err
	}
	p, err := s.programs.Get(r.Context(), f.EditionID(live.Edition))
	if err != nil {
		return err
	}
	if p, err = s.programs.ProgramIn(r.Context(), f.EditionID(live.Edition), languageFor(r, p.Form)); err != nil {
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
