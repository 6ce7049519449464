package e2e

import (
	"context"
	"encoding/json"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/store"
)

// received publishes a form with crews, and stores four entries.
func (v *visitor) crews(key string) store.Form {
	v.t.Helper()
	f := v.live(key, `{"key": "entered_by", "type": "text", "label": "Your name"},
		{"key": "length", "type": "number", "label": "Length in metres", "max": 20},
		{"key": "born", "type": "date", "label": "Date of birth"}, {"key": "guardian", "type": "phone", "label": "Guardian’s phone"},
		{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "four", "label": "Four"}, {"value": "eight", "label": "Eight"}]},
		{"key": "called", "type": "tick", "label": "Called", "staff": true}`)
	for i, answers := range []string{
		`{"entered_by": "Ana", "born": "2012-03-01", "length": 17, "boat": "eight"}`,
		`{"entered_by": "Bruno", "born": "2011-03-01", "guardian": "+59899123456", "length": 12, "boat": "four"}`,
		`{"entered_by": "Ciro", "born": "2013-05-01", "length": 12, "boat": "four"}`,
		`{"entered_by": "Dora", "born": "1980-05-01", "length": 8, "boat": "eight"}`,
	} {
		_, err := v.store.AddResponse(context.Background(),
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1,
				Answers: []byte(answers), ReceivedAt: time.Now().Add(time.Duration(i-9) * time.Hour), Filling: uuid.NewString()})
		require.NoError(v.t, err)
	}
	v.signIn()
	return f
}

// all are the stored answers of a form's responses, the newest first.
func (v *visitor) all(f store.Form) (out []map[string]any) {
	v.t.Helper()
	list, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 100)
	require.NoError(v.t, err)
	for _, r := range list {
		answers, err := engine.ParseAnswers(r.Answers)
		require.NoError(v.t, err)
		out = append(out, answers)
	}
	return out
}

// called are the names of those that were called.
func (v *visitor) called(f store.Form) (names []string) {
	for _, answers := range v.all(f) {
		if answers["called"] == true {
			name, _ := answers["entered_by"].(string)
			names = append(names, name)
		}
	}
	return names
}

// The under-18s without a guardian's number are found by pointing, marked, called, and it
// is taken back.
func TestThoseToBeCalledAreFoundAndMarked(t *testing.T) {
	v := visit(t)
	f := v.crews("to-be-called")
	base := "/forms/" + jsonNumber(f.ID) + "/responses"
	v.open(base)
	v.sees("4 responses")
	v.accessible("responses")
	v.click("#change-condition")
	v.until(`document.querySelector("#condition")`)
	v.click(`#condition button[value=add]`)
	v.until(`document.querySelector("#key0")`)
	v.choose("#key0", "born")
	v.until(`document.querySelector("#op0 option[value='>']")`)
	v.choose("#op0", ">")
	v.until(`document.querySelector("#clause0-v0")?.type === "date"`)
	v.date("#clause0-v0", "2008-11-26")
	v.seesNot("Dora")
	v.click(`#condition button[value=add]`)
	v.until(`document.querySelector("#key1")`)
	v.choose("#key1", "guardian")
	v.until(`document.querySelector("#op1 option[value=blank]")`)
	v.choose("#op1", "blank")
	v.seesNot("Bruno")
	v.sees("Ana")
	v.accessible("a condition that is being changed")
	v.until(`document.querySelector("[role=status]")?.textContent.includes("2 of 4")`)
	v.write("#view-name", "To be called")
	v.click(`form[action*="/views"] button`)
	v.until(`[...document.querySelectorAll("nav[aria-label=Views] a")].some((a) => a.textContent.includes("To be called") && a.getAttribute("aria-current"))`)
	v.sees("Guardian’s phone is not answered")
	v.click("[data-marks]")
	v.sees("2 marked")
	v.accessible("marked responses")
	v.click(`#bulk button[value=called]`)
	v.sees("Done for 2 responses")
	assert.ElementsMatch(t, []string{"Ana", "Ciro"}, v.called(f))
	v.click(`#bulk button[formaction]`)
	// so that keys are heard
	v.until(`document.readyState === "complete" && !document.querySelector("#bulk button[formaction]")`)
	assert.Empty(t, v.called(f))
	// One by one, right in the table, by the keyboard.
	v.do(chromedp.KeyEvent("j"))
	v.until(`document.activeElement.matches(".row-link")`)
	v.do(chromedp.KeyEvent("j"), chromedp.KeyEvent(kb.Enter))
	v.until(`document.querySelector("#beside [data-response]")`)
	v.accessible("a response beside the table")
	first := js[string](v, `document.querySelector("#beside [data-response]").textContent`)
	v.do(chromedp.KeyEvent("k"))
	v.until(`document.querySelector("#beside [data-response]").textContent !== ` + jsonText(first))
	v.click(`tbody tr .staff-field input[type=checkbox]`)
	v.until(`document.querySelectorAll("tbody .staff-field input:checked").length === 1`)
	require.Eventually(t, func() bool { return len(v.called(f)) == 1 }, 5*time.Second, 50*time.Millisecond)
}

