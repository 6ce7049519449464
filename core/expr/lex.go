package expr

import (
	"fmt"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Fault is something wrong with an expression, in words for its author.
type Fault struct {
	Kind     string // syntax, unknown-name, unknown-choice or wrong-type; "" for a mere warning
	Pos, End int    // the place in the text, in bytes
	Text     string // what was found, what was expected, the near name
	Near     string // the name or value that was probably meant, or ""
}

func (f *Fault) Error() string { return f.Text }

type tokenKind uint8

const (
	tokEnd tokenKind = iota
	tokWord
	tokNumber
	tokText
	tokDate
	tokTime
	tokMoment
	tokSign
)

type token struct {
	kind     tokenKind
	text     string // as written; the content of a text
	pos, end int
	num      Number
	day      Day
	sec      int
}

func (t token) String() string {
	switch t.kind {
	case tokEnd:
		return "the end"
	case tokText:
		return Quote(t.text)
	}
	return "“" + t.text + "”"
}

type lexer struct {
	src string
	pos int
}

func syntax(pos, end int, format string, args ...any) *Fault {
	return &Fault{Kind: "syntax", Pos: pos, End: end, Text: fmt.Sprintf(format, args...)}
}

func (l *lexer) next() (token, *Fault) {
	for l.pos < len(l.src) && strings.IndexByte(" \t\r\n", l.src[l.pos]) >= 0 {
		l.pos++
	}
	start := l.pos
	if start == len(l.src) {
		return token{kind: tokEnd, pos: start, end: start}, nil
	}
	c := l.src[start]
	switch {
	case isDigit(c):
		return l.number()
	case c == '"':
		return l.quoted()
	case isLetter(c):
		for l.pos < len(l.src) && (isLetter(l.src[l.pos]) || isDigit(l.src[l.pos])) {
			l.pos++
		}
		return token{kind: tokWord, text: l.src[start:l.pos], pos: start, end: l.pos}, nil
	}
	if own := elsewhere[l.src[start:min(start+2, len(l.src))]]; own != "" {
		return token{}, syntax(start, start+2, "“%s” is written %s", l.src[start:start+2], own)
	}
	for _, sign := range []string{"!=", "<=", ">=", "=", "<", ">", "+", "-", "*", "/", "(", ")", ",", "."} {
		if strings.HasPrefix(l.src[start:], sign) {
			l.pos += len(sign)
			return token{kind: tokSign, text: sign, pos: start, end: l.pos}, nil
		}
	}
	r, size := utf8.DecodeRuneInString(l.src[start:])
	end := start + size
	switch {
	case r == '…':
		l.pos = end
		return token{kind: tokSign, text: GapSign, pos: start, end: end}, nil
	case r == '\'' || r == '“' || r == '”' || r == '„':
		return token{}, syntax(start, end, "texts stand between straight double quotation marks: \"…\"")
	case r == '≤' || r == '≥' || r == '≠':
		return token{}, syntax(start, end, "“%c” is written %s", r, map[rune]string{'≤': "<=", '≥': ">=", '≠': "!="}[r])
	case r == '×' || r == '÷':
		return token{}, syntax(start, end, "“%c” is written %s", r, map[rune]string{'×': "*", '÷': "/"}[r])
	case r == '!':
		return token{}, syntax(start, end, "“!” is written not, such as not %s", nextWord(l.src[end:]))
	case r == '%':
		return token{}, syntax(start, end,
			"“%%” is not used: a tenth is written 0.1 * n, what is left of a division n - 2 * floor(n / 2)")
	case r == '&' || r == '|':
		return token{}, syntax(start, end, "“%c” is written %s", r, map[rune]string{'&': "and", '|': "or"}[r])
	case r == utf8.RuneError:
		return token{}, syntax(start, end, "this is not readable text")
	case unicode.IsLetter(r):
		return token{}, syntax(start, end, "“%c” can't stand in a key; keys are made of a to z, 0 to 9 and _", r)
	}
	return token{}, syntax(start, end, "“%c” means nothing here", r)
}

// elsewhere are signs of other languages, and what is written here.
var elsewhere = map[string]string{"<>": "!=", "=>": ">=", "=<": "<=", "&&": "and", "||": "or"}

func isDigit(c byte) bool  { return c >= '0' && c <= '9' }
func isLetter(c byte) bool { return c == '_' || (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') }

func (l *lexer) quoted() (token, *Fault) {
	start := l.pos
	var b strings.Builder
	for i := start + 1; i < len(l.src); i++ {
		switch c := l.src[i]; {
		case c == '"':
			l.pos = i + 1
			text := b.String()
			if !utf8.ValidString(text) {
				return token{}, syntax(start, l.pos, "this text is not valid UTF-8")
			}
			return token{kind: tokText, text: text, pos: start, end: l.pos}, nil
		case c == '\\' && i+1 < len(l.src) && (l.src[i+1] == '"' || l.src[i+1] == '\\'):
			i++
			b.WriteByte(l.src[i])
		default:
			b.WriteByte(c)
		}
	}
	return token{}, syntax(start, len(l.src), "this text has no closing quotation mark")
}

// number reads a number, a date, a time or a moment; all begin with a digit.
func (l *lexer) number() (token, *Fault) {
	start := l.pos
	run := func(from int) int {
		for from < len(l.src) && isDigit(l.src[from]) {
			from++
		}
		return from
	}
	is := func(at int, c byte) bool { return at < len(l.src) && l.src[at] == c && run(at+1) > at+1 }
	end := run(start)
	switch {
	case end-start == 4 && is(end, '-') && run(end+1) == end+3 && is(end+3, '-') && run(end+4) == end+6:
		end += 6
		text := l.src[start:end]
		day, ok := ParseDay(text)
		if !ok {
			return token{}, syntax(start, end, "%s is no day of the calendar", text)
		}
		l.pos = end
		if end < len(l.src) && l.src[end] == 'T' {
			stop := l.timeEnd(end + 1)
			sec, ok := ParseTime(l.src[end+1 : stop])
			if !ok {
				return token{}, syntax(start, max(stop, end+1), "after the date and T a time was expected, such as %sT18:00", text)
			}
			l.pos = stop
			return token{kind: tokMoment, text: l.src[start:stop], pos: start, end: stop, day: day, sec: sec}, nil
		}
		return token{kind: tokDate, text: text, pos: start, end: end, day: day}, nil
	case is(end, ':'):
		end = l.timeEnd(start)
		sec, ok := ParseTime(l.src[start:end])
		if !ok {
			return token{}, syntax(start, end, "%s is no time of day; one is written 18:00", l.src[start:end])
		}
		l.pos = end
		return token{kind: tokTime, text: l.src[start:end], pos: start, end: end, sec: sec}, nil
	}
	if is(end, '.') {
		end = run(end + 1)
	}
	if half, hour := halfOfDay(l.src[end:]), l.src[start:end]; half >= 0 {
		if h, err := strconv.Atoi(hour); err == nil && h >= 1 && h <= 12 {
			return token{}, syntax(start, end+2, "a time is written with 24 hours: %02d:00", h%12+half)
		}
	}
	if end < len(l.src) && isLetter(l.src[end]) {
		return token{}, syntax(start, end+1, "a blank is missing after %s, or a key begins with a digit", l.src[start:end])
	}
	l.pos = end
	n, err := ParseNumber(l.src[start:end])
	if err != nil {
		return token{}, syntax(start, end, "%s has more than %d digits", l.src[start:end], MaxDigits)
	}
	return token{kind: tokNumber, text: l.src[start:end], pos: start, end: end, num: n}, nil
}

// halfOfDay is what pm adds to an hour, 0 for am; -1 if neither stands there.
func halfOfDay(rest string) int {
	switch strings.ToLower(nextWord(rest)) {
	case "am":
		return 0
	case "pm":
		return 12
	}
	return -1
}

// nextWord is the word that a text begins with.
func nextWord(rest string) string {
	rest = strings.TrimLeft(rest, " ")
	end := 0
	for end < len(rest) && (isLetter(rest[end]) || isDigit(rest[end])) {
		end++
	}
	return rest[:end]
}

func (l *lexer) timeEnd(at int) int {
	for at < len(l.src) && (isDigit(l.src[at]) || l.src[at] == ':') {
		at++
	}
	return at
}
