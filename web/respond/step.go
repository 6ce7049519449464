package respond

import (
	"context"
	"errors"
	"log/slog"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5/middleware"

	"lazo/store"
	"lazo/web/fill"
	"lazo/web/fill/posted"
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
	j, a, err := s.take(r, f, fresh)
	switch {
	case errors.Is(err, errGone): // what was typed comes back
		j, a = s.judge(f, opening{program: f.program}), answer{kind: deleted}
	case err != nil && store.Unreachable(err): // and where the database takes nothing for now
		slog.ErrorContext(r.Context(), "a page came back to its respondent",
			"id", middleware.GetReqID(r.Context()), "route", ui.Route(r), "err", err)
		w.Header().Set("Retry-After", "5")
		j = s.judge(f, opening{program: f.program})
		a = answer{at: f.page(), status: http.StatusServiceUnavailable, notice: f.words.Say(unreachableNotice)}
	case err != nil:
		return err
	case !fresh:
		j = s.advanced(j, a)
	}
	return s.tell(w, r, j, a)
}

// take does what a posted page asks for: on, back, to another page, rows added, left,
// or sent.
func (s *Side) take(r *http.Request, f filling, fresh bool) (judgement, answer, error) {
	f, by, err := s.upToDate(r.Context(), f)
	if err != nil {
		return judgement{}, answer{}, err
	}
	if fresh {
		return s.judge(f, by), answer{at: f.page(), notice: f.words.Say(staleNotice)}, nil
	}
	f, edit, err := s.withRows(r.Context(), f)
	if err != nil {
		return judgement{}, answer{}, err
	}
	j := s.judge(f, by)
	if route := j.out.Route(); edit == nil && len(route) > 0 {
		return s.press(r, j, route)
	}
	return j, answer{at: f.page(), edit: edit}, nil
}

// upToDate is a filling with what has to be the newest for what it asks: what says whether its
// form is open, and the lists of the workspace.
func (s *Side) upToDate(ctx context.Context, f filling) (_ filling, by opening, err error) {
	do := f.do()
	if do == "send" && f.ticket.Response == "" && f.program.Form.Opening == nil {
		by, err = s.ownOpening(ctx, f) // it is seen to as it is stored
	} else {
		by, err = s.liveOpening(ctx, f)
	}
	if err == nil && (do == "send" || do == "another" || do == "change") {
		f, err = s.newestLists(ctx, f)
	}
	if by.edition == 0 || by.edition == f.ticket.Edition {
		by.program = f.program
	}
	return f, by, err
}

// press does what a button of the page asks for that changes no rows.
func (s *Side) press(r *http.Request, j judgement, route []string) (judgement, answer, error) {
	at := j.page()
	verb, key, _ := strings.Cut(j.do(), ":")
	switch verb {
	case "back":
		return j.leaving(at), answer{at: route[max(0, slices.Index(route, at)-1)]}, nil
	case "next":
		return j.goOn(route, at)
	case "page":
		return j.leaving(at), answer{at: key}, nil
	case "missing":
		return j, j.missing(at), nil
	case "language":
		j, err := s.switchLanguage(r.Context(), j, key)
		return j, answer{at: at}, err
	case "save":
		a, err := s.leave(r, j, at)
		return j, a, err
	case "withdraw":
		a, err := s.withdraw(r.Context(), j, at, key == "sure")
		return j, a, err
	case "review", "send", "another", "change":
		return s.finish(r, j, verb, at)
	}
	return j, answer{at: at}, nil
}

// goOn leads to the next page, unless something on this one is to be mended or was
// not seen yet.
func (j judgement) goOn(route []string, at string) (judgement, answer, error) {
	switch {
	case len(j.out.Findings(at)) > 0:
		return j, answer{at: at, judged: true}, nil
	case !fill.SeenAsItIs(j.program, j.out, j.fields, at):
		return j, answer{at: at, notice: j.words.Say(unseenNotice)}, nil
	}
	return j.leaving(at), answer{at: route[min(len(route)-1, slices.Index(route, at)+1)]}, nil
}

// missing says what is to be mended on a page, or that nothing is, without going on.
func (j judgement) missing(at string) answer {
	if len(j.out.Findings(at)) > 0 {
		return answer{at: at, judged: true}
	}
	return answer{at: at, notice: j.words.Say("Nothing is missing on this page.")}
}

// finish judges the whole and leads to the review or stores it. What has a problem
// or was never on the screen is shown first.
func (s *Side) finish(r *http.Request, j judgement, verb, at string) (_ judgement, _ answer, err error) {
	switch verb {
	case "change":
		j, err = s.changeInstead(r.Context(), j)
	case "send":
		j, err = s.ownPlaces(r.Context(), j)
	}
	if err != nil {
		return j, answer{}, err
	}
	if faulty := j.out.FirstFaultyPage(); faulty != "" {
		return j.leaving(at), answer{at: faulty, judged: true}, nil
	}
	if !j.fields.Has(posted.DigestField) {
		at = "" // from a page that asks nothing
	}
	unseen := fill.Unseen(j.program, j.out, j.fields, at)
	if at != "" || unseen != "" {
		j = j.leaving(at)
	}
	switch {
	case unseen != "":
		return j, answer{at: unseen, notice: j.words.Say(unseenNotice)}, nil
	case verb == "review":
		return j, answer{kind: reviewed}, nil
	}
	return s.send(r, j, verb == "another")
}

// switchLanguage shows the page in another of the form's languages, with what was
// typed; numbers are read by it from now on.
func (s *Side) switchLanguage(ctx context.Context, j judgement, language string) (judgement, error) {
	q := request{ticket: j.ticket, posted: j.fields, at: j.at}
	languages := j.program.Form.Languages()
	if q.ticket.Language = ""; slices.Contains(languages[1:], language) {
		q.ticket.Language = language
	}
	f, err := s.read(ctx, q)
	if err != nil {
		return j, err
	}
	by, err := s.liveOpening(ctx, f)
	return s.judge(f, by), err
}

// newestLists is a filling that is judged by the newest versions of the workspace's lists.
func (s *Side) newestLists(ctx context.Context, f filling) (filling, error) {
	changed, err := s.programs.Renew(ctx, f.ticket.EditionID(f.ticket.Edition), f.program)
	if err != nil || !changed {
		return f, err
	}
	q := f.request
	q.posted = f.fields
	return s.read(ctx, q)
}