func jsonText(s string) string { data, _ := json.Marshal(s); return string(data) }

// A typing mistake is corrected by the office, and both states can be seen; what a check
// refuses is kept only if one says so.
func TestATypingMistakeIsCorrected(t *testing.T) {
	v := visit(t)
	f := v.crews("corrected")
	v.open("/forms/" + jsonNumber(f.ID) + "/responses")
	v.open(js[string](v, `document.querySelectorAll(".row-link")[3].getAttribute("href")`))
	v.sees("Ana")
	v.accessible("one response")
	v.click(`a[href$="/change"]`)
	v.until(`document.querySelector('[name="a.length"]')`)
	v.accessible("a change by the office")
	v.write(`[name="a.length"]`, "71")
	v.click(`button[value=save]`)
	v.sees("This is not stored yet")
	v.write(`[name="a.length"]`, "7.1")
	v.click(`button[value=save]`)
	v.sees("Changed by")
	v.until(`[...document.querySelectorAll("del")].some((d) => d.textContent === "17")`)
	v.until(`[...document.querySelectorAll("ins")].some((d) => d.textContent === "7.1")`)
	v.click(`a[href$="?version=1"]`)
	v.sees("as it was before a change")
	// Somebody calls.
	v.open("/forms/" + jsonNumber(f.ID) + "/responses/new")
	v.write(`[name="a.entered_by"]`, "Elin")
	v.click(`[name="a.boat"][value=four]`)
	v.click(`[name="a.called"][type=checkbox]`)
	v.click(`button[value=save]`)
	v.sees("Taken down by the office")
	assert.Contains(t, v.called(f), "Elin")
	assert.Len(t, v.all(f), 5)
}

// The summary says the same in pictures and in tables; ten sheets go to the printer.
func TestSummaryAndSheets(t *testing.T) {
	v := visit(t)
	f := v.crews("summed-up")
	base := "/forms/" + jsonNumber(f.ID) + "/responses"
	v.open(base)
	v.until(`document.querySelector("#beside")?.textContent.includes("Boat class")`)
	v.open(base + "/summary")
	v.sees("Length in metres")
	v.accessible("the summary")
	rows := js[[]string](v, `[...document.querySelectorAll("main section")].find((s) => s.querySelector("h2").textContent.trim() === "Boat class")
		? [...[...document.querySelectorAll("main section")].find((s) => s.querySelector("h2").textContent.trim() === "Boat class")
			.querySelectorAll("tr")].map((r) => r.innerText.replace(/\s+/g, " ").trim()) : []`)
	assert.Equal(t, []string{"Four 2 50 %", "Eight 2 50 %"}, rows)
	v.choose("#cross-of", "boat")
	v.choose("#cross-by", "called")
	v.click("#cross button")
	v.until(`document.querySelector("#cross table")`)
	v.open(base + "/out")
	v.accessible("ways out")
	v.open(base + "/sheets")
	assert.Equal(t, 4, js[int](v, `document.querySelectorAll("article").length`))
	v.accessible("sheets")
	assert.NotContains(t, js[string](v, `document.querySelector("article").innerText`), "Guardian",
		"what is empty takes no room")
}

