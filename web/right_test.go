package web_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/web"
	"lazo/web/fill/filltest"
)

// sheet publishes a form of one page with these sections.
func sheet(t *testing.T, key, sections string, more ...string) string {
	t.Helper()
	src := fmt.Sprintf(
		`{"lazo": 1, "key": %q, "title": "Sheet", "timezone": "UTC", "end": "It has arrived."%s, "pages": [{"key": "p", "sections": [%s]}]}`,
		key, strings.Join(append([]string{""}, more...), ", "), sections,
	)
	def, remarks := form.Read([]byte(src))
	require.Empty(t, form.Errors(remarks))
	return "/f/" + published(t, def).Address
}

// paper opens a form as a browser without scripts.
func paper(t *testing.T, path string) *unscripted {
	t.Helper()
	u := &unscripted{client: newClient(t), path: path}
	u.open(path)
	return u
}

func (u *unscripted) open(path string) {
	u.t.Helper()
	_, u.text = u.get(path)
	u.read()
}

func (u *unscripted) read() {
	u.t.Helper()
	var err error
	u.page, err = filltest.ReadPage(u.text)
	require.NoError(u.t, err)
}

// say sets a control: one value, or those that are ticked.
func (u *unscripted) say(name string, kind form.Type, values ...string) {
	u.page.Do(filltest.Act{Name: name, Type: kind, Values: values})
}

func (u *unscripted) values(id string) []string { return u.page.Screen()[id].Values }

func lastStored(t *testing.T, path string) map[string]any {
	return storedOf(t, strings.TrimPrefix(path, "/f/"))
}

const shores = `{"key": "s", "items": [{"key": "shore", "type": "choice", "label": "Shore", "choices": [{"value": "south"}, {"value": "north"}]},
 {"key": "pier", "type": "choice", "label": "Pier", "look": %q, "choices": [{"value": "s1", "offered": "shore = \"south\""}, {"value": "s2", "offered": "shore = \"south\""},
  {"value": "n1", "offered": "shore = \"north\""}, {"value": "n2", "offered": "shore = \"north\""}]},
 {"key": "berths", "type": "choices", "label": "Berths", "look": %q, "choices": [{"value": "x", "offered": "shore = \"south\""}, {"value": "y", "offered": "shore = \"south\""},
  {"value": "z", "offered": "shore = \"north\""}]}]}`

// A pick of what is no longer on offer is set aside, not put on its neighbour, and
// comes back with the offer.
func TestANarrowedPickIsSetAside(t *testing.T) {
	for i, look := range []string{"list", "menu", "search"} {
		path := sheet(t, fmt.Sprintf("narrowed-%d", i), fmt.Sprintf(shores, look, look))
		u := paper(t, path)
		u.say("a.shore", form.ChoiceType, "south")
		u.press("update")
		u.say("a.pier", form.ChoiceType, "s2")
		u.say("a.berths", form.ChoicesType, "x", "y")
		u.press("update")
		u.say("a.shore", form.ChoiceType, "north")
		u.press("update")
		assert.Empty(t, strings.Join(u.values("u-a-pier"), ""), look)
		assert.Empty(t, u.values("u-a-berths"), look)
		u.say("a.berths", form.ChoicesType, "z")
		u.press("update")
		u.say("a.shore", form.ChoiceType, "south")
		u.press("update")
		assert.Equal(t, []string{"s2"}, u.values("u-a-pier"), "%s: it comes back", look)
		assert.Equal(t, []string{"x", "y"}, u.values("u-a-berths"), look)
		u.say("a.shore", form.ChoiceType, "north")
		u.press("update")
		u.press("send")
		assert.Equal(t, map[string]any{"shore": "north", "berths": []any{"z"}}, lastStored(t, path), "%s: nobody picked n2",
			look)
	}
}

