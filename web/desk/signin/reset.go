package signin

import (
	"errors"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/credential"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// resetsAllowed is how often a visitor asks for another password within [attemptsWindow].
const resetsAllowed = 5

type forgottenPage struct {
	Email, Problem string
	Sent           bool
	Unsent         bool // there is no mail server
}

func (d *Room) forgotten(w http.ResponseWriter, r *http.Request) error {
	return d.pages.Page(w, http.StatusOK, "forgotten", forgottenPage{Unsent: !d.Office.Sends()})
}

// sendReset sends a letter by which another password is set, if there is an account; what
// is answered does not tell.
func (d *Room) sendReset(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	page := forgottenPage{Email: strings.TrimSpace(r.PostForm.Get("email")), Unsent: !d.Office.Sends()}
	allowed, err := d.counted(r.Context(), "reset", ui.Visitor(r), resetsAllowed)
	if err != nil {
		return err
	}
	if !allowed {
		page.Problem = tooMany
		return d.pages.Page(w, http.StatusTooManyRequests, "forgotten", page)
	}
	page.Sent = true
	if len(page.Email) <= maxEmail {
		if err := d.writeReset(r, page.Email); err != nil {
			return err
		}
	}
	return d.pages.Page(w, http.StatusOK, "forgotten", page)
}

func (d *Room) writeReset(r *http.Request, email string) error {
	a, err := d.Store.AccountByEmail(r.Context(), email)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	// So many letters to one address and no more, from wherever they are asked for.
	if allowed, err := d.counted(r.Context(), "reset of", a.Email, resetsAllowed); err != nil || !allowed {
		return err
	}
	return d.Tell(r.Context(), a, askedReset(a))
}

type choosePage struct {
	Heading, Says, Problem, Button string
	Action                         string
	Email                          string // whose password it is, for programs that keep them
	Fields                         []nameField
	Have                           bool // the account is there, and its password is asked for
	Second                         bool // it has a second factor, which can be lost as well
	Least                          int  // characters of a password
}

// nameField is a name that is asked for.
type nameField struct{ Key, Label, Value, Complete string }

func (d *Room) resetPage(r *http.Request) (choosePage, store.Account, error) {
	token := chi.URLParam(r, "token")
	t, err := d.Store.Token(r.Context(), store.Reset, token)
	if err != nil {
		return choosePage{}, store.Account{}, goneIf(err)
	}
	a, err := d.Store.Account(r.Context(), t.Account)
	return choosePage{Heading: "Another password",
		Says:   "For " + a.Email + ". Wherever you are signed in, you will be signed out.",
		Button: "Set it", Action: "/reset/" + token, Email: a.Email, Least: credential.Shortest,
		Second: a.Second() && d.Office.Sends()}, a, err
}

func (d *Room) resetForm(w http.ResponseWriter, r *http.Request) error {
	page, _, err := d.resetPage(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "choose", page)
}

func (d *Room) reset(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	page, a, err := d.resetPage(r)
	if err != nil {
		return err
	}
	password, problem := chosen(r, a.Name, a.Email)
	if page.Problem = problem; problem != "" {
		return d.pages.Page(w, http.StatusUnprocessableEntity, "choose", page)
	}
	hash, err := credential.Hash(password)
	if err != nil {
		return err
	}
	lost := page.Second && r.PostForm.Has("lost")
	if _, err := d.Store.ResetPassword(r.Context(), chi.URLParam(r, "token"), hash, lost); err != nil {
		return goneIf(err)
	}
	if a, err = d.Store.Account(r.Context(), a.ID); err != nil {
		return err
	}
	said := "set a new password by an address from a letter"
	if lost {
		said += ", and asked that the second factor be taken off"
	}
	if err := d.onTrails(r, a, said); err != nil {
		return err
	}
	if lost && a.FactorOffAt != nil {
		if err := d.Tell(r.Context(), a, factorGoes(a, *a.FactorOffAt)); err != nil {
			return err
		}
	}
	if err := d.Tell(r.Context(), a, wasReset()); err != nil {
		return err
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	return nil
}
