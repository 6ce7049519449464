package desk

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"runtime"
	"strings"
	"time"

	"golang.org/x/crypto/bcrypt"

	"lazo/store"
	"lazo/web/desk/frame"
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

// comparisons bounds how many passwords are compared at once, so that attempts leave
// the machine to others.
var comparisons = make(chan struct{}, max(1, runtime.NumCPU()/2))

// absent, the hash of what nobody knows, is compared with when there is no such
// member, so that the time taken does not tell who has an account.
const absent = "$2a$12$xymxFV4svgFHMPx3ARQaKe7Gs9o6dGr7fUfFRxKnLDMZuT6zTsZy6"

// signedIn lets members through and sends others to the sign-in page.
func (d *Desk) signedIn(next http.Handler) http.Handler {
	return d.pages.Handle(func(w http.ResponseWriter, r *http.Request) error {
		id := d.sessions.GetInt64(r.Context(), "member")
		if id == 0 {
			return toSignIn(w, r)
		}
		m, err := d.Store.MemberByID(r.Context(), store.MemberID(id))
		if errors.Is(err, store.ErrNotFound) {
			return toSignIn(w, r)
		}
		if err != nil {
			return err
		}
		w.Header().Set("Cache-Control", "no-store")
		ui.Allow(w, "img-src", m.PictureSites)
		next.ServeHTTP(w, r.WithContext(frame.WithMember(r.Context(), m)))
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

// maxEmail is the longest e-mail address there is (RFC 5321).
const maxEmail = 254

type signInPage struct{ Email, Problem, To string }

func (d *Desk) signInForm(w http.ResponseWriter, r *http.Request) error {
	return d.pages.Page(w, http.StatusOK, "sign-in", signInPage{To: r.URL.Query().Get("to")})
}

func (d *Desk) signIn(w http.ResponseWriter, r *http.Request) error {
	ctx := r.Context()
	if err := frame.ParseWithin(w, r, 10_000); err != nil {
		return err
	}
	to := r.PostForm.Get("to")
	email, password := strings.TrimSpace(r.PostForm.Get("email")), r.PostForm.Get("password")
	if len(email) > maxEmail {
		email = "" // nobody's
	}
	allowed, forget, err := d.attempt(ctx, ui.Visitor(r), email)
	if err != nil {
		return err
	}
	if !allowed {
		return d.pages.Page(
			w, http.StatusTooManyRequests, "sign-in",
			signInPage{email, "Too many attempts. Please wait a quarter of an hour and try again.", to},
		)
	}
	m, err := d.Store.MemberByEmail(ctx, email)
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	right, err := matches(ctx, m, password)
	if err != nil {
		return err
	}
	if !right {
		return d.pages.Page(
			w, http.StatusUnprocessableEntity, "sign-in",
			signInPage{email, "E-mail address and password do not go together.", to},
		)
	}
	if err := forget(); err != nil {
		return err
	}
	if err := d.sessions.RenewToken(ctx); err != nil {
		return err
	}
	d.sessions.Put(ctx, "member", int64(m.ID))
	http.Redirect(w, r, frame.WayOn(to), http.StatusSeeOther)
	return nil
}

// attempt counts a sign-in before it is judged, so that of many at once no more are
// judged than are allowed; forget takes it back for one that succeeds.
func (d *Desk) attempt(ctx context.Context, visitor, email string) (allowed bool, forget func() error, err error) {
	window := time.Now().Truncate(attemptsWindow)
	from, with := "sign-in from:"+visitor, "sign-in with:"+strings.ToLower(email)
	n, err := d.Store.Count(ctx, from, window)
	if err != nil || n > attemptsAllowed {
		return false, nil, err
	}
	if n, err = d.Store.Count(ctx, with, window); err != nil {
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
		return errors.Join(d.Store.Uncount(ctx, from, window), d.Store.Uncount(ctx, with, window))
	}, nil
}

// matches compares a password with a member's; a member who is not there has none.
func matches(ctx context.Context, m store.Member, password string) (bool, error) {
	select {
	case comparisons <- struct{}{}:
		defer func() { <-comparisons }()
	case <-ctx.Done():
		return false, ctx.Err()
	}
	hash := absent
	if m.ID != 0 {
		hash = m.PasswordHash
	}
	return len(password) <= 72 && bcrypt.CompareHashAndPassword([]byte(hash), []byte(password)) == nil && m.ID != 0, nil
}

func (d *Desk) signOut(w http.ResponseWriter, r *http.Request) error {
	if err := d.sessions.Destroy(r.Context()); err != nil {
		return err
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	return nil
}
