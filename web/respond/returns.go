package respond

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"net/url"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill/posted"
	"lazo/web/ui"
)

// savesAMinute is how often one address can leave one form within a minute; much
// counts for several.
const savesAMinute = 20

// leave keeps a filling for later; the private address of the way back is shown once.
func (s *Side) leave(r *http.Request, j judgement, at string) (answer, error) {
	stay := answer{at: at}
	if ret := j.program.Form.Returning; ret == nil || !ret.Save || j.ticket.Response != "" || j.out.Open != engine.Open {
		return stay, nil
	}
	fields := posted.Belonging(j.program.Form, j.fields)
	n, err := s.store.CountBy(r.Context(), j.key("save", r), s.now(), weighed(sizeOf(fields)))
	if err != nil {
		return stay, err
	}
	if n > savesAMinute {
		stay.status = http.StatusTooManyRequests
		stay.notice = j.words.Say("This was kept too often within a minute. Your answers are still here; please wait a little.")
		return stay, nil
	}
	ticket, err := json.Marshal(j.ticket)
	if err != nil {
		return stay, err
	}
	until := s.now().Add(keptFor)
	if last := time.Unix(j.ticket.Begun, 0).Add(keptAtMost); last.Before(until) {
		until = last
	}
	secret, err := s.store.AddReturn(
		r.Context(), store.Return{FormID: j.ticket.Form, Filling: &j.ticket.Filling, Ticket: string(ticket), Page: at,
			Fields: fields, ExpiresAt: until},
	)
	return answer{kind: left, way: ui.Origin(r) + "/r/" + secret, until: until.In(j.program.Location())}, err
}

var noWayBack = ui.Refusal{Status: http.StatusNotFound, Title: "There is no way back by this address",
	Text: "It may be mistyped, what it led to may have been sent already, or its time is over."}

var noLongerChanged = ui.Refusal{Status: http.StatusGone, Title: "This can no longer be changed",
	Text: "The time in which it could be changed is over. What you sent is kept as it is."}

var withdrawn = ui.Refusal{Status: http.StatusGone, Title: "This was withdrawn",
	Text: "What you sent counts no longer, and can’t be changed. Please tell whoever runs this form if that is a mistake."}

// comeBack goes on with a filling that was left, or opens a response to be changed.
func (s *Side) comeBack(w http.ResponseWriter, r *http.Request) error {
	w.Header().Set("Referrer-Policy", "no-referrer")
	way, err := s.store.ReturnBySecret(r.Context(), chi.URLParam(r, "secret"))
	if errors.Is(err, store.ErrNotFound) {
		return noWayBack
	}
	if err != nil {
		return err
	}
	var t ticket
	if err := json.Unmarshal([]byte(way.Ticket), &t); err != nil {
		return err
	}
	fields := url.Values(way.Fields)
	if fields == nil {
		fields = url.Values{}
	}
	if t.Response == "" {
		fields.Set(farField, way.Page) // it was begun, and came as far
	}
	if t.Response == "" {
		// One that was sent meanwhile is not sent again.
		if _, err := s.store.InWorkspace(t.Workspace).Form(t.Form).ResponseOf(r.Context(), t.Filling); err == nil {
			return noWayBack
		} else if !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	// The page ages from the moment one comes back, since it lay safe until then.
	t.Renewed = s.now().Unix()
	if t.Address, err = s.store.InWorkspace(t.Workspace).Form(t.Form).Address(r.Context()); err != nil {
		return err
	}
	f, err := s.read(r.Context(), request{ticket: t, posted: fields, at: s.now()})
	if err != nil {
		return err
	}
	if f.change != nil && f.change.withdrawn {
		return withdrawn
	}
	by, err := s.liveOpening(r.Context(), f)
	if err != nil {
		return err
	}
	if t.Response != "" && !by.program.MayChange(s.now()) {
		return noLongerChanged
	}
	return s.tell(w, r, s.judge(f, by), answer{at: way.Page})
}

// wayToChange is the way back to a response, for changing it.
func (s *Side) wayToChange(
	p *engine.Program, f store.Form, resp store.Response, params map[string][]string,
) (store.Return, error) {
	t := ticket{
		Form: f.ID, Address: f.Address, Workspace: f.WorkspaceID, Edition: resp.Edition, Params: params,
		Begun: s.now().Unix(), Filling: resp.Filling, Response: resp.ID, Language: resp.Language,
	}
	data, err := json.Marshal(t)
	if err != nil {
		return store.Return{}, err
	}
	until := s.now().AddDate(1, 0, 0)
	if _, closing := p.Opening(); closing != nil && closing.After(s.now()) {
		until = closing.AddDate(1, 0, 0)
	}
	return store.Return{FormID: f.ID, ResponseID: &resp.ID, Filling: &t.Filling, Ticket: string(data), ExpiresAt: until},
		nil
}

// ChangeAddress makes private addresses at which responses are changed or withdrawn, at a
// site; "" for a response that can't be changed.
func (s *Side) ChangeAddress(site string) func(ctx context.Context, resp store.Response) (string, error) {
	return func(ctx context.Context, resp store.Response) (string, error) {
		in := s.store.InWorkspace(resp.WorkspaceID).Form(resp.FormID)
		live, err := in.Live(ctx)
		if errors.Is(err, store.ErrNotFound) {
			return "", nil
		}
		if err != nil {
			return "", err
		}
		p, err := s.programs.Get(ctx, resp.EditionID(live.Edition))
		if err != nil || !p.MayChange(s.now()) {
			return "", err
		}
		address, err := in.Address(ctx)
		if err != nil {
			return "", err
		}
		way, err := s.wayToChange(p, store.Form{ID: resp.FormID, Address: address, WorkspaceID: resp.WorkspaceID}, resp,
			resp.Parameters)
		if err != nil {
			return "", err
		}
		way.ByLetter = true
		secret, err := s.store.AddReturn(ctx, way)
		return site + "/r/" + secret, err
	}
}
