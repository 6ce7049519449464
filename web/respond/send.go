package respond

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/notify"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/ui"
)

const (
	tooMuchNotice = "Too much was sent from here within a minute. Your answers are still here; please wait a little and send again."

	// sendsAMinute is how often one address can send one form within a minute.
	sendsAMinute = 30
	// trap is a field that people do not see and programs fill.
	trap = "_subject_line"
	// judgings is how often a response is judged anew for what changed while it was sent.
	judgings = 3
)

var erased = ui.Refusal{Status: http.StatusGone, Title: "What you sent has been erased",
	Text: "It was received, and erased since by those who run this form. If you want to send something again, please open the form anew."}

// send stores the response, or the change of one. Another asks for one more response of
// somebody who has sent one.
func (s *Side) send(r *http.Request, f *filling, another bool) (answer, error) {
	again := answer{} // the page to come back to
	if route := f.out.Route(); len(route) > 0 {
		again.at = route[len(route)-1]
	}
	if !f.out.Accepted {
		again.judged, again.notice = true, f.words.Say("This can’t be sent yet.")
		return again, nil
	}
	if held, err := s.held(r, f, &again); held || err != nil {
		return again, err
	}
	if another {
		f.ticket.Filling = newFilling()
	} else if before, err := s.sentElsewhere(r.Context(), f); before != nil || err != nil {
		return answer{kind: sentBefore, before: before}, err
	}
	// A signature becomes a file only now: until then it can go on being made.
	signed, err := s.sign(r.Context(), f.ticket, f.program.Form, f.posted)
	if err != nil {
		return again, err
	}
	if signed {
		if err := s.rerun(r.Context(), f); err != nil {
			return again, err
		}
	}
	return s.receive(r, f, again)
}

// receive stores what is accepted; again is the page to come back to if it can't be. What
// changed while it was on its way, another edition that went live or a place that went,
// has it judged anew.
func (s *Side) receive(r *http.Request, f *filling, again answer) (answer, error) {
	for range judgings {
		if !f.out.Accepted {
			again.judged = true
			if faulty := f.out.FirstFaultyPage(); faulty != "" {
				again.at = faulty
			}
			return again, nil
		}
		response, err := f.response()
		if err != nil {
			return again, err
		}
		got, err := s.keep(r, f, response)
		switch {
		case errors.Is(err, errMet):
			again.status, again.notice = http.StatusConflict, f.words.Say("While this page was open, somebody else has changed the same. Nothing of yours is lost.")
			return again, nil
		case errors.Is(err, errUnfit):
			return s.goOnFrom(r.Context(), f, again)
		case err != nil:
			return again, err
		case got != store.Superseded && got != store.NoPlaces:
			return s.cameOf(r.Context(), f, again, response, got)
		}
		if err := s.judgeAnew(r.Context(), f); err != nil {
			return again, err
		}
	}
	again.notice = f.words.Say(unreachableNotice)
	return again, nil
}

// keep hands a response, or the change of one, to the store.
func (s *Side) keep(r *http.Request, f *filling, response store.Response) (store.Reception, error) {
	if f.ticket.Response != "" {
		return s.of(f).Amend(r.Context(), f.ticket.Response, nil, f.input.At, func(now store.Response) (store.Response, error) {
			next := response
			if now.Stamp() != f.ticket.Since {
				stored, err := f.merged(response, now)
				if err != nil {
					return now, err
				}
				next.Answers, next.Labels, next.Uploads, next.Takes = stored.Answers, stored.Labels, stored.Files, stored.Takes
				response.Answers = stored.Answers
			}
			next.ConfirmBy, next.ConfirmedAt = now.ConfirmBy, now.ConfirmedAt
			var err error
			if next.Answers, err = f.program.Beside(response.Answers, now.Answers); err != nil {
				return next, err
			}
			err = notify.Follow(r.Context(), s.programs, response.Judge, now.Answers, &next, f.input.At, engine.Revisit)
			return next, err
		})
	}
	if err := s.holdBack(r, f, response.Goes); err != nil {
		return 0, err
	}
	return s.store.AddBounded(r.Context(), response, store.Bounds{
		Responses: f.limit, Sender: f.key("send", r), Weight: weight(response.Answers), Most: sendsAMinute,
	})
}

