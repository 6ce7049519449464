package expr

import (
	"regexp"
	"slices"
	"strings"
)

// Bounds of an expression; beyond them Parse refuses it.
const (
	MaxLength = 1 << 16 // bytes
	MaxDepth  = 250     // nesting
)

// Parse reads an expression. The error, if any, is a *Fault of kind syntax, or
// unknown-name for a function that there is none of.
func Parse(src string) (Node, error) {
	if len(src) > MaxLength {
		return nil, syntax(0, 0, "this is longer than %d characters; split it over calculations", MaxLength)
	}
	p := &parser{lex: lexer{src: src}}
	n, fault := p.whole()
	if fault != nil {
		return nil, fault
	}
	return n, nil
}

// parser is a recursive descent over one token of look-ahead. It panics with a
// *Fault internally, as encoding/json and text/template do, and whole recovers.
type parser struct {
	lex   lexer
	tok   token
	depth int
	words bool // the words of sentences are taken, too: see [Symbols.ReadWritten]
}

func (p *parser) whole() (n Node, fault *Fault) {
	defer func() {
		if r := recover(); r != nil {
			f, ok := r.(*Fault)
			if !ok {
				panic(r)
			}
			n, fault = nil, f
		}
	}()
	p.advance()
	if p.tok.kind == tokEnd {
		p.fail("a condition or value was expected, nothing was found")
	}
	n = p.or()
	if p.tok.kind != tokEnd {
		p.afterWhole()
	}
	return n, nil
}

// afterWhole words what stands after a complete expression.
func (p *parser) afterWhole() {
	switch {
	case p.tok.is("="), p.tok.is("<"), p.tok.is(">"), p.tok.is("<="), p.tok.is(">="), p.tok.is("!="):
		p.fail("one comparison can't follow another; join them with and, or use between … and …")
	case p.tok.is(")"):
		p.fail("this parenthesis was never opened")
	case p.tok.is("=="), p.tok.text == "equals":
		p.fail("“%s” is written =", p.tok.text)
	case p.tok.is(","):
		if plain := p.ungrouped(); plain != "" {
			p.fail("a number is written without commas: %s", plain)
		}
	}
	p.fail("%s was found where “and”, “or”, an operator or the end was expected", p.tok)
}

var grouped = regexp.MustCompile(`^[0-9]{1,3}(,[0-9]{3})+$`)

// ungrouped is a number that was written with commas, of which the first one is at hand,
// without them; "" if it is none.
func (p *parser) ungrouped() string {
	from, to := p.tok.pos, p.tok.end
	for from > 0 && isDigit(p.lex.src[from-1]) {
		from--
	}
	for to < len(p.lex.src) && (isDigit(p.lex.src[to]) || p.lex.src[to] == ',') {
		to++
	}
	if text := p.lex.src[from:to]; grouped.MatchString(text) {
		return strings.ReplaceAll(text, ",", "")
	}
	return ""
}

func (p *parser) advance() {
	tok, fault := p.lex.next()
	if fault != nil {
		panic(fault)
	}
	p.tok = tok
}

func (p *parser) fail(format string, args ...any) {
	panic(syntax(p.tok.pos, p.tok.end, format, args...))
}

// is reports whether the token is that sign or word.
func (t token) is(text string) bool {
	return (t.kind == tokSign || t.kind == tokWord) && t.text == text
}

func (p *parser) accept(text string) bool {
	if p.tok.is(text) {
		p.advance()
		return true
	}
	return false
}

func (p *parser) expect(text, after string) {
	if !p.accept(text) {
		p.fail("“%s” was expected %s, %s was found", text, after, p.tok)
	}
}

func (p *parser) deeper() {
	if p.depth++; p.depth > MaxDepth {
		p.fail("this is nested more than %d deep", MaxDepth)
	}
}

func (p *parser) or() Node  { return p.logic("or", p.and) }
func (p *parser) and() Node { return p.logic("and", p.not) }

func (p *parser) logic(op string, term func() Node) Node {
	first := term()
	if !p.tok.is(op) {
		return first
	}
	l := &Logic{Place: Place(first.Pos()), Op: op, Terms: []Node{first}}
	for p.accept(op) {
		l.Terms = append(l.Terms, term())
	}
	return l
}

func (p *parser) not() Node {
	at := p.tok.pos
	if p.accept("not") {
		p.deeper()
		defer func() { p.depth-- }()
		return &Not{Place(at), p.not()}
	}
	return p.comparison()
}

