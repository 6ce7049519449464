package text_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/core/text"
)

func TestLinksInLabels(t *testing.T) {
	for src, want := range map[string][]text.Part{
		"No link [at all] (here)": nil,
		"I accept the [terms](https://pedralta.example/terms).": {
			{Text: "I accept the "}, {Text: "terms", URL: "https://pedralta.example/terms"}, {Text: "."}},
		"[a](/p/1)[b](mailto:office@pedralta.example)": {{Text: "a", URL: "/p/1"},
			{Text: "b", URL: "mailto:office@pedralta.example"}},
		"[x](javascript:alert(1))":              nil,
		"[x](data:text/html,y)":                 nil,
		"[x](https://a.example/\" onclick=\"y)": nil,
		"[x](http://a b)":                       nil,
		"[](https://a.example)":                 nil,
	} {
		assert.Equal(t, want, text.Links(src, false), src)
	}
	assert.Equal(t, "I accept the terms, all", text.Bare("I accept the [terms](https://pedralta.example/terms), all"))
	assert.Equal(t, "Berth at …, {for sure}", text.Name("Berth at {pier}, {{for sure}"))
	// An answer that looks like a link is none.
	evil := "[free](https://evil.example)"
	label := "See [terms](/t), " + text.Escape(evil)
	assert.Equal(t, []text.Part{{Text: "See "}, {Text: "terms", URL: "/t"}, {Text: ", " + evil}}, text.Links(label, true))
	assert.Nil(t, text.Links(text.Escape(evil), true))
}
