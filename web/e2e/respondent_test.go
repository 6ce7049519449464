package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/store"
)

// last returns the newest response to the form with that address.
func (v *visitor) last(address string) (store.Response, map[string]any) {
	v.t.Helper()
	ctx := context.Background()
	f, err := v.store.FormByAddress(ctx, address)
	require.NoError(v.t, err)
	list, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(ctx, 0, 1)
	require.NoError(v.t, err)
	require.NotEmpty(v.t, list)
	answers, err := engine.ParseAnswers(list[0].Answers)
	require.NoError(v.t, err)
	return list[0], answers
}

func (v *visitor) count(address string) int {
	v.t.Helper()
	f, err := v.store.FormByAddress(context.Background(), address)
	require.NoError(v.t, err)
	n, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).CountResponses(context.Background())
	require.NoError(v.t, err)
	return n
}

// A crew of two enters its own boat with a long trailer, changes its mind in the
// middle, goes back once, and sends.
func TestARespondentEntersACrew(t *testing.T) {
	v := visit(t)
	v.open("/f/crew-entry?CLUB=North+Pier+Rowers")
	v.accessible("the first page")
	assert.Equal(t, "North Pier Rowers", js[string](v, `document.querySelector("#a-club").value`))
	v.sees("Partner number")
	v.seesNot("Trailer length")

	v.click("#a-boat_class-2")
	v.click("#a-boat_source-0")
	v.sees("Cox’s name")
	v.sees("Trailer length")
	v.until(`document.querySelector("#spoken").textContent.length > 0`)
	v.write("#a-trailer", "14")
	v.sees("Escort for a long trailer")
	assert.Equal(t, "a-trailer", js[string](v, `document.activeElement.id`), "the focus stays where one types")
	assert.Equal(t, 2, js[int](v, `document.activeElement.selectionStart`), "and so does the caret")
	v.write("#a-escort", "The blue van")

	// What is taken back is set aside, and comes back with the question.
	v.click("#a-boat_source-1")
	v.seesNot("Escort for a long trailer")
	v.click("#a-boat_source-0")
	v.sees("Escort for a long trailer")
	assert.Equal(t, "The blue van", js[string](v, `document.querySelector("#a-escort").value`))

	v.click("#a-boat_class-1")
	v.seesNot("Cox’s name")
	v.write("#a-entered_by", "Celia Holm")
	v.write("#a-email", "celia@")
	v.click(".steps button.first")
	v.sees("Please check one answer")
	assert.Equal(t, "summary", js[string](v, `document.activeElement.id`), "the summary takes the focus")
	v.accessible("the page with a problem")
	v.write("#a-email", "celia@Garzas.Example")
	v.click(".steps button.first")

	v.sees("Page 2 of 3")
	v.accessible("the second page")
	assert.Equal(t, 2, js[int](v, `document.querySelectorAll("fieldset.row").length`), "a double has two rowers")
	v.write("#r-rowers-0-rower_name", "Celia Holm")
	v.date("#r-rowers-0-born", "1990-04-02")
	v.date("#r-rowers-1-born", "2012-06-30")
	v.write("#r-rowers-1-rower_name", "Quim Lagos")
	v.sees("Guardian’s name")
	v.click(`.steps button[value="back"]`) // back, and on again without a loss
	v.sees("Page 1 of 3")
	assert.Equal(t, "Celia Holm", js[string](v, `document.querySelector("#a-entered_by").value`))
	v.click(".steps button.first")
	v.sees("Page 2 of 3")
	assert.Equal(t, "Quim Lagos", js[string](v, `document.querySelector("#r-rowers-1-rower_name").value`))
	v.write("#r-rowers-1-guardian", "Irma Lagos")
	v.write("#r-rowers-1-guardian_phone", "094 123 456")
	v.click(".steps button.first")

	v.sees("Page 3 of 3")
	v.sees("The guardians of all under-18s agree")
	v.click("#a-swim")
	v.click("#a-guardians_agree")
	before := v.count("crew-entry")
	v.click(".steps button.first")
	v.sees("Your crew is entered")
	v.accessible("the end page")
	assert.Equal(t, before+1, v.count("crew-entry"))

	// Back and sent again it is still one response.
	v.do(chromedp.NavigateBack())
	v.sees("Page 3 of 3")
	v.click(".steps button.first")
	v.sees("Your crew is entered")
	assert.Equal(t, before+1, v.count("crew-entry"))

	res, answers := v.last("crew-entry")
	assert.Equal(t, "double", answers["boat_class"])
	assert.Equal(t, "celia@garzas.example", answers["email"])
	assert.NotContains(t, answers, "cox_name", "what is not shown is not stored")
	rows := answers["rowers"].([]any)
	require.Len(t, rows, 2)
	row := rows[1].(map[string]any)
	assert.NotEmpty(t, row["_row"], "a row has an identity of its own")
	delete(row, "_row")
	assert.Equal(
		t,
		map[string]any{"rower_name": "Quim Lagos", "born": "2012-06-30", "guardian": "Irma Lagos",
			"guardian_phone": "+59894123456"},
		row,
	)
	assert.Equal(t, map[string][]string{"club": {"North Pier Rowers"}}, res.Parameters)
}

