package store

import (
	"context"
	"errors"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
)

// How often is tried whether something can be written, how long that may take, and how
// much it is: more than the room that tables have to spare between what is in them.
const (
	pulseEvery = 10 * time.Second
	pulseFor   = 2 * time.Second
	pulseBytes = 64 << 10
)

// pulse is when it was tried last whether something can be written, and what came of it.
type pulse struct {
	mu    sync.Mutex
	tried time.Time
	err   error
}

// errTaken takes back what was written.
var errTaken = errors.New("it was only tried")

// Ready reports whether the database answers and can be written to: [ErrReadOnly] and
// [ErrNoRoom] if it answers and can't.
func (s *Store) Ready(ctx context.Context) error {
	ctx, cancel := context.WithTimeout(ctx, pulseFor)
	defer cancel()
	var only bool
	if err := s.pool.QueryRow(ctx, "select current_setting('transaction_read_only')::bool").Scan(&only); err != nil {
		return err
	}
	if only {
		return ErrReadOnly
	}
	return s.writes(ctx)
}

// writes tries whether something can be written, now and then.
func (s *Store) writes(ctx context.Context) error {
	p := &s.pulse
	p.mu.Lock()
	defer p.mu.Unlock()
	if p.err == nil && time.Since(p.tried) < pulseEvery {
		return nil
	}
	err := pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		_, err := tx.Exec(ctx, "insert into pulses (data) values ($1)", make([]byte, pulseBytes))
		if err == nil {
			err = errTaken
		}
		return err
	})
	switch {
	case errors.Is(err, errTaken):
		err = nil
	case says(err, diskFull):
		err = ErrNoRoom
	case says(err, readOnly):
		err = ErrReadOnly
	case says(err, noSuchTable): // before the tables were brought up to date
		err = nil
	}
	p.tried, p.err = time.Now(), err
	return err
}

// noSuchTable is PostgreSQL's code for it.
const noSuchTable = "42P01"
