package expr_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/expr"
	"lazo/core/form"
)

// desk is a form whose names the outlines below use.
const desk = `{"lazo": 1, "lists": {"piers": [{"code": "h", "name": "Heron", "fee": 40, "open": "2026-05-01"}, {"code": "t", "name": "Teal", "fee": 10}]}, "key": "t", "title": "T", "timezone": "America/Montevideo", "parameters": [{"name": "club"}], "pages": [{"key": "p", "sections": [
 {"key": "s", "items": [
  {"key": "boat", "type": "choice", "label": "Boat", "choices": [{"value": "single"}, {"value": "eight"}]},
  {"key": "lane", "type": "choice", "label": "Lane", "choices": [{"value": "pier"}, {"value": "eight"}]},
  {"key": "roles", "type": "choices", "label": "Roles", "choices": [{"value": "launch"}, {"value": "timing"}]},
  {"key": "trailer", "type": "number", "label": "Trailer"}, {"key": "swim", "type": "tick", "label": "Swim"},
  {"key": "born", "type": "date", "label": "Born"}, {"key": "note", "type": "text", "label": "Note"},
   {"key": "pier", "type": "choice", "label": "Pier", "choices_from": {"list": "piers", "value": "code", "label": "name"}}]},
 {"key": "rowers", "title": "Rowers", "repeat": {"max": 8}, "items": [{"key": "age_then", "type": "number", "label": "Age"}, {"key": "name", "type": "text", "label": "Name"}]}]}]}`

func deskSymbols(t require.TestingT) *expr.Symbols {
	f, remarks := form.Read([]byte(desk))
	require.NotNil(t, f, remarks)
	return f.Symbols()
}

func TestOutlinesOfKnownConditions(t *testing.T) {
	syms := deskSymbols(t)
	for src, want := range map[string]struct {
		join    string
		clauses int // plain clauses in all
		sources int // parts left as they are written
	}{
		`boat = "eight"`:                                            {"all", 1, 0},
		`boat = "eight" and trailer >= 12`:                          {"all", 2, 0},
		`boat = "eight" and swim or not trailer between 1 and 2`:    {"any", 3, 0},
		`not (swim or boat is answered)`:                            {"none", 2, 0},
		`not (swim and boat is answered)`:                           {"none", 2, 0},
		`any(rowers, age_then < 18 and name is answered)`:           {"any row", 2, 0},
		`every(rowers, age_then >= 18) and count(rowers) > 2`:       {"all", 2, 0},
		`age(born, 2026-05-30) < 18 or born > today - 18 years`:     {"any", 2, 0},
		`exact(note, "X") or note matches "^a" or boat = lane`:      {"any", 2, 1},
		`roles has all ("launch", "timing") and url.club = "north"`: {"all", 2, 0},
		`trailer = trailer + 1 or weekday in ("sat", "sun")`:        {"any", 2, 0},
	} {
		n, err := expr.Parse(src)
		require.NoError(t, err)
		p := syms.Outline(n)
		clauses, sources := 0, 0
		var count func(p *expr.Passage)
		count = func(p *expr.Passage) {
			switch {
			case p.Clause != nil:
				clauses++
			case p.Join == "":
				sources++
			}
			for _, kid := range p.Parts {
				count(kid)
			}
		}
		count(p)
		assert.Equal(t, want.join, p.Join, src)
		assert.Equal(t, want.clauses, clauses, "clauses of %s", src)
		assert.Equal(t, want.sources, sources, "sources of %s", src)
		back, err := syms.Condition(p)
		require.NoError(t, err, src)
		assert.Equal(t, src, back.String())
	}
}

// Whatever an author writes comes back from the sentence editor as it was.
func TestTheOutlineHoldsTheWholeCondition(t *testing.T) {
	syms := deskSymbols(t)
	leaf := rapid.SampledFrom(
		[]string{
			`boat = "eight"`, `boat in ("single", "eight")`, `boat = lane`, `boat != "EIGHT"`, `trailer >= 12`, `12 <= trailer`,
			`trailer between 1 and trailer + 1`, `swim`, `swim = no`, `swim = yes`, `born < today`, `now >= 2026-05-10T18:00`,
			`note = "today"`, `note = "url.club"`, `note = url.club`, `note contains "x"`, `exact(note, "X")`, `yes`,
			`roles has "launch"`, `roles has none ("launch", "timing")`, `any(rowers, age_then < 18)`,
			`every(rowers, not (name is blank or age_then > row_number))`, `count(rowers, age_then > 3) = 2`,
			`if(swim, 1, 2) = 1`, `if(swim, trailer > 1, no)`, `first(note, "a") starts with "a"`, `home is blank`,
			`-trailer < 3`, `trailer * 2 - 1 > 4`,
		},
	)
	var cond func(t *rapid.T, depth int) string
	cond = func(t *rapid.T, depth int) string {
		switch rapid.IntRange(0, 5).Draw(t, "kind") + max(0, 3*(1-depth)) {
		case 0:
			return "(" + cond(t, depth-1) + " and " + cond(t, depth-1) + ")"
		case 1:
			return "(" + cond(t, depth-1) + " or " + cond(t, depth-1) + " or " + cond(t, depth-1) + ")"
		case 2:
			return "not (" + cond(t, depth-1) + ")"
		}
		return leaf.Draw(t, "leaf")
	}
	rapid.Check(t, func(t *rapid.T) {
		src := cond(t, 4)
		n, err := expr.Parse(src)
		require.NoError(t, err, src)
		back, err := syms.Condition(syms.Outline(n))
		require.NoError(t, err, src)
		require.True(t, expr.Equal(n, back), "%s came back as %s", n, back)
	})
}

func TestTakingAQuestionOutOfConditions(t *testing.T) {
	for src, want := range map[string]string{
		`boat = "eight" and trailer >= 12`:                    `boat = "eight"`,
		`boat = "eight" and (trailer >= 12 or swim)`:          `boat = "eight" and swim`,
		`not (trailer > 1 or swim)`:                           `not swim`,
		`not trailer > 1`:                                     ``,
		`any(rowers, age_then > trailer) or boat is answered`: `boat is answered`,
		`boat is answered`:                                    `boat is answered`,
	} {
		n, err := expr.Parse(src)
		require.NoError(t, err)
		got := ""
		if left := expr.Without(n, "trailer", func(key string) bool { return key == "rowers" }); left != nil {
			got = left.String()
		}
		assert.Equal(t, want, got, src)
	}
}

func TestCompletionsFitThePlace(t *testing.T) {
	syms := deskSymbols(t)
	for src, want := range map[string]string{
		`tr`:                            "trailer",
		`boat = "ei`:                    "eight",
		`boat = "eight" and lane in (`:  "",
		`boat = "eight" and lane in ("`: "pier",
		`url.c`:                         "url.club",
		`sum(rowers.a`:                  "rowers.age_then",
		`weekday = "S`:                  "sat",
		`aver`:                          "average(",
		`Swi`:                           "swim",
	} {
		_, got := syms.Complete(src, len(src))
		if want == "" {
			assert.Empty(t, got, src)
			continue
		}
		require.NotEmpty(t, got, src)
		assert.Equal(t, want, got[0].Text, src)
	}
}
