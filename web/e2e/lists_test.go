package e2e

import (
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/exchange"
	"lazo/core/form"
	"lazo/core/sheet"
	"lazo/demo"
	"lazo/store"
)

// office is the sample workspace.
func (v *visitor) office() (store.InWorkspace, store.Member) {
	v.t.Helper()
	m, err := v.store.MemberByEmail(context.Background(), demo.Email)
	require.NoError(v.t, err)
	return v.store.InWorkspace(m.WorkspaceID), m
}

// live puts a form of these items (JSON) into the sample workspace, live.
func (v *visitor) live(key, items string) store.Form {
	v.t.Helper()
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "` + key + `", "title": "` + key + `", "timezone": "UTC", "pages": [{"key": "p",
		"sections": [{"key": "s", "items": [` + items + `]}]}]}`))
	require.NotNil(v.t, def, remarks)
	in, m := v.office()
	ctx := context.Background()
	f, err := in.CreateForm(ctx, def)
	require.NoError(v.t, err)
	_, err = in.Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(v.t, err)
	return f
}

// stored are the answers of a form's newest response.
func (v *visitor) stored(f store.Form) map[string]any {
	v.t.Helper()
	list, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(v.t, err)
	require.NotEmpty(v.t, list)
	var answers map[string]any
	require.NoError(v.t, json.Unmarshal(list[0].Answers, &answers))
	return answers
}

// Shore, pier and berth are drawn from the workspace's lists and narrowed by pointing
// alone; whoever goes back to another shore is told what is set aside.
func TestBerthByPierByShore(t *testing.T) {
	v := visit(t)
	v.signIn()
	v.open("/forms")
	v.write("#title", "A berth")
	v.click(".new button.first")
	v.sees("Not published yet")
	for _, q := range []struct{ label, key, list string }{
		{"Shore", "shore", "workspace shores code name"}, {"Pier", "pier", "workspace piers code name"},
		{"Berth", "berth", "workspace berths code name"},
	} {
		v.add(q.label, q.key)
		v.saves(func() { v.choose("#f-type", "choice") })
		v.until(`document.querySelector("#f-list")`)
		v.saves(func() { v.choose("#f-list", q.list) })
		if q.key == "shore" {
			continue
		}
		v.until(`document.querySelector("#f-narrow")`)
		v.accessible("a question drawn from a list")
		v.saves(func() { v.click(`#row-` + q.key + ` form:has(#f-narrow) button`) }) // what fits stands there already
	}
	assert.Equal(t, "entry.shore = shore", v.item("pier").ChoicesFrom.Where)
	assert.Equal(t, "entry.pier = pier", v.item("berth").ChoicesFrom.Where)
	v.sees("the entry’s Pier is Pier")

	in, m := v.office()
	id := store.FormID(js[int64](v, `Number(location.pathname.split("/")[2])`))
	f, err := in.Form(id).Get(context.Background())
	require.NoError(t, err)
	_, err = in.Form(id).Publish(context.Background(), f.DraftVersion, m.ID)
	require.NoError(t, err)
	v.open("/f/" + f.Address)
	v.sees("Nothing is on offer here yet.")
	v.click(`[name="a.shore"][value=n]`)
	v.sees("Heron pier")
	v.click(`[name="a.pier"][value=heron]`)
	v.sees("Heron 3")
	v.click(`[name="a.berth"][value=h3]`)
	v.click(`[name="a.shore"][value=s]`)
	v.sees("Set aside, since it is not on offer with these answers: Heron pier")
	v.sees("Set aside, since it is not on offer with these answers: Heron 3")
	v.accessible("a pick that is set aside")
	v.click(`[name="a.shore"][value=n]`)
	v.until(`document.querySelector('[name="a.berth"][value=h3]').checked`)
	v.click("#steps button.first")
	v.until(`location.pathname.includes("/received/")`)
	assert.Equal(t, map[string]any{"shore": "n", "pier": "heron", "berth": "h3"}, v.stored(f))
	list, err := in.Form(id).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	assert.Equal(t, map[string]map[string]string{
		"shore": {"n": "North shore"}, "pier": {"heron": "Heron pier"}, "berth": {"h3": "Heron 3"},
	}, list[0].Labels)
}

