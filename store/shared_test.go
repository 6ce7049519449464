package store_test

import (
	"context"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
	"lazo/store/storetest"
)

// Where connections are shared by transaction, that is found out; elsewhere it is not
// said. The setting is proved by this: see the checks of the command line.
func TestWhetherConnectionsAreShared(t *testing.T) {
	ctx := context.Background()
	address, drop := storetest.Empty()
	defer drop()
	for range 3 { // however the connections of before were left
		shared, err := store.IsShared(ctx, address)
		require.NoError(t, err)
		assert.False(t, shared)
		if at := os.Getenv("LAZO_TEST_SHARED"); at != "" {
			shared, err = store.IsShared(ctx, storetest.Shared(address, at))
			require.NoError(t, err)
			assert.True(t, shared)
		}
	}
}

// Over shared connections nothing is migrated, since a lock for that needs a session; that
// something is to be is said, and not done halfway.
func TestOverSharedConnectionsNothingIsMigrated(t *testing.T) {
	ctx := context.Background()
	address, drop := storetest.Empty()
	defer drop()
	shared, err := store.OpenShared(ctx, address)
	require.NoError(t, err)
	defer shared.Close()
	require.ErrorIs(t, shared.Migrate(ctx), store.ErrBehind)
	direct, err := store.Open(ctx, address)
	require.NoError(t, err)
	defer direct.Close()
	require.NoError(t, direct.Migrate(ctx))
	require.NoError(t, shared.Migrate(ctx), "nothing is left to be done")
}
