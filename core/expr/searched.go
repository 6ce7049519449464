package expr

import (
	"strings"

	"golang.org/x/text/unicode/norm"
)

// plainLetters are letters that have no plain one beneath, by what people type for them.
var plainLetters = strings.NewReplacer("ø", "o", "ł", "l", "đ", "d", "ð", "d", "ħ", "h", "ı", "i", "ŧ", "t", "æ", "ae",
	"œ", "oe")

// Searched is a text as it is searched: as Fold has it, and without accents, so that “Núñez”
// is found by “nunez” and the other way round.
func Searched(s string) string {
	s = Fold(s)
	if isASCII(s) {
		return s
	}
	return plainLetters.Replace(strings.Map(func(r rune) rune {
		if r >= 0x300 && r <= 0x36f {
			return -1
		}
		return r
	}, norm.NFD.String(s)))
}
