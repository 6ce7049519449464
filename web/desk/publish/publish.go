// Package publish is publishing: what changes for respondents, what stands in the way, the editions there
// are, and taking a form out of public.
package publish

import (
	"context"
	"embed"
	"errors"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/expr"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/margin"
	"lazo/web/desk/rehearsal"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages      *ui.Renderer
	rehearsals *rehearsal.Room
}

// New returns the room; what is kept to be rehearsed is run before publishing.
func New(d *layout.Desk, rehearsals *rehearsal.Room) *Room {
	return &Room{d, layout.Pages(nil, templates), rehearsals}
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/publish", h(d.askPublish))
	r.Post("/publish", h(d.publish))
	r.Get("/publish/code.svg", h(d.code))
	r.Post("/live", h(d.putLive))
	r.Post("/offline", h(d.takeOffline))
	r.Post("/online", h(d.putOnline))
}

type publishPage struct {
	layout.Header
	Remarks  []layout.RemarkRow
	Hinders  bool
	Problem  string
	Kept     []rehearsal.Saved
	Differ   int
	Editions []editionRow
	Since    string   // when it was taken offline
	Message  string   // that is read meanwhile
	Pictures []string // sites whose pictures the draft names, but the workspace does not allow
	Origin   string   // of the installation, before the form's address
	Goes     []outgoing
	Stuck    []string // errors that were proven, about which publishing asks once
}

// outgoing is a letter or hook of the draft, with when it goes in words.
type outgoing struct{ Name, When string }

// goesOut lists what a draft sends.
func goesOut(def *form.Form) (out []outgoing) {
	m := &margin.Margin{Def: def, Syms: def.Symbols()}
	words := func(lines []margin.Line) string {
		return lines[0].Lead + expr.PiecesText(lines[0].Pieces)
	}
	for i, l := range def.Messages {
		out = append(out, outgoing{layout.LabelOr(l.Name, l.Key), words(m.LetterTies(i))})
	}
	for i, h := range def.Hooks {
		out = append(out, outgoing{h.URL, words(m.HookTies(i))})
	}
	return out
}

// code is the form's address as a picture, to be put on paper.
func (d *Room) code(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	code, err := ui.QR(ui.Origin(r) + "/f/" + f.Address)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "image/svg+xml")
	_, err = w.Write(code.SVG())
	return err
}

// editionRow is an edition that can be put live again or taken as the draft.
type editionRow struct {
	Number    int
	Published string
	Live      bool
}

func (d *Room) askPublish(w http.ResponseWriter, r *http.Request) error {
	return d.publishPage(w, r, http.StatusOK, "", nil)
}

func (d *Room) publishPage(w http.ResponseWriter, r *http.Request, status int, problem string, stuck []string) error {
	f, def, fr, err := d.OpenTab(r, "publish")
	if err != nil {
		return err
	}
	page := publishPage{Header: fr, Problem: problem, Origin: ui.Origin(r), Goes: goesOut(def), Stuck: stuck}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	p, remarks := draft.Program, draft.Remarks
	page.Hinders = layout.Hinders(remarks)
	page.Remarks = layout.RemarkRows(def, remarks)
	if p != nil {
		if page.Kept, err = d.rehearsals.RunSaved(r.Context(), f, p); err != nil {
			return err
		}
		for _, k := range page.Kept {
			if len(k.Differs) > 0 {
				page.Differ++
			}
		}
	}
	if page.Pictures, err = d.NotAllowed(r.Context(), f.WorkspaceID, def); err != nil {
		return err
	}
	page.Message = f.OfflineMessage
	editions, err := d.InForm(f).Editions(r.Context())
	if err != nil {
		return err
	}
	loc := def.Symbols().Zone
	if f.OfflineSince != nil {
		page.Since = f.OfflineSince.In(loc).Format(layout.PlainMoment)
	}
	for _, e := range editions {
		page.Editions = append(page.Editions,
			editionRow{e.Number, e.PublishedAt.In(loc).Format(layout.PlainMoment), e.Number == fr.Live})
	}
	return d.pages.Page(w, status, "publish", page)
}

// putLive makes an earlier edition the live one again.
func (d *Room) putLive(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	number, err := strconv.Atoi(r.PostForm.Get("number"))
	if err != nil {
		return store.ErrNotFound
	}
	if err := d.InForm(f).PutLive(r.Context(), number); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/publish", http.StatusSeeOther)
	return nil
}

// maxOffline is the longest message of a form that is offline, in bytes.
const maxOffline = 2000

// takeOffline takes a form out of public at once, with what is read meanwhile.
func (d *Room) takeOffline(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10*maxOffline); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	message := strings.TrimSpace(r.PostForm.Get("message"))
	if len(message) > maxOffline {
		return d.publishPage(
			w, r, http.StatusUnprocessableEntity,
			"What people read meanwhile is too long; it can have some 2,000 characters. The form is as it was.", nil,
		)
	}
	if err := d.InForm(f).TakeOffline(r.Context(), message); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/publish", http.StatusSeeOther)
	return nil
}

// putOnline lets people come to a form again that was offline.
func (d *Room) putOnline(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	if err := d.InForm(f).PutOnline(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/publish", http.StatusSeeOther)
	return nil
}

func (d *Room) publish(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	version, err := strconv.ParseInt(r.PostForm.Get("version"), 10, 64)
	if err != nil {
		return d.publishPage(w, r, http.StatusUnprocessableEntity, "This page is not complete; here it is afresh.", nil)
	}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	if layout.Hinders(draft.Remarks) {
		return d.publishPage(w, r, http.StatusUnprocessableEntity, "", nil)
	}
	if r.PostForm.Get("sure") == "" {
		stuck, err := d.stuck(r.Context(), draft)
		if err != nil {
			return err
		}
		if len(stuck) > 0 {
			return d.publishPage(w, r, http.StatusConflict, "", stuck)
		}
	}
	_, err = d.InForm(f).Publish(r.Context(), version, layout.Member(r.Context()).ID)
	if errors.Is(err, store.ErrConflict) {
		return d.publishPage(
			w, r, http.StatusConflict,
			"This form has been changed meanwhile, here or by someone else. "+
				"This is what would be published now; please look again.", nil,
		)
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID)+"/publish", http.StatusSeeOther)
	return nil
}

// stuck are the errors that are proven of a draft: where somebody can't get past.
func (d *Room) stuck(ctx context.Context, draft *layout.Draft) (out []string, err error) {
	report, err := d.Proven(ctx, draft)
	if err != nil {
		return nil, err
	}
	for _, remark := range report.Remarks {
		if remark.Severity == form.Error {
			out = append(out, remark.Text)
		}
	}
	return out, nil
}
