package signin

import (
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/store"
)

// onTrails puts what was done with an account on the trails of its workspaces.
func (d *Room) onTrails(r *http.Request, a store.Account, said string) error {
	all, err := d.Store.Memberships(r.Context(), a.ID)
	if err != nil {
		return err
	}
	for _, m := range all {
		m.Name, m.Email = a.Name, a.Email
		d.TrailOf(r, m, "account", said)
	}
	return nil
}

// withoutFactor takes off the second factor of who has given their password, if they asked for
// that by mail and the time to object is over.
func (d *Room) withoutFactor(r *http.Request, a store.Account) (gone bool, err error) {
	if a.FactorOffAt == nil {
		return false, nil
	}
	if gone, err = d.Store.LetFactorGo(r.Context(), a.ID, d.Now()); err != nil || !gone {
		return false, err
	}
	if err := d.onTrails(r, a, "the second factor was taken off, as was asked by a letter"); err != nil {
		return false, err
	}
	return true, d.Tell(r.Context(), a, factorWent())
}

// found lets a second factor stay that somebody had called lost, and has given a code of.
func (d *Room) found(r *http.Request, a store.Account) error {
	kept, err := d.Store.KeepFactor(r.Context(), a.ID)
	if err != nil || !kept {
		return err
	}
	return d.onTrails(r, a, "gave a code, so the second factor stays")
}

// goes says when the second factor of an account goes, "" for never.
func goes(a store.Account, now time.Time) string {
	if a.FactorOffAt == nil || !a.FactorOffAt.After(now) {
		return ""
	}
	return moment(*a.FactorOffAt)
}

type factorPage struct{ Email, Action string }

// factorForm asks whether a second factor is to stay; opening it changes nothing.
func (d *Room) factorForm(w http.ResponseWriter, r *http.Request) error {
	token := chi.URLParam(r, "token")
	t, err := d.Store.Token(r.Context(), store.KeepFactor, token)
	if err != nil {
		return goneIf(err)
	}
	a, err := d.Store.Account(r.Context(), t.Account)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "factor", factorPage{Email: a.Email, Action: "/factor/" + token})
}

func (d *Room) keepFactor(w http.ResponseWriter, r *http.Request) error {
	id, err := d.Store.KeepFactorBy(r.Context(), chi.URLParam(r, "token"))
	if err != nil {
		return goneIf(err)
	}
	a, err := d.Store.Account(r.Context(), id)
	if err != nil {
		return err
	}
	if err := d.onTrails(r, a, "kept the second factor, by an address from a letter"); err != nil {
		return err
	}
	http.Redirect(w, r, "/reset", http.StatusSeeOther)
	return nil
}
