package web_test

import (
	"context"
	"math/rand/v2"
	"net/http"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
)

// madeUp are secrets that somebody could try who has seen one like it: shorter, longer, with
// one sign changed, in other letters, and any.
func madeUp(secret string, random *rand.Rand, n int) []string {
	signs := "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_"
	anyOf := func(n int) string {
		var b strings.Builder
		for range n {
			b.WriteByte(signs[random.IntN(len(signs))])
		}
		return b.String()
	}
	out := []string{secret[:len(secret)-1], secret[1:], secret + "A", "A" + secret, secret + "%20", "%20" + secret,
		secret + "%00", secret + "=",
		strings.ToUpper(secret), strings.ToLower(secret), secret + "/..", secret + ";", secret + "." + secret, "null", "0",
		"%27%20or%201=1--",
		strings.Repeat("A", 5000)}
	for range n {
		at := random.IntN(len(secret))
		other := signs[random.IntN(len(signs))]
		if secret[at] == other || at == len(secret)-1 { // the last sign may hold bits that say nothing
			continue
		}
		out = append(out, secret[:at]+string(other)+secret[at+1:], anyOf(len(secret)))
	}
	return out
}

// No secret that is made up leads anywhere, nor does one of a kind at an address of another;
// those that are real still do afterwards.
func TestMadeUpSecretsLeadNowhere(t *testing.T) {
	ctx := context.Background()
	n := 20
	if os.Getenv("LAZO_ATTACK") != "" {
		n = 2000
	}
	seed := uint64(time.Now().UnixNano())
	t.Log("seed", seed)
	random := rand.New(rand.NewPCG(seed, 1))
	f := published(t, aForm("made-up", func(f *form.Form) { f.Returning = &form.Returning{Change: true} }))
	sender := newClient(t)
	_, page := sender.get("/f/" + f.Address)
	_, end := sender.post("/f/"+f.Address, with(fields(page), "a.name", "Zuleika Quist", "_do", "send"))
	way := wayBack.FindStringSubmatch(end)
	require.NotNil(t, way, end)
	a, err := db.AccountByEmail(ctx, demo.Email)
	require.NoError(t, err)
	invitation, err := db.InWorkspace(f.WorkspaceID).Invite(ctx,
		store.Invited{Email: "made-up@pedralta.example", Role: store.Reader})
	require.NoError(t, err)
	type door struct{ path, secret, says string }
	doors := []door{{"/r/", strings.TrimPrefix(way[1], "/r/"), "Zuleika Quist"}}
	for _, one := range []struct {
		token      store.Token
		path, says string
	}{
		{store.Token{Kind: store.Reset, Account: a.ID}, "/reset/", a.Email},
		{store.Token{Kind: store.NewAddress, Account: a.ID, Email: "made-up-too@pedralta.example"}, "/address/",
			"made-up-too@pedralta.example"},
		{store.Token{Kind: store.KeepFactor, Account: a.ID}, "/factor/", a.Email},
		{store.Token{Kind: store.Invitation, Invitation: invitation.ID}, "/join/", "made-up@pedralta.example"},
	} {
		secret, err := db.AddToken(ctx, one.token, time.Hour)
		require.NoError(t, err)
		doors = append(doors, door{one.path, secret, one.says})
	}
	stranger := newClient(t)
	tried := 0
	for _, d := range doors {
		tries := madeUp(d.secret, random, n)
		for _, other := range doors {
			if other.path != d.path {
				tries = append(tries, other.secret)
			}
		}
		for _, secret := range tries {
			status, page := stranger.get(d.path + secret)
			assert.Less(t, status, http.StatusInternalServerError, d.path+secret)
			assert.GreaterOrEqual(t, status, http.StatusBadRequest, d.path+secret)
			assert.NotContains(t, page, d.says, d.path+secret)
			status, page = stranger.post(d.path+secret,
				with(map[string][]string{}, "password", "oars in the boathouse", "repeated",
					"oars in the boathouse"))
			assert.GreaterOrEqual(t, status, http.StatusBadRequest, d.path+secret)
			assert.NotContains(t, page, d.says, d.path+secret)
			tried += 2
		}
		status, page := stranger.get(d.path + d.secret)
		assert.Equal(t, http.StatusOK, status, "%s still leads there", d.path)
		assert.Contains(t, page, d.says)
	}
	t.Logf("%d were tried", tried)
}
