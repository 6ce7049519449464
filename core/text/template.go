package text

import (
	"fmt"
	"slices"
	"strings"

	"lazo/core/expr"
)

// Bounds of a text with answers.
const (
	MaxPieces = 500 // expressions and blocks in one text
	MaxNested = 8   // blocks inside each other
)

// Template is a text that may hold answers.
type Template struct{ pieces []piece }

// piece is a part of a text: words, an expression, or a block.
type piece struct {
	words string
	node  expr.Node // what is printed, or the condition of a block
	at    int       // of the expression in the text
	end   int
	last  int    // of a block: where it is over
	each  string // the repeating section of a block that is printed for each row
	block bool
	yes   []piece // what stands in the block
	no    []piece // and after {otherwise}
}

// Holds reports whether a text may hold answers, so that it has to be read.
func Holds(src string) bool { return strings.Contains(src, "{") }

// Parse reads a text. With blocks, a paragraph may be {when …}, {otherwise}, {each …} or
// {end}. The error, if any, is an *expr.Fault with its place in the text.
func Parse(src string, blocks bool) (*Template, error) {
	p := &parser{src: src, blocks: blocks}
	pieces, fault := p.sequence(0)
	if fault == nil && p.stop != "" {
		fault = p.fault(p.stopAt, len(src), "“{%s}” closes no block", p.stop)
	}
	if fault != nil {
		return nil, fault
	}
	return &Template{pieces}, nil
}

type parser struct {
	src    string
	at     int
	blocks bool
	count  int
	stop   string // the word that ended a sequence: otherwise or end
	stopAt int
}

func (p *parser) fault(at, end int, format string, args ...any) *expr.Fault {
	return &expr.Fault{Kind: "syntax", Pos: at, End: end, Text: fmt.Sprintf(format, args...)}
}

// sequence reads up to the end of the text or of the block it is in.
func (p *parser) sequence(depth int) ([]piece, *expr.Fault) {
	var out []piece
	var words strings.Builder
	flush := func() {
		if words.Len() > 0 {
			out = append(out, piece{words: words.String()})
			words.Reset()
		}
	}
	p.stop = ""
	for p.at < len(p.src) {
		rest := p.src[p.at:]
		open := strings.IndexByte(rest, '{')
		if open < 0 {
			words.WriteString(rest)
			p.at = len(p.src)
			break
		}
		words.WriteString(rest[:open])
		p.at += open
		if strings.HasPrefix(p.src[p.at:], "{{") {
			words.WriteByte('{')
			p.at += 2
			continue
		}
		at := p.at
		inner, fault := p.braces()
		if fault != nil {
			return nil, fault
		}
		if p.count++; p.count > MaxPieces {
			return nil, p.fault(at, p.at, "a text can hold at most %d answers", MaxPieces)
		}
		word, _, _ := strings.Cut(strings.TrimSpace(inner)+" ", " ")
		if p.blocks && p.alone(at) && (word == "when" || word == "each" || word == "otherwise" || word == "end") {
			trimmed := strings.TrimRight(words.String(), " \t")
			words.Reset()
			words.WriteString(trimmed)
			flush()
			p.skipLine()
			if word == "otherwise" || word == "end" {
				if strings.TrimSpace(inner) != word {
					return nil, p.fault(at, p.at, "after “%s” nothing was expected", word)
				}
				p.stop, p.stopAt = word, at
				return out, nil
			}
			block, fault := p.block(word, inner, at, depth+1)
			if fault != nil {
				return nil, fault
			}
			out = append(out, block)
			continue
		}
		flush()
		one, fault := p.expression(inner, at+1)
		if fault != nil {
			return nil, fault
		}
		out = append(out, one)
	}
	flush()
	return out, nil
}

// braces reads from an opening brace to the one that closes it, outside of quotation marks.
func (p *parser) braces() (inner string, fault *expr.Fault) {
	from := p.at + 1
	quoted := false
	for i := from; i < len(p.src); i++ {
		switch c := p.src[i]; {
		case c == '\\' && quoted && i+1 < len(p.src) && (p.src[i+1] == '"' || p.src[i+1] == '\\'):
			i++
		case c == '"':
			quoted = !quoted
		case c == '}' && !quoted:
			p.at = i + 1
			return p.src[from:i], nil
		}
	}
	return "", p.fault(p.at, p.at+1, "this brace is never closed; a brace that is meant as such is written {{")
}

// alone reports whether what was just read is a line of its own.
func (p *parser) alone(at int) bool {
	before := p.src[strings.LastIndexByte(p.src[:at], '\n')+1 : at]
	after, _, _ := strings.Cut(p.src[p.at:], "\n")
	return strings.TrimSpace(before) == "" && strings.TrimSpace(after) == ""
}

