package e2e

import (
	"context"
	"fmt"
	"image/color"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/demo"
)

// published puts a form live in the sample workspace and returns its address.
func (v *visitor) published(def *form.Form) string {
	v.t.Helper()
	ctx := context.Background()
	m, err := v.store.MemberByEmail(ctx, demo.Email)
	require.NoError(v.t, err)
	f, err := v.store.InWorkspace(m.WorkspaceID).CreateForm(ctx, def)
	require.NoError(v.t, err)
	_, err = v.store.InWorkspace(m.WorkspaceID).Form(f.ID).Publish(ctx, f.DraftVersion, m.ID)
	require.NoError(v.t, err)
	return "/f/" + f.Address
}

func storage(key string) *form.Form {
	return &form.Form{Lazo: 1, Key: key, Title: "Storage", Timezone: "America/Montevideo", End: "We have it.",
		Review: true, Remember: true,
		Parameters: []form.Parameter{{Name: "club"}},
		Returning: &form.Returning{
			Save: true, Change: true,
		}, Theme: &form.Theme{Accent: "#7a1f5c", Paper: "#f2ecd8", Font: "serif", Width: "wide", Send: "Send it off",
			Next: "Go on"},
		Framing: &form.Framing{Pass: []string{"club"}},
		Pages: []*form.Page{
			{Key: "one", Title: "The boat", Sections: []*form.Section{{Key: "s1", Items: []*form.Item{
				{Key: "club_name", Type: form.Text, Label: "Club", Value: &form.Value{Starts: "url.club"}},
				{
					Key: "boat", Type: form.ChoiceType, Label: "Boat", Required: form.Always,
					Choices: []form.Choice{{Value: "single", Label: "Single"}, {Value: "eight", Label: "Eight"}},
				},
				{Key: "length_m", Type: form.Number, Label: "Length", Shown: form.When(`boat = "eight"`), Required: form.Always},
				{Key: "pin", Type: form.Text, Label: "Gate code", Sensitive: true},
				{Key: "photo", Type: form.File, Label: "A photograph", Accept: []string{"image/*"}}}}}},
			{Key: "two", Title: "You", Sections: []*form.Section{{Key: "s2", Items: []*form.Item{
				{Key: "name", Type: form.Text, Label: "Name", Required: form.Always},
				{Key: "signs", Type: form.Signature, Label: "Signature"}}}}}}}
}

// In peace: what was typed survives a reload, a file is sent at once, the answers
// are reviewed, sent, and changed afterwards.
func TestAFormIsFilledInInPeace(t *testing.T) {
	v := visit(t)
	path := v.published(storage("storage-peace"))
	v.open(path)
	assert.Equal(t, "rgb(122, 31, 92)",
		js[string](v, `getComputedStyle(document.querySelector(".buttons .first")).backgroundColor`))
	v.accessible("a themed form")
	v.click("#a-boat-1")
	v.until(`document.querySelector("#a-length_m")`)
	v.write("#a-length_m", "17.5")
	v.write("#a-pin", "4711")
	v.open(path)
	v.until(`document.querySelector("#a-length_m")?.value === "17.5"`)
	assert.Empty(t, js[string](v, `document.querySelector("#a-pin").value`), "what is sensitive is not kept on the device")
	v.do(chromedp.SetUploadFiles("#a-photo", []string{picture(t, "slip.png", color.White)}))
	v.sees("slip.png")
	assert.True(t, js[bool](v, `(([label, given, again]) => Boolean(label.compareDocumentPosition(given) & given.compareDocumentPosition(again) & 4))(
		["label[for=a-photo]", "#a-photo-file .settled", "#a-photo"].map((at) => document.querySelector(at)))`),
		"the question, what was given, another in its place")
	v.accessible("a form with a file")
	v.click(".steps button.first")
	v.until(`document.querySelector("#a-name")`)
	v.sees("Page 2 of 2, then a review")
	v.write("#a-name", "Zulma Olivera")
	// A signature is drawn, with the pointer.
	v.do(chromedp.WaitVisible(".draw canvas"))
	v.draws(".draw canvas", 10, 10, 120, 40)
	v.until(`document.querySelector("#a-signs-drawn").value.startsWith("data:image/png")`)
	v.accessible("the second page, with a signature")
	v.click(".steps button.first")
	v.sees("Nothing has been sent yet")
	v.sees("slip.png")
	v.sees("17.5")
	v.accessible("the review")
	v.click(`.reviewed-head button`)
	v.until(`document.querySelector("#a-length_m")?.value === "17.5"`)
	v.click(".steps button.first")
	v.until(`document.querySelector("#a-name")?.value === "Zulma Olivera"`)
	v.click(".steps button.first")
	v.sees("Nothing has been sent yet")
	v.click(".buttons .first")
	v.sees("We have it.")
	v.sees("What you sent")
	v.accessible("the end page")
	_, answers := v.last("storage-peace")
	assert.Equal(t, "slip.png", answers["photo"].(map[string]any)["name"])
	assert.Equal(t, "image/png", answers["signs"].(map[string]any)["type"])
	change := js[string](v, `document.querySelector(".address a").getAttribute("href")`)
	v.open(path)
	assert.Empty(t, js[string](v, `document.querySelector("#a-length_m")?.value ?? ""`),
		"what was sent is forgotten on the device")
	v.do(chromedp.Navigate(change), chromedp.WaitReady("body"))
	v.until(`document.querySelector("#a-length_m")?.value === "17.5"`)
	v.accessible("a response being changed")
	v.open(path + "/empty")
	v.accessible("the empty form")
}

