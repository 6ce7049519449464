package web_test

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/form"
	"lazo/core/form/formtest"
	"lazo/demo"
	"lazo/store"
	"lazo/web/fill/filltest"
)

// No edit in any order leaves a draft that a page can't show: after random edits,
// kept by the database, every page of the form is visited, and all of it is undone.
func TestEveryPageShowsWhateverWasEdited(t *testing.T) {
	atLength(t)
	ctx := context.Background()
	member, err := db.MemberByEmail(ctx, demo.Email)
	require.NoError(t, err)
	desk := newClient(t).signIn()
	n := uint64(0)
	rapid.Check(t, func(rt *rapid.T) {
		if n++; n > filltest.Seeds(25) {
			return
		}
		def, remarks := form.Read([]byte(formtest.Everything))
		require.Empty(rt, remarks)
		def.Key = fmt.Sprintf("edited-%d", n)
		f, err := db.InWorkspace(member.WorkspaceID).CreateForm(ctx, def)
		require.NoError(rt, err)
		if rapid.Bool().Draw(rt, "published") {
			_, err = db.InWorkspace(member.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, member.ID)
			require.NoError(rt, err)
		}
		made := 0
		for range rapid.IntRange(1, 8).Draw(rt, "edits") {
			now, err := f.Definition()
			require.NoError(rt, err)
			after, err := db.InWorkspace(member.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, member.ID,
				formtest.AnyEdit(rt, now))
			if errors.Is(err, form.ErrEdit) {
				continue
			}
			require.NoError(rt, err)
			if after.DraftVersion > f.DraftVersion { // else nothing was changed
				made++
			}
			f = after
			kept, err := db.Draft(f)
			require.NoError(rt, err)
			stored, err := f.Definition()
			require.NoError(rt, err)
			require.Equal(rt, string(stored.JSON()), string(kept.JSON()), "what is remembered is what is stored")
		}
		visitAll(rt, desk, f)
		for range made {
			_, f, err = db.InWorkspace(member.WorkspaceID).Form(f.ID).Undo(ctx, member.ID, false)
			require.NoError(rt, err)
		}
		back, err := f.Definition()
		require.NoError(rt, err)
		require.Equal(rt, string(def.JSON()), string(back.JSON()))
		require.NoError(rt, db.InWorkspace(member.WorkspaceID).Form(f.ID).Delete(ctx))
	})
}

// visitAll opens every page of a form on the desk, and every row of its manuscript.
func visitAll(t *rapid.T, desk client, f store.Form) {
	def, err := f.Definition()
	require.NoError(t, err)
	base := fmt.Sprintf("/forms/%d", f.ID)
	paths := []string{"", "/rehearsal", "/publish", "/public", "/links", "/file", "/season", "/delete", "/responses",
		"/responses.csv",
		"/responses/summary", "/responses/new", "/responses?edit=1", "/responses/condition?do=add", "/responses/out"}
	for tag := range def.Translations {
		paths = append(paths, "/languages/"+tag)
	}
	for key := range def.Keys() {
		paths = append(paths, "?at="+key, "?tied="+key)
	}
	for _, tie := range def.AllTies() {
		if tie.Owner != "" {
			paths = append(paths, "/rehearsal?seek="+url.QueryEscape(tie.Owner+":"+tie.Property+":met"))
		}
	}
	paths = append(
		paths,
		"/rehearsal?seek=club:checks.-1.ok:met",
		"/rehearsal?seek="+url.QueryEscape(
			rapid.SampledFrom([]string{"boat:choices.-1.offered:not", "n:value.when:met", "p:next.99.when:met", "::",
				"a:b:c:d"}).Draw(t, "seek"),
		),
	)
	for _, path := range paths {
		status, page := desk.get(base + path)
		if status >= http.StatusInternalServerError {
			t.Fatalf("%s: %d\n%s\n%s", path, status, page, def.JSON())
		}
	}
}
