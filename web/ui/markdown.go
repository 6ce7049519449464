package ui

import (
	"bytes"
	"html/template"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"lazo/cache"
	bounds "lazo/markdown"
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

// rendered remembers texts that were turned into HTML, within some megabytes: the
// same ones are shown with every page of a form.
var rendered = cache.New(8<<20, func(src string, html template.HTML) int { return len(src) + len(html) })

// Markdown turns an author's Markdown into safe HTML.
func Markdown(src string) template.HTML {
	if html, ok := rendered.Get(src); ok {
		return html
	}
	html := render(src)
	rendered.Add(strings.Clone(src), html)
	return html
}

func render(src string) template.HTML {
	var out strings.Builder
	for _, part := range bounds.Parts(src) {
		var b bytes.Buffer
		if part.AsWritten || markdown.Convert([]byte(part.Text), &b) != nil {
			out.WriteString(string(asWritten(part.Text)))
			continue
		}
		out.Write(policy.SanitizeBytes(b.Bytes()))
	}
	return template.HTML(out.String()) //nolint:gosec // sanitized or escaped
}

// asWritten shows a text with its line breaks and nothing else of its form.
func asWritten(text string) template.HTML {
	escaped := strings.ReplaceAll(template.HTMLEscapeString(text), "\n", "<br>\n")
	return template.HTML("<p>" + escaped + "</p>\n") //nolint:gosec // escaped
}
