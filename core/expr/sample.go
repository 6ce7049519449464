package expr

import (
	re "regexp/syntax"
	"strings"
)

// maxSample bounds the length of a sample.
const maxSample = 40

// Sample is a short text that has the form that a pattern asks of a whole answer, to show
// people how it is written; ok is false if none was found.
func Sample(pattern string) (text string, ok bool) {
	fits, err := Pattern("^(?:" + pattern + ")$")
	if err != nil {
		return "", false
	}
	tree, err := re.Parse(pattern, re.Perl)
	if err != nil {
		return "", false
	}
	var b strings.Builder
	sampled(&b, tree.Simplify())
	text = b.String()
	return text, text != "" && len(text) <= maxSample && fits.MatchString(text)
}

// sampled writes what one part of a pattern fits, of several ways the first.
func sampled(b *strings.Builder, part *re.Regexp) {
	if b.Len() > maxSample {
		return
	}
	switch part.Op {
	case re.OpLiteral:
		b.WriteString(string(part.Rune))
	case re.OpCharClass:
		b.WriteRune(one(part.Rune, b.Len()))
	case re.OpAnyChar, re.OpAnyCharNotNL:
		b.WriteByte('x')
	case re.OpCapture, re.OpPlus:
		sampled(b, part.Sub[0])
	case re.OpConcat:
		for _, sub := range part.Sub {
			sampled(b, sub)
		}
	case re.OpAlternate:
		sampled(b, part.Sub[0])
	}
}

// one is a character of a class, given as ranges: a letter or digit of those that people
// write, not always the same.
func one(ranges []rune, at int) rune {
	has := func(r rune) bool {
		for i := 0; i+1 < len(ranges); i += 2 {
			if ranges[i] <= r && r <= ranges[i+1] {
				return true
			}
		}
		return false
	}
	for _, group := range []string{"ABCDEFGH", "12345678", "abcdefgh"} {
		for i := range len(group) {
			if r := rune(group[(at+i)%len(group)]); has(r) {
				return r
			}
		}
	}
	if len(ranges) > 0 {
		return ranges[0]
	}
	return 'x'
}
