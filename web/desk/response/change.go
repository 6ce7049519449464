package response

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/view"
	"lazo/store"
	"lazo/web/desk/frame"
	"lazo/web/desk/responses"
	"lazo/web/fill"
)

// changePage is a response that the office changes, or takes down for somebody, in the
// form's own controls.
type changePage struct {
	frame.Frame
	*fill.View
	Response string // "" for a new one
	Heading  string
	Since    string // the state that the page began with
	Edition  int
	Action   string
	Problems []string          // why it is not stored as it stands
	Met      []view.Difference // what somebody else changed meanwhile
	Back     string
}

// The fields of the page beside the form's own.
const (
	sinceField   = "_since"
	anywayField  = "_anyway"
	editionField = "_edition"
)

// errMet is for a response that somebody else changed since the page was shown.
var errMet = errors.New("the response was changed meanwhile")

// change shows a response in the form's controls, and stores it when it is asked to.
func (d *Room) change(w http.ResponseWriter, r *http.Request) error {
	l, posted, err := d.posted(w, r)
	if err != nil {
		return err
	}
	res, err := d.Of(l.Form).Response(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	p, err := d.Programs.Get(r.Context(), l.Form.ID, res.Edition)
	if err != nil {
		return err
	}
	raw, err := engine.ParseAnswers(res.Answers)
	if err != nil {
		return err
	}
	to := frame.Base(l.Form.ID) + "/responses/" + res.ID
	page := &changePage{Frame: l.Frame, Response: res.ID, Heading: "Change what was sent", Edition: res.Edition, Action: to + "/change",
		Back: to, Since: stamp(res)}
	if s := posted.Get(sinceField); s != "" {
		page.Since = s
	}
	uploads, err := d.Of(l.Form).UploadsOf(r.Context(), res.Filling)
	if err != nil {
		return err
	}
	in := engine.Input{Prior: p.Answers(raw), Params: res.Parameters, At: res.ReceivedAt, Mode: engine.Staff}
	stored := d.fillIn(page, p, in, posted, uploads)
	if stored == nil {
		return d.showChange(w, r, page)
	}
	by := frame.Member(r.Context()).ID
	got, err := d.Of(l.Form).Amend(r.Context(), res.ID, &by, l.Now, func(now store.Response) (store.Response, error) {
		if stamp(now) != page.Since {
			page.Since = stamp(now)
			page.Met, err = view.Differences(p, res.Answers, now.Answers)
			return now, errors.Join(errMet, err)
		}
		next := now
		next.Edition, next.Uploads, next.Labels, next.Takes = res.Edition, stored.Files, stored.Labels, stored.Takes
		next.Overridden = page.Problems
		if next.Answers, err = p.Beside(stored.Answers, now.Answers); err != nil {
			return next, err
		}
		next.Goes, err = l.Following(r.Context(), d.Desk, now.Answers, next)
		return next, err
	})
	switch {
	case errors.Is(err, errMet):
		page.Problems = []string{"Somebody else has changed this response meanwhile. Save again to put yours in its place; the history keeps both."}
		return d.showChange(w, r, page)
	case err != nil:
		return err
	case got == store.ChangedTooOften:
		page.Problems = []string{"This was changed very often; it can’t be changed again."}
		return d.showChange(w, r, page)
	case got == store.Withdrawn:
		page.Problems = []string{"This was withdrawn. Let it count again before you change it."}
		return d.showChange(w, r, page)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// takeDown shows an empty form, and stores what somebody said by telephone.
func (d *Room) takeDown(w http.ResponseWriter, r *http.Request) error {
	l, posted, err := d.posted(w, r)
	if err != nil {
		return err
	}
	if l.Form.LiveEdition == nil {
		return store.ErrNotFound
	}
	edition := *l.Form.LiveEdition
	if n, err := strconv.Atoi(posted.Get(editionField)); err == nil && n > 0 && n <= edition {
		edition = n
	}
	p, err := d.Programs.Get(r.Context(), l.Form.ID, edition)
	if err != nil {
		return err
	}
	base := frame.Base(l.Form.ID) + "/responses"
	page := &changePage{Frame: l.Frame, Heading: "Take a response down", Edition: edition, Action: base + "/new", Back: base}
	if page.Since = posted.Get(sinceField); uuid.Validate(page.Since) != nil {
		page.Since = uuid.NewString() // of the filling, so that a doubled click stores one
	}
	stored := d.fillIn(page, p, engine.Input{At: l.Now, Begun: l.Now, Mode: engine.Staff}, posted, nil)
	if stored == nil {
		return d.showChange(w, r, page)
	}
	by := frame.Member(r.Context()).ID
	taken := store.Response{
		WorkspaceID: l.Form.WorkspaceID, FormID: l.Form.ID, Edition: edition, Answers: stored.Answers, Labels: stored.Labels,
		Takes: stored.Takes, ReceivedAt: l.Now, Filling: page.Since, TakenBy: &by, Overridden: page.Problems,
	}
	if taken.Goes, err = l.Following(r.Context(), d.Desk, nil, taken); err != nil {
		return err
	}
	got, err := d.Store.AddResponse(r.Context(), taken)
	if err != nil {
		return err
	}
	res, err := d.Of(l.Form).ResponseOf(r.Context(), page.Since)
	if err != nil || got != store.Received && got != store.SentBefore {
		return errors.Join(err, store.ErrConflict)
	}
	http.Redirect(w, r, base+"/"+res.ID, http.StatusSeeOther)
	return nil
}

// posted reads what was posted, nothing if the page is only looked at.
func (d *Room) posted(w http.ResponseWriter, r *http.Request) (*responses.Looking, url.Values, error) {
	posted := url.Values{}
	if r.Method == http.MethodPost {
		var err error
		if posted, err = fill.Posted(w, r); err != nil {
			return nil, nil, err
		}
	}
	l, err := responses.Read(d.Desk, r)
	return l, posted, err
}

// stamp tells one state of a response from another.
func stamp(r store.Response) string {
	if r.ChangedAt == nil {
		return "received"
	}
	return r.ChangedAt.UTC().Format(time.RFC3339Nano)
}

// fillIn runs the form on what was posted. It gives what is to be stored if that was asked
// for and nothing hinders it, or it is to be stored anyway.
func (d *Room) fillIn(
	page *changePage, p *engine.Program, in engine.Input, posted url.Values, uploads map[string]store.Upload,
) *engine.Stored {
	edit := fill.EditRows(p.Form, posted, posted.Get("_do"))
	if len(posted) > 0 || in.Prior == nil {
		in.Answers = p.AnswersFrom(fill.Posting{Fields: posted, Files: func(_ *form.Item, parts map[string]any) any {
			id, _ := parts["id"].(string)
			u, known := uploads[id]
			if !known {
				return nil
			}
			return map[string]any{"id": u.ID, "name": u.Name, "type": u.MediaType, "size": strconv.FormatInt(u.Size, 10)}
		}})
	}
	out := p.Run(in)
	judgement := fill.JudgedOnly(posted)
	save := posted.Get("_do") == "save" || posted.Get(anywayField) != ""
	if save {
		judgement = fill.Judged
	}
	page.View = fill.BuildAfter(p, out, posted, "", judgement, edit)
	if !save {
		return nil
	}
	for _, f := range out.Override() {
		page.Problems = append(page.Problems, f.Said())
	}
	if len(page.Problems) > 0 && posted.Get(anywayField) == "" {
		return nil
	}
	stored, err := out.ToStore()
	if err != nil {
		page.Problems = append(page.Problems, "This can’t be stored.")
		return nil
	}
	return &stored
}

func (d *Room) showChange(w http.ResponseWriter, r *http.Request, page *changePage) error {
	status := http.StatusOK
	if len(page.Problems) > 0 {
		status = http.StatusUnprocessableEntity
	}
	return d.pages.Page(w, status, frame.TemplateFor(r, "change"), page)
}