// What follows only while a tick is met goes with it, from the screen too.
func TestAValueThatFollowsOnlyWhile(t *testing.T) {
	path := sheet(
		t,
		"only-while",
		`{"key": "s", "items": [{"key": "home", "type": "address", "label": "Home"}, {"key": "same", "type": "tick", "label": "Same"},
	 {"key": "bill", "type": "address", "label": "Bill to", "value": {"follows": "home", "when": "same"}}]}`,
	)
	u := paper(t, path)
	u.say("a.home", form.Address, "Calle 1", "", "Pedralta", "", "", "")
	u.say("a.same", form.Tick, "yes")
	u.press("update")
	assert.Equal(t, "Calle 1", u.values("u-a-bill")[0])
	u.say("a.same", form.Tick)
	u.press("update")
	assert.Empty(t, u.values("u-a-bill")[0])
	u.press("send")
	assert.NotContains(t, lastStored(t, path), "bill")
}

// Whether a question was touched is what the respondent did, not what its value
// happens to equal.
func TestTouchedIsWhatTheRespondentDid(t *testing.T) {
	path := sheet(
		t,
		"touched",
		`{"key": "s", "items": [{"key": "n", "type": "number", "label": "N"}, {"key": "d", "type": "number", "label": "D", "value": {"follows": "n"}},
	 {"key": "flag", "type": "tick", "label": "Flag"}, {"key": "copy", "type": "tick", "label": "Copy", "value": {"follows": "flag"}}]}`,
	)
	u := paper(t, path)
	u.say("a.n", form.Number, "5")
	u.say("a.flag", form.Tick, "yes")
	u.press("update")
	assert.Equal(t, []string{"5"}, u.values("u-a-d"))
	assert.Equal(t, []string{"yes"}, u.values("u-a-copy"), "a tick follows although it began unticked")
	u.say("a.d", form.Number, "7")
	u.say("a.n", form.Number, "10")
	u.press("update")
	u.say("a.d", form.Number, "5")
	u.press("update")
	assert.Equal(t, []string{"5"}, u.values("u-a-d"))
	u.press("send")
	assert.Equal(t, map[string]any{"n": 10.0, "d": 5.0, "flag": true, "copy": true}, lastStored(t, path))
}

// Rows that a number takes away are set aside and come back; so is one that was
// taken out by hand.
func TestRowsComeBack(t *testing.T) {
	path := sheet(t, "rows-back", `{"key": "s", "items": [{"key": "n", "type": "number", "label": "N"}]},
	 {"key": "crew", "repeat": {"max": 5, "rows": "n", "name": "Rower"}, "items": [{"key": "nm", "type": "text", "label": "Name"}]},
	 {"key": "guests", "repeat": {"max": 5, "name": "Guest"}, "items": [{"key": "gn", "type": "text", "label": "Guest"}]}`)
	u := paper(t, path)
	u.say("a.n", form.Number, "2")
	u.press("update")
	u.say("r.crew.0.nm", form.Text, "Ana")
	u.say("r.crew.1.nm", form.Text, "Bo")
	u.say("a.n", form.Number, "")
	u.press("update")
	assert.NotContains(t, u.text, `id="r-crew-0-nm"`)
	u.say("a.n", form.Number, "3")
	u.press("update")
	assert.Equal(
		t, [][]string{{"Ana"}, {"Bo"}, {""}},
		[][]string{u.values("u-r-crew-0-nm"), u.values("u-r-crew-1-nm"), u.values("u-r-crew-2-nm")},
	)

	for i, name := range []string{"Cy", "Di", "Ed"} {
		u.press("add:guests")
		u.say(fmt.Sprintf("r.guests.%d.gn", i), form.Text, name)
	}
	u.press("remove:guests:1")
	assert.Contains(t, u.text, "Guest 2 was taken out.")
	assert.Equal(t, []string{"Ed"}, u.values("u-r-guests-1-gn"))
	u.press("restore:guests")
	assert.Equal(t, []string{"Di"}, u.values("u-r-guests-1-gn"))
	assert.Equal(t, []string{"Ed"}, u.values("u-r-guests-2-gn"))
	u.press("send")
	stored := lastStored(t, path)
	assert.Equal(t, []any{map[string]any{"nm": "Ana"}, map[string]any{"nm": "Bo"}, map[string]any{}}, stored["crew"])
	assert.Equal(t, []any{map[string]any{"gn": "Cy"}, map[string]any{"gn": "Di"}, map[string]any{"gn": "Ed"}},
		stored["guests"])
}