// The keyboard alone, with a mistake in the middle.
func TestAFormIsFilledInByTheKeyboard(t *testing.T) {
	v := visit(t)
	def := storage("storage-keyboard")
	def.Review, def.Pages[0].Sections[0].Items = false, def.Pages[0].Sections[0].Items[1:3]
	def.Pages[1].Sections[0].Items = def.Pages[1].Sections[0].Items[:1]
	v.open(v.published(def))
	key := func(keys string) { v.do(chromedp.KeyEvent(keys)); time.Sleep(60 * time.Millisecond) }
	key("\t ")
	v.until(`document.querySelector("#a-boat-0").checked`)
	key(kb.ArrowDown) // the next choice, and with it a question
	v.until(`document.querySelector("#a-length_m")`)
	assert.Equal(t, "a-boat-1", js[string](v, `document.activeElement.id`), "focus stays where it was")
	key("\tseventeen\r")
	v.sees("Please check one answer")
	assert.Equal(t, "summary", js[string](v, `document.activeElement.id`), "the summary takes the focus")
	key("\t")
	assert.Equal(t, "A", js[string](v, `document.activeElement.tagName`), "then comes the first link in it")
	// Enter, as the browser takes it; sent as two events it would reach the field too.
	js[bool](v, `document.activeElement.click(), true`)
	v.until(`document.activeElement.id === "a-length_m"`)
	js[bool](v, `document.activeElement.select(), true`)
	key("17\r")
	v.until(`document.querySelector("#a-name")`)
	v.do(chromedp.Focus("#a-name"))
	key("Ana\r")
	v.sees("We have it.")
}

// On another site: the frame grows with the form, parameters go along, and no
// other site may show it.
func TestAFormInAnotherPage(t *testing.T) {
	v := visit(t)
	var address string
	outer := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html")
		fmt.Fprintf(
			w,
			`<!doctype html><title>Club</title><iframe data-lazo="%s" data-pass="club" title="Storage" style="width:100%%;height:100px;border:0"></iframe><script src="%s/static/frame.js"></script>`,
			v.url+address, v.url,
		)
	}))
	defer outer.Close()
	stranger := httptest.NewServer(outer.Config.Handler)
	defer stranger.Close()
	def := storage("storage-framed")
	def.Framing.Origins = []string{outer.URL}
	address = v.published(def)
	v.do(chromedp.Navigate(outer.URL + "?club=North+Pier&other=1"))
	v.until(`document.querySelector("iframe").src.endsWith("?club=North+Pier")`)
	v.until(`document.querySelector("iframe").offsetHeight > 500`)
	v.do(chromedp.Navigate(stranger.URL))
	time.Sleep(700 * time.Millisecond)
	assert.Less(t, js[int64](v, `document.querySelector("iframe").offsetHeight`), int64(200))
}

