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
	in := db.In(f.WorkspaceID).Form(f.ID)
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
