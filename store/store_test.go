package store_test

import (
	"context"
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/list"
	"lazo/store"
	"lazo/store/storetest"
)

var db *store.Store

func TestMain(m *testing.M) {
	os.Exit(storetest.Main(m, func(s *store.Store) func() {
		db = s
		return func() {}
	}))
}

// publish makes a workspace with one published form.
func publish(t *testing.T, key string) (store.Form, store.Member) {
	t.Helper()
	ctx := context.Background()
	w, err := db.CreateWorkspace(ctx, key)
	require.NoError(t, err)
	m, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: key + "@lakeside.example", Name: key, PasswordHash: "x"})
	require.NoError(t, err)
	f, err := db.InWorkspace(w.ID).CreateForm(ctx, &form.Form{Lazo: 1, Key: key, Title: key, Timezone: "UTC",
		Pages: []*form.Page{{Key: "p", Sections: []*form.Section{{Key: "s"}}}}})
	require.NoError(t, err)
	_, err = db.InWorkspace(w.ID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	return f, m
}

func response(f store.Form, n int) store.Response {
	return store.Response{
		WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte(`{"a": 1}`),
		ReceivedAt: time.Now(), Filling: fmt.Sprintf("%08x-0000-4000-8000-%012x", f.ID, n),
	}
}

func TestUndoAndRedoGoThroughTheWholeHistory(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "history")
	begin := f
	var titles []string
	for i := range 5 {
		var err error
		f, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
			form.SetProperty("", "title", fmt.Sprint("Title ", i)))
		require.NoError(t, err)
		titles = append(titles, f.Title)
	}
	for i := 4; i >= 0; i-- {
		assert.Equal(t, titles[i], f.Title)
		var err error
		_, f, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Undo(ctx, m.ID, false)
		require.NoError(t, err)
	}
	got, err := f.Definition()
	require.NoError(t, err)
	want, err := begin.Definition()
	require.NoError(t, err)
	assert.Equal(t, string(want.JSON()), string(got.JSON()))
	_, _, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Undo(ctx, m.ID, false)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, f, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Redo(ctx, m.ID, false)
	require.NoError(t, err)
	assert.Equal(t, "Title 0", f.Title)
	// A new edit takes the place of what was undone.
	f, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.SetProperty("", "title", "Other"))
	require.NoError(t, err)
	_, _, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Redo(ctx, m.ID, false)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestOfTwoEditsOnOneStateOneIsRefused(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "conflict")
	var wait sync.WaitGroup
	errs := make([]error, 6)
	for i := range errs {
		other, err := db.CreateMember(
			ctx,
			store.Member{WorkspaceID: f.WorkspaceID, Email: fmt.Sprintf("conflict-%d@lakeside.example", i), Name: "Other",
				PasswordHash: "x"},
		)
		require.NoError(t, err)
		wait.Go(func() {
			_, errs[i] = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, other.ID,
				form.SetProperty("", "title", fmt.Sprint(i)))
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

// Two people who change different things lose nothing; the same thing is a clash
// that names the other.
func TestEditsOnAnOlderStateAreMergedWhereTheyDoNotMeet(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "merge")
	other, err := db.CreateMember(
		ctx, store.Member{WorkspaceID: f.WorkspaceID, Email: "second@lakeside.example", Name: "Nadia", PasswordHash: "x"},
	)
	require.NoError(t, err)
	f, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.Edit{Op: form.AddItem, Into: "s",
			Item: &form.Item{Key: "a", Type: form.Text, Label: "A"}})
	require.NoError(t, err)
	seen := f.DraftVersion
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, seen, other.ID, form.SetProperty("a", "label", "Nadia’s"))
	require.NoError(t, err)
	f, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, seen, m.ID, form.SetProperty("a", "help", "mine"))
	require.NoError(t, err)
	def, err := f.Definition()
	require.NoError(t, err)
	p, _ := def.Find("a")
	assert.Equal(t, "Nadia’s", p.Item.Label)
	assert.Equal(t, "mine", p.Item.Help)
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, seen, m.ID, form.SetProperty("a", "label", "mine too"))
	assert.ErrorIs(t, err, store.ErrConflict)
	var clash store.Clash
	require.ErrorAs(t, err, &clash)
	assert.Equal(t, "Nadia", clash.By)
	// A question that was deleted meanwhile can't be changed.
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, other.ID,
		form.Edit{Op: form.RemoveItem, Key: "a"})
	require.NoError(t, err)
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.SetProperty("a", "placeholder", "x"))
	assert.ErrorIs(t, err, store.ErrConflict)
	// Undo takes one's own last edit back; where another has since changed the same, it asks.
	_, _, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Undo(ctx, m.ID, false)
	require.ErrorAs(t, err, &clash, "the question that it was made to is gone")
	assert.Equal(t, "Nadia", clash.By)
	_, back, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Undo(ctx, other.ID, false)
	require.NoError(t, err)
	def, err = back.Definition()
	require.NoError(t, err)
	_, ok := def.Find("a")
	assert.True(t, ok)
}

