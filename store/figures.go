package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
)

// Figures are what whoever runs the application watches.
type Figures struct {
	Outbox                   []OutboxFigure
	OldestDue                time.Duration // how long the oldest that was not tried yet has been due
	Jobs                     map[string]int64
	DatabaseBytes, FileBytes int64
	Responses                int64
	Forms, FormsLive         int64
}

// OutboxFigure is how much of a kind in the outbox is in a state.
type OutboxFigure struct {
	Kind  LetterKind
	State LetterState
	N     int64
}

// Figures looks at the whole database.
func (s *Store) Figures(ctx context.Context) (Figures, error) {
	var f Figures
	rows, err := s.pool.Query(ctx,
		`select kind, state, count(*) from outbox where state in ('waiting', 'held', 'sending', 'failed') group by 1, 2`)
	if err != nil {
		return f, err
	}
	if f.Outbox, err = pgx.CollectRows(rows, pgx.RowToStructByPos[OutboxFigure]); err != nil {
		return f, err
	}
	var oldest float64
	err = s.pool.QueryRow(ctx, `select coalesce((select extract(epoch from now() - min(due_at)) from outbox
			where state = 'waiting' and attempts = 0 and due_at < now()), 0)::float8,
		pg_database_size(current_database()), coalesce((select sum(bytes) from file_tallies), 0)::bigint,
		coalesce((select sum(responses) from response_tallies), 0)::bigint, (select count(*) from forms),
		(select count(*) from forms where live_edition is not null and offline_since is null)`).
		Scan(&oldest, &f.DatabaseBytes, &f.FileBytes, &f.Responses, &f.Forms, &f.FormsLive)
	if err != nil {
		return f, err
	}
	f.OldestDue = time.Duration(oldest * float64(time.Second))
	f.Jobs, err = s.jobs(ctx)
	return f, err
}

// jobs counts those of the queue; none before it has its tables.
func (s *Store) jobs(ctx context.Context) (map[string]int64, error) {
	out := map[string]int64{}
	var there bool
	if err := s.pool.QueryRow(ctx, "select to_regclass('river.river_job') is not null").Scan(&there); err != nil ||
		!there {
		return out, err
	}
	rows, err := s.pool.Query(ctx, "select state::text, count(*) from river.river_job group by 1")
	if err != nil {
		return nil, err
	}
	var state string
	var n int64
	_, err = pgx.ForEachRow(rows, []any{&state, &n}, func() error { out[state] = n; return nil })
	return out, err
}