// How a form is met in public: each part is saved as one goes, beside what strangers meet.
func TestHowAFormIsMetInPublic(t *testing.T) {
	v := visit(t)
	v.begin("Boat shed")
	v.add("Name of the boat", "name_of_the_boat")
	v.click(`nav a[href$="/public"]`)
	v.accessible("how it is met in public")
	seen := func(condition string) { // within the frame
		t.Helper()
		v.until(`(() => { const d = document.querySelector("#seen-frame")?.contentDocument; return d?.readyState === "complete" && ` + condition + `; })()`)
	}
	seen(`d.body.innerText.includes("Name of the boat")`)

	// When it is open, by its sentence.
	v.click("#piece-days")
	v.until(`document.activeElement.id === "days"`)
	v.choose("#days", "week")
	v.until(`document.querySelector("#piece-days input[value=MO]")?.checked`)
	for _, day := range []string{"TU", "WE", "FR"} {
		v.click("#piece-days input[value=" + day + "]")
	}
	v.click("#done")
	v.sees("on Mondays and Thursdays")
	v.until(`document.activeElement.id === "piece-days"`)
	v.accessible("a sentence of time")
	v.click("#piece-hours")
	v.until(`document.querySelector("#hours-until")`)
	v.date("#hours-from", "09:00")
	v.until(`document.querySelector("#hours-from")?.defaultValue === "09:00"`)
	v.date("#hours-until", "17:00")
	v.until(`document.querySelector("#hours-until")?.defaultValue === "17:00"`)
	v.click("#done")
	v.sees("from 09:00 to 17:00")
	v.click("#piece-limit")
	v.until(`document.querySelector("#limit")`)
	v.write("#limit", "12")
	v.do(chromedp.SendKeys("#limit", kb.Enter))
	v.sees("and takes 12 more responses")
	v.write("#full", "No boat is left.")
	v.do(chromedp.SendKeys("#full", kb.Tab))
	v.until(`document.querySelector("#full")?.defaultValue === "No boat is left."`)
	v.click(`form:has(#full) a`)
	seen(`d.body.innerText.includes("No boat is left.")`)
	v.click("#piece-who")
	v.until(`document.querySelector("#state-opening-shown")`)
	v.choose("#state-opening-shown", "when")
	v.until(`document.querySelector("#piece-who .clause")`)
	v.accessible("for whom it is open")
	v.do(chromedp.Focus("#ribbon-at"))
	v.keys(kb.Home)
	v.until(`Number(document.getElementById("ribbon-at").defaultValue) < Date.now() / 1000 - 3600`)

	// How it looks.
	v.click(`#parts a[href$="/theme"]`)
	v.accessible("how it looks")
	js[bool](v, `(() => { const any = document.getElementById("accent-any"); any.value = "#ffcc00"; any.dispatchEvent(new Event("change", { bubbles: true })); return true; })()`)
	v.sees("can’t be read well enough")
	v.accessible("a colour that can't be read")
	v.click("#take-nearest")
	v.until(`!document.querySelector("#take-nearest")`)
	taken := js[string](v, `document.getElementById("accent-any").defaultValue`)
	assert.Equal(t, form.Passing("#ffcc00"), taken)
	seen(`getComputedStyle(d.documentElement).getPropertyValue("--color-spruce") === "` + taken + `"`)
	v.choose("#columns", "2")
	v.until(`document.querySelector("#columns option[value='2'][selected]")`)

	// Before and after sending.
	v.click(`#parts a[href$="/sending"]`)
	v.click("#review")
	seen(`d.body.innerText.includes("Review your answers")`)
	v.accessible("before sending")
	v.click(`#parts a[href$="/ends"]`)
	v.click("#add-end")
	v.until(`document.querySelector("#end-0 .clause")`)
	v.write("#end-text", "The first it is.")
	v.do(chromedp.SendKeys("#end-text", kb.Tab))
	seen(`d.body.innerText.includes("The first it is.")`)
	v.accessible("closing texts")

	// On other pages, and in other languages.
	v.click(`#parts a[href$="/framing"]`)
	v.write("#origins", "club.example")
	v.do(chromedp.SendKeys("#origins", kb.Tab))
	v.sees("one is written like https://club.example")
	v.write("#origins", "https://club.example")
	v.do(chromedp.SendKeys("#origins", kb.Tab))
	v.sees("data-lazo=")
	v.accessible("on other pages")
	def := v.draft()
	assert.Equal(t, &form.Hours{Rule: "FREQ=WEEKLY;BYDAY=MO,TH", From: "09:00", Until: "17:00"}, def.Opening.Hours)
	assert.Equal(t, 12, def.Opening.Limit)
	assert.NotEmpty(t, def.Opening.Shown.Expr)
	assert.True(t, def.Review)
	assert.Equal(t, taken, def.Theme.Accent)
	assert.Equal(t, 2, def.Theme.Columns)
	assert.Equal(t, `name_of_the_boat is answered`, def.Ends[0].When)
	v.click(`#parts a[href$="/languages"]`)
	v.choose("#add-language", "es")
	v.click("#part .second")
	v.sees("texts to translate")
	v.accessible("a form's languages")
	v.click(`#part a[href$="/languages/es"]`)
	v.accessible("a translation")
	v.write("#said-0", "Galpón")
	v.click("main .first")
	v.until(`document.querySelector("#said-0")?.defaultValue === "Galpón"`) // as it came from the server
	assert.Equal(t, "Galpón", v.draft().Translations["es"]["Boat shed"])
	v.click(`nav a[href$="/links"]`)
	v.accessible("a form's links")
}

