package e2e

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// row is the place of a question in the manuscript, -1 for none.
func (v *visitor) row(key string) int {
	v.t.Helper()
	return js[int](v, `[...document.querySelectorAll(".row.item")].findIndex((row) => row.dataset.key === "`+key+`")`)
}

// A new form is begun with its greeting; what was just written is where one goes on.
func TestANewFormIsWrittenFromItsHead(t *testing.T) {
	v := visit(t)
	v.begin("Boat naming")
	v.sees("Write your first question below")
	v.sees("Page 1")
	v.sees("Untitled section")
	v.sees("No remarks")
	v.seesNot("page_1")
	zone := js[string](v, "Intl.DateTimeFormat().resolvedOptions().timeZone")
	assert.Equal(t, zone, v.draft().Timezone, "its times are those of whoever begins it")
	v.saves(func() { v.write("#form-intro", "Names for **new** boats.\t") })
	assert.Equal(t, "Names for **new** boats.", v.draft().Intro)
	v.add("Which class?", "which_class")
	v.seesNot("Write your first question below")
	v.until(`document.activeElement.id === "f-choices"`)
	assert.Empty(t, v.item("which_class").Choices, "no sample choices are published")
	v.sees("Which class? has no choices")
	assert.False(t, js[bool](v, `Boolean(document.querySelector(".row .key")?.offsetParent)`),
		"keys are shown where one asks for them")
	v.click("#show-keys")
	v.until(`document.querySelector(".row:not(.sel) .key, .with-keys")`)
	v.click("#show-keys")
}

// A question of a long form is found by a key, and only what became different of it is sent.
func TestAQuestionIsFoundAndChangedAlone(t *testing.T) {
	v := visit(t)
	v.signIn()
	f, path := v.draftOf("finding", `{"key": "a", "type": "text", "label": "Name of the boat"}, {"key": "b", "type": "text", "label": "Pier"},
		{"key": "c", "type": "text", "label": "Éclair", "shown": "b is answered"}`)
	_ = f
	v.open(path)
	v.do(chromedp.KeyEvent("/"))
	v.until(`document.querySelector("dialog.find[open]")`)
	v.accessible("finding a question")
	v.do(chromedp.SendKeys(".find-words", "eclair"))
	v.sees("One found")
	v.do(chromedp.SendKeys(".find-words", kb.Enter))
	v.until(`document.querySelector("#row-c.sel")`)
	js[bool](v, `(window.before = document.querySelector("#row-c"), window.field = document.querySelector("#f-help"), true)`)
	v.saves(func() { v.write("#f-label", "Éclair of the lake\t") })
	assert.Equal(t, "Éclair of the lake", v.item("c").Label)
	assert.True(t, js[bool](v, `window.before.isConnected && window.field.isConnected`),
		"the open question stayed in the page")
	v.until(`[...document.querySelectorAll("#subjects option")].some((o) => o.value === "Éclair of the lake")`)
	// A refusal is said at its field, and gone with the next change.
	js[bool](v, `document.querySelector("#row-c details.more-settings").open = true, true`)
	v.write("#f-key", "a")
	v.do(chromedp.SendKeys("#f-key", kb.Enter))
	v.sees("is taken already")
	v.until(`document.querySelector("#f-key[aria-invalid=true]")`)
	v.saves(func() { v.write("#f-help", "As it is called\t") })
	v.seesNot("is taken already")
}

