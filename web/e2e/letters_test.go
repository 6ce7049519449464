package e2e

import (
	"context"
	"fmt"
	"image/color"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/notify/postbox"
	"lazo/store"
)

// arrived are the letters to an address with a subject that came so far.
func (v *visitor) arrived(to, subject string) (out []postbox.Letter) {
	for _, l := range v.box.Letters() {
		if slices.Contains(l.To, to) && strings.Contains(l.Subject(), subject) {
			out = append(out, l)
		}
	}
	return out
}

// arrives waits until so many letters to an address with a subject came, and a moment
// longer, in which no more come.
func (v *visitor) arrives(n int, to, subject string) []postbox.Letter {
	v.t.Helper()
	require.Eventually(v.t, func() bool { return len(v.arrived(to, subject)) >= n }, 15*time.Second, 50*time.Millisecond)
	time.Sleep(300 * time.Millisecond)
	require.Len(v.t, v.arrived(to, subject), n)
	return v.arrived(to, subject)
}

// goOn goes on to the page with a field; once more if the page changed under the first click.
func (v *visitor) goOn(field string) {
	v.t.Helper()
	v.until(fmt.Sprintf(`document.querySelector(%q) || (document.querySelector("#steps button.first")?.click(), false)`,
		field))
}

// Mooring requests for nine and for fourteen metres: one mail to the harbour master, and
// the outbox says why.
func TestALongBoatReachesTheHarbourMaster(t *testing.T) {
	v := visit(t)
	photo := picture(t, "hull.png", color.White)
	for metres, name := range map[string]string{"9": "Gaviota", "14": "Halcyon"} {
		v.open("/f/mooring-request")
		v.write("#a-boat_name", name)
		v.choose("#a-kind", "motor")
		v.write("#a-metres", metres)
		v.write("#a-draught", "0.7")
		if metres == "14" {
			v.until(`document.querySelector("#a-hull_photo")?.offsetParent`)
			v.do(chromedp.SetUploadFiles("#a-hull_photo", []string{photo}))
			v.sees("hull.png")
		}
		v.goOn("#a-first_day")
		day := time.Now().AddDate(0, 0, 20).Format(time.DateOnly)
		for _, field := range []string{"first_day", "last_day"} {
			v.date("#a-"+field, day)
		}
		v.click(`[name="a.shore"][value=n]`)
		v.click(`[name="a.pier"][value=long]`)
		v.goOn("#a-entered_by")
		v.write("#a-entered_by", "Ana Prado")
		v.write("#a-email", strings.ToLower(name)+"@lake.example")
		v.write("#a-phone", "+598 94 123 456")
		v.sees("the lake, Ana Prado?")
		v.click("#steps button.first")
		v.until(`location.pathname.includes("/received/")`)
	}
	long := v.arrives(1, "harbour@pedralta.example", "Mooring for 14 metres: Halcyon")
	assert.Contains(t, long[0].Text(), "Asked by Ana Prado")
	assert.Empty(t, v.arrived("harbour@pedralta.example", "Gaviota"))
	thanks := v.arrives(1, "gaviota@lake.example", "Your berth for Gaviota")
	_, way, _ := strings.Cut(thanks[0].Text(), v.url)
	v.open(strings.Fields(way)[0])
	v.until(`document.querySelector("#a-boat_name")?.value === "Gaviota"`)

	v.signIn()
	v.open("/outbox?to=harbour")
	v.sees("Sent because Length in metres is 14.")
	v.sees("went on")
	v.accessible("the outbox")
	js[bool](v, `([...document.querySelectorAll("a")].find((a) => a.textContent.includes("Mooring for 14 metres: Halcyon")).click(), true)`)
	v.sees("the answers as a sheet")
	v.accessible("a letter in the outbox")
}

