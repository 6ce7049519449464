package engine

import (
	"slices"
	"time"
)

// Scheduled is a letter with a moment as it stands in the outbox, to one address.
type Scheduled struct {
	Message, Recipient string
	Open               bool // it has not gone yet, and still may
}

// Schedule decides what a change of a response makes of a letter that has a moment, stands
// for one address, and is due: the place in there of the one that moves to it, below 0 if
// there is none, and then whether another begins. It goes once for each time that its
// condition became met; to another address in the place of one that waits; and once if its
// moment became known only now, unless that is past already.
func Schedule(there []Scheduled, message, recipient string, became bool, due, at time.Time) (moves int, begins bool) {
	of := func(s Scheduled) bool { return s.Message == message }
	open := func(s Scheduled) bool { return of(s) && s.Open }
	moves = slices.IndexFunc(there, func(s Scheduled) bool { return open(s) && s.Recipient == recipient })
	if moves >= 0 {
		return moves, false
	}
	return moves, became || slices.ContainsFunc(there, open) || !slices.ContainsFunc(there, of) && due.After(at)
}
