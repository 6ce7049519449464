package desk

import (
	"errors"
	"net/http"
	"strconv"

	"lazo/store"
)

type publishPage struct {
	Frame
	Remarks  []remarkRow
	Hinders  bool
	Problem  string
	Kept     []keptRehearsal
	Differ   int
	Editions []editionRow
}

// editionRow is an edition that can be put live again or taken as the draft.
type editionRow struct {
	Number    int
	Published string
	Live      bool
}

func (d *Desk) askPublish(w http.ResponseWriter, r *http.Request) error {
	return d.publishPage(w, r, http.StatusOK, "")
}

func (d *Desk) publishPage(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	f, def, fr, err := d.openTab(r, "publish")
	if err != nil {
		return err
	}
	page := publishPage{Frame: fr, Problem: problem}
	p, remarks := compiled(def)
	page.Hinders = hinders(remarks)
	for _, rm := range remarks {
		page.Remarks = append(page.Remarks, remarkRow{rm, rowOf(def, rm)})
	}
	if p != nil {
		if page.Kept, err = d.keptRehearsals(r.Context(), f, p); err != nil {
			return err
		}
		for _, k := range page.Kept {
			if len(k.Differs) > 0 {
				page.Differ++
			}
		}
	}
	editions, err := d.store.Editions(r.Context(), f.ID)
	if err != nil {
		return err
	}
	loc := def.Symbols().Zone
	for _, e := range editions {
		page.Editions = append(page.Editions, editionRow{e.Number, e.PublishedAt.In(loc).Format(plainMoment), e.Number == fr.Live})
	}
	return d.pages.Page(w, status, "publish", page)
}

// putLive makes an earlier edition the live one again.
func (d *Desk) putLive(w http.ResponseWriter, r *http.Request) error {
	if err := parse(w, r); err != nil {
		return err
	}
	f, _, err := d.open(r)
	if err != nil {
		return err
	}
	number, err := strconv.Atoi(r.PostForm.Get("number"))
	if err != nil {
		return store.ErrNotFound
	}
	if err := d.store.PutLive(r.Context(), f.WorkspaceID, f.ID, number); err != nil {
		return err
	}
	http.Redirect(w, r, base(f.ID)+"/publish", http.StatusSeeOther)
	return nil
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
