package respond

import (
	"context"
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

	tooMuchNotice = "Too much was sent from here within a minute. Your answers are still here; please wait a little and send again."

	staleNotice = "This page had been open for long. Your answers are still here; please check them and go on."
	// sendsAMinute is how often one address can send one form within a minute.
	sendsAMinute = 30
	// trap is a field that people do not see and programs fill.
	trap = "_subject_line"
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
		f, a = &asSent, answer{at: f.posted.Get("_page"), status: http.StatusServiceUnavailable, notice: f.words().Say(unreachableNotice)}
		f.run()
	case err != nil:
		return err
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
		err := s.read(r.Context(), f)
		f.run()
		return answer{at: at, edit: edit}, err
	}
	route := f.run().Route()
	if fresh {
		return answer{at: at, notice: f.words().Say(staleNotice)}, nil
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
	case "language":
		return answer{at: at}, s.switchLanguage(r.Context(), f, key)
	case "save":
		return s.leave(r, f, at)
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
		return answer{at: at, notice: f.words().Say(unseenNotice)}
	}
	f.leavePage(at)
	return answer{at: route[min(len(route)-1, slices.Index(route, at)+1)]}
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
		return answer{at: unseen, notice: f.words().Say(unseenNotice)}, nil
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
	if f.program, err = s.programs.In(ctx, f.ticket.Form, f.ticket.Edition, f.ticket.Language); err != nil {
		return err
	}
	if err := s.read(ctx, f); err != nil {
		return err
	}
	f.live, f.liveEdition = nil, 0
	err = s.lookUpLive(ctx, f)
	f.run()
	return err
}

// send stores the response, or the change of one. Another asks for one more response of
// somebody who has sent one.
func (s *Side) send(r *http.Request, f *filling, another bool) (answer, error) {
	ctx := r.Context()
	again := answer{} // the page to come back to
	if route := f.out.Route(); len(route) > 0 {
		again.at = route[len(route)-1]
	}
	if !f.out.Accepted {
		again.judged, again.notice = true, f.words().Say("This can’t be sent yet.")
		return again, nil
	}
	notice, tooMuch, err := s.held(r, f)
	switch {
	case err != nil:
		return again, err
	case tooMuch:
		return f.tooMany(again), nil
	case notice != "":
		f.posted.Del(trap)
		again.notice = notice
		return again, nil
	}
	if another {
		f.ticket.Filling = newFilling()
	} else if before, err := s.sentElsewhere(ctx, f); err != nil || before != nil {
		if err != nil {
			return again, err
		}
		return answer{kind: sentBefore, before: *before}, nil
	}
	// A signature becomes a file only now: until then it can go on being made.
	signed, err := s.sign(ctx, f.ticket, f.program.Form, f.posted)
	if err != nil {
		return again, err
	}
	if signed {
		if err := s.read(ctx, f); err != nil {
			return again, err
		}
		if !f.run().Accepted {
			again.judged = true
			return again, nil
		}
	}
	return s.receive(r, f, again)
}

// held says what holds a sending back: a doubt that asks once more, or that too much was
// sent. Where nothing else is to be looked at, sendings are counted as they are stored.
func (s *Side) held(r *http.Request, f *filling) (notice string, tooMuch bool, err error) {
	if notice, err = s.doubt(r, f); err != nil {
		return "", false, err
	}
	if notice == "" && f.limit() == 0 && f.ticket.Response == "" {
		return "", false, nil
	}
	within, err := s.within(r, f)
	return notice, !within, err
}

// receive stores what was accepted; again is the page to come back to if it can't be.
func (s *Side) receive(r *http.Request, f *filling, again answer) (answer, error) {
	response, err := f.response()
	if err != nil {
		return again, err
	}
	if f.ticket.Response != "" {
		err := s.of(f).ChangeResponse(r.Context(), f.ticket.Response, response, f.input.At)
		if errors.Is(err, store.ErrNoPlaces) {
			return s.fullMeanwhile(r, f, again)
		}
		if errors.Is(err, store.ErrTooOften) {
			again.notice = f.words().Say("This was changed very often; it can’t be changed again. Please tell whoever runs this form.")
			return again, nil
		}
		return answer{kind: sent}, err
	}
	got := store.Received
	if limit := f.limit(); limit > 0 {
		got, err = s.store.AddResponseWithin(r.Context(), response, limit)
	} else {
		got, err = s.store.AddRatedResponse(r.Context(), response, f.key("send", r), weight(response.Answers), sendsAMinute)
	}
	switch {
	case err != nil:
		return again, err
	case got == store.Superseded:
		return s.judgeAnew(r, f, again)
	case got == store.Erased:
		return again, erased
	case got == store.NoPlaces:
		return s.fullMeanwhile(r, f, again)
	case got == store.Full:
		f.out.Open = engine.Full
		return again, nil
	case got == store.TooOften:
		return f.tooMany(again), nil
	case got == store.SentBefore:
		return s.sentAlready(r.Context(), f, response)
	}
	return answer{kind: sent}, nil
}

