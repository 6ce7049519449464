package e2e

import (
	"context"
	"fmt"
	"os/exec"
	"path/filepath"
	"regexp"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/pquerna/otp/totp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/credential"
	"lazo/demo"
	"lazo/store"
	"lazo/store/storetest"
)

// as signs somebody in, who is asked for no code.
func (v *visitor) as(email, password string) {
	v.t.Helper()
	v.open("/sign-in")
	v.write("#email", email)
	v.write("#password", password)
	v.click("button.first")
}

// chooses writes a new password, twice.
func (v *visitor) chooses(password string) {
	v.t.Helper()
	v.write("#password", password)
	v.write("#repeated", password)
}

var onceAddress = regexp.MustCompile(`http://[^\s>]+(/(?:reset|join|address|factor)/[\w-]+)`)

// addressIn is the path of the address in the one letter to somebody with a subject.
func (v *visitor) addressIn(to, subject string) string {
	v.t.Helper()
	return v.addressInLast(1, to, subject)
}

// addressInLast is the path of the address in the last of so many.
func (v *visitor) addressInLast(n int, to, subject string) string {
	v.t.Helper()
	found := onceAddress.FindStringSubmatch(v.arrives(n, to, subject)[n-1].Text())
	require.NotNil(v.t, found)
	return found[1]
}

// somebody is a member of a workspace of their own.
func (v *visitor) somebody(email, password string) store.Member {
	v.t.Helper()
	ctx := context.Background()
	w, err := v.store.CreateWorkspace(ctx, "Boathouse of "+email)
	require.NoError(v.t, err)
	hash := storetest.Hash(password)
	m, err := v.store.CreateMember(ctx,
		store.Member{WorkspaceID: w.ID, Email: email, Name: "Iker Prado", PasswordHash: hash})
	require.NoError(v.t, err)
	return m
}

// An installation in which nobody can sign in prints an address: from it to the first
// form that is published.
func TestFromTheFirstRunToTheFirstForm(t *testing.T) {
	v := visit(t)
	secret, err := v.store.AddToken(context.Background(), store.Token{Kind: store.First}, time.Hour)
	require.NoError(t, err)
	v.open("/begin/" + secret)
	v.accessible("the first workspace")
	v.write("#workspace", "Reed Bay Council")
	v.write("#name", "Irene Castaño")
	v.write("#email", "irene@reedbay.example")
	v.chooses("too short")
	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("form").noValidate = true; undefined`))
	v.click("button.first")
	v.sees("it has 9 characters")
	assert.Equal(t, "Irene Castaño", js[string](v, `document.querySelector("#name").value`), "what was written stays")
	v.chooses("heron over still water")
	v.click("button.first")
	v.sees("There are no forms yet")
	v.write("#title", "Jetty survey")
	v.click("main form button.first")
	v.until(`location.pathname.startsWith("/forms/")`)
	v.sees("Jetty survey")
	v.open(js[string](v, `location.pathname`) + "/publish")
	v.click("main button.first")
	v.sees("Edition 1 is live")
	v.open("/begin/" + secret)
	v.sees("This address is not good any more")
}

// Somebody is invited by a letter, joins, works, and is made a reader while signed in.
func TestSomebodyIsInvitedAndTheirRoleChanges(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/people")
	v.accessible("people")
	v.click(`#invite + form [value=reader]`)
	v.sees("Crew entry")
	v.click(`#invite + form [value=designer]`)
	v.write("#invite-email", "vera@pedralta.example")
	v.click(`#invite + form button.first`)
	v.sees("The invitation is on its way")
	v.sees("vera@pedralta.example")
	v.open("/outbox")
	v.sees("Invitation to Pedralta Lake Regatta")
	address := v.addressIn("vera@pedralta.example", "Invitation to Pedralta Lake Regatta")
	v.open("/people")
	v.click(`form[action$="/address"] button`)
	v.sees("The invitation is on its way")
	v.seesNot("Hand this address to") // only what comes to it proves whose an address is
	v.arrives(2, "vera@pedralta.example", "Invitation to Pedralta Lake Regatta")

	v.do(chromedp.Evaluate[chromedp.Void](`document.querySelector("form[action='/sign-out'] button").click(); undefined`))
	v.sees("Password forgotten?")
	v.open(address)
	v.sees("You were invited as a designer")
	v.accessible("an invitation")
	v.write("#name", "Vera Quiroga")
	v.chooses("three oars and a lantern")
	v.click("button.first")
	v.sees("Crew entry")
	v.open(address)
	v.sees("This address is not good any more")
	v.open("/forms")
	v.click(`//a[text()="Mooring request"]`)
	v.until(`location.pathname.startsWith("/forms/")`)
	form := js[string](v, `location.pathname`)
	js[bool](v, `document.body.innerText.includes("People")`)
	v.open("/people")
	v.sees("This is not for your role")

	ctx := context.Background()
	m, err := v.store.MemberByEmail(ctx, "vera@pedralta.example")
	require.NoError(t, err)
	crew, err := v.store.FormByAddress(ctx, "crew-entry")
	require.NoError(t, err)
	require.NoError(t, v.store.InWorkspace(m.WorkspaceID).SetRole(ctx, m.ID, store.Reader, false, []store.FormID{crew.ID}))
	v.open(form)
	v.sees("This is not for your role")
	v.open("/forms")
	v.sees("Crew entry")
	v.seesNot("Mooring request")
	v.click(`//a[text()="Crew entry"]`)
	v.sees("All responses")
	v.seesNot("Save or print")
	v.accessible("responses, for a reader")
	require.NoError(t, v.store.InWorkspace(m.WorkspaceID).Remove(ctx, m.ID))
	v.open("/forms")
	v.sees("You are a member of no workspace")
	v.open("/account")
	v.sees("Your account")
	v.signIn()
}

