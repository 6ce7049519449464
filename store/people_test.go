package store_test

import (
	"context"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/store"
)

// harbour is a workspace with an owner.
func harbour(t *testing.T, email string) (store.InWorkspace, store.Member) {
	t.Helper()
	w, err := db.CreateWorkspace(context.Background(), "Harbour of "+email)
	require.NoError(t, err)
	m, err := db.CreateMember(context.Background(),
		store.Member{WorkspaceID: w.ID, Email: email, Name: "Ana", PasswordHash: "x"})
	require.NoError(t, err)
	return db.InWorkspace(w.ID), m
}

func TestAWorkspaceKeepsAnOwner(t *testing.T) {
	ctx := context.Background()
	in, ana := harbour(t, "owner-ana@pedralta.example")
	require.ErrorIs(t, in.SetRole(ctx, ana.ID, store.Designer, false, nil), store.ErrLastOwner)
	require.ErrorIs(t, in.Remove(ctx, ana.ID), store.ErrLastOwner)
	require.ErrorIs(t, db.DeleteAccount(ctx, ana.AccountID), store.ErrLastOwner)
	bo, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: ana.WorkspaceID, Email: "owner-bo@pedralta.example", Name: "Bo",
			PasswordHash: "x"})
	require.NoError(t, err)
	// Both leave at once: one of them can't.
	var left, kept atomic.Int32
	var both sync.WaitGroup
	for _, m := range []store.Member{ana, bo} {
		both.Go(func() {
			if err := in.Remove(ctx, m.ID); err == nil {
				left.Add(1)
			} else if assert.ErrorIs(t, err, store.ErrLastOwner) {
				kept.Add(1)
			}
		})
	}
	both.Wait()
	assert.Equal(t, [2]int32{1, 1}, [2]int32{left.Load(), kept.Load()})
	members, err := in.Members(ctx)
	require.NoError(t, err)
	require.Len(t, members, 1)
	other, _ := harbour(t, "elsewhere-owner@pedralta.example")
	require.ErrorIs(t, other.Remove(ctx, members[0].ID), store.ErrNotFound, "another workspace's")
	require.ErrorIs(t, other.SetRole(ctx, members[0].ID, store.Owner, false, nil), store.ErrNotFound)
}

