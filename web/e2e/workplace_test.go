package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
)

// begin makes a form with this title and opens its manuscript.
func (v *visitor) begin(title string) {
	v.t.Helper()
	v.signIn()
	v.open("/forms")
	v.write("#title", title)
	v.click(".new button.first")
	v.sees("Not published yet")
}

// pick opens the question with that key.
func (v *visitor) pick(key string) {
	v.t.Helper()
	if js[bool](v, `Boolean(document.querySelector("#row-`+key+`.sel"))`) {
		return
	}
	v.click("#row-" + key + " .pick-row")
	v.until(`document.querySelector("#row-` + key + `.sel")`)
}

// when ties the open question by one clause.
func (v *visitor) when(tie, subject, op, value string) {
	v.t.Helper()
	v.saves(func() { v.choose("#state-"+tie, "when") })
	v.until(`document.querySelector("#` + tie + `-0-key")`)
	v.clause(tie+"-0", subject, op, value)
}

// clause fills a clause in by pointing and typing.
func (v *visitor) clause(id, subject, op, value string) {
	v.t.Helper()
	field := func(part string) string { return `document.querySelector("#` + id + `-` + part + `")` }
	if js[string](v, field("key")+".value") != subject {
		v.saves(func() { v.write("#"+id+"-key", subject+"\t") })
		v.until(field("key") + `.value === "` + subject + `"`)
	}
	if js[string](v, field("op")+".value") != op {
		v.saves(func() { v.choose("#"+id+"-op", op) })
		v.until(field("op") + `.value === "` + op + `"`)
	}
	if value == "" || js[string](v, field("v0")+".value") == value {
		return
	}
	if js[bool](v, field("v0")+`.tagName === "SELECT"`) {
		v.saves(func() { v.choose("#"+id+"-v0", value) })
	} else {
		v.saves(func() { v.write("#"+id+"-v0", value+"\t") })
	}
}

// picture writes a small PNG and returns its path.
func picture(t *testing.T, name string, c color.Color) string {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 60, 40))
	for i := range 60 * 40 {
		img.Set(i%60, i/60, c)
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	path := filepath.Join(t.TempDir(), name)
	require.NoError(t, os.WriteFile(path, b.Bytes(), 0o600))
	return path
}

