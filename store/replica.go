package store

import (
	"context"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/plugin/dbresolver"
)

// replicaName names the replica among the databases that queries choose from.
const replicaName = "replica"

// replica is a copy of the database that follows it.
type replica struct {
	pool *pgxpool.Pool

	mu     sync.Mutex
	looked time.Time
	good   bool
}

// How often is looked whether the replica follows, how long that may take, and how far
// behind it may be.
const (
	replicaLooked = 5 * time.Second
	replicaAsked  = 500 * time.Millisecond
	replicaBehind = 30 * time.Second
)

// ReadFrom has what may be seconds old read from a replica: the list of forms, summaries,
// files of responses, the trail, the outbox, and what is held about a person. While the
// replica can't be reached, follows nothing, or is far behind, they are read from the
// database itself.
func (s *Store) ReadFrom(ctx context.Context, url string) error {
	cfg, err := poolConfig(url, s.shared)
	if err != nil {
		return err
	}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return err
	}
	s.replica = &replica{pool: pool}
	s.desk.replica = s.replica
	for _, one := range []*Store{s, s.desk} {
		err := one.db.Use(dbresolver.Register(dbresolver.Config{
			Replicas: []gorm.Dialector{postgres.New(postgres.Config{Conn: stdlib.OpenDBFromPool(pool)})},
		}, replicaName))
		if err != nil {
			return err
		}
	}
	return nil
}

type freshKey struct{}

// Fresh is the context of a request whose answer may not be seconds old, such as that of
// somebody who has just changed something.
func Fresh(ctx context.Context) context.Context { return context.WithValue(ctx, freshKey{}, true) }

// HasReplica reports whether anything is read from a replica.
func (s *Store) HasReplica() bool { return s.replica != nil }

// late makes a query whose answer may be seconds old. One that the replica can't answer is
// asked of the database itself.
func (s *Store) late(ctx context.Context, query func(db *gorm.DB) error) error {
	if s.follows(ctx) {
		err := query(s.db.WithContext(ctx).Clauses(dbresolver.Use(replicaName)))
		if err == nil || !Unreachable(err) || ctx.Err() != nil {
			return err
		}
		s.replica.gone()
	}
	return query(s.db.WithContext(ctx))
}

// lateTx begins a transaction that only reads, and may be seconds old.
func (s *Store) lateTx(ctx context.Context) (pgx.Tx, error) {
	only := pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}
	if s.follows(ctx) {
		tx, err := s.replica.pool.BeginTx(ctx, only)
		if err == nil || ctx.Err() != nil {
			return tx, err
		}
		s.replica.gone()
	}
	return s.pool.BeginTx(ctx, only)
}

// gone notes that the replica did not answer.
func (r *replica) gone() {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.looked, r.good = time.Now(), false
}

// follows reports whether there is a replica that can be read from.
func (s *Store) follows(ctx context.Context) bool {
	r := s.replica
	if r == nil || ctx.Value(freshKey{}) != nil {
		return false
	}
	r.mu.Lock()
	defer r.mu.Unlock()
	if time.Since(r.looked) < replicaLooked {
		return r.good
	}
	ctx, cancel := context.WithTimeout(ctx, replicaAsked)
	defer cancel()
	var good bool
	// A database in which nothing happens is not behind, however long ago that was.
	err := r.pool.QueryRow(ctx, `select pg_is_in_recovery() and exists (select from pg_stat_wal_receiver)
		and (pg_last_wal_receive_lsn() = pg_last_wal_replay_lsn() or pg_last_xact_replay_timestamp() > now() - $1::interval)`, replicaBehind).Scan(&good)
	if good = good && err == nil; good != r.good || r.looked.IsZero() && !good {
		slog.Warn("what may be seconds old is read elsewhere", "from_replica", good, "err", err)
	}
	r.looked, r.good = time.Now(), good
	return good
}
