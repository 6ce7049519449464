package web_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/demo"
	"lazo/store"
	"lazo/store/storetest"
	"lazo/web"
)

// A key is changed while pages lie open: what the one before signed is good on, until it
// is dropped. New pages are signed with the new one by all copies.
func TestKeysAreChangedWhilePagesLieOpen(t *testing.T) {
	ctx := context.Background()
	own, done := storetest.Open()
	defer done()
	require.NoError(t, demo.Ensure(ctx, own, time.Now()))
	copyOf := func() func(method, path string, fields url.Values) *httptest.ResponseRecorder {
		return from(web.New(own, web.Options{Quiet: true, Trust: true}), "192.0.2.77")
	}
	page := copyOf()(http.MethodGet, "/f/shore-crew", nil).Body.String()
	send := func() int {
		v := with(fields(page), "a.name", "Ana", "a.phone", "+59894123456", "a.born_on", "1980-01-01", "a.roles", "timing",
			"a.free_days", "sat", "_do", "send")
		return copyOf()(http.MethodPost, "/f/shore-crew", v).Code
	}
	before, err := own.Keys(ctx, store.TicketKeys)
	require.NoError(t, err)
	require.Len(t, before, 1)
	require.NoError(t, own.ChangeKey(ctx, store.TicketKeys))
	after, err := own.Keys(ctx, store.TicketKeys)
	require.NoError(t, err)
	require.Len(t, after, 2)
	assert.Equal(t, before[0], after[1])
	assert.Equal(t, http.StatusSeeOther, send(), "what the key before signed is good")

	page = copyOf()(http.MethodGet, "/f/shore-crew", nil).Body.String()
	_, err = own.Pool().Exec(ctx, "update keys set made_at = made_at - interval '61 days'")
	require.NoError(t, err)
	require.NoError(t, own.ChangeKey(ctx, store.TicketKeys))
	kept, err := own.Keys(ctx, store.TicketKeys)
	require.NoError(t, err)
	require.Len(t, kept, 2, "the first was replaced 61 days ago")
	assert.Equal(t, http.StatusSeeOther, send())

	page = copyOf()(http.MethodGet, "/f/shore-crew", nil).Body.String()
	require.NoError(t, own.ChangeKey(ctx, store.TicketKeys))
	require.NoError(t, own.DropOlderKeys(ctx, store.TicketKeys))
	assert.NotEqual(t, http.StatusSeeOther, send(), "a key that is dropped has signed nothing")
}
