package form_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"lazo/core/form"
)

func TestContrastIsThatOfTheStandard(t *testing.T) {
	assert.InDelta(t, 21, form.Contrast("#000000", "#ffffff"), 0.001)
	assert.InDelta(t, 1, form.Contrast("#123456", "#123456"), 0.001)
	assert.InDelta(t, 4.54, form.Contrast("#767676", "#ffffff"), 0.01) // the lightest grey that passes
}

func TestTheNearestColourPasses(t *testing.T) {
	assert.Equal(t, "#0e5a4a", form.Passing("#0e5a4a"), "what passes stays")
	rapid.Check(t, func(t *rapid.T) {
		colour := fmt.Sprintf("#%06x", rapid.IntRange(0, 0xffffff).Draw(t, "colour"))
		assert.GreaterOrEqual(t, form.Contrast(form.Passing(colour), "#ffffff"), form.LeastContrast)
		assert.GreaterOrEqual(t, form.Contrast(form.PassingPaper(colour), "#15231f"), form.LeastContrast)
		th := form.Theme{Accent: form.Passing(colour), Paper: form.PassingPaper(colour)}
		assert.Empty(t, th.Faults())
	})
	th := form.Theme{Accent: "#ffcc00", Font: "serif", Width: "wide"}
	assert.Len(t, th.Faults(), 1)
	assert.Contains(t, th.Faults()[0].Text, "the nearest that can is #")
	assert.True(t, strings.Contains(th.CSS(), "Georgia") && strings.Contains(th.CSS(), "60rem"))
}

func TestColumnsComeFromTheSectionOrTheTheme(t *testing.T) {
	own, none := &form.Section{Columns: 1}, &form.Section{}
	f := &form.Form{}
	assert.Equal(t, 1, f.ColumnsOf(none))
	f.Theme = &form.Theme{Columns: 2}
	assert.Equal(t, 2, f.ColumnsOf(none))
	assert.Equal(t, 1, f.ColumnsOf(own))
	_, remarks := form.Read([]byte(`{"lazo": 1, "key": "t", "title": "T", "timezone": "UTC", "pages": [], "theme": {"columns": 3}}`))
	assert.Len(t, remarks, 1)
}

func TestTheGuard(t *testing.T) {
	g := form.Guard{Question: "Which lake?", Answers: []string{"Pedralta", "Straße"}}
	for given, right := range map[string]bool{" pedralta ": true, "STRASSE": true, "ocean": false, "": false} {
		assert.Equal(t, right, g.Right(given), given)
	}
}

// In the dark any accent is made one that can be read on a dark sheet; one that can is left.
func TestAccentsInTheDark(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		colour := fmt.Sprintf("#%06x", rapid.IntRange(0, 0xffffff).Draw(t, "colour"))
		lit := form.Lit(colour)
		assert.GreaterOrEqual(t, form.Contrast(lit, "#18211e"), form.LeastContrast, colour)
		assert.Equal(t, lit, form.Lit(lit))
	})
	assert.Contains(t, (&form.Theme{Accent: "#7a1f5c"}).CSS(), "prefers-color-scheme:dark")
}
