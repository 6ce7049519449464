package expr

import (
	"regexp"
	re "regexp/syntax"
	"slices"
	"strings"
	"unicode/utf8"
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

// Sampler writes texts that have the form of a pattern.
type Sampler struct {
	fits        *regexp.Regexp
	tree        *re.Regexp
	sizes       map[*re.Regexp][2]int // the fewest and most characters of each part; -1 without an end
	Least, Most int                   // and of the whole
	Plain       bool                  // whether it takes nothing but ASCII: then one character is one to people, too
}

// NewSampler reads a pattern; ok is false if it can't be read.
func NewSampler(pattern string) (s *Sampler, ok bool) {
	fits, err := Pattern("^(?:" + pattern + ")$")
	if err != nil {
		return nil, false
	}
	tree, err := re.Parse(pattern, re.Perl)
	if err != nil {
		return nil, false
	}
	s = &Sampler{fits: fits, tree: tree.Simplify(), sizes: map[*re.Regexp][2]int{}, Plain: true}
	s.Least, s.Most = s.measure(s.tree)
	return s, true
}

// Sample is a text of exactly that many characters, of several ways to write one the one of that
// number; ok is false if none was found, though there may be one.
func (s *Sampler) Sample(length, way int) (text string, ok bool) {
	if length > MaxPattern {
		return "", false
	}
	var b strings.Builder
	s.stretched(&b, s.tree, length, way)
	text = b.String()
	return text, utf8.RuneCountInString(text) == length && s.fits.MatchString(text)
}

// stretched writes what a part of a pattern fits, as near to a length as it goes.
func (s *Sampler) stretched(b *strings.Builder, part *re.Regexp, length, way int) {
	switch least, _ := s.lengths(part); part.Op {
	case re.OpCapture:
		s.stretched(b, part.Sub[0], length, way)
	case re.OpConcat:
		extra := length - least
		for _, sub := range part.Sub {
			low, high := s.lengths(sub)
			more := max(0, extra)
			if high >= 0 {
				more = min(more, high-low)
			}
			before := utf8.RuneCountInString(b.String())
			s.stretched(b, sub, low+more, way)
			extra -= utf8.RuneCountInString(b.String()) - before - low
		}
	case re.OpAlternate:
		fit := slices.DeleteFunc(slices.Clone(part.Sub), func(sub *re.Regexp) bool {
			low, high := s.lengths(sub)
			return length < low || high >= 0 && high < length
		})
		if len(fit) == 0 {
			fit = part.Sub
		}
		s.stretched(b, fit[way%len(fit)], length, way)
	case re.OpStar, re.OpPlus, re.OpQuest:
		s.repeated(b, part, length, way)
	default:
		sampled(b, part)
	}
}

// repeated writes as many of a repeated part as come nearest to a length.
func (s *Sampler) repeated(b *strings.Builder, part *re.Regexp, length, way int) {
	low, _ := s.lengths(part.Sub[0])
	times := map[re.Op]int{re.OpPlus: 1}[part.Op]
	switch {
	case part.Op == re.OpQuest && length >= max(1, low):
		s.stretched(b, part.Sub[0], length, way)
		return
	case part.Op != re.OpQuest:
		times = max(times, length/max(1, low))
	}
	for left := length; times > 0; times-- {
		size := low
		if times == 1 {
			size = left
		}
		s.stretched(b, part.Sub[0], size, way)
		left -= low
	}
}

// lengths are the fewest and the most characters that a part of a pattern fits.
func (s *Sampler) lengths(part *re.Regexp) (least, most int) {
	size := s.sizes[part]
	return size[0], size[1]
}

// measure finds these for a part and all parts of it.
func (s *Sampler) measure(part *re.Regexp) (least, most int) {
	if size, ok := s.sizes[part]; ok {
		return size[0], size[1]
	}
	s.Plain = s.Plain && plain(part)
	least, most = s.measured(part)
	s.sizes[part] = [2]int{least, most}
	return least, most
}

// plain reports whether a part by itself, without its own parts, takes nothing but ASCII.
func plain(part *re.Regexp) bool {
	beyond := func(r rune) bool { return r >= utf8.RuneSelf || r == '\r' }
	switch part.Op {
	case re.OpAnyChar, re.OpAnyCharNotNL:
		return false
	case re.OpLiteral: // in either case some letters are written otherwise, too
		return part.Flags&re.FoldCase == 0 && !slices.ContainsFunc(part.Rune, beyond)
	case re.OpCharClass:
		for i := 0; i+1 < len(part.Rune); i += 2 {
			if beyond(part.Rune[i+1]) || part.Rune[i] <= '\r' && '\r' <= part.Rune[i+1] {
				return false
			}
		}
	}
	return true
}

func (s *Sampler) measured(part *re.Regexp) (least, most int) {
	switch part.Op {
	case re.OpLiteral:
		return len(part.Rune), len(part.Rune)
	case re.OpCharClass, re.OpAnyChar, re.OpAnyCharNotNL:
		return 1, 1
	case re.OpCapture:
		return s.measure(part.Sub[0])
	case re.OpStar, re.OpPlus:
		if least, most = s.measure(part.Sub[0]); most != 0 {
			most = -1
		}
		if part.Op == re.OpStar {
			least = 0
		}
	case re.OpQuest:
		_, most = s.measure(part.Sub[0])
	case re.OpConcat:
		for _, sub := range part.Sub {
			low, high := s.measure(sub)
			least += low
			most = endless(most, high, most+high)
		}
	case re.OpAlternate:
		least, most = s.measure(part.Sub[0])
		for _, sub := range part.Sub[1:] {
			low, high := s.measure(sub)
			least, most = min(least, low), endless(most, high, max(most, high))
		}
	}
	return least, most
}

// endless is what two lengths come to, of which either can be without an end.
func endless(a, b, both int) int {
	if a < 0 || b < 0 {
		return -1
	}
	return both
}
