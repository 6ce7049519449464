package response

import (
	"errors"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/desk/layout"
	"lazo/web/desk/responses"
	"lazo/web/ui"
)

// restore makes an earlier version of a response the one of now; the one of now stays among
// the versions.
func (d *Room) restore(w http.ResponseWriter, r *http.Request) error {
	return d.goBack(w, r, func(now *store.Response, v store.ResponseVersion, _ []byte) (engine.Input, *engine.Program,
		error) {
		p, err := d.Programs.Get(r.Context(), now.EditionID(v.Edition))
		if err != nil {
			return engine.Input{}, nil, err
		}
		raw, err := engine.ParseAnswers(v.Answers)
		now.Edition = v.Edition
		return engine.Input{Prior: p.Answers(raw)}, p, err
	})
}

// undo takes back what one change did to a response, and leaves all that was changed since.
func (d *Room) undo(w http.ResponseWriter, r *http.Request) error {
	return d.goBack(w, r, func(now *store.Response, v store.ResponseVersion, after []byte) (engine.Input, *engine.Program,
		error) {
		p, err := d.Programs.Get(r.Context(), now.EditionID(now.Edition))
		if err != nil {
			return engine.Input{}, nil, err
		}
		was, err := engine.ParseAnswers(v.Answers)
		if err != nil {
			return engine.Input{}, nil, err
		}
		in := engine.Input{Record: p.Record(was), Params: now.Parameters, At: now.ReceivedAt, Mode: engine.Staff}
		m, err := p.Merge(after, v.Answers, now.Answers, p.Run(in), nil)
		if err != nil {
			return in, nil, err
		}
		if len(m.Clashes) > 0 {
			var labels []string
			for _, c := range m.Clashes {
				if c.Item != nil {
					labels = append(labels, c.Item.Name())
				}
			}
			return in, nil, ui.Refusal{Status: http.StatusConflict, Title: "This was changed again since",
				Text: "Nothing was undone, since this has another answer by now: " + strings.Join(labels,
					", ") + ". Restore a version, or change it by hand."}
		}
		return engine.Input{Prior: m.Prior, Answers: m.Answers}, p, nil
	})
}

// goBack stores what an earlier version makes of a response. From gives what is run for it,
// from the response as it is now, the version that was asked for and what came after it.
func (d *Room) goBack(
	w http.ResponseWriter, r *http.Request,
	from func(now *store.Response, v store.ResponseVersion, after []byte) (engine.Input, *engine.Program, error),
) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	l, err := responses.Read(d.Desk, r)
	if err != nil {
		return err
	}
	in := d.InForm(l.Form)
	res, err := in.ResponseWithVersions(r.Context(), chi.URLParam(r, "response"))
	if err != nil {
		return err
	}
	v, after, ok := versionOf(res, r.PostForm.Get("version"))
	if !ok {
		return store.ErrNotFound
	}
	by := layout.Member(r.Context()).ID
	got, err := in.Amend(r.Context(), res.ID, &by, l.Now, func(now store.Response) (store.Response, error) {
		if now.Stamp() != res.Stamp() { // somebody was quicker; the page is to be looked at again
			return now, errMet
		}
		next := now
		input, p, err := from(&next, v, after)
		if err != nil {
			return now, err
		}
		input.Params, input.At, input.Mode = now.Parameters, now.ReceivedAt, engine.Staff
		out := p.Run(input)
		next.Overridden = nil
		for _, f := range out.Override() {
			next.Overridden = append(next.Overridden, f.Said())
		}
		stored, err := out.ToStore()
		if err != nil {
			return now, err
		}
		next.Labels, next.Uploads, next.Takes = stored.Labels, stored.Files, stored.Takes
		if next.Answers, err = p.Beside(stored.Answers, now.Answers); err != nil {
			return now, err
		}
		err = l.Follow(r.Context(), d.Desk, now.Answers, &next)
		return next, err
	})
	switch {
	case errors.Is(err, errMet):
		return ui.Refusal{Status: http.StatusConflict, Title: "Somebody else was quicker",
			Text: "The response was changed a moment ago. Nothing was done; please look at it again."}
	case err != nil:
		return err
	case got == store.NoPlaces:
		return placesTaken
	case got == store.Withdrawn, got == store.ChangedTooOften:
		return ui.Refusal{Status: http.StatusConflict, Title: "This can’t be changed",
			Text: "The response was withdrawn, or changed too often. Nothing was done."}
	}
	http.Redirect(w, r, layout.Base(l.Form.ID)+"/responses/"+res.ID, http.StatusSeeOther)
	return nil
}

// versionOf is a version by its number, with the answers that came after it.
func versionOf(res store.Response, number string) (v store.ResponseVersion, after []byte, ok bool) {
	after = res.Answers
	for _, v := range res.Versions {
		if strconv.Itoa(v.Number) == number {
			return v, after, true
		}
		after = v.Answers
	}
	return v, nil, false
}
