package editions

import (
	"context"
	"fmt"
	"strings"
	"sync/atomic"
	"time"

	"lazo/cache"
	"lazo/core/form"
	"lazo/store"
)

// lists holds what the workspaces' lists have, each as its versions, and for a moment
// which of them are the newest.
type lists struct {
	store  *store.Store
	now    func() time.Time
	tables *cache.Cache[tableKey, form.Table]
	newest *cache.Cache[string, newest]
	change atomic.Int64 // counts the changes that were made here
}

type tableKey struct {
	list    store.ListID
	version int
}

// newest are the newest versions of the lists of a form, as they were a moment ago.
type newest struct {
	states []store.ListState
	asked  time.Time
	change int64
}

// Bounds of what is held, in bytes, and how long a version may count as the newest
// without asking. What is sent is judged by the newest, whatever is held.
const (
	maxTables  = 64 << 20
	maxNewest  = 1 << 20
	stateHolds = time.Second
	cellBytes  = 80
)

func newLists(s *store.Store) *lists {
	return &lists{
		store: s, now: time.Now,
		tables: cache.New(maxTables,
			func(_ tableKey, t form.Table) int { return len(t.Entries) * len(t.Columns) * cellBytes }),
		newest: cache.New(maxNewest, func(key string, n newest) int { return len(key) + 60*len(n.states) }),
	}
}

// states are the newest versions of the lists that have these keys; those of a moment
// ago will do unless fresh is asked for.
func (l *lists) states(
	ctx context.Context, ws store.WorkspaceID, keys []string, fresh bool,
) ([]store.ListState, error) {
	if len(keys) == 0 {
		return nil, nil
	}
	key, change := fmt.Sprint(ws, " ", strings.Join(keys, " ")), l.change.Load()
	if n, ok := l.newest.Get(key); ok && !fresh && n.change == change && l.now().Sub(n.asked) < stateHolds {
		return n.states, nil
	}
	states, err := l.store.InWorkspace(ws).ListStates(ctx, keys)
	if err == nil {
		l.newest.Add(key, newest{states, l.now(), change})
	}
	return states, err
}

// withEntries is a form with what its lists of the workspace have.
func (l *lists) withEntries(
	ctx context.Context, ws store.WorkspaceID, def *form.Form, states []store.ListState,
) (*form.Form, error) {
	if len(states) == 0 {
		return def, nil
	}
	tables := map[string]form.Table{}
	for _, s := range states {
		t, err := l.tables.GetOrMake(tableKey{s.ID, s.Version}, func() (form.Table, error) {
			return l.store.InWorkspace(ws).ListTable(ctx, s.ID, s.Version)
		})
		if err != nil {
			return nil, err
		}
		tables[s.Key] = t
	}
	return def.WithLists(tables), nil
}

// named is a name for versions of lists.
func named(states []store.ListState) string {
	var b strings.Builder
	for _, s := range states {
		fmt.Fprintf(&b, "%d.%d ", s.ID, s.Version)
	}
	return b.String()
}

// ListsChanged tells that a list was changed here just now. Other copies of the
// application learn it within a moment.
func (c *Programs) ListsChanged() { c.lists.change.Add(1) }

// WithLists is a draft with what its lists of the workspace have, and a name for their
// versions.
func (c *Programs) WithLists(ctx context.Context, ws store.WorkspaceID, def *form.Form) (*form.Form, string, error) {
	states, err := c.lists.states(ctx, ws, def.SharedLists(), true)
	if err != nil {
		return nil, "", err
	}
	def, err = c.lists.withEntries(ctx, ws, def, states)
	return def, named(states), err
}
