package ui

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMarkdownThatNobodyWritesIsShownAsItIs(t *testing.T) {
	for _, text := range []string{
		strings.Repeat("> ", 100_000), strings.Repeat(">", 200_000), strings.Repeat("* - ", 5_000) + "x",
		strings.Repeat("1. ",
			5_000), strings.Repeat("[a](", 5_000),
		strings.Repeat("[", 5_000), strings.Repeat("x", 200_001), strings.Repeat("x ", 20_000),
		strings.Repeat(" ", 5_000) + "- x",
	} {
		html := string(Markdown(text))
		assert.NotContains(t, html, "<blockquote>")
		assert.NotContains(t, html, "<ol>")
		assert.NotContains(t, html, "<li>")
		assert.True(t, strings.HasPrefix(html, "<p>"), "%.40q", text)
	}
	html := string(Markdown("> > quoted\n\n1. one\n   - two\n\n---\n\n[a](/b) *c*"))
	for _, part := range []string{"<blockquote>\n<blockquote>", "<ol>", "<ul>", "<hr", `<a href="/b"`, "<em>c</em>"} {
		assert.Contains(t, html, part)
	}
	assert.NotContains(t, string(Markdown(strings.Repeat("> ", 50)+"<script>alert(1)</script>")), "<script")
}

func TestALongTextIsRenderedToItsEnd(t *testing.T) {
	html := string(Markdown(strings.Repeat("Oars are *numbered*.\n\n", 4_000) + "Ask at the **boathouse**."))
	assert.Equal(t, 4_000, strings.Count(html, "<em>numbered</em>"))
	assert.Contains(t, html, "<strong>boathouse</strong>")
}
