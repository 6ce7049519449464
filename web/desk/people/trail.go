package people

import (
	"encoding/json"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"lazo/store"
	"lazo/web/desk/layout"
)

// trailShown is how many lines a page of the trail has; trailPiece how many are read at a
// time for its file.
const (
	trailShown = 100
	trailPiece = 1000
)

type trailLine struct {
	store.TrailStep
	When, Words string
}

type trailPage struct {
	layout.Top
	Lines    []trailLine
	Acts     []layout.Option
	Forms    []choice
	Act, Who string
	Form     store.FormID
	Older    string // the address of the next page
	File     string
	Days     int // for which it is kept
	Problem  string
	Any      bool // it is narrowed
}

// trailOf is which lines an address asks for.
func trailOf(q url.Values) store.Trail {
	before, _ := strconv.ParseInt(q.Get("before"), 10, 64)
	form, _ := strconv.ParseInt(q.Get("form"), 10, 64)
	return store.Trail{Act: q.Get("act"), Who: strings.TrimSpace(q.Get("who")), Form: store.FormID(form), Before: before}
}

func (d *Room) trail(w http.ResponseWriter, r *http.Request) error {
	return d.showTrail(w, r, http.StatusOK, "")
}

func (d *Room) showTrail(w http.ResponseWriter, r *http.Request, status int, problem string) error {
	ctx := r.Context()
	top, err := d.Top(r, "trail")
	if err != nil {
		return err
	}
	q := r.URL.Query()
	t := trailOf(q)
	p := trailPage{Top: top, Acts: layout.Acts, Act: t.Act, Who: t.Who, Form: t.Form, Problem: problem}
	p.Any = t.Act != "" || t.Who != "" || t.Form != 0
	if p.Forms, err = d.forms(ctx); err != nil {
		return err
	}
	ws, err := d.workspaceOf(ctx).Get(ctx)
	if err != nil {
		return err
	}
	p.Days = ws.TrailDays
	t.Limit = trailShown + 1
	steps, err := d.workspaceOf(ctx).Trail(ctx, t)
	if err != nil {
		return err
	}
	if len(steps) > trailShown {
		steps = steps[:trailShown]
		q.Set("before", strconv.FormatInt(steps[trailShown-1].ID, 10))
		p.Older = "/trail?" + q.Encode()
	}
	q.Del("before")
	p.File = "/trail.ndjson?" + q.Encode()
	for _, s := range steps {
		p.Lines = append(p.Lines, trailLine{s, s.At.UTC().Format("2 Jan 2006, 15:04:05"), layout.ActWords(s.Act, s.Detail)})
	}
	return d.pages.Page(w, status, "trail", p)
}

// trailFile gives the trail, a line of JSON each.
func (d *Room) trailFile(w http.ResponseWriter, r *http.Request) error {
	t := trailOf(r.URL.Query())
	t.Limit = trailPiece
	layout.Note(r.Context(), "took out the trail")
	w.Header().Set("Content-Type", "application/x-ndjson")
	w.Header().Set("Content-Disposition", `attachment; filename="trail.ndjson"`)
	out := json.NewEncoder(w)
	for {
		steps, err := d.workspaceOf(r.Context()).Trail(r.Context(), t)
		if err != nil {
			return err
		}
		for _, s := range steps {
			if err := out.Encode(s); err != nil {
				return err
			}
			t.Before = s.ID
		}
		if len(steps) < trailPiece {
			return nil
		}
	}
}

// keepTrail sets how long the trail is kept.
func (d *Room) keepTrail(w http.ResponseWriter, r *http.Request) error {
	if err := layout.ParseWithin(w, r, small); err != nil {
		return err
	}
	days, err := strconv.Atoi(r.PostForm.Get("days"))
	if err != nil || days < store.FewestDays || days > store.MostDays {
		return d.showTrail(w, r, http.StatusUnprocessableEntity, "The trail is kept for 30 to 3,650 days.")
	}
	layout.Note(r.Context(), "set that the trail is kept for %d days", days)
	if err := d.workspaceOf(r.Context()).KeepTrail(r.Context(), days); err != nil {
		return err
	}
	http.Redirect(w, r, "/trail", http.StatusSeeOther)
	return nil
}
