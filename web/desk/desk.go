// Package desk is the signed-in side: the list of forms, the manuscript, the
// rehearsal, publishing and responses.
package desk

import (
	"embed"
	"net/http"
	"strconv"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Desk is the signed-in side of the application.
type Desk struct {
	store    *store.Store
	programs *fill.Programs
	sessions *scs.SessionManager
	pages    *ui.Renderer
	now      func() time.Time
}

// New returns the desk.
func New(s *store.Store, programs *fill.Programs, sessions *scs.SessionManager, now func() time.Time) *Desk {
	return &Desk{s, programs, sessions, ui.NewRenderer(funcs, fill.Templates, templates), now}
}

// Routes adds the desk's addresses.
func (d *Desk) Routes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/sign-in", h(d.signInForm))
	r.Post("/sign-in", h(d.signIn))
	r.Group(func(r chi.Router) {
		r.Use(d.signedIn)
		r.Post("/sign-out", h(d.signOut))
		r.Get("/", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/forms", http.StatusSeeOther) })
		r.Get("/forms", h(d.forms))
		r.Post("/forms", h(d.newForm))
		r.Get("/keys", h(d.keys))
		r.Get("/samples", h(d.samples))
		r.Post("/samples", h(d.startFrom))
		r.Post("/import", h(d.importNew))
		r.Route("/forms/{form}", func(r chi.Router) {
			r.Get("/", h(d.manuscript))
			r.Post("/edit", h(d.edit))
			r.Post("/check", h(d.check))
			r.Get("/clause", h(d.clause))
			r.Get("/targets", h(d.targets))
			r.Get("/presence", h(d.presence))
			r.Post("/pictures", h(d.addPicture))
			r.Post("/keep", h(d.keep))
			r.Get("/file", h(d.file))
			r.Post("/import", h(d.importInto))
			r.Get("/season", h(d.askSeason))
			r.Post("/season", h(d.season))
			r.Post("/live", h(d.putLive))
			r.Post("/duplicate", h(d.duplicate))
			r.Get("/delete", h(d.askDelete))
			r.Post("/delete", h(d.delete))
			r.Get("/rehearsal", h(d.rehearsal))
			r.Post("/rehearsal", h(d.rehearsal))
			r.Get("/publish", h(d.askPublish))
			r.Post("/publish", h(d.publish))
			r.Get("/public", h(d.public))
			r.Post("/public", h(d.setPublic))
			r.Get("/languages/{language}", h(d.language))
			r.Post("/languages/{language}", h(d.setLanguage))
			r.Get("/links", h(d.links))
			r.Post("/links", h(d.addLink))
			r.Post("/links/many", h(d.addLinks))
			r.Post("/links/{link}/delete", h(d.deleteLink))
			r.Get("/links/{link}/code.{kind}", h(d.linkCode))
			r.Get("/responses", h(d.responses))
			r.Get("/responses.csv", h(d.responsesCSV))
			r.Get("/responses/{response}", h(d.response))
			r.Post("/responses/{response}/delete", h(d.deleteResponse))
			r.Get("/responses/{response}/files/{upload}", h(d.responseFile))
		})
	})
}

// Frame is what the pages of one form share: the header with what is live.
type Frame struct {
	ID      int64
	Title   string
	Address string
	Tab     string
	Last    int // the newest edition, 0 for none
	Live    int // the live edition, 0 for none
	Changes []form.Change
	Version int64
	Member  string
}

// open finds the form of a request in the member's workspace.
func (d *Desk) open(r *http.Request) (store.Form, *form.Form, error) {
	id, err := strconv.ParseInt(chi.URLParam(r, "form"), 10, 64)
	if err != nil {
		return store.Form{}, nil, store.ErrNotFound
	}
	f, err := d.store.FormByID(r.Context(), member(r.Context()).WorkspaceID, id)
	if err != nil {
		return f, nil, err
	}
	def, err := f.Definition()
	return f, def, err
}

func (d *Desk) frame(r *http.Request, f store.Form, def *form.Form, tab string) (Frame, error) {
	fr := Frame{ID: f.ID, Title: def.Title, Address: f.Address, Tab: tab, Version: f.DraftVersion, Member: member(r.Context()).Name}
	if f.LiveEdition == nil {
		return fr, nil
	}
	fr.Live = *f.LiveEdition
	var err error
	if fr.Last, err = d.store.LastEdition(r.Context(), f.ID); err != nil {
		return fr, err
	}
	live, err := d.programs.Definition(r.Context(), f.ID, fr.Live)
	if err != nil {
		return fr, err
	}
	fr.Changes = form.Diff(live, def)
	return fr, nil
}

// openTab opens the form of a request with the header of one of its tabs.
func (d *Desk) openTab(r *http.Request, tab string) (f store.Form, def *form.Form, fr Frame, err error) {
	if f, def, err = d.open(r); err == nil {
		fr, err = d.frame(r, f, def, tab)
	}
	return f, def, fr, err
}

// NextEdition is the number that publishing would give.
func (f Frame) NextEdition() int { return f.Last + 1 }

// base is the form's address on the desk.
func base(id int64) string { return "/forms/" + strconv.FormatInt(id, 10) }

// compiled is a draft's program with its remarks; the program is nil while the
// draft has errors.
func compiled(def *form.Form) (*engine.Program, []form.Remark) {
	return engine.Compile(def)
}