// Several questions are moved together, by the keyboard, and cut in one form and pasted in
// another, with their ties among each other.
func TestSeveralQuestionsAreMovedAndPasted(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, from := v.draftOf("cut-from", `{"key": "a", "type": "yes_no", "label": "A"}, {"key": "b", "type": "text", "label": "B", "shown": "a"},
		{"key": "c", "type": "text", "label": "C"}`)
	v.open(from)
	v.click("#mark-a")
	v.click("#mark-b")
	v.saves(func() {
		v.do(chromedp.Focus("#row-b .pick-row"), chromedp.KeyEvent(kb.ArrowDown, withAlt))
	})
	v.until(`[...document.querySelectorAll(".row.item")].map((r) => r.dataset.key).join() === "c,a,b"`)
	v.saves(func() { v.click("#undo") })
	v.until(`[...document.querySelectorAll(".row.item")].map((r) => r.dataset.key).join() === "a,b,c"`)

	// By the mouse, onto the title: to the beginning of what follows.
	v.click("#close") // what is unfolded is written in, not dragged
	v.until(`!document.querySelector(".row.sel")`)
	v.saves(func() { v.drag("#row-c", ".row.sub") })
	v.until(`[...document.querySelectorAll(".row.item")].map((r) => r.dataset.key).join() === "c,a,b"`)
	v.saves(func() { v.click("#undo") })
	v.until(`[...document.querySelectorAll(".row.item")].map((r) => r.dataset.key).join() === "a,b,c"`)

	v.open(from)
	v.click("#mark-a")
	v.click("#mark-b")
	v.do(chromedp.KeyEvent("x", withCtrl))
	v.sees("2 questions cut")
	_, to := v.draftOf("pasted-to", `{"key": "a", "type": "text", "label": "Already here"}`)
	v.open(to)
	v.do(chromedp.Focus("#row-a .pick-row"))
	v.saves(func() { v.do(chromedp.KeyEvent("v", withCtrl)) })
	v.until(`document.querySelectorAll(".row.item").length === 3`)
	assert.Equal(t, "a_2", v.item("b").Shown.Expr, "the tie follows to the key that was free")
	assert.Equal(t, 1, v.row("a_2"))
	v.open(from)
	v.until(`document.querySelectorAll(".row.item").length === 1`)
}

// A fee is made by pointing: cases, each with a sentence and what it is then.
func TestAFeeIsMadeByCases(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, path := v.draftOf("fee-by-cases", `{"key": "class", "type": "choice", "label": "Class", "choices": [{"value": "single"}, {"value": "eight"}]},
		{"key": "hires", "type": "tick", "label": "I hire"}, {"key": "fee", "type": "calculation", "label": "Fee"}`)
	v.open(path + "?at=fee")
	v.saves(func() { v.choose("#from", "cases") })
	v.until(`document.querySelector("#value-cases-0-when-value")`)
	v.sees("is ticked")
	v.saves(func() { v.write("#value-cases-0-when-value", "60\t") })
	v.saves(func() { v.write("#value-otherwise", "48\t") })
	v.saves(func() { v.click("#add-case") })
	v.until(`document.querySelector("#value-cases-1-when-value")`)
	v.saves(func() { v.choose("#value-cases-1-when-0-v0", "single") })
	v.saves(func() { v.write("#value-cases-1-when-value", "36\t") })
	assert.Equal(t, `if(hires, 60, if(class = "single", 36, 48))`, v.item("fee").Value.Is)
	v.accessible("a value by cases")
	v.write("#value-otherwise", "free\t")
	v.sees("both must be alike")
	require.Equal(t, `if(hires, 60, if(class = "single", 36, 48))`, v.item("fee").Value.Is)
}

// A value that is chosen while the clause's fields are still under way stays chosen.
func TestAValueChosenBeforeItsFieldsAreAnswered(t *testing.T) {
	v, _, wait := broken(t, visit(t))
	v.signIn()
	_, path := v.draftOf("chosen-early", `{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "own"}, {"value": "hired"}]},
		{"key": "a", "type": "text", "label": "A"}`)
	v.open(path)
	v.click("#mark-a")
	v.write("#many-key", "Boat\t")
	v.until(`document.querySelector("select#many-v0")`)
	wait.Store(400)
	v.choose("#many-op", "!=")
	v.choose("#many-v0", "hired")
	time.Sleep(700 * time.Millisecond) // the fields are answered meanwhile
	wait.Store(0)
	v.saves(func() { v.click("#tie-many") })
	assert.Equal(t, `boat != "hired"`, v.item("a").Shown.Expr)
}

// Tying what is marked works as often as one likes, each time with what is marked then.
func TestTyingTheseWorksTwice(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, path := v.draftOf("tie-twice", `{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "own"}, {"value": "hired"}]},
		{"key": "a", "type": "text", "label": "A"}, {"key": "b", "type": "text", "label": "B"}, {"key": "c", "type": "text", "label": "C"}`)
	v.open(path)
	for _, keys := range [][]string{{"a", "b"}, {"b", "c"}} {
		for _, key := range keys {
			v.click("#mark-" + key)
		}
		v.write("#many-key", "Boat\t")
		v.until(`document.querySelector("select#many-v0")`)
		v.choose("#many-v0", "own")
		v.saves(func() { v.click("#tie-many") })
		for _, key := range keys {
			assert.Equal(t, `boat = "own"`, v.item(key).Shown.Expr, key)
		}
		v.click("#unmark")
		v.until(`!document.querySelector(".mark-box:checked")`)
	}
}

