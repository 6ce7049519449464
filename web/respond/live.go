package respond

import (
	"context"
	"net/http"

	"github.com/go-chi/chi/v5"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/fill/posted"
	"lazo/web/ui"
)

// clock is the time in milliseconds until something changes by itself.
func clock(j judgement) int64 {
	in := j.input
	in.Offline, in.Responses = j.opening.offline, j.opening.responses
	next, ok := j.program.NextSeen(in)
	if !ok {
		return 0
	}
	// A moment later rather than sooner, and not beyond what browsers can wait.
	return min(max(next.Sub(in.At).Milliseconds()+250, 1000), 1<<31-1)
}

// reopen reads a posted page. If its ticket is no longer valid a new filling
// begins, with what was typed; fresh tells.
func (s *Side) reopen(w http.ResponseWriter, r *http.Request) (f filling, fresh bool, err error) {
	fields, err := s.posted(w, r)
	if err != nil {
		return f, false, err
	}
	keys, err := s.keys(r.Context())
	if err != nil {
		return f, false, err
	}
	t, err := s.tickets.open(keys, fields.Get(posted.TokenField), s.now())
	if err != nil {
		fresh = true
		if t, _, err = s.newTicket(r, chi.URLParam(r, "address"), nil); err != nil {
			return f, false, err
		}
	}
	if t.Address != chi.URLParam(r, "address") {
		return f, false, store.ErrNotFound // a page of another form
	}
	f, err = s.read(r.Context(), request{ticket: t, posted: fields, at: s.now()})
	return f, fresh, err
}

// livePage is what a live change sends.
type livePage struct {
	page
	Units     []fill.Unit
	WasJudged bool // faults of the page were shown when it was posted
	Spoken    string
}

// The headers by which the page's script tells an answer of the application from
// any other that may stand in its way, and a form that closed meanwhile.
const (
	liveHeader   = "Lazo-Live"
	closedHeader = "Lazo-Closed"
)

// live answers a change of a driving input, or a button of a repeating section, with
// the units that changed.
func (s *Side) live(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	if fresh {
		return ui.Refusal{Status: http.StatusConflict, Title: "This page is too old", Text: staleNotice}
	}
	f, edit, err := s.withRows(r.Context(), f)
	if err != nil {
		return err
	}
	by, err := s.ownOpening(r.Context(), f)
	if err != nil {
		return err
	}
	j := s.judge(f, by)
	if j.out.Open != engine.Open {
		w.Header().Set(closedHeader, "yes") // the page asks for the whole, with what was typed
		return nil
	}
	view, units := fill.Live(j.program, j.out, j.fields, j.page(), j.fields.Get(posted.DigestField), edit)
	w.Header().Set(liveHeader, "yes")
	judged := j.fields.Get(fill.FaultyField) != ""
	return s.pagesIn(f).Page(w, http.StatusOK, "live", livePage{
		page{View: view, Clock: clock(j), Revisit: f.ticket.Response != ""}, units, judged,
		fill.Announcement(f.words, units, edit, judged && len(view.Summary()) == 0),
	})
}

// withRows is a filling after what a button of a repeating section does; edit is nil if none
// was pressed.
func (s *Side) withRows(ctx context.Context, f filling) (_ filling, _ *posted.RowEdit, err error) {
	fields, edit := posted.EditRows(f.program.Form, f.fields, f.do())
	if edit != nil {
		f, err = s.fillingWith(ctx, f, fields)
	}
	return f, edit, err
}