// In other languages, one of them from right to left, on a phone's width.
func TestAFormIsFilledInInOtherLanguages(t *testing.T) {
	v := visit(t)
	def := demo.LakeBulletin()
	def.Key = "bulletin-tongues"
	path := v.published(def)
	v.do(chromedp.EmulateViewport(390, 844))
	defer v.do(chromedp.EmulateViewport(1280, 800))
	v.open(path + "?_language=ar")
	assert.Equal(t, "rtl", js[string](v, `getComputedStyle(document.querySelector("main")).direction`))
	assert.LessOrEqual(t, js[int](v, `document.documentElement.scrollWidth`), 390)
	v.accessible("a form from right to left")
	v.write("#a-first_name", "Amara")
	v.click("#a-topics-1")
	v.sees("منذ متى تمارس التجديف؟")
	assert.Equal(t, "أضيف: منذ متى تمارس التجديف؟", js[string](v, `document.querySelector("#spoken").textContent`))
	v.click(".steps button.first")
	v.sees("يرجى مراجعة إجابة واحدة")
	v.accessible("a problem, from right to left")
	v.click(`button[value="language:es"]`)
	v.sees("¿Cuánto tiempo lleva remando?")
	assert.Equal(t, "Amara", js[string](v, `document.querySelector("#a-first_name").value`))
	assert.True(t, js[bool](v, `document.querySelector("#a-topics-1").checked`))
	v.accessible("the form in Spanish")
	v.write("#a-email", "amara@garzas.example")
	v.write("#a-email-again", "amara@garzas.example")
	v.click(".steps button.first")
	v.sees("Le damos la bienvenida a bordo")
	v.accessible("the end in Spanish")
}

// What the public form says before it is answered, and what becomes of it on a phone.
func TestWhatIsSaidBeforeAnAnswer(t *testing.T) {
	v := visit(t)
	long := strings.Repeat("Lakesideboathouse", 12)
	path := v.sheet("said-before", fmt.Sprintf(`{"key": "s", "title": "%[1]s", "items": [
		{"key": "words", "type": "note", "label": "https://pedralta.example/%[1]s", "look": "warning"},
		{"key": "licence", "type": "text", "label": "Licence", "pattern": "[A-Z]{2}\\d{4}", "sensitive": true},
		{"key": "way", "type": "yes_no", "label": "%[1]s", "look": "switch"},
		{"key": "lane", "type": "choice", "label": "Lane", "choices": [{"value": "pier", "label": "%[1]s"}, {"value": "canal"}]},
		{"key": "days", "type": "choices", "label": "Days", "min_picked": 1, "max_picked": 2, "required": true, "choices": [{"value": "sat"}, {"value": "sun"}, {"value": "mon"}]},
		{"key": "crew", "type": "number", "label": "Crew", "min": 1, "max": 8},
		{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "crew * 12"}},
		{"key": "hull", "type": "file", "label": "Hull", "accept": ["image/*", ".pdf"], "max_bytes": 1048576}]}`, long))
	v.do(chromedp.EmulateViewport(390, 844))
	defer v.do(chromedp.EmulateViewport(1280, 800))
	v.open(path)
	assert.LessOrEqual(t, js[int](v, `document.documentElement.scrollWidth`), 390, "long words break")
	for _, said := range []string{"Warning", "Written like AB3456", "1 to 2 picks", "From 1 to 8",
		"A picture or a PDF; up to 1 MB"} {
		v.sees(said)
	}
	v.accessible("what is said before an answer")
	assert.Equal(t, "disc", js[string](v, `getComputedStyle(document.querySelector("#a-licence")).webkitTextSecurity`))
	v.click("[data-reveal]")
	assert.Equal(t, "none", js[string](v, `getComputedStyle(document.querySelector("#a-licence")).webkitTextSecurity`))
	v.click("#a-lane-1")
	v.click("#a-lane [data-clear]")
	assert.False(t, js[bool](v, `Boolean(document.querySelector("#a-lane input:checked"))`),
		"an optional button is taken back")
	v.write("#a-crew", "4")
	v.until(`document.querySelector("#spoken").textContent === "Fee is now 48"`)
	v.write("#a-licence", "abc")
	v.click(".steps button.first")
	v.sees("write it like AB3456")
	v.until(`document.querySelectorAll("#a-days [aria-invalid=true]").length === 3`)
}

