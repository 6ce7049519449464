// Package lists is the workspace's lists: tables that choices are drawn from, edited in
// place, read from files and back, with their versions and the forms that use them.
package lists

import (
	"embed"
	"errors"
	"net/http"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/go-chi/chi/v5"

	"lazo/core/exchange"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/list"
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
	r.Get("/lists", h(d.all))
	r.Post("/lists", h(d.begin))
	r.Get("/lists/{list}", h(d.list))
	r.Post("/lists/{list}/entries", h(d.saveEntries))
	r.Post("/lists/{list}/columns", h(d.saveColumns))
	r.Post("/lists/{list}/read", h(d.read))
	r.Get("/lists/{list}/proposals/{proposal}", h(d.proposal))
	r.Post("/lists/{list}/proposals/{proposal}", h(d.take))
	r.Post("/lists/{list}/back", h(d.back))
	r.Post("/lists/{list}/name", h(d.rename))
	r.Post("/lists/{list}/delete", h(d.delete))
	r.Get("/lists/{list}/file.{kind}", h(d.file))
}

// workspaceOf is what belongs to the member's workspace.
func (d *Room) workspaceOf(r *http.Request) store.InWorkspace {
	return d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID)
}

type allPage struct {
	layout.Top
	Lists          []store.ListSummary
	Problem, Typed string
}

func (d *Room) all(w http.ResponseWriter, r *http.Request) error {
	return d.allPage(w, r, http.StatusOK, "", "")
}

func (d *Room) allPage(w http.ResponseWriter, r *http.Request, status int, problem, typed string) error {
	top, err := d.Top(r, "lists")
	if err != nil {
		return err
	}
	lists, err := d.workspaceOf(r).Lists(r.Context())
	if err != nil {
		return err
	}
	return d.pages.Page(w, status, "lists", allPage{top, lists, problem, typed})
}

// begin makes a list with a code and a name.
func (d *Room) begin(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	name := strings.TrimSpace(r.PostForm.Get("name"))
	if problem := nameProblem(name); problem != "" {
		return d.allPage(w, r, http.StatusUnprocessableEntity, problem, name)
	}
	l, err := d.AddList(r.Context(), name, list.Started(), "begun")
	if err != nil {
		return err
	}
	return to(w, r, l.ID, "")
}

func nameProblem(name string) string {
	switch {
	case name == "":
		return "Give the list a name first."
	case utf8.RuneCountInString(name) > list.MaxName:
		return "A name has at most " + strconv.Itoa(list.MaxName) + " characters."
	}
	return ""
}

// to leads to a place of a list's page.
func to(w http.ResponseWriter, r *http.Request, id store.ListID, place string) error {
	http.Redirect(w, r, base(id)+place, http.StatusSeeOther)
	return nil
}

func base(id store.ListID) string { return "/lists/" + strconv.FormatInt(int64(id), 10) }

// open finds the list of a request, with what it holds.
func (d *Room) open(r *http.Request) (store.List, form.Table, error) {
	id, err := strconv.ParseInt(chi.URLParam(r, "list"), 10, 64)
	if err != nil {
		return store.List{}, form.Table{}, store.ErrNotFound
	}
	l, err := d.workspaceOf(r).List(r.Context(), store.ListID(id))
	if err != nil {
		return l, form.Table{}, err
	}
	t, err := d.workspaceOf(r).ListTable(r.Context(), l.ID, l.Version)
	return l, t, err
}

// entriesPerPage are the entries of a page of the table.
const entriesPerPage = 50

// freshRows are the empty lines at the table's end.
const freshRows = 3

type listPage struct {
	layout.Top
	List     store.List
	Table    form.Table
	Rows     []row
	Fresh    []row
	Search   string
	Total    int // of what was searched for
	From, To int
	Previous int // pages, from 1; 0 for none
	Next     int
	Here     int
	Types    []layout.Option
	Uses     []store.ListUse
	Versions []store.ListVersion
	Notice   string
	Problems []exchange.Fault
	Meant    *list.Difference // what could not be saved
	Renamed  string           // a name that could not be taken
}

// row is a line of the table.
type row struct {
	At    string // its place among all entries, or among the fresh ones
	Code  string
	Cells []cell
	Gone  bool
}

type cell struct{ Name, Label, Type, Value, Problem string }

func (d *Room) list(w http.ResponseWriter, r *http.Request) error {
	l, t, err := d.open(r)
	if err != nil {
		return err
	}
	return d.listPage(w, r, http.StatusOK, l, t, listPage{})
}