// Back, corrected and sent again: it is said, and offered to change what was sent,
// or to send one more.
func TestWhatIsSentTwiceIsSaid(t *testing.T) {
	section := `{"key": "s", "items": [{"key": "name", "type": "text", "label": "Name"}]}`
	path := sheet(t, "sent-twice", section, `"returning": {"change": true}`)
	address := strings.TrimPrefix(path, "/f/")
	u := paper(t, path)
	u.say("a.name", form.Text, "Ana")
	before := *u
	u.press("send")
	require.Contains(t, u.text, "It has arrived")
	again := before
	again.press("send")
	assert.Contains(t, again.text, "It has arrived", "a doubled click is no news")

	corrected := before
	corrected.open(path)
	corrected.page = before.page
	corrected.say("a.name", form.Text, "Ana María")
	corrected.press("send")
	assert.Contains(t, corrected.text, "You have sent this form already")
	assert.Contains(t, corrected.text, "Ana María")
	assert.Equal(t, 1, count(t, address))
	change := corrected
	change.press("change")
	assert.Contains(t, change.text, "Your change has been received")
	assert.Equal(t, 1, count(t, address))
	assert.Equal(t, map[string]any{"name": "Ana María"}, lastStored(t, path))

	corrected.press("another")
	assert.Contains(t, corrected.text, "It has arrived")
	assert.Equal(t, 2, count(t, address))

	// Where nothing can be changed, one more can still be sent.
	path = sheet(t, "sent-twice-fixed", section)
	u = paper(t, path)
	u.say("a.name", form.Text, "Ana")
	first := u.page
	u.press("send")
	u.page = first
	u.say("a.name", form.Text, "Bo")
	u.press("send")
	assert.Contains(t, u.text, "can’t be changed here")
	assert.NotContains(t, u.text, `value="change"`)
	status, _ := u.post(path, with(u.page.Submit("change"), "x", "y"))
	assert.Equal(t, http.StatusGone, status)
}

// Without a script nothing is stored that was never on the screen.
func TestNothingIsSentUnseen(t *testing.T) {
	path := sheet(
		t,
		"unseen",
		`{"key": "s", "items": [{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "own"}, {"value": "hired"}]},
	 {"key": "trailer", "type": "text", "label": "Trailer", "shown": "boat = \"own\""}, {"key": "fee", "type": "text", "label": "Fee", "value": {"follows": "boat"}}]}`,
	)
	u := paper(t, path)
	assert.Contains(t, u.text, `value="update"`)
	assert.NotContains(t, u.text, "noscript", "a script may be blocked rather than switched off")
	u.say("a.boat", form.ChoiceType, "own")
	u.press("send")
	assert.Contains(t, u.text, "Your answers have changed something here")
	assert.True(t, u.page.Screen()["u-a-trailer"].Shown)
	assert.Equal(t, []string{"own"}, u.values("u-a-fee"))
	assert.Zero(t, count(t, strings.TrimPrefix(path, "/f/")))
	u.press("send")
	assert.Equal(t, map[string]any{"boat": "own", "fee": "own"}, lastStored(t, path))
}

// A page that was passed is shown again when something is due on it that was not.
func TestAPageThatWasPassedIsShownAgain(t *testing.T) {
	def := &form.Form{Lazo: 1, Key: "passed", Title: "T", Timezone: "UTC", End: "It has arrived.", Pages: []*form.Page{
		{
			Key: "one",
			Sections: []*form.Section{
				{
					Key: "s1",
					Items: []*form.Item{
						{Key: "a", Type: form.Text, Label: "A"},
						{Key: "late", Type: form.Text, Label: "Late", Shown: form.When("b = \"x\"")},
					},
				},
			},
		},
		{Key: "two", Sections: []*form.Section{{Key: "s2", Items: []*form.Item{{Key: "b", Type: form.Text, Label: "B"}}}}}}}
	path := "/f/" + published(t, def).Address
	u := paper(t, path)
	u.say("a.a", form.Text, "1")
	u.press("next")
	u.say("a.b", form.Text, "x")
	u.press("send")
	assert.Contains(t, u.text, "Your answers have changed something here")
	assert.True(t, u.page.Screen()["u-a-late"].Shown)
	u.press("next")
	u.press("send")
	assert.Equal(t, map[string]any{"a": "1", "b": "x"}, lastStored(t, path))
}

