package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
)

// A change that changes nothing leaves no version behind.
func TestWhatChangesNothingIsNotRemembered(t *testing.T) {
	ctx := context.Background()
	f, m, _ := lensOf(t, "changes-nothing")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	filling := uuid.NewString()
	_, err := db.AddResponse(ctx, store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Filling: filling,
		Answers: []byte(`{"n": 1.0, "nm": "Ana"}`), ReceivedAt: time.Now()})
	require.NoError(t, err)
	r, err := in.ResponseOf(ctx, filling)
	require.NoError(t, err)
	for i, answers := range []string{`{"nm": "Ana", "n": 1.0}`, `{"nm": "Bo", "n": 1.0}`, `{"n": 1.0, "nm": "Bo"}`} {
		_, err := in.Amend(ctx, r.ID, &m.ID, time.Now(), func(now store.Response) (store.Response, error) {
			now.Answers, now.Alone = []byte(answers), true
			return now, nil
		})
		require.NoError(t, err)
		got, err := in.ResponseWithVersions(ctx, r.ID)
		require.NoError(t, err)
		assert.Len(t, got.Versions, min(i, 1))
		assert.Equal(t, i > 0, got.ChangedAt != nil)
	}
}

// What was withdrawn does not count for the link by which it came, nor for the most that the
// form takes.
func TestWhatWasWithdrawnDoesNotCount(t *testing.T) {
	ctx := context.Background()
	f, m, _ := lensOf(t, "withdrawn-counts")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	link, err := in.AddLink(ctx, store.Link{Name: "Letter", Parameters: map[string][]string{}})
	require.NoError(t, err)
	send := func() store.Reception {
		got, err := db.AddBounded(ctx,
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Filling: uuid.NewString(),
				Answers: []byte(`{}`), ReceivedAt: time.Now(), LinkID: &link.ID}, store.Bounds{Responses: 1})
		require.NoError(t, err)
		return got
	}
	require.Equal(t, store.Received, send())
	require.Equal(t, store.Full, send())
	list, err := in.Responses(ctx, 0, 1)
	require.NoError(t, err)
	require.NoError(t, in.Withdraw(ctx, list[0].ID, &m.ID, time.Now()))
	links, err := in.Links(ctx)
	require.NoError(t, err)
	assert.Zero(t, links[0].Responses)
	assert.Equal(t, store.Received, send())
	assert.ErrorIs(t, in.Withdraw(ctx, uuid.NewString(), nil, time.Now()), store.ErrNotFound)
	_, err = in.Reinstate(ctx, uuid.NewString())
	assert.ErrorIs(t, err, store.ErrNotFound)
}