// What the manuscript has to be able to do, built by pointing and typing only,
// and undone to the empty form.
func TestEveryKindOfTieIsBuiltByPointingAndTyping(t *testing.T) {
	v := visit(t)
	v.begin("Regatta dinner")
	empty := v.draft().JSON()

	t.Run("a chain of three conditional questions with two operators joined", func(t *testing.T) {
		v.t = t
		v.add("Do you come to the dinner?", "do_you_come_to_the_dinner")
		v.add("How many guests?", "how_many_guests")
		v.when("shown", "Do you come to the dinner?", "yes", "")
		v.add("Names of your guests", "names_of_your_guests")
		v.when("shown", "How many guests?", ">=", "1")
		v.add("A table for yourselves?", "a_table_for_yourselves")
		v.saves(func() { v.choose("#f-type", "yes_no") })
		v.when("shown", "Names of your guests", "answered", "")
		v.saves(func() { v.click("#add-to-shown") })
		v.until(`document.querySelector("#shown-1-key")`)
		v.clause("shown-1", "How many guests?", "between", "5")
		v.saves(func() { v.write("#shown-1-v1", "9\t") })
		assert.Equal(t, "do_you_come_to_the_dinner", v.item("how_many_guests").Shown.Expr)
		assert.Equal(t, "how_many_guests >= 1", v.item("names_of_your_guests").Shown.Expr)
		assert.Equal(t, "names_of_your_guests is answered and how_many_guests between 5 and 9",
			v.item("a_table_for_yourselves").Shown.Expr)
		v.sees("Depends on Names of your guests, How many guests?, Do you come to the dinner? through")
		v.accessible("a chain of ties")
	})

	t.Run("a tick that unlocks, requires, and on taking back empties a field", func(t *testing.T) {
		v.t = t
		v.add("I have a voucher", "i_have_a_voucher")
		v.saves(func() { v.choose("#f-type", "tick") })
		v.add("Voucher code", "voucher_code")
		v.when("required", "I have a voucher", "yes", "")
		v.saves(func() { v.click("#add-locked") })
		v.until(`document.querySelector("#locked-0-key")`)
		v.clause("locked-0", "I have a voucher", "no", "")
		assert.Equal(t, "i_have_a_voucher", v.item("voucher_code").Required.Expr)
		assert.Equal(t, "i_have_a_voucher = no", v.item("voucher_code").Locked.Expr)
	})

	t.Run("a picture choice that swaps two addresses for two others", func(t *testing.T) {
		v.t = t
		v.add("Which way does the invitation come?", "which_way_does_the_invitation_come")
		v.click(".more-settings summary")
		v.saves(func() { v.write("#f-key", "invitation\t") })
		v.until(`document.querySelector("#row-invitation.sel")`)
		v.saves(func() { v.write("#f-choices", "home = To us at home\nclub = By way of the club\t") })
		v.click(".each-choice summary")
		for i, c := range []color.Color{color.RGBA{14, 90, 74, 255}, color.RGBA{154, 90, 0, 255}} {
			file := fmt.Sprintf("#choice-%d-picture", i)
			v.do(chromedp.SetUploadFiles(file, []string{picture(t, "p.png", c)}))
			v.saves(func() { v.click(file + " + button") })
		}
		assert.Equal(t, "pictures", v.item("invitation").Look)
		v.saves(func() { v.click("#add-value") })
		v.until(`document.querySelector("#value-fixed")`)
		assert.Equal(t, "…", v.item("invitation").Value.Starts)
		v.saves(func() { v.choose("#value-fixed", "home") })
		assert.Equal(t, `"home"`, v.item("invitation").Value.Starts)
		for _, q := range []struct{ label, key, choice string }{{"Home address", "home_address", "home"},
			{"Address of a second guest", "address_of_a_second_guest", "home"},
			{"Club address", "club_address", "club"},
			{"Address of the club’s treasurer", "address_of_the_clubs_treasurer", "club"}} {
			v.add(q.label, q.key)
			require.Equal(t, form.Address, v.item(q.key).Type)
			v.when("shown", "Which way does the invitation come?", "=", q.choice)
			assert.Equal(t, `invitation = "`+q.choice+`"`, v.item(q.key).Shown.Expr)
		}
		v.accessible("pictures as choices")
	})

	t.Run("a tie written as text, edited as a sentence, and back", func(t *testing.T) {
		v.t = t
		v.add("Anything the kitchen should know?", "anything_the_kitchen_should_know")
		v.saves(func() { v.choose("#state-shown", "when") })
		v.click("#write-shown")
		v.until(`document.querySelector("#source-shown")`)
		v.write("#source-shown", "how_many_gests > 2")
		v.sees("did you mean how_many_guests?")
		v.write("#source-shown", "how_many_guests > 2 and not (voucher_code contains \"X\" or home_addr")
		v.until(`document.querySelector('.complete[data-text="home_address"]')`)
		v.do(chromedp.KeyEvent("\t")) // takes the word that is proposed
		v.until(`document.querySelector("#source-shown").value.endsWith("home_address")`)
		v.do(chromedp.KeyEvent(`.city = "Pedralta")`))
		v.until(`document.querySelector(".reads")?.textContent.includes("none of these: Voucher code contains “X”, ")`)
		v.accessible("a tie as it is written")
		v.saves(func() { v.do(chromedp.KeyEvent("\t")) })
		const written = `how_many_guests > 2 and not (voucher_code contains "X" or home_address.city = "Pedralta")`
		assert.Equal(t, written, v.item("anything_the_kitchen_should_know").Shown.Expr)
		v.click("#sentence-shown")
		v.until(`document.querySelector("#join-shown-1")`)
		assert.Equal(t, "none", js[string](v, `document.querySelector("#join-shown-1").value`))
		v.accessible("a tie with a group as a sentence")
		v.saves(func() { v.choose("#join-shown-1", "any") })
		assert.Equal(
			t, `how_many_guests > 2 and (voucher_code contains "X" or home_address.city = "Pedralta")`,
			v.item("anything_the_kitchen_should_know").Shown.Expr,
		)
		v.saves(func() { v.choose("#join-shown-1", "none") })
		v.click("#write-shown")
		v.until(`document.querySelector("#source-shown")`)
		assert.Equal(t, written, js[string](v, `document.querySelector("#source-shown").value`))
		v.click("#sentence-shown")
		v.until(`!document.querySelector("#source-shown")`)
	})

	t.Run("ten items tied at once", func(t *testing.T) {
		v.t = t
		v.click("#close")
		for n := range 10 {
			label := fmt.Sprintf("Dish %d", n+1)
			key := fmt.Sprintf("dish_%d", n+1)
			v.write(".write-line", label+"\r")
			v.until(`document.querySelector("#row-` + key + `")`)
		}
		v.click("#row-dish_1 .mark-box")
		js[bool](v, `document.querySelector("#row-dish_10 .mark-box").dispatchEvent(new MouseEvent("click", {bubbles: true, shiftKey: true}))`)
		v.sees("10 marked:")
		v.until(`document.querySelector("#many-key")`)
		v.accessible("ten questions marked")
		v.write("#many-key", "Do you come to the dinner?\t")
		v.until(`document.querySelector("#many-op option[value=yes]")`)
		v.saves(func() { v.click("#tie-many") })
		for n := range 10 {
			assert.Equal(t, "do_you_come_to_the_dinner", v.item(fmt.Sprintf("dish_%d", n+1)).Shown.Expr)
		}
		v.click("#unmark")
		// And from the other end: what a question drives, written at the question.
		v.pick("how_many_guests")
		v.click(".then summary")
		v.until(`document.querySelector("#then-op")`)
		v.until(`document.querySelector("#then-op").value === ">="`) // as is likely for a number
		v.write("#then-v0", "3")
		v.write("#then-filter", "dish_2")
		v.until(`document.querySelector("#then-list input[value=dish_3]").closest("label").hidden`)
		v.click(`#then-list input[value="dish_2"]`)
		v.choose("#then-and", "also")
		v.saves(func() { v.click("#tie-these") })
		assert.Equal(t, "do_you_come_to_the_dinner and how_many_guests >= 3", v.item("dish_2").Shown.Expr)
		// Copying a tie to another question.
		v.pick("dish_2")
		v.click("#tie-shown .copy summary")
		v.write("#copy-shown", "Dish 3")
		v.saves(func() { v.click("#tie-shown .copy button") })
		assert.Equal(t, "do_you_come_to_the_dinner and how_many_guests >= 3", v.item("dish_3").Shown.Expr)
		// Seeing only what is tied to a question.
		v.pick("how_many_guests")
		v.click("#narrow")
		v.sees("only what is tied to How many guests?")
		v.seesNot("Dish 4")
		v.accessible("only what is tied to one question")
		v.click("#show-all")
		v.sees("Dish 4")
	})

	t.Run("it works as built", func(t *testing.T) {
		v.t = t
		v.click(`nav a[href$="/rehearsal"]`)
		v.until(`document.querySelector("#a-home_address-street") && document.querySelector("#a-address_of_a_second_guest-street")`)
		assert.False(
			t, js[bool](v, `Boolean(document.querySelector("#a-club_address-street"))`),
			"the other two are not there at the first showing",
		)
		v.click("#a-invitation-1")
		v.until(`document.querySelector("#a-club_address-street") && !document.querySelector("#a-home_address-street")`)
		assert.Equal(t, int64(2),
			js[int64](v, `[...document.querySelectorAll(".pictures img")].filter(i => i.naturalWidth === 60).length`))
		v.until(`document.querySelector("#u-a-voucher_code .settled")`)
		v.click("#a-i_have_a_voucher")
		v.until(`document.querySelector("input#a-voucher_code[aria-required=true]")`)
		v.write("#a-voucher_code", "AB12")
		v.click("#a-i_have_a_voucher")
		v.until(`document.querySelector("#u-a-voucher_code .settled")?.textContent.includes("empty")`)
		// Both ways of a tie in one click, and a rehearsal kept.
		v.click(`//div[@data-why="a_table_for_yourselves"]//button[text()="met"]`)
		v.until(`document.querySelector("#a-a_table_for_yourselves")`)
		v.click(`//div[@data-why="a_table_for_yourselves"]//button[text()="not met"]`)
		v.until(`!document.querySelector("#a-a_table_for_yourselves")`)
		v.click(".kept summary")
		v.write("#keep-name", "No table")
		v.click("#keep-rehearsal")
		v.sees("“No table” is kept")
		v.sees("as expected")
		v.accessible("the rehearsal with its bench")
	})

	t.Run("all of it is undone to the empty form", func(t *testing.T) {
		v.t = t
		v.click(`nav a[href^="/forms/"]`)
		v.until(`document.querySelector("#undo")`)
		for i := 0; !js[bool](v, `document.querySelector("#undo").disabled`); i++ {
			require.Less(t, i, 400)
			v.saves(func() { v.click("#undo") })
		}
		assert.Equal(t, string(empty), string(v.draft().JSON()))
		v.sees("0 ties")
		v.saves(func() { v.click("#redo") })
		assert.Len(t, v.draft().Pages[0].Sections[0].Items, 1)
	})
}