// lettersAVisitor is how many letters to addresses that were answered one visitor sets off at
// a form within an hour; what is beyond is held until the office lets it go, so that nobody
// uses up what the form may send for everybody else.
const lettersAVisitor = 200

// holdBack holds letters back that are beyond what one visitor may set off.
func (s *Side) holdBack(r *http.Request, f *filling, goes []store.Letter) error {
	var answered []*store.Letter
	for i := range goes {
		if l := &goes[i]; l.Kind != store.Hook && l.Answered && l.State == store.Waiting {
			answered = append(answered, l)
		}
	}
	if len(answered) == 0 {
		return nil
	}
	n, err := s.store.CountBy(r.Context(), f.key("letters", r), s.now().Truncate(time.Hour), len(answered))
	if err != nil || n <= lettersAVisitor {
		return err
	}
	for _, l := range answered {
		l.State, l.Answer = store.Held, "On hold: one visitor caused more than 200 e-mails in one hour. Press “Let it go” to send this e-mail."
	}
	return nil
}

// errMet is for a change of which somebody else has changed the same, too; errUnfit for one
// that can't be taken together with what others changed.
var (
	errMet   = errors.New("the response was changed meanwhile")
	errUnfit = errors.New("the changes of several together are not accepted")
)

// merged is what is stored of a page whose response somebody else has changed since: the
// page's own changes on what is stored now.
func (f *filling) merged(mine, now store.Response) (engine.Stored, error) {
	m, err := f.program.Merge(f.base, mine.Answers, now.Answers, f.out, fill.Decided(f.posted))
	if err != nil {
		return engine.Stored{}, err
	}
	f.touched = m.Changed
	if len(m.Clashes) > 0 {
		f.clashes = fill.Clashes(f.program, m.Clashes, f.since)
		for i, c := range f.clashes { // who of the office it was is nobody's business here
			by := f.words.Say("the office")
			if c.By == "" {
				by = f.words.Say("you, on another page")
			}
			f.clashes[i].By = by
		}
		return engine.Stored{}, errMet
	}
	in := f.input
	in.Prior, in.Answers = m.Prior, m.Answers
	out := f.program.Run(in)
	if out.JudgedBy(f.out); !out.Accepted {
		return engine.Stored{}, errUnfit
	}
	return out.ToStore()
}

// goOnFrom shows the page again with what others changed and the respondent's own changes,
// since together they are not accepted as they are.
func (s *Side) goOnFrom(ctx context.Context, f *filling, again answer) (answer, error) {
	f.ticket.Since = ""
	fill.Untouched(f.posted, f.touched)
	if err := s.prior(ctx, f); err != nil {
		return again, err
	}
	if err := s.rerun(ctx, f); err != nil {
		return again, err
	}
	again.judged, again.notice = true, f.words.Say("While this page was open, somebody else has changed something. Please look at it once more.")
	if faulty := f.out.FirstFaultyPage(); faulty != "" {
		again.at = faulty
	}
	return again, nil
}

// cameOf says what a respondent meets whose response came to the store.
func (s *Side) cameOf(ctx context.Context, f *filling, again answer, response store.Response, got store.Reception) (answer, error) {
	switch got {
	case store.Erased:
		return again, erased
	case store.Withdrawn:
		return again, withdrawn
	case store.Full:
		f.out.Open = engine.Full
		return again, nil
	case store.TooOften:
		return f.tooMany(again), nil
	case store.ChangedTooOften:
		again.notice = f.words.Say("This was changed very often; it can’t be changed again. Please tell whoever runs this form.")
		return again, nil
	case store.SentBefore: // a page that came twice, unless it holds other answers
		before, err := s.of(f).ResponseOf(ctx, f.ticket.Filling)
		if err == nil && !engine.SameAnswers(before.Answers, response.Answers) {
			return answer{kind: sentBefore, before: &before}, nil
		}
		return answer{kind: sent, twice: true}, err
	}
	return answer{kind: sent}, nil
}

