package public_test

import (
	"net/url"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func part(name string, pairs ...string) url.Values {
	return desktest.Fields(append([]string{"part", name}, pairs...)...)
}

func TestInPublic(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "as it is", Path: "public", Says: []string{"When it is open", "the day it is published", "everyone"}},
		{Name: "no such part", Path: "public/paint", Status: 404},
		{Name: "no such part posted", Path: "public", Post: part("paint"), Status: 404},
		{Name: "what belongs to another part", Path: "public", Post: part("theme", "do", "add-end"), Status: 422,
			Says: []string{"There is no change called “add-end” here"}},
		{Name: "a limit", Path: "public", Post: part("opening", "limit", "77"), Says: []string{"at most 77 responses"}},
		{Name: "a text alone leaves the limit", Path: "public", Post: part("opening", "after", "Too late."),
			Says: []string{"at most 77 responses", "Too late."}},
		{Name: "no number", Path: "public", Post: part("opening", "limit", "many"), Status: 422,
			Says: []string{"A whole number was expected"}},
		{Name: "a rule of time", Path: "public", Post: part("opening", "days", "month", "nth", "1", "weekday", "SA"),
			Says: []string{"on the first Saturday of the month", "all day"}},
		{Name: "its hours", Path: "public", Post: part("opening", "hours-from", "09:00", "hours-until", "17:00"),
			Says: []string{"on the first Saturday of the month", "from 09:00 to 17:00"}},
		{Name: "a rule of its own", Path: "public", Post: part("opening", "days", "rule", "rule", "FREQ=YEARLY;BYMONTH=5"),
			Says: []string{"by the rule FREQ=YEARLY;BYMONTH=5"}},
		{Name: "no condition", Path: "public", Post: part("opening", "do", "source", "key", "", "property", "opening.shown",
			"source", "nobody = 1"), Status: 422, Says: []string{"there is no question"}},
		{Name: "a condition", Path: "public",
			Post: part("opening", "do", "state", "property", "opening.shown", "state", "when"),
			Says: []string{"those for whom today is", "See what anybody else meets"}},
		{Name: "what anybody else meets", Path: "public/opening?as=other", Says: []string{"those meet for whom it is open"}},
		{Name: "for everyone again", Path: "public",
			Post: part("opening", "do", "state", "property", "opening.shown", "state", "always"),
			Says: []string{"for <"}, SaysNot: []string{"those for whom today"}},
		{Name: "a colour that can't be read", Path: "public", Post: part("theme", "accent", "#ffff00"), Status: 422,
			Says: []string{"can’t be read well enough", "#7a7a00"}},
		{Name: "a colour", Path: "public", Post: part("theme", "accent", "#1d5f8a"),
			Says: []string{`value="#1d5f8a"`, "6.9 to 1"}},
		{Name: "what the buttons say leaves the colour", Path: "public", Post: part("theme", "send", "Enter"),
			Says: []string{`value="#1d5f8a"`}},
		{Name: "a guard", Path: "public", Post: part("sending", "question", "Which lake?", "answers", "Pedralta"),
			Says: []string{"Which lake?"}},
		{Name: "the end", Path: "public", Post: part("ends", "do", "end", "text", "Thank you."),
			Says: []string{"Everybody reads", "Thank you."}},
		{Name: "another end", Path: "public", Post: part("ends", "do", "add-end"), Says: []string{"Everybody else reads"}},
		{Name: "its text", Path: "public", Post: part("ends", "do", "end", "end", "0", "text", "Bring a cox."),
			Says: []string{"Bring a cox."}},
		{Name: "no origin", Path: "public", Post: part("framing", "origins", "club.example"), Status: 422,
			Says: []string{"one is written like https://club.example"}},
		{Name: "an origin", Path: "public", Post: part("framing", "origins", "https://club.example"),
			Says: []string{"data-lazo="}},
		{Name: "no language", Path: "public", Post: part("languages", "language", "no language"), Status: 422,
			Says: []string{"is no language"}},
		{Name: "a language", Path: "public", Post: part("languages", "language", "es"), Says: []string{"Spanish"}},
		{Name: "its texts", Path: "languages/es", Says: []string{"Boat class"}},
		{Name: "translated", Path: "languages/es", Post: desktest.Fields("text", "Boat class", "said-0", "Clase"),
			Says: []string{"Clase"}},
		{Name: "another language", Path: "languages/ar", Status: 404},
	})
	def, _ := v.Draft()
	assert.Equal(t, 77, def.Opening.Limit)
	assert.Equal(t, "Clase", def.Translations["es"]["Boat class"])
	assert.Equal(t, "Bring a cox.", def.Ends[0].Text)
}

