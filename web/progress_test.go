package web_test

import (
	"context"
	"fmt"
	"maps"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
)

// How far people come is counted by pages, each filling once, and tells nobody from another.
func TestHowFarPeopleCome(t *testing.T) {
	item := func(key string) []*form.Section {
		return []*form.Section{{Key: "s" + key, Items: []*form.Item{{Key: key, Type: form.Text, Label: "Question " + key}}}}
	}
	f := published(t, &form.Form{Lazo: 1, Key: "far", Title: "Far", Timezone: "UTC", End: "It has arrived.",
		Pages: []*form.Page{
			{Key: "one", Title: "Page one", Sections: item("a")}, {Key: "two", Title: "Page two", Sections: item("b")},
			{Key: "three", Title: "Page three", Sections: item("c")}}})
	path := "/f/" + f.Address
	press := func(u *unscripted, buttons ...string) {
		for _, do := range buttons {
			u.press(do)
		}
	}
	press(paper(t, path), "next", "next", "back", "next", "send") // once each, however one goes about
	press(paper(t, path), "next")                                 // left on the second page
	press(paper(t, path), "update")                               // and on the first
	u := paper(t, path)
	press(u, "next", "next")
	last := u.page.Submit("send")
	u.post(u.path, last)
	u.post(u.path, last) // a doubled click
	paper(t, path)       // only looked at
	in := db.InWorkspace(f.WorkspaceID).Form(f.ID)
	want := map[string][2]int{"": {4, 2}, "one": {4, 3}, "two": {3, 2}, "three": {2, 2}}
	var got map[string][2]int
	require.Eventually(t, func() bool {
		pages, since, err := in.Progress(context.Background())
		require.NoError(t, err)
		got = map[string][2]int{}
		for _, p := range pages {
			got[p.Page] = [2]int{p.Came, p.Went}
		}
		return maps.Equal(want, got) && !since.IsZero()
	}, 5*time.Second, 50*time.Millisecond)
	assert.Equal(t, want, got)
	_, page := newClient(t).signIn().get(fmt.Sprintf("/forms/%d/responses/summary", f.ID))
	assert.Contains(t, page, "4 began to fill it in")
	assert.Contains(t, page, "2 sent it")
}