// A default that was cleared is blank everywhere.
func TestAClearedDefaultIsBlankEverywhere(t *testing.T) {
	path := sheet(
		t, "cleared",
		`{"key": "s", "items": [{"key": "club", "type": "text", "label": "Club", "value": {"starts": "\"Harbor club\""}}]}`,
	)
	u := paper(t, path)
	u.say("a.club", form.Text, "")
	u.press("send")
	assert.NotContains(t, u.text, "Harbor club")
	assert.Equal(t, map[string]any{"club": nil}, lastStored(t, path))
	f, err := db.FormByAddress(context.Background(), "cleared")
	require.NoError(t, err)
	list, err := db.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	desk := newClient(t).signIn()
	for _, page := range []string{"responses", "responses.csv", "responses/" + list[0].ID} {
		_, text := desk.get(fmt.Sprintf("/forms/%d/%s", f.ID, page))
		assert.NotContains(t, text, "Harbor club", page)
	}
}

// Lengths count what people see as one character, and no field cuts what is pasted.
func TestLengthIsInWhatPeopleSee(t *testing.T) {
	path := sheet(t, "length",
		`{"key": "s", "items": [{"key": "name", "type": "text", "label": "Name", "max_length": 2}]}`)
	u := paper(t, path)
	assert.NotContains(t, u.text, "maxlength=\"2\"")
	u.say("a.name", form.Text, "👩‍👩‍👧‍👦e\u0301")
	u.press("send")
	assert.Contains(t, u.text, "It has arrived")
	assert.Equal(t, "👩‍👩‍👧‍👦é", lastStored(t, path)["name"])
	u.open(path)
	u.say("a.name", form.Text, "abc")
	u.press("send")
	assert.Contains(t, u.text, "Please write at most 2 characters")
	assert.Contains(t, u.text, `value="abc"`, "nothing is cut")
}

// At the deadline nothing that was typed is gone.
func TestAtTheDeadlineWhatWasTypedIsKept(t *testing.T) {
	def := &form.Form{Lazo: 1, Key: "deadline", Title: "Deadline", Timezone: "UTC",
		Opening: &form.Opening{Until: "2026-06-01T12:00"},
		Pages: []*form.Page{
			{
				Key: "p",
				Sections: []*form.Section{
					{Key: "s", Items: []*form.Item{{Key: "name", Type: form.Text, Label: "Name"},
						{Key: "kind", Type: form.Tick, Label: "Kind"}}},
				},
			},
		}}
	f := published(t, def)
	now := time.Date(2026, 6, 1, 11, 59, 0, 0, time.UTC)
	server := httptest.NewServer(web.New(db, web.Options{Quiet: true, Trust: true, Now: func() time.Time { return now }}))
	defer server.Close()
	c := newClient(t)
	_, page := c.read(c.Get(server.URL + "/f/" + f.Address))
	v := with(seenFields(page), "a.name", "Ana, who was nearly done", "_do", "send")
	now = now.Add(2 * time.Minute)
	status, page := c.read(c.PostForm(server.URL+"/f/"+f.Address, v))
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, page, "What you typed was not sent")
	assert.Contains(t, page, "Ana, who was nearly done")
	assert.Zero(t, count(t, f.Address))
	res, err := c.PostForm(server.URL+"/f/"+f.Address+"/live", v)
	require.NoError(t, err)
	res.Body.Close()
	assert.Equal(t, "yes", res.Header.Get("Lazo-Closed"), "a live change is told so, and asks for that page")
	// Who only looks in reads that it is closed, and nothing of typing.
	_, page = c.read(c.Get(server.URL + "/f/" + f.Address))
	assert.NotContains(t, page, "What you typed")
}

