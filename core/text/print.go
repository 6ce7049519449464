package text

import (
	"slices"
	"strings"
	"unicode"

	"lazo/core/expr"
)

// Compiled is a text that was checked against the names of a form. It is immutable.
type Compiled struct {
	parts []part
	Codes []*expr.Code // of all its expressions
}

// Clocked reports whether what is printed depends on the clock.
func (c *Compiled) Clocked() bool {
	return slices.ContainsFunc(c.Codes, func(code *expr.Code) bool { return code.Clock })
}

// Until is the first moment at which what is printed may differ; see [expr.Code.Until].
func (c *Compiled) Until(f *expr.Evaluation) int64 {
	at := expr.Never
	for _, code := range c.Codes {
		at = min(at, code.Until(f))
	}
	return at
}

// Withheld stands where an answer would that is not to be shown.
const Withheld = "•••"

// Withhold is the text with [Withheld] in the place of whatever comes of an expression that
// hides what it reads. Its conditions are decided as before.
func (c *Compiled) Withhold(hides func(*expr.Code) bool) *Compiled {
	return &Compiled{parts: withheld(c.parts, hides), Codes: c.Codes}
}

func withheld(parts []part, hides func(*expr.Code) bool) []part {
	out := slices.Clone(parts)
	for i, pt := range out {
		if pt.code != nil && !pt.block && hides(pt.code) {
			out[i] = part{words: Withheld}
			continue
		}
		out[i].yes, out[i].no = withheld(pt.yes, hides), withheld(pt.no, hides)
	}
	return out
}

type part struct {
	words   string
	code    *expr.Code
	block   bool
	group   int // of {each}: its place among the frame's groups, -1 for {when}
	yes, no []part
}

// Compile checks a text. Faults have their places in the text.
func (t *Template) Compile(syms *expr.Symbols) (*Compiled, []*expr.Fault) {
	c := &Compiled{}
	parts, faults := c.compile(t.pieces, syms)
	if len(faults) > 0 {
		return nil, faults
	}
	c.parts = parts
	return c, nil
}

func (c *Compiled) compile(pieces []piece, syms *expr.Symbols) (out []part, faults []*expr.Fault) {
	inside := func(pieces []piece, syms *expr.Symbols) []part {
		parts, more := c.compile(pieces, syms)
		faults = append(faults, more...)
		return parts
	}
	for _, pc := range pieces {
		switch {
		case pc.node == nil:
			out = append(out, part{words: pc.words})
		case pc.each != "":
			g := syms.Groups[pc.each]
			if g == nil {
				faults = append(faults, &expr.Fault{
					Kind: "unknown-name", Pos: pc.at, End: pc.end, Text: "there is no repeating section “" + pc.each + "”",
				})
				continue
			}
			out = append(out, part{block: true, group: g.Index, yes: inside(pc.yes, syms.InRow(g))})
		default:
			code, more := compileOne(pc, syms)
			faults = append(faults, more...)
			if code == nil {
				continue
			}
			c.Codes = append(c.Codes, code)
			out = append(out, part{code: code, block: pc.block, group: -1, yes: inside(pc.yes, syms), no: inside(pc.no, syms)})
		}
	}
	return out, faults
}

func compileOne(pc piece, syms *expr.Symbols) (*expr.Code, []*expr.Fault) {
	compile := expr.Compile
	if pc.block {
		compile = expr.CompileCondition
	}
	code, faults := compile(pc.node, syms)
	for _, f := range faults {
		f.Pos, f.End = f.Pos+pc.at, f.End+pc.at
	}
	if code != nil && code.Type.Kind == expr.Duration {
		return nil, []*expr.Fault{{Kind: "wrong-type", Pos: pc.at, End: pc.end, Text: "a length of time can’t be printed"}}
	}
	return code, faults
}

// Plain prints the text for a frame; a blank is nothing.
func (c *Compiled) Plain(f *expr.Evaluation) string {
	var b strings.Builder
	c.print(&b, c.parts, f, func(s string) string { return s })
	return b.String()
}

// Markdown prints a text that is Markdown; what is inserted stands in it as plain text.
func (c *Compiled) Markdown(f *expr.Evaluation) string {
	var b strings.Builder
	c.print(&b, c.parts, f, Escape)
	return b.String()
}

// unmarked is what is inserted without characters for private use: the application marks with
// them where its own private addresses go, and no answer may.
func unmarked(s string) string {
	return strings.Map(func(r rune) rune {
		if unicode.Is(unicode.Co, r) {
			return -1
		}
		return r
	}, s)
}

// maxPrinted bounds what one text prints, in bytes.
const maxPrinted = 1 << 20

func (c *Compiled) print(b *strings.Builder, parts []part, f *expr.Evaluation, escape func(string) string) {
	for _, pt := range parts {
		switch {
		case b.Len() > maxPrinted:
			return
		case pt.block && pt.group >= 0:
			g := &f.Groups[pt.group]
			before := g.Row
			for g.Row = 0; g.Row < g.Count; g.Row++ {
				c.print(b, pt.yes, f, escape)
			}
			g.Row = before
		case pt.block:
			inside := pt.no
			if pt.code.Truth(f) == expr.Met {
				inside = pt.yes
			}
			c.print(b, inside, f, escape)
		case pt.code != nil:
			v := pt.code.Value(f)
			b.WriteString(escape(unmarked(pt.code.Type.Speak(&v, f))))
		default:
			b.WriteString(pt.words)
		}
	}
}

// Escape returns s so that Markdown prints it as it is: no sign of it means anything, and
// its lines stay lines.
func Escape(s string) string {
	var b strings.Builder
	lines := strings.Split(strings.ReplaceAll(s, "\r\n", "\n"), "\n")
	for i, line := range lines {
		if i > 0 {
			b.WriteString("\\\n")
		}
		line = strings.Trim(line, " \t\r")
		if line == "" && i > 0 && i < len(lines)-1 {
			b.WriteString("\u00a0") // an empty line would end the paragraph
		}
		for _, r := range line {
			if r < 0x80 && strings.ContainsRune("!\"#$%&'()*+,-./:;<=>?@[\\]^_`{|}~", r) {
				b.WriteByte('\\')
			}
			if r < 0x20 && r != '\t' {
				r = ' '
			}
			b.WriteRune(r)
		}
	}
	return b.String()
}