// listPage shows a page of a list; p has what else there is to say.
func (d *Room) listPage(
	w http.ResponseWriter, r *http.Request, status int, l store.List, t form.Table, p listPage,
) (err error) {
	if p.Top, err = d.Top(r, "lists"); err != nil {
		return err
	}
	if p.Uses, err = d.workspaceOf(r).UsesOf(r.Context(), l.Key); err != nil {
		return err
	}
	if p.Versions, err = d.workspaceOf(r).ListVersions(r.Context(), l.ID); err != nil {
		return err
	}
	for _, c := range form.ColumnTypes {
		p.Types = append(p.Types, layout.Option{Value: string(c.Type), Label: c.Words})
	}
	p.List, p.Table = l, t
	p.Search = strings.TrimSpace(r.URL.Query().Get("search"))
	p.Here, _ = strconv.Atoi(r.URL.Query().Get("page"))
	p.fill(r.PostForm)
	return d.pages.Page(w, status, "list", p)
}

// fill lays out the rows of a page, with what was typed in them.
func (p *listPage) fill(typed map[string][]string) {
	var found []int
	for i, e := range p.Table.Entries {
		if p.Search == "" || says(p.Table, e, p.Search) {
			found = append(found, i)
		}
	}
	p.Total = len(found)
	if p.Here < 1 || p.Here > (p.Total+entriesPerPage-1)/entriesPerPage {
		p.Here = 1
	}
	from := (p.Here - 1) * entriesPerPage
	shown := found[min(from, p.Total):min(from+entriesPerPage, p.Total)]
	p.From, p.To = from+1, from+len(shown)
	if p.Here > 1 {
		p.Previous = p.Here - 1
	}
	if p.To < p.Total {
		p.Next = p.Here + 1
	}
	for _, i := range shown {
		p.Rows = append(p.Rows, p.row("e", i, p.Table.Entries[i], typed))
	}
	for i := range freshRows {
		p.Fresh = append(p.Fresh, p.row("n", i, nil, typed))
	}
}

// says reports whether anything in an entry holds a text.
func says(t form.Table, e form.Entry, text string) bool {
	for _, c := range t.Columns {
		if strings.Contains(expr.Fold(e.Text(c.Key)), expr.Fold(text)) {
			return true
		}
	}
	return false
}

func (p *listPage) row(kind string, i int, e form.Entry, typed map[string][]string) row {
	at := kind + "." + strconv.Itoa(i)
	out := row{At: at, Code: e.Text(p.Table.Code())}
	who := out.Code
	if kind == "n" {
		who = "a new entry"
	}
	for _, c := range p.Table.Columns {
		name := at + "." + c.Key
		value := e.Text(c.Key)
		if v, ok := typed[name]; ok {
			value = v[0]
		}
		problem := ""
		for _, f := range p.Problems {
			if f.Cell == name {
				problem = f.Text
			}
		}
		out.Cells = append(out.Cells, cell{name, c.Name + " of " + who, string(c.Type), value, problem})
	}
	return out
}

// file hands out a list for a spreadsheet.
func (d *Room) file(w http.ResponseWriter, r *http.Request) error {
	l, t, err := d.open(r)
	if err != nil {
		return err
	}
	sheet := exchange.Sheet{Name: exchange.SheetName(l.Name), Cells: list.Cells(t)}
	return layout.SendSheets(w, chi.URLParam(r, "kind"), l.Key, []exchange.Sheet{sheet})
}

func (d *Room) rename(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	l, t, err := d.open(r)
	if err != nil {
		return err
	}
	name := strings.TrimSpace(r.PostForm.Get("name"))
	if problem := nameProblem(name); problem != "" {
		return d.listPage(w, r, http.StatusUnprocessableEntity, l, t, listPage{Notice: problem, Renamed: name})
	}
	if err := d.workspaceOf(r).RenameList(r.Context(), l.ID, name); err != nil {
		return err
	}
	return to(w, r, l.ID, "")
}

// delete deletes a list that no form uses.
func (d *Room) delete(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	l, t, err := d.open(r)
	if err != nil {
		return err
	}
	uses, err := d.workspaceOf(r).UsesOf(r.Context(), l.Key)
	if err != nil {
		return err
	}
	switch {
	case len(uses) > 0:
		return d.listPage(w, r, http.StatusConflict, l, t, listPage{
			Notice: "Forms draw from this list, or did in editions that have responses; it stays.",
		})
	case r.PostForm.Get("sure") == "":
		return d.listPage(w, r, http.StatusUnprocessableEntity, l, t,
			listPage{Notice: "Tick the box beside it to delete the list."})
	}
	if err := d.workspaceOf(r).DeleteList(r.Context(), l.ID); err != nil {
		return err
	}
	http.Redirect(w, r, "/lists", http.StatusSeeOther)
	return nil
}

// conflict tells that a list was changed by someone else meanwhile.
func conflict(err error) bool { return errors.Is(err, store.ErrConflict) }
