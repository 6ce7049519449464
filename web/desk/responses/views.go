package responses

import (
	"errors"
	"net/http"
	"strings"
	"unicode/utf8"

	"lazo/store"
	"lazo/web/desk/layout"
)

// maxViewName is the greatest length of a view's name in characters.
const maxViewName = 80

// saveView keeps what is looked at under a name, for all or for oneself; the view that it
// began with is replaced if it keeps its name.
func (d *Room) saveView(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	name := strings.TrimSpace(r.PostForm.Get("name"))
	v := store.SavedView{Name: name, Definition: l.View}
	if r.PostForm.Get("own") != "" {
		id := layout.Member(r.Context()).ID
		v.OwnerID = &id
	}
	if l.Saved != nil && (r.PostForm.Get("as") != "new") {
		v.ID = l.Saved.ID
	}
	fault := ""
	switch {
	case name == "":
		fault = "Give the view a name first."
	case utf8.RuneCountInString(name) > maxViewName:
		fault = "This name is too long."
	case l.Fault != "":
		fault = "A condition that can’t be read is not kept: " + l.Fault + "."
	}
	if fault == "" {
		v, err = d.InForm(l.Form).SaveView(r.Context(), v)
		switch {
		case errors.Is(err, store.ErrTaken):
			fault = "There is a view of this name already."
		case errors.Is(err, store.ErrTooOften):
			fault = "There are very many views; take one away first."
		case err != nil:
			return err
		}
	}
	if fault != "" {
		p, err := d.page(r, l)
		if err != nil {
			return err
		}
		p.Naming = fault
		return d.pages.Page(w, http.StatusUnprocessableEntity, "responses", p)
	}
	l.Saved = &v
	http.Redirect(w, r, l.Address(""), http.StatusSeeOther)
	return nil
}

// deleteView forgets a view; its responses stay.
func (d *Room) deleteView(w http.ResponseWriter, r *http.Request) error {
	l, err := Read(d.Desk, r)
	if err != nil {
		return err
	}
	if l.Saved == nil {
		return store.ErrNotFound
	}
	if err := d.InForm(l.Form).DeleteView(r.Context(), layout.Member(r.Context()).ID, l.Saved.ID); err != nil {
		return err
	}
	http.Redirect(w, r, layout.Base(l.Form.ID)+"/responses", http.StatusSeeOther)
	return nil
}