// The shift of ten helpers is set at once: ten letters, each once, and one more when a shift
// changes.
func TestTenHelpersHearOfTheirShift(t *testing.T) {
	v := visit(t)
	ctx := context.Background()
	f, err := v.store.FormByAddress(ctx, "shore-crew")
	require.NoError(t, err)
	v.signIn()
	v.open(fmt.Sprintf("/forms/%d/responses", f.ID))
	v.until(`document.querySelectorAll("tbody input[name=marked]").length > 10`)
	js[bool](v, `([...document.querySelectorAll("tbody input[name=marked]")].slice(0, 10).forEach((c) => c.click()), true)`)
	v.sees("10 marked")
	v.choose(`#bulk [name="value.our_shift"]`, "sat_pm")
	v.click(`#bulk button[value=our_shift]`)
	v.sees("for 10 · 10 e-mails will be sent")
	v.accessible("what would be sent")
	assert.Empty(t, shiftLetters(v), "it is said before")
	v.click(`#bulk-ask button`)
	v.sees("Done for 10 responses")
	require.Eventually(t, func() bool { return len(shiftLetters(v)) >= 10 }, 15*time.Second, 50*time.Millisecond)
	time.Sleep(300 * time.Millisecond)
	first := shiftLetters(v)
	require.Len(t, first, 10)
	to := map[string]bool{}
	for _, l := range first {
		to[l.To[0]] = true
		assert.Equal(t, "Your shift: Saturday afternoon", l.Subject())
	}
	assert.Len(t, to, 10, "each once")

	one := first[0].To[0]
	letters, err := v.store.InWorkspace(f.WorkspaceID).Letters(ctx, store.Outbox{Form: f.ID, Address: one})
	require.NoError(t, err)
	v.open(fmt.Sprintf("/forms/%d/responses/%s", f.ID, *letters[0].ResponseID))
	v.choose("[aria-label='Filled by the workspace'] select", "sun_am")
	v.arrives(1, one, "Your shift: Sunday morning")
	v.open(fmt.Sprintf("/forms/%d/responses/%s", f.ID, *letters[0].ResponseID))
	v.sees("What went out")
	v.accessible("a response with letters")
	assert.Len(t, shiftLetters(v), 11)
}

func shiftLetters(v *visitor) (out []postbox.Letter) {
	for _, l := range v.box.Letters() {
		if strings.HasPrefix(l.Subject(), "Your shift") {
			out = append(out, l)
		}
	}
	return out
}

// The bulletin’s address is confirmed before it counts: one is, once the letter was sent
// again; the other is not, and is swept.
func TestTheBulletinsAddressIsConfirmed(t *testing.T) {
	v := visit(t)
	ctx := context.Background()
	sign := func(email string) (end, link string) {
		v.open("/f/lake-bulletin")
		v.write("#a-email", email)
		v.write(`[name="a.email#again"]`, email)
		v.click("#steps button.first")
		v.sees("One more step: confirm your address.")
		v.sees(email)
		letter := v.arrives(1, email, "Please confirm: the lake bulletin")[0].Text()
		_, link, _ = strings.Cut(letter, v.url)
		return js[string](v, "location.pathname"), strings.Fields(link)[0]
	}
	_, first := sign("ana@bulletin.example")
	v.accessible("the end page before an address is confirmed")
	assert.Empty(t, v.arrived("ana@bulletin.example", "Welcome"), "nothing else goes before")
	_, err := v.store.Pool().Exec(ctx,
		"update outbox set made_at = made_at - interval '2 minutes' where recipient = 'ana@bulletin.example'")
	require.NoError(t, err)
	v.click(`form[action$="ask-again"] button`)
	v.sees("The letter is on its way once more.")
	v.arrives(2, "ana@bulletin.example", "Please confirm")
	v.open(first)
	v.sees("Is ana@bulletin.example your address")
	v.accessible("the page that confirms an address")
	v.click("button.first")
	v.sees("Your address is confirmed.")
	welcome := v.arrives(1, "ana@bulletin.example", "Welcome aboard")[0]
	assert.Contains(t, welcome.Header("List-Unsubscribe"), v.url+"/r/")
	v.open(first)
	v.sees("Your address is confirmed.")
	v.arrives(1, "ana@bulletin.example", "Welcome aboard")

	end, link := sign("bo@bulletin.example")
	_, err = v.store.Pool().Exec(ctx,
		`update responses set confirm_by = now() - interval '1 second' where answers->>'email' = 'bo@bulletin.example'`)
	require.NoError(t, err)
	v.open(link)
	v.sees("There is nothing to confirm by this address")
	require.NoError(t, v.store.Sweep(ctx, time.Hour))
	v.open(end)
	v.seesNot("bo@bulletin.example")
	assert.Empty(t, v.arrived("bo@bulletin.example", "Welcome"))
}

