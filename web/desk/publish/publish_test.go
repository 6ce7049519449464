package publish_test

import (
	"os"
	"strings"
	"testing"

	"lazo/web/desk/desktest"
)

func TestMain(m *testing.M) { os.Exit(desktest.Main(m)) }

const items = `{"key": "boat", "type": "choice", "label": "Boat class", "choices": [{"value": "single", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
	{"key": "cox", "type": "text", "label": "Cox", "shown": "boat = \"eight\""},
	{"key": "length", "type": "number", "label": "Length in metres"}`

func TestPublishing(t *testing.T) {
	v := desktest.Visit(t, items)
	v.Try([]desktest.Case{
		{Name: "as it is", Path: "publish", Says: []string{"Edition 1 is live", "Take it offline"},
			SaysNot: []string{`id="publish"`}},
		{Name: "where it is, and what comes next", Path: "publish",
			Says: []string{"/f/entry", "Try it as a", "publish/code.svg", "Make links"}},
		{Name: "its address on paper", Path: "publish/code.svg", Says: []string{"<svg"}},
		{Name: "a change", Path: "edit",
			Post: desktest.Fields("do", "set", "key", "length", "property", "label", "value", "Length")},
		{Name: "what changes", Path: "publish", Says: []string{"Publish edition 2", "Length"}},
		{Name: "without a version", Path: "publish", Post: desktest.Fields("version", "x"), Status: 422,
			Says: []string{"This page is not complete"}},
		{Name: "on an older state", Path: "publish", Post: desktest.Fields("version", "1"), Status: 409,
			Says: []string{"has been changed meanwhile"}},
		{Name: "published", Path: "publish", Post: desktest.Fields(),
			Says: []string{"Edition 2 is live", "Put edition 1 back live"}},
		{Name: "an edition that is not there", Path: "live", Post: desktest.Fields("number", "9"), Status: 404},
		{Name: "no number", Path: "live", Post: desktest.Fields("number", "x"), Status: 404},
		{Name: "put back", Path: "live", Post: desktest.Fields("number", "1"), Says: []string{"Put edition 2 back live"}},
		{Name: "offline", Path: "offline", Post: desktest.Fields("message", "We count **oars**."),
			Says: []string{"This form is offline", "<strong>oars</strong>"}, SaysNot: []string{"Take it offline"}},
		{Name: "so says the list", Path: "/forms", Says: []string{">offline</a>"}},
		{Name: "a message that is too long", Path: "offline", Post: desktest.Fields("message", long), Status: 422,
			Says: []string{"is too long"}},
		{Name: "online", Path: "online", Post: desktest.Fields(), Says: []string{`id="offline"`},
			SaysNot: []string{`id="online"`}},
		{Name: "a draft with an error", Path: "edit", Post: desktest.Fields("do", "delete", "key", "boat", "how", "only")},
		{Name: "is not published", Path: "publish", Post: desktest.Fields(), Status: 422,
			Says: []string{"The errors have to be mended"}, SaysNot: []string{`id="publish"`}},
	})
}

var long = strings.Repeat("oars ", 500)

// Publishing says what goes out, and how opening differs, in words.
func TestPublishingSaysWhatGoesOut(t *testing.T) {
	v := desktest.Visit(t, `{"key": "email", "type": "email", "label": "Your address"}, {"key": "length", "type": "number", "label": "Length"}`)
	v.Try([]desktest.Case{
		{Name: "a letter", Path: "edit", Post: desktest.Fields("do", "add-letter", "label", "Tell the harbour")},
		{Name: "its condition", Path: "edit",
			Post: desktest.Fields("do", "source", "property", "messages.0.when", "source", "length >= 12")},
		{Name: "opening", Path: "public", Post: desktest.Fields("part", "opening", "until", "2026-05-30T18:00")},
		{Name: "said", Path: "publish",
			Says: []string{"What goes out of it", "Tell the harbour", "Sent when Length is at least 12",
				"closes on 30 May 2026, 18:00"}},
	})
}
