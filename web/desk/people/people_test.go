package people_test

import (
	"context"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/store"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "name", "type": "text", "label": "Your name"}, {"key": "race", "type": "date", "label": "Day of the race"}`

func TestWhoIsInvited(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "alone", Path: "/people", Says: []string{"Ana Prado", "· you", "No mail server is set"},
			SaysNot: []string{"Good until"}},
		{Name: "no address", Path: "/people/invite", Post: desktest.Fields("email", "bo", "role", "designer"), Status: 422,
			Says: []string{"This is no e-mail address.", `value="bo"`}},
		{Name: "no role", Path: "/people/invite", Post: desktest.Fields("email", "bo@invited.example", "role", "captain"),
			Status: 422,
			Says:   []string{"Which role?"}},
		{Name: "an address to hand over", Path: "/people/invite",
			Post: desktest.Fields("email", "Bo@Invited.example", "role", "reader"),
			Says: []string{"Hand this address to bo@invited.example", "/join/", "Good until"}},
		{Name: "the same again", Path: "/people/invite",
			Post: desktest.Fields("email", "bo@invited.example", "role", "designer"),
			Says: []string{"/join/"}},
		{Name: "an address that is no more", Path: "/join/nowhere", Status: 404,
			Says: []string{"This address is not good any more"}},
		{Name: "no such invitation", Path: "/people/invitations/999999/take-back", Post: desktest.Fields(), Status: 404},
		{Name: "no such act", Path: "/people/invitations/999999/dance", Post: desktest.Fields(), Status: 404},
	})
	open, err := v.Workspace().Invitations(context.Background())
	require.NoError(t, err)
	require.Len(t, open, 1, "the second took the place of the first")
	assert.Equal(t, store.Designer, open[0].Role)
	at := fmt.Sprintf("/people/invitations/%d", open[0].ID)
	v.Try([]desktest.Case{
		{Name: "another address", Path: at + "/address", Post: desktest.Fields(), Says: []string{"Hand this address to"}},
		{Name: "taken back", Path: at + "/take-back", Post: desktest.Fields(),
			Says: []string{"was taken back"}, SaysNot: []string{"Good until"}},
	})
}

func TestRolesAreChangedAndTheLastOwnerStays(t *testing.T) {
	v := desktest.Visit(t, items)
	reader := v.Reader(false)
	own, theirs := fmt.Sprintf("/people/%d", v.Member()), fmt.Sprintf("/people/%d", reader.Member())
	v.Try([]desktest.Case{
		{Name: "a reader", Path: "/people", Says: []string{"Reader of 1 form"}},
		{Name: "the last owner", Path: own, Post: desktest.Fields("role", "designer"), Status: 422,
			Says: []string{"There would be no owner left"}},
		{Name: "the last owner leaves", Path: own + "/remove", Post: desktest.Fields(), Status: 422,
			Says: []string{"There would be no owner left"}},
		{Name: "no role", Path: theirs, Post: desktest.Fields("role", ""), Status: 422, Says: []string{"Which role?"}},
		{Name: "nobody", Path: "/people/0", Post: desktest.Fields("role", "owner"), Status: 404},
		{Name: "no form", Path: theirs, Post: desktest.Fields("role", "reader", "form", "x", "export", "1"),
			Says: []string{"Reader of 0 forms", "may take responses out"}},
		{Name: "a designer", Path: theirs, Post: desktest.Fields("role", "designer", "export", "1"),
			SaysNot: []string{"may take responses out"}},
		{Name: "removed", Path: theirs + "/remove", Post: desktest.Fields(), Says: []string{"Removed."},
			SaysNot: []string{"Bo Lind"}},
	})
	status, page := reader.Get("/forms")
	assert.Equal(t, 403, status)
	assert.Contains(t, page, "You are a member of no workspace")
	_, page = v.Get("/trail?act=people")
	for _, said := range []string{".example a designer", "removed reader-", "of 0 forms, who may take responses out"} {
		assert.Contains(t, page, said)
	}
}

