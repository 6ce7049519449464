package text_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"

	"lazo/core/engine"
	"lazo/core/expr"
	"lazo/core/form"
	"lazo/core/text"
)

const crew = `{"lazo": 1, "key": "t", "title": "T", "timezone": "America/Montevideo", "pages": [{"key": "p", "sections": [
 {"key": "s", "items": [
  {"key": "who", "type": "text", "label": "Who"}, {"key": "day", "type": "date", "label": "Day"},
  {"key": "fee", "type": "number", "label": "Fee"}, {"key": "ok", "type": "tick", "label": "Ok"},
  {"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "one", "label": "Single"}, {"value": "eight", "label": "Eight"}]},
  {"key": "roles", "type": "choices", "label": "Roles", "choices": [{"value": "l", "label": "Launch"}, {"value": "t", "label": "Timing"}, {"value": "g", "label": "Gate"}]}]},
 {"key": "rowers", "title": "Rowers", "repeat": {"max": 8}, "items": [{"key": "name", "type": "text", "label": "Name"}]}]}]}`

// print reads, checks and prints a text for answers to crew.
func print(t *testing.T, src string, answers map[string]any, markdown bool) string {
	t.Helper()
	p, remarks := engine.Load([]byte(strings.Replace(crew, `"title": "T"`, `"title": "T", "end": `+jsonText(src), 1)))
	require.NotNil(t, p, remarks)
	out := p.Run(engine.Input{Answers: p.Answers(answers), At: time.Date(2026, 5, 30, 21, 5, 0, 0, time.UTC)})
	if markdown {
		return out.Markdown(src)
	}
	return out.Plain(src)
}

func jsonText(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "\n", `\n`).Replace(s) + `"`
}

func TestTextsWithAnswers(t *testing.T) {
	answers := map[string]any{
		"who": "Ana", "day": "2026-05-30", "fee": "1234.5", "ok": true, "boat": "eight", "roles": []any{"t", "l", "g"},
		"rowers": []any{map[string]any{"name": "Bo"}, map[string]any{"name": "Cy"}},
	}
	for src, want := range map[string]string{
		"Hello {who}, on {day}.":        "Hello Ana, on May 30, 2026.",
		"{fee} for {boat}":              "1,234.5 for Eight",
		"{roles}":                       "Launch, Timing and Gate",
		"{ok}":                          "yes",
		"It is {now}":                   "It is May 30, 2026, 6:05\u202fPM",
		"A {{brace} and a } alone":      "A {brace} and a } alone",
		`{if(who = "}", "a", "b")}`:     "b",
		"{ join(\", \", rowers.name) }": "Bo, Cy",
		"{label(boat)} {value(boat)}":   "Eight eight",
		"{when fee > 1000}\nDear\n{otherwise}\nCheap\n{end}\nBye":   "Dear\nBye",
		"{when fee is blank}\nDear\n{otherwise}\nCheap\n{end}":      "Cheap\n",
		"Crew:\n{each rowers}\n- {name} ({row_number})\n{end}\nEnd": "Crew:\n- Bo (1)\n- Cy (2)\nEnd",
		"{each rowers}\n{when name = \"Bo\"}\nB\n{end}\n{end}":      "B\n",
	} {
		assert.Equal(t, want, print(t, src, answers, false), src)
	}
	assert.Equal(t, "Hello , on .", print(t, "Hello {who}, on {day}.", nil, false), "a blank is nothing")
}

