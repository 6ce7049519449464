// Package turns lets many wait for few places, fairly: whoever asks for much waits for
// what they asked for themselves, and others pass by.
package turns

import (
	"context"
	"errors"
	"sync"
)

// ErrMany is told who waits for very much already.
var ErrMany = errors.New("very much is being waited for already")

// Who waits: a member of a workspace. Zeros are what nobody in particular asked for.
type Who struct{ Workspace, Member int64 }

// Queue gives out places. It is safe for use by many goroutines.
//
// Of those who wait, who comes next is of the workspace that holds the fewest places,
// then the member who holds the fewest, then who was given one longest ago, then who has
// waited longest. No workspace holds the last place, and no member more than half of
// them, where there is more than one: so the next who comes finds one.
type Queue struct {
	places, workspace, member, waits int

	mu      sync.Mutex
	held    map[Who]int // by member, and by workspace with no member
	last    map[Who]int // the turn in which a place was given last, of who is held or waits
	turn    int
	taken   int
	waiting []*waiter
}

type waiter struct {
	who   Who
	given chan struct{}
}

// New is a queue for so many places, at least one, in which a member waits for at most so
// many at once.
func New(places, waits int) *Queue {
	q := &Queue{places: max(1, places), waits: waits, held: map[Who]int{}, last: map[Who]int{}}
	q.workspace, q.member = max(1, q.places-1), max(1, q.places/2)
	return q
}

// Take waits for a place and gives what gives it back. The error is the context's, or
// [ErrMany].
func (q *Queue) Take(ctx context.Context, who Who) (leave func(), err error) {
	w := &waiter{who, make(chan struct{})}
	if err := q.join(w); err != nil {
		return nil, err
	}
	select {
	case <-w.given:
		return sync.OnceFunc(func() { q.leave(who) }), nil
	case <-ctx.Done():
		q.forget(w)
		return nil, ctx.Err()
	}
}

// Waiting is how many wait.
func (q *Queue) Waiting() int {
	q.mu.Lock()
	defer q.mu.Unlock()
	return len(q.waiting)
}

func (q *Queue) join(w *waiter) error {
	q.mu.Lock()
	defer q.mu.Unlock()
	n := 0
	for _, other := range q.waiting {
		if other.who == w.who {
			n++
		}
	}
	if n >= q.waits {
		return ErrMany
	}
	q.waiting = append(q.waiting, w)
	q.give()
	return nil
}

func (q *Queue) leave(who Who) {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.taken--
	for _, one := range []Who{who, {Workspace: who.Workspace, Member: whole}} {
		if q.held[one]--; q.held[one] == 0 {
			delete(q.held, one)
		}
	}
	q.give()
	if q.taken == 0 && len(q.waiting) == 0 {
		clear(q.last) // nobody is there to be fair to
	}
}

// forget takes somebody who has left out of the queue; the place of who had been given one
// meanwhile goes to the next.
func (q *Queue) forget(w *waiter) {
	q.mu.Lock()
	for i, other := range q.waiting {
		if other == w {
			q.waiting = append(q.waiting[:i], q.waiting[i+1:]...)
			q.mu.Unlock()
			return
		}
	}
	q.mu.Unlock()
	q.leave(w.who)
}

// whole stands for all members of a workspace.
const whole = -1

// give gives places as long as there are some, and somebody may have one.
func (q *Queue) give() {
	for q.taken < q.places {
		next := -1
		for i, w := range q.waiting {
			if q.may(w.who) && (next < 0 || q.before(w.who, q.waiting[next].who)) {
				next = i
			}
		}
		if next < 0 {
			return
		}
		w := q.waiting[next]
		q.waiting = append(q.waiting[:next], q.waiting[next+1:]...)
		q.taken++
		q.turn++
		for _, one := range []Who{w.who, {Workspace: w.who.Workspace, Member: whole}} {
			q.held[one]++
			q.last[one] = q.turn
		}
		close(w.given)
	}
}

func (q *Queue) may(who Who) bool {
	return q.held[Who{who.Workspace, whole}] < q.workspace && q.held[who] < q.member
}

// before reports whether a comes before b, who has waited longer.
func (q *Queue) before(a, b Who) bool {
	of, than := Who{a.Workspace, whole}, Who{b.Workspace, whole}
	for _, pair := range [][2]int{
		{q.held[of], q.held[than]}, {q.last[of], q.last[than]}, {q.held[a], q.held[b]}, {q.last[a], q.last[b]},
	} {
		if pair[0] != pair[1] {
			return pair[0] < pair[1]
		}
	}
	return false
}
