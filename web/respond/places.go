package respond

import (
	"context"
	"errors"
	"slices"
	"time"

	"lazo/cache"
	"lazo/core/engine"
	"lazo/store"
)

// takenThen is how many places of a form were taken a moment ago.
type takenThen struct {
	taken engine.Taken
	asked time.Time
}

// Bounds of what is remembered of that, in bytes, and for how long it will do where
// something is sent: no place is given twice whatever is remembered, since the database
// takes it with the response; only who meets that is told what is taken now.
const (
	maxTaken   = 4 << 20
	takenHolds = time.Second
)

func newTaken() *cache.Cache[store.FormID, takenThen] {
	return cache.New(maxTaken, func(_ store.FormID, t takenThen) int {
		n := 100
		for _, choices := range t.taken {
			n += 100 * (1 + len(choices))
		}
		return n
	})
}

// places finds out how many places are taken, if the form has any; what was known a
// moment ago will do if it is only to be sent.
func (s *Side) places(ctx context.Context, f filling, sent bool) (engine.Taken, error) {
	if !f.program.HasPlaces() {
		return nil, nil
	}
	if then, ok := s.taken.Get(f.ticket.Form); ok && sent && s.now().Sub(then.asked) < takenHolds {
		return then.taken, nil
	}
	taken, err := s.inForm(f.ticket).Taken(ctx)
	if err != nil {
		return nil, err
	}
	s.taken.Add(f.ticket.Form, takenThen{taken, s.now()})
	return taken, nil
}

// ownPlaces is for a page that is sent twice: where its places are gone, it may have them
// itself.
func (s *Side) ownPlaces(ctx context.Context, j judgement) (judgement, error) {
	faulty := j.out.FirstFaultyPage()
	lost := func(f engine.Finding) bool { return f.Problem.Code == engine.NoPlaces }
	if faulty == "" || j.ticket.Response != "" || !slices.ContainsFunc(j.out.Findings(faulty), lost) {
		return j, nil
	}
	_, err := s.inForm(j.ticket).ResponseOf(ctx, j.ticket.Filling)
	if errors.Is(err, store.ErrNotFound) {
		return j, nil
	}
	if err != nil {
		return j, err
	}
	f := j.filling
	f.input.Taken = nil
	return s.judge(f, j.opening), nil
}
