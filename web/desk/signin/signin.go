package signin

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"strings"
	"time"

	"lazo/credential"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/ui"
)

// Sign-in is limited. From one visitor, attemptsAllowed attempts that fail are judged
// within attemptsWindow; further ones are refused. With one e-mail address, those
// beyond wait before they are judged, from wherever they come, but are not refused:
// nobody can lock out its owner.
const (
	attemptsAllowed = 10
	attemptsWindow  = 15 * time.Minute
	longestWait     = 4 * time.Second
)

// maxEmail is the longest e-mail address there is (RFC 5321).
const maxEmail = 254

type signInPage struct {
	Email, Problem, To string
	Again              bool // somebody who is signed in shows who they are
	Carried            []layout.Option
	Action             string
}

const tooMany = "Too many attempts. Please wait a quarter of an hour and try again."

func (d *Room) signInForm(w http.ResponseWriter, r *http.Request) error {
	return d.pages.Page(w, http.StatusOK, "sign-in", signInPage{To: r.URL.Query().Get("to")})
}

func (d *Room) signIn(w http.ResponseWriter, r *http.Request) error {
	ctx := r.Context()
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	to := r.PostForm.Get("to")
	email := strings.TrimSpace(r.PostForm.Get("email"))
	if len(email) > maxEmail {
		email = "" // nobody's
	}
	a, err := d.Store.AccountByEmail(ctx, email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	right, problem, err := d.proves(r, email, a, r.PostForm.Get("password"))
	if err != nil {
		return err
	}
	if problem != "" {
		return d.pages.Page(w, http.StatusTooManyRequests, "sign-in", signInPage{Email: email, Problem: problem, To: to})
	}
	if !right {
		d.refusedSignIn(r, a)
		return d.pages.Page(w, http.StatusUnprocessableEntity, "sign-in",
			signInPage{Email: email, Problem: "E-mail address and password do not go together.", To: to})
	}
	without, err := d.withoutFactor(r, a)
	if err != nil {
		return err
	}
	if a.Second() && !without {
		if err := d.leaveBehind(r); err != nil {
			return err
		}
		if err := d.Sessions.RenewToken(ctx); err != nil {
			return err
		}
		d.Sessions.Put(ctx, keyHalf, int64(a.ID))
		d.Sessions.Put(ctx, keyHalfAt, time.Now().Unix())
		http.Redirect(w, r, "/sign-in/second?to="+url.QueryEscape(layout.WayOn(to)), http.StatusSeeOther)
		return nil
	}
	if err := d.enter(r, a, 0); err != nil {
		return err
	}
	http.Redirect(w, r, layout.WayOn(to), http.StatusSeeOther)
	return nil
}

// refusedSignIn puts an attempt at somebody's account on the trail of their workspaces.
func (d *Room) refusedSignIn(r *http.Request, a store.Account) {
	all, err := d.Store.Memberships(r.Context(), a.ID)
	if err != nil {
		slog.ErrorContext(r.Context(), "whose sign-in was refused could not be found out", "account", a.ID, "err", err)
		return
	}
	for _, m := range all {
		m.Name, m.Email = a.Name, a.Email
		d.TrailOf(r, m, "sign-in-refused", "")
	}
}

// proves reports whether a password is an account's; problem is why that was not judged.
// What succeeds does not count.
func (d *Room) proves(
	r *http.Request, email string, a store.Account, password string,
) (right bool, problem string, err error) {
	allowed, forget, err := d.attempt(r.Context(), ui.Visitor(r), email)
	if err != nil {
		return false, "", err
	}
	if !allowed {
		return false, tooMany, nil
	}
	right, err = credential.Matches(r.Context(), a.PasswordHash, password)
	if err == nil && right {
		err = forget()
	}
	return right, "", err
}

// attempt counts a sign-in before it is judged, so that of many at once no more are
// judged than are allowed; forget takes it back for one that succeeds.
func (d *Room) attempt(ctx context.Context, visitor, email string) (allowed bool, forget func() error, err error) {
	now := time.Now()
	from, with := "sign-in from:"+visitor, "sign-in with:"+strings.ToLower(email)
	n, err := d.Store.CountWithin(ctx, from, attemptsWindow, now)
	if err != nil || n > attemptsAllowed {
		return false, nil, err
	}
	if n, err = d.Store.CountWithin(ctx, with, attemptsWindow, now); err != nil {
		return false, nil, err
	}
	if n > attemptsAllowed {
		select {
		case <-time.After(min(longestWait, time.Duration(n-attemptsAllowed)*500*time.Millisecond)):
		case <-ctx.Done():
			return false, nil, ctx.Err()
		}
	}
	return true, func() error {
		part := now.Truncate(attemptsWindow)
		return errors.Join(d.Store.Uncount(ctx, from, part), d.Store.Uncount(ctx, with, part))
	}, nil
}

type secondPage struct {
	Problem, To string
	Goes        string // when the factor does, "" for never
}

// half is whose password was given, while the second factor is waited for.
func (d *Room) half(r *http.Request) store.AccountID {
	if time.Since(time.Unix(d.Sessions.GetInt64(r.Context(), keyHalfAt), 0)) > halfLasts {
		return 0
	}
	return store.AccountID(d.Sessions.GetInt64(r.Context(), keyHalf))
}

func (d *Room) secondForm(w http.ResponseWriter, r *http.Request) error {
	id := d.half(r)
	if id == 0 {
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return nil
	}
	a, err := d.Store.Account(r.Context(), id)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "second", secondPage{To: r.URL.Query().Get("to"), Goes: goes(a, d.Now())})
}

