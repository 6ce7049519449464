package account_test

import (
	"context"
	"encoding/base32"
	"os"
	"testing"
	"time"

	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/credential"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const (
	items = `{"key": "name", "type": "text", "label": "Your name"}`
	own   = "oars and boats" // the password of whoever visits
)

func TestPasswordsAreChanged(t *testing.T) {
	v := desktest.Visit(t, items)
	other := v.Again(own)
	v.Try([]desktest.Case{
		{Name: "two sign-ins", Path: "/account", Says: []string{"here, now", "End all others"}},
		{Name: "not one's own", Path: "/account/password",
			Post: desktest.Fields("own_password", "x", "password", "heron over still water",
				"repeated", "heron over still water"), Status: 422, Says: []string{"This is not your password."}},
		{Name: "too short", Path: "/account/password",
			Post:   desktest.Fields("own_password", own, "password", "heron", "repeated", "heron"),
			Status: 422, Says: []string{"it has 5 characters"}},
		{Name: "one's own name", Path: "/account/password",
			Post: desktest.Fields("own_password", own, "password", "ana prado ana prado",
				"repeated", "ana prado ana prado"), Status: 422, Says: []string{"of your name or address"}},
		{Name: "not the same", Path: "/account/password",
			Post: desktest.Fields("own_password", own, "password", "heron over still water",
				"repeated", "heron over still waters"), Status: 422, Says: []string{"are not the same"}},
		{Name: "changed", Path: "/account/password",
			Post: desktest.Fields("own_password", own, "password", "heron over still water",
				"repeated", "heron over still water"), Says: []string{"Your password was changed", "changed their password"},
			SaysNot: []string{"End all others"}},
	})
	_, page := other.Get("/forms")
	assert.Contains(t, page, "Sign in", "whoever was signed in elsewhere is not any more")
}

func TestTheSecondFactorIsSetUpInSteps(t *testing.T) {
	v := desktest.Visit(t, items)
	second := func(pairs ...string) (int, string) { return v.Post("/account/second", desktest.Fields(pairs...)) }
	status, page := second("do", "ask", "own_password", "x")
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "This is not your password.")
	status, page = second("code", "123456")
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "no secret waits")
	status, _ = v.Get("/account/second/code.svg")
	assert.Equal(t, 404, status)
	_, page = second("do", "ask", "own_password", own)
	assert.Contains(t, page, "1. Let the program read this")
	_, page = v.Get("/account/second/code.svg")
	assert.Contains(t, page, "<svg")
	status, page = second("code", "000000")
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "This is not the code of now.")
	_, page = second("do", "leave")
	assert.NotContains(t, page, "1. Let the program read this")
	a, err := v.Store().AccountByEmail(context.Background(), v.Email())
	require.NoError(t, err)
	assert.False(t, a.Second())
	_, page = second("do", "off", "own_password", own)
	assert.Contains(t, page, "asks for your password alone")
}

// Whoever has learnt the password can't take the factor off by it, nor find a code by trying,
// from however many addresses; its owner gets in by one that stands in for it meanwhile.
func TestAPasswordAloneTakesNoFactorOff(t *testing.T) {
	ctx := context.Background()
	v := desktest.Visit(t, items)
	a, err := v.Store().AccountByEmail(ctx, v.Email())
	require.NoError(t, err)
	codes, hashes := credential.Recovery()
	require.NoError(t, v.Store().SetTOTP(ctx, a.ID, []byte("a secret of twenty b"), hashes, 1))
	second := func(pairs ...string) (int, string) { return v.Post("/account/second", desktest.Fields(pairs...)) }
	for range 10 {
		status, page := second("do", "off", "own_password", own, "code", "000001")
		assert.Equal(t, 422, status)
		assert.Contains(t, page, "This is not the code of now.")
	}
	secret := base32.StdEncoding.WithPadding(base32.NoPadding).EncodeToString([]byte("a secret of twenty b"))
	now, err := totp.GenerateCode(secret, time.Now())
	require.NoError(t, err)
	for _, do := range []string{"off", "ask"} {
		_, page := second("do", do, "own_password", own, "code", now)
		assert.Contains(t, page, "Too many codes that were not right.")
	}
	a, err = v.Store().Account(ctx, a.ID)
	require.NoError(t, err)
	assert.True(t, a.Second())
	assert.Empty(t, a.TOTPAsked)
	_, page := second("do", "off", "own_password", own, "code", codes[0])
	assert.Contains(t, page, "asks for your password alone")
}

func TestNamesAndLeaving(t *testing.T) {
	v := desktest.Visit(t, items)
	long := make([]byte, 121)
	for i := range long {
		long[i] = 'a'
	}
	v.Try([]desktest.Case{
		{Name: "no name", Path: "/account/name", Post: desktest.Fields("name", "  "), Status: 422,
			Says: []string{"one to 120 characters"}},
		{Name: "too long", Path: "/account/name", Post: desktest.Fields("name", string(long)), Status: 422},
		{Name: "another", Path: "/account/name", Post: desktest.Fields("name", " Ana   Ríos "),
			Says: []string{`value="Ana Ríos"`, "Your name was changed"}},
		{Name: "not sure", Path: "/account/leave", Post: desktest.Fields(), Status: 422,
			Says: []string{"Tick that you are sure"}},
		{Name: "the last owner", Path: "/account/leave", Post: desktest.Fields("sure", "1"), Status: 422,
			Says: []string{"You are the last owner"}},
		{Name: "nobody's sign-in", Path: "/account/sign-ins/end", Post: desktest.Fields("sign_in", "nowhere"),
			Says: []string{"here, now"}},
	})
	members, err := v.Workspace().Members(context.Background())
	require.NoError(t, err)
	assert.Equal(t, "Ana Ríos", members[0].Name, "it holds wherever the name stands")
	reader := v.Reader(false)
	reader.Try([]desktest.Case{{Name: "a reader leaves", Path: "/account/leave", Post: desktest.Fields("sure", "1"),
		Says: []string{"You are a member of no workspace"}, SaysNot: []string{">Forms</a>"}}})
}

func TestAnotherAddress(t *testing.T) {
	v := desktest.Visit(t, items)
	taken := v.Reader(false).Email()
	v.Try([]desktest.Case{
		{Name: "none", Path: "/account/email", Post: desktest.Fields("email", "ana", "own_password", own), Status: 422,
			Says: []string{"Give another e-mail address", `value="ana"`}},
		{Name: "the same", Path: "/account/email", Post: desktest.Fields("email", v.Email(), "own_password", own),
			Status: 422},
		{Name: "not one's own password", Path: "/account/email",
			Post:   desktest.Fields("email", "ana@moved.example", "own_password", "x"),
			Status: 422, Says: []string{"This is not your password.", `value="ana@moved.example"`}},
		{Name: "somebody else's", Path: "/account/email", Post: desktest.Fields("email", taken, "own_password", own),
			Status: 422,
			Says:   []string{"This address has an account already."}},
		{Name: "an address that is no more", Path: "/address/nowhere", Status: 404,
			Says: []string{"This address is not good any more"}},
		{Name: "at once, where no letter leaves", Path: "/account/email",
			Post: desktest.Fields("email", "Ana@Moved.example", "own_password", own),
			Says: []string{"You sign in by ana@moved.example", "Your e-mail address was changed", "from " + v.Email()}},
	})
	members, err := v.Workspace().Members(context.Background())
	require.NoError(t, err)
	assert.Equal(t, "ana@moved.example", members[0].Email)
}
