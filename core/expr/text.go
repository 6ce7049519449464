package expr

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"
	"golang.org/x/text/unicode/norm"
)

// Clean returns a text as it is kept: without surrounding blanks and without
// characters that show nothing (byte order marks, zero-width spaces), in
// normalization form C, its lines ended by one line feed. Joiners stay, since they change how their neighbours look;
// a text of nothing else is empty.
func Clean(s string) string {
	s = strings.TrimSpace(s)
	if strings.IndexByte(s, '\r') >= 0 { // as browsers post the end of a line
		s = strings.ReplaceAll(strings.ReplaceAll(s, "\r\n", "\n"), "\r", "\n")
	}
	if isASCII(s) {
		return s
	}
	s = norm.NFC.String(strings.TrimSpace(strings.Map(func(r rune) rune {
		if showsNothing(r) {
			return -1
		}
		return r
	}, s)))
	if strings.IndexFunc(s, seen) < 0 {
		return ""
	}
	return s
}

func isASCII(s string) bool {
	for i := 0; i < len(s); i++ {
		if s[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// showsNothing reports whether a character neither shows nor changes how others do.
func showsNothing(r rune) bool { return r == '\u200b' || r == '\ufeff' || r == '\u180e' }

// seen reports whether a character is one that a person can see.
func seen(r rune) bool {
	return !unicode.Is(unicode.Cf, r) && !unicode.Is(unicode.Variation_Selector, r) && !unicode.IsSpace(r)
}

// Length counts what people see as one character: extended grapheme clusters
// (Unicode Standard Annex 29).
func Length(s string) int {
	if isASCII(s) && strings.IndexByte(s, '\r') < 0 {
		return len(s)
	}
	return uniseg.GraphemeClusterCount(s)
}
