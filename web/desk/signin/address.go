package signin

import (
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"

	"lazo/store"
)

type addressPage struct{ Email, Action, Problem string }

func (d *Room) addressPage(r *http.Request) (addressPage, error) {
	token := chi.URLParam(r, "token")
	t, err := d.Store.Token(r.Context(), store.NewAddress, token)
	return addressPage{Email: t.Email, Action: "/address/" + token}, goneIf(err)
}

// addressForm asks whether an address is to be the account's; opening it changes nothing,
// since programs that look through mail open what they find.
func (d *Room) addressForm(w http.ResponseWriter, r *http.Request) error {
	page, err := d.addressPage(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "address", page)
}

func (d *Room) changeAddress(w http.ResponseWriter, r *http.Request) error {
	page, err := d.addressPage(r)
	if err != nil {
		return err
	}
	err = d.Move(r, chi.URLParam(r, "token"))
	if errors.Is(err, store.ErrConflict) {
		page.Problem = "Another account has this address by now. Sign in with the address that you have."
		return d.pages.Page(w, http.StatusUnprocessableEntity, "address", page)
	}
	if err != nil {
		return goneIf(err)
	}
	http.Redirect(w, r, "/account?done=email", http.StatusSeeOther)
	return nil
}

// Move gives an account the address that a secret proves, and tells the one that it had.
func (d *Room) Move(r *http.Request, secret string) error {
	before, err := d.Store.ChangeAddress(r.Context(), secret)
	if err != nil {
		return err
	}
	now, err := d.Store.Account(r.Context(), before.ID)
	if err != nil {
		return err
	}
	if err := d.onTrails(r, now, "changed their e-mail address from "+before.Email); err != nil {
		return err
	}
	return d.Tell(r.Context(), before, moved(now.Email))
}
