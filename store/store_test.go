package store_test

import (
	"context"
	"fmt"
	"os"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
	"lazo/store/storetest"
)

var db *store.Store

func TestMain(m *testing.M) {
	os.Exit(func() int {
		s, done := storetest.Open()
		defer done()
		db = s
		return m.Run()
	}())
}

// publish makes a workspace with one published form.
func publish(t *testing.T, key string) (store.Form, store.Member) {
	t.Helper()
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, key)
	require.NoError(t, err)
	m, err := db.CreateMember(ctx, store.Member{WorkspaceID: w.ID, Email: key + "@lakeside.example", Name: key, PasswordHash: "x"})
	require.NoError(t, err)
	f, err := db.CreateForm(ctx, w.ID, &form.Form{Lazo: 1, Key: key, Title: key, Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s"}}}}})
	require.NoError(t, err)
	_, err = db.Publish(ctx, w.ID, f.ID, f.DraftVersion, m.ID)
	require.NoError(t, err)
	return f, m
}

func response(f store.Form, n int) store.Response {
	return store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte(`{"a": 1}`), Parameters: []byte("{}"), ReceivedAt: time.Now(),
		Filling: fmt.Sprintf("%08x-0000-4000-8000-%012x", f.ID, n)}
}

func TestUndoAndRedoGoThroughTheWholeHistory(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "history")
	begin := f
	var titles []string
	for i := range 5 {
		var err error
		f, err = db.EditDraft(ctx, f.WorkspaceID, f.ID, f.DraftVersion, m.ID, form.SetProperty("", "title", fmt.Sprint("Title ", i)))
		require.NoError(t, err)
		titles = append(titles, f.Title)
	}
	for i := 4; i >= 0; i-- {
		assert.Equal(t, titles[i], f.Title)
		var err error
		f, err = db.Undo(ctx, f.WorkspaceID, f.ID, f.DraftVersion)
		require.NoError(t, err)
	}
	got, err := f.Definition()
	require.NoError(t, err)
	want, err := begin.Definition()
	require.NoError(t, err)
	assert.Equal(t, string(want.JSON()), string(got.JSON()))
	_, err = db.Undo(ctx, f.WorkspaceID, f.ID, f.DraftVersion)
	assert.ErrorIs(t, err, store.ErrNotFound)
	f, err = db.Redo(ctx, f.WorkspaceID, f.ID, f.DraftVersion)
	require.NoError(t, err)
	assert.Equal(t, "Title 0", f.Title)
	// A new edit takes the place of what was undone.
	f, err = db.EditDraft(ctx, f.WorkspaceID, f.ID, f.DraftVersion, m.ID, form.SetProperty("", "title", "Other"))
	require.NoError(t, err)
	_, err = db.Redo(ctx, f.WorkspaceID, f.ID, f.DraftVersion)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestOfTwoEditsOnOneStateOneIsRefused(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "conflict")
	var wait sync.WaitGroup
	errs := make([]error, 6)
	for i := range errs {
		wait.Go(func() {
			_, errs[i] = db.EditDraft(ctx, f.WorkspaceID, f.ID, f.DraftVersion, m.ID, form.SetProperty("", "title", fmt.Sprint(i)))
		})
	}
	wait.Wait()
	refused := 0
	for _, err := range errs {
		if err != nil {
			assert.ErrorIs(t, err, store.ErrConflict)
			refused++
		}
	}
	assert.Equal(t, len(errs)-1, refused)
}

func TestTheLimitHoldsUnderConcurrentSubmissions(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "limit")
	var wait sync.WaitGroup
	var mu sync.Mutex
	added, full := 0, 0
	for i := range 20 {
		wait.Go(func() {
			a, fl, err := db.AddResponseWithin(ctx, response(f, i), 7)
			assert.NoError(t, err)
			mu.Lock()
			defer mu.Unlock()
			if a {
				added++
			}
			if fl {
				full++
			}
		})
	}
	wait.Wait()
	assert.Equal(t, 7, added)
	assert.Equal(t, 13, full)
	n, err := db.CountResponses(ctx, f.ID)
	require.NoError(t, err)
	assert.Equal(t, 7, n)
}

func TestAFillingIsStoredOnce(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "once")
	for i, want := range []bool{true, false, false} {
		added, err := db.AddResponse(ctx, response(f, 1))
		require.NoError(t, err, i)
		assert.Equal(t, want, added)
	}
}

func TestAnotherWorkspaceFindsNothing(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "mine")
	other, _ := publish(t, "theirs")
	_, err := db.AddResponse(ctx, response(f, 1))
	require.NoError(t, err)
	_, err = db.FormByID(ctx, other.WorkspaceID, f.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = db.EditDraft(ctx, other.WorkspaceID, f.ID, f.DraftVersion, m.ID, form.SetProperty("", "title", "x"))
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = db.Publish(ctx, other.WorkspaceID, f.ID, f.DraftVersion, m.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, db.DeleteForm(ctx, other.WorkspaceID, f.ID), store.ErrNotFound)
	list, err := db.Responses(ctx, other.WorkspaceID, f.ID, 0, 10)
	require.NoError(t, err)
	assert.Empty(t, list)
}