// Of what was changed so long ago that it is no longer known, nobody knows whether it meets a
// change; and what somebody changed who has left since is not one's own.
func TestEditsOnAStateThatIsNoLongerKnownAreRefused(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "forgotten")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	gone, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: f.WorkspaceID, Email: "gone@lakeside.example", Name: "Gone", PasswordHash: "x"})
	require.NoError(t, err)
	seen := f.DraftVersion
	f, err = in.Edit(ctx, seen, gone.ID, form.SetProperty("", "title", "Theirs"))
	require.NoError(t, err)
	_, err = db.Pool().Exec(ctx, "update draft_steps set member_id = null where form_id = $1", f.ID)
	require.NoError(t, err)
	var clash store.Clash
	_, err = in.Edit(ctx, seen, m.ID, form.SetProperty("", "title", "Mine"))
	require.ErrorAs(t, err, &clash)
	assert.Empty(t, clash.By)
	_, err = in.EditWhole(ctx, seen, m.ID, form.SetProperty("", "title", "Mine"))
	require.ErrorAs(t, err, &clash, "nor may all of it be replaced")
	_, err = in.Edit(ctx, seen, m.ID, form.SetProperty("", "intro", "Mine"))
	require.NoError(t, err, "what does not meet it is taken")
	_, err = db.Pool().Exec(ctx, "delete from draft_steps where form_id = $1", f.ID)
	require.NoError(t, err)
	_, err = in.Edit(ctx, seen, m.ID, form.SetProperty("", "end", "Mine"))
	assert.ErrorAs(t, err, &clash, "it is older than what is known")
}

