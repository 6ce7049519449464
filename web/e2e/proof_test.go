package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A contradiction is named at its line as it is written, its reason read, mended, and it is
// gone.
func TestAContradictionIsNamedWhereItIsWritten(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.write("#title", "Night row")
	v.click(".new button.first")
	v.sees("Not published yet")
	v.add("Do you bring a lamp?", "do_you_bring_a_lamp")
	v.add("Colour of the lamp", "colour_of_the_lamp")
	v.saves(func() { v.choose("#state-shown", "when") })
	v.until(`document.querySelector("#shown-0-op")`)
	v.saves(func() { v.click("#add-to-shown") })
	v.until(`document.querySelector("#shown-1-op")`)
	v.saves(func() { v.choose("#shown-1-op", "no") })
	require.Equal(t, "do_you_bring_a_lamp and do_you_bring_a_lamp = no", v.item("colour_of_the_lamp").Shown.Expr)
	v.until(`document.querySelector("#proof-colour_of_the_lamp .proven")?.textContent.includes("is never shown")`)
	v.until(`document.querySelector("#no-remarks").textContent === "No other remarks"`)
	v.accessible("the manuscript with a remark of the proof")

	v.open(fmt.Sprintf("/forms/%d/proof", js[int64](v, `Number(location.pathname.split("/")[2])`)))
	v.sees("Nobody is stopped, but one thing never happens")
	v.accessible("a proof with a finding")
	v.click(`#findings a[href*="?at="]`)
	v.until(`document.querySelector("#row-colour_of_the_lamp.sel")`)
	v.saves(func() { v.click("#undo") })
	v.saves(func() { v.click("#undo") })
	v.until(`!document.querySelector("#proof-colour_of_the_lamp .proven")`)
	v.until(`document.querySelector(".proving a")?.textContent.includes("Proven")`)
	v.until(`document.querySelector("#no-remarks").textContent === "No remarks"`)
}

// Somebody who could not send the form is found before it is published, and shown; once
// that is mended nothing stands in the way.
func TestADeadEndIsFoundBeforePublishing(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.click(`//a[text()="Canal day"]`)
	v.until(`document.querySelector("#proof-boat_class .proven")?.textContent.includes("nobody can send the form")`)
	at := js[string](v, `location.pathname`)
	v.open(at + "/publish")
	v.sees("What becomes impossible")
	v.sees("nobody can send the form")
	v.click("#newly-impossible a")
	v.sees("no answer to it is accepted")
	v.until(`document.querySelector("#a-lane-1")?.checked && document.querySelector("#a-boat_source-1")?.checked`)
	assert.Zero(t, js[int](v, `document.querySelectorAll("[name=boat_class]").length`), "no class is on offer")

	// Own boats only are kept from the eight: the single is there for who hires.
	v.open(at + "?at=boat_class")
	v.saves(func() { v.click(`form:has([name=property][value="choices.0.withheld"]) [title="Take this tie away"]`) })
	v.until(`!document.querySelector("#proof-boat_class .proven")`)
	v.open(at + "/publish")
	v.until(`document.querySelector("#publish-proof a[href$='/proof']")`)
	v.seesNot("nobody can send the form")
}

// Every walk is gone through in the rehearsal, and all are kept at once.
func TestAllWalksAreGoneThroughAndKept(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.click(`//a[text()="Crew entry"]`)
	v.sees("Cox’s name")
	at := js[string](v, `location.pathname`)
	v.open(at + "/proof")
	v.sees("48 shapes")
	v.sees("Fewer can’t.")
	v.accessible("a proof without findings")
	n := js[int](v, `document.querySelectorAll(".walks li").length`)
	require.Positive(t, n)
	for i := range n {
		v.open(at + "/proof")
		v.click(fmt.Sprintf(".walks li:nth-child(%d) a", i+1))
		v.sees(fmt.Sprintf("Walk %d of %d", i+1, n))
	}
	v.open(at + "/proof")
	v.click("#keep-walks")
	v.sees("walks are kept as rehearsals")
	v.seesNot("try none of the")
	v.click(".shapes a")
	v.sees("One of the shapes that the form can take")
	v.open(at + "/rehearsal")
	assert.Equal(t, n, js[int](v,
		`[...document.querySelectorAll(".kept-one")].filter(k => k.textContent.includes("Walk")).length`))
}

// A press in the rehearsal is on what one sees: the reasons follow it, the page stays where it is.
func TestTheFirstPressInTheRehearsalCounts(t *testing.T) {
	v := visit(t)
	v.signIn()
	items := []string{`{"key": "sauna", "type": "yes_no", "label": "Sauna"}`}
	for i := range 30 {
		items = append(items, fmt.Sprintf(`{"key": "q%d", "type": "text", "label": "Question %d", "shown": "sauna = yes"}`, i,
			i))
	}
	items = append(items, `{"key": "crew", "type": "choice", "label": "Crew", "choices": [{"value": "one"}, {"value": "two"}], "required": "sauna is blank"}`)
	_, path := v.draftOf("first-press", strings.Join(items, ", "))
	v.open(path + "/rehearsal")
	v.until(`document.querySelector("#a-crew-1")`)
	before := js[float64](v, `scrollY`)
	v.click("#a-crew-1")
	v.until(`document.querySelector("#a-crew-1").checked`)
	assert.Equal(t, before, js[float64](v, `scrollY`))
	assert.True(t, js[bool](v, `(([box, why]) => why.bottom <= box.bottom + 1 && why.top >= box.top - 1)(
		["#whys", '.why[data-why="crew"]'].map((at) => document.querySelector(at).getBoundingClientRect()))`), "its reasons are in sight")
}
