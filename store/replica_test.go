package store_test

import (
	"context"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
)

// What may be seconds old is read from a replica that follows, and nothing else is; while
// it is away, or asked by somebody who has just changed something, the database itself
// answers.
func TestWhatMayBeSecondsOldIsReadFromAReplica(t *testing.T) {
	ctx := context.Background()
	postgres := func(args ...string) string {
		out, err := exec.Command("bash", append([]string{"../scripts/postgres.sh"}, args...)...).CombinedOutput()
		require.NoError(t, err, string(out))
		return strings.TrimSpace(string(out))
	}
	const first, second = "../.run/followed", "../.run/follower"
	address := postgres("start", first, "fast")
	t.Cleanup(func() { postgres("drop", first) })
	replica := postgres("replica", second, first)
	t.Cleanup(func() { postgres("drop", second) })
	s, err := store.Open(ctx, address)
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Migrate(ctx))
	require.NoError(t, s.ReadFrom(ctx, replica))
	follower, err := store.Open(ctx, replica)
	require.NoError(t, err)
	defer follower.Close()
	require.ErrorIs(t, follower.Ready(ctx), store.ErrReadOnly)

	w, err := s.CreateWorkspace(ctx, "Followed")
	require.NoError(t, err)
	in := s.InWorkspace(w.ID)
	add := func(key string) store.Form {
		f, err := in.CreateForm(ctx, &form.Form{Lazo: 1, Key: key, Title: key, Timezone: "UTC"})
		require.NoError(t, err)
		return f
	}
	listed := func(ctx context.Context) int {
		list, err := in.Forms(ctx, "", store.ByEdit, false)
		require.NoError(t, err)
		return len(list)
	}
	add("followed")
	require.Eventually(t, func() bool { return listed(ctx) == 1 }, 10*time.Second, 50*time.Millisecond)
	replays := func(sql string) {
		_, err := follower.Pool().Exec(ctx, sql)
		require.NoError(t, err)
	}
	replays("select pg_wal_replay_pause()")
	f := add("newer")
	assert.Equal(t, 1, listed(ctx), "the replica does not have it yet")
	assert.Equal(t, 2, listed(store.Fresh(ctx)), "who has just made it sees it")
	_, err = in.Form(f.ID).Get(ctx)
	require.NoError(t, err, "what has to be of now is not read there")
	replays("select pg_wal_replay_resume()")
	require.Eventually(t, func() bool { return listed(ctx) == 2 }, 10*time.Second, 50*time.Millisecond)

	postgres("stop", second)
	add("newest")
	assert.Equal(t, 3, listed(ctx), "the replica is away, and the database answers")
	require.NoError(t, in.Form(f.ID).AtOnce(ctx, func(all store.Snapshot) error { _, err := all.Editions(); return err }))
}
