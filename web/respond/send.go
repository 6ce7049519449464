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
func (s *Side) send(r *http.Request, j judgement, another bool) (judgement, answer, error) {
	again := answer{} // the page to come back to
	if route := j.out.Route(); len(route) > 0 {
		again.at = route[len(route)-1]
	}
	if !j.out.Accepted {
		again.judged, again.notice = true, j.words.Say("This can’t be sent yet.")
		return j, again, nil
	}
	if held, a, err := s.held(r, j, again); held || err != nil {
		return j.set(trap, ""), a, err
	}
	if another {
		j.ticket.Filling = newFilling()
	} else if before, err := s.sentElsewhere(r.Context(), j.filling); before != nil || err != nil {
		return j, answer{kind: sentBefore, before: before}, err
	}
	// A signature becomes a file only now: until then it can go on being made.
	fields, signed, err := s.sign(r.Context(), j.ticket, j.program.Form, j.fields)
	if err != nil {
		return j, again, err
	}
	if signed {
		f, err := s.fillingWith(r.Context(), j.filling, fields)
		if err != nil {
			return j, again, err
		}
		j = s.judge(f, j.opening)
	}
	return s.receive(r, j, again)
}

// set is a judgement in which a field of the page that comes back says something else, which
// is no answer.
func (j judgement) set(field, value string) judgement {
	j.filling = j.filling.set(field, value)
	return j
}

// receive stores what is accepted; again is the page to come back to if it can't be. What
// changed while it was on its way, another edition that went live or a place that went,
// has it judged anew.
func (s *Side) receive(r *http.Request, j judgement, again answer) (judgement, answer, error) {
	for range judgings {
		if !j.out.Accepted {
			again.judged = true
			if faulty := j.out.FirstFaultyPage(); faulty != "" {
				again.at = faulty
			}
			return j, again, nil
		}
		response, err := j.response()
		if err != nil {
			return j, again, err
		}
		got, met, err := s.keep(r, j, response)
		switch {
		case errors.Is(err, errMet):
			j.clashes = met.clashes
			again.status, again.notice = http.StatusConflict,
				j.words.Say("While this page was open, somebody else has changed the same. Nothing of yours is lost.")
			return j, again, nil
		case errors.Is(err, errUnfit):
			return s.goOnFrom(r.Context(), j, met, again)
		case err != nil:
			return j, again, err
		case got != store.Superseded && got != store.NoPlaces:
			return s.cameOf(r.Context(), j, again, response, got)
		}
		if j, err = s.judgeAnew(r.Context(), j); err != nil {
			return j, again, err
		}
	}
	again.notice = j.words.Say(unreachableNotice)
	return j, again, nil
}

// keep hands a response, or the change of one, to the store; met is what it met there that
// others changed.
func (s *Side) keep(
	r *http.Request, j judgement, response store.Response,
) (got store.Reception, met meeting, err error) {
	if j.ticket.Response != "" {
		got, err = s.inForm(j.ticket).Amend(r.Context(), j.ticket.Response, nil, j.at,
			func(now store.Response) (store.Response, error) {
				next := response
				if now.Stamp() != j.ticket.Since {
					var stored engine.Stored
					var err error
					if stored, met, err = s.merged(j, response, now); err != nil {
						return now, err
					}
					next.Answers, next.Labels, next.Uploads, next.Takes = stored.Answers, stored.Labels, stored.Files, stored.Takes
				}
				next.ConfirmBy, next.ConfirmedAt = now.ConfirmBy, now.ConfirmedAt
				var err error
				if next.Answers, err = j.program.Beside(next.Answers, now.Answers); err != nil {
					return next, err
				}
				err = notify.Follow(r.Context(), s.programs, response.Judge, now.Answers, &next, j.at, engine.Revisit)
				return next, err
			})
		return got, met, err
	}
	if err := s.holdBack(r, j, response.Goes); err != nil {
		return 0, met, err
	}
	got, err = s.store.AddBounded(r.Context(), response, store.Bounds{
		Responses: j.opening.limit, Sender: j.key("send", r), Weight: weight(response.Answers), Most: sendsAMinute,
	})
	return got, met, err
}

