package store

import (
	"context"
	"crypto/rand"
	"errors"

	"github.com/jackc/pgx/v5"
)

// TicketKeys are the keys that sign what travels with public pages, and addresses to
// confirm at.
const TicketKeys = "tickets"

// olderKeysGood is for how long a key is good after another took its place: longer than
// any page lies open and any address waits to be confirmed.
const olderKeysGood = "60 days"

// Keys are the keys of a name, of 32 bytes each and the same for all copies of the
// application: the newest, which signs, and those before that are still good. The first is
// made when it is asked for.
func (s *Store) Keys(ctx context.Context, name string) ([][]byte, error) {
	out, err := s.goodKeys(ctx, name)
	if err != nil || len(out) > 0 {
		return out, err
	}
	err = pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		// Of several copies one makes it.
		if _, err := tx.Exec(ctx, "select pg_advisory_xact_lock(hashtext($1))", "keys "+name); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, "insert into keys (name, value) select $1, $2 where not exists (select 1 from keys where name = $1)", name, newKey())
		return err
	})
	if err != nil {
		return nil, err
	}
	if out, err = s.goodKeys(ctx, name); err == nil && len(out) == 0 {
		err = errors.New("there is no key to sign with")
	}
	return out, err
}

func (s *Store) goodKeys(ctx context.Context, name string) ([][]byte, error) {
	rows, err := s.pool.Query(ctx, `select value from (select value, made_at, lag(made_at) over (order by made_at desc) as replaced from keys where name = $1) k
		where replaced is null or replaced > now() - $2::interval order by made_at desc`, name, olderKeysGood)
	if err != nil {
		return nil, err
	}
	return pgx.CollectRows(rows, pgx.RowTo[[]byte])
}

func newKey() []byte {
	key := make([]byte, 32)
	rand.Read(key)
	return key
}

// ChangeKey makes another key of a name, which signs from now on.
func (s *Store) ChangeKey(ctx context.Context, name string) error {
	_, err := s.pool.Exec(ctx, "insert into keys (name, value, made_at) values ($1, $2, clock_timestamp())", name,
		newKey())
	return err
}

// DropOlderKeys forgets all keys of a name but the newest: what they signed is void.
func (s *Store) DropOlderKeys(ctx context.Context, name string) error {
	_, err := s.pool.Exec(ctx,
		"delete from keys k where name = $1 and made_at < (select max(made_at) from keys where name = $1)", name)
	return err
}
