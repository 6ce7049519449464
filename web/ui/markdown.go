package ui

import (
	"bytes"
	"html/template"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"
)

var (
	policy   = bluemonday.UGCPolicy()
	markdown = goldmark.New(goldmark.WithParserOptions(parser.WithASTTransformers(util.Prioritized(headings{}, 100))))
)

// headings lets an author's headings begin below the page's own, whatever level
// they were written with, so that the outline of the page has no gaps.
type headings struct{}

func (headings) Transform(doc *ast.Document, _ text.Reader, _ parser.Context) {
	last, written := 1, 0
	_ = ast.Walk(doc, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		if h, ok := n.(*ast.Heading); ok && entering {
			level := last
			switch {
			case written == 0 || h.Level > written:
				level = last + 1
			case h.Level < written:
				level = max(2, last-(written-h.Level))
			}
			written, h.Level = h.Level, min(level, 6)
			last = h.Level
		}
		return ast.WalkContinue, nil
	})
}

// Markdown turns an author's Markdown into safe HTML.
func Markdown(src string) template.HTML {
	var b bytes.Buffer
	if err := markdown.Convert([]byte(src), &b); err != nil {
		return template.HTML(template.HTMLEscapeString(src)) //nolint:gosec // escaped
	}
	return template.HTML(policy.SanitizeBytes(b.Bytes())) //nolint:gosec // sanitized
}
