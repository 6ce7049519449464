package e2e

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/web"
)

// sheet publishes a form of one page with these sections and gives its path.
func (v *visitor) sheet(key, sections string, more ...string) string {
	v.t.Helper()
	def, remarks := form.Read(
		[]byte(
			fmt.Sprintf(
				`{"lazo": 1, "key": %q, "title": "Sheet", "timezone": "UTC", "end": "It has arrived."%s, "pages": [{"key": "p", "sections": [%s]}]}`,
				key, strings.Join(append([]string{""}, more...), ", "), sections,
			),
		),
	)
	require.Empty(v.t, form.Errors(remarks))
	return v.published(def)
}

// broken is the application behind something that can be slow or fail.
func broken(t *testing.T, v *visitor) (b *visitor, fails *atomic.Int64, wait *atomic.Int64) {
	fails, wait = &atomic.Int64{}, &atomic.Int64{}
	app := web.New(v.store, web.Options{Quiet: true, Trust: true})
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, "/live") || strings.HasSuffix(r.URL.Path, "/edit") ||
			strings.HasSuffix(r.URL.Path, "/clause") {
			time.Sleep(time.Duration(wait.Load()) * time.Millisecond)
			if status := int(fails.Load()); status < 0 { // no connection at all
				conn, _, err := w.(http.Hijacker).Hijack()
				if err == nil {
					conn.Close()
				}
				return
			} else if status == 200 {
				_, _ = w.Write([]byte("<html><body>Please accept the terms of this network.</body></html>"))
				return
			} else if status != 0 {
				w.WriteHeader(status)
				return
			}
		}
		app.ServeHTTP(w, r)
	}))
	t.Cleanup(server.Close)
	return &visitor{&site{server.URL, v.store, v.tab, nil}, t, v.ctx}, fails, wait
}

const follower = `{"key": "s", "items": [{"key": "n", "type": "number", "label": "N"}, {"key": "d", "type": "text", "label": "D", "value": {"follows": "join(\"\", n)"}},
 {"key": "more", "type": "text", "label": "More", "shown": "n > 5"}]}`

// An answer of the server never overwrites what is newer than what it was asked with.
func TestTypingWhileAnAnswerIsUnderWay(t *testing.T) {
	v, _, wait := broken(t, visit(t))
	path := v.sheet("typing-on", follower)
	v.open(path)
	wait.Store(500)
	v.write("#a-n", "7")
	time.Sleep(450 * time.Millisecond) // asked, and not answered yet
	v.do(chromedp.SendKeys("#a-d", "mine"))
	v.until(`document.querySelector("#a-more")`)
	assert.Equal(t, "mine", js[string](v, `document.querySelector("#a-d").value`))
	v.click(".steps button.first")
	for range 3 {
		if js[bool](v, `Boolean(document.querySelector("#notice"))`) {
			v.click(".steps button.first")
		}
		time.Sleep(100 * time.Millisecond)
	}
	v.sees("It has arrived")
	_, answers := v.last("typing-on")
	assert.Equal(t, "mine", answers["d"])
}

// A live change that fails is said where one looks, tried again, and made good.
func TestAFailingLiveChangeIsSaidAndTriedAgain(t *testing.T) {
	v, fails, _ := broken(t, visit(t))
	path := v.sheet("failing", follower)
	for i, status := range []int64{500, 502, 200} {
		v.open(path)
		fails.Store(status)
		v.write("#a-n", fmt.Sprint(7+i))
		v.sees("The server can’t answer right now")
		assert.True(
			t,
			js[bool](
				v,
				`(() => { const r = document.getElementById("trouble").getBoundingClientRect(); return r.top >= 0 && r.bottom <= innerHeight })()`,
			),
			"it is in sight",
		)
		assert.False(t, js[bool](v, `document.body.innerText.includes("accept the terms")`),
			"what stands in between is not put into the page")
		fails.Store(0)
		v.until(`document.querySelector("#a-more")`)
		v.seesNot("The server can’t answer right now")
		assert.Equal(t, fmt.Sprint(7+i), js[string](v, `document.querySelector("#a-n").value`))
	}
	// Without a connection, and with it again.
	v.open(path)
	fails.Store(-1)
	v.write("#a-n", "8")
	v.sees("The connection is broken")
	fails.Store(0)
	v.until(`document.querySelector("#a-more")`)
	v.seesNot("The connection is broken")
}

