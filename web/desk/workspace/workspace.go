// Package workspace is what holds for all forms of a workspace.
package workspace

import (
	"embed"
	"errors"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/markdown"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, templates)} }

// Routes adds the room's own addresses.
func (d *Room) Routes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/workspace", h(d.workspace))
	r.Post("/workspace/pictures", h(d.allowPictures))
	r.Post("/workspace/pictures/forbid", h(d.forbidPictures))
	r.Post("/workspace/notices", h(d.notices))
	r.Post("/workspace/note", h(d.note))
}

// workspacePage has what holds for all forms of a workspace.
type workspacePage struct {
	layout.Top
	Note           string
	Sites          []string
	Notices        store.Notices
	Email          string // of the member
	Unsent         bool   // there is no mail server
	Problem, Typed string
}

func (d *Room) workspace(w http.ResponseWriter, r *http.Request) error {
	return d.workspacePage(w, r, http.StatusOK, "", "")
}

func (d *Room) workspacePage(w http.ResponseWriter, r *http.Request, status int, problem, typed string) error {
	top, err := d.Top(r, "workspace")
	if err != nil {
		return err
	}
	at, err := d.There(r.Context()).Get(r.Context())
	if err != nil {
		return err
	}
	m := layout.Member(r.Context())
	notices, err := d.Store.Notices(r.Context(), m.ID)
	if err != nil {
		return err
	}
	return d.pages.Page(w, status, "workspace", workspacePage{
		top, at.Note, at.PictureSites, notices, m.Email, !d.Office.Sends(), problem, typed,
	})
}

// notices sets what the member is written to about.
func (d *Room) notices(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	n := store.Notices{Digest: r.PostForm.Get("digest") != "", ToldFailures: r.PostForm.Get("failures") != ""}
	if err := d.Store.SetNotices(r.Context(), layout.Member(r.Context()).ID, n, d.Now()); err != nil {
		return err
	}
	http.Redirect(w, r, "/workspace", http.StatusSeeOther)
	return nil
}

// maxNote bounds what a workspace says of itself, in bytes.
const maxNote = 4000

// note sets what the workspace says of itself above its forms.
func (d *Room) note(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 20_000); err != nil {
		return err
	}
	note := strings.ReplaceAll(strings.TrimSpace(r.PostForm.Get("note")), "\r\n", "\n")
	if len(note) > maxNote {
		return d.workspacePage(w, r, http.StatusUnprocessableEntity, "The note is too long: 4,000 letters are the most.", "")
	}
	if err := d.There(r.Context()).SetNote(r.Context(), note); err != nil {
		return err
	}
	http.Redirect(w, r, "/workspace", http.StatusSeeOther)
	return nil
}

// maxSite is the longest address of a site: a host name has at most 253 characters.
const maxSite = 300

// allowPictures lets the workspace's texts show pictures of a site.
func (d *Room) allowPictures(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	typed := strings.TrimSpace(r.PostForm.Get("site"))
	site := markdown.Site(typed)
	if site == "" || len(site) > maxSite {
		return d.workspacePage(w, r, http.StatusUnprocessableEntity,
			"This is no site; one is written like https://club.example", typed)
	}
	err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).AllowPictures(r.Context(), site)
	if errors.Is(err, store.ErrTooOften) {
		return d.workspacePage(
			w, r, http.StatusUnprocessableEntity,
			"These are many sites already. Take one out first, or send pictures here instead.", typed,
		)
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.WayOn(r.PostForm.Get("to")), http.StatusSeeOther)
	return nil
}

// forbidPictures takes a site's pictures out of the workspace's texts again.
func (d *Room) forbidPictures(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	if err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).ForbidPictures(r.Context(),
		r.PostForm.Get("site")); err != nil {
		return err
	}
	http.Redirect(w, r, "/workspace", http.StatusSeeOther)
	return nil
}
