package engine

import (
	"strings"
	"unicode"

	"golang.org/x/text/language"

	"lazo/core/expr"
)

// dateOrder is in which order a language writes day, month and year in figures.
type dateOrder uint8

const (
	dayFirst   dateOrder = iota // 30/05/2026
	monthFirst                  // 5/30/2026
	yearFirst                   // 2026/5/30
)

// The orders that are not day, month, year in the short date format of CLDR
// (dateFormatLength "short"), by language and region or language alone; any other
// language has the day first.
var dateOrders = map[string]dateOrder{
	"en-US": monthFirst, "en-PH": monthFirst, "en-PR": monthFirst, "en-GU": monthFirst, "en-AS": monthFirst,
	"en-MH": monthFirst, "en-MP": monthFirst, "en-UM": monthFirst, "en-VI": monthFirst, "en-BI": monthFirst,
	"es-PA": monthFirst, "es-PR": monthFirst, "fil": monthFirst, "chr": monthFirst, "haw": monthFirst, "ee": monthFirst,
	"lkt": monthFirst, "ks": monthFirst,
	"zh": yearFirst, "ja": yearFirst, "ko": yearFirst, "hu": yearFirst, "lt": yearFirst, "mn": yearFirst, "eu": yearFirst,
	"sv": yearFirst,
	"af": yearFirst, "si": yearFirst, "ne": yearFirst, "dz": yearFirst, "bo": yearFirst, "ii": yearFirst, "eo": yearFirst,
	"se": yearFirst, "ug": yearFirst,
	"fr-CA": yearFirst, "en-CA": yearFirst, "en-ZA": yearFirst, "en-SE": yearFirst,
	"zh-HK": dayFirst, "zh-MO": dayFirst, "zh-SG": dayFirst, "sv-FI": dayFirst,
}

func dateOrderOf(tag language.Tag) dateOrder {
	base, _ := tag.Base()
	if region, sure := tag.Region(); sure >= language.Low {
		if o, ok := dateOrders[base.String()+"-"+region.String()]; ok {
			return o
		}
	}
	return dateOrders[base.String()]
}

// day reads a date as 2026-05-30 or, with a year of four figures, as the language
// writes it in figures: 30/05/2026 in Spanish, 30.05.2026 in German.
func (r reading) day(text string) (expr.Day, bool) {
	if d, ok := expr.ParseDay(text); ok {
		return d, true
	}
	n, first, ok := figures(text)
	switch {
	case !ok:
		return 0, false
	case first:
		return expr.DayOf(n[0], n[1], n[2])
	case r.order == yearFirst:
		return 0, false
	}
	return InFigures(n).Day(r.order == monthFirst)
}

// InFigures is a date in figures whose year stands last, such as 30/05/2026: what it means
// hangs on whether the day or the month comes first.
type InFigures [3]int

// DateInFigures takes a date in figures apart; ok is false for any other text, as for
// 2026-05-30.
func DateInFigures(text string) (f InFigures, ok bool) {
	n, yearFirst, ok := figures(text)
	return n, ok && !yearFirst
}

// Day is the day that is meant, if there is such a day.
func (f InFigures) Day(monthFirst bool) (expr.Day, bool) {
	if monthFirst {
		return expr.DayOf(f[2], f[0], f[1])
	}
	return expr.DayOf(f[2], f[1], f[0])
}

// figures takes three numbers apart of which the first or the last is a year of four figures
// and the others have one or two, with the same sign between them.
func figures(text string) (parts [3]int, yearFirst, ok bool) {
	if len(text) > 60 {
		return parts, false, false
	}
	var lengths [3]int
	at, sign := 0, rune(0)
	for _, c := range strings.TrimRight(text, ".") {
		switch {
		case unicode.IsDigit(c):
			d, ok := digit(c)
			if !ok || lengths[at] == 4 {
				return parts, false, false
			}
			parts[at] = parts[at]*10 + int(d-'0')
			lengths[at]++
		case unicode.IsSpace(c), c == '\u200f': // Arabic dates hold marks of direction
		case (c == '/' || c == '.' || c == '-') && at < 2 && lengths[at] > 0 && (sign == 0 || sign == c):
			at++
			sign = c
		default:
			return parts, false, false
		}
	}
	short := func(n int) bool { return n == 1 || n == 2 }
	yearFirst = lengths[0] == 4 && short(lengths[2])
	return parts, yearFirst, at == 2 && short(lengths[1]) && (yearFirst || short(lengths[0]) && lengths[2] == 4)
}