func (p *parser) comparison() Node {
	x := p.sum()
	at := Place(x.Pos())
	op := p.tok
	if op.kind == tokSign {
		switch op.text {
		case "=", "!=", "<", "<=", ">", ">=":
			p.advance()
			if op.text == "=" && p.tok.is("=") {
				p.fail("“==” is written =")
			}
			if p.tok.is("blank") || p.tok.is("answered") {
				p.blankness(op.text)
			}
			return &Compare{at, op.text, x, p.sum()}
		}
		return x
	}
	if op.kind != tokWord {
		return x
	}
	switch op.text {
	case "between":
		p.advance()
		low := p.sum()
		p.expect("and", "between the two ends")
		return &Between{at, x, low, p.sum()}
	case "in":
		p.advance()
		return &In{at, x, p.list("in"), false}
	case "not":
		p.advance()
		p.expect("in", "after “not”")
		return &In{at, x, p.list("not in"), true}
	case "includes":
		if p.words {
			p.advance()
			return p.includesWords(at, x)
		}
	case "is":
		p.advance()
		if p.words {
			return p.isWords(at, x)
		}
		switch {
		case p.accept("blank"):
			return &IsBlank{at, x, false}
		case p.accept("answered"):
			return &IsBlank{at, x, true}
		case p.tok.is("not"):
			p.fail("“is not …” is not used; write is answered, is blank, or !=")
		}
		p.fail("after “is” stands blank or answered; to compare, write = instead of is")
	case "contains", "matches":
		p.advance()
		return &TextTest{at, op.text, x, p.sum()}
	case "starts", "ends":
		p.advance()
		p.expect("with", "after “"+op.text+"”")
		return &TextTest{at, op.text + " with", x, p.sum()}
	case "has":
		p.advance()
		how := p.tok
		if how.is("any") || how.is("all") || how.is("none") {
			p.advance()
			return &Has{at, x, how.text, p.list("has " + how.text)}
		}
		return &Has{at, x, "", []Node{p.sum()}}
	}
	return x
}

// blankness says how it is written that something is blank, or is not.
func (p *parser) blankness(op string) {
	words := map[bool]string{true: "is blank", false: "is answered"}
	p.fail("“%s %s” is written %s", op, p.tok.text, words[p.tok.is("blank") == (op == "=")])
}

// list reads "(a, b, …)" with at least one entry.
func (p *parser) list(after string) []Node {
	p.expect("(", "after “"+after+"”")
	return p.args()
}

func (p *parser) args() []Node {
	p.deeper()
	defer func() { p.depth-- }()
	var out []Node
	for {
		out = append(out, p.or())
		if p.accept(")") {
			return out
		}
		if !p.tok.is(",") {
			p.fail("“,” or “)” was expected, %s was found", p.tok)
		}
		p.advance()
	}
}

func (p *parser) sum() Node {
	return p.chain([]string{"+", "-"}, func() Node { return p.chain([]string{"*", "/"}, p.unary) })
}

func (p *parser) chain(ops []string, operand func() Node) Node {
	x := operand()
	for n := 0; p.tok.kind == tokSign && slices.Contains(ops, p.tok.text); n++ {
		// A long chain leans to the left and so is as deep as it is long.
		if n > MaxDepth {
			p.fail("this has more than %d operations in a row", MaxDepth)
		}
		op := p.tok.text
		p.advance()
		x = &Arith{Place(x.Pos()), op, x, operand()}
	}
	return x
}

func (p *parser) unary() Node {
	at := p.tok.pos
	if !p.accept("-") {
		return p.atom()
	}
	p.deeper()
	defer func() { p.depth-- }()
	if p.tok.kind == tokNumber {
		lit := p.atom().(*Literal)
		if lit.Kind == Num {
			lit.Place, lit.Num = Place(at), lit.Num.Neg()
			return lit
		}
		return &Neg{Place(at), lit}
	}
	return &Neg{Place(at), p.unary()}
}

var units = []string{"minutes", "hours", "days", "weeks", "months", "years"}