// An address is confirmed by who reads what comes to it: one that a change comes with is asked
// for anew, before confirming and after it, and what came to another is good for nothing.
func TestAnotherAddressIsConfirmedAnew(t *testing.T) {
	v := visit(t)
	link := func(n int, email string) string {
		letters := v.arrives(n, email, "Please confirm: the lake bulletin")
		_, link, _ := strings.Cut(letters[len(letters)-1].Text(), v.url)
		return strings.Fields(link)[0]
	}
	change := func(way, email string) {
		v.open(way)
		v.until(`document.querySelector("#a-email")`)
		v.write("#a-email", email)
		v.write(`[name="a.email#again"]`, email)
		v.click("#steps button.first")
		v.sees("One more step: confirm your address.")
		v.sees("We sent a letter to " + email)
	}
	v.open("/f/lake-bulletin")
	v.until(`document.querySelector("#a-email")`)
	v.write("#a-email", "eva@bulletin.example")
	v.write(`[name="a.email#again"]`, "eva@bulletin.example")
	v.click("#steps button.first")
	v.sees("One more step: confirm your address.")
	way := js[string](v, `new URL([...document.querySelectorAll("a[href*='/r/']")][0].href).pathname`)
	first := link(1, "eva@bulletin.example")
	change(way, "owner@bulletin.example")
	v.open(first)
	v.sees("There is nothing to confirm by this address")
	v.open(link(1, "owner@bulletin.example"))
	v.sees("Is owner@bulletin.example your address")
	v.click("button.first")
	v.sees("Your address is confirmed.")
	v.arrives(1, "owner@bulletin.example", "Welcome aboard")
	// And after that.
	change(way, "other@bulletin.example")
	v.open(first)
	v.sees("There is nothing to confirm by this address")
	v.sees("There is nothing to confirm")
	_, err := v.store.Pool().Exec(context.Background(),
		`update responses set confirm_by = now() - interval '1 second' where answers->>'email' = 'other@bulletin.example'`)
	require.NoError(t, err)
	require.NoError(t, v.store.Sweep(context.Background(), time.Hour),
		"what was confirmed once is not deleted for a new address")
	v.open(link(1, "other@bulletin.example"))
	v.click("button.first")
	v.sees("Your address is confirmed.")
	assert.Empty(t, v.arrived("other@bulletin.example", "Welcome"), "it is not welcomed twice")
	_, answers := v.last("lake-bulletin")
	assert.Equal(t, "other@bulletin.example", answers["email"])
}

// begins is how what is at a path begins.
func (v *visitor) begins(path string) string {
	v.t.Helper()
	return js[string](v, `(() => { const x = new XMLHttpRequest(); x.open("GET", `+jsonText(path)+`, false); x.send();
		return x.responseText.slice(0, 5); })()`)
}

// The starting card is a document: on the end page, on paper, and with the letter.
func TestTheStartingCardIsPutOnPaper(t *testing.T) {
	v := visit(t)
	f := v.live("starting-card",
		`{"key": "email", "type": "email", "label": "E-mail address"}, {"key": "name", "type": "text", "label": "Name"}`)
	v.signIn()
	base := "/forms/" + jsonNumber(f.ID)
	v.open(base)
	v.write("#add-document", "Starting card")
	v.do(chromedp.KeyEvent(kb.Enter))
	v.until(`document.querySelector("#f-document-name")`)
	v.write("#f-document-name", "Starting card of {Na")
	v.until(`document.querySelector("#answers-menu")`)
	v.do(chromedp.KeyEvent(kb.Enter), chromedp.KeyEvent(kb.Tab))
	v.until(`document.querySelector("#f-document-name")?.value === "Starting card of {name}"`)
	v.write("#f-document-body", "Show this, **{name}**, at the boathouse.")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.choose("#f-document-paper", "a5")
	v.until(`document.querySelector("#f-document-paper")?.value === "a5"`)
	v.accessible("a document in the manuscript")
	v.write("#add-letter", "Thanks")
	v.do(chromedp.KeyEvent(kb.Enter))
	v.until(`document.querySelector("#f-attach-3")`)
	v.saves(func() { v.click("#f-attach-3") })
	assert.True(t, js[bool](v, `document.querySelector("#f-attach-3").checked`))
	v.open(base + "/publish")
	v.click("#publish")
	v.sees("Edition 2 is live")

	v.open("/f/starting-card")
	v.write("#a-email", "ana@card.example")
	v.write("#a-name", "Ana Prado")
	v.click("#steps button.first")
	v.sees("Starting card of Ana Prado (PDF)")
	v.accessible("the end page with its document")
	assert.Equal(t, "%PDF-", v.begins(js[string](v,
		`[...document.querySelectorAll("a")].find((a) => a.href.endsWith(".pdf")).pathname`)))
	js[bool](v, `([...document.querySelectorAll("a")].find((a) => a.textContent.includes("as a page")).click(), true)`)
	v.sees("Show this, Ana Prado, at the boathouse.")
	v.accessible("a document as a page")
	var names []string
	for _, part := range v.arrives(1, "ana@card.example", "Thanks")[0].Parts() {
		names = append(names, part.Name)
	}
	assert.Contains(t, names, "Starting card of Ana Prado.pdf")
	list, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Responses(context.Background(), 0, 1)
	require.NoError(t, err)
	v.open(base + "/responses/" + list[0].ID)
	v.sees("Starting card of … (PDF)")
	for _, path := range []string{"/responses/" + list[0].ID + "/documents/starting_card.pdf",
		"/responses/documents/starting_card.pdf"} {
		assert.Equal(t, "%PDF-", v.begins(base+path))
	}
}

