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
	"lazo/store"
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
			var taken engine.Taken
			if p.HasPlaces() { // somebody was here before
				taken = fillWithoutAScript(t, rng, f, p, nil)
			}
			fillWithoutAScript(t, rng, f, p, taken)
		})
	}
}

// fillWithoutAScript fills a random form in and gives what is taken of its places then.
func fillWithoutAScript(
	t *testing.T, rng *rand.Rand, f store.Form, p *engine.Program, taken engine.Taken,
) engine.Taken {
	t.Helper()
	def, seed := p.Form, f.Address
	u := paper(t, "/f/"+f.Address)
	who := filltest.NewRespondent(p, taken)
	look := func(page, when string) {
		t.Helper()
		require.Equal(
			t, who.Expect(page).Alike(def), u.page.Screen().Alike(def), "%s, %s\n%s\ngiven %v %v", seed, when, def.JSON(),
			who.Given, who.Rows,
		)
	}
	var did []string
	route := who.Outcome().Route()
	at := 0
	look(route[at], "at first")
	for n := range 14 {
		a, ok := who.Draw(rng, route[at])
		did = append(did, fmt.Sprint(a))
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
			to := 1 - at
			u.press([]string{"back", "next"}[to])
			if to == 0 || who.Next(route[at]) {
				at = to
			}
			look(route[at], "another page")
		}
	}
	if at < len(route)-1 {
		u.press("next")
		if !who.Next(route[at]) {
			require.Contains(t, u.text, who.Refusal(), "%s: %v", seed, did)
			return taken
		}
	}
	u.press("send")
	if refusal := who.Refusal(); refusal != "" {
		require.Contains(t, u.text, refusal, "%s: %v", seed, did)
		return taken
	}
	require.Contains(t, u.text, "It has arrived", "%s: %v", seed, did)
	assert.Equal(t, who.Stored(), storedOf(t, f.Address), "%s\n%s", seed, def.JSON())
	return who.Held()
}

// storedOf is the newest response to a form, without the identities of its rows.
func storedOf(t *testing.T, address string) map[string]any {
	f, err := db.FormByAddress(context.Background(), address)
	require.NoError(t, err)
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	require.NotEmpty(t, list)
	var out map[string]any
	require.NoError(t, json.Unmarshal(list[0].Answers, &out))
	return filltest.WithoutRowIDs(out)
}
