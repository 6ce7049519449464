package engine

//go:generate go run ../../scripts/zonegen

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/nyaruka/phonenumbers"
	"golang.org/x/text/language"

	"lazo/core/expr"
	"lazo/core/text"
)

// reading is how people of a form's language and country write numbers, dates and
// phone numbers.
type reading struct {
	decimal, group rune
	second         int       // digits of a group but the last, which has 3
	order          dateOrder // of day, month and year
	region         string    // ISO 3166 code for phone numbers without a country code, or ""
}

// newReading takes the signs and groups of numbers from CLDR, which knows the group that a
// language writes; where none is grouped, the comma or the full stop is taken for it.
func newReading(tag language.Tag, timezone string) reading {
	decimal, group, second := text.Of(tag).Signs()
	r := reading{decimal: decimal, group: group, second: second, order: dateOrderOf(tag)}
	// A form in British English may well be one of Uruguay: where it is says its time zone.
	if r.region = zoneRegion[timezone]; r.region != "" {
		return r
	}
	if region, confidence := tag.Region(); confidence >= language.High {
		r.region = region.String()
	}
	return r
}

// parse reads a number as people type it: with blanks around, groups of three or
// as the language has them (1,00,000), the language's decimal sign, digits of any
// script. A sign that could be either, like the comma of "1,5" in English, is
// refused rather than guessed.
func (r reading) parse(text string) (expr.Number, error) {
	text = strings.TrimSpace(text)
	if plainDigits(text) {
		return expr.ParseNumber(text)
	}
	var b strings.Builder
	var runs []int // digits of each group before the decimal sign
	run, digits, decimal := 0, 0, false
	runes := []rune(text)
	if len(runes) > 200 {
		return expr.Number{}, expr.ErrNumber
	}
	for i, c := range runes {
		switch {
		case unicode.IsDigit(c):
			d, ok := digit(c)
			if !ok {
				return expr.Number{}, expr.ErrNumber
			}
			b.WriteByte(d)
			digits++
			run++
		case i == 0 && (c == '-' || c == '−'):
			b.WriteByte('-')
		case i == 0 && c == '+':
		case (c == r.decimal || c == '٫') && !decimal:
			runs = append(runs, run)
			if digits == 0 {
				b.WriteByte('0')
			}
			b.WriteByte('.')
			decimal, run = true, 0
		case !decimal && digits > 0 && r.groups(c):
			runs, run = append(runs, run), 0
		default:
			return expr.Number{}, expr.ErrNumber
		}
	}
	if !decimal {
		runs = append(runs, run)
	}
	if digits == 0 || !grouped(runs, 3) && !grouped(runs, r.second) {
		return expr.Number{}, expr.ErrNumber
	}
	return expr.ParseNumber(strings.TrimSuffix(b.String(), "."))
}

// grouped reports whether runs of digits are groups: three in the last, second in
// those before it, and no more in the first.
func grouped(runs []int, second int) bool {
	last := len(runs) - 1
	if last <= 0 {
		return true
	}
	for _, n := range runs[1:last] {
		if n != second {
			return false
		}
	}
	return runs[last] == 3 && runs[0] >= 1 && runs[0] <= second
}

// plainDigits reports whether text is a few ASCII digits and nothing else.
func plainDigits(text string) bool {
	for i := 0; i < len(text); i++ {
		if text[i] < '0' || text[i] > '9' {
			return false
		}
	}
	return text != "" && len(text) <= 9
}

// groups reports whether c can separate thousands.
func (r reading) groups(c rune) bool {
	return c == r.group || c == '\'' || c == '’' || c == '٬' || unicode.IsSpace(c)
}

// digit returns the ASCII digit of a decimal digit of any script; Unicode lays
// the ten digits of a script out in a row that begins at a multiple of ten from
// the first of its range.
func digit(c rune) (byte, bool) {
	if c < utf8.RuneSelf {
		return byte(c), true
	}
	for _, rg := range unicode.Nd.R16 {
		if c >= rune(rg.Lo) && c <= rune(rg.Hi) && rg.Stride == 1 {
			return '0' + byte((c-rune(rg.Lo))%10), true
		}
	}
	return 0, false
}

// phone reads a phone number and returns it in E.164.
func (r reading) phone(text string) (string, bool) {
	n, err := phonenumbers.Parse(text, r.region)
	if err != nil || !phonenumbers.IsPossibleNumber(n) {
		return "", false
	}
	return phonenumbers.Format(n, phonenumbers.E164), true
}

// PhoneExample is how a mobile number is written in the country of the form, without its
// country code; "" where the country is not known.
func (p *Program) PhoneExample() string {
	n := phonenumbers.GetExampleNumberForType(p.reading.region, phonenumbers.MOBILE)
	if p.reading.region == "" || n == nil {
		return ""
	}
	return phonenumbers.Format(n, phonenumbers.NATIONAL)
}

// Numbers are numbers as people who make a form in a language type them.
type Numbers struct{ reading }

// NumbersOf are the numbers of a language tag; those of English where it is none.
func NumbersOf(tag string) Numbers {
	t, err := language.Parse(tag)
	if err != nil {
		t = language.English
	}
	return Numbers{newReading(t, "")}
}

// Read reads a number as it is typed. The error is expr.ErrNumber.
func (n Numbers) Read(text string) (expr.Number, error) { return n.parse(text) }

// Write writes a number as Read reads it again: with the decimal sign of the language, and
// without groups.
func (n Numbers) Write(x expr.Number) string {
	return strings.Replace(x.String(), ".", string(n.decimal), 1)
}

// Typed is a number as it is typed in the language from one as expressions write it; any
// other text stays as it is.
func (n Numbers) Typed(text string) string {
	if x, err := expr.ParseNumber(text); err == nil {
		return n.Write(x)
	}
	return text
}

// Plain is a number as expressions write it from one as it is typed in the language; any
// other text stays as it is.
func (n Numbers) Plain(text string) string {
	if x, err := n.Read(text); err == nil {
		return x.String()
	}
	return text
}