// Enter in the search box of a long list sends nothing.
func TestEnterInASearchSendsNothing(t *testing.T) {
	v := visit(t)
	choices := []string{`{"value": "heron"}`}
	for i := range 25 {
		choices = append(choices, fmt.Sprintf(`{"value": "coot_%d"}`, i))
	}
	path := v.sheet(
		"searching",
		`{"key": "s", "items": [{"key": "pier", "type": "choice", "label": "Pier", "look": "search", "choices": [`+
			strings.Join(choices, ", ")+`]}]}`,
	)
	v.open(path)
	v.do(chromedp.SendKeys("#a-pier-find", "her"+kb.Enter))
	v.until(`document.querySelectorAll(".picks .pick").length === 1`)
	v.seesNot("It has arrived")
	v.click("#a-pier-0")
	v.click(".steps button.first")
	v.sees("It has arrived")
}

// What a device remembers comes back as it was: followed values go on following,
// several picks all, a cleared default blank, added rows with what is in them.
func TestADeviceRemembersWhatWasDone(t *testing.T) {
	v := visit(t)
	path := v.sheet(
		"remembers",
		`{"key": "s", "items": [{"key": "n", "type": "number", "label": "N"}, {"key": "d", "type": "number", "label": "D", "value": {"follows": "n"}},
	 {"key": "club", "type": "text", "label": "Club", "value": {"starts": "\"Harbor\""}},
	 {"key": "days", "type": "choices", "label": "Days", "look": "menu", "choices": [{"value": "fri"}, {"value": "sat"}, {"value": "sun"}]}]},
	 {"key": "crew", "repeat": {"max": 4, "name": "Rower"}, "items": [{"key": "nm", "type": "text", "label": "Name"}]}`,
		`"remember": true`,
	)
	v.open(path)
	v.write("#a-n", "5")
	v.until(`document.querySelector("#a-d").value === "5"`)
	js[bool](v, `document.querySelector("#a-club").select(), true`)
	v.do(chromedp.SendKeys("#a-club", kb.Backspace))
	v.click(`button[value="add:crew"]`)
	v.until(`document.activeElement.id === "r-crew-0-nm"`) // the place and the focus
	v.until(`document.querySelector("#spoken").textContent === "Rower 1 was added"`)
	v.do(chromedp.SendKeys("#r-crew-0-nm", "Ana"))
	js[bool](
		v,
		`(() => { const s = document.querySelector("#a-days"); for (const o of s.options) o.selected = o.value !== "sat"; s.dispatchEvent(new Event("change", {bubbles: true})); return true })()`,
	)
	v.do(chromedp.SendKeys("#r-crew-0-nm", "!"))
	time.Sleep(500 * time.Millisecond)
	v.open(path)
	v.until(`document.querySelector("#r-crew-0-nm")?.value === "Ana!"`)
	assert.Equal(
		t,
		[]string{"5", "5", ""},
		[]string{
			js[string](v, `document.querySelector("#a-n").value`), js[string](v, `document.querySelector("#a-d").value`),
			js[string](v, `document.querySelector("#a-club").value`),
		},
	)
	assert.Equal(t, "fri,sun",
		js[string](v, `[...document.querySelector("#a-days").selectedOptions].map((o) => o.value).join()`))
	v.write("#a-n", "9")
	v.until(`document.querySelector("#a-d").value === "9"`) // it still follows
}

// Back after sending, corrected and sent again: the browser's own way of it.
func TestBackCorrectAndSend(t *testing.T) {
	v := visit(t)
	path := v.sheet(
		"back-correct", `{"key": "s", "items": [{"key": "name", "type": "text", "label": "Name"}]}`,
		`"returning": {"change": true}`,
	)
	for _, cached := range []bool{true, false} {
		_, err := chromedp.Call(v.ctx, network.SetCacheDisabled, network.SetCacheDisabledParams{CacheDisabled: !cached})
		require.NoError(t, err)
		before := v.count("back-correct")
		v.open(path)
		v.write("#a-name", "Ana")
		v.click(".steps button.first")
		v.sees("It has arrived")
		js[bool](v, `history.back(), true`)
		v.until(`document.querySelector("#a-name") && document.readyState === "complete"`)
		time.Sleep(300 * time.Millisecond) // what comes from the browser's memory comes after that
		// A page from the browser's cache is not the one that its nodes were known from.
		js[bool](
			v,
			`(() => { const f = document.querySelector("#a-name"); f.value = "Ana María"; f.dispatchEvent(new Event("input", {bubbles: true})); document.querySelector(".steps button.first").click(); return true })()`,
		)
		v.sees("You have sent this form already")
		v.accessible("sent already")
		assert.Equal(t, before+1, v.count("back-correct"))
		js[bool](v, `document.querySelector('button[value="change"]').click(), true`)
		v.sees("Your change has been received")
		assert.Equal(t, before+1, v.count("back-correct"))
		_, answers := v.last("back-correct")
		assert.Equal(t, "Ana María", answers["name"])
	}
	_, err := chromedp.Call(v.ctx, network.SetCacheDisabled, network.SetCacheDisabledParams{})
	require.NoError(t, err)
}