// Who loses the last place while filling in keeps all the rest.
func TestTheLastPlaceIsLostWhileFilling(t *testing.T) {
	v := visit(t)
	f := v.live("last-place", `{"key": "name", "type": "text", "label": "Your name"},
		{"key": "slot", "type": "choice", "label": "Shift", "places": 1, "show_left": "always", "required": true,
		 "choices": [{"value": "am", "label": "Morning"}, {"value": "pm", "label": "Afternoon"}]}`)
	v.open("/f/last-place")
	v.sees("one left")
	v.write("#a-name", "Ana")
	v.click(`[name="a.slot"][value=am]`)
	one := 1
	_, err := v.store.AddResponse(context.Background(),
		store.Response{WorkspaceID: f.WorkspaceID, FormID: f.ID, Edition: 1,
			Answers: []byte(`{"slot": "am"}`), ReceivedAt: time.Now(), Filling: uuid.NewString(),
			Takes: engine.Takes{"slot": {"am": {N: 1, Of: &one}}}})
	require.NoError(t, err)
	v.click("#steps button.first")
	v.sees("“Morning” is full by now. Please pick again.")
	v.accessible("a place that was lost")
	assert.Equal(t, "Ana", js[string](v, `document.querySelector("#a-name").value`))
	assert.True(t, js[bool](v, `document.querySelector('[name="a.slot"][value=am]').disabled`))
	v.click(`[name="a.slot"][value=pm]`)
	// what was wrong goes, and the button moves
	v.until(`document.querySelector("#spoken").textContent === "Nothing is left to mend."`)
	v.click("#steps button.first")
	v.until(`location.pathname.includes("/received/")`)
	assert.Equal(t, map[string]any{"name": "Ana", "slot": "pm"}, v.stored(f))
}

// Fifty labels are changed in a spreadsheet and brought back as one step.
func TestLabelsAreChangedInASpreadsheet(t *testing.T) {
	v := visit(t)
	var items []string
	for i := range 50 {
		name := string(rune('a'+i/26)) + string(rune('a'+i%26))
		items = append(items, `{"key": "q`+name+`", "type": "text", "label": "Question `+name+`"}`)
	}
	f := v.live("fifty-labels", strings.Join(items, ","))
	v.signIn()
	v.open("/forms/" + jsonNumber(f.ID))
	sheets := sheet.Write(v.draft(), true)
	for i := range sheets[0].Cells[1:] {
		sheets[0].Cells[i+1][3] += ", please"
	}
	data, err := exchange.WriteXLSX(sheets)
	require.NoError(t, err)
	file := filepath.Join(t.TempDir(), "fifty.xlsx")
	require.NoError(t, os.WriteFile(file, data, 0o600))
	v.click(".menu summary")
	v.click(`.menu a[href$="/files"]`)
	v.until(`document.querySelector("#sheet-file")`)
	v.do(chromedp.WaitVisible("#sheet-file"), chromedp.SetUploadFiles("#sheet-file", []string{file}))
	v.click(`form:has(#sheet-file) button`)
	v.sees("50 changes")
	v.accessible("what a spreadsheet would change")
	v.click("button.first")
	v.until(`document.querySelector("#undo")`)
	v.saves(func() { v.click("#undo") })
	assert.Equal(t, "Question aa", v.item("qaa").Label)
	assert.Equal(t, "Question bx", v.item("qbx").Label)
}

func jsonNumber(id store.FormID) string {
	data, _ := json.Marshal(id)
	return string(data)
}