// A name that is half typed is no signature yet, whatever changes meanwhile.
func TestASignatureIsMadeWhenItIsSent(t *testing.T) {
	path := sheet(
		t,
		"signed-late",
		`{"key": "s", "items": [{"key": "more", "type": "tick", "label": "More"}, {"key": "x", "type": "note", "label": "X", "shown": "more"},
	 {"key": "signs", "type": "signature", "label": "Signature", "required": true}]}`,
	)
	u := paper(t, path)
	v := u.page.Submit("")
	v.Set("a.signs.typed", "Zul")
	v["a.more"] = []string{"", "yes"}
	status, live := u.post(path+"/live", v)
	require.Equal(t, http.StatusOK, status)
	assert.NotContains(t, live, "Signed:")
	u.say("a.more", form.Tick, "yes")
	u.page.Do(filltest.Act{Name: "a.signs.typed", Type: form.Text, Values: []string{"Zul"}})
	u.press("update")
	assert.Contains(t, u.text, `value="Zul"`, "it can go on being typed")
	u.page.Do(filltest.Act{Name: "a.signs.typed", Type: form.Text, Values: []string{"Zulma"}})
	u.press("send")
	require.Contains(t, u.text, "It has arrived")
	signs := lastStored(t, path)["signs"].(map[string]any)
	assert.Equal(t, "Zulma.svg", signs["name"])
	assert.NotEqual(t, "pending", signs["id"])
}

// The summary counts answers, leads to the question, and goes with what it says.
func TestTheSummarySaysWhatIsLeftToMend(t *testing.T) {
	path := sheet(t, "summary", `{"key": "s", "items": [{"key": "email", "type": "email", "label": "Mail", "required": true},
	 {"key": "code", "type": "text", "label": "Code", "min_length": 4, "pattern": "[a-z]+"}, {"key": "extra", "type": "text", "label": "Extra", "required": true, "shown": "code is answered"}]}`)
	u := paper(t, path)
	u.say("a.code", form.Text, "A1")
	u.press("update")
	u.press("send")
	assert.Contains(t, u.text, "Please check 3 answers", "two faults of one answer are one answer to check")
	assert.Contains(t, u.text, `href="#u-a-email"`, "to the unit, so that label and message are in sight")
	v := u.page.Submit("")
	v.Set("a.email", "ana@lakeside.example")
	v.Set("a.code", "")
	_, live := u.post(path+"/live", v)
	assert.NotContains(t, live, "aria-invalid", "what is mended is no longer marked")
	assert.NotContains(t, live, "Please check", "and the summary is gone with the question that vanished")
	v.Set("a.code", "B2")
	_, live = u.post(path+"/live", v)
	assert.Contains(t, live, "Please check 2 answers")
}

func TestRowsAndStampsStayWhereTheyBelong(t *testing.T) {
	path := sheet(
		t,
		"stay",
		`{"key": "crew", "repeat": {"max": 4, "name": "Rower"}, "items": [{"key": "nm", "type": "text", "label": "Name"}, {"key": "paid", "type": "text", "label": "Paid", "staff": true}]},
	 {"key": "s", "items": [{"key": "stamp", "type": "hidden", "label": "Stamp", "value": {"is": "now", "once": true}}, {"key": "n", "type": "number", "label": "N"}, {"key": "d", "type": "number", "label": "D", "value": {"follows": "n"}}]}`,
		`"returning": {"change": true}`,
	)
	u := paper(t, path)
	u.press("add:crew")
	u.press("add:crew")
	u.say("r.crew.0.nm", form.Text, "Ana")
	u.say("r.crew.1.nm", form.Text, "Bo")
	u.say("a.n", form.Number, "3")
	u.press("update")
	u.press("send")
	require.Contains(t, u.text, "It has arrived")
	f, err := db.FormByAddress(context.Background(), "stay")
	require.NoError(t, err)
	_, err = db.Pool().
		Exec(context.Background(),
			`update responses set answers = jsonb_set(jsonb_set(answers, '{crew,1,paid}', '"yes"'), '{later}', '"x"') where form_id = $1`, f.ID)
	require.NoError(t, err)
	first := lastStored(t, path)
	way := wayBack.FindStringSubmatch(u.text)
	require.NotNil(t, way)
	u.open(way[1])
	u.say("a.n", form.Number, "9")
	u.press("remove:crew:0")
	u.press("send")
	require.Contains(t, u.text, "Your change has been received", u.text)
	now := lastStored(t, path)
	assert.Equal(t, []any{map[string]any{"nm": "Bo", "paid": "yes"}}, now["crew"],
		"what the workspace noted stays with its row")
	assert.Equal(t, "x", now["later"], "and what it noted by a later edition")
	assert.Equal(t, first["stamp"], now["stamp"])
	assert.EqualValues(t, 9, now["d"], "a copied value goes on following")
}