func TestWhoIsThereToo(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "presence")
	other, err := db.CreateMember(
		ctx, store.Member{WorkspaceID: f.WorkspaceID, Email: "there@lakeside.example", Name: "Nadia", PasswordHash: "x"},
	)
	require.NoError(t, err)
	others, version, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Meet(ctx, m.ID, "a")
	require.NoError(t, err)
	assert.Empty(t, others)
	assert.Equal(t, f.DraftVersion, version)
	_, _, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Meet(ctx, other.ID, "b")
	require.NoError(t, err)
	others, _, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Meet(ctx, m.ID, "a")
	require.NoError(t, err)
	assert.Equal(t, []store.Presence{{Name: "Nadia", At: "b"}}, others)
	stranger, sm := publish(t, "stranger")
	_, _, err = db.InWorkspace(stranger.WorkspaceID).Form(f.ID).Meet(ctx, sm.ID, "")
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestWhatIsKeptStaysInItsWorkspace(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "kept")
	other, _ := publish(t, "others")
	eight := store.Rehearsal{Name: "Eight", Filling: []byte("{}"), Expected: []byte("{}")}
	for range 2 { // the same name again replaces
		require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).SaveRehearsal(ctx, eight))
		require.NoError(t, db.InWorkspace(f.WorkspaceID).SaveSection(ctx,
			store.SavedSection{Name: "Boat", Definition: []byte(`{"key": "s"}`)}))
	}
	assert.ErrorIs(t, db.InWorkspace(other.WorkspaceID).Form(f.ID).SaveRehearsal(ctx, eight), store.ErrNotFound)
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Rehearsals(ctx)
	require.NoError(t, err)
	require.Len(t, list, 1)
	sections, err := db.InWorkspace(f.WorkspaceID).SavedSections(ctx)
	require.NoError(t, err)
	require.Len(t, sections, 1)
	_, err = db.InWorkspace(other.WorkspaceID).SavedSection(ctx, sections[0].ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, db.InWorkspace(other.WorkspaceID).Form(f.ID).DeleteRehearsal(ctx, list[0].ID))
	list, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Rehearsals(ctx)
	require.NoError(t, err)
	assert.Len(t, list, 1, "another workspace deletes nothing")
	id, err := db.InWorkspace(f.WorkspaceID).AddPicture(ctx, store.Picture{MediaType: "image/png", Data: []byte{1}})
	require.NoError(t, err)
	pic, err := db.PictureByID(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "image/png", pic.MediaType)
	require.ErrorIs(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).PutLive(ctx, 9), store.ErrNotFound)
	require.ErrorIs(t, db.InWorkspace(other.WorkspaceID).Form(f.ID).PutLive(ctx, 1), store.ErrNotFound)
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).PutLive(ctx, 1))
}

func TestTheLimitHoldsUnderConcurrentSubmissions(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "limit")
	var wait sync.WaitGroup
	var mu sync.Mutex
	added, full := 0, 0
	for i := range 20 {
		wait.Go(func() {
			got, err := db.AddBounded(ctx, response(f, i), store.Bounds{Responses: 7})
			assert.NoError(t, err)
			mu.Lock()
			defer mu.Unlock()
			if got == store.Full {
				full++
			} else {
				added++
			}
		})
	}
	wait.Wait()
	assert.Equal(t, 7, added)
	assert.Equal(t, 13, full)
	n, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 7, n)
}

func TestAFillingIsStoredOnce(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "once")
	for i := range 3 {
		got, err := db.AddResponse(ctx, response(f, 1))
		require.NoError(t, err)
		assert.Equal(t, map[bool]store.Reception{true: store.Received, false: store.SentBefore}[i == 0], got)
	}
	n, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}

func TestASenderMayStoreSoManyAMinute(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "rated")
	now := time.Now()
	for i := range 4 {
		r := response(f, i)
		r.ReceivedAt = now
		got, err := db.AddBounded(ctx, r, store.Bounds{Sender: "rated", Weight: 1, Most: 2})
		require.NoError(t, err)
		assert.Equal(t, map[bool]store.Reception{true: store.Received, false: store.TooOften}[i < 2], got)
	}
	n, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 2, n)
	r := response(f, 9)
	r.ReceivedAt = now.Add(time.Minute)
	got, err := db.AddBounded(ctx, r, store.Bounds{Sender: "rated", Weight: 1, Most: 2})
	require.NoError(t, err)
	assert.Equal(t, store.Received, got, "a minute later")
	got, err = db.AddBounded(ctx, r, store.Bounds{Sender: "rated", Weight: 1, Most: 2})
	require.NoError(t, err)
	assert.Equal(t, store.SentBefore, got)
	n, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(ctx)
	require.NoError(t, err)
	assert.Equal(t, 3, n, "the same filling is stored once")
}

func TestAnotherWorkspaceFindsNothing(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "mine")
	other, _ := publish(t, "theirs")
	_, err := db.AddResponse(ctx, response(f, 1))
	require.NoError(t, err)
	_, err = db.InWorkspace(other.WorkspaceID).Form(f.ID).Get(ctx)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = db.InWorkspace(other.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, m.ID,
		form.SetProperty("", "title", "x"))
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = db.InWorkspace(other.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, db.InWorkspace(other.WorkspaceID).Form(f.ID).Delete(ctx), store.ErrNotFound)
	list, err := db.InWorkspace(other.WorkspaceID).Form(f.ID).Responses(ctx, 0, 10)
	require.NoError(t, err)
	assert.Empty(t, list)
}

