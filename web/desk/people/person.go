package people

import (
	"errors"
	"fmt"
	"net/http"
	"os"
	"strconv"
	"strings"

	"lazo/privacy"
	"lazo/store"
	"lazo/web/desk/layout"
)

type personPage struct {
	layout.Top
	Typed   string // an e-mail address or a telephone number
	Problem string
	Found   *store.PersonFound // nil before anything was looked for
	Lines   []foundLine
	Most    int
	Done    string
}

// foundLine is a response that was found.
type foundLine struct{ Form, When, Href, State string }

func (d *Room) person(w http.ResponseWriter, r *http.Request) error {
	return d.showPerson(w, r, http.StatusOK, personPage{Done: r.URL.Query().Get("erased")})
}

func (d *Room) showPerson(w http.ResponseWriter, r *http.Request, status int, p personPage) error {
	var err error
	if p.Top, err = d.Top(r, "person"); err != nil {
		return err
	}
	p.Most = store.MostFound
	if p.Found != nil {
		for _, res := range p.Found.Responses {
			line := foundLine{res.Title, res.ReceivedAt.UTC().Format(layout.PlainMoment),
				layout.Base(res.FormID) + "/responses/" + res.ID, ""}
			if res.WithdrawnAt != nil {
				line.State = "withdrawn"
			}
			p.Lines = append(p.Lines, line)
		}
	}
	return d.pages.Page(w, status, "person", p)
}

// looked reads for whom is looked, and finds it; the pattern is "" where that can't be.
func (d *Room) looked(
	w http.ResponseWriter, r *http.Request,
) (typed, pattern string, found store.PersonFound, err error) {
	if err = layout.ParseWithin(w, r, small); err != nil {
		return "", "", found, err
	}
	typed = strings.TrimSpace(r.PostForm.Get("person"))
	if pattern = privacy.Pattern(typed); pattern != "" {
		found, err = d.workspaceOf(r.Context()).Person(r.Context(), pattern)
	}
	return typed, pattern, found, err
}

const noPerson = "Give an e-mail address, or a telephone number of six digits at least."

// find shows what is held about a person. On the trail stands that somebody looked, and how
// much was found, but not for whom.
func (d *Room) find(w http.ResponseWriter, r *http.Request) error {
	typed, pattern, found, err := d.looked(w, r)
	if err != nil {
		return err
	}
	if pattern == "" {
		return d.showPerson(w, r, http.StatusUnprocessableEntity, personPage{Typed: typed, Problem: noPerson})
	}
	layout.Note(r.Context(), "looked for a person’s data, and found %s", amount(found))
	return d.showPerson(w, r, http.StatusOK, personPage{Typed: typed, Found: &found})
}

// amount says how much was found.
func amount(found store.PersonFound) string {
	forms := map[store.FormID]bool{}
	for _, r := range found.Responses {
		forms[r.FormID] = true
	}
	return fmt.Sprintf("%d responses in %d forms, %d fillings that were not sent, %d letters", len(found.Responses),
		len(forms),
		len(found.Fillings), len(found.Letters))
}

// personFile hands out all that was found as one archive.
func (d *Room) personFile(w http.ResponseWriter, r *http.Request) error {
	typed, pattern, found, err := d.looked(w, r)
	if err != nil {
		return err
	}
	if pattern == "" {
		return d.showPerson(w, r, http.StatusUnprocessableEntity, personPage{Typed: typed, Problem: noPerson})
	}
	staged, err := os.CreateTemp("", "person-*.zip")
	if err != nil {
		return err
	}
	defer os.Remove(staged.Name())
	defer staged.Close()
	if err := privacy.HandOut(r.Context(), d.Store, found, staged); err != nil {
		return err
	}
	layout.Note(r.Context(), "handed out a person’s data: %s", amount(found))
	h := w.Header()
	h.Set("Content-Type", "application/zip")
	h.Set("Content-Disposition", `attachment; filename="personal-data.zip"`)
	http.ServeContent(w, r, "", d.Now(), staged)
	return nil
}

// erase deletes all that was found, but for what is the workspace's own.
func (d *Room) erase(w http.ResponseWriter, r *http.Request) error {
	typed, pattern, found, err := d.looked(w, r)
	if err != nil {
		return err
	}
	if pattern == "" || r.PostForm.Get("sure") == "" {
		p := personPage{Typed: typed, Problem: "Tick that it is for good."}
		if p.Found = &found; pattern == "" {
			p.Problem, p.Found = noPerson, nil
		}
		return d.showPerson(w, r, http.StatusUnprocessableEntity, p)
	}
	ctx := r.Context()
	for _, res := range found.Responses {
		f, err := d.workspaceOf(ctx).Form(res.FormID).Get(ctx)
		if err == nil {
			err = privacy.Erase(ctx, d.Store, d.Programs, f, res.Response, d.Now())
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	if err := d.workspaceOf(ctx).Forget(ctx, found); err != nil {
		return err
	}
	layout.Note(ctx, "erased a person’s data: %s", amount(found))
	http.Redirect(w, r, "/person?erased="+strconv.Itoa(len(found.Responses)), http.StatusSeeOther)
	return nil
}
