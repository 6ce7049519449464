package respond

import (
	"context"
	"log/slog"
	"net/http"
	"sync"
	"time"

	"lazo/store"
	"lazo/web/fill"
	"lazo/web/fill/posted"
)

// farField is the page that a filling has come to last for the first time; "" before
// anything was filled in. It travels with the page, so that nothing is kept of anybody.
const farField = "_far"

// progress counts how far fillings come. Steps are put together for a moment, so that
// nobody waits for them; those of the last moment go with the process.
type progress struct {
	store *store.Store
	mu    sync.Mutex
	steps []store.Step
}

// progressEvery is for how long steps are put together.
const progressEvery = 300 * time.Millisecond

func (p *progress) add(step store.Step) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if len(p.steps) == 0 {
		time.AfterFunc(progressEvery, p.flush)
	}
	p.steps = append(p.steps, step)
}

func (p *progress) flush() {
	p.mu.Lock()
	steps := p.steps
	p.steps = nil
	p.mu.Unlock()
	ctx, cancel := context.WithTimeout(context.Background(), 10*time.Second)
	defer cancel()
	if err := p.store.AdvanceAll(ctx, steps); err != nil {
		slog.Warn("how far people come was not counted", "steps", len(steps), "err", err)
	}
}

// begunOnce is for how long a filling is counted once, however often it is said to be begun.
const begunOnce = 7 * 24 * time.Hour

// begun counts a filling once something is filled in; its page asks once.
func (s *Side) begun(w http.ResponseWriter, r *http.Request) error {
	fields, err := s.posted(w, r)
	if err != nil {
		return err
	}
	keys, err := s.keys(r.Context())
	if err != nil {
		return err
	}
	t, err := s.tickets.open(keys, fields.Get(posted.TokenField), s.now())
	if err != nil || t.Response != "" {
		w.WriteHeader(http.StatusNoContent)
		return nil
	}
	p, err := s.programs.Get(r.Context(), t.EditionID(t.Edition))
	if err != nil {
		return err
	}
	n, err := s.store.CountWithin(r.Context(), "long begun "+t.Filling, begunOnce, s.now())
	if err != nil {
		return err
	}
	if page := fields.Get(posted.PageField); n == 1 && p.Form.Page(page) != nil {
		s.progress.add(store.Step{Form: t.Form, To: page, Day: s.now().UTC()})
	}
	w.WriteHeader(http.StatusNoContent)
	return nil
}

// advanced counts what a posted page came to; the page that comes back tells it.
func (s *Side) advanced(j judgement, a answer) judgement {
	from := j.page()
	if j.ticket.Response != "" || j.program.Form.Page(from) == nil {
		return j
	}
	step := func(from, to string) {
		s.progress.add(store.Step{Form: j.ticket.Form, From: from, To: to, Day: s.now().UTC()})
	}
	far := j.fields.Get(farField)
	if j.program.Form.Page(far) == nil { // nothing told that it was begun
		far = from
		step("", far)
	}
	switch {
	case a.kind == sent && !a.twice:
		step(far, "")
	case a.kind == onForm && a.at != "" && a.at != from && !fill.Seen(j.fields, a.at):
		step(far, a.at)
		far = a.at
	}
	return j.set(farField, far)
}