// What strangers would meet is seen beside each part, of the draft, and only within the
// desk's own pages.
func TestWhatStrangersMeet(t *testing.T) {
	v := desktest.Visit(t, items)
	for _, fields := range []url.Values{
		part("opening", "from", "2026-03-01T09:00", "until", "2026-05-30T18:00", "after", "Come again next year.", "limit",
			"5",
			"full", "No more."),
		part("theme", "accent", "#1d5f8a"), part("ends", "do", "end", "text", "Thank you."),
		part("returning", "save", "1", "change", "1"),
		part("ends", "do", "add-end"),
		part("ends", "do", "source", "property", "ends.0.when", "source", `boat = "eight" and length > 17`),
		part("ends", "do", "end", "end", "0", "text", "Bring a cox, {boat}."),
		part("languages", "language", "es"), part("sending", "review", "1"),
	} {
		v.Try([]desktest.Case{{Name: "set", Path: "public", Post: fields}})
	}
	open, over := "2026-04-01T12:00:00Z", "2026-06-01T12:00:00Z"
	v.Try([]desktest.Case{
		{Name: "a translation", Path: "languages/es", Post: desktest.Fields("text", "Boat class", "said-0", "Clase"),
			Says: []string{"Clase"}},
		{Name: "while it is open", Path: "public/seen?part=opening&at=" + open,
			Says: []string{"Boat class", "/public/seen/theme.css", "inert"}},
		{Name: "before", Path: "public/seen?part=opening&at=2026-02-01T12:00:00Z", Says: []string{"not open yet"},
			SaysNot: []string{"Boat class"}},
		{Name: "after", Path: "public/seen?part=opening&at=" + over, Says: []string{"Come again next year."},
			SaysNot: []string{"Boat class"}},
		{Name: "full", Path: "public/seen?part=opening&as=full&at=" + open, Says: []string{"No more."},
			SaysNot: []string{"Boat class"}},
		{Name: "how it looks, though it is closed", Path: "public/seen?part=theme&at=" + over, Says: []string{"Boat class"}},
		{Name: "in another language", Path: "public/seen?part=languages&tongue=es", Says: []string{"Clase"}},
		{Name: "the last page", Path: "public/seen?part=sending&seen=last",
			Says: []string{"Review your answers", "Keep and go on later"}},
		{Name: "the review", Path: "public/seen?part=sending&seen=review", Says: []string{"Nothing has been sent yet"}},
		{Name: "what is kept", Path: "public/seen?part=returning&seen=left", Says: []string{"/r/…"}},
		{Name: "the usual end", Path: "public/seen?part=ends&seen=end&at=" + open, Says: []string{"Thank you.", "/r/…"}},
		{Name: "the end for some", Path: "public/seen?part=ends&seen=end&shows=0", Says: []string{"Bring a cox, Eight."}},
		{Name: "an end that is not there", Path: "public/seen?part=ends&seen=end&shows=7", Says: []string{"Thank you."}},
		{Name: "its style", Path: "public/seen/theme.css", Says: []string{"#1d5f8a"}},
	})
}

func TestALogo(t *testing.T) {
	v := desktest.Visit(t, items)
	png := "\x89PNG\r\n\x1a\n" + "made up"
	_, version := v.Draft()
	status, page := v.Upload(v.Base+"/public/logo", "logo.png", []byte(png), "version", version)
	assert.Equal(t, 200, status)
	assert.Contains(t, page, `src="/p/`)
	status, page = v.Upload(v.Base+"/public/logo", "logo.pdf", []byte("%PDF-1.7 made up"), "version", version)
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "can’t be used")
	def, _ := v.Draft()
	assert.NotEmpty(t, def.Theme.Logo)
}