// A grid and a ranking are filled in by the keyboard alone.
func TestAGridAndARankingByKeyboard(t *testing.T) {
	v := visit(t)
	f := v.live("by-keyboard", `{"key": "meals", "type": "grid", "label": "Meals", "required": true,
		"rows": [{"key": "sat", "label": "Saturday"}, {"key": "sun", "label": "Sunday"}],
		"choices": [{"value": "any", "label": "Anything"}, {"value": "veg", "label": "No meat"}]},
		{"key": "order", "type": "ranking", "label": "Which suits you best?", "required": true,
		 "choices": [{"value": "a", "label": "Tuesday"}, {"value": "b", "label": "Wednesday"}]}`)
	v.open("/f/by-keyboard")
	v.accessible("a grid and a ranking")
	tab := func() { v.do(chromedp.KeyEvent(kb.Tab)) }
	tab()
	v.until(`document.activeElement.name === "a.meals.sat"`)
	v.do(chromedp.KeyEvent(" "))
	tab()
	v.until(`document.activeElement.name === "a.meals.sun"`)
	v.do(chromedp.KeyEvent(" "), chromedp.KeyEvent(kb.ArrowDown))
	tab()
	v.until(`document.activeElement.name === "a.order.at.0"`)
	v.do(chromedp.KeyEvent("2"))
	tab()
	v.do(chromedp.KeyEvent("1"))
	tab()
	v.do(chromedp.KeyEvent(kb.Enter))
	v.until(`location.pathname.includes("/received/")`)
	assert.Equal(t, map[string]any{"meals": map[string]any{"sat": "any", "sun": "veg"}, "order": []any{"b", "a"}},
		v.stored(f))
}

// The second choice is never the first, with one question that draws on the other.
func TestASecondChoiceWithoutTheFirst(t *testing.T) {
	v := visit(t)
	f := v.live("second-choice", `{"key": "pier", "type": "choice", "label": "Pier", "choices": [{"value": "h", "label": "Heron"},
		{"value": "s", "label": "Swan"}, {"value": "t", "label": "Teal"}]},
		{"key": "other", "type": "choice", "label": "And if it is full?", "withheld": "choice = pier",
		 "choices": [{"value": "h", "label": "Heron"}, {"value": "s", "label": "Swan"}, {"value": "t", "label": "Teal"}]}`)
	v.open("/f/second-choice")
	v.click(`[name="a.other"][value=s]`)
	v.click(`[name="a.pier"][value=s]`)
	v.sees("Set aside, since it is not on offer with these answers: Swan")
	v.until(`!document.querySelector('[name="a.other"][value=s]')`)
	v.click(`[name="a.other"][value=t]`)
	v.click("#steps button.first")
	v.until(`location.pathname.includes("/received/")`)
	assert.Equal(t, map[string]any{"pier": "s", "other": "t"}, v.stored(f))
}

