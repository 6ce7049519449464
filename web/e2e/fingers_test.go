package e2e

import (
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// What hands do: they click, and they press one key after the other. No value is ever set
// by a script, since that would pass over what a browser makes of keys.

var (
	withAlt  = chromedp.KeyModifiers(1)
	withCtrl = chromedp.KeyModifiers(2)
)

// command presses a key that does something. Unlike keys it leaves it to the page whether the
// key is typed as well: what was taken for a command is not.
func (v *visitor) command(key string) {
	v.t.Helper()
	for _, kind := range []input.DispatchKeyEventType{input.DispatchKeyEventTypeKeyDown, input.DispatchKeyEventTypeKeyUp} {
		pressed := input.DispatchKeyEventParams{Type: kind, Key: key}
		if kind == input.DispatchKeyEventTypeKeyDown {
			pressed.Text = key
		}
		_, err := chromedp.Call(v.ctx, input.DispatchKeyEvent, pressed)
		require.NoError(v.t, err)
	}
}

// edits presses Control and a key that a browser has a command of its own for: copy or paste.
func (v *visitor) edits(key, command string) {
	v.t.Helper()
	_, err := chromedp.Call(v.ctx, input.DispatchKeyEvent, input.DispatchKeyEventParams{
		Type: input.DispatchKeyEventTypeRawKeyDown, Modifiers: 2, Key: key, Commands: []string{command}})
	require.NoError(v.t, err)
}

// drag moves an element of the manuscript onto another, once both stand still. A browser that
// is short of time may take a short drag for a press: where nothing has moved for three
// seconds, a hand drags once more.
func (v *visitor) drag(from, to string) {
	v.t.Helper()
	const version = `document.querySelector("[name=version]")?.value`
	before := js[string](v, version)
	for range 3 {
		v.settles(from)
		v.settles(to)
		v.do(chromedp.DragAndDrop(from, to))
		for until := time.Now().Add(3 * time.Second); time.Now().Before(until); time.Sleep(40 * time.Millisecond) {
			if now, err := chromedp.Run(v.ctx, chromedp.Evaluate[string](version)); err == nil && now != before {
				return
			}
		}
	}
}

// draws draws a line with the pointer, from one point of an element to another.
func (v *visitor) draws(sel string, fromX, fromY, toX, toY float64) {
	v.t.Helper()
	v.do(chromedp.ScrollIntoView(sel))
	at := js[[]float64](v, fmt.Sprintf(`(({left, top}) => [left, top])(document.querySelector(%q).getBoundingClientRect())`, sel))
	v.do(chromedp.DragAndDropXY(at[0]+fromX, at[1]+fromY, at[0]+toX, at[1]+toY))
}

// keys presses keys one by one.
func (v *visitor) keys(keys string) {
	v.t.Helper()
	v.do(chromedp.KeyEvent(keys))
}

// into brings the caret into a field by a click, with all that is in it marked, to be
// written over.
func (v *visitor) into(sel string) {
	v.t.Helper()
	v.click(sel)
	v.do(chromedp.KeyEvent("a", withCtrl))
}

// dateKeys are the keys that type a date, a time or a moment, as values have it, into a
// browser of a language; its fields take digits in the order of the language.
func dateKeys(value, language string) string {
	date, clock, moment := strings.Cut(value, "T")
	if !strings.Contains(value, "-") {
		date, clock, moment = "", value, true
	}
	var keys string
	if parts := strings.Split(date, "-"); len(parts) == 3 {
		keys = parts[2] + parts[1] + parts[0]
		if language == "en" {
			keys = parts[1] + parts[2] + parts[0]
		}
		if moment { // a year may have more digits than four
			keys += kb.ArrowRight
		}
	}
	if !moment {
		return keys
	}
	hour, minute, _ := strings.Cut(clock, ":")
	if language != "en" {
		return keys + hour + minute
	}
	half, n := "a", 0
	_, _ = fmt.Sscanf(hour, "%d", &n)
	if n >= 12 {
		half = "p"
	}
	if n %= 12; n == 0 {
		n = 12
	}
	return keys + fmt.Sprintf("%02d%s%s", n, minute, half)
}

// date types into a field for dates, times or moments, segment by segment, and leaves it.
func (v *visitor) date(sel, value string) {
	v.t.Helper()
	v.toDate(sel)
	v.keys(dateKeys(value, v.language()))
	v.leave(sel)
}

// leave goes on by Tab until a field is left; one for dates has a stop for each segment.
func (v *visitor) leave(sel string) {
	v.t.Helper()
	for range 6 {
		v.keys(kb.Tab)
		if js[bool](v, fmt.Sprintf(`document.activeElement !== document.querySelector(%q)`, sel)) {
			return
		}
	}
}

// toDate brings the keyboard to the first segment of a field for dates.
func (v *visitor) toDate(sel string) {
	v.t.Helper()
	v.do(chromedp.WaitVisible(sel))
	v.do(chromedp.Focus(sel))
}

// language is that of the browser.
func (v *visitor) language() string {
	return strings.Split(js[string](v, "navigator.language"), "-")[0]
}

// paste puts a text into a field at once, as from the clipboard.
func (v *visitor) paste(sel, text string) {
	v.t.Helper()
	v.into(sel)
	_, err := chromedp.Call(v.ctx, input.InsertText, input.InsertTextParams{Text: text})
	require.NoError(v.t, err)
}

// choose picks an option of a menu by its value: it is opened by a click, and gone through
// by the arrow keys.
func (v *visitor) choose(sel, value string) {
	v.t.Helper()
	v.do(chromedp.WaitVisible(sel))
	steps := js[int](v, fmt.Sprintf(
		`(() => { const s = document.querySelector(%q), o = [...s.options].filter((o) => !o.disabled);
		  const to = o.findIndex((o) => o.value === %q); return to < 0 ? 9999 : to - o.indexOf(s.selectedOptions[0]) })()`, sel, value))
	require.NotEqual(v.t, 9999, steps, "%s does not offer %q", sel, value)
	if steps == 0 {
		return
	}
	key := kb.ArrowDown
	if steps < 0 {
		key, steps = kb.ArrowUp, -steps
	}
	v.do(chromedp.Focus(sel))
	v.keys(strings.Repeat(key, steps) + kb.Enter)
}
