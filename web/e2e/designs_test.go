package e2e

import (
	"context"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/form"
	"lazo/web/fill/filltest"
)

// designer is somebody who makes a form by keys and pointer, with pauses and mistakes.
type designer struct {
	*visitor
	rng  *rand.Rand
	path string
	did  []string
}

// The law of the manuscript: what stands on the screen is what is stored. Somebody writes
// questions, changes, ties, moves and deletes them at random, takes steps back, goes away in
// the middle of a word; after each act the page that is loaded afresh says the same.
func TestARandomTypistDesigns(t *testing.T) {
	v := visit(t)
	v.signIn()
	for seed := range filltest.Seeds(3) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			ctx, cancel := context.WithTimeout(shared.tab, 4*time.Minute)
			defer cancel()
			b := &designer{visitor: &visitor{v.site, t, ctx}, rng: rand.New(rand.NewPCG(seed, 11))}
			_, b.path = b.draftOf(fmt.Sprintf("designed-%d", seed), `{"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "own"}, {"value": "hired"}]},
				{"key": "length", "type": "number", "label": "Length"}, {"key": "born", "type": "date", "label": "Born"}, {"key": "sauna", "type": "yes_no", "label": "Sauna"}`)
			b.open(b.path)
			for range 14 {
				b.act()
				b.agrees()
			}
		})
	}
}

func (b *designer) one(of ...string) string { return of[b.rng.IntN(len(of))] }

// types types a text key by key, now and then a wrong letter that is taken back.
func (b *designer) types(text string) {
	for _, letter := range text {
		if b.rng.IntN(9) == 0 {
			b.keys("x" + kb.Backspace)
		}
		b.keys(string(letter))
		if b.rng.IntN(7) == 0 {
			time.Sleep(time.Duration(b.rng.IntN(250)) * time.Millisecond)
		}
	}
}

// some is the key of a question, "" if there is none.
func (b *designer) some() string {
	keys := strings.Fields(js[string](b.visitor,
		`[...document.querySelectorAll(".row.item")].map((r) => r.dataset.key).join(" ")`))
	if len(keys) == 0 {
		return ""
	}
	return b.one(keys...)
}

func (b *designer) act() {
	key := b.some()
	acts := map[string]func(){
		"write": func() {
			b.click("#add-s")
			b.types(b.one("Name of the cox", "Weight in kg", "Arrival", "E-mail", "Mooring or pier?") + "\r")
		},
		"label": func() {
			b.pick(key)
			label := b.one("Club", "How long?", "Who rows at bow")
			b.into("#f-label")
			b.types(label + "\t")
			b.settled()
			assert.Equal(b.t, label, b.item(key).Label, b.did)
		},
		"help": func() {
			b.pick(key)
			b.into("#f-help")
			b.types("In words" + b.one("\t", kb.Escape)) // Escape leaves, too
		},
		"require": func() {
			b.pick(key)
			b.choose("#state-required", b.one("always", "never", "when"))
		},
		"show": func() {
			b.pick(key)
			b.choose("#state-shown", b.one("always", "when"))
		},
		"clause": b.clause,
		"undo":   func() { b.press("#undo") },
		"redo":   func() { b.press("#redo") },
		"down":   func() { b.pick(key); b.press("#move-down") },
		"leave":  func() { b.pick(key); b.into("#f-label"); b.types("Half a"); b.keys(kb.Escape) },
	}
	names := []string{"write", "label", "help", "require", "show", "clause", "clause", "undo", "redo", "down", "leave"}
	name := b.one(names...)
	if key == "" {
		name = "write"
	}
	b.did = append(b.did, name+" "+key)
	acts[name]()
	b.settled()
}

// press presses what is there and not switched off.
func (b *designer) press(sel string) {
	if js[bool](b.visitor, fmt.Sprintf(`Boolean(document.querySelector(%q)) && !document.querySelector(%q).disabled`, sel,
		sel)) {
		b.click(sel)
	}
}

// clause changes a clause of the open question: what it is about, how, and with what.
func (b *designer) clause() {
	if !js[bool](b.visitor, `Boolean(document.querySelector("#shown-0-key"))`) {
		return
	}
	switch b.rng.IntN(3) {
	case 0:
		b.click("#shown-0-key")
		b.types(b.one("Length", "Boat", "Born", "Sauna", "Nobody") + "\t")
	case 1:
		ops := strings.Split(js[string](b.visitor,
			`[...document.querySelector("#shown-0-op").options].map((o) => o.value).join("|")`), "|")
		b.choose("#shown-0-op", b.one(ops...))
	default:
		switch js[string](b.visitor, `(e => e ? e.tagName + " " + e.type : "")(document.querySelector("#shown-0-v0"))`) {
		case "INPUT date":
			b.date("#shown-0-v0", "2026-05-30")
		case "INPUT text":
			b.into("#shown-0-v0")
			b.types(b.one("12", "2.5", "") + "\t")
		}
	}
}

// settled waits until nothing is under way.
func (b *designer) settled() {
	b.t.Helper()
	time.Sleep(60 * time.Millisecond)
	b.until(`!document.querySelector(".htmx-request") && document.querySelector(".saved")?.textContent.trim() !== "Saving …"`)
}

// said is what the rows of a manuscript and their fields say. What is refused stands in its
// field until it is mended, and is not stored.
const said = `const said = (page) => [...page.querySelectorAll(".row.item, #form-head")].map((row) => {
	const copy = row.cloneNode(true);
	for (const proof of copy.querySelectorAll("[id^=proof-], .remark, .problem, .flash, option, datalist, textarea")) proof.remove();
	const fields = [...row.querySelectorAll("input:not([type=hidden], .mark-box, .write-line, .subject), select")]
		.map((f) => f.id + "=" + (f.type === "checkbox" || f.type === "radio" ? f.checked : f.value));
	return row.id + ": " + copy.textContent.replace(/\s+/g, " ") + fields.join(";");
});`

// differs is where the page is not what one that is loaded afresh is.
const differs = `(async () => { ` + said + `
		const refused = document.querySelector("[aria-invalid=true], .flash[role=alert], #unsaved");
		const open = document.querySelector(".row.sel")?.dataset.key ?? "";
		const answer = await fetch(location.pathname + "?at=" + open), text = await answer.text();
		const now = said(document), then = said(new DOMParser().parseFromString(text, "text/html"));
		return refused || now.join("\n") === then.join("\n") ? "" : now.filter((l) => !then.includes(l)).join("\n") + "\n--- afresh\n" + then.filter((l) => !now.includes(l)).join("\n");
	})()`

// agrees is that the page says what one that is loaded afresh says.
func (b *designer) agrees() {
	b.t.Helper()
	var differ string
	// what is under way comes in parts
	for deadline := time.Now().Add(3 * time.Second); ; time.Sleep(50 * time.Millisecond) {
		var err error
		differ, err = chromedp.Run(b.ctx, chromedp.Evaluate[string](differs, chromedp.EvalAwaitPromise))
		require.NoError(b.t, err)
		if differ == "" || time.Now().After(deadline) {
			break
		}
	}
	require.Empty(b.t, differ, "after %s", strings.Join(b.did, "; "))
	def, remarks := form.Read(b.draft().JSON())
	require.NotNil(b.t, def, remarks)
}