// Questions can be written one after the other: after Enter the line waits for the next one.
func TestQuestionsAreWrittenOneAfterTheOther(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, path := v.draftOf("written-on", `{"key": "a", "type": "text", "label": "A"}`)
	v.open(path)
	v.click("#add-s")
	v.keys("Name of the club\rDate of birth\r")
	v.until(`document.querySelectorAll(".row.item").length === 3`)
	v.keys("E-mail address\r")
	v.until(`document.querySelectorAll(".row.item").length === 4`)
	labels := js[string](v, `[...document.querySelectorAll(".row.item")].map((row) => row.dataset.key).join(" ")`)
	assert.Equal(t, "a name_of_the_club date_of_birth e_mail_address", labels)
	v.sees("Date")
	v.keys(kb.ArrowUp)
	v.until(`document.querySelector("#row-e_mail_address.sel") && document.activeElement.id === "f-label"`)
}

// What can be shown by a question is read by its label, however long its key is.
func TestALongKeyLeavesItsLabelRoom(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, path := v.draftOf("long-keys", `{"key": "boat", "type": "tick", "label": "Boat"},
		{"key": "the_name_of_whoever_looks_after_the_boat_in_winter", "type": "text", "label": "Who looks after it in winter?"}`)
	v.open(path + "?at=boat")
	v.click(".then summary")
	v.until(`document.querySelector("#then-list label")`)
	assert.Greater(t, js[float64](v, `(([label, key]) => label.offsetWidth / key.offsetWidth)(
		document.querySelector("#then-list label").querySelectorAll("span, code"))`), 1.5)
	assert.Equal(t, "Saved", js[string](v, `document.querySelector(".saved").textContent.trim()`),
		"looking changes nothing")
}

// What is done with the marked questions leaves the one open that is, whichever it was when
// the page came.
func TestTheMarkedLeaveWhatIsOpenOpen(t *testing.T) {
	v := visit(t)
	v.signIn()
	_, path := v.draftOf("marked-beside", `{"key": "boat", "type": "yes_no", "label": "Boat"}, {"key": "a", "type": "text", "label": "A"},
		{"key": "b", "type": "text", "label": "B"}`)
	v.open(path)
	v.pick("a")
	v.click("#mark-b")
	v.write("#many-key", "Boat\t")
	v.until(`document.querySelector("#many-op").value === "yes"`)
	v.saves(func() { v.click("#tie-many") })
	v.until(`document.querySelector("#row-b .m").textContent.includes("Boat")`)
	assert.True(t, js[bool](v, `Boolean(document.querySelector("#row-a.sel"))`))
	v.saves(func() { v.click(`#marked button[value="many:require"]`) })
	assert.True(t, js[bool](v, `Boolean(document.querySelector("#row-a.sel"))`))
	v.pick("boat")
	v.saves(func() { v.write("#form-title", "Boats\t") })
	assert.True(t, js[bool](v, `Boolean(document.querySelector("#row-boat.sel"))`), "nor does another title close it")
}

// Why something is refused is said beside what was touched, in sight, and is gone with the next change.
func TestARefusalStandsWhereOneTouched(t *testing.T) {
	v := visit(t)
	v.signIn()
	items := []string{}
	for i := range 25 {
		items = append(items, fmt.Sprintf(`{"key": "q%d", "type": "text", "label": "Question %d"}`, i, i))
	}
	_, path := v.draftOf("refused-here", strings.Join(items, ", "))
	v.open(path)
	v.click("#mark-q24")
	v.write("#many-key", "Question 24\t")
	v.click("#tie-many")
	v.until(`document.querySelector(".flash[role=alert]")`)
	assert.True(t, js[bool](v,
		`((why) => why.top >= 0 && why.bottom <= innerHeight)(document.querySelector(".flash[role=alert]").getBoundingClientRect())`))
	assert.True(t, js[bool](v, `Boolean(document.querySelector("#marked .flash[role=alert]"))`))
}
