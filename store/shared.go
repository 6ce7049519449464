package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrBehind is told where the tables are of an older Lazo and can't be brought up to date.
var ErrBehind = errors.New("the tables are of an older Lazo, and over shared connections they can’t be brought up to date: " +
	"run “lazo migrate” with the address of the database itself")

// OpenShared is [Open] through a program that shares connections and may give each
// transaction another one, such as pgbouncer in its transaction mode. Nothing is then kept
// in a connection: statements are not prepared, the types of arguments go by the arguments,
// nothing is listened for, and no lock outlasts a transaction.
func OpenShared(ctx context.Context, url string) (*Store, error) { return open(ctx, url, true) }

// Shared reports whether connections are shared; see [OpenShared].
func (s *Store) Shared() bool { return s.shared }

// sharedAsked is how long is waited for a second connection while one is held: who shares
// a single one never gives it.
const sharedAsked = 2 * time.Second

// IsShared finds out whether whoever answers at an address shares connections by
// transaction: whether one and the same connection meets several servers.
func IsShared(ctx context.Context, url string) (bool, error) {
	cfg, err := pgx.ParseConfig(url)
	if err != nil {
		return false, err
	}
	cfg.DefaultQueryExecMode = pgx.QueryExecModeExec
	var pair [2]*pgx.Conn
	for i := range pair {
		if pair[i], err = pgx.ConnectConfig(ctx, cfg); err != nil {
			return false, err
		}
		defer pair[i].Close(context.WithoutCancel(ctx)) //nolint:errcheck // it was only asked something
	}
	met := map[int]bool{}
	ask := func(ctx context.Context) error {
		var pid int
		err := pair[0].QueryRow(ctx, "select pg_backend_pid()").Scan(&pid)
		met[pid] = true
		return err
	}
	for range 2 { // who goes round shows it here
		if err := ask(ctx); err != nil {
			return false, err
		}
	}
	tx, err := pair[1].Begin(ctx) // who takes the last one first shows it here
	if err != nil {
		return false, err
	}
	defer tx.Rollback(ctx) //nolint:errcheck // nothing was changed
	if _, err := tx.Exec(ctx, "select 1"); err != nil {
		return false, err
	}
	held, cancel := context.WithTimeout(ctx, sharedAsked)
	defer cancel()
	if err := ask(held); err != nil && held.Err() != nil && ctx.Err() == nil {
		return true, nil
	} else if err != nil {
		return false, err
	}
	return len(met) > 1, nil
}