func TestFilesBecomeTheResponsesOwn(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "files")
	r := response(f, 1)
	content := strings.Repeat("0123456789", 70_000) // several pieces
	u, err := db.AddUpload(
		ctx, store.Upload{FormID: f.ID, Filling: r.Filling, Item: "a.photo", Name: "photo.png", MediaType: "image/png"},
		strings.NewReader(content), 1<<20,
	)
	require.NoError(t, err)
	assert.EqualValues(t, len(content), u.Size)
	_, err = db.AddUpload(
		ctx, store.Upload{FormID: f.ID, Filling: r.Filling, Item: "a.photo", Name: "x", MediaType: "x"},
		strings.NewReader(content), 1000,
	)
	require.ErrorIs(t, err, store.ErrTooLarge)
	_, err = db.AddUpload(
		ctx, store.Upload{FormID: f.ID, Filling: r.Filling, Item: "a.other", Name: "x", MediaType: "x"},
		strings.NewReader(""), 1000,
	)
	require.ErrorIs(t, err, store.ErrNotFound)
	stray, err := db.AddUpload(
		ctx, store.Upload{FormID: f.ID, Filling: response(f, 2).Filling, Item: "a.photo", Name: "x", MediaType: "x"},
		strings.NewReader("x"), 1000,
	)
	require.NoError(t, err)
	r.Uploads = []string{u.ID, stray.ID}
	for range 2 {
		_, err := db.AddResponse(ctx, r)
		require.NoError(t, err)
	}
	kept, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseOf(ctx, r.Filling)
	require.NoError(t, err)
	got, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).UploadOfResponse(ctx, kept.ID, u.ID)
	require.NoError(t, err)
	assert.Equal(t, "photo.png", got.Name)
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).UploadOfResponse(ctx, kept.ID, stray.ID)
	require.ErrorIs(t, err, store.ErrNotFound, "a file of another filling does not come along")
	var b strings.Builder
	require.NoError(t, db.ReadUpload(ctx, u.ID, &b))
	assert.Equal(t, content, b.String())
	require.NoError(t, db.Sweep(ctx, -time.Minute)) // even those of the next minute
	left, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).UploadsOf(ctx, response(f, 2).Filling)
	require.NoError(t, err)
	assert.Empty(t, left, "what was never sent is swept")
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).DeleteResponse(ctx, kept.ID))
	assert.ErrorIs(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).DeleteResponse(ctx, kept.ID), store.ErrNotFound)
	again, err := db.AddResponse(ctx, r)
	require.NoError(t, err)
	assert.Equal(t, store.Erased, again, "what was erased does not come back")
	b.Reset()
	require.NoError(t, db.ReadUpload(ctx, u.ID, &b))
	assert.Empty(t, b.String(), "a file goes with its response")
}

func TestAChangedResponseKeepsItsVersions(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "versions")
	r := response(f, 1)
	_, err := db.AddResponse(ctx, r)
	require.NoError(t, err)
	kept, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseOf(ctx, r.Filling)
	require.NoError(t, err)
	for i := range 3 {
		answers := fmt.Appendf(nil, `{"a": %d}`, i+10)
		got, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ChangeResponse(ctx, kept.ID,
			store.Response{Edition: 1, Answers: answers},
			time.Now())
		require.NoError(t, err)
		assert.Equal(t, store.Received, got)
	}
	now, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseWithVersions(ctx, kept.ID)
	require.NoError(t, err)
	assert.JSONEq(t, `{"a": 12}`, string(now.Answers))
	assert.NotNil(t, now.ChangedAt)
	require.Len(t, now.Versions, 3)
	assert.JSONEq(t, `{"a": 11}`, string(now.Versions[0].Answers))
	assert.JSONEq(t, `{"a": 1}`, string(now.Versions[2].Answers))
	// The same answers of a newer edition are a change; the same of the same edition are none.
	_, err = db.InWorkspace(f.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	for _, c := range []struct{ edition, versions int }{{1, 3}, {2, 4}, {2, 4}} {
		_, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ChangeResponse(ctx, kept.ID,
			store.Response{Edition: c.edition, Answers: []byte(`{"a": 12}`)}, time.Now())
		require.NoError(t, err)
		now, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).ResponseWithVersions(ctx, kept.ID)
		require.NoError(t, err)
		assert.Len(t, now.Versions, c.versions)
		assert.Equal(t, c.edition, now.Edition)
	}
	other, _ := publish(t, "versions-of-others")
	_, err = db.InWorkspace(other.WorkspaceID).Form(f.ID).ChangeResponse(ctx, kept.ID,
		store.Response{Edition: 1, Answers: []byte("{}")}, time.Now())
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// slowly hands out its pieces one by one, and waits for leave before the second.
type slowly struct {
	pieces []string
	leave  chan struct{}
	end    error
}

