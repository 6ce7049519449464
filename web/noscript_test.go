package web_test

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/web/fill/filltest"
)

// unscripted is somebody who fills a random form in without scripts.
type unscripted struct {
	client
	path string
	page *filltest.Page
	text string
}

func (u *unscripted) press(do string) {
	u.t.Helper()
	_, u.text = u.post(u.path, u.page.Submit(do))
	u.read()
}

// Without a script, too, each control says what the outcome says after every
// update, and what is stored is what stood there.
func TestRandomFormsWithoutAScript(t *testing.T) {
	for seed := range filltest.Seeds(60) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			rng := rand.New(rand.NewPCG(seed, 1))
			def := filltest.Form(rng, fmt.Sprintf("unscripted-%d", seed))
			p, remarks := engine.Compile(def)
			require.NotNil(t, p, remarks)
			f := published(t, def)
			u := paper(t, "/f/"+f.Address)
			who := filltest.NewRespondent(p)
			look := func(page, when string) {
				t.Helper()
				require.Equal(
					t, who.Expect(page).Alike(def), u.page.Screen().Alike(def), "seed %d, %s\n%s\ngiven %v %v", seed, when, def.JSON(),
					who.Given, who.Rows,
				)
			}
			route := who.Outcome().Route()
			at := 0
			look(route[at], "at first")
			for n := range 14 {
				a, ok := who.Draw(rng, route[at])
				switch {
				case !ok:
					continue
				case a.Press:
					u.press(a.Name)
				default:
					u.page.Do(a)
					u.press("update")
				}
				look(route[at], fmt.Sprintf("act %d: %v", n, a))
				if rng.IntN(4) == 0 && len(route) > 1 {
					at = 1 - at
					u.press([]string{"back", "next"}[at])
					look(route[at], "another page")
				}
			}
			if at < len(route)-1 {
				u.press("next")
			}
			u.press("send")
			require.Contains(t, u.text, "It has arrived", "seed %d", seed)
			assert.Equal(t, who.Stored(), storedOf(t, f.Address), "seed %d\n%s", seed, def.JSON())
		})
	}
}

// storedOf is the newest response to a form, without the identities of its rows.
func storedOf(t *testing.T, address string) map[string]any {
	f, err := db.FormByAddress(context.Background(), address)
	require.NoError(t, err)
	list, err := db.In(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	require.NotEmpty(t, list)
	var out map[string]any
	require.NoError(t, json.Unmarshal(list[0].Answers, &out))
	return filltest.WithoutRowIDs(out)
}
