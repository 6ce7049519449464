package e2e

import (
	"bytes"
	"fmt"
	"os/exec"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/demo"
)

// surrounded has the browser say that its surroundings are so, such as dark.
func (v *visitor) surrounded(feature, value string) {
	v.t.Helper()
	_, err := chromedp.Call(v.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
		Features: []*emulation.MediaFeature{{Name: feature, Value: value}},
	})
	require.NoError(v.t, err)
}

// beyond are what reaches out of the window to the right.
const beyond = `[...document.querySelectorAll("main *")].filter((e) => e.getBoundingClientRect().right > innerWidth + 1)
	.map((e) => e.outerHTML.slice(0, 120)).slice(0, 6).join("\n")`

// Every view can be read in dark surroundings, and none is wider than the window on a phone,
// or magnified to 200 %.
func TestEveryViewInItsSurroundings(t *testing.T) {
	v := visit(t)
	v.signIn()
	f := v.crews("surroundings")
	public := v.published(storage("storage-surroundings"))
	desk := fmt.Sprintf("/forms/%d", f.ID)
	v.open(desk + "/responses")
	one := js[string](v, `document.querySelector('main a[href*="/responses/"][href*="-"]').getAttribute("href")`)
	views := []string{"/forms", desk, desk + "?at=boat", desk + "/rehearsal", desk + "/links", desk + "/responses", one,
		desk + "/responses/summary", desk + "/publish", "/outbox", "/lists", "/people", "/workspace",
		"/account", "/trail", public, public + "/empty"}
	for _, part := range []string{"opening?pressed=days", "theme", "sending", "ends", "returning", "languages",
		"framing"} {
		views = append(views, desk+"/public/"+part)
	}
	v.surrounded("prefers-color-scheme", "dark")
	for _, view := range views {
		v.open(view)
		v.accessible(view + " in the dark")
	}
	v.surrounded("prefers-color-scheme", "light")
	defer v.do(chromedp.EmulateViewport(1280, 800))
	for _, width := range []int64{640, 390, 320} { // of 1280 pixels at 200 %, a phone’s, and of 1280 at 400 %
		v.do(chromedp.EmulateViewport(width, 400+width/2))
		for _, view := range views {
			v.open(view)
			wide := js[int64](v, `document.documentElement.scrollWidth`)
			assert.LessOrEqual(t, wide, width, "%s is %d wide at %d: %s", view, wide, width, js[string](v, beyond))
			if width == 320 {
				v.accessible(view + ", narrow")
			}
		}
	}
}

// An author's colours can be read in the dark as well, and the sheet is dark then.
func TestAThemeInTheDark(t *testing.T) {
	v := visit(t)
	path := v.published(storage("storage-dark"))
	v.surrounded("prefers-color-scheme", "dark")
	defer v.surrounded("prefers-color-scheme", "light")
	v.open(path)
	v.accessible("a themed form in the dark")
	assert.Equal(t, "rgb(24, 33, 30)", js[string](v, `getComputedStyle(document.querySelector("main")).backgroundColor`))
	own := js[string](v, `getComputedStyle(document.documentElement).getPropertyValue("--color-spruce")`)
	assert.NotEqual(t, "#7a1f5c", strings.TrimSpace(own), "the author's colour is made lighter")
	v.open("/sign-in")
	v.accessible("signing in, in the dark")
	bulletin := demo.LakeBulletin()
	bulletin.Key = "bulletin-dark"
	v.open(v.published(bulletin) + "?_language=ar")
	v.accessible("from right to left in the dark")
}

// onPaper is the text of the page as it is printed.
func (v *visitor) onPaper() string {
	v.t.Helper()
	sheet, err := chromedp.Call(v.ctx, page.PrintToPDF, page.PrintToPDFParams{})
	require.NoError(v.t, err)
	show := exec.Command("pdftotext", "-layout", "-", "-")
	show.Stdin = bytes.NewReader(sheet.Data)
	text, err := show.Output()
	require.NoError(v.t, err)
	return string(text)
}

// A printed receipt has its date, its reference and always the answers; a form on paper has
// every choice.
func TestWhatIsPrinted(t *testing.T) {
	v := visit(t)
	path := v.sheet("printed", `{"key": "s", "items": [{"key": "club", "type": "text", "label": "Club"},
		{"key": "boat", "type": "choice", "look": "menu", "label": "Boat", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]}]}`,
		`"returning": {"change": true}`)
	v.open(path)
	v.write("#a-club", "Garzas")
	v.click(".steps button.first")
	v.sees("It has arrived.")
	js[bool](v, `document.querySelector("details.sent").open = false, true`)
	receipt := v.onPaper()
	assert.Contains(t, receipt, "Garzas")
	assert.Regexp(t, `Received on .*20\d\d`, receipt)
	assert.Regexp(t, `Reference [0-9A-F]{8}`, receipt)
	assert.NotContains(t, receipt, "/r/", "the private address is no one else's")
	v.open(path + "/empty")
	v.accessible("a form for paper")
	form := v.onPaper()
	for _, word := range []string{"Single", "Eight", path} {
		assert.Contains(t, form, word)
	}
	assert.NotContains(t, form, "Print\n")
}

// Nothing moves on the first showing of a form; what comes later does, but not for those who
// ask for stillness.
func TestNothingMovesAtFirst(t *testing.T) {
	v := visit(t)
	path := v.published(storage("storage-still"))
	moves := func() string {
		return js[string](v, `[...document.querySelectorAll(".unit:not([hidden])")].map((u) => getComputedStyle(u).animationDuration)[0]`)
	}
	v.surrounded("prefers-reduced-motion", "no-preference")
	defer v.surrounded("prefers-color-scheme", "light")
	v.open(path)
	assert.Equal(t, "0s", moves())
	v.click("#a-boat-1")
	v.until(`document.querySelector("#a-length_m")`)
	assert.Equal(t, "0.18s", moves())
	v.surrounded("prefers-reduced-motion", "reduce")
	assert.Equal(t, "none", js[string](v, `getComputedStyle(document.querySelector(".unit:not([hidden])")).animationName`))
}

// With forced colours what is picked, and where one is, is still told by more than a colour
// that is taken away.
func TestWithForcedColours(t *testing.T) {
	v := visit(t)
	v.begin("Forced")
	v.surrounded("forced-colors", "active")
	defer v.surrounded("prefers-color-scheme", "light")
	v.click(`nav a[href$="/public"]`)
	v.click(`#parts a[href$="/theme"]`)
	v.sees("Buttons and headings")
	border := func(sel string) string {
		return js[string](v, `getComputedStyle(document.querySelector("`+sel+`")).borderBottomColor`)
	}
	assert.NotEqual(t, border(".bar nav a[aria-current]"), border(".bar nav a:not([aria-current])"))
	assert.NotEqual(t, border(".swatch:has(:checked)"), border(".swatch:not(:has(:checked))"))
}
