package main

import (
	"regexp"
	"strings"
	"unicode/utf8"
)

// writer writes nodes within the width.
type writer struct {
	out    strings.Builder
	indent int
	column int
}

// unindented are elements whose content begins where they do.
var unindented = set("html head body")

func (w *writer) write(s string) {
	w.out.WriteString(s)
	if at := strings.LastIndexByte(s, '\n'); at >= 0 {
		w.column = utf8.RuneCountInString(s[at+1:])
		return
	}
	w.column += utf8.RuneCountInString(s)
}

func (w *writer) line() {
	if w.column > 0 || strings.HasSuffix(w.out.String(), "}}\n\n") {
		w.out.WriteByte('\n')
	}
	w.column = 0
}

func (w *writer) begin() {
	if w.column == 0 {
		w.write(strings.Repeat("  ", w.indent))
	}
}

// sequence writes nodes; broken tells that each may begin a line.
func (w *writer) sequence(nodes []*node, broken bool) {
	for i, n := range nodes {
		if i > 0 {
			w.divide(nodes[i-1], n, broken)
		}
		w.node(n)
	}
}

// divide writes what stands between two nodes.
func (w *writer) divide(a, b *node, broken bool) {
	if a.kind == begin && strings.Contains(a.text, "define") || b.kind == begin && strings.Contains(b.text, "define") &&
		a.kind != control {
		w.out.WriteByte('\n')
		w.column = 0
		w.out.WriteByte('\n')
		return
	}
	w.gap(joint{a.edge(), b.edge(), b.gap, false}, broken, w.flat(b))
}

// joint is a place between two pieces.
type joint struct {
	before, after edge
	gap
	own bool // it is between a block, or an action, and what is in it
}

// edge is what a piece is to the blanks beside it.
type edge int

const (
	word   edge = iota // it is part of a text
	inline             // an element; blanks beside it count
	block              // blanks beside it do not
	silent             // line ends beside it are taken out
)

// breakable reports whether a line end means the same as what stands there.
func (j joint) breakable() bool {
	switch {
	case j.gap == newline:
		return true
	case j.gap == blank:
		return j.before != silent && j.after != silent || j.before == block || j.after == block
	}
	return j.before >= block || j.after >= block
}

// keeps reports whether a line end that stands here is meant.
func (j joint) keeps() bool { return j.gap == newline && (j.before != word || j.after != word) }

// gap writes a joint: a line end where one stands or each piece begins a line, or where
// the next piece would not fit.
func (w *writer) gap(j joint, broken bool, next int) {
	elements := j.before != word && j.after != word || j.own
	switch {
	case j.breakable() && (j.keeps() || broken && elements || w.column+next+1 > width):
		w.line()
	case j.gap != none:
		w.write(" ")
	}
}

func (n *node) edge() edge {
	switch {
	case n.kind == text || n.kind == action:
		return word
	case n.kind == begin || n.kind == control && !strings.HasPrefix(n.text, "{{$"):
		return silent
	case blocks[n.name] || n.kind == control:
		return block
	}
	return inline
}

// flat is how much room a node takes on one line; width and more if it can't be on one.
func (w *writer) flat(n *node) int {
	size := utf8.RuneCountInString(n.text)
	if strings.Contains(n.text, "\n") && n.kind != raw {
		size = utf8.RuneCountInString(spaces.ReplaceAllString(n.text, " "))
	}
	if n.parts == nil {
		return size
	}
	if n.manyLines() {
		return width + 1
	}
	for _, p := range n.parts {
		size += utf8.RuneCountInString(p.head.text)
		for _, c := range p.nodes {
			if size += w.flat(c) + 1; size > width {
				return size
			}
		}
	}
	return size + utf8.RuneCountInString(n.close.text)
}

// manyLines reports whether a node is written on several lines, however short it is: it
// has an element that is a block, or more than one thing that can begin a line.
func (n *node) manyLines() bool {
	if n.kind == begin && strings.Contains(n.text, "define") {
		return true
	}
	things := 0
	inner := n.inner()
	for k, p := range n.parts {
		last := inner
		if k > 0 && (joint{inner, silent, p.head.gap, true}).keeps() {
			return true
		}
		for _, c := range p.nodes {
			if (joint{last, c.edge(), c.gap, false}).keeps() {
				return true
			}
			last = c.edge()
		}
		for i, c := range p.nodes {
			if c.parts != nil && c.manyLines() {
				return true
			}
			if c.kind == open || c.kind == void || c.kind == begin || c.kind == control {
				if n.name != "" && n.kind == open && blocks[c.name] && c.kind != begin {
					return true
				}
				if i > 0 && (joint{p.nodes[i-1].edge(), c.edge(), c.gap, false}).breakable() && p.nodes[i-1].kind != text &&
					p.nodes[i-1].kind != action {
					things++
				}
			}
		}
	}
	return things > 0 || (joint{inner, inner, n.close.gap, false}).keeps()
}

func (w *writer) node(n *node) {
	w.begin()
	if n.parts == nil {
		w.token(n.token, 0)
		return
	}
	fits := w.column+w.flat(n) <= width
	w.token(n.token, w.glued(n))
	deeper := !unindented[n.name] && !(n.kind == begin && strings.Contains(n.text, "define"))
	edgeIn := n.inner()
	for i, p := range n.parts {
		if i > 0 {
			last := n.parts[i-1].nodes
			w.gap(joint{trailingOf(last, edgeIn), silent, p.head.gap, true}, !fits, len(p.head.text))
			w.begin()
			w.token(p.head, 0)
		}
		if deeper {
			w.indent++
		}
		if len(p.nodes) > 0 {
			w.gap(joint{edgeIn, p.nodes[0].edge(), p.nodes[0].gap, edgeIn >= block}, !fits, w.flat(p.nodes[0]))
			w.sequence(p.nodes, !fits)
		}
		if deeper {
			w.indent--
		}
	}
	last := n.parts[len(n.parts)-1].nodes
	g := n.close.gap
	if len(last) == 0 {
		w.gap(joint{edgeIn, edgeIn, none, false}, false, 0)
	} else {
		w.gap(joint{trailingOf(last, edgeIn), edgeIn, g, edgeIn >= block}, !fits, len(n.close.text))
	}
	w.begin()
	w.token(n.close, 0)
}

