package respond

import (
	"encoding/json"
	"errors"
	"log/slog"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-chi/chi/v5/middleware"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

const (
	unseenNotice = "Your answers have changed something here. Please look at it before you go on."

	unreachableNotice = "This can’t be stored right now. Your answers are still here; please wait a little and send again."

	staleNotice = "This page had been open for long. Your answers are still here; please check them and go on."
	// sendsAMinute is how often one address can send one form within a minute.
	sendsAMinute = 30
	// trap is a field that people do not see and programs fill.
	trap = "_subject_line"
)

// step is a posted page. Where the form was deleted meanwhile, or the database takes
// nothing for now, what was typed comes back.
func (s *Side) step(w http.ResponseWriter, r *http.Request) error {
	f, fresh, err := s.reopen(w, r)
	if err != nil {
		return err
	}
	asSent := *f
	asSent.posted = maps.Clone(f.posted)
	switch err := s.take(w, r, f, fresh); {
	case errors.Is(err, errGone):
		return s.gone(w, f)
	case err != nil && store.Unreachable(err):
		slog.ErrorContext(r.Context(), "a page came back to its respondent", "id", middleware.GetReqID(r.Context()), "route", ui.Route(r), "err", err)
		asSent.status = http.StatusServiceUnavailable
		w.Header().Set("Retry-After", "5")
		return s.print(w, r, &asSent, asSent.run(), asSent.posted.Get("_page"), showing{notice: f.words().Say(unreachableNotice)})
	default:
		return err
	}
}

// take does what a posted page asks for: on, back, to another page, rows added, left,
// or sent.
func (s *Side) take(w http.ResponseWriter, r *http.Request, f *filling, fresh bool) error {
	do, at := f.posted.Get("_do"), f.posted.Get("_page")
	if do != "send" || f.ticket.Response != "" || f.program.Form.Opening != nil { // else it is seen to as it is stored
		if err := s.lookUpLive(r.Context(), f); err != nil {
			return err
		}
	}
	if edit := fill.EditRows(f.program.Form, f.posted, do); edit != nil && !fresh {
		if err := s.read(r.Context(), f); err != nil {
			return err
		}
		return s.print(w, r, f, f.run(), at, showing{edit: edit})
	}
	out := f.run()
	route := out.Route()
	if fresh || len(route) == 0 {
		show := showing{}
		if fresh {
			show.notice = f.words().Say(staleNotice)
		}
		return s.print(w, r, f, out, at, show)
	}
	verb, key, _ := strings.Cut(do, ":")
	switch verb {
	case "back":
		fill.Leave(f.program, out, f.posted, at)
		return s.print(w, r, f, out, route[max(0, slices.Index(route, at)-1)], showing{})
	case "next":
		return s.goOn(w, r, f, out, at)
	case "page":
		fill.Leave(f.program, out, f.posted, at)
		return s.print(w, r, f, out, key, showing{})
	case "language":
		return s.switchLanguage(w, r, f, at, key)
	case "save":
		return s.leave(w, r, f, out, at)
	case "review", "send", "another", "change":
		return s.finish(w, r, f, out, verb, at)
	}
	return s.print(w, r, f, out, at, showing{})
}

// goOn leads to the next page, unless something on this one is to be mended or was
// not seen yet.
func (s *Side) goOn(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, at string) error {
	switch {
	case len(out.Findings(at)) > 0:
		return s.print(w, r, f, out, at, showing{judged: true})
	case !fill.SeenAsItIs(f.program, out, f.posted, at):
		return s.print(w, r, f, out, at, showing{notice: f.words().Say(unseenNotice)})
	}
	fill.Leave(f.program, out, f.posted, at)
	route := out.Route()
	return s.print(w, r, f, out, route[min(len(route)-1, slices.Index(route, at)+1)], showing{})
}

// finish judges the whole and leads to the review or stores it. What has a problem
// or was never on the screen is shown first.
func (s *Side) finish(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, verb, at string) error {
	if verb == "change" {
		if err := s.changeInstead(r.Context(), f); err != nil {
			return err
		}
		out = f.run()
	}
	if faulty := out.FirstFaultyPage(); faulty != "" {
		fill.Leave(f.program, out, f.posted, at)
		return s.print(w, r, f, out, faulty, showing{judged: true})
	}
	if !f.posted.Has(fill.DigestField) {
		at = "" // from a page that asks nothing
	}
	if unseen := fill.Unseen(f.program, out, f.posted, at); unseen != "" {
		fill.Leave(f.program, out, f.posted, at)
		return s.print(w, r, f, out, unseen, showing{notice: f.words().Say(unseenNotice)})
	}
	if at != "" {
		fill.Leave(f.program, out, f.posted, at)
	}
	if verb == "review" {
		return s.review(w, r, f, out)
	}
	return s.send(w, r, f, out, verb == "another")
}

// switchLanguage shows the page in another of the form's languages, with what was
// typed; numbers are read by it from now on.
func (s *Side) switchLanguage(w http.ResponseWriter, r *http.Request, f *filling, at, language string) error {
	languages := f.program.Form.Languages()
	if f.ticket.Language = ""; slices.Contains(languages[1:], language) {
		f.ticket.Language = language
	}
	var err error
	if f.program, err = s.programs.In(r.Context(), f.ticket.Form, f.ticket.Edition, f.ticket.Language); err != nil {
		return err
	}
	if err := s.read(r.Context(), f); err != nil {
		return err
	}
	return s.print(w, r, f, f.run(), at, showing{})
}

// reviewPage shows all answers once more, with a way to each of them.
type reviewPage struct {
	*fill.View
	Address, Token string
	Edition        int
	Revisit        bool
	SentBefore     string
}

func (s *Side) review(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome) error {
	if out.Open != engine.Open {
		return s.closed(w, f, out)
	}
	token, err := s.token(r.Context(), f.ticket)
	if err != nil {
		return err
	}
	frame(w, f.opening().Form)
	w.Header().Set("Cache-Control", "private, no-cache")
	return s.in(f).Page(w, http.StatusOK, "review", reviewPage{f.carryAll(out), f.address, token, f.ticket.Edition, f.ticket.Response != "", f.posted.Get(sentField)})
}

// carryAll is a view for a page that asks nothing, on which all answers travel along.
func (f *filling) carryAll(out *engine.Outcome) *fill.View {
	view := fill.Build(f.program, out, f.posted, "", fill.Unjudged)
	view.CarryAll()
	return view
}

// send stores the response, or the change of one, and leads to its end page. Another
// asks for one more response of somebody who has sent one.
func (s *Side) send(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, another bool) error {
	ctx := r.Context()
	last := ""
	if route := out.Route(); len(route) > 0 {
		last = route[len(route)-1]
	}
	if !out.Accepted {
		return s.print(w, r, f, out, last, showing{judged: true, notice: f.words().Say("This can’t be sent yet.")})
	}
	limited := f.limit() > 0
	notice := s.doubt(f)
	if notice != "" || limited || f.ticket.Response != "" { // else it is counted as it is stored
		if within, err := s.within(r, f); err != nil {
			return err
		} else if !within {
			return s.tooMany(w, r, f, out, last)
		}
	}
	if notice != "" {
		f.posted.Del(trap)
		return s.print(w, r, f, out, last, showing{notice: notice})
	}
	if another {
		f.ticket.Filling = newFilling()
	} else if before, err := s.sentElsewhere(ctx, f); err != nil {
		return err
	} else if before != nil {
		return s.sentBefore(w, r, f, out, *before)
	}
	// A signature becomes a file only now: until then it can go on being made.
	if signed, err := s.sign(ctx, f.ticket, f.program.Form, f.posted); err != nil {
		return err
	} else if signed {
		if err := s.read(ctx, f); err != nil {
			return err
		}
		if out = f.run(); !out.Accepted {
			return s.print(w, r, f, out, last, showing{judged: true})
		}
	}
	return s.receive(w, r, f, out, last)
}

// receive stores what was accepted; last is the page to come back to if it can't be.
func (s *Side) receive(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, last string) error {
	ctx := r.Context()
	response, err := f.response(out)
	if err != nil {
		return err
	}
	if f.ticket.Response != "" {
		err := s.store.ChangeResponse(ctx, f.ticket.Workspace, f.ticket.Form, f.ticket.Response, f.ticket.Edition, response.Answers, response.Uploads, f.input.At)
		if err != nil {
			return err
		}
		f.leadToEnd(w, r)
		return nil
	}
	got := store.Received
	if limit := f.limit(); limit > 0 {
		got, err = s.store.AddResponseWithin(ctx, response, limit)
	} else {
		got, err = s.store.AddRatedResponse(ctx, response, f.key("send", r), sendsAMinute)
	}
	switch {
	case err != nil:
		return err
	case got == store.Superseded:
		return s.judgeAnew(w, r, f, last)
	case got == store.Erased:
		return erased
	case got == store.Full:
		out.Open = engine.Full
		return s.closed(w, f, out)
	case got == store.TooOften:
		return s.tooMany(w, r, f, out, last)
	case got == store.SentBefore:
		before, err := s.store.ResponseOfFilling(ctx, f.ticket.Form, f.ticket.Filling)
		if err != nil {
			return err
		}
		if !sameAnswers(before.Answers, response.Answers) {
			return s.sentBefore(w, r, f, out, before)
		}
	}
	f.leadToEnd(w, r)
	return nil
}

// judgeAnew is for a form that was published again since its page was opened: the new
// edition says whether it still takes responses.
func (s *Side) judgeAnew(w http.ResponseWriter, r *http.Request, f *filling, last string) error {
	if err := s.lookUpLive(r.Context(), f); err != nil {
		return err
	}
	out := f.run()
	if !out.Accepted {
		return s.print(w, r, f, out, last, showing{judged: true})
	}
	return s.receive(w, r, f, out, last)
}

// response is what is stored of an outcome.
func (f *filling) response(out *engine.Outcome) (store.Response, error) {
	stored := out.Stored()
	answers, err := json.Marshal(stored)
	if err != nil {
		return store.Response{}, err
	}
	params, err := json.Marshal(f.ticket.Params)
	if err != nil {
		return store.Response{}, err
	}
	response := store.Response{WorkspaceID: f.ticket.Workspace, FormID: f.ticket.Form, Edition: f.ticket.Edition, Answers: answers, Parameters: params,
		ReceivedAt: f.input.At, Filling: f.ticket.Filling, Uploads: uploadsIn(f.program.Form, stored), Language: f.ticket.Language, Judge: f.ticket.Edition}
	if f.liveEdition != 0 {
		response.Judge = f.liveEdition
	}
	if f.ticket.Link > 0 {
		response.LinkID = &f.ticket.Link
	}
	return response, nil
}

// leadToEnd leads to the end page, in the language of the filling.
func (f *filling) leadToEnd(w http.ResponseWriter, r *http.Request) {
	to := "/f/" + f.address + "/received/" + f.ticket.Filling
	if f.ticket.Language != "" {
		to += "?" + languageParam + "=" + url.QueryEscape(f.ticket.Language)
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}

// key is what a limit counts by: what is done, the form and the visitor's address.
func (f *filling) key(what string, r *http.Request) string {
	return what + ":" + strconv.FormatInt(f.ticket.Form, 10) + ":" + ui.Visitor(r)
}

// within counts one more sending, and reports whether it is within bounds.
func (s *Side) within(r *http.Request, f *filling) (bool, error) {
	n, err := s.store.Count(r.Context(), f.key("send", r), s.now())
	return n <= sendsAMinute, err
}

func (s *Side) tooMany(w http.ResponseWriter, r *http.Request, f *filling, out *engine.Outcome, at string) error {
	f.status = http.StatusTooManyRequests
	return s.print(w, r, f, out, at, showing{notice: f.words().Say("Too much was sent from here within a minute. Your answers are still here; please wait a little and send again.")})
}

// quick reports whether a filling was sent sooner than anyone fills one in. Where the
// clock was set back meanwhile nobody knows.
func (s *Side) quick(f *filling) bool {
	took := s.now().Sub(time.Unix(f.ticket.Begun, 0))
	return took >= 0 && took < s.least
}

var erased = ui.Refusal{Status: http.StatusGone, Title: "What you sent has been erased",
	Text: "It was received, and erased since by those who run this form. If you want to send something again, please open the form anew."}

// doubt asks once more where a program rather than a person may be at work; a
// person sends again and is through, except where the form's own question is
// answered wrong.
func (s *Side) doubt(f *filling) (notice string) {
	say := f.words().Say
	if g := f.program.Form.Guard; g != nil && !g.Right(f.posted.Get("_guard")) {
		return say("The answer to “%s” is not right yet. Your answers are still here.", g.Question)
	}
	switch {
	case f.posted.Get(trap) != "":
		return say("Something filled in a field that people don’t see. It is empty again; please send once more.")
	case f.ticket.Response == "" && s.quick(f):
		return say("That was very quick. Please send once more.")
	}
	return ""
}