func TestASecondFactorIsAskedOfEverybody(t *testing.T) {
	v := desktest.Visit(t, items)
	reader := v.Reader(false)
	v.Try([]desktest.Case{
		{Name: "not without one's own", Path: "/people", Says: []string{"set up your own"},
			SaysNot: []string{"Ask it of everybody"}},
		{Name: "not even by hand", Path: "/people/second", Post: desktest.Fields("asked", "1"), Status: 422,
			Says: []string{"Set up your own first."}},
	})
	ctx := context.Background()
	owner, err := v.Store().AccountByEmail(ctx, v.Email())
	require.NoError(t, err)
	require.NoError(t, v.Store().SetTOTP(ctx, owner.ID, []byte("a secret of twenty b"), nil, 1))
	v.Try([]desktest.Case{
		{Name: "asked", Path: "/people/second", Post: desktest.Fields("asked", "1"),
			Says: []string{"nobody works here without a second factor", "signs in with a second factor", "waits outside until"}},
		{Name: "one's own stays", Path: "/account/second",
			Post: desktest.Fields("do", "off", "own_password", "oars and boats"), Status: 422,
			Says: []string{"asks for it of everybody"}},
	})
	reader.Try([]desktest.Case{
		{Name: "a reader is led to it", Path: "/forms", Says: []string{"Your account", "asks for one of everybody"}},
		{Name: "and reads nothing", Path: v.Base + "/responses", Says: []string{"Your account"},
			SaysNot: []string{"All responses"}},
		{Name: "nor changes anything", Path: "/workspace/notices", Post: desktest.Fields(), Status: 403,
			Says: []string{"asks for a second factor"}},
	})
	who, err := v.Store().AccountByEmail(ctx, reader.Email())
	require.NoError(t, err)
	require.NoError(t, v.Store().SetTOTP(ctx, who.ID, []byte("a secret of twenty b"), nil, 1))
	reader.Try([]desktest.Case{{Name: "who has one goes on", Path: v.Base + "/responses",
		Says: []string{"All responses"}}})
	v.Try([]desktest.Case{{Name: "up to each again", Path: "/people/second", Post: desktest.Fields(),
		Says: []string{"up to each member again", "Ask it of everybody"}}})
	_, page := v.Get("/trail?act=settings")
	assert.Contains(t, page, "asks a second factor of everybody")
}

func TestTheTrailIsNarrowedAndSaved(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Receive(`{"name": "Very Private"}`)
	_, _ = v.Get(v.Base + "/responses")
	_, _ = v.Get(v.Base + "/responses/summary")
	_, _ = v.Get(v.Base + "/responses.csv")
	v.Try([]desktest.Case{
		{Name: "all", Path: "/trail",
			Says:    []string{"signed in", "looked at responses in Entry", "took out responses in Entry"},
			SaysNot: []string{"Very Private", "Older"}},
		{Name: "by what", Path: "/trail?act=export", Says: []string{"took out responses"},
			SaysNot: []string{"signed in</td>"}},
		{Name: "by whom", Path: "/trail?who=nobody", Says: []string{"Nothing here is like this"}},
		{Name: "by form", Path: fmt.Sprintf("/trail?form=%d", v.Form.ID), Says: []string{"looked at responses in Entry"}},
		{Name: "no numbers", Path: "/trail?form=x&before=y", Says: []string{"signed in"}},
		{Name: "too short", Path: "/trail/kept", Post: desktest.Fields("days", "3"), Status: 422,
			Says: []string{"30 to 3,650 days"}},
		{Name: "kept", Path: "/trail/kept", Post: desktest.Fields("days", "90"), Says: []string{`value="90"`}},
	})
	_, lines := v.Get("/trail.ndjson?act=look")
	require.Len(t, strings.Split(strings.TrimSpace(lines), "\n"), 1, "a table and its summary are one look: %s", lines)
	assert.Contains(t, lines, `"act":"look"`)
	assert.NotContains(t, lines, "Very Private")
}

