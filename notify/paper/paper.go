// Package paper makes a PDF of a text: headings, paragraphs, lists, quotations and links,
// in the Go fonts, which hold the letters of the Latin, Greek and Cyrillic scripts. It
// shapes no script in which letters join or stand from right to left; what it can't show
// it says, and a browser prints the page instead.
package paper

import (
	"bytes"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"
	"unicode"

	"codeberg.org/go-pdf/fpdf"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/gobolditalic"
	"golang.org/x/image/font/gofont/goitalic"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"

	"lazo/markdown"
)

// Document is a text to be put on paper.
type Document struct {
	Title string
	Body  string // Markdown
}

// UnshownError is for a text with letters that can't be put on paper.
type UnshownError struct {
	Scripts []string // such as Arabic
}

func (e *UnshownError) Error() string {
	return "it holds letters that a PDF made here can’t show: " + strings.Join(e.Scripts, ", ")
}

// Measures, in millimetres and points.
const (
	margin   = 22.0
	size     = 11.0
	line     = 5.4 // of a line of text, in millimetres
	indent   = 6.0
	mostPage = 5000
)

// ErrTooLong is for more than is put on paper at a time.
var ErrTooLong = fmt.Errorf("it is longer than %d pages", mostPage)

// PDF puts documents on paper (a4, a5 or letter), each from a page of its own. The error is an
// [UnshownError] if a text can't be shown.
func PDF(paper string, made time.Time, documents ...Document) ([]byte, error) {
	if scripts := unshown(documents); len(scripts) > 0 {
		return nil, &UnshownError{scripts}
	}
	f := fpdf.New("P", "mm", map[string]string{"a5": "A5", "letter": "Letter"}[paper], "")
	for style, font := range map[string][]byte{"": goregular.TTF, "B": gobold.TTF, "I": goitalic.TTF,
		"BI": gobolditalic.TTF} {
		f.AddUTF8FontFromBytes("go", style, font)
	}
	f.SetCreationDate(made)
	f.SetModificationDate(made)
	f.SetCatalogSort(true)
	f.SetMargins(margin, margin, margin)
	f.SetAutoPageBreak(true, margin)
	if len(documents) > 0 {
		f.SetTitle(documents[0].Title, true)
	}
	f.SetFooterFunc(func() {
		f.SetY(-margin + 6)
		f.SetFont("go", "", 8)
		f.SetTextColor(90, 105, 100)
		f.CellFormat(0, 5, strconv.Itoa(f.PageNo()), "", 0, "R", false, 0, "")
	})
	for _, d := range documents {
		f.AddPage()
		if f.PageNo() > mostPage {
			return nil, ErrTooLong
		}
		w := &writer{f: f}
		w.heading(1, func() { w.write(d.Title) })
		for _, part := range markdown.Parts(d.Body) {
			w.src = []byte(part.Text)
			if part.AsWritten {
				w.write(part.Text)
				w.f.Ln(line)
				continue
			}
			w.blocks(goldmark.DefaultParser().Parse(text.NewReader(w.src)))
		}
	}
	var out bytes.Buffer
	err := f.Output(&out)
	return out.Bytes(), err
}

// covered is the font by which it is known what can be shown.
var covered = sync.OnceValue(func() *sfnt.Font {
	font, err := sfnt.Parse(goregular.TTF)
	if err != nil {
		panic(err) // it is part of the program
	}
	return font
})

// unshown are the scripts of letters that the font does not have.
func unshown(documents []Document) (scripts []string) {
	var buf sfnt.Buffer
	known := map[rune]bool{}
	for _, d := range documents {
		for _, r := range d.Title + d.Body {
			if known[r] || r < 0x20 {
				continue
			}
			known[r] = true
			if at, err := covered().GlyphIndex(&buf, r); err == nil && at != 0 {
				continue
			}
			if name := scriptOf(r); !slices.Contains(scripts, name) {
				scripts = append(scripts, name)
			}
		}
	}
	slices.Sort(scripts)
	return scripts
}

func scriptOf(r rune) string {
	for name, table := range unicode.Scripts {
		if name != "Common" && name != "Inherited" && unicode.Is(table, r) {
			return name
		}
	}
	return fmt.Sprintf("the sign %c", r)
}

