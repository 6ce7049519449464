package ui

import (
	"bytes"
	"html/template"
	"regexp"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	"lazo/held"
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

// Bounds of an author's Markdown, so that no text takes long to be turned into a
// page: the bytes that are parsed at a time and of the whole, the blocks that begin
// on one line, its indentation, and the links of a part. What is beyond them is shown as it was written.
const (
	partOfMarkdown = 20_000
	mostMarkdown   = 200_000
	mostNested     = 20
	mostIndent     = 100
	mostLinks      = 500
)

// rendered remembers texts that were turned into HTML, within some megabytes: the
// same ones are shown with every page of a form.
var rendered = held.New(8<<20, func(src string, html template.HTML) int { return len(src) + len(html) })

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
	if len(src) > mostMarkdown {
		return asWritten(src)
	}
	var out strings.Builder
	for _, part := range parts(src) {
		var b bytes.Buffer
		if excessive(part) || markdown.Convert([]byte(part), &b) != nil {
			out.WriteString(string(asWritten(part)))
			continue
		}
		out.Write(policy.SanitizeBytes(b.Bytes()))
	}
	return template.HTML(out.String()) //nolint:gosec // sanitized or escaped
}

// asWritten shows a text with its line breaks and nothing else of its form.
func asWritten(text string) template.HTML {
	return template.HTML("<p>" + strings.ReplaceAll(template.HTMLEscapeString(text), "\n", "<br>\n") + "</p>\n") //nolint:gosec // escaped
}

// parts cuts a long text where a paragraph ends.
func parts(src string) (out []string) {
	for len(src) > partOfMarkdown {
		at := strings.LastIndex(src[:partOfMarkdown], "\n\n")
		if at <= 0 {
			break
		}
		out, src = append(out, src[:at]), src[at:]
	}
	return append(out, src)
}

// nesting are the marks that begin quotations and lists on one line.
var nesting = regexp.MustCompile(`^(?:[ \t]*(?:>|[-+*]|\d{1,9}[.)])(?:[ \t]|$|>)?)+`)

// excessive reports whether a part would take longer to parse than any that is
// written for people.
func excessive(part string) bool {
	if len(part) > partOfMarkdown || strings.Count(part, "](")+strings.Count(part, "[") > mostLinks {
		return true
	}
	for line := range strings.Lines(part) {
		if indent := len(line) - len(strings.TrimLeft(line, " \t")); indent > mostIndent || nested(line) > mostNested {
			return true
		}
	}
	return false
}

// nested counts the quotations and list entries that begin on a line, but for one
// that draws a rule.
func nested(line string) (n int) {
	if strings.Trim(line, "- \t\r\n") == "" || strings.Trim(line, "* \t\r\n") == "" {
		return 0
	}
	for _, r := range nesting.FindString(line) {
		if strings.ContainsRune(">-+*.)", r) {
			n++
		}
	}
	return n
}
