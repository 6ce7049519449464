package respond

import (
	"context"
	"encoding/json"
	"net/http"
	"net/url"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

// savesAMinute is how often one address can leave one form within a minute.
const savesAMinute = 20

// leave keeps a filling for later and shows the private address of the way back,
// once.
func (s *Side) leave(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, at string) error {
	if ret := f.program.Form.Returning; ret == nil || !ret.Save || f.ticket.Response != "" {
		return s.print(w, r, f, out, at, showing{})
	}
	n, err := s.store.Count(r.Context(), f.key("save", r), s.now())
	if err != nil {
		return err
	}
	if n > savesAMinute {
		f.status = http.StatusTooManyRequests
		return s.print(w, r, f, out, at, showing{notice: f.words().Say("This was kept too often within a minute. Your answers are still here; please wait a little.")})
	}
	own := url.Values{}
	for name, values := range f.posted {
		if fill.Kept(name) {
			own[name] = values
		}
	}
	fields, err := json.Marshal(own)
	if err != nil {
		return err
	}
	ticket, err := json.Marshal(f.ticket)
	if err != nil {
		return err
	}
	until := s.now().Add(keptFor)
	if last := time.Unix(f.ticket.Begun, 0).Add(keptAtMost); last.Before(until) {
		until = last
	}
	secret, err := s.store.AddReturn(r.Context(), store.Return{FormID: f.ticket.Form, Ticket: string(ticket), Page: at, Fields: fields, ExpiresAt: until})
	if err != nil {
		return err
	}
	w.Header().Set("Cache-Control", "no-store")
	return s.in(f).Page(w, http.StatusOK, "left", map[string]any{"Form": f.program.Form, "Address": ui.Origin(r) + "/r/" + secret,
		"Until": until.In(f.program.Location())})
}

var noWayBack = ui.Refusal{Status: http.StatusNotFound, Title: "There is no way back by this address",
	Text: "It may be mistyped, what it led to may have been sent already, or its time is over."}

var noLongerChanged = ui.Refusal{Status: http.StatusGone, Title: "This can no longer be changed",
	Text: "The time in which it could be changed is over. What you sent is kept as it is."}

// comeBack goes on with a filling that was left, or opens a response to be changed.
func (s *Side) comeBack(w http.ResponseWriter, r *http.Request) error {
	w.Header().Set("Referrer-Policy", "no-referrer")
	way, err := s.store.ReturnBySecret(r.Context(), chi.URLParam(r, "secret"))
	if err == store.ErrNotFound {
		return noWayBack
	}
	if err != nil {
		return err
	}
	var t ticket
	if err := json.Unmarshal([]byte(way.Ticket), &t); err != nil {
		return err
	}
	posted := url.Values{}
	if err := json.Unmarshal(way.Fields, &posted); err != nil {
		return err
	}
	if t.Response == "" {
		// One that was sent meanwhile is not sent again.
		if _, err := s.store.ResponseOfFilling(r.Context(), t.Form, t.Filling); err == nil {
			return noWayBack
		} else if err != store.ErrNotFound {
			return err
		}
	}
	// The page ages from the moment one comes back, since it lay safe until then.
	t.Renewed = s.now().Unix()
	if t.Address, err = s.store.FormAddress(r.Context(), t.Form); err != nil {
		return err
	}
	f, err := s.begin(r.Context(), t, posted)
	if err != nil {
		return err
	}
	if err := s.lookUpLive(r.Context(), f); err != nil {
		return err
	}
	if t.Response != "" && !f.opening().MayChange(s.now()) {
		return noLongerChanged
	}
	return s.print(w, r, f, f.run(), way.Page, showing{})
}

// prior sets a filling up as the change of a response: the answers that it has
// stand until others are sent.
func (s *Side) prior(ctx context.Context, f *filling) error {
	resp, err := s.store.ResponseByID(ctx, f.ticket.Workspace, f.ticket.Form, f.ticket.Response)
	if err != nil {
		return err
	}
	raw, err := engine.ParseAnswers(resp.Answers)
	if err != nil {
		return err
	}
	f.input.Mode, f.input.Prior = engine.Revisit, f.program.Answers(raw)
	if len(f.posted) == 0 {
		f.posted = url.Values{}
	}
	return nil
}

// wayToChange is the way back to a response, for changing it.
func (s *Side) wayToChange(p *engine.Program, f store.Form, resp store.Response, params map[string][]string) (store.Return, error) {
	t := ticket{Form: f.ID, Address: f.Address, Workspace: f.WorkspaceID, Edition: resp.Edition, Params: params, Begun: s.now().Unix(), Filling: resp.Filling, Response: resp.ID, Language: resp.Language}
	data, err := json.Marshal(t)
	if err != nil {
		return store.Return{}, err
	}
	until := s.now().AddDate(1, 0, 0)
	if _, closing := p.Opening(); closing != nil && closing.After(s.now()) {
		until = closing.AddDate(1, 0, 0)
	}
	return store.Return{FormID: f.ID, ResponseID: &resp.ID, Ticket: string(data), ExpiresAt: until}, nil
}