// A password is forgotten, and set anew by the address of a letter, once.
func TestAPasswordIsForgotten(t *testing.T) {
	v := visit(t)
	v.somebody("iker@reset.example", "old oars in the shed")
	v.as("iker@reset.example", "is it this one maybe")
	v.sees("do not go together")
	v.click(`//a[text()="Password forgotten?"]`)
	v.accessible("password forgotten")
	v.write("#email", "nobody@reset.example")
	v.click("button.first")
	v.sees("If nobody@reset.example has an account here")
	v.open("/reset")
	v.write("#email", "iker@reset.example")
	v.click("button.first")
	v.sees("If iker@reset.example has an account here")
	address := v.addressIn("iker@reset.example", "another password")
	require.Empty(t, v.arrived("nobody@reset.example", ""))
	v.open(address)
	v.chooses("iker@reset.example!")
	v.click("button.first")
	v.sees("or of your name or address")
	v.chooses("new oars by the jetty")
	v.click("button.first")
	v.sees("Sign in")
	v.open(address)
	v.sees("This address is not good any more")
	v.arrives(1, "iker@reset.example", "your password was set anew")
	v.as("iker@reset.example", "old oars in the shed")
	v.sees("do not go together")
	v.as("iker@reset.example", "new oars by the jetty")
	v.sees("There are no forms yet")
	v.signIn()
}

// Whoever signs in by another address proves that it is theirs; the one before is told.
func TestAnAccountGetsAnotherAddress(t *testing.T) {
	v := visit(t)
	v.somebody("iker@before.example", "a heron on the jetty")
	v.as("iker@before.example", "a heron on the jetty")
	v.sees("There are no forms yet")
	v.open("/account")
	v.write("#email", "iker@after.example")
	v.write("#email-password", "is it this one maybe")
	v.click(`//button[text()="Write to it"]`)
	v.sees("This is not your password.")
	v.write("#email-password", "a heron on the jetty")
	v.click(`//button[text()="Write to it"]`)
	v.sees("A letter is on its way to that address")
	v.sees("You sign in by iker@before.example.")
	address := v.addressIn("iker@after.example", "is this your address?")
	v.open(address)
	v.sees("You sign in by iker@after.example from now on, if you confirm it.")
	v.accessible("another address")
	v.click("button.first")
	v.sees("You sign in by iker@after.example.")
	v.arrives(1, "iker@before.example", "your e-mail address was changed")
	v.open(address)
	v.sees("This address is not good any more")
	v.as("iker@before.example", "a heron on the jetty")
	v.sees("do not go together")
	v.as("iker@after.example", "a heron on the jetty")
	v.sees("There are no forms yet")
	v.signIn()
}

