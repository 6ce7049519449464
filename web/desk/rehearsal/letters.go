package rehearsal

import (
	"context"
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/author"
	"lazo/core/engine"
	"lazo/core/form"
	"lazo/notify"
	"lazo/store"
	"lazo/web/desk/layout"
)

// letterPage is a letter of the draft as it arrives, for a kept rehearsal or a response.
type letterPage struct {
	layout.Header
	Name   string
	Letter *engine.Letter  // nil while there is nothing to show it with, or the draft has errors
	Text   string          // Markdown
	For    []layout.Option // what it can be shown for
	Shown  string          // which of them it is
	Unread bool            // the draft has errors, and no letter can be read
	At     string          // the letter's row in the manuscript
}

// shownFor is how many responses a letter is offered to be shown for; by its id it is for
// any.
const shownFor = 20

// letter shows a letter of the draft as it arrives.
func (d *Room) letter(w http.ResponseWriter, r *http.Request) error {
	f, def, fr, err := d.OpenTab(r, "manuscript")
	if err != nil {
		return err
	}
	key := chi.URLParam(r, "message")
	i := slices.IndexFunc(def.Messages, func(m form.Message) bool { return m.Key == key })
	if i < 0 {
		return store.ErrNotFound
	}
	page := letterPage{Header: fr, Name: layout.LabelOr(def.Messages[i].Name, key), At: author.LetterAt(key),
		Shown: r.URL.Query().Get("for")}
	draft, err := d.Draft(r.Context(), f)
	if err != nil {
		return err
	}
	if draft.Program == nil {
		page.Unread = true
		return d.pages.Page(w, http.StatusOK, "letter-page", page)
	}
	if err := d.showLetter(r.Context(), f, draft.Program, key, &page); err != nil {
		return err
	}
	return d.pages.Page(w, http.StatusOK, "letter-page", page)
}

// showLetter puts the letter on the page for what is asked for, or else for the first that
// there is.
func (d *Room) showLetter(ctx context.Context, f store.Form, p *engine.Program, key string, page *letterPage) error {
	responses, err := d.InForm(f).Responses(ctx, 0, shownFor)
	if err != nil {
		return err
	}
	older := func(r store.Response) bool { return r.ID == page.Shown }
	if page.Shown != "" && !strings.HasPrefix(page.Shown, "rehearsal-") && !slices.ContainsFunc(responses, older) {
		one, err := d.InForm(f).Response(ctx, page.Shown)
		switch {
		case err == nil:
			responses = append(responses, one)
		case !errors.Is(err, store.ErrNotFound):
			return err
		}
	}
	kept, err := d.InForm(f).Rehearsals(ctx)
	if err != nil {
		return err
	}
	for _, k := range kept {
		id := "rehearsal-" + strconv.FormatInt(int64(k.ID), 10)
		page.For = append(page.For, layout.Option{Value: id, Label: "the rehearsal “" + k.Name + "”"})
	}
	for _, r := range responses {
		received := r.ReceivedAt.In(p.Location()).Format(layout.PlainMoment)
		page.For = append(page.For, layout.Option{Value: r.ID, Label: "the response of " + received})
	}
	if len(page.For) == 0 {
		return nil
	}
	if !slices.ContainsFunc(page.For, func(o layout.Option) bool { return o.Value == page.Shown }) {
		page.Shown = page.For[0].Value
	}
	out, err := d.outcomeFor(ctx, f, p, page.Shown, kept, responses)
	if err != nil || out == nil {
		return err
	}
	letters := out.Letters()
	if i := slices.IndexFunc(letters, func(l engine.Letter) bool { return l.Key == key }); i >= 0 {
		page.Letter, page.Text = &letters[i], notify.Shown(letters[i].Body)
	}
	return nil
}

// outcomeFor is what the draft makes of a kept rehearsal or of a response, as at its
// receipt; nil for a rehearsal that can't be read.
func (d *Room) outcomeFor(
	ctx context.Context, f store.Form, p *engine.Program, which string, kept []store.Rehearsal, responses []store.Response,
) (*engine.Outcome, error) {
	if id, ok := strings.CutPrefix(which, "rehearsal-"); ok {
		for _, k := range kept {
			var saved savedFilling
			if strconv.FormatInt(int64(k.ID), 10) != id || json.Unmarshal(k.Filling, &saved) != nil {
				continue
			}
			in, err := d.input(ctx, f, p, bench{saved.Fields, saved.Params, saved.At, saved.Mode, saved.Prior})
			if err != nil {
				return nil, err
			}
			return p.Run(in), nil
		}
		return nil, nil
	}
	for _, r := range responses {
		if r.ID != which {
			continue
		}
		answers, err := engine.ParseAnswers(r.Answers)
		if err != nil {
			return nil, err
		}
		out := p.Run(engine.Input{Record: p.Record(answers), Params: r.Parameters, At: r.ReceivedAt, Mode: engine.New})
		out.Accepted = true // it was, whatever the draft demands by now
		return out, nil
	}
	return nil, nil
}