func (s *slowly) Read(p []byte) (int, error) {
	if len(s.pieces) == 0 {
		return 0, s.end
	}
	if len(s.pieces) == 1 {
		<-s.leave
	}
	n := copy(p, s.pieces[0])
	s.pieces = s.pieces[1:]
	return n, nil
}

func TestASlowSenderHoldsNoConnection(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "slow")
	leave := make(chan struct{})
	stat, _ := db.Connections()
	var all sync.WaitGroup
	for n := range int(stat.MaxConns()) + 4 { // more than there are connections
		all.Go(func() {
			u := store.Upload{FormID: f.ID, Filling: response(f, n).Filling, Item: "a.photo", Name: "photo.png",
				MediaType: "image/png"}
			_, err := db.AddUpload(ctx, u, &slowly{pieces: []string{"begin", "end"}, leave: leave, end: io.EOF}, 1<<20)
			assert.NoError(t, err)
		})
	}
	soon, cancel := context.WithTimeout(ctx, 20*time.Second)
	defer cancel()
	for range 20 {
		_, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Get(soon)
		require.NoError(t, err, "others are served meanwhile")
	}
	close(leave)
	all.Wait()
}

func TestAFileThatIsCutOffIsNone(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "cut")
	u := store.Upload{FormID: f.ID, Filling: response(f, 1).Filling, Item: "a.photo", Name: "photo.png",
		MediaType: "image/png"}
	before, err := db.AddUpload(ctx, u, strings.NewReader("whole"), 1<<20)
	require.NoError(t, err)
	done := make(chan struct{})
	close(done)
	for _, pieces := range [][]string{{"", "x"}, {strings.Repeat("x", 300_000), "y", "z"}} {
		_, err = db.AddUpload(ctx, u, &slowly{pieces: pieces, leave: done, end: io.ErrUnexpectedEOF}, 1<<20)
		require.ErrorIs(t, err, io.ErrUnexpectedEOF)
	}
	left, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).UploadsOf(ctx, u.Filling)
	require.NoError(t, err)
	assert.Len(t, left, 1)
	assert.Contains(t, left, before.ID, "what there was stays")
}

func TestASnapshotIsOfOneMoment(t *testing.T) {
	ctx := context.Background()
	f, _, lens := lensOf(t, "snapshot")
	look := store.Look{Lens: lens, Now: time.Now()}
	for n := range 3 {
		_, err := db.AddResponse(ctx, response(f, n))
		require.NoError(t, err)
	}
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).AtOnce(ctx, func(all store.Snapshot) error {
		for pass := range 2 {
			n := 0
			require.NoError(t, all.Each(look, func(r store.Response) error {
				if n++; n == 1 && pass == 0 {
					require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).DeleteResponse(ctx, r.ID))
					_, err := db.AddResponse(ctx, response(f, 100))
					require.NoError(t, err)
				}
				return nil
			}))
			assert.Equal(t, 3, n)
		}
		return nil
	}))
}

