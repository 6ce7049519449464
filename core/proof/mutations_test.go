package proof_test

import (
	"flag"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/form"
	"lazo/core/proof"
)

var update = flag.Bool("update", false, "write the table in docs/proof.md")

// mutations break a sound form, each in one way: what stands there, and what instead.
var mutations = []struct{ what, old, new string }{
	{"a swapped operator in a route", `"when": "class = \"single\" and source = \"own\""`,
		`"when": "class = \"single\" or source = \"own\""`},
	{"an and for an or", `class = \"eight\" or lane = \"canal\"`, `class = \"eight\" and lane = \"canal\"`},
	{"an or for an and", `source = \"own\" and metres > 8`, `source = \"own\" or metres > 8`},
	{"a bound off by one at its end", `"shown": "trailer >= 20"`, `"shown": "trailer > 25"`},
	{"a least above a most", `"min": 1, "max": 7`, `"min": 8, "max": 7`},
	{"a bound beyond what is taken", `metres >= 12`, `metres >= 21`},
	{"a route turned round", `{"when": "class = \"single\" and source = \"own\"", "page": "end"}, {"when": "class = \"single\"", "page": "hire"}`,
		`{"when": "class = \"single\"", "page": "hire"}, {"when": "class = \"single\" and source = \"own\"", "page": "end"}`},
	{"a not that was forgotten", `not url.club = \"harbor\"`, `url.club = \"harbor\"`},
	{"a not too many", `"shown": "age(born) < 18"`, `"shown": "not age(born) < 18"`},
	{"another choice withheld as well", `{"value": "single"}, {"value": "four"`,
		`{"value": "single", "withheld": "source = \"hired\""}, {"value": "four"`},
	{"a choice withheld always", `"withheld": "lane = \"canal\""`,
		`"withheld": "lane = \"canal\" or lane != \"canal\" or lane is blank"`},
	{"a choice offered never", `"offered": "days >= 2"`, `"offered": "days >= 2 and days < 2"`},
	{"a choice offered always", `"offered": "days >= 2"`, `"offered": "days >= 2 or days is blank or days < 2"`},
	{"a contradiction in a tie", `"shown": "trailer >= 20"`, `"shown": "trailer >= 20 and trailer < 10"`},
	{"a tie that says nothing", `"shown": "trailer >= 20"`, `"shown": "trailer is answered or trailer is blank"`},
	{"a part that says nothing", `"shown": "trailer >= 20"`, `"shown": "trailer >= 20 and trailer is answered"`},
	{"a part that is weaker than another", `days >= 3 and not url.club`, `days >= 3 and days >= 1 and not url.club`},
	{"a tie to what is hidden where it would matter", `"shown": "trailer >= 20"`,
		`"shown": "trailer >= 20 and days >= 1"`},
	{"a page that nobody reaches", `"shown": "source = \"hired\"", "sections"`,
		`"shown": "source = \"hired\" and source = \"own\"", "sections"`},
	{"a page shown always", `"shown": "class in (\"four\", \"eight\")"`, `"shown": "class is answered or class is blank"`},
	{"a required that is never met", `"required": "class = \"eight\""`, `"required": "class = \"single\""`},
	{"a required that is always met", `"required": "source = \"own\""`,
		`"required": "source is answered or source is blank"`},
	{"a value that never comes", `"when": "class = \"single\""},`, `"when": "class = \"single\" and class = \"four\""},`},
	{"a value that always comes", `"when": "class = \"single\""},`, `"when": "days is answered or days is blank"},`},
	{"a wording behind one that is wider", `"wording": [{"when": "days > 5"`,
		`"wording": [{"when": "days > 1", "label": "Oars for days"}, {"when": "days > 5"`},
	{"a closing text behind one that is wider", `"when": "class = \"eight\"", "text"`,
		`"when": "class = \"eight\" and source = \"hired\"", "text"`},
	{"a message about what is not asked then", `"when": "metres >= 12"`, `"when": "trailer >= 12 and source = \"hired\""`},
	{"a row of a grid that is never shown", `"shown": "lane = \"pier\""`,
		`"shown": "lane = \"pier\" and lane = \"canal\""`},
	{"a day after the form has closed", `today >= 2026-05-20`, `today >= 2026-06-20`},
	{"a check that nothing passes", `"key": "days", "type": "number"`,
		`"key": "days", "checks": [{"ok": "days > 9", "message": "No"}], "type": "number"`},
	{"a check that always passes", `"key": "days", "type": "number"`,
		`"key": "days", "checks": [{"ok": "days > 9 or days <= 9 or days is blank", "message": "No"}], "type": "number"`},
	{"an age that nobody has", `age(born) < 18`, `age(born) < 0`},
	{"the same condition written twice", `"required": "source = \"own\""},`, `"required": "source = \"own\"", "shown": "lane = \"pier\" or lane = \"canal\""},
		{"key": "flag", "type": "text", "label": "Flag", "shown": "lane in (\"canal\", \"pier\")"},`},
	{"an answer of a later page asked for", `"key": "born", "type": "date"`,
		`"key": "born", "shown": "days >= 3", "type": "date"`},
	{"a choice renamed in one place", `class in (\"four\", \"eight\")`, `class in (\"fours\", \"eight\")`},
}

