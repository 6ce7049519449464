package outbox_test

import (
	"context"
	"fmt"
	"net/http"
	"net/url"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

// letters writes letters to a form's outbox, and gives their ids, the first first.
func letters(t *testing.T, v *desktest.Visitor, list ...store.Letter) []store.LetterID {
	t.Helper()
	ctx := context.Background()
	for _, l := range list {
		l.Edition, l.Message, l.MadeAt = 1, "thanks", time.Now()
		if l.DueAt.IsZero() {
			l.DueAt = time.Now().Add(-time.Second)
		}
		require.NoError(t, v.InForm().Tell(ctx, l))
	}
	there, err := v.Workspace().Letters(ctx, store.Outbox{Form: v.Form.ID})
	require.NoError(t, err)
	ids := make([]store.LetterID, len(there))
	for i, l := range there {
		ids[len(there)-1-i] = l.ID
	}
	return ids
}

func TestTheOutboxSaysWhatBecameOfLetters(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Name"}`)
	_, page := v.Get("/outbox")
	assert.Contains(t, page, "Nothing has gone out yet.")
	assert.Contains(t, page, "No mail server is set")
	now := time.Now()
	ids := letters(t, v,
		store.Letter{Recipient: "ana@lake.example", Subject: "Thank you", Body: "Dear **Ana**",
			Reason: "Sent because Length is 14.",
			State:  store.Sent, EndedAt: &now},
		store.Letter{Recipient: "bo@lake.example", Subject: "Later", Reason: "Sent always.", State: store.Waiting,
			DueAt: now.AddDate(0, 0, 9)},
		store.Letter{Recipient: "ciro@lake.example", Subject: "<b>Now</b>", Reason: "Sent always.", State: store.Waiting},
		store.Letter{Recipient: "dora@lake.example", Reason: "Sent always.", State: store.Failed,
			Answer: "There is no such mailbox."},
		store.Letter{Subject: "Nobody", Reason: "Sent always.", State: store.Dropped,
			Answer: "There was no address to send it to."},
		store.Letter{Kind: store.Hook, Recipient: "https://desk.example/boats", Subject: "received", Reason: "Told always.",
			State: store.Held})
	form := fmt.Sprint(v.Form.ID)
	v.Try([]desktest.Case{
		{Name: "all", Path: "/outbox", Says: []string{
			"Sent because Length is 14.", "went on", "goes on", "waits for a mail server", "&lt;b&gt;Now",
			"There is no such mailbox.", "to nobody", "A response was received", "is held back"},
			SaysNot: []string{"<b>Now", "Nothing has gone out yet"}},
		{Name: "of a form", Path: "/outbox?form=" + form, Says: []string{"Thank you"}},
		{Name: "of no form", Path: "/outbox?form=999999999", Says: []string{"There are no letters like that"}},
		{Name: "to an address", Path: "/outbox?to=CIRO", Says: []string{"Now"}, SaysNot: []string{"Thank you"}},
		{Name: "that failed", Path: "/outbox?state=failed", Says: []string{"dora@lake.example", "Let this one go"},
			SaysNot: []string{"ana@lake"}},
		{Name: "of a response that is none", Path: "/outbox?response=x", Says: []string{"There are no letters like that"}},
		{Name: "one", Path: fmt.Sprintf("/outbox/%d", ids[0]), Says: []string{"Dear <strong>Ana</strong>", "Send again"}},
		{Name: "none", Path: "/outbox/999999999", Status: http.StatusNotFound},
		{Name: "no number", Path: "/outbox/x", Status: http.StatusNotFound},
	})
}

func TestLettersAreTurned(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Name"}`)
	now := time.Now()
	ids := letters(t, v, store.Letter{Recipient: "ana@lake.example", Subject: "A", State: store.Waiting},
		store.Letter{Recipient: "bo@lake.example", Subject: "B", State: store.Sent, EndedAt: &now},
		store.Letter{Recipient: "ciro@lake.example", Subject: "C", State: store.Failed, EndedAt: &now},
		store.Letter{Recipient: "dora@lake.example", Subject: "D", State: store.Failed, EndedAt: &now})
	turn := func(i int, act string) int {
		status, _ := v.Post(fmt.Sprintf("/outbox/%d/%s", ids[i], act), url.Values{"to": {"/outbox"}})
		return status
	}
	states := func() (out []string) {
		there, err := v.Workspace().Letters(context.Background(), store.Outbox{Form: v.Form.ID})
		require.NoError(t, err)
		for _, l := range there {
			out = append(out, l.Subject+" "+string(l.State))
		}
		return out
	}
	assert.Equal(t, http.StatusOK, turn(0, "hold"))
	assert.Equal(t, http.StatusConflict, turn(0, "hold"), "twice")
	assert.Equal(t, []string{"D failed", "C failed", "B sent", "A held"}, states())
	assert.Equal(t, http.StatusOK, turn(0, "go"))
	assert.Equal(t, http.StatusOK, turn(0, "cancel"))
	assert.Equal(t, http.StatusConflict, turn(1, "cancel"), "it has gone")
	assert.Equal(t, http.StatusOK, turn(1, "again"))
	assert.Equal(t, http.StatusNotFound, turn(1, "burn"))
	assert.Equal(t, []string{"B waiting", "D failed", "C failed", "B sent", "A cancelled"}, states())
	_, page := v.Post("/outbox/go", url.Values{"state": {"failed"}})
	assert.Contains(t, page, "2 are on their way again.")
	assert.Equal(t, []string{"B waiting", "D waiting", "C waiting", "B sent", "A cancelled"}, states())
	v.Post("/outbox/go", url.Values{"state": {"sent"}})
	assert.Equal(t, []string{"B waiting", "D waiting", "C waiting", "B sent", "A cancelled"}, states(),
		"what has gone is not let go")
}

// E-mails that have gone are kept as long as an owner says; what waits, and responses, stay.
func TestHowLongEmailsAreKept(t *testing.T) {
	v := desktest.Visit(t, `{"key": "name", "type": "text", "label": "Name"}`)
	old, lately := time.Now().AddDate(0, 0, -40), time.Now().AddDate(0, 0, -20)
	letters(t, v, store.Letter{Recipient: "ana@lake.example", Subject: "Long ago", State: store.Sent, EndedAt: &old},
		store.Letter{Recipient: "ana@lake.example", Subject: "Lately", State: store.Sent, EndedAt: &lately},
		store.Letter{Recipient: "ana@lake.example", Subject: "Held since", State: store.Held, DueAt: old})
	v.Try([]desktest.Case{
		{Name: "too short", Path: "/outbox/kept", Post: desktest.Fields("days", "3"), Status: 422,
			Says: []string{"30 to 3,650 days"}},
		{Name: "no number", Path: "/outbox/kept", Post: desktest.Fields("days", "x"), Status: 422,
			Says: []string{"30 to 3,650 days"}},
		{Name: "nothing set", Path: "/outbox", Says: []string{"Long ago", "as long as its response"}},
	})
	ctx := context.Background()
	require.NoError(t, v.Store().Sweep(ctx, time.Hour))
	v.Try([]desktest.Case{{Name: "kept with responses", Path: "/outbox",
		Says: []string{"Long ago", "Lately", "Held since"}}})
	v.Try([]desktest.Case{{Name: "set", Path: "/outbox/kept", Post: desktest.Fields("days", "30"),
		Says: []string{`value="30"`}}})
	require.NoError(t, v.Store().Sweep(ctx, time.Hour))
	v.Try([]desktest.Case{
		{Name: "over", Path: "/outbox", Says: []string{"Lately", "Held since"}, SaysNot: []string{"Long ago"}},
		{Name: "taken back", Path: "/outbox/kept", Post: desktest.Fields("days", ""), SaysNot: []string{`value="30"`}},
	})
}
