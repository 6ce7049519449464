package proof

import (
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"

	"lazo/core/expr"
)

// No other letter of Unicode is folded to several.
func TestLettersThatFoldToSeveralAreAllKnown(t *testing.T) {
	known := map[string]bool{}
	for many, one := range joined() {
		known[one] = true
		assert.LessOrEqual(t, len([]rune(many)), mostJoined, one)
	}
	for r := rune(0x80); r <= unicode.MaxRune; r++ {
		one := string(r)
		if many := expr.Fold(one); expr.Length(many) > 1 && expr.Clean(one) == one {
			assert.NotEmpty(t, joined()[many], "%q", one)
		}
	}
	assert.True(t, known["ﬁ"] && known["ŉ"])
}

// Of a text there are equal ones of every length that it can have.
func TestTextsThatFoldAlikeHaveEveryLength(t *testing.T) {
	for text, want := range map[string][2]int{
		"heron": {5, 5}, "ß": {1, 2}, "SS": {1, 2}, "straße": {5, 7}, "ﬃ": {1, 3}, "ssst": {2, 4}, "fffi": {2, 4}, "": {0, 0},
	} {
		lengths := map[int]bool{expr.Length(text): true}
		for _, s := range unfolded(text) {
			assert.Equal(t, expr.Fold(text), expr.Fold(s))
			lengths[expr.Length(s)] = true
		}
		for n := want[0]; n <= want[1]; n++ {
			assert.True(t, lengths[n], "%q with %d letters", text, n)
		}
		assert.Len(t, lengths, want[1]-want[0]+1, text)
	}
	assert.Len(t, unfolded(strings.Repeat("ss", 500)), 501)
}