// The second factor is set up, asked for, and stood in for once by a code put away.
func TestTheSecondFactor(t *testing.T) {
	v := visit(t)
	m := v.somebody("iker@second.example", "a heron on the jetty")
	v.as("iker@second.example", "a heron on the jetty")
	v.sees("There are no forms yet")
	v.open("/account")
	v.accessible("account")
	v.write("#second-on", "a heron on the jetty")
	v.click(`//button[text()="Set it up"]`)
	v.sees("1. Let the program read this")
	v.until(`document.querySelector("img[src$='code.svg']").naturalWidth > 0`)
	v.accessible("account, with a second factor to be set up")
	secret := regexp.MustCompile(`\s`).ReplaceAllString(js[string](v, `document.querySelector("#secret").textContent`), "")
	v.write("#code", "000000")
	v.click(`//button[text()="Ask for codes from now on"]`)
	v.sees("This is not the code of now")
	code, err := totp.GenerateCode(secret, time.Now().Add(-30*time.Second))
	require.NoError(t, err)
	v.write("#code", code)
	v.click(`//button[text()="Ask for codes from now on"]`)
	v.sees("Put these codes away now")
	put := js[[]string](v, `[...document.querySelectorAll("[aria-labelledby=codes] li")].map(e => e.textContent)`)
	require.Len(t, put, 10)
	v.arrives(1, "iker@second.example", "a second factor was set up")

	v.as("iker@second.example", "a heron on the jetty")
	v.sees("The code of now")
	v.accessible("second factor")
	v.open("/forms")
	v.sees("Sign in")
	v.open("/sign-in/second")
	v.write("#code", code)
	v.click("button.first")
	v.sees("each is good once")
	code, err = totp.GenerateCode(secret, time.Now())
	require.NoError(t, err)
	v.write("#code", code)
	v.click("button.first")
	v.sees("There are no forms yet")

	v.as("iker@second.example", "a heron on the jetty")
	v.write("#code", put[3])
	v.click("button.first")
	v.sees("There are no forms yet")
	v.arrives(1, "iker@second.example", "a code stood in for your second factor")
	v.as("iker@second.example", "a heron on the jetty")
	v.write("#code", put[3])
	v.click("button.first")
	v.sees("This is not the code of now")
	steps, err := v.store.InWorkspace(m.WorkspaceID).Trail(context.Background(),
		store.Trail{Act: "sign-in-refused", Limit: 10})
	require.NoError(t, err)
	assert.Len(t, steps, 2, fmt.Sprint(steps))
	v.signIn()
}

// Who has lost the password, the device and the codes comes in by mail, after three days in
// which whoever else has the factor is told and keeps it.
func TestASecondFactorThatWasLost(t *testing.T) {
	v := visit(t)
	ctx := context.Background()
	v.somebody("iker@lost.example", "a heron on the jetty")
	a, err := v.store.AccountByEmail(ctx, "iker@lost.example")
	require.NoError(t, err)
	secret := []byte("twenty bytes of oars")
	codes, hashes := credential.Recovery()
	require.NoError(t, v.store.SetTOTP(ctx, a.ID, secret, hashes, 1))
	asked := 0
	reset := func(password string, lost bool) {
		asked++ // as on another day each time
		_, err := v.store.Pool().Exec(ctx, "delete from public_counts")
		require.NoError(t, err)
		v.open("/reset")
		v.write("#email", "iker@lost.example")
		v.click("button.first")
		v.sees("If iker@lost.example has an account here")
		v.open(v.addressInLast(asked, "iker@lost.example", "another password"))
		v.sees("I have also lost the device")
		if lost {
			v.accessible("another password, of who has a second factor")
			v.click("[name=lost]")
		}
		v.chooses(password)
		v.click("button.first")
		v.sees("Sign in")
	}
	goes := func() bool {
		a, err := v.store.AccountByEmail(ctx, "iker@lost.example")
		require.NoError(t, err)
		return a.FactorOffAt != nil
	}
	reset("new oars by the jetty", false)
	require.False(t, goes(), "a password alone takes nothing off")

	reset("newer oars by the jetty", true)
	require.True(t, goes())
	v.as("iker@lost.example", "newer oars by the jetty")
	v.sees("after that your password is enough")
	v.accessible("second factor that goes")
	v.open(v.addressIn("iker@lost.example", "your second factor will be taken off"))
	v.sees("Keep your second factor?")
	v.accessible("a second factor to be kept")
	require.True(t, goes(), "opening it changes nothing")
	v.click("button.first")
	v.sees("Password forgotten")
	require.False(t, goes())

	reset("other oars by the jetty", true)
	v.as("iker@lost.example", "other oars by the jetty")
	v.write("#code", codes[0])
	v.click("button.first")
	v.sees("There are no forms yet")
	require.False(t, goes(), "who gives a code has not lost it")

	reset("last oars by the jetty", true)
	_, err = v.store.Pool().Exec(ctx,
		"update accounts set factor_off_at = factor_off_at - interval '72 hours' where id = $1", a.ID)
	require.NoError(t, err)
	v.as("iker@lost.example", "not the oars")
	v.sees("do not go together")
	v.as("iker@lost.example", "last oars by the jetty")
	v.sees("There are no forms yet")
	v.arrives(1, "iker@lost.example", "your second factor was taken off")
	a, err = v.store.AccountByEmail(ctx, "iker@lost.example")
	require.NoError(t, err)
	require.False(t, a.Second())
	v.signIn()
}

