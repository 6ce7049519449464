package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
)

// An address is confirmed in time, by the address that it is now, and never after.
func TestAnAddressIsConfirmedInTimeOrNot(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "confirmed-in-time")
	until := time.Now().Add(time.Hour).Truncate(time.Millisecond)
	sent := response(f, 1)
	sent.ConfirmBy = &until
	_, err := db.AddResponse(ctx, sent)
	require.NoError(t, err)
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	r, err := in.ResponseOf(ctx, sent.Filling)
	require.NoError(t, err)
	fits := func(store.Response) bool { return true }
	silent := func([]byte, store.Response) ([]store.Letter, error) { return nil, nil }
	for _, c := range []struct {
		at   time.Time
		fits bool
		want bool
	}{{until.Add(time.Second), true, false}, {until.Add(-time.Second), false, false},
		{until.Add(-time.Second), true, true}, {until.Add(time.Hour), true, true}} { // it is confirmed, and stays so
		done, err := in.Confirm(ctx, r.ID, c.at, func(r store.Response) bool { return c.fits && fits(r) }, silent)
		require.NoError(t, err)
		assert.Equal(t, c.want, done, "%v", c)
	}
	done, err := in.Confirm(ctx, "00000000-0000-4000-8000-000000000001", until, fits, silent)
	require.NoError(t, err)
	assert.False(t, done, "there is no such response")
}
