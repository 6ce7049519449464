package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/web"
	"lazo/web/fill/filltest"
)

// The law: after every change each control's state equals the outcome's, and what
// is stored is what stood on the screen when it was sent. Random forms are filled in
// by random actions, fast and slow, with replies that are delayed, each by another
// time.
func TestRandomFormsInABrowser(t *testing.T) {
	v := visit(t)
	var delay atomic.Int64 // the most milliseconds that a live change is held back
	app := web.New(v.store, web.Options{Quiet: true, Trust: true})
	slow := rand.New(rand.NewPCG(1, 2))
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if most := delay.Load(); most > 0 && strings.HasSuffix(r.URL.Path, "/live") {
			time.Sleep(time.Duration(slow.Int64N(most)) * time.Millisecond)
		}
		app.ServeHTTP(w, r)
	}))
	defer server.Close()
	for seed := range filltest.Seeds(8) {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			ctx, cancel := context.WithTimeout(shared.tab, 60*time.Second)
			defer cancel()
			rng := rand.New(rand.NewPCG(seed, 7))
			delay.Store([]int64{0, 60, 500}[seed%3])
			b := &scripted{visitor: &visitor{&site{server.URL, v.store, v.tab, v.box}, t, ctx}, rng: rng, hands: seed%2 == 1}
			b.fillAll(seed)
		})
	}
}

// scripted is somebody who fills a random form in in the browser.
type scripted struct {
	*visitor
	rng  *rand.Rand
	def  *form.Form
	who  *filltest.Respondent
	seed uint64
	did  []string

	hands bool // what hands can do is typed
}

const pageTools = `
window.busy = 0; window.last = 0;
for (const what of ["keydown", "input", "change"]) document.addEventListener(what, () => { window.last = Date.now(); }, true);
document.addEventListener("htmx:before:request", () => { window.busy++; });
document.addEventListener("htmx:finally:request", () => { window.busy--; window.last = Date.now(); });
window.act = (a) => {
  window.last = Date.now();
  if (a.Press) { document.querySelector('button[name="_do"][value="' + a.Name + '"]').click(); return true; }
  const named = (name) => [...document.querySelectorAll('[name="' + name + '"]')].filter((c) => c.type !== "hidden");
  const say = (c, value) => { c.value = value; c.dispatchEvent(new Event("input", {bubbles: true})); c.dispatchEvent(new Event("change", {bubbles: true})); };
  if (a.Type === "month_day") { say(named(a.Name + ".month")[0], a.Values[0]); say(named(a.Name + ".day")[0], a.Values[1]); return true; }
  if (a.Type === "address") { say(named(a.Name + ".street")[0], a.Values[0]); say(named(a.Name + ".city")[0], a.Values[2]); return true; }
  const all = named(a.Name);
  if (a.Type === "ranking") {
    for (const menu of document.querySelectorAll('select[name^="' + a.Name + '.at."]')) {
      const of = menu.options[1].value.split(":")[1];
      const at = a.Values.indexOf(of);
      const say = at < 0 ? "" : (at + 1) + ":" + of;
      if (menu.value === say) continue;
      menu.value = say;
      menu.dispatchEvent(new Event("input", {bubbles: true})); menu.dispatchEvent(new Event("change", {bubbles: true}));
    }
    return true;
  }
  if (all[0].tagName === "SELECT") {
    for (const o of all[0].options) o.selected = a.Values.includes(o.value);
    all[0].dispatchEvent(new Event("input", {bubbles: true})); all[0].dispatchEvent(new Event("change", {bubbles: true}));
  } else if (all[0].type === "radio") all.find((c) => c.value === a.Values[0]).click();
  else if (all[0].type === "checkbox") { for (const c of all) if (c.checked !== a.Values.includes(c.value)) c.click(); }
  else say(all[0], a.Values[0]);
  if (a.Other) say(named(a.Name + ".other")[0], a.Other);
  return true;
};
window.screenNow = () => {
  const out = {};
  for (const unit of document.querySelectorAll(".unit[id^=u-]")) {
    const s = {shown: !unit.hidden && !unit.closest("[hidden]"), fillable: false, values: [], offered: [], other: ""};
    for (const c of unit.querySelectorAll("input[name]:not([type=hidden]):not([type=file]), select[name], textarea[name]")) {
      s.fillable = true;
      if (c.name.endsWith(".other")) s.other = c.value;
      else if (/\.at\.\d+$/.test(c.name)) { s.values.push(c.value); s.offered.push(c.options[1].value.split(":")[1]); }
      else if (c.type === "checkbox" || c.type === "radio") { if (c.checked) s.values.push(c.value); if (!c.disabled) s.offered.push(c.value); }
      else if (c.tagName === "SELECT") { for (const o of c.options) { if (o.selected) s.values.push(o.value); if (!o.disabled) s.offered.push(o.value); } }
      else s.values.push(c.value);
    }
    if (!s.fillable && unit.dataset.key && unit.textContent.includes("on offer here yet")) s.fillable = true;
    out[unit.id] = s;
  }
  return JSON.stringify(out);
};
true`