// lettersAVisitor is how many letters to addresses that were answered one visitor sets off at
// a form within an hour; what is beyond is held until the office lets it go, so that nobody
// uses up what the form may send for everybody else.
const lettersAVisitor = 200

// holdBack holds letters back that are beyond what one visitor may set off.
func (s *Side) holdBack(r *http.Request, j judgement, goes []store.Letter) error {
	var answered []*store.Letter
	for i := range goes {
		if l := &goes[i]; l.Kind != store.Hook && l.Answered && l.State == store.Waiting {
			answered = append(answered, l)
		}
	}
	if len(answered) == 0 {
		return nil
	}
	n, err := s.store.CountBy(r.Context(), j.key("letters", r), s.now().Truncate(time.Hour), len(answered))
	if err != nil || n <= lettersAVisitor {
		return err
	}
	for _, l := range answered {
		l.State, l.Answer = store.Held,
			"On hold: one visitor caused more than 200 e-mails in one hour. Press “Let it go” to send this e-mail."
	}
	return nil
}

// errMet is for a change of which somebody else has changed the same, too; errUnfit for one
// that can't be taken together with what others changed.
var (
	errMet   = errors.New("the response was changed meanwhile")
	errUnfit = errors.New("the changes of several together are not accepted")
)

// meeting is what a change meets that others have changed since its page was opened.
type meeting struct {
	own     map[string]any // what the page itself changed
	clashes []fill.Clash   // what others changed, too
}

// merged is what is stored of a page whose response somebody else has changed since: the
// page's own changes on what is stored now.
func (s *Side) merged(j judgement, mine, now store.Response) (engine.Stored, meeting, error) {
	m, err := j.program.Merge(j.change.answers, mine.Answers, now.Answers, j.out, fill.Decided(j.fields))
	if err != nil {
		return engine.Stored{}, meeting{}, err
	}
	met := meeting{own: m.Changed}
	if len(m.Clashes) > 0 {
		met.clashes = fill.Clashes(j.program, m.Clashes, j.change.since)
		for i, c := range met.clashes { // who of the office it was is nobody's business here
			by := j.words.Say("the office")
			if c.By == "" {
				by = j.words.Say("you, on another page")
			}
			met.clashes[i].By = by
		}
		return engine.Stored{}, met, errMet
	}
	f := j.filling
	f.input.Prior, f.input.Answers = m.Prior, m.Answers
	together := s.judge(f, opening{program: f.program})
	if together.out.JudgedBy(j.out); !together.out.Accepted {
		return engine.Stored{}, met, errUnfit
	}
	stored, err := together.out.ToStore()
	return stored, met, err
}

// goOnFrom shows the page again with what others changed and the respondent's own changes,
// since together they are not accepted as they are.
func (s *Side) goOnFrom(ctx context.Context, j judgement, met meeting, again answer) (judgement, answer, error) {
	q := request{ticket: j.ticket, posted: fill.Untouched(j.fields, met.own), at: j.at}
	q.ticket.Since = ""
	f, err := s.read(ctx, q)
	if err != nil {
		return j, again, err
	}
	j = s.judge(f, j.opening)
	again.judged, again.notice = true,
		j.words.Say("While this page was open, somebody else has changed something. Please look at it once more.")
	if faulty := j.out.FirstFaultyPage(); faulty != "" {
		again.at = faulty
	}
	return j, again, nil
}

// cameOf says what a respondent meets whose response came to the store.
func (s *Side) cameOf(
	ctx context.Context, j judgement, again answer, response store.Response, got store.Reception,
) (judgement, answer, error) {
	switch got {
	case store.Erased:
		return j, again, erased
	case store.Withdrawn:
		return j, again, withdrawn
	case store.Full:
		by := j.opening
		by.responses = by.limit
		return s.judge(j.filling, by), again, nil
	case store.TooOften:
		return j, j.tooMany(again), nil
	case store.ChangedTooOften:
		again.notice = j.words.Say("This was changed very often; it can’t be changed again. Please tell whoever runs this form.")
		return j, again, nil
	case store.SentBefore: // a page that came twice, unless it holds other answers
		before, err := s.inForm(j.ticket).ResponseOf(ctx, j.ticket.Filling)
		if err == nil && !engine.SameAnswers(before.Answers, response.Answers) {
			return j, answer{kind: sentBefore, before: &before}, nil
		}
		return j, answer{kind: sent, twice: true}, err
	}
	return j, answer{kind: sent}, nil
}