// The summary's links land with label and message in sight, and lines go as things
// are mended.
func TestTheSummaryLeadsToTheQuestion(t *testing.T) {
	v := visit(t)
	items := make([]string, 30)
	for i := range items {
		items[i] = fmt.Sprintf(`{"key": "q%d", "type": "text", "label": "Question %d", "help": "Some help that stands above the field"}`, i, i)
	}
	items[12] = `{"key": "mail", "type": "email", "label": "Mail", "required": true, "help": "So that we can write"}`
	items[20] = `{"key": "age", "type": "number", "label": "Age", "min": 5}`
	path := v.sheet("leads", `{"key": "s", "items": [`+strings.Join(items, ",")+`]}`)
	v.open(path)
	v.write("#a-age", "3")
	v.click(".steps button.first")
	v.sees("Please check 2 answers")
	v.click("#summary a")
	v.until(`document.activeElement.id === "a-mail"`)
	assert.True(
		t,
		js[bool](
			v,
			`document.querySelector('label[for="a-mail"]').getBoundingClientRect().top >= 0 && document.querySelector("#a-mail-problem").getBoundingClientRect().top >= 0`,
		),
	)
	v.do(chromedp.SendKeys("#a-mail", "ana@lakeside.example"))
	v.sees("Please check one answer")
	assert.Equal(t, "a-mail", js[string](v, `document.activeElement.id`))
	assert.False(t, js[bool](v, `document.querySelector("#a-mail").hasAttribute("aria-invalid")`))
	v.write("#a-age", "6")
	v.until(`document.querySelector("#summary").hidden`)
	v.accessible("a page that was mended")
}

// Of an address that is typed twice, only the line that is wrong is marked.
func TestOnlyTheLineThatIsWrongIsMarked(t *testing.T) {
	v := visit(t)
	v.open(v.sheet("typed-twice",
		`{"key": "s", "items": [{"key": "mail", "type": "email", "label": "Your e-mail", "required": true, "twice": true}]}`))
	marked := func() []bool {
		return js[[]bool](v, `["#a-mail", "#a-mail-again"].map((id) => getComputedStyle(document.querySelector(id)).borderTopWidth === "2px")`)
	}
	v.click(".steps button.first")
	v.until(`document.querySelector(".unit.faulty")`)
	assert.Equal(t, []bool{true, false}, marked(), "nothing was typed")
	v.into("#a-mail")
	v.keys("ana@pedralta.example\tanna@pedralta.example\t")
	v.until(`document.querySelector(".problem")?.textContent.includes("differ")`)
	assert.Equal(t, []bool{false, true}, marked(), "the second is another")
	assert.Equal(t, "a-mail-problem",
		js[string](v, `document.querySelector("#a-mail-again").getAttribute("aria-describedby")`))
}

// What changes is said by name, and when all is mended that is said, and the title of the
// page is its own again.
func TestWhatChangesIsSaidByName(t *testing.T) {
	v := visit(t)
	v.open(v.sheet("spoken", `{"key": "s", "items": [{"key": "age", "type": "number", "label": "Age", "required": true},
		{"key": "phone", "type": "phone", "label": "Guardian’s phone", "shown": "age < 18"},
		{"key": "name", "type": "text", "label": "Guardian’s name", "shown": "age < 18"},
		{"key": "licence", "type": "text", "label": "Licence", "shown": "age >= 18"},
		{"key": "fee", "type": "calculation", "label": "Fee", "value": {"is": "if(age < 18, 5, 9)"}, "shown": "age > 10"}]}`))
	says := func(want string) {
		t.Helper()
		v.until(fmt.Sprintf(`document.querySelector("#spoken").textContent === %q`, want))
	}
	v.click(".steps button.first")
	v.until(`document.title.startsWith("Please check")`)
	v.into("#a-age")
	v.keys("9\t")
	says("Nothing is left to mend. Guardian’s phone was added; Guardian’s name was added")
	v.until(`document.title === "Sheet"`)
	v.into("#a-age")
	v.keys("12\t")
	says("Fee is now 5")
	v.into("#a-age")
	v.keys("20\t")
	says("2 changed or added, 2 taken away")
	assert.Equal(t, "off", js[string](v, `document.querySelector("output").getAttribute("aria-live")`),
		"a total is said once")
}
