package store

import (
	"context"
	"errors"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"

	"lazo/turns"
)

// Desk is the same store over connections of its own: whatever is asked for at the desk,
// public pages find theirs. What takes long waits for its turn there, so that members and
// workspaces do not keep others waiting.
func (s *Store) Desk() *Store { return s.desk }

// usualConnections is how many connections are held at most, unless the address says so
// with pool_max_conns; fewestConnections is the least that can be done with.
const (
	usualConnections  = 20
	fewestConnections = 4
)

// shares are the connections of public pages and what goes out, and of the desk.
func shares(all int32) (public, desk int32) {
	all = max(all, fewestConnections)
	desk = max(2, all*2/5)
	return all - desk, desk
}

// turnsAtMost is how much of what takes long is looked for at once on so many connections:
// the others are left to what is quick, and to files that are being made.
func turnsAtMost(connections int32) int { return max(1, int(connections)/2-1) }

// Bounds of waiting: for how many looks at once a member waits, and for how long.
const (
	turnsWaited = 8
	turnWait    = 20 * time.Second
)

// ErrBusy is for a look that did not come to its turn.
var ErrBusy = errors.New("too much is being looked for at once")

type (
	memberKey struct{}
	turnKey   struct{}
)

// By is the context of what a member asks for.
func By(ctx context.Context, member MemberID) context.Context {
	return context.WithValue(ctx, memberKey{}, member)
}

// InTurn is the context of what waits for turns of its own kind already.
func InTurn(ctx context.Context) context.Context { return context.WithValue(ctx, turnKey{}, true) }

// Asks is who asks for something of a workspace, as turns are given.
func Asks(ctx context.Context, workspace WorkspaceID) turns.Who {
	member, _ := ctx.Value(memberKey{}).(MemberID)
	return turns.Who{Workspace: int64(workspace), Member: int64(member)}
}

// takeTurn waits until it is the turn of who asks for something that takes long. What is asked
// for within it, by the context that it gives, waits for no other.
func (in InWorkspace) takeTurn(ctx context.Context) (inTurn context.Context, leave func(), err error) {
	q := in.store.long
	if q == nil || ctx.Value(turnKey{}) != nil {
		return ctx, func() {}, nil
	}
	wait, cancel := context.WithTimeout(ctx, turnWait)
	defer cancel()
	leave, err = q.Take(wait, Asks(ctx, in.workspace))
	if errors.Is(err, turns.ErrMany) || err != nil && ctx.Err() == nil {
		err = ErrBusy
	}
	return InTurn(ctx), leave, err
}

// over is a store over so many connections.
func over(ctx context.Context, cfg *pgxpool.Config, most int32) (*Store, error) {
	cfg = cfg.Copy()
	cfg.MaxConns = most
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, err
	}
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: stdlib.OpenDBFromPool(pool)}), &gorm.Config{
		Logger: logger.Discard, DisableAutomaticPing: true, TranslateError: true, SkipDefaultTransaction: true,
	})
	return &Store{db: db, pool: pool}, err
}
