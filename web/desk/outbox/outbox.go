// Package outbox is what went out of responses or is about to, and what became of it.
package outbox

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/layout"
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

// Routes adds the room's own addresses.
func (d *Room) Routes(r chi.Router) {
	h := d.pages.Handle
	r.Get("/outbox", h(d.list))
	r.Post("/outbox/go", h(d.letAllGo))
	r.Post("/outbox/kept", h(d.keep))
	r.Get("/outbox/{letter}", h(d.letter))
	r.Post("/outbox/{letter}/{act}", h(d.act))
}

// perPage is how many letters a page lists.
const perPage = 50

// listPage is a page of letters.
type listPage struct {
	layout.Top
	Letters []Line
	Forms   []store.Form
	Look    store.Outbox
	States  []stateChoice
	Older   string // the address of the page behind this one, "" for none
	Unsent  bool   // there is no mail server
	Holds   bool   // nothing goes out by a setting
	Looked  bool   // not all are looked at
	Open    int    // how many of those that are looked at can be let go at once
	Said    string
	Owner   bool   // may say how long they are kept
	Days    *int   // for which they are, nil for as long as their responses
	Problem string // with that
	Zone    string // in which the moments of all letters are read; "" where each has its own
}

// zoneOf is the zone that letters share, "" if they are of several.
func zoneOf(letters []store.LetterOf) (zone string) {
	for i, l := range letters {
		if i > 0 && l.Zone != zone {
			return ""
		}
		zone = l.Zone
	}
	return zone
}

// stateChoice is a state to look for.
type stateChoice struct {
	State store.LetterState
	Says  string
	N     int // how many there are, of those that wait for something
}

// states are the states to look for, in words.
var states = []stateChoice{
	{store.Waiting, "wait", 0}, {store.Held, "are held back", 0}, {store.Sending, "are on their way", 0},
	{store.Failed, "failed", 0},
	{store.Sent, "went", 0}, {store.Cancelled, "were cancelled", 0}, {store.Dropped, "did not go", 0},
}

// Line is a letter in words.
type Line struct {
	store.LetterOf
	Says  string // what has become of it
	When  string // when it went, or will
	Grave bool   // somebody should look at it
	Here  string // the address of the page that it is shown on
}

// IsHook reports whether another program is told, rather than somebody written to.
func (l Line) IsHook() bool { return l.Kind == store.Hook }

// Heading is what the letter is called: its subject, or what a program is told.
func (l Line) Heading() string {
	if l.Kind == store.Hook {
		return layout.LabelOr(map[string]string{"received": "A response was received", "changed": "A response was changed",
			"deleted": "A response was deleted", notify.Trial: "A test"}[l.Subject], l.Subject)
	}
	return layout.LabelOr(l.Subject, "Without a subject")
}

// Open reports whether something is still to become of the letter.
func (l Line) Open() bool {
	return l.State == store.Waiting || l.State == store.Held || l.State == store.Failed
}

// Act is something that can be done with a letter.
type Act struct{ Name, Says string }

// Acts are what can be done with the letter as it stands.
func (l Line) Acts() []Act {
	cancel := Act{"cancel", "Cancel"}
	switch l.State {
	case store.Waiting:
		return []Act{{"hold", "Hold"}, cancel}
	case store.Held:
		return []Act{{"go", "Let it go"}, cancel}
	case store.Failed:
		return []Act{{"go", "Try again"}, cancel}
	case store.Sent:
		return []Act{{"again", "Send again"}}
	case store.Cancelled, store.Dropped:
		if l.Recipient != "" {
			return []Act{{"go", "Send it all the same"}}
		}
	}
	return nil
}

