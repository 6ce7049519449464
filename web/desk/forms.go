package desk

import (
	"net/http"
	"strconv"
	"strings"

	"lazo/core/form"
	"lazo/store"
	"lazo/web/ui"
)

type formsPage struct {
	Member, Workspace string
	Forms             []store.FormSummary
	Problem           string
}

func (d *Desk) forms(w http.ResponseWriter, r *http.Request) error { return d.listForms(w, r, "") }

func (d *Desk) listForms(w http.ResponseWriter, r *http.Request, problem string) error {
	m := member(r.Context())
	ws, err := d.store.WorkspaceByID(r.Context(), m.WorkspaceID)
	if err != nil {
		return err
	}
	list, err := d.store.Forms(r.Context(), m.WorkspaceID)
	if err != nil {
		return err
	}
	status := http.StatusOK
	if problem != "" {
		status = http.StatusUnprocessableEntity
	}
	return d.pages.Page(w, status, "forms", formsPage{m.Name, ws.Name, list, problem})
}

const maxTitle = 200

func (d *Desk) newForm(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	title := strings.TrimSpace(r.PostForm.Get("title"))
	if title == "" || len(title) > maxTitle {
		return d.listForms(w, r, "A form needs a title of at most "+strconv.Itoa(maxTitle)+" characters.")
	}
	f, err := d.store.CreateForm(r.Context(), member(r.Context()).WorkspaceID, emptyForm(title))
	if err != nil {
		return err
	}
	http.Redirect(w, r, base(f.ID), http.StatusSeeOther)
	return nil
}

// emptyForm is a new form: one page with one section to write into.
func emptyForm(title string) *form.Form {
	return &form.Form{Lazo: 1, Key: addressOf(title), Title: title, Timezone: "UTC", Language: "en",
		Pages: []*form.Page{{Key: "page_1", Sections: []*form.Section{{Key: "section_1"}}}}}
}

// addressOf makes a public address from a title.
func addressOf(title string) string {
	if key := form.ProposeKey(title); key != "" {
		return strings.ReplaceAll(key, "_", "-")
	}
	return "form"
}

func (d *Desk) duplicate(w http.ResponseWriter, r *http.Request) error {
	_, def, err := d.open(r)
	if err != nil {
		return err
	}
	def.Title = "Copy of " + def.Title
	f, err := d.store.CreateForm(r.Context(), member(r.Context()).WorkspaceID, def)
	if err != nil {
		return err
	}
	http.Redirect(w, r, base(f.ID), http.StatusSeeOther)
	return nil
}

type deletePage struct {
	ID        int64
	Title     string
	Responses int
	Problem   string
}

func (d *Desk) askDelete(w http.ResponseWriter, r *http.Request) error {
	return d.deletePage(w, r, http.StatusOK, "")
}

func (d *Desk) deletePage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	n, err := d.store.CountResponses(r.Context(), f.ID)
	if err != nil {
		return err
	}
	return d.pages.Page(w, status, "delete", deletePage{f.ID, def.Title, n, problem})
}

func (d *Desk) delete(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	if strings.TrimSpace(r.PostForm.Get("title")) != strings.TrimSpace(def.Title) {
		return d.deletePage(w, r, http.StatusUnprocessableEntity, "This is not the form’s title; nothing was deleted.")
	}
	if err := d.store.DeleteForm(r.Context(), f.WorkspaceID, f.ID); err != nil {
		return err
	}
	http.Redirect(w, r, "/forms", http.StatusSeeOther)
	return nil
}

func (d *Desk) file(w http.ResponseWriter, r *http.Request) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "application/json")
	w.Header().Set("Content-Disposition", `attachment; filename="`+f.Address+`.json"`)
	_, _ = w.Write(def.JSON())
	return nil
}

// parse reads a posted form of the desk within bounds.
func parse(w http.ResponseWriter, r *http.Request) error { return parseWithin(w, r, form.MaxBytes) }

func parseWithin(w http.ResponseWriter, r *http.Request, most int64) error {
	r.Body = http.MaxBytesReader(w, r.Body, most)
	if err := r.ParseForm(); err != nil {
		if strings.Contains(err.Error(), "too large") {
			return err
		}
		return ui.Unreadable
	}
	if !ui.ReadableFields(r.PostForm) {
		return ui.Unreadable
	}
	return nil
}
