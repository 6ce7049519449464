package web_test

import (
	"context"
	"net/http"
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/web"
)

// clocked is a visitor of the application with a clock of its own, in UTC.
func clocked(t *testing.T, now *time.Time) client {
	t.Helper()
	server := httptest.NewServer(web.New(db, web.Options{Quiet: true, Trust: true,
		Now: func() time.Time { return *now }}))
	t.Cleanup(server.Close)
	c := newClient(t)
	c.base = server.URL
	return c
}

// What was left is kept for 30 days, and for 180 since it was begun at most.
func TestWhatIsLeftIsNotKeptForEver(t *testing.T) {
	f := published(t, storage("storage-left-long"))
	now := time.Now()
	who := clocked(t, &now)
	_, page := who.get("/f/" + f.Address)
	for day := 0; day <= 175; day += 25 { // and gone on with every 25 days
		_, left := who.post("/f/"+f.Address, with(carried(page), "a.boat", "single", "_do", "save"))
		way := wayBack.FindStringSubmatch(left)
		require.NotNil(t, way, left)
		r, err := db.ReturnBySecret(context.Background(), way[1][len("/r/"):])
		require.NoError(t, err)
		assert.WithinDuration(t, now.AddDate(0, 0, min(30, 180-day)), r.ExpiresAt, 2*time.Hour, "on day %d", day)
		now = now.AddDate(0, 0, 25)
		_, page = who.get(way[1])
	}
}

// Who comes back after what was sent can no longer be changed is told so, and changes nothing.
func TestWhoComesBackTooLateIsTold(t *testing.T) {
	now := time.Date(2026, 6, 1, 12, 0, 0, 0, time.UTC)
	f := published(t, aForm("back-too-late", func(f *form.Form) {
		f.Returning = &form.Returning{Change: true, Until: "2026-06-05T12:00"}
	}))
	c := clocked(t, &now)
	path := "/f/" + f.Address
	_, page := c.get(path)
	_, end := c.post(path, with(carried(page), "a.name", "Inés", "_do", "send"))
	way := wayBack.FindStringSubmatch(end)
	require.NotNil(t, way, end)
	status, back := c.get(way[1])
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, back, "Inés")
	now = now.AddDate(0, 0, 4)
	status, late := c.get(way[1])
	assert.NotEqual(t, http.StatusOK, status)
	assert.NotContains(t, late, "Inés")
	_, _ = c.post(path, with(carried(back), "a.name", "Eva", "_do", "send"))
	_, answers := last(t, f)
	assert.Equal(t, "Inés", answers["name"])
}

// A document is handed out once the address is confirmed, and not before.
func TestADocumentWaitsForTheConfirmedAddress(t *testing.T) {
	f := published(t, aForm("document-confirmed", func(f *form.Form) {
		f.Pages[0].Sections[0].Items = append(f.Pages[0].Sections[0].Items,
			&form.Item{Key: "email", Type: form.Email, Label: "E-mail", Required: form.Always})
		f.Confirm = &form.Confirm{Item: "email"}
		f.Documents = []form.Document{{Key: "card", Name: "Card", Body: "For {name}"}}
	}))
	c := newClient(t)
	path := "/f/" + f.Address
	_, page := c.get(path)
	_, end := c.post(path, with(carried(page), "a.name", "Inés", "a.email", "ines@lake.example", "_do", "send"))
	assert.NotContains(t, end, "/documents/card")
	r, _ := last(t, f)
	card := path + "/received/" + r.Filling + "/documents/card"
	status, _ := c.get(card)
	assert.Equal(t, http.StatusNotFound, status)
	done, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Confirm(context.Background(), r.ID, time.Now(),
		func(store.Response) bool { return true }, func([]byte, store.Response) ([]store.Letter, error) { return nil, nil })
	require.NoError(t, err)
	require.True(t, done)
	status, _ = c.get(card)
	assert.Equal(t, http.StatusOK, status)
}
