package manuscript_test

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

// What each command does is tried in core/author; here is what the page says of it.
func TestTheManuscript(t *testing.T) {
	v := desktest.Visit(t, items)
	do := func(name string, pairs ...string) map[string][]string {
		return desktest.Fields(append([]string{"do", name}, pairs...)...)
	}
	v.Try([]desktest.Case{
		{Name: "as it is", Path: "", Says: []string{"Shown when ", "Boat class"}},
		{Name: "a question unfolded", Path: "?at=cox", Says: []string{`id="f-label"`}},
		{Name: "one that is not there", Path: "?at=nobody", Says: []string{"Boat class"}},
		{Name: "a new question", Path: "edit", Post: do("add", "into", "s", "label", "How many oars?"),
			Says: []string{"How many oars?"}},
		{Name: "without words", Path: "edit", Post: do("add", "into", "s", "label", " "), Status: 422,
			Says: []string{"Write the question first."}},
		{Name: "a key that is taken", Path: "edit", Post: do("key", "key", "cox", "value", "boat"), Status: 422,
			Says: []string{"is taken already", `id="f-label"`}},
		{Name: "a tie that can't be kept", Path: "edit", Post: do("source", "key", "length", "property", "shown", "source",
			"boat ="), Status: 422, Says: []string{"boat =", "the expression ends"}},
		{Name: "a question that others depend on", Path: "edit", Post: do("delete", "key", "boat"), Status: 409,
			Says: []string{"Cox is shown"}},
		{Name: "no such change", Path: "edit", Post: do("paint"), Status: 422,
			Says: []string{"There is no change called “paint”"}},
		{Name: "without a version", Path: "edit", Post: do("add", "version", "x"), Status: 422,
			Says: []string{"This page is not complete"}},
		{Name: "what a type drops", Path: "edit", Post: do("set", "key", "boat", "property", "type", "value", "note")},
		{Name: "undone", Path: "edit", Post: do("undo"), Says: []string{"Boat class"}},
		{Name: "an expression while it is written", Path: "check", Post: desktest.Fields("key", "length", "property", "shown",
			"source", `boat = "eight"`), Says: []string{"Boat class is Eight"}},
		{Name: "one that is wrong", Path: "check", Post: desktest.Fields("key", "length", "property", "shown", "source",
			`bot = "eight"`), Says: []string{"did you mean boat"}},
		{Name: "words that can follow", Path: "check", Post: desktest.Fields("key", "length", "property", "shown", "source",
			"bo", "caret", "2"), Says: []string{"boat"}},
		{Name: "a clause for a question", Path: "clause?clause=many&subject=length", Says: []string{"is at least"}},
		{Name: "what can be tied", Path: "targets?but=boat", Says: []string{"Cox"}, SaysNot: []string{"Boat class"}},
		{Name: "who is there", Path: "presence?version=0"},
		{Name: "the keys", Path: "/keys", Says: []string{"undo, redo"}},
		{Name: "a section kept", Path: "keep", Post: desktest.Fields("key", "s"), Says: []string{"“Hull” is kept"}},
		{Name: "a section that is not there", Path: "keep", Post: desktest.Fields("key", "nobody"), Status: 404},
		{Name: "a kept one that is not there", Path: "edit", Post: do("insert-kept", "kept", "999999", "into", "p"),
			Status: 422,
			Says:   []string{"no longer kept"}},
		{Name: "a letter", Path: "edit", Post: do("add-letter", "label", "Thank them"),
			Says: []string{`id="row-letter-thank_them"`, "Sent</label>"}},
		{Name: "to too many", Path: "edit", Post: do("letter", "letter", "thank_them", "property", "to", "value",
			strings.Repeat("a@lake.example, ", 60)), Status: 422, Says: []string{"at most 50 addresses"}},
		{Name: "a letter of a question that is not there", Path: "edit",
			Post: do("letter", "letter", "thank_them", "property", "body",
				"value", "Dear {nobody}"), Says: []string{"there is no question “nobody”"}},
		{Name: "a letter that is not there", Path: "edit",
			Post: do("letter", "letter", "none", "property", "body", "value", "x"), Status: 422,
			Says: []string{"This letter is no longer there"}},
		{Name: "a moment that is none", Path: "edit",
			Post:   do("letter", "letter", "thank_them", "property", "at", "value", "length +"),
			Status: 422, Says: []string{"the expression ends"}},
		{Name: "a document", Path: "edit", Post: do("add-document", "label", "Card"),
			Says: []string{`id="row-document-card"`}},
		{Name: "a hook that leads nowhere", Path: "edit", Post: do("add-hook", "label", "desk"), Status: 422,
			Says: []string{"https://desk.example/boats"}},
		{Name: "an edition that is not there", Path: "edit", Post: do("take-edition", "number", "9"), Status: 422,
			Says: []string{"There is no edition 9"}},
		{Name: "an edition taken", Path: "edit", Post: do("take-edition", "number", "1"),
			SaysNot: []string{"How many oars?"}},
	})
}