// An address that is good once is used by one of many who try at once, and what it leads
// to is there in hashes alone.
func TestAnAddressIsGoodOnce(t *testing.T) {
	ctx := context.Background()
	in, ana := harbour(t, "once-ana@pedralta.example")
	i, err := in.Invite(ctx, store.Invited{Email: "Once-Bo@pedralta.example", Role: store.Reader, MayExport: true,
		MadeBy: &ana.ID})
	require.NoError(t, err)
	_, err = in.Invite(ctx, store.Invited{Email: "once-ana@pedralta.example", Role: store.Reader})
	require.ErrorIs(t, err, store.ErrConflict, "a member already")
	secret, err := db.AddToken(ctx, store.Token{Kind: store.Invitation, Invitation: i.ID}, time.Hour)
	require.NoError(t, err)
	var n int
	require.NoError(t, db.Pool().QueryRow(ctx, "select count(*) from tokens x where x::text like '%' || $1 || '%'",
		secret).Scan(&n))
	assert.Zero(t, n)
	_, err = db.Token(ctx, store.Reset, secret)
	require.ErrorIs(t, err, store.ErrNotFound, "it is for something else")
	var joined atomic.Int32
	var all sync.WaitGroup
	for range 8 {
		all.Go(func() {
			if _, err := db.Join(ctx, secret, 0, store.Account{Name: "Bo", PasswordHash: "x"}); err == nil {
				joined.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 1, joined.Load())
	bo, err := db.MemberByEmail(ctx, "once-bo@pedralta.example")
	require.NoError(t, err)
	assert.Equal(t, store.Reader, bo.Role)
	assert.True(t, bo.MayExport)

	for what, spoil := range map[string]string{"over": "update tokens set expires_at = now()",
		"taken back": "delete from invitations"} {
		i, err := in.Invite(ctx, store.Invited{Email: "once-" + what + "@pedralta.example", Role: store.Designer})
		require.NoError(t, err)
		secret, err := db.AddToken(ctx, store.Token{Kind: store.Invitation, Invitation: i.ID}, time.Hour)
		require.NoError(t, err)
		_, err = db.Pool().Exec(ctx, spoil)
		require.NoError(t, err)
		_, err = db.Join(ctx, secret, 0, store.Account{Name: "Ciro", PasswordHash: "x"})
		require.ErrorIs(t, err, store.ErrNotFound, what)
	}
}

// What somebody made stays when they go; they don't, and a reader reads nothing any more.
func TestWhatARemovedPersonMadeStays(t *testing.T) {
	ctx := context.Background()
	in, ana := harbour(t, "stays-ana@pedralta.example")
	bo, err := db.CreateMember(ctx,
		store.Member{WorkspaceID: ana.WorkspaceID, Email: "stays-bo@pedralta.example", Name: "Bo",
			PasswordHash: "x", Role: store.Designer})
	require.NoError(t, err)
	f, err := in.CreateForm(ctx, &form.Form{Lazo: 1, Key: "stays", Title: "T", Timezone: "UTC"})
	require.NoError(t, err)
	_, err = in.Form(f.ID).Publish(ctx, f.DraftVersion, bo.ID)
	require.NoError(t, err)
	signIn, err := db.AddSignIn(ctx, store.SignIn{AccountID: bo.AccountID})
	require.NoError(t, err)
	require.NoError(t, in.SetRole(ctx, bo.ID, store.Reader, false, []store.FormID{f.ID, 0}))
	m, _, err := db.SignedIn(ctx, signIn.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Reader, m.Role, "it holds from then on")
	_, err = db.ForMember(m).Form(f.ID).Get(ctx)
	require.NoError(t, err)
	require.NoError(t, in.Remove(ctx, bo.ID))
	_, err = db.ForMember(m).Form(f.ID).Get(ctx)
	require.ErrorIs(t, err, store.ErrNotFound)
	m, _, err = db.SignedIn(ctx, signIn.ID)
	require.NoError(t, err)
	assert.Zero(t, m.WorkspaceID, "they are signed in, and in no workspace")
	emails, err := in.MemberEmails(ctx)
	require.NoError(t, err)
	assert.Equal(t, []string{"stays-ana@pedralta.example"}, emails)
	e, err := db.Edition(ctx, f.EditionID(1))
	require.NoError(t, err)
	require.NotNil(t, e.PublishedBy)
	assert.Equal(t, bo.ID, *e.PublishedBy)
	_, err = db.CreateMember(ctx, store.Member{WorkspaceID: ana.WorkspaceID, Email: "stays-bo@pedralta.example"})
	require.NoError(t, err, "they can come again")
}

// The trail is added to; nothing that the application can do changes it, and it goes when
// its time is over.
func TestTheTrailStays(t *testing.T) {
	ctx := context.Background()
	in, ana := harbour(t, "trail-ana@pedralta.example")
	require.NoError(t, db.AddStep(ctx,
		store.TrailStep{WorkspaceID: &ana.WorkspaceID, Who: "Ana", Act: "look", Visitor: "192.0.2.1"}))
	require.NoError(t, db.AddStep(ctx,
		store.TrailStep{WorkspaceID: &ana.WorkspaceID, Who: "Ana", Act: "export", Visitor: "192.0.2.1",
			At: time.Now().AddDate(0, 0, -40)}))
	for _, q := range []string{"update trail set who = 'Bo'", "delete from trail",
		"delete from trail where act = 'export'"} {
		_, err := db.Pool().Exec(ctx, q)
		require.Error(t, err, q)
		assert.Contains(t, err.Error(), "the trail is not changed")
	}
	require.NoError(t, db.Sweep(ctx, time.Hour))
	steps, err := in.Trail(ctx, store.Trail{Limit: 10})
	require.NoError(t, err)
	require.Len(t, steps, 2)
	require.NoError(t, in.KeepTrail(ctx, 30))
	require.NoError(t, db.Sweep(ctx, time.Hour))
	steps, err = in.Trail(ctx, store.Trail{Limit: 10})
	require.NoError(t, err)
	require.Len(t, steps, 1)
	assert.Equal(t, "look", steps[0].Act)
	other, _ := harbour(t, "trail-elsewhere@pedralta.example")
	steps, err = other.Trail(ctx, store.Trail{Limit: 10})
	require.NoError(t, err)
	assert.Empty(t, steps)
}

// A table and its summary are one look; what is looked at by itself, or by others, is not.
func TestLooksThatFollowEachOtherAreOne(t *testing.T) {
	ctx := context.Background()
	in, ana := harbour(t, "looks-ana@pedralta.example")
	first, second := store.FormID(1), store.FormID(2)
	for _, look := range []struct {
		form    *store.FormID
		visitor string
	}{{&first, "192.0.2.1"}, {&first, "192.0.2.1"}, {&second, "192.0.2.1"}, {&first, "192.0.2.2"}} {
		require.NoError(t, db.AddLook(ctx,
			store.TrailStep{WorkspaceID: &ana.WorkspaceID, AccountID: &ana.AccountID, Who: "Ana", Act: "look",
				FormID: look.form, Visitor: look.visitor}))
	}
	steps, err := in.Trail(ctx, store.Trail{Limit: 10})
	require.NoError(t, err)
	assert.Len(t, steps, 3)
}
