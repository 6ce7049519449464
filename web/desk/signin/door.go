// Package signin is where people come in: signing in, by a second factor as well, a password
// that was forgotten, invitations, and the first workspace of an installation.
package signin

import (
	"context"
	"embed"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/credential"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the door.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, templates)} }

// OpenRoutes adds the addresses for who is not signed in.
func (d *Room) OpenRoutes(r chi.Router) {
	h := d.pages.Handle
	r = r.With(unkept)
	r.Get("/sign-in", h(d.signInForm))
	r.Post("/sign-in", h(d.signIn))
	r.Get("/sign-in/second", h(d.secondForm))
	r.Post("/sign-in/second", h(d.second))
	r.Get("/reset", h(d.forgotten))
	r.Post("/reset", h(d.sendReset))
	r.Get("/reset/{token}", h(d.resetForm))
	r.Post("/reset/{token}", h(d.reset))
	r.Get("/address/{token}", h(d.addressForm))
	r.Post("/address/{token}", h(d.changeAddress))
	r.Get("/factor/{token}", h(d.factorForm))
	r.Post("/factor/{token}", h(d.keepFactor))
	r.Get("/join/{token}", h(d.joinForm))
	r.Post("/join/{token}", h(d.join))
	r.Get("/begin/{token}", h(d.beginForm))
	r.Post("/begin/{token}", h(d.begin))
}

// unkept keeps what stands on these pages, addresses and problems, from being kept by browsers
// and by what lies in between.
func unkept(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Cache-Control", "no-store")
		next.ServeHTTP(w, r)
	})
}

// Routes adds the addresses for who is signed in.
func (d *Room) Routes(r chi.Router) {
	h := d.pages.Handle
	r.Post("/sign-out", h(d.signOut))
	r.Get("/again", h(d.againForm))
	r.Post("/again", h(d.again))
	r.Post("/workspaces", h(d.switchTo))
}

// What a session holds: the sign-in that it is of, and, between password and second
// factor, whose password it was and since when.
const (
	keySignIn = "sign_in"
	keyHalf   = "half"
	keyHalfAt = "half_at"
)

// halfLasts is how long the second factor is waited for.
const halfLasts = 10 * time.Minute

// Who is who makes a request; [store.ErrNotFound] for a stranger.
func (d *Room) Who(r *http.Request) (store.Member, store.SignIn, error) {
	id := d.Sessions.GetString(r.Context(), keySignIn)
	if id == "" {
		return store.Member{}, store.SignIn{}, store.ErrNotFound
	}
	return d.Store.SignedIn(r.Context(), store.SignInID(id))
}

// longestAgent is how much is kept of what a browser says of itself.
const longestAgent = 300

func (d *Room) enter(r *http.Request, a store.Account, to store.MemberID) error {
	in := store.SignIn{AccountID: a.ID, Visitor: ui.Visitor(r), Agent: strings.ToValidUTF8(r.UserAgent(), "")}
	if len(in.Agent) > longestAgent {
		in.Agent = strings.ToValidUTF8(in.Agent[:longestAgent], "")
	}
	if to != 0 {
		in.MemberID = &to
	}
	if err := d.leaveBehind(r); err != nil {
		return err
	}
	in, err := d.Store.AddSignIn(r.Context(), in)
	if err != nil {
		return err
	}
	if err := d.Sessions.RenewToken(r.Context()); err != nil {
		return err
	}
	d.Sessions.Remove(r.Context(), keyHalf)
	d.Sessions.Put(r.Context(), keySignIn, string(in.ID))
	m, _, err := d.Store.SignedIn(r.Context(), in.ID)
	if err == nil {
		d.TrailOf(r, m, "sign-in", "")
	}
	return err
}

// leaveBehind ends the sign-in that the session has so far.
func (d *Room) leaveBehind(r *http.Request) error {
	m, in, err := d.Who(r)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	d.Sessions.Remove(r.Context(), keySignIn)
	return d.Store.EndSignIn(r.Context(), m.AccountID, in.ID)
}

func (d *Room) signOut(w http.ResponseWriter, r *http.Request) error {
	m, in := layout.Member(r.Context()), layout.SignIn(r.Context())
	if err := d.Store.EndSignIn(r.Context(), m.AccountID, in.ID); err != nil {
		return err
	}
	if err := d.Sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	return nil
}

// switchTo goes on in another workspace of the account.
func (d *Room) switchTo(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	to, err := layout.Number(r.PostForm.Get("workspace"))
	if err != nil {
		return err
	}
	if err := d.Store.Switch(r.Context(), layout.SignIn(r.Context()).ID, store.WorkspaceID(to)); err != nil {
		return err
	}
	http.Redirect(w, r, "/forms", http.StatusSeeOther)
	return nil
}

// small bounds what is posted here, in bytes.
const small = 10_000

// chosen is a password that somebody chose, twice, with what is wrong with it in words.
func chosen(r *http.Request, known ...string) (password, problem string) {
	password = r.PostForm.Get("password")
	switch err := credential.Judge(password, known...); {
	case err != nil:
		return "", "This password can’t be used: " + err.Error() + "."
	case r.PostForm.Get("repeated") != password:
		return "", "The two passwords are not the same."
	}
	return password, ""
}

// counted counts an attempt of a visitor at something, within a window; false if there
// were too many.
func (d *Room) counted(ctx context.Context, what, visitor string, most int) (bool, error) {
	n, err := d.Store.CountWithin(ctx, what+" from:"+visitor, attemptsWindow, time.Now())
	return n <= most, err
}

// gone is for an address that was used, or has run out.
var gone = ui.Refusal{Status: http.StatusNotFound, Title: "This address is not good any more",
	Text: "It was used, its time is over, or another took its place. Ask for a new one."}

// goneIf makes that of what is not found.
func goneIf(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return gone
	}
	return err
}
