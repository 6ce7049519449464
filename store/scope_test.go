package store_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
)

// Whatever is asked of a form by a handle of another workspace, nothing of it is there.
func TestAHandleOfAnotherWorkspaceFindsNothing(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "scoped")
	filling := response(f, 1).Filling
	_, err := db.AddUpload(ctx, store.Upload{FormID: f.ID, Filling: filling, Item: "a.photo", Name: "x", MediaType: "x"},
		strings.NewReader("ten bytes."), 100)
	require.NoError(t, err)
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.SetProperty("", "title", "Scoped, too"))
	require.NoError(t, err)

	type seen struct {
		live, address, edition, met error
		files, counted              int
		bytes, undo                 int64
	}
	look := func(in store.InForm) (s seen) {
		_, s.live = in.Live(ctx)
		_, s.address = in.Address(ctx)
		_, s.edition = in.Edition(ctx, 1)
		_, _, s.met = in.Meet(ctx, m.ID, "")
		files, err := in.UploadsOf(ctx, filling)
		require.NoError(t, err)
		s.files = len(files)
		s.counted, _, err = in.UploadedIn(ctx, filling)
		require.NoError(t, err)
		s.bytes, _, err = in.FileBytes(ctx)
		require.NoError(t, err)
		s.undo, _, err = in.History(ctx, m.ID)
		require.NoError(t, err)
		return s
	}
	assert.Equal(t, seen{files: 1, counted: 1, bytes: 10, undo: 1}, look(db.InWorkspace(f.WorkspaceID).Form(f.ID)))
	none := store.ErrNotFound
	assert.Equal(t, seen{live: none, address: none, edition: none, met: none},
		look(db.InWorkspace(f.WorkspaceID+1_000_000).Form(f.ID)))
}

// A way back that a copy of the version before has made is found by its filling once it was
// swept, so that erasing the response takes it along.
func TestWaysBackOfACopyOfBeforeAreErased(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "ways-of-before")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	r := response(f, 1)
	_, err := db.AddResponse(ctx, r)
	require.NoError(t, err)
	kept, err := in.Responses(ctx, 0, 1)
	require.NoError(t, err)
	secret, err := db.AddReturn(ctx,
		store.Return{FormID: f.ID, Ticket: `{"n": "` + r.Filling + `"}`, ExpiresAt: time.Now().Add(time.Hour)})
	require.NoError(t, err)
	require.NoError(t, db.Sweep(ctx, time.Hour))
	require.NoError(t, in.DeleteResponse(ctx, kept[0].ID))
	_, err = db.ReturnBySecret(ctx, secret)
	assert.ErrorIs(t, err, store.ErrNotFound)
}