func TestTheAddressOfADeletedFormGoesToNobodyElse(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "retired")
	theirs, err := db.CreateWorkspace(ctx, "Garzas")
	require.NoError(t, err)
	require.NoError(t, db.InWorkspace(f.WorkspaceID).Form(f.ID).Delete(ctx))
	def := func() *form.Form { return &form.Form{Lazo: 1, Key: "retired", Title: "x", Timezone: "UTC"} }
	other, err := db.InWorkspace(theirs.ID).CreateForm(ctx, def())
	require.NoError(t, err)
	assert.Equal(t, "retired-2", other.Address)
	again, err := db.InWorkspace(f.WorkspaceID).CreateForm(ctx, def())
	require.NoError(t, err)
	assert.Equal(t, "retired", again.Address, "its own workspace may use it again")
	third, err := db.InWorkspace(theirs.ID).CreateForm(ctx, def())
	require.NoError(t, err)
	assert.Equal(t, "retired-3", third.Address)
}

func TestPicturesThatNothingShowsAreSwept(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "pictured")
	add := func() string {
		id, err := db.InWorkspace(f.WorkspaceID).AddPicture(ctx, store.Picture{MediaType: "image/png", Data: []byte("x")})
		require.NoError(t, err)
		return id
	}
	inDraft, inEdition, undone, kept, unshown, fresh := add(), add(), add(), add(), add(), add()
	show := func(version int64, id string) store.Form {
		after, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, version, m.ID,
			form.SetProperty("", "intro", "![The lake](/p/"+id+")"))
		require.NoError(t, err)
		return after
	}
	after := show(f.DraftVersion, undone)
	after = show(after.DraftVersion, inEdition)
	_, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Publish(ctx, after.DraftVersion, m.ID)
	require.NoError(t, err)
	show(after.DraftVersion, inDraft)
	require.NoError(
		t,
		db.InWorkspace(f.WorkspaceID).SaveSection(ctx,
			store.SavedSection{Name: "Crew", Definition: []byte(`{"intro": "/p/` + kept + `"}`)}),
	)
	_, err = db.Pool().Exec(ctx, "update pictures set made_at = now() - interval '40 days' where id <> $1", fresh)
	require.NoError(t, err)
	require.NoError(t, db.Sweep(ctx, time.Hour))
	for name, id := range map[string]string{"in the draft": inDraft, "in an edition": inEdition,
		"that undoing brings back": undone, "of a kept section": kept, "just sent": fresh} {
		_, err := db.PictureByID(ctx, id)
		assert.NoError(t, err, name)
	}
	_, err = db.PictureByID(ctx, unshown)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

func TestASessionThatWasEndedDoesNotComeBack(t *testing.T) {
	ctx := context.Background()
	s := db.Sessions()
	expiry := time.Now().Add(time.Hour)
	require.NoError(t, s.CommitCtx(ctx, "hash", []byte("one"), expiry))
	require.NoError(t, s.CommitCtx(ctx, "hash", []byte("two"), expiry))
	data, found, err := s.FindCtx(ctx, "hash")
	require.NoError(t, err)
	assert.True(t, found)
	assert.Equal(t, "two", string(data))
	require.NoError(t, s.DeleteCtx(ctx, "hash"))
	require.NoError(t, s.CommitCtx(ctx, "hash", []byte("of a request under way"), expiry))
	_, found, err = s.FindCtx(ctx, "hash")
	require.NoError(t, err)
	assert.False(t, found)
	require.NoError(t, s.CommitCtx(ctx, "old", []byte("x"), time.Now().Add(-time.Second)))
	_, found, err = s.FindCtx(ctx, "old")
	require.NoError(t, err)
	assert.False(t, found, "it has expired")
}