// A letter is begun, written and tied in the manuscript, seen as it arrives, and goes.
func TestALetterIsWrittenInTheManuscript(t *testing.T) {
	v := visit(t)
	f := v.live("letter-written", `{"key": "email", "type": "email", "label": "E-mail address"},
		{"key": "first_day", "type": "date", "label": "First day"}, {"key": "metres", "type": "number", "label": "Length in metres"}`)
	v.signIn()
	base := "/forms/" + jsonNumber(f.ID)
	v.open(base)
	v.write("#add-letter", "Tell the pilot")
	v.do(chromedp.KeyEvent(kb.Enter))
	v.until(`document.querySelector("#f-letter-to")?.value === ""`)
	v.write("#f-letter-to", "pilot@pedralta.example, {email}")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.until(`document.querySelector("#f-letter-to")?.value.startsWith("pilot")`)
	v.write("#f-letter-subject", "A boat of {Len")
	v.until(`document.querySelector("#answers-menu")`)
	v.do(chromedp.KeyEvent(kb.Enter))
	v.do(chromedp.SendKeys("#f-letter-subject", " metres"), chromedp.KeyEvent(kb.Tab))
	v.until(`document.querySelector("#f-letter-subject")?.value === "A boat of {metres} metres"`)
	v.choose("[id^=state-messages]", "when")
	v.until(`document.querySelector("#tie-messages-0-when .subject")`)
	v.choose("#tie-messages-0-when [name=op]", ">=")
	v.until(`document.querySelector("#tie-messages-0-when [name=value]")`)
	v.write("#tie-messages-0-when [name=value]", "12")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.write("#f-letter-body", "Please meet it.")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.until(`document.querySelector("#f-moment")`)
	v.accessible("a letter in the manuscript")
	// A reminder, by pointing.
	v.saves(func() { v.choose("#f-moment", "before") })
	v.until(`document.querySelector("#f-moment-of")`)
	v.sees("still to be given")
	v.saves(func() { v.choose("#f-moment-of", "first_day") })
	v.saves(func() { v.write("#f-moment-count", "2\t") })
	assert.Equal(t, "first_day - 2 days", v.draft().Messages[0].At)
	v.accessible("when a letter goes")
	v.saves(func() { v.choose("#f-moment", "") })
	// And as it is written.
	v.click("#row-letter-" + v.draft().Messages[0].Key + " details:has(#f-letter-at) summary")
	v.write("#f-letter-at", "metres + 1")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.sees("a moment or a date was expected")
	v.write("#f-letter-at", " ")
	v.do(chromedp.KeyEvent(kb.Tab))
	v.until(`document.querySelector("#f-moment")?.value === ""`)
	draft, err := v.store.InWorkspace(f.WorkspaceID).Form(f.ID).Get(context.Background())
	require.NoError(t, err)
	def, err := draft.Definition()
	require.NoError(t, err)
	require.Len(t, def.Messages, 1)
	assert.Equal(t, []string{"pilot@pedralta.example", "{email}"}, def.Messages[0].To)
	assert.Equal(t, "metres >= 12", def.Messages[0].When)
	assert.Equal(t, "Please meet it.", def.Messages[0].Body)
	v.open(base + "/letters/" + def.Messages[0].Key)
	v.sees("There is nothing yet to show it with")
	v.open(base + "/publish")
	v.click("#publish")
	v.sees("Edition 2 is live")

	v.open("/f/letter-written")
	v.write("#a-email", "ana@pilot.example")
	v.write("#a-metres", "15")
	v.click("#steps button.first")
	v.arrives(1, "pilot@pedralta.example", "A boat of 15 metres")
	v.arrives(1, "ana@pilot.example", "A boat of 15 metres")
	v.open(base + "/letters/" + def.Messages[0].Key)
	v.sees("It goes.")
	v.sees("A boat of 15 metres")
	v.accessible("a letter as it arrives")
}