// response is what is stored of an outcome.
func (f *filling) response() (store.Response, error) {
	response := store.Response{
		WorkspaceID: f.ticket.Workspace, FormID: f.ticket.Form, Edition: f.ticket.Edition, Parameters: f.ticket.Params,
		ReceivedAt: f.input.At, Filling: f.ticket.Filling, Language: f.ticket.Language, Judge: f.ticket.Edition,
	}
	if f.liveEdition != 0 {
		response.Judge = f.liveEdition
	}
	if f.ticket.Link > 0 {
		response.LinkID = &f.ticket.Link
	}
	stored, err := f.out.ToStore()
	response.Answers, response.Labels, response.Uploads, response.Takes = stored.Answers, stored.Labels, stored.Files, stored.Takes
	if f.ticket.Response == "" {
		response.Goes = notify.Letters(response.Edition, response, f.out.GoesOut(), f.input.At)
		response.ConfirmBy = f.out.ConfirmBy()
	}
	return response, err
}

// held reports whether a sending is held back: by a doubt that asks once more, or since
// too much was sent; again says which. Where nothing else is to be looked at, sendings
// are counted as they are stored.
func (s *Side) held(r *http.Request, f *filling, again *answer) (bool, error) {
	notice, err := s.doubt(r, f)
	if err != nil || notice == "" && f.ticket.Response == "" {
		return false, err
	}
	n, err := s.store.CountBy(r.Context(), f.key("send", r), s.now(), weighed(sizeOf(f.posted)))
	switch {
	case err != nil:
		return true, err
	case n > sendsAMinute:
		*again = f.tooMany(*again)
		return true, nil
	}
	again.notice = notice
	return notice != "", nil
}

// of is what belongs to a filling's form.
func (s *Side) of(f *filling) store.InForm { return s.store.In(f.ticket.Workspace).Form(f.ticket.Form) }

// sizeOf is how many bytes fields hold.
func sizeOf(fields url.Values) (size int) {
	for name, values := range fields {
		size += len(name) + len(strings.Join(values, ""))
	}
	return size
}

// key is what a limit counts by: what is done, the form and the visitor's address.
func (f *filling) key(what string, r *http.Request) string {
	return what + ":" + strconv.FormatInt(int64(f.ticket.Form), 10) + ":" + ui.Visitor(r)
}

// aPart is how many bytes count for one sending; more count for several.
const aPart = 64 << 10

// weight is for how many sendings what was sent counts, so that limits by number are
// limits by bytes too.
func weight(sent []byte) int { return weighed(len(sent)) }

func weighed(bytes int) int { return 1 + bytes/aPart }

func (f *filling) tooMany(again answer) answer {
	again.status = http.StatusTooManyRequests
	again.notice = f.words.Say(tooMuchNotice)
	return again
}

// quick reports whether a filling was sent sooner than anyone fills one in. Where the
// clock was set back meanwhile nobody knows.
func (s *Side) quick(f *filling) bool {
	took := s.now().Sub(time.Unix(f.ticket.Begun, 0))
	return took >= 0 && took < s.least
}

// doubt asks once more where a program rather than a person may be at work; a
// person sends again and is through, except where the form's own question is
// answered wrong.
func (s *Side) doubt(r *http.Request, f *filling) (notice string, err error) {
	say := f.words.Say
	if notice, err = s.guarded(r, f); notice != "" || err != nil {
		return notice, err
	}
	switch {
	case f.posted.Get(trap) != "":
		f.posted.Del(trap)
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
		return f.words.
				Say("“%s” was answered wrong too often from here. Your answers are still here; please wait a minute and send again.", g.Question),
			nil
	case !g.Right(f.posted.Get("_guard")):
		return f.words.Say("The answer to “%s” is not right yet. Your answers are still here.", g.Question), nil
	}
	return "", s.store.Uncount(r.Context(), key, at)
}

// sentElsewhere is the response that this browser has sent before, if it says that
// it has; the id of its filling is known only to who sent it. It is nil in a change
// of a response, and for a filling that it names itself.
func (s *Side) sentElsewhere(ctx context.Context, f *filling) (*store.Response, error) {
	sent := f.posted.Get(sentField)
	if sent == "" || sent == f.ticket.Filling || f.ticket.Response != "" {
		return nil, nil
	}
	before, err := s.store.In(f.ticket.Workspace).Form(f.ticket.Form).ResponseOf(ctx, sent)
	if err == store.ErrNotFound {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &before, nil
}
