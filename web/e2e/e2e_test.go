// Package e2e tells the stories of Lazo in a real browser, against a real
// PostgreSQL: once as a designer, once as a respondent.
package e2e

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"
	"net"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"lazo/demo"
	"lazo/notify"
	"lazo/notify/postbox"
	"lazo/store"
	"lazo/store/storetest"
	"lazo/web"
	"lazo/web/e2e/browser"
)

//go:embed testdata/axe.min.js
var axe string

// site is the application with the sample workspace and one browser.
type site struct {
	url   string
	store *store.Store
	tab   context.Context
	box   *postbox.Box // where its letters come
}

var shared *site

// start is the day on which the sample workspace is laid out.
var start = time.Now()

func TestMain(m *testing.M) {
	os.Exit(storetest.Main(m, func(s *store.Store) func() {
		if err := demo.Ensure(context.Background(), s, start); err != nil {
			panic(err)
		}
		box, office, deliver := letters(s)
		server := httptest.NewUnstartedServer(nil)
		server.Config.Handler = web.New(s, web.Options{Quiet: true, Trust: true, Office: office,
			Letters: "http://" + server.Listener.Addr().String()})
		server.Start()
		delivered := deliver()
		tab, stop := browser.New(context.Background(), 1280, 800)
		if err := chromedp.Do(tab, chromedp.Navigate("about:blank")); err != nil {
			panic(fmt.Sprint("the browser does not start: ", err))
		}
		shared = &site{server.URL, s, tab, box}
		return func() { stop(); server.Close(); delivered() }
	}))
}

// letters is an office that delivers to a postbox from when it is told to, until done.
func letters(s *store.Store) (box *postbox.Box, office *notify.Outgoing, deliver func() (done func())) {
	box = postbox.New(nil)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		panic(err)
	}
	go func() { _ = box.Serve(l) }()
	smtp, err := notify.SMTP("smtp://"+l.Addr().String()+"?tls=none", "office@pedralta.example")
	if err != nil {
		panic(err)
	}
	office = notify.New(s, notify.Options{Server: smtp, Quiet: true})
	return box, office, func() func() {
		ctx, cancel := context.WithCancel(context.Background())
		ended := make(chan error, 1)
		go func() { ended <- office.Run(ctx) }()
		return func() {
			cancel()
			if err := <-ended; err != nil {
				panic(err)
			}
			_ = box.Close()
		}
	}
}

// visitor drives the browser within one test.
type visitor struct {
	*site
	t   *testing.T
	ctx context.Context
}

func visit(t *testing.T) *visitor {
	t.Helper()
	ctx, cancel := context.WithTimeout(shared.tab, 5*time.Minute)
	t.Cleanup(cancel)
	v := &visitor{shared, t, ctx}
	v.counts()
	return v
}

// counted is what hands do in the browser: clicks and keys, and beside them the letters of
// texts, which are those of the form whatever makes it. It is the browser that counts, and
// only what came from a pointer or a keyboard.
const counted = `(() => {
	const count = (what) => { try { sessionStorage[what] = Number(sessionStorage[what] ?? 0) + 1; } catch { /* not of a site */ } };
	addEventListener("pointerdown", (event) => event.isTrusted && count("presses"), true);
	addEventListener("keydown", (event) => {
		if (!event.isTrusted || /^(Shift|Control|Alt|Meta)$/.test(event.key)) return;
		const text = [...event.key].length === 1 && !event.ctrlKey && !event.altKey && /^(INPUT|TEXTAREA)$/.test(document.activeElement?.tagName);
		count(text ? "letters" : "presses");
	}, true);
})()`

// found gives what a selector finds, which may be CSS or XPath.
const found = `const found = (sel) => sel.startsWith("/")
	? document.evaluate(sel, document, null, XPathResult.FIRST_ORDERED_NODE_TYPE).singleNodeValue
	: document.querySelector(sel);`

// aimed watches whether the next press lands where it is meant to: pages move on their own (a
// notice fades, an answer arrives), and a hand that presses beside what it sees presses again.
const aimed = `(() => {
	` + found + `
	const sel = %q;
	window.missed = false;
	addEventListener("pointerdown", (event) => {
		const at = event.target, control = at.closest("label")?.control;
		window.missed = sel.startsWith("/")
			? !found(sel)?.contains(at)
			: !at.closest(sel) && !control?.matches(sel);
	}, { capture: true, once: true });
})()`

// still is that nothing is on its way, and that an element stands where it stood two pictures ago.
const still = `new Promise((resolve) => {
	` + found + `
	const where = () => {
		const { x, y } = found(%q)?.getBoundingClientRect() ?? {};
		return x + " " + y;
	};
	const before = where();
	requestAnimationFrame(() => requestAnimationFrame(() =>
		resolve(where() === before && !document.querySelector(".htmx-request:not(.loose, .here, .proving)"))));
})`

var countsOnce sync.Once

