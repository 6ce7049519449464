package store_test

import (
	"context"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
)

// One member asks for as much as they can, and nobody is quick: another workspace looks at
// its responses meanwhile, pages of the desk are served, public pages find all of their
// connections, and the database is said to be there.
func TestWhoAsksForMuchKeepsNobodyWaiting(t *testing.T) {
	ctx, stop := context.WithTimeout(context.Background(), 30*time.Second)
	defer stop()
	f, _ := publish(t, "much-asked")
	other, _ := publish(t, "asked-beside")
	desk := db.Desk()
	var asking sync.WaitGroup
	defer asking.Wait()
	for range 60 {
		asking.Go(func() {
			much := store.By(ctx, 1)
			err := desk.InWorkspace(f.WorkspaceID).Form(f.ID).AtOnce(much, func(store.Snapshot) error {
				<-ctx.Done()
				return ctx.Err()
			})
			assert.Error(t, err, "it was broken off, or is more than anybody waits for")
		})
	}
	require.Eventually(t, func() bool {
		_, stat := db.Connections()
		return stat.AcquiredConns() > 0
	}, 10*time.Second, 10*time.Millisecond)
	for range 20 {
		soon, cancel := context.WithTimeout(store.By(ctx, 2), 5*time.Second)
		defer cancel()
		require.NoError(t, desk.InWorkspace(other.WorkspaceID).Form(other.ID).AtOnce(soon,
			func(store.Snapshot) error { return nil }))
		_, err := desk.InWorkspace(f.WorkspaceID).Form(f.ID).Get(soon)
		require.NoError(t, err)
	}
	public, _ := db.Connections()
	var all sync.WaitGroup
	for range public.MaxConns() {
		all.Go(func() {
			conn, err := db.Pool().Acquire(ctx)
			if assert.NoError(t, err) {
				time.Sleep(50 * time.Millisecond)
				conn.Release()
			}
		})
	}
	all.Wait()
	require.NoError(t, db.Ready(ctx))
	stop()
}
