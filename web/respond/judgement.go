package respond

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"lazo/core/engine"
	"lazo/store"
	"lazo/web/fill"
	"lazo/web/fill/posted"
)

// opening is what says whether a form takes responses: the edition that is live or, where that
// was not looked up, the one of the page.
type opening struct {
	program   *engine.Program
	edition   int    // the live one; 0 if it was not looked up
	offline   bool   // the form was taken offline
	message   string // what is said then, "" for the usual
	limit     int    // of the responses that it takes, 0 for any number
	responses int    // that there are, if it takes so many only
}

// judgement is what comes of a filling: whether its form takes it, and the outcome. Nothing
// that is answered changes it.
type judgement struct {
	filling
	opening opening
	out     *engine.Outcome
	clashes []fill.Clash // answers that others changed, too
}

// judge runs the form on a filling. It needs no page, and asks nobody.
func (s *Side) judge(f filling, by opening) judgement {
	begun := time.Now()
	in := f.input
	in.Offline, in.Responses = by.offline, by.responses
	out := f.program.Run(in)
	if s.counts != nil {
		s.counts(time.Since(begun))
	}
	if by.edition != 0 && by.edition != f.ticket.Edition {
		in.Answers, in.Prior = by.program.AnswersFrom(posted.Posting{Fields: f.fields}), nil
		out.JudgedBy(by.program.Run(in))
	}
	return judgement{filling: f, opening: by, out: out}
}

// errGone is for a form that was deleted since its page was opened.
var errGone = fmt.Errorf("the form is gone: %w", store.ErrNotFound)

// liveOpening looks the live edition up.
func (s *Side) liveOpening(ctx context.Context, f filling) (opening, error) {
	live, err := s.inForm(f.ticket).Live(ctx)
	if errors.Is(err, store.ErrNotFound) {
		return opening{}, errGone
	}
	if err != nil {
		return opening{}, err
	}
	return s.openingBy(ctx, f, live)
}

// openingBy is the opening by what was found to be live.
func (s *Side) openingBy(ctx context.Context, f filling, live store.Live) (opening, error) {
	by := opening{program: f.program, edition: live.Edition, offline: live.Offline, message: live.Message}
	if live.Edition != f.ticket.Edition {
		p, err := s.programs.Get(ctx, f.ticket.EditionID(live.Edition))
		if err != nil {
			return by, err
		}
		if slices.Contains(p.Form.Languages(), f.ticket.Language) {
			if p, err = s.programs.ProgramIn(ctx, f.ticket.EditionID(live.Edition), f.ticket.Language); err != nil {
				return by, err
			}
		}
		by.program = p
	}
	return s.counted(ctx, f, by)
}

// ownOpening has the edition of the page say whether its form takes responses.
func (s *Side) ownOpening(ctx context.Context, f filling) (opening, error) {
	return s.counted(ctx, f, opening{program: f.program})
}

// counted counts the responses that the form has, if it takes so many only.
func (s *Side) counted(ctx context.Context, f filling, by opening) (_ opening, err error) {
	if o := by.program.Form.Opening; o != nil {
		by.limit = o.Limit
	}
	if f.ticket.Response == "" && by.limit != 0 {
		by.responses, err = s.inForm(f.ticket).CountResponses(ctx)
	}
	return by, err
}

// judgeAnew judges by what is live and taken now.
func (s *Side) judgeAnew(ctx context.Context, j judgement) (judgement, error) {
	by, err := s.liveOpening(ctx, j.filling)
	if err != nil {
		return j, err
	}
	f := j.filling
	f.input.Taken, err = s.places(ctx, f, false)
	return s.judge(f, by), err
}

// leaving is a judgement whose page is noted to have been seen.
func (j judgement) leaving(at string) judgement {
	j.fields = fill.Leave(j.program, j.out, j.fields, at)
	return j
}
