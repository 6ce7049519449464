package respond

import (
	"context"
	"errors"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5/middleware"

	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

const (
	unseenNotice = "Your answers have changed something here. Please look at it before you go on."

	unreachableNotice = "This can’t be stored right now. Your answers are still here; please wait a little and send again."

	staleNotice = "This page had been open for long. Your answers are still here; please check them and go on."
)

// step is a posted page: it is read, answered, and the answer told.
func (s *Side) step(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	asSent := *f
	asSent.posted = maps.Clone(f.posted)
	a, err := s.take(r, f, fresh)
	switch {
	case errors.Is(err, errGone): // what was typed comes back
		a = answer{kind: deleted}
	case err != nil && store.Unreachable(err): // and where the database takes nothing for now
		slog.ErrorContext(r.Context(), "a page came back to its respondent",
			"id", middleware.GetReqID(r.Context()), "route", ui.Route(r), "err", err)
		w.Header().Set("Retry-After", "5")
		f, a = &asSent, answer{at: f.posted.Get("_page"), status: http.StatusServiceUnavailable, notice: f.words.Say(unreachableNotice)}
		f.run()
	case err != nil:
		return err
	case !fresh:
		s.advanced(f, asSent.posted.Get("_page"), a)
	}
	return s.tell(w, r, f, a)
}

// take does what a posted page asks for: on, back, to another page, rows added, left,
// or sent.
func (s *Side) take(r *http.Request, f *filling, fresh bool) (answer, error) {
	do, at := f.posted.Get("_do"), f.posted.Get("_page")
	if do != "send" || f.ticket.Response != "" || f.program.Form.Opening != nil { // else it is seen to as it is stored
		if err := s.lookUpLive(r.Context(), f); err != nil {
			return answer{}, err
		}
	}
	if do == "send" || do == "another" || do == "change" {
		if err := s.newestLists(r.Context(), f); err != nil {
			return answer{}, err
		}
	}
	if edit := fill.EditRows(f.program.Form, f.posted, do); edit != nil && !fresh {
		return answer{at: at, edit: edit}, s.rerun(r.Context(), f)
	}
	route := f.run().Route()
	if fresh {
		return answer{at: at, notice: f.words.Say(staleNotice)}, nil
	}
	if len(route) == 0 {
		return answer{at: at}, nil
	}
	verb, key, _ := strings.Cut(do, ":")
	switch verb {
	case "back":
		f.leavePage(at)
		return answer{at: route[max(0, slices.Index(route, at)-1)]}, nil
	case "next":
		return f.goOn(route, at), nil
	case "page":
		f.leavePage(at)
		return answer{at: key}, nil
	case "missing":
		return f.missing(at), nil
	case "language":
		return answer{at: at}, s.switchLanguage(r.Context(), f, key)
	case "save":
		return s.leave(r, f, at)
	case "withdraw":
		return s.withdraw(r.Context(), f, at, key == "sure")
	case "review", "send", "another", "change":
		return s.finish(r, f, verb, at)
	}
	return answer{at: at}, nil
}

// leavePage notes that a page was seen.
func (f *filling) leavePage(at string) { fill.Leave(f.program, f.out, f.posted, at) }

// goOn leads to the next page, unless something on this one is to be mended or was
// not seen yet.
func (f *filling) goOn(route []string, at string) answer {
	switch {
	case len(f.out.Findings(at)) > 0:
		return answer{at: at, judged: true}
	case !fill.SeenAsItIs(f.program, f.out, f.posted, at):
		return answer{at: at, notice: f.words.Say(unseenNotice)}
	}
	f.leavePage(at)
	return answer{at: route[min(len(route)-1, slices.Index(route, at)+1)]}
}

// missing says what is to be mended on a page, or that nothing is, without going on.
func (f *filling) missing(at string) answer {
	if len(f.out.Findings(at)) > 0 {
		return answer{at: at, judged: true}
	}
	return answer{at: at, notice: f.words.Say("Nothing is missing on this page.")}
}

// finish judges the whole and leads to the review or stores it. What has a problem
// or was never on the screen is shown first.
func (s *Side) finish(r *http.Request, f *filling, verb, at string) (answer, error) {
	if verb == "change" {
		if err := s.changeInstead(r.Context(), f); err != nil {
			return answer{}, err
		}
		f.run()
	}
	if verb == "send" {
		if err := s.ownPlaces(r.Context(), f); err != nil {
			return answer{}, err
		}
	}
	if faulty := f.out.FirstFaultyPage(); faulty != "" {
		f.leavePage(at)
		return answer{at: faulty, judged: true}, nil
	}
	if !f.posted.Has(fill.DigestField) {
		at = "" // from a page that asks nothing
	}
	unseen := fill.Unseen(f.program, f.out, f.posted, at)
	if at != "" || unseen != "" {
		f.leavePage(at)
	}
	switch {
	case unseen != "":
		return answer{at: unseen, notice: f.words.Say(unseenNotice)}, nil
	case verb == "review":
		return answer{kind: reviewed}, nil
	}
	return s.send(r, f, verb == "another")
}

// switchLanguage shows the page in another of the form's languages, with what was
// typed; numbers are read by it from now on.
func (s *Side) switchLanguage(ctx context.Context, f *filling, language string) (err error) {
	languages := f.program.Form.Languages()
	if f.ticket.Language = ""; slices.Contains(languages[1:], language) {
		f.ticket.Language = language
	}
	p, err := s.programs.In(ctx, f.ticket.EditionID(f.ticket.Edition), f.ticket.Language)
	if err != nil {
		return err
	}
	f.by(p)
	if err := s.read(ctx, f); err != nil {
		return err
	}
	f.live, f.liveEdition = nil, 0
	err = s.lookUpLive(ctx, f)
	f.run()
	return err
}

// newestLists has what is sent judged by the newest versions of the workspace's lists.
func (s *Side) newestLists(ctx context.Context, f *filling) error {
	changed, err := s.programs.Renew(ctx, f.ticket.EditionID(f.ticket.Edition), f.program)
	if err != nil || !changed {
		return err
	}
	p, err := s.programs.In(ctx, f.ticket.EditionID(f.ticket.Edition), f.ticket.Language)
	if err != nil {
		return err
	}
	f.by(p)
	return s.read(ctx, f)
}
