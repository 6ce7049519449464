package e2e

import (
	"testing"
	"unicode/utf8"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"

	"lazo/core/form"
)

// hands counts what a person does: each click, each key that is no letter of a text, and
// beside them the letters of texts, which are those of the form whatever makes it.
type hands struct {
	*visitor
	presses, letters int
}

func (h *hands) clicks(sel string) {
	h.t.Helper()
	h.click(sel)
	h.presses++
}

func (h *hands) key(keys ...string) {
	h.t.Helper()
	for _, k := range keys {
		h.do(chromedp.KeyEvent(k))
		h.presses++
	}
}

func (h *hands) command(key string) {
	h.t.Helper()
	h.visitor.command(key)
	h.presses++
}

func (h *hands) writes(text string) {
	h.t.Helper()
	h.do(chromedp.KeyEvent(text))
	h.letters += utf8.RuneCountInString(text)
}

// question writes a question on the line for it, and stays there; with then it is opened,
// and closed again.
func (h *hands) question(label string, then func()) {
	h.t.Helper()
	if !js[bool](h.visitor, `document.activeElement.matches(".write-line")`) {
		h.command("n")
		h.until(`document.activeElement.matches(".write-line")`)
	}
	h.saves(func() { h.writes(label); h.key(kb.Enter) })
	h.until(`document.activeElement.matches(".write-line") && document.activeElement.value === ""`)
	if then == nil {
		return
	}
	h.key(kb.ArrowUp)
	h.until(`document.querySelector(".row.sel #f-label")?.value === "` + label + `"`)
	then()
	h.key(kb.Escape)
	h.until(`!document.querySelector(".row.sel")`)
}

// A form with three questions that depend on two others, by two clauses with different
// operators, is made, tried both ways and published in few presses; docs/benchmarks.md has
// how many.
func TestFewPressesMakeAForm(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	h := &hands{visitor: v}
	h.clicks("#title")
	h.writes("Boats")
	h.key(kb.Enter)
	v.sees("Not published yet")
	h.question("Which boat?", func() {
		v.until(`document.activeElement.id === "f-choices"`)
		v.saves(func() { h.writes("Single"); h.key(kb.Enter); h.writes("Eight"); h.key(kb.Tab) })
	})
	for _, label := range []string{"Length in metres", "Cox", "Trailer", "Escort"} {
		h.question(label, nil)
	}
	for _, key := range []string{"cox", "trailer", "escort"} {
		h.clicks("#row-" + key + " .mark-box")
	}
	// Which boat? is Eight
	h.clicks("#many-v0")
	h.key("E", kb.Enter)
	v.saves(func() { h.clicks("#tie-many") })
	// and Length in metres is at least 12
	h.clicks("#many-key")
	h.writes("Length in metres")
	h.key(kb.Tab)
	v.until(`document.querySelector("input#many-v0")`)
	h.clicks("#many-v0")
	v.do(chromedp.KeyEvent("a", chromedp.KeyModifiers(2))) // the whole of it, to write over
	h.presses++
	h.writes("12")
	h.clicks("#many-and")
	h.key("a", kb.Enter)
	v.saves(func() { h.clicks("#tie-many") })
	for _, key := range []string{"cox", "trailer", "escort"} {
		assert.Equal(t, `which_boat = "eight" and length_in_metres >= 12`, v.item(key).Shown.Expr)
	}
	h.clicks("#unmark")
	// Tried both ways.
	h.clicks("#row-cox .pick-row")
	v.until(`document.querySelector("#row-cox.sel .try")`)
	h.clicks(`#row-cox .try a[href$=":met"]`)
	v.until(`document.querySelector(".why[data-why=cox] .verdict.met")`)
	h.clicks(`.why[data-why=cox] button[value="seek:cox:shown:not"]`)
	v.until(`document.querySelector(".why[data-why=cox] .verdict.not")`)
	// And published.
	h.clicks("#state .first")
	v.sees("Publish edition 1")
	h.clicks("main .first")
	v.sees("Edition 1 is live")
	t.Logf("%d presses and clicks, besides %d letters of texts", h.presses, h.letters)
	assert.Less(t, h.presses, 60)
	assert.Equal(t, form.ChoiceType, v.item("which_boat").Type)
}