// LineOf puts a letter into words; sends tells whether there is a mail server.
func LineOf(l store.LetterOf, sends bool, now time.Time, here string) Line {
	out := Line{LetterOf: l, Here: here}
	if l.EndedAt != nil {
		out.When = out.moment(*l.EndedAt)
	}
	switch l.State {
	case store.Waiting:
		out.Says, out.When = "waits to be sent", ""
		switch {
		case l.DueAt.After(now.Add(time.Minute)):
			out.Says, out.When = "goes on", out.moment(l.DueAt)
		case !sends && l.Kind == store.Mail:
			out.Says = "waits for a mail server"
		}
	case store.Held:
		out.Says, out.When, out.Grave = "is held back", "", true
	case store.Sending:
		out.Says = "is on its way"
	case store.Sent:
		out.Says = "went on"
	case store.Failed:
		out.Says, out.Grave = "failed on", true
	case store.Cancelled:
		out.Says = "was cancelled on"
	case store.Dropped:
		out.Says = "did not go"
		out.When = ""
	}
	return out
}

// lookOf reads how the address of a request looks at letters.
func lookOf(q url.Values) store.Outbox {
	id := func(name string) int64 {
		n, _ := strconv.ParseInt(q.Get(name), 10, 64)
		return n
	}
	return store.Outbox{
		Form: store.FormID(id("form")), Response: q.Get("response"), Address: strings.TrimSpace(q.Get("to")),
		State: store.LetterState(q.Get("state")), Before: store.LetterID(id("before")), Limit: perPage + 1,
	}
}

// address is that of a page of letters that are looked at so.
func address(look store.Outbox) string {
	q := url.Values{}
	add := func(name, value string) {
		if value != "" && value != "0" {
			q.Set(name, value)
		}
	}
	add("form", strconv.FormatInt(int64(look.Form), 10))
	add("response", look.Response)
	add("to", look.Address)
	add("state", string(look.State))
	add("before", strconv.FormatInt(int64(look.Before), 10))
	if len(q) == 0 {
		return "/outbox"
	}
	return "/outbox?" + q.Encode()
}

func (d *Room) workspaceOf(ctx context.Context) store.InWorkspace {
	return d.Store.InWorkspace(layout.Member(ctx).WorkspaceID)
}

func (d *Room) list(w http.ResponseWriter, r *http.Request) error {
	return d.showList(w, r, http.StatusOK, "")
}

func (d *Room) showList(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	top, err := d.Top(r, "outbox")
	if err != nil {
		return err
	}
	page := listPage{Top: top, Look: lookOf(r.URL.Query()), Unsent: !d.Office.Sends(), Holds: d.Office.Holds(),
		Problem: problem,
		Owner:   layout.Member(r.Context()).Role == store.Owner}
	if n := r.URL.Query().Get("said"); n != "" {
		page.Said = n + " are on their way again."
	}
	in := d.workspaceOf(r.Context())
	letters, err := in.Letters(r.Context(), page.Look)
	if err != nil {
		return err
	}
	if len(letters) > perPage {
		letters = letters[:perPage]
		older := page.Look
		older.Before = letters[perPage-1].ID
		page.Older = address(older)
	}
	page.Zone = zoneOf(letters)
	for _, l := range letters {
		page.Letters = append(page.Letters, LineOf(l, !page.Unsent, d.Now(), address(page.Look)))
	}
	counts, err := in.CountLetters(r.Context(), page.Look)
	if err != nil {
		return err
	}
	for _, s := range states {
		s.N = counts[s.State]
		page.States = append(page.States, s)
	}
	if page.Look.State == store.Held || page.Look.State == store.Failed {
		page.Open = counts[page.Look.State]
	}
	page.Looked = page.Look.Form != 0 || page.Look.Response != "" || page.Look.Address != "" || page.Look.State != ""
	if page.Forms, err = in.FormsThatSend(r.Context()); err != nil {
		return err
	}
	ws, err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).Get(r.Context())
	if err != nil {
		return err
	}
	page.Days = ws.EmailsDays
	return d.pages.Page(w, status, "outbox", page)
}