// What is inserted is plain text wherever it stands.
func TestWhatIsInsertedMeansNothing(t *testing.T) {
	for _, evil := range []string{
		"<b>&", "**bold** _x_ `c`", "[x](http://evil.example)", "http://evil.example", "{fee}", "{{fee}}", "# Title",
		"1. one", "> quoted",
		"line\nline\n\nparagraph", "=1+1", "\\", "| a | b |", "www.evil.example", "a@b.example", "~~~", "&lt;",
	} {
		plain := print(t, "Hello {who}.", map[string]any{"who": evil}, false)
		assert.Equal(t, "Hello "+strings.ReplaceAll(evil, "\n", " ")+".", strings.ReplaceAll(plain, "\n", " "))
		md := print(t, "Hello {who}.", map[string]any{"who": evil}, true)
		for _, sign := range []string{"<", "*", "[", "`", "#", "{", "|", "~", "&", ">", "_"} {
			assert.Equal(t, strings.Count(md, sign), strings.Count(md, `\`+sign), "%q in %q", sign, md)
		}
		assert.NotContains(t, md, "\n\n", "it stays in its paragraph")
	}
}

// The marks where the application's own private addresses go come from no answer.
func TestAnAnswerHoldsNoMarks(t *testing.T) {
	for _, md := range []bool{true, false} {
		said := print(t, "Hello {who}.", map[string]any{"who": "\ue000confirm\ue000\U000f0001"}, md)
		assert.Equal(t, "Hello confirm.", strings.ReplaceAll(said, "\\", ""))
	}
}

func TestFaultsOfTextsHaveTheirPlaces(t *testing.T) {
	for src, want := range map[string]string{
		"a { alone":                         "at character 3: this brace is never closed",
		"{whoo}":                            "did you mean who?",
		"{who":                              "never closed",
		"x {}":                              "a condition or value was expected",
		"x {who +}":                         "at character 9: the expression ends",
		"{rowers}":                          "is a repeating section",
		"{14 days}":                         "can’t be printed",
		"{when fee}\nx\n{end}":              "a condition was expected",
		"{when ok}\nx":                      "a line {end} is missing",
		"x\n{end}":                          "closes no block",
		"{each boat}\nx\n{end}":             "there is no repeating section “boat”",
		"{each rowers}\n{otherwise}\n{end}": "“otherwise” belongs to “when”",
	} {
		_, remarks := engine.Load([]byte(strings.Replace(crew, `"title": "T"`, `"title": "T", "end": `+jsonText(src), 1)))
		errs := form.Errors(remarks)
		if assert.Len(t, errs, 1, src) {
			assert.Equal(t, "end", errs[0].At)
			assert.Contains(t, errs[0].Text, want, src)
		}
	}
}

func TestKeysInTexts(t *testing.T) {
	no := func(string) bool { return false }
	assert.Equal(t, []string{"who", "fee"}, text.Mentions("{who} {{fee} {fee * 2} {who}", no))
	assert.Equal(t, "{name} {{who} {name} x", text.Rename("{who} {{who} {who} x", "who", "name", no))
	assert.Equal(t, "{each crew}\n{name}\n{end}", text.Rename("{each rowers}\n{name}\n{end}", "rowers", "crew", no))
	assert.Equal(t, "Hello , {fee}.", text.Without("Hello {who}, {fee}.", "who", no))
	assert.Equal(t, "a\nb", text.Without("a\n{when who = \"x\"}\nc\n{end}\nb", "who", no))
	assert.Equal(t, "{who", text.Rename("{who", "who", "name", no), "what can't be read stays")
}

func TestValuesInLanguages(t *testing.T) {
	day, _ := expr.ParseDay("2026-05-30")
	number, err := expr.ParseNumber("1234567.5")
	require.NoError(t, err)
	small, _ := expr.ParseNumber("-1234")
	for tag, want := range map[string][]string{
		"en":    {"May 30, 2026", "1,234,567.5", "-1,234", "6:05\u202fPM", "a, b and c", "yes"},
		"en-GB": {"30 May 2026", "1,234,567.5", "-1,234", "18:05", "a, b and c", "yes"},
		"es":    {"30 de mayo de 2026", "1.234.567,5", "-1234", "18:05", "a, b y c", "sí"},
		"de":    {"30. Mai 2026", "1.234.567,5", "-1.234", "18:05", "a, b und c", "ja"},
		"en-IN": {"30 May 2026", "12,34,567.5", "-1,234", "6:05\u202fpm", "a, b and c", "yes"},
		"ja":    {"2026年5月30日", "1,234,567.5", "-1,234", "18:05", "a、b、c", "はい"},
		"fr":    {"30 mai 2026", "1\u202f234\u202f567,5", "-1\u202f234", "18:05", "a, b et c", "oui"},
		"xx":    {"May 30, 2026", "1,234,567.5", "-1,234", "6:05\u202fPM", "a, b and c", "yes"},
	} {
		s := text.Speech(language.Make(tag))
		assert.Equal(t, want, []string{
			s.Day(day), s.Number(number), s.Number(small), s.Time(18*3600 + 300), s.List([]string{"a", "b", "c"}), s.YesNo(true),
		}, tag)
	}
	assert.Equal(t, "٣٠ مايو ٢٠٢٦", text.Speech(language.Arabic).Day(day))
}

func FuzzText(f *testing.F) {
	f.Add("Hello {who}, {{ } {when x}\n{end}\n{each y}\n{z}\n{end}")
	f.Fuzz(func(t *testing.T, src string) {
		tpl, err := text.Parse(src, true)
		if err != nil {
			return
		}
		count := 0
		tpl.Walk(func(expr.Node) { count++ })
		if count == 0 && text.Rename(src, "a", "b", func(string) bool { return false }) != src {
			t.Fatal("a text without answers was changed")
		}
		no := func(string) bool { return false }
		for _, key := range text.Mentions(src, no) {
			text.Without(src, key, no)
		}
	})
}