// Whoever sits down at an open desk can't let themselves in: inviting, handing an invitation's
// address out and changing a role ask for the password again.
func TestLettingInAsksForThePassword(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Reader(false)
	_, err := v.Store().Pool().Exec(context.Background(), `update sign_ins set proven_at = now() - interval '31 minutes'
		where account_id = (select id from accounts where email = $1)`, v.Email())
	require.NoError(t, err)
	for _, path := range []string{"/people/invite", "/people/invitations/1/address",
		fmt.Sprintf("/people/%d", v.Member())} {
		_, page := v.Post(path, desktest.Fields("email", "bo@invited.example", "role", "owner"))
		assert.Contains(t, page, "Is it you?", path)
	}
	open, err := v.Workspace().Invitations(context.Background())
	require.NoError(t, err)
	assert.Empty(t, open)
}

// Nobody gets past the trail: not by what they send along, nor by breaking off; where no line
// can be written, nothing is handed out and nothing is done.
func TestNothingIsDoneWithoutItsLine(t *testing.T) {
	ctx := context.Background()
	v := desktest.Visit(t, items)
	v.Receive(`{"name": "Very Private"}`)
	list, err := v.InForm().Responses(ctx, 0, 1)
	require.NoError(t, err)
	id := list[0].ID
	lines := func(act string) []store.TrailStep {
		steps, err := v.Workspace().Trail(ctx, store.Trail{Act: act, Limit: 50})
		require.NoError(t, err)
		return steps
	}
	for _, sent := range []string{"\xff\xfe", strings.Repeat("long", 100), "new\tline", "proxy-7f/12"} {
		assert.Equal(t, 200, v.Begin(v.Base+"/responses.csv", "X-Request-Id", sent))
	}
	steps := lines("export")
	require.Len(t, steps, 4, "each of those that were broken off, too")
	assert.Equal(t, "proxy-7f/12", steps[0].Request, "what a proxy gives is kept")
	for _, s := range steps[1:] {
		assert.NotEmpty(t, s.Request)
		assert.NotContains(t, s.Request, "long")
	}
	status, _ := v.Get(v.Base + "/responses/%ff%fe")
	assert.Equal(t, 400, status)

	who := fmt.Sprintf("%d", v.Form.WorkspaceID)
	_, err = v.Store().Pool().Exec(ctx, `create or replace function no_line_`+who+`() returns trigger language plpgsql as
		$$ begin if new.workspace_id = `+who+` then raise 'the disk is full'; end if; return new; end $$`)
	require.NoError(t, err)
	_, err = v.Store().Pool().Exec(ctx,
		`create trigger no_line_`+who+` before insert on trail for each row execute function no_line_`+who+`()`)
	require.NoError(t, err)
	defer func() { _, _ = v.Store().Pool().Exec(ctx, `drop function no_line_`+who+` cascade`) }()
	for _, path := range []string{"/responses.csv", "/responses", "/responses/" + id} {
		status, page := v.Get(v.Base + path)
		assert.Equal(t, 503, status, path)
		assert.NotContains(t, page, "Very Private", path)
		assert.Contains(t, page, "Nothing was done", path)
	}
	status, _ = v.Post(v.Base+"/responses/"+id+"/delete", desktest.Fields())
	assert.Equal(t, 503, status)
	assert.Equal(t, "Very Private", v.Answers(id)["name"], "it is still there")
}