// second takes the code of the second factor, or one that stands in for it.
func (d *Room) second(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	id, to := d.half(r), r.PostForm.Get("to")
	if id == 0 {
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return nil
	}
	a, err := d.Store.Account(r.Context(), id)
	if err != nil {
		return err
	}
	allowed, forget, err := d.attempt(r.Context(), ui.Visitor(r), "second "+a.Email)
	if err != nil {
		return err
	}
	if !allowed {
		return d.pages.Page(w, http.StatusTooManyRequests, "second", secondPage{tooMany, to, ""})
	}
	right, stoodIn, problem, err := d.SecondIs(r.Context(), a, r.PostForm.Get("code"))
	if err != nil {
		return err
	}
	if problem != "" {
		d.refusedSignIn(r, a)
		return d.pages.Page(w, http.StatusTooManyRequests, "second", secondPage{problem, to, goes(a, d.Now())})
	}
	if !right {
		d.refusedSignIn(r, a)
		return d.pages.Page(w, http.StatusUnprocessableEntity, "second",
			secondPage{"This is not the code of now. Codes change every half minute, and each is good once.", to,
				goes(a, d.Now())})
	}
	if err := forget(); err != nil {
		return err
	}
	if err := d.found(r, a); err != nil {
		return err
	}
	if stoodIn {
		if err := d.Tell(r.Context(), a, usedRecovery(len(a.Recovery)-1)); err != nil {
			return err
		}
	}
	if err := d.enter(r, a, 0); err != nil {
		return err
	}
	http.Redirect(w, r, layout.WayOn(to), http.StatusSeeOther)
	return nil
}

// againForm asks somebody who is signed in for their password.
func (d *Room) againForm(w http.ResponseWriter, r *http.Request) error {
	return d.askPassword(w, r, http.StatusOK, signInPage{Action: "/again", To: r.URL.Query().Get("to")})
}

func (d *Room) askPassword(w http.ResponseWriter, r *http.Request, status int, page signInPage) error {
	page.Email, page.Again = layout.Member(r.Context()).Email, true
	return d.pages.Page(w, status, "sign-in", page)
}