// counts has the browser count what hands do, and says at the end of a test how much it was.
func (v *visitor) counts() {
	v.t.Helper()
	countsOnce.Do(func() {
		_, err := chromedp.Call(v.ctx, page.AddScriptToEvaluateOnNewDocument,
			page.AddScriptToEvaluateOnNewDocumentParams{Source: counted})
		require.NoError(v.t, err)
	})
	read := func() []int {
		out, err := chromedp.Run(v.ctx, chromedp.Evaluate[[]int](
			`(() => { try { return [Number(sessionStorage.presses ?? 0), Number(sessionStorage.letters ?? 0)] } catch { return [0, 0] } })()`))
		if err != nil {
			return []int{0, 0}
		}
		return out
	}
	before := read()
	v.t.Cleanup(func() {
		now := read()
		v.t.Logf("by hand: %d presses, %d letters", now[0]-before[0], now[1]-before[1])
	})
}

func (v *visitor) do(actions ...chromedp.Action[chromedp.Void]) {
	v.t.Helper()
	require.NoError(v.t, chromedp.Do(v.ctx, actions...))
}

// open goes to an address once what was done before has been answered: people who change
// something see that it is saved before they go on.
func (v *visitor) open(path string) {
	v.t.Helper()
	v.settles("body")
	v.do(chromedp.Navigate(v.url+path), chromedp.WaitReady("body"))
}

// js evaluates a script and returns its value.
func js[T any](v *visitor, script string) T {
	v.t.Helper()
	out, err := chromedp.Run(v.ctx, chromedp.Evaluate[T](script))
	require.NoError(v.t, err, script)
	return out
}

// until waits for a script to become true.
func (v *visitor) until(script string) {
	v.t.Helper()
	deadline := time.Now().Add(20 * time.Second)
	for time.Now().Before(deadline) {
		// While one page makes way for the next, a script has nowhere to run.
		if met, err := chromedp.Run(v.ctx, chromedp.Evaluate[bool]("Boolean("+script+")")); err == nil && met {
			return
		}
		time.Sleep(40 * time.Millisecond)
	}
	v.t.Fatalf("it did not come about: %s\n%s", script, js[string](v, "(document.body?.innerText ?? '').slice(0, 3000)"))
}

// printed is what the page shows, without what it only says aloud.
const printed = `(document.body?.innerText ?? '').replace(document.querySelector("#spoken")?.innerText || "\0", "")`

// sees waits for a text on the page.
func (v *visitor) sees(text string) {
	v.t.Helper()
	v.until(fmt.Sprintf("(%s).includes(%q)", printed, text))
}

func (v *visitor) seesNot(text string) {
	v.t.Helper()
	v.until(fmt.Sprintf("!(%s).includes(%q)", printed, text))
}

func (v *visitor) click(sel string) {
	v.t.Helper()
	const tries = 3
	for range tries {
		v.do(chromedp.WaitVisible(sel))
		v.settles(sel)
		js[bool](v, fmt.Sprintf(aimed, sel)+"; true")
		v.do(chromedp.Click(sel, chromedp.NodeVisible))
		// After a press that leads to another page, there is nothing left to ask.
		missed, err := chromedp.Run(v.ctx, chromedp.Evaluate[bool]("Boolean(window.missed)"))
		if err != nil || !missed {
			return
		}
	}
	v.t.Fatalf("something is in front of %s: %d presses did not reach it", sel, tries)
}

// settles waits, for a second at most, until an element stands still: what moves for longer
// than that, people press while it moves.
func (v *visitor) settles(sel string) {
	v.t.Helper()
	ctx, cancel := context.WithTimeout(v.ctx, time.Second) // without scripts, no picture is ever announced
	defer cancel()
	script := fmt.Sprintf(still, sel)
	for ctx.Err() == nil {
		stands, err := chromedp.Run(ctx, chromedp.Evaluate[bool](script, chromedp.EvalAwaitPromise))
		if err == nil && stands {
			return
		}
	}
}

// write types into a field, over what is in it.
func (v *visitor) write(sel, text string) {
	v.t.Helper()
	v.do(chromedp.WaitVisible(sel))
	if js[bool](v, fmt.Sprintf("document.querySelector(%q).matches('[type=date], [type=time], [type=datetime-local], [type=file]')", sel)) {
		v.t.Fatalf("%s is for dates or files; date and chromedp.SetUploadFiles are for those", sel)
	}
	v.into(sel)
	if text == "" {
		text = kb.Delete
	}
	v.keys(text)
}

// accessible runs axe-core on the page.
func (v *visitor) accessible(where string) {
	v.t.Helper()
	js[bool](v, axe+"; true")
	report, err := chromedp.Run(v.ctx, chromedp.Evaluate[string](
		`axe.run(document, {runOnly: ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"], rules: {"target-size": {enabled: true}}}).then(r => JSON.stringify(r.violations.map(v => v.id + ": " + v.help + " — " + v.nodes.map(n => n.html.slice(0, 160)).slice(0, 3).join(" | "))))`,
		chromedp.EvalAwaitPromise,
	))
	require.NoError(v.t, err)
	var violations []string
	require.NoError(v.t, json.Unmarshal([]byte(report), &violations))
	require.Empty(v.t, violations, "%s: %s", where, strings.Join(violations, "\n"))
}

func (v *visitor) signIn() {
	v.t.Helper()
	v.open("/sign-in")
	if js[bool](v, `location.pathname === "/sign-in"`) {
		v.write("#email", demo.Email)
		v.write("#password", demo.Password)
		v.click("button.first")
		v.sees("Pedralta Lake Regatta")
	}
}