// sentAlready is for a filling that is stored: a page that came twice leads to the end,
// one with other answers asks what is meant.
func (s *Side) sentAlready(ctx context.Context, f *filling, response store.Response) (answer, error) {
	before, err := s.of(f).ResponseOf(ctx, f.ticket.Filling)
	if err == nil && !sameAnswers(before.Answers, response.Answers) {
		return answer{kind: sentBefore, before: before}, nil
	}
	return answer{kind: sent}, err
}

// judgeAnew is for a form that was published again since its page was opened: the new
// edition says whether it still takes responses.
func (s *Side) judgeAnew(r *http.Request, f *filling, again answer) (answer, error) {
	if err := s.lookUpLive(r.Context(), f); err != nil {
		return again, err
	}
	if !f.run().Accepted {
		again.judged = true
		return again, nil
	}
	return s.receive(r, f, again)
}

// fullMeanwhile is for a choice whose last place went while the form was filled: its
// question says so, and all the rest stays.
func (s *Side) fullMeanwhile(r *http.Request, f *filling, again answer) (answer, error) {
	if err := s.places(r.Context(), f, false); err != nil {
		return again, err
	}
	again.judged = true
	if faulty := f.run().FirstFaultyPage(); faulty != "" {
		again.at = faulty
	}
	return again, nil
}

// newestLists has what is sent judged by the newest versions of the workspace's lists.
func (s *Side) newestLists(ctx context.Context, f *filling) error {
	changed, err := s.programs.Renew(ctx, f.ticket.Form, f.ticket.Edition, f.program)
	if err != nil || !changed {
		return err
	}
	if f.program, err = s.programs.In(ctx, f.ticket.Form, f.ticket.Edition, f.ticket.Language); err != nil {
		return err
	}
	return s.read(ctx, f)
}

// of is what belongs to a filling's form.
func (s *Side) of(f *filling) store.InForm { return s.store.In(f.ticket.Workspace).Form(f.ticket.Form) }

// response is what is stored of an outcome.
func (f *filling) response() (store.Response, error) {
	stored := f.out.Stored()
	answers, err := json.Marshal(stored)
	if err != nil {
		return store.Response{}, err
	}
	params, err := json.Marshal(f.ticket.Params)
	if err != nil {
		return store.Response{}, err
	}
	response := store.Response{
		WorkspaceID: f.ticket.Workspace, FormID: f.ticket.Form, Edition: f.ticket.Edition, Answers: answers,
		Parameters: params, ReceivedAt: f.input.At, Filling: f.ticket.Filling,
		Uploads: uploadsIn(f.program.Form, stored), Language: f.ticket.Language, Judge: f.ticket.Edition, Takes: store.TakesOf(f.out),
	}
	if response.Labels, err = store.LabelsOf(f.out); err != nil {
		return response, err
	}
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
	return what + ":" + strconv.FormatInt(int64(f.ticket.Form), 10) + ":" + ui.Visitor(r)
}

// within counts one more sending, and reports whether it is within bounds.
func (s *Side) within(r *http.Request, f *filling) (bool, error) {
	size := 0
	for name, values := range f.posted {
		size += len(name) + len(strings.Join(values, ""))
	}
	n, err := s.store.CountBy(r.Context(), f.key("send", r), s.now(), weighed(size))
	return n <= sendsAMinute, err
}

// aPart is how many bytes count for one sending; more count for several.
const aPart = 64 << 10

// weight is for how many sendings what was sent counts, so that limits by number are
// limits by bytes too.
func weight(sent []byte) int { return weighed(len(sent)) }

func weighed(bytes int) int { return 1 + bytes/aPart }

func (f *filling) tooMany(again answer) answer {
	again.status = http.StatusTooManyRequests
	again.notice = f.words().Say(tooMuchNotice)
	return again
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
func (s *Side) doubt(r *http.Request, f *filling) (notice string, err error) {
	say := f.words().Say
	if notice, err = s.guarded(r, f); notice != "" || err != nil {
		return notice, err
	}
	switch {
	case f.posted.Get(trap) != "":
		return say("Something filled in a field that people don’t see. It is empty again; please send once more."), nil
	case f.ticket.Response == "" && s.quick(f):
		return say("That was very quick. Please send once more."), nil
	}
	return "", nil
}

// guessesAMinute is how many wrong answers to a form's guard question are judged of one
// visitor within a minute. Further ones are not, even if they are right.
const guessesAMinute = 6

// guarded judges the answer to the form's guard question. It is counted before it is
// judged, so that of many at once no more are judged than may be wrong.
func (s *Side) guarded(r *http.Request, f *filling) (notice string, err error) {
	g := f.program.Form.Guard
	if g == nil {
		return "", nil
	}
	key, at := f.key("guard", r), s.now()
	n, err := s.store.Count(r.Context(), key, at)
	switch {
	case err != nil:
		return "", err
	case n > guessesAMinute:
		return f.words().
				Say("“%s” was answered wrong too often from here. Your answers are still here; please wait a minute and send again.", g.Question),
			nil
	case !g.Right(f.posted.Get("_guard")):
		return f.words().Say("The answer to “%s” is not right yet. Your answers are still here.", g.Question), nil
	}
	return "", s.store.Uncount(r.Context(), key, at)
}