// fillAll fills a form in, one with places twice: the second finds some taken.
func (b *scripted) fillAll(seed uint64) {
	b.seed, b.def = seed, filltest.Form(b.rng, fmt.Sprintf("scripted-%d", seed))
	p, remarks := engine.Compile(b.def)
	require.NotNil(b.t, p, remarks)
	path := b.published(b.def)
	b.who = filltest.NewRespondent(p, nil)
	b.fill(path)
	if p.HasPlaces() {
		var held engine.Taken
		if b.who.Refusal() == "" {
			held = b.who.Held()
		}
		b.who, b.did = filltest.NewRespondent(p, held), nil
		b.fill(path)
	}
}

func (b *scripted) fill(path string) {
	b.open(path)
	b.arrive()
	route := b.who.Outcome().Route()
	at := 0
	b.look(route[at])
	for range 6 {
		for range 1 + b.rng.IntN(4) {
			b.act(route[at])
			time.Sleep(time.Duration(b.rng.IntN(3)*b.rng.IntN(150)) * time.Millisecond)
		}
		b.settle()
		b.look(route[at])
		if len(route) > 1 && b.rng.IntN(3) == 0 {
			to := 1 - at
			b.press([]string{"back", "next"}[to])
			if to == 0 || b.who.Next(route[at]) {
				at = to
			}
			b.look(route[at])
		}
	}
	if at < len(route)-1 {
		b.press("next")
		if !b.who.Next(route[at]) {
			b.sees(b.who.Refusal())
			return
		}
		at++
	}
	if b.rng.IntN(2) == 0 { // sent with the last change still under way
		b.act(route[at])
	}
	b.press("send")
	// What the last change brought is shown before it is sent.
	if js[bool](b.visitor, `Boolean(document.getElementById("notice"))`) {
		b.look(route[at])
		b.press("send")
	}
	if refusal := b.who.Refusal(); refusal != "" {
		b.sees(refusal)
		return
	}
	b.sees("It has arrived")
	_, answers := b.last(strings.TrimPrefix(path, "/f/"))
	require.Equal(b.t, b.who.Stored(), filltest.WithoutRowIDs(answers), "seed %d: %v\n%s", b.seed, b.did, b.def.JSON())
}

func (b *scripted) arrive() { js[bool](b.visitor, pageTools) }

