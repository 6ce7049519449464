package engine_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/engine"
	"lazo/core/expr"
)

const explained = `{"lazo":1,"key":"t","title":"T","timezone":"Europe/Madrid",
 "lists":{"piers":[{"c":"n","l":"North pier","shore":"north"},{"c":"s","l":"South pier","shore":"south"}]},
 "pages":[{"key":"p","sections":[
  {"key":"crew","title":"Crew","repeat":{"min":1,"max":4,"rows":"n"},"items":[{"key":"born","type":"date","label":"Born"}]},
  {"key":"s","items":[
   {"key":"n","type":"number","label":"Rowers","max":4},
   {"key":"young","type":"note","label":"Young","shown":"any(crew, age(born) < 18) and not (n = 3 or n > 5)"},
   {"key":"old","type":"note","label":"Old","shown":"every(crew, age(born) >= 18)"},
   {"key":"fee","type":"calculation","label":"Fee","value":{"is":"if(n > 2, 600, 900) * 2"}},
   {"key":"code","type":"text","label":"Code","min_length":3,"checks":[{"ok":"exact(code, \"ABC\")","message":"Too short."}]},
   {"key":"terms","type":"tick","label":"Terms","required":true},
   {"key":"shore","type":"text","label":"Shore"},
   {"key":"pier","type":"choice","label":"Pier","choices_from":{"list":"piers","value":"c","label":"l","where":"entry.shore = shore"}},
   {"key":"picks","type":"choices","label":"Picks","min_picked":2,"choices":[{"value":"a","label":"A"},{"value":"b","label":"B","withheld":"n = 2"}]},
   {"key":"lk","type":"text","label":"Lane","locked":"n > 1"},
   {"key":"sh","type":"text","label":"Copy","value":{"starts":"shore"}},
   {"key":"rd","type":"note","label":"Rd","shown":"round(n / 2, 1) > 1 and not n is answered"}]}]}]}`

// Every state that an outcome has is explained, in sentences that someone would say.
func TestEveryStateIsExplained(t *testing.T) {
	p, remarks := engine.Load([]byte(explained))
	require.NotNil(t, p, remarks)
	read := func(src string) *engine.Answers {
		raw, err := engine.ParseAnswers([]byte(src))
		require.NoError(t, err)
		return p.Answers(raw)
	}
	in := engine.Input{At: time.Date(2026, 5, 1, 12, 0, 0, 0, time.UTC), Mode: engine.Revisit,
		Prior: read(`{"lk": "2", "picks": ["b"]}`),
		Answers: read(
			`{"n": 2, "crew": [{"born": "1990-01-01"}, {"born": "2012-01-01"}], "code": "AB", "shore": "north", "pier": "s", "picks": ["a"], "sh": ""}`,
		)}
	out := p.Run(in)
	for key, want := range map[string]string{
		"young": `Young is shown:
  met: all of
    met: in at least one row of Crew, the age today counted from Born is under 18 (Born in row 2 is 1 January 2012; today is 1 May 2026)
    met: Rowers is not 3 (Rowers is 2)
    met: Rowers is at most 5 (Rowers is 2)`,
		"old": `Old is not shown:
  not met: in every row of Crew, the age today counted from Born is at least 18 (Born in row 2 is 1 January 2012; today is 1 May 2026)`,
		"fee": `Fee is always shown.
It is (600 if Rowers is over 2, otherwise 900) × 2: 1800 (Rowers is 2).`,
		"code": `Code is always shown.
The answer is not accepted: Please write at least 3 characters (Code is “AB”; its length is 2).
The answer is not accepted: Too short:
  not met: Code is written exactly “ABC” (Code is “AB”)`,
		"terms": `Terms is always shown.
An answer is required.
The answer is not accepted: Please tick this box to go on (Terms is not ticked).`,
		"pier": `Pier is always shown.
South pier is not offered:
  not met: the entry’s shore is Shore (shore is “south”; Shore is “north”)
South pier was picked and is set aside, since it is not on offer.`,
		"picks": `Picks is always shown.
B is withheld:
  met: Rowers is 2
The answer is not accepted: Please pick at least 2 (Picks is A; the number of picks is 1).`,
		"lk": `Lane is always shown.
It is locked:
  met: Rowers is over 1 (Rowers is 2)
It can’t be filled here and keeps what the response has: 2.`,
		"sh": `Copy is always shown.
The respondent emptied it, and it stays empty; by itself it would be Shore (Shore is “north”).`,
		"rd": `Rd is not shown:
  not met: all of
    not met: (Rowers ÷ 2) rounded to 1 decimal place is over 1 (Rowers is 2)
    not met: Rowers is not answered (Rowers is 2)`,
		"crew": `Crew is always shown.
Crew has 2 rows, from Rowers (Rowers is 2).`,
	} {
		var lines []string
		for _, b := range out.Why(key, 0) {
			lines = append(lines, b.Lines()...)
		}
		assert.Equal(t, want, strings.Join(lines, "\n"), key)
	}
}

// What is not negated by a word of its own is said by the opposite.
func TestSentencesOfOpposites(t *testing.T) {
	p, remarks := engine.Load([]byte(explained))
	require.NotNil(t, p, remarks)
	for src, want := range map[string]string{
		`not n > 2`: "Rowers is at most 2", `not shore contains "x"`: "Shore does not contain “x”",
		`not picks has "a"`:            "Picks does not include A",
		`not picks has all ("a", "b")`: "Picks does not include all of A, B",
		`not n between 1 and 3`:        "Rowers is not between 1 and 3",
		`not any(crew, born is blank)`: "in no row of Crew, Born is not answered", `not terms`: "Terms is not ticked",
		`not not terms`: "Terms is ticked",
		`n = 1 and any(crew, born is blank) and n < 3`: "Rowers is 1 and (in at least one row of Crew, Born is not answered) and Rowers is under 3",
		`n = 1 and not (n = 2 or n = 3) and terms`:     "Rowers is 1 and (none of these: Rowers is 2, Rowers is 3) and Terms is ticked",
		`if(n > 2, 600, 900) >= 700`:                   "(600 if Rowers is over 2, otherwise 900) is at least 700",
		`floor(n) = ceil(n + 1)`:                       "Rowers rounded down is (Rowers + 1) rounded up",
	} {
		assert.Equal(t, want, sentenceOf(t, p, src), src)
	}
}

func sentenceOf(t *testing.T, p *engine.Program, src string) string {
	n, err := expr.Parse(src)
	require.NoError(t, err)
	return expr.PiecesText(p.Symbols.Sentence(n))
}
