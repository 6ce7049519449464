package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// Sessions keeps the sessions of members, for the library that manages them. Tokens come
// hashed. A session that was ended never comes back, whatever was under way meanwhile.
type Sessions struct{ store *Store }

// Sessions returns the store of sessions.
func (s *Store) Sessions() Sessions { return Sessions{s} }

// FindCtx returns a session's data; found is false if there is none, or it has expired.
func (s Sessions) FindCtx(ctx context.Context, token string) (data []byte, found bool, err error) {
	err = s.store.pool.QueryRow(ctx,
		"select data from sessions where token = $1 and expiry > now() and not exists (select 1 from ended_sessions where token = $1)", token).
		Scan(&data)
	if errors.Is(err, pgx.ErrNoRows) {
		return nil, false, nil
	}
	return data, err == nil, err
}

// CommitCtx stores a session's data, unless it was ended.
func (s Sessions) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	// One that is ended at this very moment may still be written; it is not found.
	_, err := s.store.pool.Exec(
		ctx,
		`insert into sessions (token, data, expiry) select $1, $2, $3 where not exists (select 1 from ended_sessions where token = $1)
		on conflict (token) do update set data = excluded.data, expiry = excluded.expiry`,
		token,
		data,
		expiry,
	)
	return err
}

// DeleteCtx ends a session.
func (s Sessions) DeleteCtx(ctx context.Context, token string) error {
	tx, err := s.store.pool.Begin(ctx)
	if err != nil {
		return err
	}
	defer tx.Rollback(context.WithoutCancel(ctx)) //nolint:errcheck // without effect after the commit
	for _, q := range []string{"insert into ended_sessions (token) values ($1) on conflict do nothing",
		"delete from sessions where token = $1"} {
		if _, err := tx.Exec(ctx, q, token); err != nil {
			return err
		}
	}
	return tx.Commit(ctx)
}

// Find is FindCtx without a context; the library does not use it.
func (s Sessions) Find(token string) ([]byte, bool, error) {
	return s.FindCtx(context.Background(), token)
}

// Commit is CommitCtx without a context; the library does not use it.
func (s Sessions) Commit(token string, data []byte, expiry time.Time) error {
	return s.CommitCtx(context.Background(), token, data, expiry)
}

// Delete is DeleteCtx without a context; the library does not use it.
func (s Sessions) Delete(token string) error { return s.DeleteCtx(context.Background(), token) }