func (b *scripted) act(page string) {
	a, ok := b.who.Draw(b.rng, page)
	if !ok {
		return
	}
	b.did = append(b.did, fmt.Sprint(a))
	data, err := json.Marshal(a)
	require.NoError(b.t, err)
	// What a change brings may not be there yet for the next.
	sel := fmt.Sprintf(
		"[name=%q]:not([type=hidden]), [name=%q], [name=%q], [name^=%q], button[value=%q]", a.Name, a.Name+".month",
		a.Name+".street", a.Name+".at.", a.Name,
	)
	b.until(fmt.Sprintf(`[...document.querySelectorAll(%q)].some((c) => !c.closest("[inert]"))`, sel))
	if len(a.Values) == 1 && a.Type != form.Ranking && (a.Type.Picks() || a.Type == form.YesNo || a.Type == form.Scale) &&
		a.Values[0] != "" {
		b.until(
			fmt.Sprintf(
				`[...document.querySelectorAll('[name="%s"]')].some((c) => c.value === %q || [...(c.options ?? [])].some((o) => o.value === %q))`,
				a.Name, a.Values[0], a.Values[0],
			),
		)
	}
	if a.Type == form.Tick || a.Type == form.ChoicesType || a.Type == form.Ranking {
		b.settle() // a click turns over what stands there
	}
	if !b.typed(a) {
		js[bool](b.visitor, "act("+string(data)+")")
	}
}

// typed does by hand what hands can do in one field, key by key, with pauses and mistakes
// that are mended; false for what is left to a script: files, several fields at once, and
// what a browser would not let anybody type.
func (b *scripted) typed(a filltest.Act) bool {
	b.t.Helper()
	if !b.hands || a.Press || a.Other != "" || len(a.Values) != 1 {
		return false
	}
	field, value := fmt.Sprintf(`[name=%q]:not([type=hidden])`, a.Name), a.Values[0]
	kind := js[string](b.visitor,
		fmt.Sprintf(`(() => { const all = document.querySelectorAll(%q); return all.length === 1 ? (all[0].type || "") : all.length + " of " + all[0]?.type })()`, field))
	js[bool](b.visitor, "window.last = Date.now(), true")
	switch kind {
	case "text", "textarea", "email", "tel", "url", "search":
		if strings.ContainsAny(value, "\r\n\t") || strings.TrimSpace(value) != value {
			return false
		}
		b.into(field)
		b.keys(kb.Delete)
		for _, r := range value {
			if b.rng.IntN(6) == 0 {
				b.keys("x")
				b.pause()
				b.keys(kb.Backspace)
			}
			b.keys(string(r))
			if b.rng.IntN(5) == 0 {
				b.pause()
			}
		}
		b.keys(kb.Tab)
		return true
	case "date":
		if d, ok := expr.ParseDay(value); !ok || d.String() != value || value < "1000" {
			return false
		}
		if b.rng.IntN(3) == 0 { // another one first, and then the right one
			b.date(field, "2012-03-04")
			b.pause()
		}
		b.date(field, value)
		return true
	}
	return false
}

// pause is as long as one thinks.
func (b *scripted) pause() { time.Sleep(time.Duration(b.rng.IntN(400)) * time.Millisecond) }

// settle waits until nothing is under way, nor about to be.
func (b *scripted) settle() {
	b.until(`window.busy === 0 && Date.now() - window.last > 430`)
}

// press leads to another page.
func (b *scripted) press(do string) {
	b.did = append(b.did, do)
	js[bool](
		b.visitor,
		fmt.Sprintf(
			`document.body.dataset.left = "yes", delete document.getElementById("fill").dataset.sent, document.querySelector('.steps button[value=%q]').click(), true`,
			do,
		),
	)
	b.until(`document.readyState === "complete" && !document.body.dataset.left`)
	b.arrive()
}

// look compares what the screen shows with what it must.
func (b *scripted) look(page string) {
	b.t.Helper()
	var screen filltest.Screen
	require.NoError(b.t, json.Unmarshal([]byte(js[string](b.visitor, "screenNow()")), &screen))
	require.Equal(b.t, b.who.Expect(page).Alike(b.def), screen.Alike(b.def), "seed %d: %v\n%s", b.seed, b.did,
		b.def.JSON())
}
