// Package account is the screen of one's own account: name and password, the second
// factor, where one is signed in, and the workspaces that one belongs to.
package account

import (
	"embed"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/credential"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/signin"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen.
type Room struct {
	*layout.Desk
	door  *signin.Room
	pages *ui.Renderer
}

func New(d *layout.Desk, entrance *signin.Room) *Room {
	return &Room{d, entrance, layout.Pages(nil, templates)}
}

// Routes adds the room's own addresses.
func (d *Room) Routes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/account", h(d.account))
	r.Post("/account/name", h(d.name))
	r.Post("/account/password", h(d.password))
	r.Post("/account/email", h(d.email))
	r.Post("/account/second", h(d.second))
	r.Get("/account/second/code.svg", h(d.picture))
	r.Post("/account/sign-ins/end", h(d.end))
	r.Post("/account/leave", h(d.leave))
}

// place is where one is signed in.
type place struct {
	ID               store.SignInID
	Program, Visitor string
	Since, Seen      string
	Here             bool
}

type page struct {
	layout.Top
	Account  store.Account
	Since    string // when the password was set
	Places   []place
	Of       []store.Member // memberships
	Steps    []step
	Asked    string   // the secret of a second factor that is being set up, as it is typed
	Codes    []string // that stand in for it, shown once
	Least    int      // characters of a password
	Unsent   bool     // no letter leaves
	Problems map[string]string
	Done     string // what was just done, in words
	Email    string // another address, as it was typed
	Needed   bool   // the workspace at hand asks for a second factor that is not there
}

type step struct{ When, Words, Visitor string }

// said are the words for what was just done.
var said = map[string]string{"name": "Your name was changed.",
	"password": "Your password was changed; you are signed in nowhere else.",
	"ended":    "That sign-in was ended.", "email": "Your e-mail address was changed; you sign in with it from now on.",
	"email-asked": "A letter is on its way to that address. What it says is good for an hour; until then nothing changes.",
	"taken-off":   "Signing in asks for your password alone from now on."}

func (d *Room) account(w http.ResponseWriter, r *http.Request) error {
	return d.show(w, r, http.StatusOK, func(p *page) { p.Done = said[r.URL.Query().Get("done")] })
}

// problem shows the page with what is wrong with one part of it.
func (d *Room) problem(w http.ResponseWriter, r *http.Request, part, words string) error {
	return d.show(w, r, http.StatusUnprocessableEntity, func(p *page) { p.Problems = map[string]string{part: words} })
}

func (d *Room) show(w http.ResponseWriter, r *http.Request, status int, more func(p *page)) error {
	ctx, m := r.Context(), layout.Member(r.Context())
	top, err := d.Top(r, "account")
	if err != nil {
		return err
	}
	p := page{Top: top, Least: credential.Shortest, Unsent: !d.Office.Sends()}
	if p.Account, err = d.Store.Account(ctx, m.AccountID); err != nil {
		return err
	}
	p.Needed = m.SecondMissing() && p.Account.TOTPAsked == nil && !p.Account.Second()
	p.Since = p.Account.PasswordAt.UTC().Format(layout.PlainMoment)
	if p.Account.TOTPAsked != nil {
		p.Asked = credential.Written(p.Account.TOTPAsked)
	}
	if p.Of, err = d.Store.Memberships(ctx, m.AccountID); err != nil {
		return err
	}
	places, err := d.Store.SignIns(ctx, m.AccountID)
	if err != nil {
		return err
	}
	for _, in := range places {
		p.Places = append(p.Places, place{in.ID, program(in.Agent), in.Visitor, in.MadeAt.UTC().Format(layout.PlainMoment),
			in.SeenAt.UTC().Format(layout.PlainMoment), in.ID == layout.SignIn(ctx).ID})
	}
	steps, err := d.Store.AccountTrail(ctx, m.AccountID, 8)
	if err != nil {
		return err
	}
	for _, s := range steps {
		p.Steps = append(p.Steps, step{s.At.UTC().Format(layout.PlainMoment), layout.ActWords(s.Act, s.Detail), s.Visitor})
	}
	more(&p)
	return d.pages.Page(w, status, "account", p)
}

// program is what a browser says of itself, short enough to be known again.
func program(agent string) string {
	name, on := "", ""
	for _, one := range browsers {
		if strings.Contains(agent, one.is) {
			name = one.called
			break
		}
	}
	for _, one := range systems {
		if strings.Contains(agent, one.is) {
			on = " on " + one.called
			break
		}
	}
	if name == "" {
		return "Another program" + on
	}
	return name + on
}