func (j judgement) response() (store.Response, error) {
	response := store.Response{
		WorkspaceID: j.ticket.Workspace, FormID: j.ticket.Form, Edition: j.ticket.Edition, Parameters: j.ticket.Params,
		ReceivedAt: j.at, Filling: j.ticket.Filling, Language: j.ticket.Language, Judge: j.ticket.Edition,
	}
	if j.opening.edition != 0 {
		response.Judge = j.opening.edition
	}
	if j.ticket.Link > 0 {
		response.LinkID = &j.ticket.Link
	}
	stored, err := j.out.ToStore()
	response.Answers, response.Labels, response.Uploads, response.Takes = stored.Answers, stored.Labels, stored.Files,
		stored.Takes
	if j.ticket.Response == "" {
		response.Goes = notify.Letters(response.Edition, response, j.out.GoesOut(), j.at)
		response.ConfirmBy = j.out.ConfirmBy()
	}
	return response, err
}

// held reports whether a sending is held back: by a doubt that asks once more, or since
// too much was sent; the answer is again with what is said. Where nothing else is to be looked
// at, sendings are counted as they are stored.
func (s *Side) held(r *http.Request, j judgement, again answer) (bool, answer, error) {
	notice, err := s.doubt(r, j.filling)
	if err != nil || notice == "" && j.ticket.Response == "" {
		return false, again, err
	}
	n, err := s.store.CountBy(r.Context(), j.key("send", r), s.now(), weighed(sizeOf(j.fields)))
	switch {
	case err != nil:
		return true, again, err
	case n > sendsAMinute:
		return true, j.tooMany(again), nil
	}
	again.notice = notice
	return notice != "", again, nil
}

// sizeOf is how many bytes fields hold.
func sizeOf(fields url.Values) (size int) {
	for name, values := range fields {
		size += len(name) + len(strings.Join(values, ""))
	}
	return size
}

// key is what a limit counts by: what is done, the form and the visitor's address.
func (f filling) key(what string, r *http.Request) string {
	return what + ":" + strconv.FormatInt(int64(f.ticket.Form), 10) + ":" + ui.Visitor(r)
}

// aPart is how many bytes count for one sending; more count for several.
const aPart = 64 << 10

// weight is for how many sendings what was sent counts, so that limits by number are
// limits by bytes too.
func weight(sent []byte) int { return weighed(len(sent)) }

func weighed(bytes int) int { return 1 + bytes/aPart }

func (f filling) tooMany(again answer) answer {
	again.status = http.StatusTooManyRequests
	again.notice = f.words.Say(tooMuchNotice)
	return again
}

// quick reports whether a filling was sent sooner than anyone fills one in. Where the
// clock was set back meanwhile nobody knows.
func (s *Side) quick(f filling) bool {
	took := s.now().Sub(time.Unix(f.ticket.Begun, 0))
	return took >= 0 && took < s.least
}

// doubt asks once more where a program rather than a person may be at work; a
// person sends again and is through, except where the form's own question is
// answered wrong.
func (s *Side) doubt(r *http.Request, f filling) (notice string, err error) {
	say := f.words.Say
	if notice, err = s.guarded(r, f); notice != "" || err != nil {
		return notice, err
	}
	switch {
	case f.fields.Get(trap) != "":
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
func (s *Side) guarded(r *http.Request, f filling) (notice string, err error) {
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
	case !g.Right(f.fields.Get("_guard")):
		return f.words.Say("The answer to “%s” is not right yet. Your answers are still here.", g.Question), nil
	}
	return "", s.store.Uncount(r.Context(), key, at)
}

// sentElsewhere is the response that this browser has sent before, if it says that
// it has; the id of its filling is known only to who sent it. It is nil in a change
// of a response, and for a filling that it names itself.
func (s *Side) sentElsewhere(ctx context.Context, f filling) (*store.Response, error) {
	sent := f.fields.Get(sentField)
	if sent == "" || sent == f.ticket.Filling || f.ticket.Response != "" {
		return nil, nil
	}
	before, err := s.inForm(f.ticket).ResponseOf(ctx, sent)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &before, nil
}