// A long form says where one is and what is missing; many choices are searched, a date is
// pasted as people write it, and a signature is looked at before it is sent.
func TestALongFormAndItsAids(t *testing.T) {
	v := visit(t)
	var sections, choices []string
	for i := range 60 {
		choices = append(choices, fmt.Sprintf(`{"value": "club%d", "label": "Club %d"}`, i, i))
	}
	for i := range 3 {
		var items []string
		for j := range 4 {
			items = append(items, fmt.Sprintf(`{"key": "q%d%d", "type": "text", "label": "Question %d.%d", "required": true}`, i,
				j, i, j))
		}
		sections = append(sections,
			fmt.Sprintf(`{"key": "s%d", "title": "Part %d", "items": [%s]}`, i, i, strings.Join(items, ",")))
	}
	sections = append(sections,
		`{"key": "last", "title": "Sometimes", "shown": "q00 = \"x\"", "items": [{"key": "more", "type": "text", "label": "More"}]}`,
		`{"key": "rest", "title": "The rest", "items": [{"key": "club", "type": "choice", "label": "Club", "choices": [`+strings.Join(choices, ",")+`]},
			{"key": "born", "type": "date", "label": "Born"}, {"key": "tel", "type": "phone", "label": "Telephone"},
			{"key": "sign", "type": "signature", "label": "Signature"}]}`)
	path := v.sheet("long-aids", strings.Join(sections, ","), `"review": true`, `"language": "en-GB"`)
	v.open(path)
	assert.Equal(t, "Part 0 Part 1 Part 2 The rest",
		js[string](v, `[...document.querySelectorAll("nav a")].map((a) => a.textContent).join(" ")`),
		"those that come and go are not among them")
	v.sees("Written like 07400 123456, or with its country code")
	assert.True(t, js[bool](v, `Boolean(document.querySelector("#u-a-club [data-find]"))`), "sixty are searched")
	v.accessible("a long form")
	v.click(`button[value="missing"]`)
	v.sees("Please check 12 answers")
	for i := range 3 {
		for j := range 4 {
			v.write(fmt.Sprintf("#a-q%d%d", i, j), "y")
		}
	}
	v.click(`button[value="missing"]`)
	v.sees("Nothing is missing on this page.")
	// A date is copied as somebody wrote it, and pasted.
	v.write("#a-q00", "30.5.2012")
	v.into("#a-q00")
	v.edits("c", "copy")
	v.write("#a-q00", "y")
	v.do(chromedp.Focus("#a-born"))
	v.edits("v", "paste")
	assert.Equal(t, "2012-05-30", js[string](v, `document.querySelector("#a-born").value`))
	v.draws("canvas", 20, 20, 120, 60)
	v.until(`document.getElementById("a-sign-drawn").value.startsWith("data:image/png")`)
	v.click(".steps button.first")
	v.sees("Please look at your answers once more")
	v.until(`document.querySelector("img[alt='Your signature, as you drew it']")?.naturalWidth === 600`)
	v.accessible("a review with a signature")
}
