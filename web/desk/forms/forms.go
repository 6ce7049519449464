// Package forms is the list of a workspace's forms, and the ways in which a form begins: empty, from a
// sample, from a file, as another's next season.
package forms

import (
	"embed"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/form"
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
	r.Get("/forms", h(d.forms))
	r.Post("/forms", h(d.newForm))
	r.Get("/samples", h(d.samples))
	r.Post("/samples", h(d.startFrom))
	r.Post("/import", h(d.importNew))
}

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/more", h(d.more))
	r.Get("/files", h(d.files))
	r.Get("/file", h(d.file))
	r.Post("/import", h(d.importInto))
	r.Get("/sheet.{kind}", h(d.sheets))
	r.Post("/sheet", h(d.readSheet))
	r.Post("/sheet/take", h(d.takeSheet))
	r.Get("/season", h(d.askSeason))
	r.Post("/season", h(d.season))
	r.Post("/duplicate", h(d.duplicate))
	r.Post("/shelf", h(d.shelve))
	r.Post("/aside", h(d.setAside))
	r.Get("/delete", h(d.askDelete))
	r.Post("/delete", h(d.delete))
}

type formsPage struct {
	layout.Top
	Note    string // what the workspace says of itself
	Shelves []shelf
	Names   []string // of the shelves that there are
	Any     bool     // the workspace has forms
	Find    string
	By      string
	Aside   bool // those that were set aside are shown
	AsideN  int
	Problem string
	Orders  []layout.Option
	Shelved bool   // some stand on shelves
	More    int    // forms that are not listed
	All     string // the address that lists them, too
}

// shelf is a group of forms.
type shelf struct {
	Name  string
	Forms []store.FormSummary
}

// onShelves groups forms by their shelves, in the order of the names, those on none first.
func onShelves(list []store.FormSummary) []shelf {
	var out []shelf
	for _, f := range list {
		at := slices.IndexFunc(out, func(s shelf) bool { return s.Name == f.Shelf })
		if at < 0 {
			at = len(out)
			out = append(out, shelf{Name: f.Shelf})
		}
		out[at].Forms = append(out[at].Forms, f)
	}
	slices.SortStableFunc(out, func(a, b shelf) int { return strings.Compare(a.Name, b.Name) })
	return out
}

func (d *Room) forms(w http.ResponseWriter, r *http.Request) error { return d.listForms(w, r, "") }

func (d *Room) listForms(w http.ResponseWriter, r *http.Request, problem string) error {
	top, err := d.Top(r, "forms")
	if err != nil {
		return err
	}
	in, q := d.There(r.Context()), r.URL.Query()
	p := formsPage{Top: top, Find: strings.TrimSpace(q.Get("find")), By: q.Get("by"), Aside: q.Get("aside") != "",
		Problem: problem,
		Orders: []layout.Option{{Value: store.ByEdit, Label: "edited last"},
			{Value: store.ByResponse, Label: "answered last"},
			{Value: store.ByTitle, Label: "by title"}}}
	at, err := in.Get(r.Context())
	if err != nil {
		return err
	}
	p.Note = at.Note
	list, err := in.Forms(r.Context(), p.Find, p.By, p.Aside)
	if err != nil {
		return err
	}
	if p.Names, err = in.Shelves(r.Context()); err != nil {
		return err
	}
	if p.AsideN, err = in.CountAside(r.Context()); err != nil {
		return err
	}
	if n := len(list); n > formsShown && !q.Has("all") {
		p.More, list = n-formsShown, list[:formsShown]
		q.Set("all", "1")
		p.All = "/forms?" + q.Encode()
	}
	p.Shelves = onShelves(list)
	p.Shelved = len(p.Shelves) > 1 || len(p.Shelves) == 1 && p.Shelves[0].Name != ""
	p.Any = len(list) > 0 || p.AsideN > 0 || p.Find != ""
	status := http.StatusOK
	if problem != "" {
		status = http.StatusUnprocessableEntity
	}
	return d.pages.Page(w, status, "forms", p)
}

// morePart is what else can be done with a form of the list.
type morePart struct {
	ID    store.FormID
	Title string
	Shelf string
	Aside bool
	Owns  bool
}