func TestHowLongResponsesAreKept(t *testing.T) {
	v := desktest.Visit(t, items)
	at := v.Base + "/kept"
	v.Try([]desktest.Case{
		{Name: "as long as nobody deletes them", Path: at,
			Says: []string{`placeholder="never"`, "Day of the race"}, SaysNot: []string{"Your name"}},
		{Name: "no number", Path: at, Post: desktest.Fields("days", "soon"), Status: 422,
			Says: []string{"Give a number of days", `value="soon"`}},
		{Name: "none at all", Path: at, Post: desktest.Fields("days", "0"), Status: 422},
		{Name: "too many", Path: at, Post: desktest.Fields("days", "36501"), Status: 422},
		{Name: "no date", Path: at, Post: desktest.Fields("days", "30", "from", "name"), Status: 422,
			Says: []string{"There is no such date"}},
		{Name: "after the race", Path: at, Post: desktest.Fields("days", "30", "from", "race", "told", "1"),
			Says: []string{`value="30"`, "Set."}},
		{Name: "respondents are told", Path: "/f/" + v.Form.Address,
			Says: []string{"deleted 30 days after the day that you give for “Day of the race”"}},
		{Name: "without end again", Path: at, Post: desktest.Fields("days", ""), Says: []string{`placeholder="never"`}},
		{Name: "and are not told", Path: "/f/" + v.Form.Address, SaysNot: []string{"What you send is deleted"}},
	})
	// What would go is counted before it is set.
	v.Receive(`{"name": "Ana", "race": "2020-05-30"}`)
	v.Receive(`{"name": "Bo"}`)
	v.Try([]desktest.Case{
		{Name: "some would go", Path: at, Post: desktest.Fields("days", "30", "from", "race"), Status: 409,
			Says: []string{"1 of 2 responses", "Set, and delete 1 response", "Nothing is set yet"}},
		{Name: "nothing was set", Path: at, Says: []string{`placeholder="never"`, `value=""`}},
		{Name: "another number was meant", Path: at, Post: desktest.Fields("days", "30", "from", "race", "sure", "7"),
			Status: 409},
		{Name: "for sure", Path: at, Post: desktest.Fields("days", "30", "from", "race", "sure", "1"),
			Says: []string{"first 24 hours", `value="30"`}},
	})
}

func TestNobodyIsErasedByChance(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Receive(`{"name": "ana@lake.example"}`)
	v.Try([]desktest.Case{
		{Name: "before", Path: "/person", SaysNot: []string{"What is held"}},
		{Name: "no address", Path: "/person", Post: desktest.Fields("person", "Ana"), Status: 422,
			Says: []string{"Give an e-mail address"}},
		{Name: "no address to hand out", Path: "/person/file", Post: desktest.Fields("person", "Ana"), Status: 422},
		{Name: "no address to erase", Path: "/person/erase", Post: desktest.Fields("person", "Ana", "sure", "1"),
			Status: 422},
		{Name: "found", Path: "/person", Post: desktest.Fields("person", "ANA@lake.example"),
			Says: []string{"What is held", "Entry"}},
		{Name: "not sure", Path: "/person/erase", Post: desktest.Fields("person", "ana@lake.example"), Status: 422,
			Says: []string{"Tick that it is for good.", "What is held"}},
	})
	status, archive := v.Post("/person/file", desktest.Fields("person", "ana@lake.example"))
	assert.Equal(t, 200, status)
	assert.True(t, strings.HasPrefix(archive, "PK"))
	n, err := v.InForm().CountResponses(context.Background())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	v.Try([]desktest.Case{{Name: "erased", Path: "/person/erase",
		Post: desktest.Fields("person", "ana@lake.example", "sure", "1"),
		Says: []string{"Erased: 1"}}})
	n, err = v.InForm().CountResponses(context.Background())
	require.NoError(t, err)
	assert.Zero(t, n)
	steps, err := v.Workspace().Trail(context.Background(), store.Trail{Act: "person", Limit: 20})
	require.NoError(t, err)
	for _, s := range steps {
		assert.NotContains(t, s.Detail, "ana@")
		assert.WithinDuration(t, time.Now(), s.At, time.Minute)
	}
}
