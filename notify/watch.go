package notify

import (
	"errors"
	"log/slog"
	"sync"

	"lazo/store"
)

// unreachable is for a mail server that can't be used at all, whatever is handed to it.
type unreachable struct{ error }

func (u unreachable) Unwrap() error { return u.error }

// watch says once that the mail server can't be used, and once that it can again.
type watch struct {
	mu   sync.Mutex
	gone bool
}

// met notes what came of using the mail server.
func (w *watch) met(err error) {
	var away unreachable
	gone := errors.As(err, &away)
	w.mu.Lock()
	was := w.gone
	w.gone = gone
	w.mu.Unlock()
	switch {
	case gone && !was:
		slog.Warn("the mail server can’t be used; e-mails wait, and are tried again", "err", away.error)
	case was && !gone:
		slog.Info("the mail server can be used again")
	}
}

// count tells how an attempt ended.
func (o *Outgoing) count(kind store.LetterKind, became store.LetterState) {
	if o.o.Counted != nil {
		o.o.Counted(kind, became)
	}
}
