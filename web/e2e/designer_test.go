package e2e

import (
	"context"
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
	"lazo/store"
)

// draft reads the draft of the form that the browser shows.
func (v *visitor) draft() *form.Form {
	v.t.Helper()
	id := js[int64](v, `Number(location.pathname.split("/")[2])`)
	ctx := context.Background()
	m, err := v.store.MemberByEmail(ctx, "office@pedralta.example")
	require.NoError(v.t, err)
	f, err := v.store.InWorkspace(m.WorkspaceID).Form(store.FormID(id)).Get(ctx)
	require.NoError(v.t, err)
	def, err := f.Definition()
	require.NoError(v.t, err)
	return def
}

func (v *visitor) item(key string) *form.Item {
	v.t.Helper()
	p, ok := v.draft().Find(key)
	require.True(v.t, ok, "no item %s", key)
	return p.Item
}

// saves waits until what change does has been saved and shown.
func (v *visitor) saves(change func()) {
	v.t.Helper()
	before := js[string](v, `document.querySelector("[name=version]").value`)
	change()
	v.until(`document.querySelector("[name=version]").value !== "` + before + `"`)
}

// add writes a question on the last line of the first section.
func (v *visitor) add(label, key string) {
	v.t.Helper()
	v.write(".write-line", label+"\r")
	v.until(`document.querySelector("#row-` + key + `")`)
	v.keys(kb.ArrowUp)
	v.until(`document.querySelector("#row-` + key + `.sel")`)
}

// stands is that a question is at a place of the manuscript, counted from 0.
func stands(key string, at int) string {
	return fmt.Sprintf(`document.querySelectorAll(".row.item")[%d]?.dataset.key === %q`, at, key)
}

// From an empty page to a stored response, by pointing and typing only.
func TestADesignerMakesAForm(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.accessible("the list of forms")
	v.write("#title", "Boat storage")
	v.click(".new button.first")
	v.sees("Not published yet")
	v.accessible("an empty manuscript")

	// The form gets its greeting and another title.
	v.saves(func() { v.write("#form-title", "Boat storage, winter\t") })
	assert.Equal(t, "Boat storage, winter", v.draft().Title)
	v.saves(func() { v.write("#form-title", "Boat storage\t") })

	v.add("Which kind of boat do you store?", "which_kind_of_boat_do_you_store")
	assert.Equal(t, form.ChoiceType, v.item("which_kind_of_boat_do_you_store").Type, "the type is proposed from the words")
	v.saves(func() { v.write("#f-choices", "Rowing boat\nSailing boat\nCanoe\t") })
	v.click(".more-settings summary")
	v.saves(func() { v.write("#f-key", "kind\t") })
	v.until(`document.querySelector("#row-kind")`)
	assert.Equal(t, "sailing_boat", v.item("kind").Choices[1].Value)

	v.add("Number of masts", "number_of_masts")
	v.saves(func() { v.choose("#state-shown", "when") })
	v.until(`document.querySelector("#shown-0-v0")`)
	assert.Equal(t, `kind = …`, v.item("number_of_masts").Shown.Expr,
		"it begins with the question before, and waits for a value")
	v.sees("takes no effect")
	v.saves(func() { v.choose("#shown-0-v0", "sailing_boat") })
	v.saves(func() { v.choose("#state-required", "always") })
	masts := v.item("number_of_masts")
	assert.Equal(t, `kind = "sailing_boat"`, masts.Shown.Expr)
	assert.True(t, masts.Required.Yes)
	v.accessible("the manuscript with a tie unfolded")

	// A third question with two clauses of different operators.
	v.add("Rigging insured?", "rigging_insured")
	v.saves(func() { v.choose("#f-type", "yes_no") })
	v.saves(func() { v.choose("#state-shown", "when") })
	v.until(`document.querySelector("#shown-0-v0")`)
	v.saves(func() { v.write("#shown-0-v0", "2\t") })
	v.until(`document.querySelector("#shown-0-v0").value === "2"`)
	v.saves(func() { v.click("#add-to-shown") })
	v.until(`document.querySelector("#shown-1-key")?.value === "Which kind of boat do you store?"`)
	assert.Equal(t, `number_of_masts >= 2 and kind = …`, v.item("rigging_insured").Shown.Expr)
	v.saves(func() { v.write("#shown-1-key", "number_of_masts\t") })
	v.saves(func() { v.write("#shown-1-key", "kind\t") }) // by its key; its label would do as well
	v.until(`document.querySelector("#shown-1-key").value === "Which kind of boat do you store?"`)
	v.saves(func() { v.choose("#shown-1-op", "answered") })
	assert.Equal(t, `number_of_masts >= 2 and kind is answered`, v.item("rigging_insured").Shown.Expr)
	v.saves(func() { v.choose("#join-shown", "none") })
	assert.Equal(t, `not (number_of_masts >= 2 or kind is answered)`, v.item("rigging_insured").Shown.Expr)
	v.saves(func() { v.choose("#join-shown", "all") })
	assert.Positive(t, js[int](v, `document.querySelectorAll("#arcs .hot").length`), "arcs run to the selected question")

	// Undo and redo; moving by the keyboard.
	v.saves(func() { v.click("#undo") })
	assert.Equal(t, "none", js[string](v, `document.querySelector("#join-shown").value`))
	v.saves(func() { v.click("#redo") })
	assert.Equal(t, "all", js[string](v, `document.querySelector("#join-shown").value`))
	v.saves(func() { v.click("#move-up") })
	v.until(stands("rigging_insured", 1))
	v.saves(func() { v.click("#undo") })
	v.until(stands("rigging_insured", 2))

	// Dragging the last question above the second.
	v.click("#close")
	v.until(`!document.querySelector(".row.sel")`)
	v.saves(func() { v.drag("#row-rigging_insured .c", "#row-number_of_masts .l") })
	v.until(stands("rigging_insured", 1))
	v.saves(func() { v.click("#undo") })

	// Deleting a question that others depend on asks first.
	v.click("#row-kind .pick-row")
	v.until(`document.querySelector("#row-kind.sel")`)
	v.click("#delete")
	v.sees("Others depend on Which kind of boat do you store?")
	v.accessible("the question before deleting")
	v.click("#row-number_of_masts .pick-row")
	v.until(`document.querySelector("#row-number_of_masts.sel")`)

	// Rehearsal: live, with reasons.
	v.click(`nav a[href$="/rehearsal"]`)
	v.sees("No answer you enter here is stored")
	v.sees("undecided")
	v.accessible("the rehearsal")
	v.click("#a-kind-1")
	v.sees("Number of masts")
	v.until(`document.querySelector("#a-number_of_masts")`)
	v.write("#a-number_of_masts", "2")
	v.until(`document.querySelector("#a-rigging_insured")`)
	v.until(`document.querySelector('.why[data-why="rigging_insured"] .verdict').textContent === "shown"`)

	// Publish, fill in, look at what arrived.
	v.click(`.state a.first, .state a.second`)
	v.sees("It is the first edition")
	v.accessible("publishing")
	v.click("main button.first")
	v.sees("Edition 1 is live")
	v.open("/f/boat-storage")
	v.click("#a-kind-1")
	v.until(`document.querySelector("#a-number_of_masts")`)
	v.click(".steps button.first")
	v.sees("Please check one answer")
	v.write("#a-number_of_masts", "1")
	v.click(".steps button.first")
	v.sees("Thank you")
	_, answers := v.last("boat-storage")
	assert.Equal(t, "sailing_boat", answers["kind"])

	v.open("/forms")
	v.click(`//tr[contains(., "Boat storage")]//a[contains(@href, "/responses")]`)
	v.sees("1 response")
	v.accessible("the responses")
	v.click("tbody a")
	v.sees("as edition 1 asked it")
	v.sees("Sailing boat")
	v.accessible("one response")

	// Deleting asks for the title.
	v.open("/forms")
	v.click(`//tr[contains(., "Boat storage")]//summary`)
	v.accessible("what else can be done with a form")
	v.click(`//tr[contains(., "Boat storage")]//a[contains(., "Delete")]`)
	v.sees("1 response")
	v.accessible("deleting a form")
	v.write("#title", "Boat")
	v.click("button.danger")
	v.sees("nothing was deleted")
	v.write("#title", "Boat storage")
	v.click("button.danger")
	v.until(`location.pathname === "/forms"`)
	v.seesNot("Boat storage")
}

