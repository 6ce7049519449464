package markdown_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"lazo/markdown"
)

// Texts that nobody writes, each of which takes a parser seconds or more.
var attacks = []string{
	strings.Repeat("> ", 100_000), strings.Repeat(">", 200_000), strings.Repeat("* - ", 5_000) + "x",
	strings.Repeat("1. ", 5_000),
	strings.Repeat("[a](", 5_000), strings.Repeat("[", 5_000), strings.Repeat("x", 200_001), strings.Repeat("x ", 20_000),
	strings.Repeat(" ", 5_000) + "- x",
}

func TestWhatNobodyWritesIsNotParsed(t *testing.T) {
	for _, text := range attacks {
		all := ""
		for _, part := range markdown.Parts(text) {
			assert.True(t, part.AsWritten, "%.40q", text)
			all += part.Text
		}
		assert.Equal(t, text, all, "nothing of it is lost")
	}
	for _, text := range []string{"", "> > quoted\n\n1. one\n   - two\n\n---\n\n[a](/b) *c*",
		"- - - - - - - - - - - - - - - - - - - - - - - -"} {
		assert.Equal(t, []markdown.Part{{Text: text}}, markdown.Parts(text))
	}
	long := strings.Repeat("Oars are *numbered*.\n\n", 4_000)
	parts := markdown.Parts(long)
	assert.Greater(t, len(parts), 3)
	for _, part := range parts {
		assert.False(t, part.AsWritten)
	}
}