// more gives the menu of a form of the list when it is opened: most are not.
func (d *Room) more(w http.ResponseWriter, r *http.Request) error {
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "form-more", morePart{f.ID, f.Title, f.Shelf, f.AsideSince != nil,
		layout.Member(r.Context()).Role == store.Owner})
}

// formsShown is how many forms are listed unless all are asked for.
const formsShown = 100

// maxShelf is the greatest length of a shelf's name in characters.
const maxShelf = 60

// shelve puts a form on a shelf, or takes it down from it.
func (d *Room) shelve(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	name := strings.TrimSpace(r.PostForm.Get("shelf"))
	if utf8.RuneCountInString(name) > maxShelf {
		return d.listForms(w, r, "The name of a shelf has at most "+strconv.Itoa(maxShelf)+" characters.")
	}
	if err := d.InForm(f).Shelve(r.Context(), name); err != nil {
		return err
	}
	http.Redirect(w, r, "/forms", http.StatusSeeOther)
	return nil
}

// setAside takes a form out of the list, or puts it back.
func (d *Room) setAside(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, _, err := d.Open(r)
	if err != nil {
		return err
	}
	if err := d.InForm(f).SetAside(r.Context(), r.PostForm.Get("aside") != ""); err != nil {
		return err
	}
	http.Redirect(w, r, "/forms", http.StatusSeeOther)
	return nil
}

func (d *Room) newForm(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	title := strings.TrimSpace(r.PostForm.Get("title"))
	if title == "" || len(title) > author.MaxTitle {
		return d.listForms(w, r, "A form needs a title of at most "+strconv.Itoa(author.MaxTitle)+" characters.")
	}
	f, err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).CreateForm(r.Context(),
		emptyForm(title, r.PostForm.Get("timezone")))
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID), http.StatusSeeOther)
	return nil
}

// emptyForm is a new form: one page with one section to write into. Its times are those of
// whoever begins it, as far as their browser tells.
func emptyForm(title, zone string) *form.Form {
	if _, err := time.LoadLocation(zone); err != nil || zone == "" || zone == "Local" {
		zone = "UTC"
	}
	return &form.Form{Lazo: 1, Key: addressOf(title), Title: title, Timezone: zone, Language: "en",
		Pages: []*form.Page{{Key: "page_1", Sections: []*form.Section{{Key: "section_1"}}}}}
}

// addressOf makes a public address from a title.
func addressOf(title string) string {
	if key := form.ProposeKey(title); key != "" {
		return strings.ReplaceAll(key, "_", "-")
	}
	return "form"
}

func (d *Room) duplicate(w http.ResponseWriter, r *http.Request) error {
	_, def, err := d.Open(r)
	if err != nil {
		return err
	}
	def = def.Clone()
	def.Title = "Copy of " + def.Title
	f, err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).CreateForm(r.Context(), def)
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(f.ID), http.StatusSeeOther)
	return nil
}

type deletePage struct {
	ID        store.FormID
	Title     string
	Responses int
	Problem   string
}

func (d *Room) askDelete(w http.ResponseWriter, r *http.Request) error {
	return d.deletePage(w, r, http.StatusOK, "")
}

func (d *Room) deletePage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	n, err := d.InForm(f).CountResponses(r.Context())
	if err != nil {
		return err
	}
	return d.pages.Page(w, status, "delete", deletePage{f.ID, def.Title, n, problem})
}

func (d *Room) delete(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	if strings.TrimSpace(r.PostForm.Get("title")) != strings.TrimSpace(def.Title) {
		return d.deletePage(w, r, http.StatusUnprocessableEntity, "This is not the form’s title; nothing was deleted.")
	}
	if err := d.InForm(f).Delete(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/forms", http.StatusSeeOther)
	return nil
}

// filesPage offers a form's draft as files, and takes one in its place.
type filesPage struct {
	layout.Header
	Shared bool // it uses lists of the workspace
}

func (d *Room) files(w http.ResponseWriter, r *http.Request) error {
	_, def, fr, err := d.OpenTab(r, "files")
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "form-files", filesPage{fr, len(def.SharedLists()) > 0})
}

func (d *Room) file(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Content-Disposition", `attachment; filename="`+f.Address+`.json"`)
	if r.URL.Query().Get("lists") != "" {
		def = def.Carrying()
	}
	_, _ = w.Write(def.JSON())
	return nil
}
