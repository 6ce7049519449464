package notify

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"lazo/core/engine"
	"lazo/store"
)

// Letters are what is written to the outbox of what goes out of a response as it is stored,
// by an edition: one for each address, and one for each program that is told. One that has
// nowhere to go is noted.
func Letters(edition int, r store.Response, going engine.Going, at time.Time) []store.Letter {
	out := tellings(edition, r.Answers, going.Hooks, at)
	for _, l := range going.Letters {
		one := store.Letter{
			Edition: edition, Message: l.Key, Name: l.Name, ReplyTo: l.ReplyTo, Subject: l.Subject, Body: l.Body,
			Attach:   l.Attach,
			Language: r.Language, Reason: reason(l), Timed: l.Timed, State: store.Waiting, DueAt: at, MadeAt: at, Became: l.Goes,
		}
		if l.At != nil {
			one.DueAt = *l.At
		}
		for _, to := range l.To {
			one.Recipient, one.Answered = to, slices.Contains(l.Answered, to)
			out = append(out, one)
		}
		if len(l.To) == 0 && l.Goes {
			one.State, one.EndedAt, one.Answer = store.Dropped, &at, NoAddress
			out = append(out, one)
		}
	}
	return out
}

func tellings(edition int, answers []byte, told []engine.Telling, at time.Time) (out []store.Letter) {
	for _, t := range told {
		why := "Told always."
		if said := t.Why.Told(); said != "" {
			why = "Told because " + said + "."
		}
		out = append(out, store.Letter{Kind: store.Hook, Edition: edition, Message: t.Hook.Key, Name: t.Hook.Key,
			Recipient: t.Hook.URL,
			Subject:   t.Event, Body: string(answers), Reason: why, State: store.Waiting, DueAt: at, MadeAt: at, Became: true})
	}
	return out
}

// OfDeletion is what programs are told when a response is deleted: that, and nothing of
// what it held.
func OfDeletion(
	ctx context.Context, programs Programs, edition int, r store.Response, at time.Time,
) ([]store.Letter, error) {
	p, err := programs.ProgramIn(ctx, r.EditionID(edition), r.Language)
	if err != nil || r.ConfirmBy != nil {
		return nil, err
	}
	told, err := p.ToldOfDeletion(engine.Submitted{Answers: r.Answers, Parameters: r.Parameters, Received: r.ReceivedAt},
		at)
	out := tellings(edition, fmt.Appendf(nil, `{"response": %q}`, r.ID), told, at)
	for i := range out {
		out[i].Reason = "Told that a response was deleted."
	}
	return out, err
}

// NoAddress is said of a letter that has nobody to go to.
const NoAddress = "There was no address to send it to."

// reason says in a sentence why a letter goes.
func reason(l engine.Letter) string {
	told := l.Why.Told()
	switch {
	case l.Key == engine.ConfirmKey:
		return "Sent since the address is to be confirmed."
	case told == "" && l.Timed:
		return "Sent always, at its moment."
	case told == "":
		return "Sent always."
	}
	return "Sent because " + strings.TrimSuffix(told, ".") + "."
}

// Follow gives a response, as it is to be stored, what follows from it: from its receipt if
// before is nil, or from its change from the answers before. The letters are those of an
// edition, which is the live one if there is one: who changes a letter means it for all
// responses from then on. A change that comes with another address has that asked for, and
// sends nothing else before it is confirmed.
func Follow(
	ctx context.Context, programs Programs, edition int, before []byte, next *store.Response, at time.Time,
	mode engine.Mode,
) error {
	next.Goes = nil
	now := engine.Submitted{Answers: next.Answers, Parameters: next.Parameters, Received: next.ReceivedAt}
	if before != nil && (next.ConfirmBy != nil || next.ConfirmedAt != nil) {
		// by which the link is looked at, too
		own, err := programs.ProgramIn(ctx, next.EditionID(next.Edition), next.Language)
		if err != nil {
			return err
		}
		asks, until, anew, err := own.AskedAnew(before, now, at)
		switch {
		case err != nil:
			return err
		case anew:
			next.ConfirmBy = &until
			next.Goes = Letters(next.Edition, *next, engine.Going{Letters: []engine.Letter{asks}}, at)
			return nil
		case next.ConfirmBy != nil:
			return nil
		}
	}
	p, err := programs.ProgramIn(ctx, next.EditionID(edition), next.Language)
	if err != nil {
		return err
	}
	going, err := p.GoesOut(before, now, at, mode)
	next.Goes = Letters(edition, *next, going, at)
	return err
}

// Confirmed are the letters of a response whose address is confirmed now: of its receipt, or
// of the change from the answers before.
func Confirmed(
	ctx context.Context, programs Programs, edition int, before []byte, now store.Response, at time.Time, mode engine.Mode,
) ([]store.Letter, error) {
	now.ConfirmBy, now.ConfirmedAt = nil, nil // nothing is asked for
	err := Follow(ctx, programs, edition, before, &now, at, mode)
	return now.Goes, err
}