// keep sets how long e-mails that have gone are kept.
func (d *Room) keep(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	var kept *int
	said := "set that e-mails are kept as long as their responses"
	if text := strings.TrimSpace(r.PostForm.Get("days")); text != "" {
		days, err := strconv.Atoi(text)
		if err != nil || days < store.FewestDays || days > store.MostDays {
			return d.showList(w, r, http.StatusUnprocessableEntity,
				"E-mails are kept for 30 to 3,650 days, or, left empty, as long as their responses.")
		}
		kept, said = &days, fmt.Sprintf("set that e-mails are kept for %d days", days)
	}
	layout.Note(r.Context(), "%s", said)
	if err := d.Store.InWorkspace(layout.Member(r.Context()).WorkspaceID).KeepEmails(r.Context(), kept); err != nil {
		return err
	}
	http.Redirect(w, r, "/outbox#kept", http.StatusSeeOther)
	return nil
}

// letterPage is one letter, as it arrives.
type letterPage struct {
	layout.Top
	Line
	Text string // Markdown
	Made string
}

func (d *Room) letter(w http.ResponseWriter, r *http.Request) error {
	id, err := letterID(r)
	if err != nil {
		return err
	}
	top, err := d.Top(r, "outbox")
	if err != nil {
		return err
	}
	l, err := d.workspaceOf(r.Context()).Letter(r.Context(), id)
	if err != nil {
		return err
	}
	line := LineOf(l, d.Office.Sends(), d.Now(), "/outbox/"+strconv.FormatInt(int64(id), 10))
	return d.pages.Page(w, http.StatusOK, "outbox-letter",
		letterPage{top, line, notify.Shown(l.Body), line.moment(l.MadeAt)})
}

// moment is a moment as it is read where the form is.
func (l Line) moment(t time.Time) string {
	zone, err := time.LoadLocation(l.Zone)
	if err != nil {
		zone = time.UTC
	}
	return t.In(zone).Format("2 Jan 2006, 15:04")
}

func letterID(r *http.Request) (store.LetterID, error) {
	n, err := strconv.ParseInt(chi.URLParam(r, "letter"), 10, 64)
	if err != nil {
		return 0, store.ErrNotFound
	}
	return store.LetterID(n), nil
}

var tooLate = ui.Refusal{Status: http.StatusConflict, Title: "It is too late for that",
	Text: "The letter has become something else meanwhile: it may have gone just now. The outbox says how it stands."}

// act holds a letter, lets it go, cancels it or sends it once more.
func (d *Room) act(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	id, err := letterID(r)
	if err != nil {
		return err
	}
	in, at := d.workspaceOf(r.Context()), d.Now()
	switch chi.URLParam(r, "act") {
	case "hold":
		err = in.Hold(r.Context(), id)
	case "go":
		err = in.LetGo(r.Context(), id, at)
	case "cancel":
		err = in.Cancel(r.Context(), id, at)
	case "again":
		err = in.SendAgain(r.Context(), id, "Sent again by "+layout.Member(r.Context()).Name+".", at)
	default:
		return store.ErrNotFound
	}
	if errors.Is(err, store.ErrConflict) {
		return tooLate
	}
	if err != nil {
		return err
	}
	http.Redirect(w, r, layout.WayOn(r.PostForm.Get("to")), http.StatusSeeOther)
	return nil
}

// letAllGo lets all letters go that are looked at and held, or have failed.
func (d *Room) letAllGo(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	look := lookOf(r.PostForm)
	n, err := d.workspaceOf(r.Context()).LetAllGo(r.Context(), look, d.Now())
	if err != nil {
		return err
	}
	look.State = ""
	to := address(look)
	sep := "?"
	if strings.Contains(to, "?") {
		sep = "&"
	}
	http.Redirect(w, r, to+sep+"said="+strconv.Itoa(n), http.StatusSeeOther)
	return nil
}
