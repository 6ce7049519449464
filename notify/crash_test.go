package notify_test

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/notify"
	"lazo/store"
	"lazo/store/storetest"
)

// rescued is how soon what a killed process was at is taken up by another, in tests.
const rescued = 2 * time.Second

// TestDeliverUntilKilled is no test by itself: it is the process that others kill.
func TestDeliverUntilKilled(t *testing.T) {
	url, smtp := os.Getenv("LAZO_TEST_OUTBOX"), os.Getenv("LAZO_TEST_SMTP")
	if url == "" {
		t.Skip("it is run by TestNoLetterIsLostByHardStops")
	}
	s, err := store.Open(context.Background(), url)
	require.NoError(t, err)
	server, err := notify.SMTP(smtp, "office@pedralta.example")
	require.NoError(t, err)
	office := notify.New(s, notify.Options{Server: server, Quiet: true, Rescue: rescued})
	office.Lend(ties(nil))
	require.NoError(t, office.Run(context.Background()))
}

// Whoever delivers is killed again and again, and the database ends all connections: every
// letter arrives, and one that arrives twice, since the kill came between the mail server’s
// word and the note of it, does so under the same Message-ID.
func TestNoLetterIsLostByHardStops(t *testing.T) {
	s, url, done := storetest.OpenURL()
	t.Cleanup(done)
	p := openIn(t, s, "hard-stops")
	b, address := box(t, nil)
	b.Takes = 15 * time.Millisecond
	const letters = 120
	for i := range letters {
		p.receive(fmt.Sprintf(`{"metres": 9, "email": "rower%d@lake.example"}`, i))
	}
	for stop := range 5 {
		before := len(b.Letters())
		c := exec.Command(os.Args[0], "-test.run", "^TestDeliverUntilKilled$") //nolint:gosec // this very test
		c.Env = append(os.Environ(), "LAZO_TEST_OUTBOX="+url, "LAZO_TEST_SMTP=smtp://"+address+"?tls=none")
		require.NoError(t, c.Start())
		require.Eventually(t, func() bool { return len(b.Letters()) >= min(before+7+stop, letters) }, time.Minute,
			time.Millisecond)
		require.NoError(t, c.Process.Kill())
		_ = c.Wait()
		_, _ = s.Pool().Exec(context.Background(),
			"select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()")
	}
	require.Less(t, len(b.Letters()), letters, "the stops came in between")
	smtp, err := notify.SMTP("smtp://"+address+"?tls=none", "office@pedralta.example")
	require.NoError(t, err)
	p.work(smtp, notify.Options{Rescue: rescued})
	ids := map[string]map[string]bool{}
	require.EventuallyWithT(t, func(c *assert.CollectT) {
		for _, l := range b.Letters() {
			if ids[l.To[0]] == nil {
				ids[l.To[0]] = map[string]bool{}
			}
			ids[l.To[0]][l.Header("Message-ID")] = true
		}
		assert.Len(c, ids, letters)
	}, 90*time.Second, 100*time.Millisecond)
	for to, of := range ids {
		assert.Len(t, of, 1, to)
	}
	twice := len(b.Letters()) - letters
	t.Logf("%d letters, five kills, %d arrived twice under one Message-ID", letters, twice)
	assert.LessOrEqual(t, twice, 5*4, "no more than the workers had in hand")
}
