package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A form from a sample, its sections used again, published, put back, and made
// anew for the next season.
func TestFormsAreUsedAgain(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/samples")
	v.accessible("the samples")
	v.write("#search", "winter places")
	v.until(`document.querySelectorAll(".sample-list li").length === 1`)
	v.write("#search", "submarine")
	v.sees("No sample speaks of that")
	v.accessible("no sample found")
	v.write("#search", "boat winter")
	v.until(`document.querySelector("#sample-boat-storage")`)
	v.click("#sample-boat-storage")
	v.sees("Not published yet")
	require.Equal(t, "Boat storage", v.draft().Title)

	// A section is copied within the form, and kept for others.
	v.pick("who")
	v.accessible("a section unfolded")
	v.saves(func() { v.click("#duplicate") })
	assert.Equal(t, "not by_forwarder_2", v.item("owner_address_2").Shown.Expr)
	v.saves(func() { v.click("#undo") })
	v.pick("who")
	v.click("#keep")
	v.sees("“Who brings it” is kept")

	// A page with a route, and columns and rows of sections.
	v.write("#add-page", "Afterwards\r")
	v.until(`document.querySelector("#row-afterwards.sel")`)
	v.pick("page_1")
	v.saves(func() { v.click("#add-next") })
	v.until(`document.querySelector("#next-0-when-page")`)
	v.accessible("a page unfolded with a route")
	assert.Equal(t, "afterwards", v.draft().Pages[0].Next[0].Page)
	v.pick("boat")
	v.saves(func() { v.choose("#f-columns", "2") })
	v.saves(func() { v.choose("#repeats", "1") })
	v.until(`document.querySelector("#rows-max")`)
	v.saves(func() { v.write("#rows-max", "3\t") })
	_, s := v.draft().Section("boat")
	assert.Equal(t, 2, s.Columns)
	assert.Equal(t, 3, s.Repeat.Max)
	// What referred to its questions from outside does not fit any more, and says so at its line.
	v.sees("remark")
	v.saves(func() { v.click("#undo") })
	v.saves(func() { v.click("#undo") })
	v.saves(func() { v.click("#undo") })

	// Deleting what others depend on: the author chooses.
	v.pick("by_forwarder")
	v.click("#delete")
	v.sees("Others depend on A forwarder brings the boat")
	v.accessible("deleting what others depend on")
	v.saves(func() { v.click("#delete-ties") })
	assert.Empty(t, v.item("forwarder").Shown.Expr)
	v.saves(func() { v.click("#undo") })
	assert.Equal(t, "by_forwarder", v.item("forwarder").Shown.Expr)

	// Two editions; the first is put back.
	publish := func() {
		v.click(".state a.first")
		v.click("#publish")
		v.sees("is live")
	}
	publish()
	v.click(`nav a[href^="/forms/"]`)
	v.pick("kind")
	v.saves(func() { v.write("#f-label", "Boat\t") })
	v.sees("1 change since")
	publish()
	v.sees("Edition 2 is live")
	v.accessible("the editions")
	v.click("#live-1")
	v.sees("Edition 1 is live · 1 change since")
	v.click("#take-1")
	v.sees("Edition 1 is live, and this is it")
	assert.Equal(t, "Kind of boat", v.item("kind").Label)

	// Kept sections go into other forms.
	v.begin("Shed")
	v.until(`[...document.querySelectorAll("#kept-page_1 option")].some(o => o.textContent === "Who brings it")`)
	v.choose(
		"#kept-page_1",
		js[string](v, `[...document.querySelectorAll("#kept-page_1 option")].find(o => o.textContent === "Who brings it").value`),
	)
	v.click("#kept-page_1 + button")
	v.until(`document.querySelector("#row-by_forwarder")`)
	assert.Equal(t, "by_forwarder", v.item("forwarder").Shown.Expr)

	// Next season's form of the sample registration.
	v.open("/forms")
	v.click(`//tr[contains(., "Crew entry")]//summary`)
	v.click(`//tr[contains(., "Crew entry")]//a[contains(., "New season")]`)
	v.sees("The first date in it")
	v.accessible("a new season")
	v.write("#title", "Crew entry next year")
	v.click("main button.first")
	v.sees("Not published yet")
	assert.Equal(t, "Crew entry next year", v.draft().Title)
	assert.NotEqual(t, start.AddDate(0, 0, -35).Format("2006-01-02")+"T09:00", v.draft().Opening.From)

	// A faulty file is refused whole, its faults at their places.
	path := filepath.Join(t.TempDir(), "form.json")
	require.NoError(
		t,
		os.WriteFile(
			path,
			[]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [{"key": "p", "sections": [{"key": "s", "items": [
		{"key": "a", "type": "text", "label": "A", "shown": "bb is answered"}, {"key": "a", "type": "colour", "label": "B"}]}]}]}`),
			0o600,
		),
	)
	v.open("/forms")
	v.do(chromedp.SetUploadFiles("#file", []string{path}))
	v.click(`//button[text()="Read it in"]`)
	v.sees("Nothing of form.json was taken in")
	v.accessible("a faulty file")
	v.open("/keys")
	v.accessible("the keys")
	v.open("/forms")
	v.accessible("the forms, with a season and a sample among them")
}
