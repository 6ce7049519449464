package notify

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"time"

	"github.com/riverqueue/river"
	"github.com/riverqueue/river/rivertype"

	"lazo/core/engine"
	"lazo/store"
)

// delivery is the job of sending one letter. It holds nothing about anybody.
type delivery struct {
	Letter store.LetterID `json:"letter"`
	Round  int            `json:"round"`
}

// Kind names the job.
func (delivery) Kind() string { return "letter" }

// Waits are how long is waited before each further attempt, unless the options say
// otherwise: three days in all.
var Waits = []time.Duration{
	10 * time.Second, 30 * time.Second, time.Minute, 5 * time.Minute, 15 * time.Minute, 30 * time.Minute, time.Hour,
	2 * time.Hour,
	4 * time.Hour, 8 * time.Hour, 8 * time.Hour, 12 * time.Hour, 12 * time.Hour, 24 * time.Hour,
}

type retry []time.Duration

// NextRetry is when a job is tried again.
func (r retry) NextRetry(job *rivertype.JobRow) time.Time {
	return time.Now().Add(r[min(max(job.Attempt, 1), len(r))-1])
}

// tooOld is how long a letter may have been due without anybody who sends: longer, and it
// is held, since it would come as a surprise.
const tooOld = 72 * time.Hour

// worker sends letters.
type worker struct {
	river.WorkerDefaults[delivery]
	office *Outgoing
}

// Work sends one letter, if it is still to be sent.
func (w *worker) Work(ctx context.Context, job *river.Job[delivery]) error {
	return w.office.attend(ctx, job.Args, job.Attempt >= job.MaxAttempts)
}

// telling is the job of telling one program.
type telling struct{ delivery }

// Kind names the job.
func (telling) Kind() string { return "hook" }

// HookWaits are how long is waited before a program is told again: a day in all.
var HookWaits = []time.Duration{
	10 * time.Second, time.Minute, 5 * time.Minute, 15 * time.Minute, time.Hour, 2 * time.Hour, 4 * time.Hour,
	8 * time.Hour, 9 * time.Hour,
}

type teller struct {
	river.WorkerDefaults[telling]
	office *Outgoing
}

// Work tells one program, if it is still to be told.
func (w *teller) Work(ctx context.Context, job *river.Job[telling]) error {
	return w.office.attend(ctx, job.Args.delivery, job.Attempt >= job.MaxAttempts)
}

// NextRetry is when a program is told again.
func (w *teller) NextRetry(job *river.Job[telling]) time.Time {
	return time.Now().Add(HookWaits[min(max(job.Attempt, 1), len(HookWaits))-1])
}

// attend sends one letter, or tells one program, and notes what became of it; last is the
// last attempt at it.
func (o *Outgoing) attend(ctx context.Context, job delivery, last bool) error {
	due := store.Due{ID: job.Letter, Round: job.Round}
	l, r, err := o.store.Claim(ctx, due)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	var state store.LetterState
	var answer string
	over := false
	if l.Attempts == 1 && o.o.Now().Sub(l.DueAt) > tooOld {
		state, answer = store.Held, "It waited for more than three days. Let it go if it still should."
	} else if l.Kind == store.Hook {
		if state, answer, err = o.tell(ctx, l, r); err != nil {
			answer, over = hookSaid(err)
		}
	} else if state, answer, err = o.send(ctx, due, l, r); err != nil {
		answer, over = said(err), permanent(err)
	}
	if err != nil {
		state = store.Waiting
		if over || last {
			state = store.Failed
		} else {
			answer += " It is tried again."
		}
	}
	if state == "" {
		return nil
	}
	if err := o.store.Became(context.WithoutCancel(ctx), due, state, answer, o.o.Now()); err != nil {
		return err
	}
	o.count(l.Kind, state)
	switch state {
	case store.Waiting:
		return errLater
	case store.Failed:
		slog.Warn("something could not be sent", "kind", l.Kind, "id", l.ID, "form", l.FormID)
		return o.tellFailure(context.WithoutCancel(ctx), l, answer)
	}
	return nil
}

// send sends a letter and says what became of it; nothing if it waits for another moment.
func (o *Outgoing) send(
	ctx context.Context, due store.Due, l store.Letter, r store.Response,
) (store.LetterState, string, error) {
	switch {
	case r.WithdrawnAt != nil:
		return store.Dropped, "What it is about was withdrawn.", nil
	case l.Message == engine.ConfirmKey && r.ConfirmBy == nil:
		return store.Dropped, "The address is confirmed already.", nil
	case l.Recipient == "":
		return store.Dropped, NoAddress, nil
	}
	if l.Timed {
		why, moved, err := o.judgeAgain(ctx, &l, r)
		switch {
		case err != nil:
			return "", "", err
		case !moved.IsZero():
			return "", "", o.store.Moved(ctx, due, moved)
		case why != "":
			return store.Dropped, why, nil
		}
	}
	if l.About != "" {
		at, err := o.store.AddressFor(ctx, l.About)
		if err != nil {
			return "", "", fmt.Errorf("making an address that is good once: %w", err)
		}
		if at == "" {
			return store.Dropped, "What it is about was taken back.", nil
		}
		l.Body = strings.ReplaceAll(l.Body, OnceLink, "<"+o.ties.Site+at+">")
	}
	m, err := o.compose(ctx, l, r)
	if err != nil {
		return "", "", err
	}
	err = o.o.Server.Send(ctx, m)
	if o.watch.met(err); err != nil {
		return "", "", err
	}
	return store.Sent, "", nil
}

// judgeAgain judges a letter at its moment: why it does not go after all, or the moment to
// which it moved. Its words become those of now.
func (o *Outgoing) judgeAgain(
	ctx context.Context, l *store.Letter, r store.Response,
) (why string, moved time.Time, err error) {
	edition := l.Edition
	live, err := o.store.InWorkspace(l.WorkspaceID).Form(l.FormID).Live(ctx)
	if err == nil {
		edition = live.Edition
	} else if !errors.Is(err, store.ErrNotFound) {
		return "", moved, err
	}
	p, err := o.ties.Programs.ProgramIn(ctx, l.EditionID(edition), l.Language)
	if err != nil {
		return "", moved, err
	}
	now := o.o.Now()
	going, err := p.GoesOut(nil, engine.Submitted{Answers: r.Answers, Parameters: r.Parameters, Received: r.ReceivedAt},
		now,
		engine.Staff)
	if err != nil {
		return "", moved, err
	}
	i := slices.IndexFunc(going.Letters, func(g engine.Letter) bool { return g.Key == l.Message })
	if i < 0 || !going.Letters[i].Stands {
		return "At its moment it was not called for any more.", moved, nil
	}
	g := going.Letters[i]
	if g.At != nil && g.At.Sub(now) > time.Minute {
		return "", *g.At, nil
	}
	if !slices.Contains(g.To, l.Recipient) {
		return "At its moment it went to another address.", moved, nil
	}
	l.Subject, l.Body, l.ReplyTo, l.Reason, l.Attach = g.Subject, g.Body, g.ReplyTo, reason(g), g.Attach
	return "", moved, o.store.Reworded(ctx, *l)
}
