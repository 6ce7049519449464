// Package store keeps everything in PostgreSQL: workspaces and their members,
// forms with their drafts and editions, and responses. One file a table family.
//
// Every query that touches a form or a response is bound to its workspace; the
// public side finds a form by its address and learns its workspace from it.
package store

import (
	"context"
	"database/sql"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"net"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgtype"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"gorm.io/gorm"

	"lazo/cache"
	"lazo/core/form"
	"lazo/turns"
)

//go:embed migrations/*.sql
var migrations embed.FS

// What can be wrong with a request for data; other errors are the database's.
var (
	ErrNotFound = errors.New("there is no such thing")
	ErrConflict = errors.New("someone else has changed it meanwhile")
	ErrReadOnly = errors.New("the database can't be written to")
	ErrNoRoom   = errors.New("the database has no room left")
	ErrTooOften = errors.New("it was done too often")
)

// Store is the database. It is safe for use by many goroutines.
type Store struct {
	db   *gorm.DB
	pool *pgxpool.Pool

	drafts   *cache.Cache[draftKey, *form.Form]
	outgoing chan struct{} // see Outgoing
	replica  *replica      // nil for none
	shared   bool          // see OpenShared
	desk     *Store        // see Desk; itself for the desk's
	long     *turns.Queue  // of what takes long; nil where nothing waits for its turn
	pulse    pulse
}

// Open prepares the connection pool without connecting, so that the server can
// start before the database does. Ready reports whether it is there.
func Open(ctx context.Context, url string) (*Store, error) { return open(ctx, url, false) }

func open(ctx context.Context, url string, shared bool) (*Store, error) {
	cfg, err := poolConfig(url, shared)
	if err != nil {
		return nil, err
	}
	public, desk := shares(cfg.MaxConns)
	s, err := over(ctx, cfg, public)
	if err != nil {
		return nil, err
	}
	s.drafts, s.outgoing, s.shared = newDrafts(), make(chan struct{}, 1), shared
	s.desk, err = over(ctx, cfg, desk)
	if err != nil {
		return nil, err
	}
	s.desk.drafts, s.desk.outgoing, s.desk.shared = s.drafts, s.outgoing, shared
	s.desk.desk, s.desk.long = s.desk, turns.New(turnsAtMost(desk), turnsWaited)
	return s, nil
}

func poolConfig(url string, shared bool) (*pgxpool.Config, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("the database address can't be used: %w", err)
	}
	cfg.ConnConfig.ConnectTimeout = 3 * time.Second
	if !strings.Contains(url, "pool_max_conns") {
		cfg.MaxConns = usualConnections
	}
	if shared {
		cfg.ConnConfig.DefaultQueryExecMode = pgx.QueryExecModeExec
	}
	return cfg, nil
}

// Close ends all connections.
func (s *Store) Close() {
	s.pool.Close()
	s.desk.pool.Close()
	if s.replica != nil {
		s.replica.pool.Close()
	}
}

// Pool is that of public pages and what goes out, also for libraries that keep tables of
// their own.
func (s *Store) Pool() *pgxpool.Pool { return s.pool }

// Connections are those of public pages and what goes out, and of the desk: how many are in
// use, and at most.
func (s *Store) Connections() (public, desk *pgxpool.Stat) { return s.pool.Stat(), s.desk.pool.Stat() }

// Migrate brings the schema up to date. Several copies may call it at once: of them one
// migrates and the others wait, by a lock that needs a session of its own. On shared
// connections nothing is migrated; [ErrBehind] if there is something to be.
func (s *Store) Migrate(ctx context.Context) error {
	db := stdlib.OpenDBFromPool(s.pool)
	defer db.Close()
	if s.shared {
		return isCurrent(ctx, db)
	}
	return migrate(ctx, db)
}

func migrate(ctx context.Context, db *sql.DB) error {
	locker, err := lock.NewPostgresSessionLocker()
	if err != nil {
		return err
	}
	p, err := provider(db, goose.WithSessionLocker(locker))
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

func isCurrent(ctx context.Context, db *sql.DB) error {
	p, err := provider(db)
	if err != nil {
		return err
	}
	pending, err := p.HasPending(ctx)
	if err == nil && pending {
		err = ErrBehind
	}
	return err
}

func provider(db *sql.DB, with ...goose.ProviderOption) (*goose.Provider, error) {
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, err
	}
	return goose.NewProvider(goose.DialectPostgres, db, files, with...)
}

// jsonOf is what JSON makes of texts; none are an empty list.
func jsonOf(texts []string) string {
	data, err := json.Marshal(append([]string{}, texts...))
	if err != nil {
		panic(err) // texts can be written
	}
	return string(data)
}

// uuid is an id as the database compares it. A text that is none is null, which finds
// nothing; to compare as texts would pass by every index.
func uuid(text string) pgtype.UUID {
	var id pgtype.UUID
	if id.Scan(text) != nil {
		return pgtype.UUID{}
	}
	return id
}

// uuids are ids of a list; texts that are none are left out.
func uuids(texts []string) []pgtype.UUID {
	out := []pgtype.UUID{} // null would match nothing and name no type
	for _, text := range texts {
		if id := uuid(text); id.Valid {
			out = append(out, id)
		}
	}
	return out
}

// plain turns the driver's errors into the store's.
func plain(err error) error {
	switch {
	case errors.Is(err, gorm.ErrRecordNotFound):
		return ErrNotFound
	case errors.Is(err, gorm.ErrDuplicatedKey), says(err, uniqueViolation):
		return ErrConflict
	}
	return err
}

// What PostgreSQL says, by its codes.
const (
	uniqueViolation     = "23505"
	readOnly            = "25006"
	diskFull            = "53100"
	foreignKeyViolation = "23503"
)

// says reports whether an error is PostgreSQL's with a code.
func says(err error, code string) bool {
	var pg *pgconn.PgError
	return errors.As(err, &pg) && pg.Code == code
}

// Unreachable reports whether an error means that the database can't be reached, or
// takes nothing for now: it shuts down, starts, has too many visitors, has no room
// left, or is read-only.
func Unreachable(err error) bool {
	var pg *pgconn.PgError
	if errors.As(err, &pg) &&
		(strings.HasPrefix(pg.Code, "57P") || strings.HasPrefix(pg.Code, "53") || strings.HasPrefix(pg.Code, "08") ||
			pg.Code == readOnly) {
		return true
	}
	var connect *pgconn.ConnectError
	var network *net.OpError
	return errors.As(err, &connect) || errors.As(err, &network) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, io.EOF) ||
		errors.Is(err, context.DeadlineExceeded) || pgconn.Timeout(err)
}
