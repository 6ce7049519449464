package desk

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"time"

	"golang.org/x/crypto/bcrypt"

	"lazo/store"
	"lazo/web/ui"
)

// Sign-in is limited: after attemptsAllowed failures with one e-mail address
// or from one address within attemptsWindow, further ones are refused.
const (
	attemptsAllowed = 10
	attemptsWindow  = 15 * time.Minute
)

type memberKey struct{}

// member is who has signed in; it is set on every route behind signedIn.
func member(ctx context.Context) store.Member {
	m, _ := ctx.Value(memberKey{}).(store.Member)
	return m
}

// absent is compared with when there is no such member, so that the time taken
// does not tell who has an account.
var absent, _ = bcrypt.GenerateFromPassword([]byte("nobody"), 12)

// signedIn lets members through and sends others to the sign-in page.
func (d *Desk) signedIn(next http.Handler) http.Handler {
	return d.pages.Handle(func(w http.ResponseWriter, r *http.Request) error {
		id := d.sessions.GetInt64(r.Context(), "member")
		if id == 0 {
			return toSignIn(w, r)
		}
		m, err := d.store.MemberByID(r.Context(), id)
		if errors.Is(err, store.ErrNotFound) {
			return toSignIn(w, r)
		}
		if err != nil {
			return err
		}
		w.Header().Set("Cache-Control", "no-store")
		next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), memberKey{}, m)))
		return nil
	})
}

// toSignIn leads to the sign-in page and, once that is done, back. A part of a page
// is only told that nobody is signed in: what is written on the page must not go.
func toSignIn(w http.ResponseWriter, r *http.Request) error {
	if r.Header.Get("HX-Request") != "" {
		w.WriteHeader(http.StatusUnauthorized)
		return nil
	}
	to := "/sign-in"
	if r.Method == http.MethodGet && r.URL.Path != "/" {
		to += "?to=" + url.QueryEscape(r.URL.RequestURI())
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
	return nil
}

// wayOn is where one wanted to go before signing in: a path of this site.
func wayOn(to string) string {
	if u, err := url.Parse(to); err == nil && u.Host == "" && u.Scheme == "" && strings.HasPrefix(u.Path, "/") && !strings.HasPrefix(to, "//") && !strings.ContainsAny(to, "\\\r\n") {
		return to
	}
	return "/forms"
}

type signInPage struct{ Email, Problem, To string }

func (d *Desk) signInForm(w http.ResponseWriter, r *http.Request) error {
	return d.pages.Page(w, http.StatusOK, "sign-in", signInPage{To: r.URL.Query().Get("to")})
}

func (d *Desk) signIn(w http.ResponseWriter, r *http.Request) error {
	ctx := r.Context()
	if err := parseWithin(w, r, 10_000); err != nil {
		return err
	}
	to := r.PostForm.Get("to")
	email, password := strings.TrimSpace(r.PostForm.Get("email")), r.PostForm.Get("password")
	since := time.Now().Add(-attemptsWindow)
	for _, key := range []string{"email:" + strings.ToLower(email), "from:" + ui.Visitor(r)} {
		n, err := d.store.Attempts(ctx, key, since)
		if err != nil {
			return err
		}
		if n >= attemptsAllowed {
			return d.pages.Page(w, http.StatusTooManyRequests, "sign-in", signInPage{email, "Too many attempts. Please wait a quarter of an hour and try again.", to})
		}
	}
	m, err := d.store.MemberByEmail(ctx, email)
	hash := []byte(m.PasswordHash)
	if errors.Is(err, store.ErrNotFound) {
		hash = absent
	} else if err != nil {
		return err
	}
	if len(password) > 72 || bcrypt.CompareHashAndPassword(hash, []byte(password)) != nil || m.ID == 0 {
		for _, key := range []string{"email:" + strings.ToLower(email), "from:" + ui.Visitor(r)} {
			if err := d.store.CountAttempt(ctx, key); err != nil {
				return err
			}
		}
		return d.pages.Page(w, http.StatusUnprocessableEntity, "sign-in", signInPage{email, "E-mail address and password do not go together.", to})
	}
	if err := d.sessions.RenewToken(ctx); err != nil {
		return err
	}
	d.sessions.Put(ctx, "member", m.ID)
	http.Redirect(w, r, wayOn(to), http.StatusSeeOther)
	return nil
}

func (d *Desk) signOut(w http.ResponseWriter, r *http.Request) error {
	if err := d.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	return nil
}