// glued is how much must follow a tag on the same line, because no line can end before;
// none if that is too much to be helped.
func (w *writer) glued(n *node) int {
	size, last := 0, n.inner()
	for _, c := range n.parts[0].nodes {
		if (joint{last, c.edge(), c.gap, false}).breakable() {
			return size
		}
		if size += w.flat(c); size > width/2 {
			return 0
		}
		last = c.edge()
	}
	if len(n.parts) > 1 || (joint{last, n.inner(), n.close.gap, false}).breakable() {
		return size
	}
	return size + utf8.RuneCountInString(n.close.text)
}

func trailingOf(nodes []*node, otherwise edge) edge {
	if len(nodes) == 0 {
		return otherwise
	}
	return nodes[len(nodes)-1].edge()
}

// inner is what the edges of a node's content are.
func (n *node) inner() edge {
	switch {
	case n.kind == begin:
		return silent
	case blocks[n.name]:
		return block
	}
	return inline
}

var (
	spaces = regexp.MustCompile(`\s*\n\s*`)
	// beside are line ends before what only says what comes next: they are taken out.
	// twice are blanks before what brings its own.
	twice  = regexp.MustCompile(`\s+(\{\{ ?(?:if|range|with)[^}]*\}\} )`)
	beside = regexp.MustCompile(`\s*\n\s*(\{\{-? ?(?:if|else|end|range|with|template))`)
)

// token writes a tag or an action, on several lines if it is too long for one on which
// so much must follow.
func (w *writer) token(t token, follows int) {
	width := width - follows
	one := t.text
	if t.kind != raw {
		if t.kind == open || t.kind == void {
			one = twice.ReplaceAllString(beside.ReplaceAllString(one, "$1"), "$1")
		}
		one = spaces.ReplaceAllString(one, " ")
		one = strings.ReplaceAll(strings.ReplaceAll(one, " >", ">"), " {{-", "{{-")
	} else if n, err := tagEnd(one); err == nil && keeping[t.name] {
		first, _, _ := strings.Cut(one[n:], "\n")
		room := width - utf8.RuneCountInString(first)
		if room < width/2 { // it can't be helped by breaking the tag
			room = width
		}
		w.pieces(one[:n], room)
		w.write(one[n:])
		return
	}
	if t.kind == raw || strings.HasPrefix(one, "{{/*") || w.column+utf8.RuneCountInString(one) <= width {
		if strings.HasPrefix(one, "{{/*") {
			one = t.text
		}
		w.write(one)
		return
	}
	w.pieces(one, width)
}

// pieces writes a tag or an action on several lines, the last of which leaves room for
// what must follow.
func (w *writer) pieces(one string, width int) {
	if w.column+utf8.RuneCountInString(one) <= width {
		w.write(one)
		return
	}
	w.indent++
	for i, piece := range pieces(one) {
		if i > 0 && w.column > 2*w.indent && w.column+utf8.RuneCountInString(strings.TrimRight(piece, " ")) > width {
			trimmed := strings.TrimRight(w.out.String(), " ")
			w.out.Reset()
			w.out.WriteString(trimmed)
			w.line()
			w.begin()
			piece = strings.TrimLeft(piece, " ")
		}
		w.write(piece)
	}
	w.indent--
}

// pieces cuts a tag or an action where a line can end in it: at blanks outside of
// quotes, actions and parentheses and between classes, but not before an action, beside which line ends are
// taken out; and before an action that brings its own blank.
func pieces(s string) []string {
	var out []string
	depth, quoted, classes, from := 0, false, false, 0
	inAction := strings.HasPrefix(s, "{{")
	for i := 0; i < len(s); i++ {
		switch {
		case !inAction && strings.HasPrefix(s[i:], "{{"):
			n, err := actionEnd(s[i:])
			if err != nil {
				return []string{s}
			}
			word := actionHead.FindStringSubmatch(s[i:])[1]
			if kindOf(word) == begin {
				if depth == 0 && !quoted && i > from && s[i-1] != ' ' && strings.HasPrefix(s[i+n:], " ") {
					out, from = append(out, s[from:i]), i
				}
				depth++
			} else if depth == 0 && !quoted && i > from && strings.HasPrefix(s[i:], "{{-") {
				out, from = append(out, s[from:i]), i
			}
			if kindOf(word) == end {
				depth--
			}
			i += n - 1
		case s[i] == '"' && (i == 0 || s[i-1] != '\\'):
			quoted = !quoted
			classes = quoted && !inAction && strings.HasSuffix(s[:i], " class=")
		case s[i] == ' ' && classes && depth == 0 && s[i-1] != '}' && s[i+1] != '{':
			out, from = append(out, s[from:i+1]), i+1
		case inAction && !quoted && s[i] == '(':
			depth++
		case inAction && !quoted && s[i] == ')':
			depth--
		case s[i] == ' ' && !quoted && (depth == 0 || inAction && depth == 1) &&
			!(!inAction && strings.HasPrefix(s[i+1:], "{{")) && i > 3:
			out, from = append(out, s[from:i+1]), i+1
		}
	}
	return append(out, s[from:])
}