// What browsers say of themselves, and of the systems that they are on; the first that
// is found counts, since each also names those before it in time.
var (
	browsers = []struct{ is, called string }{
		{"Edg/", "Edge"}, {"OPR/", "Opera"}, {"Firefox/", "Firefox"}, {"Chrome/", "Chromium or Chrome"},
		{"Safari/", "Safari"}, {"curl/", "curl"},
	}
	systems = []struct{ is, called string }{
		{"Android", "Android"}, {"iPhone", "an iPhone"}, {"iPad", "an iPad"}, {"Windows", "Windows"}, {"Mac OS", "a Mac"},
		{"Linux", "Linux"},
	}
)

func (d *Room) done(w http.ResponseWriter, r *http.Request, what string) error {
	http.Redirect(w, r, "/account?done="+what, http.StatusSeeOther)
	return nil
}

// small bounds what is posted here, in bytes.
const small = 10_000

func (d *Room) name(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	name := credential.Name(r.PostForm.Get("name"))
	if name == "" {
		return d.problem(w, r, "name", "A name has one to 120 characters.")
	}
	if err := d.Store.Rename(r.Context(), layout.Member(r.Context()).AccountID, name); err != nil {
		return err
	}
	return d.done(w, r, "name")
}

// password changes one's password, and ends all other sign-ins.
func (d *Room) password(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	m := layout.Member(r.Context())
	words, err := d.door.Prove(r)
	if err != nil {
		return err
	}
	if words != "" {
		return d.problem(w, r, "password", words)
	}
	hash, words, err := signin.Hashed(r, m.Name, m.Email)
	if err != nil {
		return err
	}
	if words != "" {
		return d.problem(w, r, "password", words)
	}
	if err := d.Store.SetPassword(r.Context(), m.AccountID, hash, layout.SignIn(r.Context()).ID); err != nil {
		return err
	}
	if err := d.changed(r, "changed their password", layout.Notice{Subject: "your password was changed",
		Text: "your password was changed, and you were signed out wherever else you were. If it was not you, ask for another one at once, by “Password forgotten?”."}); err != nil {
		return err
	}
	return d.done(w, r, "password")
}

// email asks for another address to sign in with: a letter to it proves that it is one's
// own. Where no letter leaves, it is changed at once.
func (d *Room) email(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	ctx, m := r.Context(), layout.Member(r.Context())
	email := credential.Email(r.PostForm.Get("email"))
	refuse := func(words string) error {
		return d.show(w, r, http.StatusUnprocessableEntity, func(p *page) {
			p.Problems, p.Email = map[string]string{"email": words}, r.PostForm.Get("email")
		})
	}
	if email == "" || strings.EqualFold(email, m.Email) {
		return refuse("Give another e-mail address than the one that you have.")
	}
	words, err := d.door.Prove(r)
	if err != nil {
		return err
	}
	if words != "" {
		return refuse(words)
	}
	if d.Office.Sends() {
		d.TrailOf(r, m, "account", "asked for another e-mail address")
		if err := d.Tell(ctx, store.Account{Name: m.Name, Email: email}, signin.NewAddress(m.AccountID, email)); err != nil {
			return err
		}
		return d.done(w, r, "email-asked")
	}
	secret, err := d.Store.AddToken(ctx, store.Token{Kind: store.NewAddress, Account: m.AccountID, Email: email},
		store.NewAddressLasts)
	if err != nil {
		return err
	}
	err = d.door.Move(r, secret)
	if errors.Is(err, store.ErrConflict) {
		return refuse("This address has an account already.")
	}
	if err != nil {
		return err
	}
	return d.done(w, r, "email")
}

// changed puts a change of the account on the trail, and tells its owner.
func (d *Room) changed(r *http.Request, detail string, n layout.Notice) error {
	m := layout.Member(r.Context())
	d.TrailOf(r, m, "account", detail)
	return d.Tell(r.Context(), store.Account{Name: m.Name, Email: m.Email}, n)
}

