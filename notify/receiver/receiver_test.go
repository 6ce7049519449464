package receiver_test

import (
	"net/http"
	"net/http/httptest"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/notify"
	"lazo/notify/receiver"
)

func TestOnlyWhatIsSignedIsTaken(t *testing.T) {
	secret := []byte("0123456789abcdef01234567")
	rc := receiver.New(secret)
	server := httptest.NewServer(rc.Handler())
	t.Cleanup(server.Close)
	tell := func(with []byte, at time.Time, signed, sent string) int {
		r, err := http.NewRequest(http.MethodPost, server.URL+"/boats", strings.NewReader(sent))
		require.NoError(t, err)
		r.Header.Set("Webhook-Id", "a")
		r.Header.Set("Webhook-Timestamp", strconv.FormatInt(at.Unix(), 10))
		r.Header.Set("Webhook-Signature", "v1,other "+notify.Signed(with, "a", at, []byte(signed)))
		got, err := http.DefaultTransport.RoundTrip(r)
		require.NoError(t, err)
		require.NoError(t, got.Body.Close())
		return got.StatusCode
	}
	now := time.Now()
	assert.Equal(t, http.StatusOK, tell(secret, now, `{"type": "x"}`, `{"type": "x"}`))
	assert.Equal(t, http.StatusUnauthorized, tell(secret, now, `{"type": "x"}`, `{"type": "y"}`),
		"it was changed on its way")
	assert.Equal(t, http.StatusUnauthorized, tell([]byte("another"), now, `{}`, `{}`))
	assert.Equal(t, http.StatusUnauthorized, tell(secret, now.Add(-time.Hour), `{}`, `{}`),
		"it is told once more by somebody")
	events := rc.Events()
	require.Len(t, events, 4)
	assert.Equal(t, "x", events[0].Type)
	assert.Empty(t, events[0].Signed)
	assert.Equal(t, "it is not signed with the secret", events[1].Signed)
	for fault, status := range map[receiver.Fault]int{"fail": 500, "gone": 410, "elsewhere": 307} {
		rc.Suffer(fault)
		assert.Equal(t, status, tell(secret, now, `{}`, `{}`))
	}
}