func TestARespondentWithoutJavaScript(t *testing.T) {
	v := visit(t)
	disable := func(ctx context.Context, off bool) error {
		_, err := chromedp.Call(ctx, emulation.SetScriptExecutionDisabled,
			emulation.SetScriptExecutionDisabledParams{Value: off})
		return err
	}
	require.NoError(t, disable(v.ctx, true))
	t.Cleanup(func() { require.NoError(t, disable(shared.tab, false)) })
	v.open("/f/lake-bulletin?source=poster")
	v.click("#a-topics-1")
	v.click(`button[value="update"]`)
	v.do(chromedp.WaitVisible("#a-training_level"))
	v.write2("#a-email", "pat@lakeside.example")
	v.write2(`[name="a.email#again"]`, "pit@lakeside.example")
	v.click(".steps button.first")
	v.do(chromedp.WaitVisible("#summary"))
	text, err := chromedp.Run(v.ctx, chromedp.TextContent("#summary"))
	require.NoError(t, err)
	assert.Contains(t, text, "The two entries differ")
	v.do(chromedp.Clear(`[name="a.email#again"]`))
	v.write2(`[name="a.email#again"]`, "pat@lakeside.example")
	v.click(".steps button.first")
	v.do(chromedp.WaitVisible(`//h2[contains(., "Welcome aboard")]`))
	_, answers := v.last("lake-bulletin")
	assert.Equal(t, map[string]any{"email": "pat@lakeside.example", "topics": []any{"training"}, "source": "poster"},
		answers)
}

// write2 types without the help of scripts.
func (v *visitor) write2(sel, text string) {
	v.t.Helper()
	v.do(chromedp.WaitVisible(sel), chromedp.SendKeys(sel, text))
}

// The keyboard alone: the whole bulletin form by Tab, Space and Enter.
func TestTheKeyboardAlone(t *testing.T) {
	v := visit(t)
	before := v.count("lake-bulletin")
	v.open("/f/lake-bulletin")
	key := func(k string) { v.t.Helper(); v.do(chromedp.KeyEvent(k)) }
	js[bool](v, `document.querySelector("#a-email").focus(), true`)
	key("kay@lakeside.example")
	key("\t")
	key("kay@lakeside.example")
	key("\t")
	key("Kay")
	key("\r")
	v.sees("Welcome aboard")
	assert.Equal(t, before+1, v.count("lake-bulletin"))
}

// A check of the first page that names a question of the second is told beside that one.
func TestACheckIsToldWhereOneCanMendIt(t *testing.T) {
	v := visit(t)
	in, m := v.office()
	ctx := context.Background()
	def, remarks := form.Read([]byte(`{"lazo": 1, "key": "told-there", "title": "Stay", "timezone": "UTC", "pages": [
		{"key": "one", "title": "Coming", "sections": [{"key": "s", "title": "S", "items": [
			{"key": "nights", "type": "number", "label": "Nights", "checks": [{"ok": "nights <= beds * 2", "message": "Two nights for each bed at most."}]}]}]},
		{"key": "two", "title": "Staying", "sections": [{"key": "t", "title": "T", "items": [{"key": "beds", "type": "number", "label": "Beds"}]}]}]}`))
	require.Empty(t, form.Errors(remarks))
	f, err := in.CreateForm(ctx, def)
	require.NoError(t, err)
	_, err = in.Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(t, err)
	v.open("/f/told-there")
	v.write("#a-nights", "5")
	v.click(`button[value=next]:not(.sr-only)`)
	v.until(`document.querySelector("#a-beds")`)
	v.write("#a-beds", "2")
	v.click(`button[value=send]:not(.sr-only)`)
	v.until(`document.querySelector("#a-beds[aria-invalid=true]")`)
	v.sees("Two nights for each bed at most.")
	v.accessible("a check of an earlier page")
	v.write("#a-beds", "3\t")
	v.until(`!document.querySelector("#a-beds[aria-invalid=true]")`)
	v.seesNot("Two nights for each bed")
	v.click(`button[value=send]:not(.sr-only)`)
	v.sees("Your answers have been received")
}