// Places are never given twice, however many ask at once, and are given back.
func TestPlacesAreTakenOnce(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "places")
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	five := 5
	takes := func(choice string) engine.Takes { return engine.Takes{"slot": {choice: {N: 1, Of: &five}}} }
	var mu sync.Mutex
	got := map[store.Reception]int{}
	var ids []string
	var all sync.WaitGroup
	for range 200 {
		all.Go(func() {
			filling := uuid.NewString()
			end, err := db.AddBounded(ctx, store.Response{
				WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte("{}"),
				ReceivedAt: time.Now(), Filling: filling, Takes: takes("am")},
				store.Bounds{Sender: "send:" + filling, Weight: 1, Most: 30})
			assert.NoError(t, err)
			mu.Lock()
			defer mu.Unlock()
			got[end]++
			if end == store.Received {
				r, err := in.ResponseOf(ctx, filling)
				assert.NoError(t, err)
				ids = append(ids, r.ID)
			}
		})
	}
	all.Wait()
	assert.Equal(t, map[store.Reception]int{store.Received: 5, store.NoPlaces: 195}, got)
	taken := func() map[string]map[string]int {
		n, err := in.Taken(ctx)
		require.NoError(t, err)
		return n
	}
	assert.Equal(t, map[string]map[string]int{"slot": {"am": 5}}, taken())
	change := func(id string, takes engine.Takes) store.Reception {
		answers := fmt.Appendf(nil, `{"at": %d}`, time.Now().UnixNano())
		got, err := in.ChangeResponse(ctx, id, store.Response{Edition: 1, Answers: answers, Takes: takes}, time.Now())
		require.NoError(t, err)
		return got
	}
	// A change moves the place, and what was moved away from is free again.
	assert.Equal(t, store.Received, change(ids[0], takes("pm")))
	assert.Equal(t, map[string]map[string]int{"slot": {"am": 4, "pm": 1}}, taken())
	assert.Equal(t, store.Received, change(ids[1], takes("am")), "who has one keeps it")
	assert.Equal(t, store.Received, change(ids[0], takes("am")))
	one := 1
	full := engine.Takes{"slot": {"pm": {N: 2, Of: &one}}}
	assert.Equal(t, store.NoPlaces, change(ids[0], full))
	assert.Equal(t, map[string]map[string]int{"slot": {"am": 5, "pm": 0}}, taken(), "what was refused changed nothing")
	require.NoError(t, in.DeleteResponse(ctx, ids[2]))
	assert.Equal(t, 4, taken()["slot"]["am"])
	assert.Equal(t, store.Received, change(ids[0], nil))
	assert.Equal(t, 3, taken()["slot"]["am"])
	beyond := engine.Takes{"slot": {"am": {N: 9}}}
	assert.Equal(t, store.Received, change(ids[0], beyond), "the workspace may go beyond")
	assert.Equal(t, 12, taken()["slot"]["am"])
}

func TestListsOfTheWorkspace(t *testing.T) {
	ctx := context.Background()
	f, _ := publish(t, "lists-of-the-workspace")
	other, _ := publish(t, "lists-of-others")
	in := db.InWorkspace(f.WorkspaceID)
	table := list.Started()
	table.Entries = []form.Entry{{"code": "h", "name": "Heron"},
		{"code": "t", "name": "Teal", "fee": json.Number("10.50")}}
	l, err := in.AddList(ctx, "piers", "Piers", table, 0, "made")
	require.NoError(t, err)
	_, err = in.AddList(ctx, "piers", "Piers again", table, 0, "made")
	assert.ErrorIs(t, err, store.ErrTaken)
	got, err := in.ListTable(ctx, l.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, table, got, "numbers are as they were written")

	next := form.Table{Columns: table.Columns, Entries: table.Entries[:1]}
	_, err = in.SaveList(ctx, l.ID, 2, next, 0, "cut")
	assert.ErrorIs(t, err, store.ErrConflict, "it is at version 1")
	saved, err := in.SaveList(ctx, l.ID, 1, next, 0, "cut")
	require.NoError(t, err)
	assert.Equal(t, 2, saved.Version)
	states, err := in.ListStates(ctx, []string{"piers", "unknown"})
	require.NoError(t, err)
	assert.Equal(t, []store.ListState{{ID: l.ID, Key: "piers", Version: 2}}, states)
	versions, err := in.ListVersions(ctx, l.ID)
	require.NoError(t, err)
	require.Len(t, versions, 2)
	assert.Equal(t, []any{2, 1, "cut"}, []any{versions[0].Number, versions[0].Size, versions[0].Says})

	id, err := in.Propose(ctx, l.ID, 2, table, "from a file")
	require.NoError(t, err)
	p, err := in.Proposal(ctx, l.ID, id)
	require.NoError(t, err)
	assert.Equal(t, 2, p.Base)
	read, err := p.Table()
	require.NoError(t, err)
	assert.Equal(t, table, read)

	// Another workspace finds none of it.
	elsewhere := db.InWorkspace(other.WorkspaceID)
	_, err = elsewhere.List(ctx, l.ID)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = elsewhere.ListTable(ctx, l.ID, 1)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = elsewhere.SaveList(ctx, l.ID, 2, table, 0, "stolen")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = elsewhere.Proposal(ctx, l.ID, id)
	assert.ErrorIs(t, err, store.ErrNotFound)
	require.NoError(t, elsewhere.DeleteList(ctx, l.ID))
	lists, err := in.Lists(ctx)
	require.NoError(t, err)
	require.Len(t, lists, 1)
	assert.Equal(t, 1, lists[0].Size)
}

