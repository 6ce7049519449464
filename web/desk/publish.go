package desk

import (
	"errors"
	"net/http"
	"strconv"

	"lazo/core/form"
	"lazo/store"
)

type publishPage struct {
	Frame
	Remarks []form.Remark
	Hinders bool
	Problem string
}

func (d *Desk) askPublish(w http.ResponseWriter, r *http.Request) error {
	return d.publishPage(w, r, http.StatusOK, "")
}

func (d *Desk) publishPage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	fr, err := d.frame(r, f, def, "publish")
	if err != nil {
		return err
	}
	_, remarks := compiled(def)
	return d.pages.Page(w, status, "publish", publishPage{fr, remarks, hinders(remarks), problem})
}

func (d *Desk) publish(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, def, err := d.open(r)
	if err != nil {
		return err
	}
	version, err := strconv.ParseInt(r.PostForm.Get("version"), 10, 64)
	if err != nil {
		return d.publishPage(w, r, http.StatusUnprocessableEntity, "This page is not complete; here it is afresh.")
	}
	if _, remarks := compiled(def); hinders(remarks) {
		return d.publishPage(w, r, http.StatusUnprocessableEntity, "")
	}
	_, err = d.store.Publish(r.Context(), f.WorkspaceID, f.ID, version, member(r.Context()).ID)
	if errors.Is(err, store.ErrConflict) {
		return d.publishPage(w, r, http.StatusConflict, "Someone else has changed this form meanwhile. This is what would be published now; please look again.")
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, base(f.ID)+"/publish", http.StatusSeeOther)
	return nil
}
