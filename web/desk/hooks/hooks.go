// Package hooks is another program that a form tells: its secret, a test, and what it was
// told last.
package hooks

import (
	"embed"
	"errors"
	"net/http"
	"slices"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/form"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/outbox"
	"lazo/web/ui"
)

//go:embed templates/*.html
var templates embed.FS

// Room is the screen of that name.
type Room struct {
	*layout.Desk
	pages *ui.Renderer
}

func New(d *layout.Desk) *Room { return &Room{d, layout.Pages(nil, templates)} }

// FormRoutes adds those of one form.
func (d *Room) FormRoutes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/hooks/{hook}", h(d.hook))
	r.Post("/hooks/{hook}/secret", h(d.secret))
	r.Post("/hooks/{hook}/test", h(d.test))
}

// hookPage is a hook of the draft.
type hookPage struct {
	layout.Header
	form.Hook
	At     string // its row in the manuscript
	Told   []outbox.Line
	Secret string // a new one, which is shown once
}

// told is how many deliveries are shown.
const told = 20

// hookOf finds the hook of a request.
func (d *Room) hookOf(r *http.Request) (store.Form, hookPage, error) {
	f, def, fr, err := d.OpenTab(r, "manuscript")
	if err != nil {
		return f, hookPage{}, err
	}
	i := slices.IndexFunc(def.Hooks, func(h form.Hook) bool { return h.Key == chi.URLParam(r, "hook") })
	if i < 0 {
		return f, hookPage{}, store.ErrNotFound
	}
	page := hookPage{Header: fr, Hook: def.Hooks[i], At: author.HookAt(def.Hooks[i].Key)}
	letters, err := d.Store.InWorkspace(f.WorkspaceID).Letters(r.Context(),
		store.Outbox{Form: f.ID, Kind: store.Hook, Message: page.Key, Limit: told})
	for _, l := range letters {
		page.Told = append(page.Told, outbox.LineOf(l, true, d.Now(), layout.Base(f.ID)+"/hooks/"+page.Key))
	}
	return f, page, err
}

func (d *Room) hook(w http.ResponseWriter, r *http.Request) error {
	_, page, err := d.hookOf(r)
	if err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "hook", page)
}

// secret makes a new secret, and shows it this once.
func (d *Room) secret(w http.ResponseWriter, r *http.Request) error {
	f, page, err := d.hookOf(r)
	if err != nil {
		return err
	}
	s, err := d.InForm(f).NewHookSecret(r.Context(), page.Key, nil)
	if err != nil {
		return err
	}
	page.Secret = notify.WrittenSecret(s.Secret)
	w.Header().Set("Cache-Control", "no-store")
	return d.pages.Page(w, http.StatusOK, "hook", page)
}

var testedOften = ui.Refusal{Status: http.StatusTooManyRequests, Title: "It was tried often just now",
	Text: "A hook can be tried ten times a minute. Please wait a little."}

// testsAMinute is how often a hook can be tried.
const testsAMinute = 10

// test tells the program something that is no response.
func (d *Room) test(w http.ResponseWriter, r *http.Request) error {
	f, page, err := d.hookOf(r)
	if err != nil {
		return err
	}
	now := d.Now()
	n, err := d.Store.Count(r.Context(), "hook test "+layout.Base(f.ID), now)
	if err == nil && n > testsAMinute {
		return testedOften
	}
	err = errors.Join(err, d.InForm(f).Tell(r.Context(), store.Letter{
		Kind: store.Hook, Edition: page.Last, Message: page.Key, Name: page.Key, Recipient: page.URL, Subject: notify.Trial,
		Body:   "{}",
		Reason: "A test by " + layout.Member(r.Context()).Name + ".", State: store.Waiting, DueAt: now, MadeAt: now,
	}))
	if err != nil {
		return err
	}
	time.Sleep(testShown) // so that what came of it mostly stands on the page already
	http.Redirect(w, r, layout.Base(f.ID)+"/hooks/"+page.Key, http.StatusSeeOther)
	return nil
}

// testShown is how long a test is waited for.
const testShown = 700 * time.Millisecond
