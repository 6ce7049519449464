package response

import (
	"errors"
	"net/http"
	"net/url"
	"strconv"

	"github.com/go-chi/chi/v5"
	"github.com/google/uuid"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/responses"
	"lazo/web/fill"
	"lazo/web/fill/posted"
)

// changePage is a response that the office changes, or takes down for somebody, in the
// form's own controls.
type changePage struct {
	layout.Header
	*fill.View
	Response string // "" for a new one
	Heading  string
	Since    string // the state that the page began with
	Edition  int
	Action   string
	Problems []string     // why it is not stored as it stands
	Clashes  []fill.Clash // what somebody else changed meanwhile, too
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

// errUnfit is for a change that together with what others changed can't be stored as it is.
var errUnfit = errors.New("the changes of several together are faulty")

// change shows a response in the form's controls, and stores it when it is asked to.
func (d *Room) change(w http.ResponseWriter, r *http.Request) error {
	l, fields, err := d.posted(w, r)
	if err != nil {
		return err
	}
	res, err := d.InForm(l.Form).ResponseWithVersions(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	p, err := d.Programs.Get(r.Context(), l.Form.EditionID(res.Edition))
	if err != nil {
		return err
	}
	to := layout.Base(l.Form.ID) + "/responses/" + res.ID
	page := &changePage{Header: l.Frame, Response: res.ID, Heading: "Change what was sent", Edition: res.Edition,
		Action: to + "/change",
		Back:   to, Since: res.Stamp()}
	if s := fields.Get(sinceField); s != "" {
		page.Since = s
	}
	before, since := res.AsStamped(page.Since) // as the page found it
	base, err := engine.ParseAnswers(before)
	if err != nil {
		return err
	}
	uploads, err := d.InForm(l.Form).UploadsOf(r.Context(), res.Filling)
	if err != nil {
		return err
	}
	in := engine.Input{Prior: p.Answers(base), Params: res.Parameters, At: res.ReceivedAt, Mode: engine.Staff}
	stored, out := d.fillIn(page, p, in, fields, uploads)
	if stored == nil {
		return d.showChange(w, r, page)
	}
	by := layout.Member(r.Context()).ID
	got, err := d.InForm(l.Form).Amend(r.Context(), res.ID, &by, l.Now, func(now store.Response) (store.Response, error) {
		if now.Stamp() != page.Since {
			stored, page.Clashes, err = merged(p, in, before, stored, now, since, out, fields, page)
			if err != nil {
				return now, err
			}
		}
		next := now
		next.Edition, next.Uploads, next.Labels, next.Takes = res.Edition, stored.Files, stored.Labels, stored.Takes
		next.Overridden = page.Problems
		if next.Answers, err = p.Beside(stored.Answers, now.Answers); err != nil {
			return next, err
		}
		err = l.Follow(r.Context(), d.Desk, now.Answers, &next)
		return next, err
	})
	switch {
	case errors.Is(err, errMet):
		page.Problems = []string{"Somebody else has changed this response since you opened it. Nothing is stored yet."}
		return d.showChange(w, r, page)
	case errors.Is(err, errUnfit):
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

// merged is what is stored of a page whose response somebody else has changed since: the
// page's own changes on what is stored now. Where both changed the same answer, and it is not
// decided whose counts, it is errMet, with the clashes.
func merged(
	p *engine.Program, in engine.Input, base []byte, mine *engine.Stored, now store.Response,
	since []store.ResponseVersion,
	out *engine.Outcome, fields url.Values, page *changePage,
) (*engine.Stored, []fill.Clash, error) {
	m, err := p.Merge(base, mine.Answers, now.Answers, out, fill.Decided(fields))
	if err != nil {
		return nil, nil, err
	}
	if len(m.Clashes) > 0 {
		return nil, fill.Clashes(p, m.Clashes, since), errMet
	}
	in.Prior, in.Answers = m.Prior, m.Answers
	both := p.Run(in)
	page.Problems = nil
	for _, f := range both.Override() {
		page.Problems = append(page.Problems, f.Said())
	}
	if len(page.Problems) > 0 && fields.Get(anywayField) == "" {
		return nil, nil, errUnfit
	}
	stored, err := both.ToStore()
	return &stored, nil, err
}

// takeDown shows an empty form, and stores what somebody said by telephone.
func (d *Room) takeDown(w http.ResponseWriter, r *http.Request) error {
	l, fields, err := d.posted(w, r)
	if err != nil {
		return err
	}
	if l.Form.LiveEdition == nil {
		return store.ErrNotFound
	}
	edition := *l.Form.LiveEdition
	if n, err := strconv.Atoi(fields.Get(editionField)); err == nil && n > 0 && n <= edition {
		edition = n
	}
	p, err := d.Programs.Get(r.Context(), l.Form.EditionID(edition))
	if err != nil {
		return err
	}
	base := layout.Base(l.Form.ID) + "/responses"
	page := &changePage{Header: l.Frame, Heading: "Take a response down", Edition: edition, Action: base + "/new",
		Back: base}
	if page.Since = fields.Get(sinceField); uuid.Validate(page.Since) != nil {
		page.Since = uuid.NewString() // of the filling, so that a doubled click stores one
	}
	stored, _ := d.fillIn(page, p, engine.Input{At: l.Now, Begun: l.Now, Mode: engine.Staff}, fields, nil)
	if stored == nil {
		return d.showChange(w, r, page)
	}
	by := layout.Member(r.Context()).ID
	taken := store.Response{
		WorkspaceID: l.Form.WorkspaceID, FormID: l.Form.ID, Edition: edition, Answers: stored.Answers, Labels: stored.Labels,
		Takes: stored.Takes, ReceivedAt: l.Now, Filling: page.Since, TakenBy: &by, Overridden: page.Problems,
	}
	if err := l.Follow(r.Context(), d.Desk, nil, &taken); err != nil {
		return err
	}
	got, err := d.Store.AddResponse(r.Context(), taken)
	if err != nil {
		return err
	}
	res, err := d.InForm(l.Form).ResponseOf(r.Context(), page.Since)
	if err != nil || got != store.Received && got != store.SentBefore {
		return errors.Join(err, store.ErrConflict)
	}
	http.Redirect(w, r, base+"/"+res.ID, http.StatusSeeOther)
	return nil
}

// posted reads what was posted, nothing if the page is only looked at.
func (d *Room) posted(w http.ResponseWriter, r *http.Request) (*responses.Looking, url.Values, error) {
	fields := url.Values{}
	if r.Method == http.MethodPost {
		var err error
		if fields, err = posted.Posted(w, r); err != nil {
			return nil, nil, err
		}
	}
	l, err := responses.Read(d.Desk, r)
	return l, fields, err
}

// fillIn runs the form on what was posted. It gives what is to be stored if that was asked
// for and nothing hinders it, or it is to be stored anyway.
func (d *Room) fillIn(
	page *changePage, p *engine.Program, in engine.Input, fields url.Values, uploads map[string]store.Upload,
) (*engine.Stored, *engine.Outcome) {
	fields, edit := posted.EditRows(p.Form, fields, fields.Get(posted.DoField))
	if len(fields) > 0 || in.Prior == nil {
		in.Answers = p.AnswersFrom(posted.Posting{Fields: fields, Files: func(_ *form.Item, parts map[string]any) any {
			id, _ := parts["id"].(string)
			u, known := uploads[id]
			if !known {
				return nil
			}
			return map[string]any{"id": u.ID, "name": u.Name, "type": u.MediaType, "size": strconv.FormatInt(u.Size, 10)}
		}})
	}
	out := p.Run(in)
	judgement := fill.JudgedOnly(fields)
	save := fields.Get(posted.DoField) == "save" || fields.Get(anywayField) != ""
	if save {
		judgement = fill.Judged
	}
	page.View = fill.BuildAfter(p, out, fields, "", judgement, edit)
	if !save {
		return nil, out
	}
	for _, f := range out.Override() {
		page.Problems = append(page.Problems, f.Said())
	}
	if len(page.Problems) > 0 && fields.Get(anywayField) == "" {
		return nil, out
	}
	stored, err := out.ToStore()
	if err != nil {
		page.Problems = append(page.Problems, "This can’t be stored.")
		return nil, out
	}
	return &stored, out
}

func (d *Room) showChange(w http.ResponseWriter, r *http.Request, page *changePage) error {
	status := http.StatusOK
	if len(page.Problems) > 0 {
		status = http.StatusUnprocessableEntity
	}
	return d.pages.Page(w, status, layout.TemplateFor(r, "change"), page)
}