// second sets up the second factor, in steps: a secret is made, shown and confirmed by a
// code; or takes it off.
func (d *Room) second(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	ctx, m := r.Context(), layout.Member(r.Context())
	a, err := d.Store.Account(ctx, m.AccountID)
	if err != nil {
		return err
	}
	switch r.PostForm.Get("do") {
	case "ask", "off":
		words, err := d.door.Prove(r)
		if err != nil {
			return err
		}
		off := r.PostForm.Get("do") == "off"
		if words == "" && off {
			words, err = d.askedOfAll(r)
		}
		if words == "" && err == nil {
			words, err = d.factor(r, a)
		}
		if err != nil {
			return err
		}
		if words != "" {
			return d.problem(w, r, "second", words)
		}
		if off {
			return d.takeOff(w, r)
		}
		if err := d.Store.AskTOTP(ctx, m.AccountID, credential.NewSecret()); err != nil {
			return err
		}
		return d.show(w, r, http.StatusOK, func(*page) {})
	case "leave":
		if err := d.Store.AskTOTP(ctx, m.AccountID, nil); err != nil {
			return err
		}
		return d.done(w, r, "")
	}
	if a.TOTPAsked == nil {
		return d.problem(w, r, "second", "Begin anew, please: no secret waits for a code.")
	}
	step, ok := credential.Step(a.TOTPAsked, r.PostForm.Get("code"), time.Now())
	if !ok {
		return d.problem(w, r, "second",
			"This is not the code of now. Look whether the clock of the device is right, and give the next one.")
	}
	codes, hashes := credential.Recovery()
	if err := d.Store.SetTOTP(ctx, m.AccountID, a.TOTPAsked, hashes, step); err != nil {
		return err
	}
	if err := d.changed(r, "set up a second factor", layout.Notice{Subject: "a second factor was set up",
		Text: "signing in to your account asks for a code as well from now on. If it was not you, ask for another password at once, by “Password forgotten?”, and then whoever runs the installation."}); err != nil {
		return err
	}
	return d.show(w, r, http.StatusOK, func(p *page) { p.Codes = codes })
}

// factor asks for a code of the second factor that there is: whoever learnt the password must
// not take the factor off by that. It says why it was not right, "" where it was.
func (d *Room) factor(r *http.Request, a store.Account) (problem string, err error) {
	if !a.Second() {
		return "", nil
	}
	right, _, problem, err := d.door.SecondIs(r.Context(), a, r.PostForm.Get("code"))
	if err == nil && problem == "" && !right {
		problem = "This is not the code of now. A code that stands in for it does as well."
	}
	return problem, err
}

// askedOfAll says which workspaces ask everybody for a second factor, so that it stays; ""
// if none does.
func (d *Room) askedOfAll(r *http.Request) (problem string, err error) {
	asking, err := d.Store.SecondAskedOf(r.Context(), layout.Member(r.Context()).AccountID)
	if err != nil || len(asking) == 0 {
		return "", err
	}
	return strings.Join(asking, ", ") + " asks for it of everybody. You can set it up anew, on another device.", nil
}

func (d *Room) takeOff(w http.ResponseWriter, r *http.Request) error {
	if err := d.Store.SetTOTP(r.Context(), layout.Member(r.Context()).AccountID, nil, nil, 0); err != nil {
		return err
	}
	if err := d.changed(r, "took off the second factor", layout.Notice{Subject: "the second factor was taken off",
		Text: "signing in to your account asks for your password alone from now on. If it was not you, ask for another password at once, by “Password forgotten?”."}); err != nil {
		return err
	}
	return d.done(w, r, "taken-off")
}

// picture is the secret that is being set up, as a program reads it.
func (d *Room) picture(w http.ResponseWriter, r *http.Request) error {
	a, err := d.Store.Account(r.Context(), layout.Member(r.Context()).AccountID)
	if err != nil {
		return err
	}
	if a.TOTPAsked == nil {
		return store.ErrNotFound
	}
	code, err := ui.QR(credential.Address(a.TOTPAsked, a.Email, "Lazo"))
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "image/svg+xml")
	_, err = w.Write(code.SVG())
	return err
}

// end ends one sign-in, or all others.
func (d *Room) end(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	of, here := layout.Member(r.Context()).AccountID, layout.SignIn(r.Context()).ID
	var err error
	if id := store.SignInID(r.PostForm.Get("sign_in")); id == "" {
		err = d.Store.EndOtherSignIns(r.Context(), of, here)
		d.TrailOf(r, layout.Member(r.Context()), "account", "ended all other sign-ins")
	} else {
		err = d.Store.EndSignIn(r.Context(), of, id)
	}
	if err != nil {
		return err
	}
	return d.done(w, r, "ended")
}

// leave ends one's membership of the workspace at hand.
func (d *Room) leave(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	m := layout.Member(r.Context())
	if m.WorkspaceID == 0 {
		return store.ErrNotFound
	}
	if r.PostForm.Get("sure") == "" {
		return d.problem(w, r, "leave", "Tick that you are sure: only an owner can let you in again.")
	}
	err := d.Store.InWorkspace(m.WorkspaceID).Remove(r.Context(), m.ID)
	if errors.Is(err, store.ErrLastOwner) {
		return d.problem(w, r, "leave", "You are the last owner. Make somebody else one first.")
	}
	if err != nil {
		return err
	}
	layout.Note(r.Context(), "left the workspace")
	return d.done(w, r, "")
}