func (p *parser) skipLine() {
	if i := strings.IndexByte(p.src[p.at:], '\n'); i >= 0 {
		p.at += i + 1
	} else {
		p.at = len(p.src)
	}
}

func (p *parser) expression(inner string, at int) (piece, *expr.Fault) {
	n, err := expr.Parse(inner)
	if err != nil {
		fault := *err.(*expr.Fault) //nolint:errorlint // the documented type
		fault.Pos, fault.End = fault.Pos+at, fault.End+at
		return piece{}, &fault
	}
	return piece{node: n, at: at, end: at + len(inner)}, nil
}

// block reads what a block holds, up to its {end}.
func (p *parser) block(word, inner string, at, depth int) (piece, *expr.Fault) {
	if depth > MaxNested {
		return piece{}, p.fault(at, p.at, "blocks can be nested %d deep", MaxNested)
	}
	from := strings.Index(inner, word) + len(word)
	end := p.at
	out, fault := p.expression(inner[from:], at+1+from)
	if fault != nil {
		return piece{}, fault
	}
	out.block = true
	if word == "each" {
		name, ok := out.node.(*expr.Name)
		if !ok {
			return piece{}, p.fault(at, end, "after “each” the key of a repeating section was expected")
		}
		out.each = name.Name
	}
	if out.yes, fault = p.sequence(depth); fault != nil {
		return piece{}, fault
	}
	if p.stop == "otherwise" {
		if word == "each" {
			return piece{}, p.fault(p.stopAt, p.at, "“otherwise” belongs to “when”")
		}
		if out.no, fault = p.sequence(depth); fault != nil {
			return piece{}, fault
		}
	}
	if p.stop != "end" {
		return piece{}, p.fault(at, end, "this block is never closed; a line {end} is missing")
	}
	p.stop = ""
	out.last = p.at
	return out, nil
}

// Walk visits every expression of the text; rename and the like read it.
func (t *Template) Walk(visit func(n expr.Node)) {
	var each func(pieces []piece)
	each = func(pieces []piece) {
		for _, pc := range pieces {
			if pc.node != nil {
				visit(pc.node)
			}
			each(pc.yes)
			each(pc.no)
		}
	}
	each(t.pieces)
}

// Mentions lists the keys that a text names, each once; none of a text that can't be read.
// Repeats is as in [expr.Mentions].
func Mentions(src string, repeats func(key string) bool) []string {
	if !Holds(src) {
		return nil
	}
	t, err := Parse(src, true)
	if err != nil {
		return nil
	}
	var out []string
	seen := map[string]bool{}
	t.Walk(func(n expr.Node) {
		for _, key := range expr.Mentions(n, repeats) {
			if !seen[key] {
				seen[key] = true
				out = append(out, key)
			}
		}
	})
	return out
}

// Without returns src without the expressions that name a key, and without the lines of
// blocks that do.
func Without(src, key string, repeats func(key string) bool) string {
	t, err := Parse(src, true)
	if err != nil {
		return src
	}
	cut := map[int]int{} // from where to where
	var each func(pieces []piece)
	each = func(pieces []piece) {
		for _, pc := range pieces {
			if pc.node != nil && slices.Contains(expr.Mentions(pc.node, repeats), key) {
				from, to := strings.LastIndexByte(src[:pc.at], '{'), pc.end+1
				if pc.block {
					to = pc.last
				}
				cut[from] = to
				continue
			}
			each(pc.yes)
			each(pc.no)
		}
	}
	each(t.pieces)
	var b strings.Builder
	for i := 0; i < len(src); {
		if to, ok := cut[i]; ok {
			i = to
			continue
		}
		b.WriteByte(src[i])
		i++
	}
	return b.String()
}

// Rename returns src with the key from replaced by to in its expressions; inGroup is as in
// [expr.Rename]. A text that can't be read comes back unchanged.
func Rename(src, from, to string, inGroup func(group string) bool) string {
	if !Holds(src) {
		return src
	}
	t, err := Parse(src, true)
	if err != nil {
		return src
	}
	var b strings.Builder
	last := 0
	var each func(pieces []piece)
	each = func(pieces []piece) {
		for _, pc := range pieces {
			if pc.node != nil {
				b.WriteString(src[last:pc.at])
				b.WriteString(expr.Rename(src[pc.at:pc.end], from, to, inGroup))
				last = pc.end
			}
			each(pc.yes)
			each(pc.no)
		}
	}
	each(t.pieces)
	b.WriteString(src[last:])
	return b.String()
}
