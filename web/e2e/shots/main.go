// Command shots takes the pictures in docs/screenshots from a running sample
// workspace:
//
//	shots http://127.0.0.1:8080 docs/screenshots [name …]
package main

import (
	"context"
	"fmt"
	"log"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"lazo/demo"
	"lazo/web/e2e/browser"
)

type shot struct {
	name          string
	path          string // a path, or a link's text after "forms/" to be followed
	width, height int64
	then          []chromedp.Action[chromedp.Void]
}

func main() {
	if len(os.Args) < 3 {
		log.Fatal("shots BASE FOLDER [name …]")
	}
	base, folder, only := os.Args[1], os.Args[2], os.Args[3:]
	ctx, cancel := browser.New(context.Background(), 1280, 800)
	defer cancel()
	must := func(actions ...chromedp.Action[chromedp.Void]) {
		if err := chromedp.Do(ctx, actions...); err != nil {
			log.Fatal(err)
		}
	}
	must(chromedp.Navigate(base+"/sign-in"), chromedp.SendKeys("#email", demo.Email),
		chromedp.SendKeys("#password", demo.Password),
		chromedp.Click("button.first"), chromedp.WaitVisible(".lines"))
	link := func(title string) string {
		href, err := chromedp.Run(ctx, chromedp.AttributeValue(`//a[text()="`+title+`"]`, "href"))
		if err != nil {
			log.Fatal(err)
		}
		return href.Value
	}
	crew, volunteers, mooring, canal := link("Crew entry"), link("Shore crew"), link("Mooring request"), link("Canal day")
	click := func(sel string) chromedp.Action[chromedp.Void] { return chromedp.Click(sel, chromedp.NodeVisible) }
	wait := chromedp.Sleep(700 * time.Millisecond)
	public := "/f/crew-entry?club=North+Pier+Rowers"
	for _, s := range []shot{
		{"forms", "/forms", 1280, 800, nil},
		{"manuscript", crew + "?at=cox_name", 1280, 800, []chromedp.Action[chromedp.Void]{wait}},
		{"manuscript-narrow", crew + "?at=cox_name", 390, 844, []chromedp.Action[chromedp.Void]{wait}},
		{"rehearsal", crew + "/rehearsal", 1280, 800, []chromedp.Action[chromedp.Void]{click(`#a-boat_class-2`), wait,
			click(`#a-boat_source-0`), wait}},
		{"proof", canal + "/proof", 1280, 800, nil},
		{"shapes", crew + "/proof", 1280, 800, nil},
		{"manuscript-proof", canal, 1280, 800, []chromedp.Action[chromedp.Void]{wait, wait}},
		{"in-public", crew + "/public/opening?pressed=days", 1280, 800, nil},
		{"public-arabic", "/f/lake-bulletin?_language=ar", 390, 844,
			[]chromedp.Action[chromedp.Void]{click(`#a-topics-1`), wait}},
		{"publish", crew + "/publish", 1280, 800, nil},
		{"responses", crew + "/responses", 1280, 800,
			[]chromedp.Action[chromedp.Void]{click(`//a[text()="Under 18, to be called"]`), wait,
				click("tbody tr:nth-child(2) [name=marked]"), click("tbody tr:nth-child(4) [name=marked]"), wait}},
		{"response", crew + "/responses", 1280, 800,
			[]chromedp.Action[chromedp.Void]{wait, click("tbody tr:nth-child(1) .row-link"), wait}},
		{"summary", volunteers + "/responses/summary", 1280, 800, nil},
		{"public", public, 1280, 800,
			[]chromedp.Action[chromedp.Void]{click(`#a-boat_class-2`), wait, click(`#a-boat_source-0`), wait}},
		{"public-narrow", public, 390, 844,
			[]chromedp.Action[chromedp.Void]{click(`#a-boat_class-2`), wait, click(`#a-boat_source-0`), wait}},
		{"letter", mooring + "?at=letter-long_boat", 1280, 800, []chromedp.Action[chromedp.Void]{wait,
			chromedp.Evaluate[chromedp.Void](`document.querySelector("#letters").scrollIntoView(); undefined`), wait}},
		{"received", "/f/mooring-request", 1280, 800, asked(click, wait)},
		{"outbox", "/outbox", 1280, 800, nil},
		{"people", "/people", 1280, 800, nil},
	} {
		if len(only) > 0 && !slices.Contains(only, s.name) {
			continue
		}
		path := s.path
		if !strings.HasPrefix(path, "/") {
			path = "/" + path
		}
		must(chromedp.EmulateViewport(s.width, s.height), chromedp.Navigate(base+path), chromedp.WaitReady("body"))
		must(s.then...)
		must(chromedp.Sleep(300 * time.Millisecond))
		png, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
		if err != nil {
			log.Fatal(err)
		}
		if err := os.WriteFile(filepath.Join(folder, s.name+".png"), png, 0o644); err != nil {
			log.Fatal(err)
		}
	}
}

// asked fills in a request for a berth, and sends it.
func asked(
	click func(string) chromedp.Action[chromedp.Void], wait chromedp.Action[chromedp.Void],
) []chromedp.Action[chromedp.Void] {
	put := func(sel, value string) chromedp.Action[chromedp.Void] {
		return chromedp.Evaluate[chromedp.Void](fmt.Sprintf(`{ const f = document.querySelector(%q); f.value = %q;
			f.dispatchEvent(new Event("input", {bubbles: true})); f.dispatchEvent(new Event("change", {bubbles: true})); undefined }`, sel, value))
	}
	next := click("#steps button.first")
	day := time.Now().AddDate(0, 0, 21).Format(time.DateOnly)
	return []chromedp.Action[chromedp.Void]{
		put("#a-boat_name", "Halcyon"), put("#a-kind", "sailing"), put("#a-metres", "6"), put("#a-draught", "0.9"), wait,
		click("#a-crane"), wait, next, wait,
		put("#a-first_day", day), put("#a-last_day", day), wait, click(`[name="a.shore"][value=n]`), wait,
		click(`[name="a.pier"][value=long]`), wait, next, wait,
		put("#a-entered_by", "Ana Prado"), put("#a-email", "ana@halcyon.example"),
		put("#a-phone", "+598 94 123 456"), wait, wait, next,
		chromedp.WaitVisible("[data-received]"), wait,
	}
}