// While a text is written, a brace offers the answers.
func TestAnAnswerIsInsertedWhileWriting(t *testing.T) {
	v := visit(t)
	f := v.live("inserting", `{"key": "first_name", "type": "text", "label": "Your first name"}, {"key": "boat", "type": "text", "label": "Boat",
		"checks": [{"ok": "boat != first_name", "message": "No"}]}`)
	v.signIn()
	v.open("/forms/" + jsonNumber(f.ID) + "?at=boat")
	v.write("#f-label", "Which boat, {fir")
	v.until(`document.querySelector("#answers-menu [role=option]")?.textContent === "Your first name"`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.saves(func() { v.do(chromedp.KeyEvent("?"), chromedp.KeyEvent(kb.Tab)) })
	assert.Equal(t, "Which boat, {first_name}?", v.item("boat").Label)
	v.write("#f-label", "{")
	v.until(`document.querySelectorAll("#answers-menu [role=option]").length > 1`)
	v.accessible("the menu of answers")
	gap := js[float64](v, `document.querySelector("#answers-menu").getBoundingClientRect().top
		- document.querySelector("#f-label").getBoundingClientRect().bottom`)
	assert.InDelta(t, 4, gap, 2, "the menu stands right below its field")
	v.do(chromedp.KeyEvent(kb.Escape))
	v.write("#checks-0-ok-message", "Not {fir") // a message of a check is such a text too
	v.until(`document.querySelector("#answers-menu [role=option]")?.textContent === "Your first name"`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.do(chromedp.KeyEvent(kb.Tab))
	require.Eventually(t, func() bool { return v.item("boat").Checks[0].Message == "Not {first_name}" }, 5*time.Second,
		50*time.Millisecond,
		"behind the label, which is saved first")
}

// Many choices are searched for on the server, by the keyboard and without losing the
// place.
func TestAChoiceIsFoundAmongMany(t *testing.T) {
	v := visit(t)
	in, m := v.office()
	table := form.Table{Columns: []form.Column{{Key: "code", Name: "Code", Type: "text"},
		{Key: "name", Name: "Name", Type: "text"}}}
	for i := range 5000 {
		n, _ := json.Marshal(i)
		table.Entries = append(table.Entries, form.Entry{"code": "b" + string(n), "name": "Boat number " + string(n)})
	}
	_, err := in.AddList(context.Background(), "many_boats", "Many boats", table, m.ID, "begun")
	require.NoError(t, err)
	f := v.live("among-many", `{"key": "boat", "type": "choice", "label": "Boat", "look": "search", "required": true,
		"choices_from": {"list": "boats", "value": "code", "label": "name"}}, {"key": "why", "type": "text", "label": "Why {boat}?"}`)
	f, err = in.Form(f.ID).Edit(context.Background(), f.DraftVersion, m.ID,
		form.SetProperty("", "lists", map[string]form.List{"boats": {Shared: "many_boats"}}))
	require.NoError(t, err)
	_, err = in.Form(f.ID).Publish(context.Background(), f.DraftVersion, m.ID)
	require.NoError(t, err)
	v.open("/f/among-many")
	v.sees("The first 20 of 5")
	v.accessible("a search among many")
	v.do(chromedp.Focus("#a-boat-find"), chromedp.KeyEvent("4321"))
	v.until(`document.querySelectorAll('[name="a.boat"][type=radio]').length === 1`)
	assert.Equal(t, "a-boat-find", js[string](v, `document.activeElement.id`), "one goes on typing")
	v.do(chromedp.KeyEvent(kb.Enter), chromedp.KeyEvent(kb.Tab), chromedp.KeyEvent(" "))
	v.sees("Why Boat number 4321?")
	v.click("#steps button.first")
	v.until(`location.pathname.includes("/received/")`)
	assert.Equal(t, map[string]any{"boat": "b4321"}, v.stored(f))
}

// Choices that were typed are set aside while a list is drawn on, and come back as they were.
func TestTypedChoicesComeBack(t *testing.T) {
	v := visit(t)
	v.signIn()
	in, _ := v.office()
	ctx := context.Background()
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "typed-back", "title": "Berths", "timezone": "UTC",
		"lists": {"piers": [{"code": "n", "name": "North pier"}, {"code": "s", "name": "South pier"}]},
		"pages": [{"key": "p", "title": "P", "sections": [{"key": "s", "title": "S", "items": [
			{"key": "boat", "type": "yes_no", "label": "Boat"},
			{"key": "pier", "type": "choice", "label": "Pier", "choices": [{"value": "old", "label": "Old pier"}, {"value": "new", "label": "New pier", "offered": "boat"}]}]}]}]}`))
	require.Empty(t, form.Errors(remarks))
	f, err := in.CreateForm(ctx, def)
	require.NoError(t, err)
	v.open("/forms/" + jsonNumber(f.ID) + "?at=pier")
	v.saves(func() { v.choose("#f-list", "piers") })
	v.sees("Dropped with this: the choices that you typed")
	assert.Empty(t, v.item("pier").Choices)
	v.saves(func() { v.choose("#f-list", "") })
	v.until(`document.querySelector("#f-choices")?.value.includes("Old pier")`)
	back := v.item("pier")
	require.Len(t, back.Choices, 2)
	assert.Nil(t, back.ChoicesFrom)
	assert.Equal(t, "boat", back.Choices[1].Offered.Expr, "with what hung on them")
}