// Two people in one draft: the later one learns of it and overwrites nothing.
func TestANewerSaveIsNotOverwritten(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.write("#title", "Shared draft")
	v.click(".new button.first")
	v.add("Your name", "your_name")
	ctx := context.Background()
	f, err := v.store.FormByAddress(ctx, "shared-draft")
	require.NoError(t, err)
	nadia, err := v.store.MemberByEmail(ctx, demo.SecondEmail)
	require.NoError(t, err)
	_, _, err = v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Meet(ctx, nadia.ID, "your_name")
	require.NoError(t, err)
	_, err = v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, nadia.ID,
		form.SetProperty("your_name", "label", "Full name"))
	require.NoError(t, err)
	// What does not meet is merged.
	v.saves(func() { v.write("#f-help", "As in your passport\t") })
	assert.Equal(t, "Full name", v.item("your_name").Label)
	assert.Equal(t, "As in your passport", v.item("your_name").Help)
	assert.Equal(t, "Full name", js[string](v, `document.querySelector("#f-label").value`), "the newest state is shown")
	v.sees("Nadia Ferreyra, at Full name is here too")
	// What meets is refused, and offered to be made all the same.
	f, err = v.store.FormByAddress(ctx, "shared-draft")
	require.NoError(t, err)
	_, err = v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Edit(ctx, f.DraftVersion, nadia.ID,
		form.SetProperty("your_name", "label", "Whole name"))
	require.NoError(t, err)
	v.write("#f-label", "My name\t")
	v.sees("Nadia Ferreyra has changed the same meanwhile")
	v.sees("You had written: “My name”")
	v.accessible("a change that meets another")
	assert.Equal(t, "Whole name", v.item("your_name").Label)
	v.saves(func() { v.click(".flash button") })
	assert.Equal(t, "My name", v.item("your_name").Label)
}

// What somebody else has changed is offered at the foot of the page, and can be read there.
func TestWhatOthersChangedIsOffered(t *testing.T) {
	v := visit(t)
	f := v.live("changed-by-others", `{"key": "email", "type": "email", "label": "E-mail address"}`)
	v.signIn()
	v.open("/forms/" + jsonNumber(f.ID))
	in, m := v.office()
	now, err := in.Form(f.ID).Get(context.Background())
	require.NoError(t, err)
	_, err = in.Form(f.ID).Edit(context.Background(), now.DraftVersion, m.ID,
		form.SetProperty("", "title", "Another title"))
	require.NoError(t, err)
	js[bool](v, `(htmx.ajax("GET", document.querySelector("#here").getAttribute("hx-get"), "#here"), true)`)
	v.until(`document.querySelector("#show-newer")`)
	v.accessible("a manuscript that somebody else has changed")
	v.click("#show-newer")
	v.sees("Another title")
}