// One goes on in another workspace of the same account; elsewhere is shut by name.
func TestAnotherWorkspaceOfTheSameAccount(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.click("header summary")
	v.click(`//button[text()="Go to Pedralta Boathouse"]`)
	v.sees("There are no forms yet")
	v.open("/people")
	v.sees("This is not for your role")
	v.open("/forms")
	v.click("header summary")
	v.click(`//button[text()="Go to Pedralta Lake Regatta"]`)
	v.sees("Crew entry")
}

// What takes answers out, or deletes, asks for the password when it was long given, and
// then does what was asked for.
func TestThePasswordIsAskedForAgain(t *testing.T) {
	v := visit(t)
	v.signIn()
	ctx := context.Background()
	a, err := v.store.AccountByEmail(ctx, demo.Email)
	require.NoError(t, err)
	f, err := v.store.FormByAddress(ctx, "lake-bulletin")
	require.NoError(t, err)
	list, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(ctx, 0, 1)
	require.NoError(t, err)
	_, err = v.store.Pool().Exec(ctx,
		"update sign_ins set proven_at = now() - interval '31 minutes' where account_id = $1", a.ID)
	require.NoError(t, err)
	at := fmt.Sprintf("/forms/%d/responses/%s", f.ID, list[0].ID)
	v.open(at)
	v.click("[name=sure]")
	v.click(`//button[text()="Delete this response"]`)
	v.sees("Is it you?")
	v.accessible("the password again")
	v.write("#password", "not this")
	v.click("button.first")
	v.sees("This is not your password")
	_, err = v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Response(ctx, list[0].ID)
	require.NoError(t, err)
	v.write("#password", demo.Password)
	v.click("button.first")
	v.sees("responses")
	_, err = v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Response(ctx, list[0].ID)
	require.ErrorIs(t, err, store.ErrNotFound)
	v.open("/trail")
	v.accessible("the trail")
	v.sees("deleted responses in Lake bulletin")
}

// dump is the database as pg_dump writes it.
func (v *visitor) dump() string {
	v.t.Helper()
	tools, err := filepath.Glob("/usr/lib/postgresql/*/bin/pg_dump")
	require.NoError(v.t, err)
	tool := "pg_dump"
	if len(tools) > 0 {
		tool = tools[len(tools)-1]
	}
	cmd := exec.CommandContext(v.ctx, tool, v.store.Pool().Config().ConnString())
	out, err := cmd.Output()
	require.NoError(v.t, err)
	return string(out)
}

// Somebody asks for what is held about them: it is found, handed out and erased, and then
// stands nowhere in a dump of the database.
func TestAPersonsDataIsFoundAndErased(t *testing.T) {
	v := visit(t)
	ctx := context.Background()
	const email = "olaia.quist@reedlake.example"
	v.open("/f/lake-bulletin")
	v.write("#a-email", email)
	v.write(`[name="a.email#again"]`, email)
	v.click("#steps button.first")
	v.sees("One more step: confirm your address.")
	v.arrives(1, email, "Please confirm: the lake bulletin")
	f, err := v.store.FormByAddress(ctx, "crew-entry")
	require.NoError(t, err)
	_, err = v.store.AddResponse(ctx,
		store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1, ReceivedAt: time.Now(),
			Answers: []byte(`{"entered_by": "Olaia Quist-Reed", "email": "Olaia.Quist@reedlake.example"}`),
			Filling: "0aa10aa1-0000-4000-8000-000000000001"})
	require.NoError(t, err)
	require.Contains(t, v.dump(), email)

	v.signIn()
	v.open("/person")
	v.accessible("a person's data")
	v.write("#person", "nobody@reedlake.example")
	v.click(`main form button.first`)
	v.sees("Nothing was answered or sent here")
	v.write("#person", email)
	v.click(`main form button.first`)
	v.sees("What is held")
	v.accessible("a person's data, found")
	for _, said := range []string{"Lake bulletin", "Crew entry", "Letter “Please confirm"} {
		v.sees(said)
	}
	v.click(`//button[text()="Erase what is held"]`)
	v.sees("What is held") // the box is not ticked
	v.click("[name=sure]")
	v.click(`//button[text()="Erase what is held"]`)
	v.sees("Erased: 2 responses")
	v.open("/trail?act=person")
	v.sees("erased a person’s data: 2 responses in 2 forms")
	v.seesNot("olaia")
	dump := v.dump()
	for _, said := range []string{"olaia", "Olaia", "Quist-Reed"} {
		assert.NotContains(t, dump, said)
	}
	require.Contains(t, dump, "COPY public.responses")
}