// Responses of another program are read in by pointing, taken, and taken out again; their
// summary is to be had as pictures.
func TestResponsesAreReadIn(t *testing.T) {
	v := visit(t)
	f := v.crews("read-in")
	base := "/forms/" + jsonNumber(f.ID) + "/responses"
	v.open(base)
	js[bool](v, `[...document.querySelectorAll("main a")].find((a) => a.textContent.trim() === "Read in").click(), true`)
	v.sees("Look at its columns")
	v.accessible("reading in")
	v.paste("#cells", "Who\tBoat class\tLength in metres\nElin\tEight\t17\nFausto\tfour\t12 m")
	v.click(`main form button`)
	v.sees("2 lines below the heading")
	v.accessible("matching columns")
	v.choose(`[name="column.0"]`, "entered_by")
	v.click(`main form button`)
	v.sees("1 of 2 lines could be taken")
	v.sees("C3")
	v.accessible("judged lines")
	v.open(base + "/in")
	v.paste("#cells", "Who\tBoat class\tLength in metres\nElin\tEight\t17\nFausto\tfour\t12")
	v.click(`main form button`)
	v.sees("2 lines below the heading")
	v.choose(`[name="column.0"]`, "entered_by")
	v.click(`main form button`)
	v.sees("All 2 responses can be taken")
	js[bool](v, `[...document.querySelectorAll("button")].find((b) => b.textContent.includes("Take all 2")).click(), true`)
	v.sees("They are among the responses now.")
	assert.Len(t, v.all(f), 6)
	v.accessible("what was read in")

	v.open(base + "/summary")
	v.sees("Boat class")
	v.accessible("summary")
	js[bool](v, `window.png = 0, URL.createObjectURL = (blob) => { window.png = blob.type === "image/png" ? blob.size : -1; return "#"; }, true`)
	v.click(`a[data-png="boat.png"]`)
	v.until(`window.png > 1000`)

	v.open(base + "/in")
	v.click(`[name=sure]`)
	js[bool](v, `[...document.querySelectorAll("button")].find((b) => b.textContent.includes("Take them out again")).click(), true`)
	v.sees("taken out again")
	assert.Len(t, v.all(f), 4)

	v.open(base + "/out")
	v.sees("ZIP of the files")
	v.accessible("what goes out")
}

// What is rehearsed of a file is its name, and nothing where none was chosen.
func TestAFileIsRehearsedByItsName(t *testing.T) {
	v := visit(t)
	f := v.live("rehearsed-file", `{"key": "name", "type": "text", "label": "Your name"}, {"key": "hull", "type": "file", "label": "Hull"},
		{"key": "more", "type": "text", "label": "More", "shown": "name is answered"}`)
	v.signIn()
	v.open("/forms/" + jsonNumber(f.ID) + "/rehearsal")
	v.write(`[name="a.name"]`, "Ana")
	v.until(`document.querySelector('[name="a.more"]')`)
	v.seesNot("[object File]")
	assert.False(t, js[bool](v, `document.body.innerText.includes("Take it away")`))
	js[bool](v, `(() => { const files = new DataTransfer(); files.items.add(new File(["x"], "hull.png", {type: "image/png"}));
		const field = document.querySelector("input[type=file]"); field.files = files.files;
		field.dispatchEvent(new Event("change", {bubbles: true})); return true })()`)
	v.sees("hull.png")
}

// Those who left a question empty are told apart from those who never saw it, by pointing.
func TestNeverAskedIsNotLeftEmpty(t *testing.T) {
	v := visit(t)
	f := v.live("never-asked", `{"key": "name", "type": "text", "label": "Your name"}, {"key": "boat", "type": "yes_no", "label": "Own boat"},
		{"key": "cox", "type": "text", "label": "Cox", "shown": "boat"}`)
	for _, answers := range []string{`{"name": "Ana", "boat": true}`, `{"name": "Bruno", "boat": false}`,
		`{"name": "Ciro", "boat": true, "cox": "Eva"}`} {
		_, err := v.store.AddResponse(context.Background(),
			store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1,
				Answers: []byte(answers), ReceivedAt: time.Now().Add(-time.Hour), Filling: uuid.NewString()})
		require.NoError(t, err)
	}
	v.signIn()
	v.open("/forms/" + jsonNumber(f.ID) + "/responses")
	v.click("#change-condition")
	v.until(`document.querySelector("#condition")`)
	v.click(`#condition button[value=add]`)
	v.until(`document.querySelector("#key0")`)
	v.choose("#key0", "cox")
	v.until(`document.querySelector("#op0 option[value=never_asked]")`)
	v.choose("#op0", "never_asked")
	v.until(`document.querySelector("[role=status]")?.textContent.includes("1 of 3")`)
	v.sees("Bruno")
	v.seesNot("Ana")
	v.choose("#op0", "blank")
	v.until(`document.querySelector("[role=status]")?.textContent.includes("2 of 3")`)
}
