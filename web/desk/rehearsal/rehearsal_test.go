package rehearsal_test

import (
	"context"
	"fmt"
	"os"
	"regexp"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestRehearsal(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "at first", Path: "rehearsal", Says: []string{"Boat class"}, SaysNot: []string{`name="a.cox"`}},
		{Name: "an answer shows a question", Path: "rehearsal", Post: desktest.Fields("a.boat", "eight"),
			Says: []string{`name="a.cox"`}},
		{Name: "a moment", Path: "rehearsal", Post: desktest.Fields("_at", "2026-05-30T12:00"),
			Says: []string{"2026-05-30T12:00"}},
		{Name: "no moment", Path: "rehearsal", Post: desktest.Fields("_at", "soon", "_mode", "nobody", "_prior", "x")},
		{Name: "filled so that a tie is met", Path: "rehearsal?seek=cox:shown:met", Says: []string{`name="a.cox"`}},
		{Name: "no such tie", Path: "rehearsal?seek=nobody:shown:met"},
		{Name: "kept", Path: "rehearsal", Post: desktest.Fields("a.boat", "eight", "_do", "save", "_name", "An eight"),
			Says: []string{"An eight"}},
		{Name: "kept without a name", Path: "rehearsal", Post: desktest.Fields("_do", "save", "_name", " "),
			Says: []string{"name"}},
		{Name: "forgotten by no number", Path: "rehearsal", Post: desktest.Fields("_do", "forget:x"),
			Says: []string{"An eight"}},
		{Name: "run at publishing", Path: "publish", Says: []string{"The one that is kept comes out as expected."}},
		{Name: "a change", Path: "edit",
			Post: desktest.Fields("do", "state", "key", "cox", "property", "required", "state", "always")},
		{Name: "comes out otherwise", Path: "publish", Says: []string{"1 of 1 come out otherwise than expected"}},
	})
}

func TestTheBenchSetsWhatIsTaken(t *testing.T) {
	v := desktest.Visit(t, `{"key": "slot", "type": "choice", "label": "Shift", "show_left": "always", "places": 3,
		"choices": [{"value": "am", "label": "Morning"}, {"value": "pm", "label": "Afternoon", "places": 1}]}`)
	v.Try([]desktest.Case{
		{Name: "nothing is taken", Path: "rehearsal", Says: []string{"Places taken", `name="taken.slot.am"`, "3 left"},
			SaysNot: []string{"(full)"}},
		{Name: "one is full", Path: "rehearsal", Post: desktest.Fields("taken.slot.am", "1", "taken.slot.pm", "1"),
			Says: []string{"2 left", "(full)", "Afternoon is full"}},
		{Name: "kept with it", Path: "rehearsal",
			Post: desktest.Fields("taken.slot.pm", "1", "_do", "save", "_name", "Full afternoon"),
			Says: []string{"is kept with what comes of it now"}},
		{Name: "and run with it", Path: "rehearsal", Says: []string{"as expected"}},
		{Name: "what is no number", Path: "rehearsal", Post: desktest.Fields("taken.slot.am", "-1", "taken.slot.pm", "many"),
			SaysNot: []string{"(full)"}},
	})
}

// What would go out is said beside the form.
func TestWhatWouldGoOutIsRehearsed(t *testing.T) {
	v := desktest.Visit(t, `{"key": "length", "type": "number", "label": "Length"}`)
	ctx := context.Background()
	_, err := v.InForm().Edit(ctx, v.Form.DraftVersion, v.Member(), form.SetProperty("", "messages", []form.Message{{
		Key: "long", When: "length >= 12", To: []string{"harbour@pedralta.example"}, Subject: "Mooring for {length} metres",
		ReplyTo: "office@pedralta.example", Attach: []string{"response"}, Name: "Tell the harbour master",
		Body: "It is **{length}** metres long.\n\n{when length > 20}\n\nVery long.\n\n{end}"}}))
	require.NoError(t, err)
	fields := desktest.Fields("a.length", "14")
	_, page := v.Post(v.Base+"/rehearsal", fields)
	assert.Contains(t, page, "Mooring for 14 metres")
	assert.Contains(t, page, "harbour@pedralta.example")
	assert.Contains(t, page, "It is <strong>14</strong> metres long.")
	assert.NotContains(t, page, "Very long")
	assert.Contains(t, page, "Answers go to office@pedralta.example")
	assert.Contains(t, page, "Length is 14")
	_, page = v.Post(v.Base+"/rehearsal", desktest.Fields("a.length", "3"))
	assert.Contains(t, page, "does not go")
	assert.Contains(t, page, "Tell the harbour master")
	assert.Contains(t, page, "Length is 3")
	assert.NotContains(t, page, "Mooring for 3 metres")
}

