package notify

import (
	"strconv"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"

	bounds "lazo/markdown"
)

// Plain is Markdown as a text that is read without it: paragraphs, lists and quotations as
// they are written by hand, links as their words with the address behind them.
func Plain(markdown string) string {
	var out strings.Builder
	for _, part := range bounds.Parts(markdown) {
		if part.AsWritten {
			out.WriteString(part.Text + "\n\n")
			continue
		}
		p := plain{src: []byte(part.Text)}
		p.blocks(goldmark.DefaultParser().Parse(text.NewReader(p.src)), "")
		out.WriteString(p.out.String())
	}
	return strings.TrimSpace(out.String()) + "\n"
}

// plain writes the text; each line of a block begins with its indent.
type plain struct {
	src []byte
	out strings.Builder
}

func (p *plain) blocks(parent ast.Node, indent string) {
	number := 1
	if l, ok := parent.(*ast.List); ok && l.IsOrdered() {
		number = max(l.Start, 1)
	}
	for n := parent.FirstChild(); n != nil; n = n.NextSibling() {
		switch n := n.(type) {
		case *ast.List:
			p.blocks(n, indent)
			p.out.WriteString("\n")
		case *ast.ListItem:
			mark := "- "
			if parent.(*ast.List).IsOrdered() { //nolint:forcetypeassert // items are of lists
				mark = strconv.Itoa(number) + ". "
				number++
			}
			inner := plain{src: p.src}
			inner.blocks(n, "")
			pad := strings.Repeat(" ", len(mark))
			lines := strings.Split(strings.TrimRight(inner.out.String(), "\n"), "\n")
			p.out.WriteString(indent + mark + strings.Join(lines, "\n"+indent+pad) + "\n")
		case *ast.Blockquote:
			inner := plain{src: p.src}
			inner.blocks(n, "")
			for line := range strings.SplitSeq(strings.TrimRight(inner.out.String(), "\n"), "\n") {
				p.out.WriteString(indent + strings.TrimRight("> "+line, " ") + "\n")
			}
			p.out.WriteString("\n")
		case *ast.ThematicBreak:
			p.out.WriteString(indent + "---\n\n")
		case *ast.CodeBlock, *ast.FencedCodeBlock, *ast.HTMLBlock:
			for i := range n.Lines().Len() {
				line := n.Lines().At(i)
				p.out.WriteString(indent + string(line.Value(p.src)))
			}
			p.out.WriteString("\n")
		default:
			p.out.WriteString(indent + strings.ReplaceAll(p.words(n), "\n", "\n"+indent) + "\n")
			if _, tight := n.(*ast.TextBlock); !tight {
				p.out.WriteString("\n")
			}
		}
	}
}

// words are the words of a paragraph or a heading.
func (p *plain) words(n ast.Node) string {
	var b strings.Builder
	for c := n.FirstChild(); c != nil; c = c.NextSibling() {
		switch c := c.(type) {
		case *ast.Text:
			b.Write(util.ResolveEntityNames(util.ResolveNumericReferences(util.UnescapePunctuations(c.Segment.Value(p.src)))))
			if c.SoftLineBreak() || c.HardLineBreak() {
				b.WriteString("\n")
			}
		case *ast.String:
			b.Write(c.Value)
		case *ast.AutoLink:
			b.Write(c.URL(p.src))
		case *ast.Link:
			words, to := p.words(c), string(c.Destination)
			b.WriteString(words)
			if words != to {
				b.WriteString(" (" + to + ")")
			}
		case *ast.RawHTML:
			for i := range c.Segments.Len() {
				s := c.Segments.At(i)
				b.Write(s.Value(p.src))
			}
		default:
			b.WriteString(p.words(c))
		}
	}
	return b.String()
}
