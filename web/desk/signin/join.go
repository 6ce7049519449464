package signin

import (
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5"

	"lazo/credential"
	"lazo/store"
	"lazo/web/desk/layout"
)

// joining is who was invited, with the account that their address has.
type joining struct {
	page    choosePage
	invited store.Invited
	account store.Account // whose ID is 0 if there is none
}

func (d *Room) joining(r *http.Request) (joining, error) {
	token := chi.URLParam(r, "token")
	i, workspace, err := d.Store.InvitationOf(r.Context(), token)
	if err != nil {
		return joining{}, goneIf(err)
	}
	j := joining{invited: i, page: choosePage{Heading: "Work on the forms of " + workspace, Button: "Come in",
		Action: "/join/" + token,
		Email:  i.Email, Least: credential.Shortest,
		Says: "You were invited as " + Called(i.Role) + ", by your address " + i.Email + "."}}
	j.account, err = d.Store.AccountByEmail(r.Context(), i.Email)
	switch {
	case err == nil:
		j.page.Have = true
		j.page.Says += " It has an account here: come in with its password."
	case errors.Is(err, store.ErrNotFound):
		j.page.Fields = []nameField{{"name", "Your name", r.PostForm.Get("name"), "name"}}
		err = nil
	}
	return j, err
}

func (d *Room) joinForm(w http.ResponseWriter, r *http.Request) error {
	j, err := d.joining(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "choose", j.page)
}

// join makes a member of who was invited, and signs them in.
func (d *Room) join(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	j, err := d.joining(r)
	if err != nil {
		return err
	}
	made := store.Account{}
	if j.page.Have {
		right, problem, err := d.proves(r, j.account.Email, j.account, r.PostForm.Get("password"))
		if err != nil {
			return err
		}
		if !right && problem == "" {
			problem = "This is not the password of the account."
		}
		j.page.Problem = problem
	} else {
		made.Name = credential.Name(r.PostForm.Get("name"))
		made.PasswordHash, j.page.Problem, err = Hashed(r, made.Name, j.invited.Email)
		if err != nil {
			return err
		}
		if made.Name == "" {
			j.page.Problem = "How are you called? Others see by it what you did."
		}
	}
	if j.page.Problem != "" {
		return d.pages.Page(w, http.StatusUnprocessableEntity, "choose", j.page)
	}
	m, err := d.Store.Join(r.Context(), chi.URLParam(r, "token"), j.account.ID, made)
	if errors.Is(err, store.ErrConflict) {
		return gone // a member already
	}
	if err != nil {
		return goneIf(err)
	}
	d.TrailOf(r, m, "people", "joined as "+Called(m.Role))
	return d.welcome(w, r, m)
}

// welcome signs in who has just become a member; one with a second factor shows it first.
func (d *Room) welcome(w http.ResponseWriter, r *http.Request, m store.Member) error {
	a, err := d.Store.Account(r.Context(), m.AccountID)
	if err != nil {
		return err
	}
	if a.Second() {
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return nil
	}
	if err := d.enter(r, a, m.ID); err != nil {
		return err
	}
	http.Redirect(w, r, "/forms", http.StatusSeeOther)
	return nil
}

// Hashed is the hash of the password that was chosen, with what is wrong with it in words.
func Hashed(r *http.Request, known ...string) (hash, problem string, err error) {
	password, problem := chosen(r, known...)
	if problem != "" {
		return "", problem, nil
	}
	hash, err = credential.Hash(password)
	return hash, "", err
}

// beginPage is where the first workspace is made, by the address that the installation
// printed.
func (d *Room) beginPage(r *http.Request) (choosePage, error) {
	token := chi.URLParam(r, "token")
	if _, err := d.Store.Token(r.Context(), store.First, token); err != nil {
		return choosePage{}, goneIf(err)
	}
	return choosePage{Heading: "Your first workspace", Button: "Begin", Action: "/begin/" + token,
		Least: credential.Shortest,
		Says:  "A workspace holds the forms and responses that belong together, and the people who work on them. You will be its owner.",
		Fields: []nameField{
			{"workspace", "Name of the workspace, such as your club’s", r.PostForm.Get("workspace"), "organization"},
			{"name", "Your name", r.PostForm.Get("name"), "name"},
			{"email", "Your e-mail address", r.PostForm.Get("email"), "username"},
		}}, nil
}

func (d *Room) beginForm(w http.ResponseWriter, r *http.Request) error {
	page, err := d.beginPage(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "choose", page)
}

func (d *Room) begin(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	page, err := d.beginPage(r)
	if err != nil {
		return err
	}
	f := store.Founding{Workspace: credential.Name(r.PostForm.Get("workspace")),
		Name:  credential.Name(r.PostForm.Get("name")),
		Email: credential.Email(r.PostForm.Get("email"))}
	f.PasswordHash, page.Problem, err = Hashed(r, f.Workspace, f.Name, f.Email)
	switch {
	case err != nil:
		return err
	case f.Workspace == "":
		page.Problem = "The workspace needs a name."
	case f.Name == "":
		page.Problem = "How are you called? Others see by it what you did."
	case f.Email == "":
		page.Problem = "This is no e-mail address; you sign in with it."
	}
	if page.Problem != "" {
		return d.pages.Page(w, http.StatusUnprocessableEntity, "choose", page)
	}
	m, err := d.Store.Found(r.Context(), chi.URLParam(r, "token"), f)
	if err != nil {
		return goneIf(err)
	}
	d.TrailOf(r, m, "people", "made the workspace")
	return d.welcome(w, r, m)
}