// AskAgain asks for the password before a request is carried out. What was posted comes
// with it and is done then: proceed tells that it was given.
func (d *Room) AskAgain(w http.ResponseWriter, r *http.Request) (proceed bool, err error) {
	if r.Method == http.MethodGet {
		return false, d.askPassword(w, r, http.StatusOK, signInPage{Action: "/again", To: r.URL.RequestURI()})
	}
	if err := layout.ParseWithin(w, r, 200_000); err != nil {
		return false, err
	}
	page, status := signInPage{Action: r.URL.RequestURI()}, http.StatusOK
	if r.PostForm.Has(passwordField) {
		if page.Problem, err = d.Prove(r); err != nil || page.Problem == "" {
			return err == nil, err
		}
		status = http.StatusUnprocessableEntity
	}
	for name, values := range r.PostForm {
		for _, v := range values {
			if name != passwordField {
				page.Carried = append(page.Carried, layout.Option{Value: name, Label: v})
			}
		}
	}
	return false, d.askPassword(w, r, status, page)
}

// passwordField names the field of a password that is given again.
const passwordField = "own_password"

func (d *Room) again(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	to := r.PostForm.Get("to")
	problem, err := d.Prove(r)
	if err != nil {
		return err
	}
	if problem != "" {
		return d.askPassword(w, r, http.StatusUnprocessableEntity, signInPage{Problem: problem, Action: "/again", To: to})
	}
	http.Redirect(w, r, layout.WayOn(to), http.StatusSeeOther)
	return nil
}

// Prove takes the posted password of somebody who is signed in; problem says in words why
// it does not count.
func (d *Room) Prove(r *http.Request) (problem string, err error) {
	a, err := d.Store.Account(r.Context(), layout.Member(r.Context()).AccountID)
	if err != nil {
		return "", err
	}
	right, problem, err := d.proves(r, a.Email, a, r.PostForm.Get(passwordField))
	switch {
	case err != nil || problem != "":
		return problem, err
	case !right:
		return "This is not your password.", nil
	}
	return "", d.Store.Prove(r.Context(), layout.SignIn(r.Context()).ID)
}

// codesAllowed are how many codes of one account that are not right are judged within a
// window, from wherever they come: whoever tries them knows the password, and a million codes
// are soon tried from many addresses.
var codesAllowed = []struct {
	window time.Duration
	most   int
}{{attemptsWindow, 10}, {24 * time.Hour, 30}, {7 * 24 * time.Hour, 60}}

const tooManyCodes = "Too many codes that were not right. For now only one of the codes that stand in for the second factor is taken."

// SecondIs reports whether a code is the account's second factor now, or stands in for it;
// either is good once. With a problem it was not judged whether it is the factor's: those that
// stand in for it can't be guessed, so that nobody is locked out for what others try.
func (d *Room) SecondIs(
	ctx context.Context, a store.Account, code string,
) (right, stoodIn bool, problem string, err error) {
	if right, err = d.Store.UseRecovery(ctx, a.ID, credential.RecoveryHash(code)); err != nil || right {
		return right, right, "", err
	}
	key, now := fmt.Sprintf("long second %d", a.ID), time.Now()
	forget := func() error {
		var errs []error
		for i, c := range codesAllowed {
			errs = append(errs, d.Store.Uncount(ctx, fmt.Sprint(key, " ", i), now.Truncate(c.window)))
		}
		return errors.Join(errs...)
	}
	over := false
	for i, c := range codesAllowed {
		n, err := d.Store.CountWithin(ctx, fmt.Sprint(key, " ", i), c.window, now)
		if err != nil {
			return false, false, "", err
		}
		over = over || n > c.most
	}
	if over {
		return false, false, tooManyCodes, nil
	}
	if step, ok := credential.Step(a.TOTPSecret, code, now); ok {
		if right, err = d.Store.UseStep(ctx, a.ID, step); err == nil && right {
			err = forget()
		}
	}
	return right, false, "", err
}