func (p *parser) atom() Node {
	tok := p.tok
	at := Place(tok.pos)
	switch tok.kind {
	case tokNumber:
		p.advance()
		if p.tok.kind == tokWord {
			for _, unit := range units {
				if p.tok.text == unit || p.tok.text+"s" == unit {
					if _, ok := tok.num.Whole(); !ok {
						p.fail("a length of time is a whole number of %s", unit)
					}
					p.advance()
					return &Literal{Place: at, Kind: Duration, Num: tok.num, Unit: unit}
				}
			}
		}
		return &Literal{Place: at, Kind: Num, Num: tok.num}
	case tokText:
		p.advance()
		return &Literal{Place: at, Kind: Text, Text: tok.text}
	case tokDate:
		p.advance()
		return &Literal{Place: at, Kind: Date, Day: tok.day}
	case tokTime:
		p.advance()
		return &Literal{Place: at, Kind: Time, Sec: tok.sec}
	case tokMoment:
		p.advance()
		return &Literal{Place: at, Kind: Moment, Day: tok.day, Sec: tok.sec}
	case tokWord:
		return p.word()
	case tokEnd:
		p.fail("the expression ends where a value was expected")
	}
	if p.accept(GapSign) {
		return &Gap{at}
	}
	if !p.accept("(") {
		p.fail("a value was expected, %s was found", tok)
	}
	p.deeper()
	defer func() { p.depth-- }()
	n := p.or()
	if !p.accept(")") {
		if p.tok.kind == tokEnd {
			panic(syntax(tok.pos, tok.end, "this parenthesis is never closed"))
		}
		p.fail("“)” was expected, %s was found", p.tok)
	}
	return n
}

// words that stand alone as a value.
var nameWords = []string{"now", "today", "time", "weekday", "mode", "row_number", "choice"}

func (p *parser) word() Node {
	tok := p.tok
	at := Place(tok.pos)
	p.advance()
	switch {
	case tok.text == "if" && (p.tok.kind == tokWord || p.tok.kind == tokNumber || p.tok.kind == tokText):
		panic(syntax(tok.pos, tok.end, "“if” is written if(condition, value, otherwise)"))
	case tok.text == "in" && p.tok.is("("):
		panic(syntax(tok.pos, tok.end, "“in” stands behind what is looked for, such as n in (1, 2)"))
	case p.tok.is("("):
		if !isFunction(tok.text) {
			p.unknownFunction(tok)
		}
		p.advance()
		if p.accept(")") {
			panic(syntax(tok.pos, p.tok.pos, "%s needs something between its parentheses", tok.text))
		}
		return &Call{at, tok.text, p.args()}
	case tok.text == "yes" || tok.text == "no":
		return &Literal{Place: at, Kind: YesNo, Yes: tok.text == "yes"}
	case p.tok.is("."):
		p.advance()
		if p.tok.kind != tokWord {
			p.fail("after “%s.” a name was expected, %s was found", tok.text, p.tok)
		}
		part := p.tok.text
		if Reserved(tok.text) && tok.text != "url" && tok.text != "entry" {
			panic(syntax(tok.pos, tok.end, "“%s” is a word of the language and has no parts", tok.text))
		}
		p.advance()
		return &Member{at, tok.text, part}
	case tok.text == "url" || tok.text == "entry":
		panic(syntax(tok.pos, tok.end, "after “%s” a dot and a name were expected, such as %s.%s", tok.text, tok.text,
			map[string]string{"url": "club", "entry": "name"}[tok.text]))
	case tok.text == "true" || tok.text == "false":
		panic(syntax(tok.pos, tok.end, "“%s” is written %s", tok.text,
			map[string]string{"true": "yes", "false": "no"}[tok.text]))
	case Reserved(tok.text) && !slices.Contains(nameWords, tok.text):
		if isFunction(tok.text) {
			panic(syntax(tok.pos, tok.end, "“%s” is a function; a parenthesis was expected after it", tok.text))
		}
		panic(syntax(tok.pos, tok.end, "a value was expected, “%s” was found", tok.text))
	case strings.ToLower(tok.text) != tok.text:
		if low := strings.ToLower(tok.text); Reserved(low) || IsKey(low) {
			panic(&Fault{Kind: "syntax", Pos: tok.pos, End: tok.end, Near: low,
				Text: "keys and words are written in small letters: " + low})
		}
	}
	return &Name{at, tok.text}
}

func (p *parser) unknownFunction(tok token) {
	f := syntax(tok.pos, tok.end, "there is no function “%s”", tok.text)
	f.Kind = "unknown-name"
	if f.Near = Nearest(tok.text, functionNames()); f.Near != "" {
		f.Text += "; did you mean " + f.Near + "?"
	}
	panic(f)
}