// What the proof names of a sound form that was broken stands in docs/proof.md.
func TestMutationsAreNamed(t *testing.T) {
	data, err := os.ReadFile("testdata/canal.json")
	require.NoError(t, err)
	sound, remarks := engine.Load(data)
	require.NotNil(t, sound, "%v", remarks)
	before := kinds(proof.Of(sound, usual), same)
	for key := range before {
		assert.True(t, strings.HasPrefix(key, proof.SameAs), "the form is not sound: %s", key)
	}
	var b strings.Builder
	b.WriteString("| what was done | what is named |\n|---|---|\n")
	named, all := 0, 0
	for _, m := range mutations {
		require.Contains(t, string(data), m.old, m.what)
		all++
		found := namedIn(t, strings.Replace(string(data), m.old, m.new, 1), before)
		if len(found) > 0 {
			named++
		}
		fmt.Fprintf(&b, "| %s | %s |\n", m.what, strings.Join(orNothing(found), ", "))
	}
	fmt.Fprintf(&b, "\n%d of %d are named.\n", named, all)
	require.GreaterOrEqual(t, all, 30)
	inDocs(t, "mutations", b.String())
}

func orNothing(found []string) []string {
	if len(found) == 0 {
		return []string{"nothing: the form is another one, and whole"}
	}
	return found
}

// namedIn are the kinds of remarks that a changed form has and the sound one has not.
func namedIn(t *testing.T, text string, before map[string]bool) (out []string) {
	p, remarks := engine.Load([]byte(text))
	add := func(kind, item string) {
		one := "`" + kind + "`"
		if item != "" {
			one += " " + item
		}
		if !slices.Contains(out, one) {
			out = append(out, one)
		}
	}
	for _, r := range remarks {
		if r.Severity != form.Hint {
			add(r.Kind, r.Item)
		}
	}
	if p == nil {
		return out
	}
	report := proof.Of(p, usual)
	require.Empty(t, report.Undecided, text)
	for _, r := range report.Remarks {
		if !before[r.Kind+" "+r.At+" "+r.Part] {
			add(r.Kind, r.Item)
		}
	}
	return out
}

// inDocs compares a part of docs/proof.md with what it is to be, or writes it.
func inDocs(t *testing.T, name, want string) { docsHave(t, "proof.md", name, want) }

// docsHave does so in any file of the documents.
func docsHave(t *testing.T, file, name, want string) {
	path := "../../docs/" + file
	data, err := os.ReadFile(path)
	require.NoError(t, err)
	begin, end := "<!-- "+name+" -->\n", "<!-- end of "+name+" -->"
	head, rest, ok := strings.Cut(string(data), begin)
	require.True(t, ok, "%s has no part %s", path, name)
	got, tail, ok := strings.Cut(rest, end)
	require.True(t, ok)
	if *update {
		require.NoError(t, os.WriteFile(path, []byte(head+begin+want+end+tail), 0o644))
		return
	}
	assert.Equal(t, want, got, "go test ./core/proof -run %s -update writes it", t.Name())
}