func TestWhoUsesAListAndHoldsItsCodes(t *testing.T) {
	ctx := context.Background()
	f, m := publish(t, "users-of-a-list")
	in := db.InWorkspace(f.WorkspaceID)
	uses, err := in.UsesOf(ctx, "piers")
	require.NoError(t, err)
	assert.Empty(t, uses)
	edit := form.SetProperty("", "lists", map[string]form.List{"piers": {Shared: "piers"}})
	_, err = in.Form(f.ID).Edit(ctx, f.DraftVersion, m.ID, edit)
	require.NoError(t, err)
	uses, err = in.UsesOf(ctx, "piers")
	require.NoError(t, err)
	assert.Equal(t, []store.ListUse{{FormID: f.ID, Title: uses[0].Title, Draft: true}}, uses)
	for _, answers := range []string{`{"pier": "h"}`, `{"pier": ["t", "h"]}`, `{"crew": [{"pier": "x"}, {"pier": "t"}]}`} {
		_, err = db.AddResponse(ctx,
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, Answers: []byte(answers),
				ReceivedAt: time.Now(), Filling: uuid.NewString(), Labels: map[string]map[string]string{"pier": {"h": "Heron"}}})
		require.NoError(t, err)
	}
	for _, c := range []struct {
		path  []string
		codes []string
		n     int
	}{
		{[]string{"pier"}, []string{"h"}, 2}, {[]string{"pier"}, []string{"t", "q"}, 1},
		{[]string{"crew", "pier"}, []string{"t"}, 1}, {[]string{"pier"}, []string{"x"}, 0},
	} {
		n, err := in.Form(f.ID).Holding(ctx, c.path, c.codes)
		require.NoError(t, err)
		assert.Equal(t, c.n, n, "%v %v", c.path, c.codes)
	}
}

// A limit holds of any time as long as its window, not of the part that the clock is in.
func TestCountsAreOfTheWholeWindow(t *testing.T) {
	ctx := context.Background()
	const window = 15 * time.Minute
	part := time.Date(2027, 5, 3, 9, 15, 0, 0, time.UTC)
	do := func(at time.Time) int {
		n, err := db.CountWithin(ctx, "rowing", window, at)
		require.NoError(t, err)
		return n
	}
	for n := range 6 {
		assert.Equal(t, n+1, do(part.Add(-time.Second)))
	}
	assert.Equal(t, 7, do(part.Add(time.Second)), "just begun: all of it counts still")
	assert.Equal(t, 5, do(part.Add(window/2)), "half of it counts")
	require.NoError(t, db.Uncount(ctx, "rowing", part))
	assert.Equal(t, 1+1, do(part.Add(window)), "all that was done within, and none of what was before")
	assert.Equal(t, 1, do(part.Add(3*window)))
}
