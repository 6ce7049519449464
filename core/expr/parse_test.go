package expr_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/expr"
)

// canonical are expressions in the form in which they are printed.
var canonical = []string{
	`boat_class = "eight"`,
	`a or b and not c`,
	`(a or b) and c`,
	`(a and b) and c`,
	`not (a and b)`,
	`not not a`,
	`a + b * c - d / e`,
	`a - (b - c)`,
	`(a + b) * c`,
	`-a + -5`,
	`-(5)`,
	`--a`,
	`x between 1 and 2 + 3 and y`,
	`x in ("a", "b") or y not in (1, 2)`,
	`x is blank and y is answered`,
	`name contains "x" or name starts with "y" or name ends with "z"`,
	`code matches "^\d{4}$"`,
	`code matches "a\\\b"`,
	`days_there has "sat" and days_there has any ("sat", "sun") and days_there has none ("mon")`,
	`roles has all ("cox", "launch")`,
	`"say \"so\""`,
	`2026-05-30 + 14 days >= today - 1 month`,
	`time >= 18:00 and now < 2026-05-30T18:00`,
	`any(rowers, age < 18) and every(rowers, age(born) >= 12)`,
	`count(rowers, weight > 90.5) / count(rowers)`,
	`sum(rowers.weight) + home_cost`,
	`home.country = "UY"`,
	`url.club has "north"`,
	`if(late, 24, 12) * count(rowers)`,
	`join(", ", first_name, last_name)`,
	`first(a, b, 0) != round(x / 3, 2)`,
	`exact(code, "aB") and choice != "eight" and entry.shore = "north"`,
	`row_number = 1 and weekday = "sat" and mode = "new"`,
	`(a = b) = yes`,
	`age < 18 or age(born) < 18`,
}

func TestPrintingAndParsingAreInverse(t *testing.T) {
	for _, src := range canonical {
		n, err := expr.Parse(src)
		require.NoError(t, err, src)
		assert.Equal(t, src, n.String())
	}
}

func TestSpellingsThatPrintDifferently(t *testing.T) {
	for src, want := range map[string]string{
		"a=1":                        "a = 1",
		"  a\n and\tb ":              "a and b",
		"((a))":                      "a",
		"1 days + x":                 "1 day + x",
		"12.50":                      "12.5",
		"9:05":                       "09:05",
		`"\d"`:                       `"\d"`,
		"a + (b * c)":                "a + b * c",
		"(a - b) - c":                "a - b - c",
		"a and (b)":                  "a and b",
		"x  not  in(1,2)":            "x not in (1, 2)",
		"2026-05-30T18:00:00":        "2026-05-30T18:00",
		"99999999999999999999999999": "99999999999999999999999999",
	} {
		n, err := expr.Parse(src)
		require.NoError(t, err, src)
		assert.Equal(t, want, n.String())
	}
}

// wrong are expressions that are refused, with what the author is told.
var wrong = []struct{ src, says string }{
	{``, "nothing was found"},
	{`a =`, "ends where a value was expected"},
	{`a == 1`, "“==” is written ="},
	{`a is 3`, "write = instead of is"},
	{`a is not blank`, "write is answered"},
	{`(a or b`, "never closed"},
	{`a or b)`, "never opened"},
	{`a < b < c`, "one comparison can't follow another"},
	{`"abc`, "no closing quotation mark"},
	{`'abc'`, "straight double quotation marks"},
	{`a = “x”`, "straight double quotation marks"},
	{`2026-02-30`, "no day of the calendar"},
	{`25:00 < time`, "no time of day"},
	{`a ≤ 3`, "written <="},
	{`a b`, "was found where"},
	{`lenght(x) > 3`, "did you mean length?"},
	{`today()`, "no function"},
	{`Boat = 1`, "small letters: boat"},
	{`url`, "such as url.club"},
	{`a in 1`, "“(” was expected after “in”"},
	{`true`, "written yes"},
	{`1.5 days`, "whole number of days"},
	{`3x`, "key begins with a digit"},
	{`año = 1`, "“ñ” can't stand in a key"},
	{`a between 1 or 2`, "“and” was expected"},
	{`any`, "a parenthesis was expected"},
	{`count()`, "needs something between"},
	{`123456789012345678901234567890123456789`, "more than 34 digits"},
}

func TestRefusalsSayWhatToDo(t *testing.T) {
	for _, c := range wrong {
		_, err := expr.Parse(c.src)
		if assert.Error(t, err, c.src) {
			assert.Contains(t, err.Error(), c.says, c.src)
			fault := err.(*expr.Fault)
			kind := "syntax"
			if strings.Contains(c.says, "no function") || strings.Contains(c.says, "did you mean") {
				kind = "unknown-name"
			}
			assert.Equal(t, kind, fault.Kind, c.src)
			assert.True(t, fault.Pos >= 0 && fault.Pos <= fault.End && fault.End <= len(c.src), "%s: %d to %d", c.src, fault.Pos,
				fault.End)
		}
	}
}

func TestDepthIsBounded(t *testing.T) {
	deep := func(n int) string { return strings.Repeat("(", n) + "a" + strings.Repeat(")", n) }
	_, err := expr.Parse(deep(200))
	assert.NoError(t, err)
	for _, src := range []string{deep(100_0), strings.Repeat("not ", 5000) + "a", strings.Repeat("-", 5000) + "a",
		strings.Repeat("abs(", 5000), "a" + strings.Repeat(" + a", 5000)} {
		_, err := expr.Parse(src)
		assert.ErrorContains(t, err, "more than 250")
	}
	_, err = expr.Parse(strings.Repeat("a", expr.MaxLength+1))
	assert.Error(t, err)
}

func TestRename(t *testing.T) {
	inGroup := func(g string) bool { return g == "rowers" }
	for src, want := range map[string]string{
		`born  <  2010-01-01 and age(born)>3`:   `birth  <  2010-01-01 and age(birth)>3`,
		`min(rowers.born) < today`:              `min(rowers.birth) < today`,
		`url.born = "born" or entry.born = "x"`: `url.born = "born" or entry.born = "x"`,
		`home.born = "x"`:                       `home.born = "x"`,
		`born.city = "x"`:                       `birth.city = "x"`,
		`newborn`:                               `newborn`,
		`born =`:                                `born =`,
	} {
		assert.Equal(t, want, expr.Rename(src, "born", "birth", inGroup))
	}
}