// writer puts one document on paper.
type writer struct {
	f      *fpdf.Fpdf
	src    []byte
	bold   bool
	italic bool
	size   float64
}

// font sets the font as it is at hand.
func (w *writer) font() {
	style := ""
	if w.bold {
		style = "B"
	}
	if w.italic {
		style += "I"
	}
	if w.size == 0 {
		w.size = size
	}
	w.f.SetFont("go", style, w.size)
	w.f.SetTextColor(21, 35, 31)
}

func (w *writer) write(s string) {
	w.font()
	w.f.Write(line*w.size/size, s)
}

func (w *writer) heading(level int, words func()) {
	w.bold, w.size = true, []float64{18, 14, 12.5}[min(level, 3)-1]
	words()
	w.bold, w.size = false, size
	w.f.Ln(line * 1.9)
}

// indent writes with a wider left margin.
func (w *writer) indent(by float64, do func()) {
	left, _, _, _ := w.f.GetMargins()
	w.f.SetLeftMargin(left + by)
	w.f.SetX(left + by)
	do()
	w.f.SetLeftMargin(left)
	w.f.SetX(left)
}

func (w *writer) blocks(parent ast.Node) {
	number := 1
	if l, ok := parent.(*ast.List); ok && l.IsOrdered() {
		number = max(l.Start, 1)
	}
	for n := parent.FirstChild(); n != nil; n = n.NextSibling() {
		switch n := n.(type) {
		case *ast.Heading:
			w.heading(n.Level+1, func() { w.words(n) })
		case *ast.List:
			w.blocks(n)
			w.f.Ln(line * .5)
		case *ast.ListItem:
			mark := "•"
			if parent.(*ast.List).IsOrdered() { //nolint:forcetypeassert // items are of lists
				mark = strconv.Itoa(number) + "."
				number++
			}
			w.font()
			w.f.CellFormat(indent, line, mark, "", 0, "L", false, 0, "")
			w.indent(indent, func() { w.blocks(n) })
		case *ast.Blockquote:
			w.italic = true
			w.indent(indent, func() { w.blocks(n) })
			w.italic = false
		case *ast.ThematicBreak:
			w.f.Ln(line * .4)
			left, _, right, _ := w.f.GetMargins()
			width, _ := w.f.GetPageSize()
			w.f.SetDrawColor(200, 210, 207)
			w.f.Line(left, w.f.GetY(), width-right, w.f.GetY())
			w.f.Ln(line)
		case *ast.CodeBlock, *ast.FencedCodeBlock, *ast.HTMLBlock:
			for i := range n.Lines().Len() {
				at := n.Lines().At(i)
				w.write(string(at.Value(w.src)))
			}
			w.f.Ln(line * .5)
		default:
			w.words(n)
			w.f.Ln(line)
			if _, tight := n.(*ast.TextBlock); !tight {
				w.f.Ln(line * .5)
			}
		}
	}
}

// words writes the words of a paragraph or a heading.
func (w *writer) words(n ast.Node) {
	for c := n.FirstChild(); c != nil; c = c.NextSibling() {
		switch c := c.(type) {
		case *ast.Text:
			plain := util.ResolveNumericReferences(util.UnescapePunctuations(c.Segment.Value(w.src)))
			w.write(string(util.ResolveEntityNames(plain)))
			switch {
			case c.HardLineBreak():
				w.f.Ln(line * w.size / size)
			case c.SoftLineBreak():
				w.write(" ")
			}
		case *ast.String:
			w.write(string(c.Value))
		case *ast.Emphasis:
			bold, italic := w.bold, w.italic
			w.bold, w.italic = w.bold || c.Level == 2, w.italic != (c.Level == 1)
			w.words(c)
			w.bold, w.italic = bold, italic
		case *ast.AutoLink:
			w.link(string(c.URL(w.src)), string(c.URL(w.src)))
		case *ast.Link:
			w.words(c)
			w.write(" (")
			w.link(string(c.Destination), string(c.Destination))
			w.write(")")
		default:
			w.words(c)
		}
	}
}

func (w *writer) link(words, to string) {
	w.font()
	w.f.SetTextColor(11, 90, 70)
	w.f.WriteLinkString(line*w.size/size, words, to)
}
