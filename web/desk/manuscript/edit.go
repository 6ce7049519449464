package manuscript

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"lazo/core/author"
	"lazo/core/form"
	"lazo/store"
	"lazo/web/desk/layout"
)

// edit carries one change of the draft out and shows the manuscript again. Where
// the change meets what someone else changed meanwhile it is not made, so that
// nobody's work is overwritten unseen, and offered to be made all the same.
func (d *Room) edit(w http.ResponseWriter, r *http.Request) error {
	if err := layout.Parse(w, r); err != nil {
		return err
	}
	f, def, err := d.Open(r)
	if err != nil {
		return err
	}
	v := r.PostForm
	if v.Get("key") == "" && v.Has("was") {
		v.Set("at", v.Get("was")) // what is about the form, or what is marked, is not drawn anew for another question at hand
	}
	at := v.Get("at")
	if !v.Has("at") {
		at = v.Get("key") // what is changed is what is at hand
	}
	show := view{at: at, write: v.Get("write"), tied: v.Get("tied")}
	version, err := strconv.ParseInt(v.Get("version"), 10, 64)
	if err == nil && version == f.DraftVersion {
		draft, err := d.Draft(r.Context(), f)
		if err != nil {
			return err
		}
		show.seen(draft, v)
	}
	if err != nil {
		show.problem = "This page is not complete; here it is afresh."
		return d.showManuscript(w, r, f, def, show, http.StatusUnprocessableEntity)
	}
	after := f
	switch v.Get("do") {
	case "undo", "redo":
		after, err = d.stepBack(r.Context(), f, v, &show)
	default:
		var doing author.Doing
		var c author.Command
		if c, err = d.commandOf(r.Context(), f, v); err == nil {
			if v.Get("do") == "paste" && v.Get("cut") != "" {
				after, doing, err = d.moveOver(r.Context(), f, def, version, c, v)
			} else {
				after, doing, err = d.Apply(r.Context(), f, def, version, c)
			}
		}
		if err == nil || doing.At != "" {
			show.said = doing.Says()
			if doing.At != "" || !staysOpen(v) {
				show.at = doing.At
			}
		}
	}
	if status := refusal(err, v, &show, f.DraftVersion); status != 0 {
		return d.showManuscript(w, r, f, def, show, status)
	}
	if err != nil {
		return err
	}
	if r.Header.Get("HX-Request") == "" {
		http.Redirect(w, r, layout.Base(f.ID)+"?at="+url.QueryEscape(show.at)+"#row-"+url.QueryEscape(show.at),
			http.StatusSeeOther)
		return nil
	}
	draft, err := d.Draft(r.Context(), after)
	if err != nil {
		return err
	}
	return d.showManuscript(w, r, after, draft.Def, show, http.StatusOK)
}

// staysOpen reports whether what is at hand stays so after a change that puts nothing else
// there: one of a letter or a hook, of the form, or of what is marked.
func staysOpen(v url.Values) bool {
	property := v.Get("property")
	return strings.HasPrefix(property, "messages.") || strings.HasPrefix(property, "hooks.") ||
		v.Get("key") == "" && !strings.HasPrefix(v.Get("do"), "add-")
}

// refusal puts into words why a change was not made, with what was written, and
// gives the answer's status; 0 if it was made or is no refusal.
func refusal(err error, v url.Values, show *view, version int64) int {
	var clash store.Clash
	var fault *author.Fault
	var unsure *author.Unsure
	step := v.Get("do") == "undo" || v.Get("do") == "redo"
	switch {
	case errors.As(err, &fault):
		show.fault = fault
		return http.StatusUnprocessableEntity
	case errors.As(err, &unsure):
		show.ask = unsure
		return http.StatusConflict
	case errors.As(err, &clash):
		by := clash.By
		if by == "" {
			by = "Someone else"
		}
		show.problem = by + " has changed the same meanwhile. What you see is the newest state; your last change was not made."
		show.mine = mineOf(v, version)
		if step {
			show.problem = by + " has since changed what this would change, too. Nothing was done."
			show.mine.Button = "Do it all the same"
			show.mine.Fields = append(show.mine.Fields, hiddenField{"sure", "yes"})
		}
		return http.StatusConflict
	case errors.Is(err, form.ErrEdit):
		if do := v.Get("do"); (do == "set" || do == "key") && v.Get("key") != "" {
			// It is said where it was typed, and what it belongs to stays open.
			property := v.Get("property")
			if do == "key" {
				property = "key"
			}
			show.at, show.refused = v.Get("key"), refused{v.Get("key"), property, v.Get("value"), layout.Problem(err)}
			return http.StatusUnprocessableEntity
		}
		show.problem = layout.Problem(err)
		if mine := mineOf(v, version); mine.Text != "" {
			show.mine, mine.Fields = mine, nil // to be read, not to be made again as it is
		}
		return http.StatusUnprocessableEntity
	case errors.Is(err, store.ErrNotFound) && step:
		return http.StatusOK
	}
	return 0
}

// stepBack takes the member's last edit back, or does it again, and says what that
// was and where.
func (d *Room) stepBack(ctx context.Context, f store.Form, v url.Values, show *view) (store.Form, error) {
	do, word := store.InForm.Undo, "Undone"
	if v.Get("do") == "redo" {
		do, word = store.InForm.Redo, "Done again"
	}
	before, after, err := do(d.InForm(f), ctx, layout.Member(ctx).ID, v.Get("sure") != "")
	if err != nil {
		return f, err
	}
	was, err := before.Definition()
	if err != nil {
		return after, err
	}
	is, err := after.Definition()
	if err != nil {
		return after, err
	}
	show.before = nil // what the page shows may be older than what was stepped from
	from, to := is, was
	if word != "Undone" {
		from, to = was, is
	}
	changes := form.Diff(from, to)
	if len(changes) == 0 {
		return after, nil
	}
	show.said = word + ": " + changes[0].Text
	if more := len(changes) - 1; more == 1 {
		show.said += ", and one more change"
	} else if more > 1 {
		show.said += fmt.Sprintf(", and %d more changes", more)
	}
	show.said += "."
	for _, c := range form.Diff(was, is) {
		if is.Keys()[c.Key] {
			show.at, show.jump = c.Key, c.Key
			break
		}
	}
	return after, nil
}

// mineOf keeps what was typed into one field, to be put in all the same.
func mineOf(v url.Values, version int64) *mine {
	m := &mine{Button: "Make my change all the same"}
	for _, name := range []string{"value", "source", "label", "message", "subject"} { // what one writes
		if m.Text == "" {
			m.Text = strings.TrimSpace(v.Get(name))
		}
	}
	for name, values := range v {
		for _, value := range values {
			if name == "version" {
				value = strconv.FormatInt(version, 10)
			}
			m.Fields = append(m.Fields, hiddenField{name, value})
		}
	}
	slices.SortFunc(m.Fields, func(a, b hiddenField) int { return strings.Compare(a.Name, b.Name) })
	return m
}

// commandOf reads which command the posted fields ask for.
func (d *Room) commandOf(ctx context.Context, f store.Form, v url.Values) (author.Command, error) {
	do, what, _ := strings.Cut(v.Get("do"), ":")
	if v.Has("mark") { // scripts name several as one
		v["mark"] = strings.Split(strings.Join(v["mark"], ","), ",")
	}
	if fetch := fetching[do]; fetch != nil {
		return fetch(d, ctx, f, v)
	}
	if do == "many" {
		v.Set("what", what)
	}
	return layout.Command(do, v)
}
