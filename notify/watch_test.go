package notify_test

import (
	"bytes"
	"log/slog"
	"net"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/notify"
	"lazo/notify/postbox"
	"lazo/store"
	"lazo/store/storetest"
)

// lines is a log that many write to.
type lines struct {
	mu  sync.Mutex
	buf bytes.Buffer
}

func (l *lines) Write(p []byte) (int, error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.buf.Write(p)
}

func (l *lines) String() string {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.buf.String()
}

// A mail server that can't be used is logged once, however many letters wait for it, and
// so is that it is back; each attempt is counted by how it ended.
func TestThatAMailServerGoesAndComesBack(t *testing.T) {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := l.Addr().String()
	require.NoError(t, l.Close())
	log := &lines{}
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(log, nil)))
	t.Cleanup(func() { slog.SetDefault(before) })
	db, done := storetest.Open() // by itself, since the log is everybody's
	t.Cleanup(done)
	p := openIn(t, db, "goes-and-comes")
	smtp, err := notify.SMTP("smtp://"+address+"?tls=none", "office@pedralta.example")
	require.NoError(t, err)
	var mu sync.Mutex
	counts := map[store.LetterState]int{}
	counted := func(of store.LetterState) int {
		mu.Lock()
		defer mu.Unlock()
		return counts[of]
	}
	p.work(smtp, notify.Options{Waits: []time.Duration{300 * time.Millisecond, 300 * time.Millisecond, time.Second,
		5 * time.Second},
		Counted: func(kind store.LetterKind, became store.LetterState) {
			assert.Equal(t, store.Mail, kind)
			mu.Lock()
			defer mu.Unlock()
			counts[became]++
		}})
	for range 3 {
		p.receive(`{"metres": 14}`)
	}
	require.Eventually(t, func() bool { return counted(store.Waiting) >= 3 }, 20*time.Second, 10*time.Millisecond)
	assert.Zero(t, counted(store.Sent))
	l, err = net.Listen("tcp", address)
	require.NoError(t, err)
	b := postbox.New(nil)
	go func() { _ = b.Serve(l) }()
	t.Cleanup(func() { _ = b.Close() })
	require.Eventually(t, func() bool { return counted(store.Sent) == 3 }, 30*time.Second, 20*time.Millisecond)
	assert.Len(t, b.Letters(), 3)
	assert.Equal(t, 1, bytes.Count([]byte(log.String()), []byte("the mail server can’t be used")), log.String())
	assert.Equal(t, 1, bytes.Count([]byte(log.String()), []byte("the mail server can be used again")))
	assert.NotContains(t, log.String(), "harbour@pedralta.example")
}