// A letter of the draft is shown for any response, as it would arrive.
func TestALetterIsShownForAnyResponse(t *testing.T) {
	v, ids := desktest.Entries(t)
	ctx := context.Background()
	draft, err := v.InForm().Get(ctx)
	require.NoError(t, err)
	_, err = v.InForm().Edit(ctx, draft.DraftVersion, v.Member(), form.SetProperty("", "messages", []form.Message{
		{
			Key: "long", Name: "Tell the harbour", When: "length >= 12", To: []string{"harbour@pedralta.example"},
			Subject: "{length} metres",
			Body:    "By {name}",
		},
	}))
	require.NoError(t, err)
	for i := range 25 { // so that those before are not offered any more
		v.Receive(fmt.Sprintf(`{"boat": "single", "length": %d}`, i%8))
	}
	_, page := v.Get(v.Base + "/letters/long?for=" + ids["Ana"])
	assert.Contains(t, page, "17 metres")
	assert.Contains(t, page, "It goes.")
	_, page = v.Get(v.Base + "/letters/long?for=" + ids["Ciro"])
	assert.Contains(t, page, "9 metres")
	assert.Contains(t, page, "For this, it does not go.")
	status, _ := v.Get(v.Base + "/letters/none")
	assert.Equal(t, 404, status)
	_, page = v.Get(v.Base + "/letters/long?for=00000000-0000-0000-0000-000000000000")
	assert.Contains(t, page, "metres", "one that is not there is another")
}

// What people meet while the form is not open is shown as they would read it.
func TestAClosedFormIsRehearsedAsItIsMet(t *testing.T) {
	v := desktest.Visit(t, items)
	_, err := v.InForm().Edit(context.Background(), v.Form.DraftVersion, v.Member(),
		form.SetProperty("", "opening", form.Opening{Until: "2020-01-01T12:00", After: "Come **next year**."}))
	require.NoError(t, err)
	v.Try([]desktest.Case{
		{Name: "closed", Path: "rehearsal", Says: []string{"Come <strong>next year</strong>.", "people read this alone"}},
		{Name: "earlier", Path: "rehearsal", Post: desktest.Fields("_at", "2019-06-01T12:00"),
			SaysNot: []string{"people read this alone", "next year"}},
	})
}

// What was really sent is tried with the draft, beside what the live edition makes of it,
// with what would be stored; and the clock is dragged along the ribbon.
func TestAResponseIsTriedWithTheDraft(t *testing.T) {
	v, ids := desktest.Entries(t)
	v.Try([]desktest.Case{
		{Name: "nothing was changed", Path: "rehearsal", SaysNot: []string{"makes"}},
		{Name: "a change", Path: "edit", Post: desktest.Fields("do", "source", "key", "length", "property", "required",
			"source", `boat = "single"`)},
		{Name: "another", Path: "edit",
			Post: desktest.Fields("do", "source", "key", "name", "property", "shown", "source", `boat = "single"`)},
		{Name: "from the response", Path: "responses/" + ids["Ana"], Says: []string{"rehearsal?response=" + ids["Ana"]}},
		{Name: "an eight", Path: "rehearsal?response=" + ids["Ana"],
			Says: []string{"Filled as it was sent on", "makes 1 thing otherwise",
				"Your name is shown", "What would be stored", "Eight"}},
		{Name: "a single", Path: "rehearsal?response=" + ids["Ciro"], Says: []string{"Length in metres is optional", "Ciro"}},
		{Name: "one that is gone", Path: "rehearsal?response=00000000-0000-4000-8000-000000000000",
			Says: []string{"no longer there"}},
		{Name: "dragged", Path: "rehearsal", Post: desktest.Fields("moment", "1780142400", "moment-was", "1780146000"),
			Says: []string{"Saturday 30 May 2026, 12:00", `value="2026-05-30T12:00"`}},
		{Name: "not dragged", Path: "rehearsal", Post: desktest.Fields("moment", "1780142400", "moment-was", "1780142400",
			"_at", "2026-06-01T09:00"), Says: []string{"Monday 1 June 2026, 09:00"}},
	})
}

// Of a change only what differs from what the page shows is sent, and put together it is
// the whole; where it is not remembered the whole is sent.
func TestOnlyWhatDiffersIsSent(t *testing.T) {
	v := desktest.Visit(t, items)
	_, page := v.Get(v.Base + "/rehearsal")
	shown := desktest.Hidden(page).Get("_shown")
	if shown == "" {
		shown = regexp.MustCompile(`name="_shown" value="([^"]+)"`).FindStringSubmatch(page)[1]
	}
	status, parts := v.Change(v.Base+"/rehearsal", desktest.Fields("_shown", shown, "a.boat", "eight"))
	assert.Equal(t, 200, status)
	assert.Contains(t, parts, `hx-target="#u-a-cox"`)
	assert.Contains(t, parts, `id="why-cox"`)
	assert.NotContains(t, parts, `id="u-a-length"`, "what did not change is not sent")
	assert.Less(t, len(parts), len(page)/2)
	_, whole := v.Change(v.Base+"/rehearsal", desktest.Fields("_shown", "forgotten", "a.boat", "eight"))
	assert.Contains(t, whole, `id="u-a-length"`)
}
