package expr_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/expr"
)

func TestWhatIsNoSentence(t *testing.T) {
	syms := deskSymbols(t)
	for _, text := range []string{
		"", "Boat", "Boat is", "Boat is purple", "Boat is eight and", "(Boat is eight", "Boat is eight)", "boat is eight",
		"Boat is  eight",
		"Trailer is over", "Nobody is answered", "in any row of Boat, Boat is eight", strings.Repeat("(", 3000),
		strings.Repeat("not all of these: ", 100),
	} {
		n, err := syms.ReadSentence(text, true)
		require.ErrorIs(t, err, expr.ErrSentence, "%q was read as %v", text, n)
	}
	begun := time.Now()
	_, err := syms.ReadSentence(strings.Repeat("Boat is eight and (", 60)+"Boat is eight"+strings.Repeat(")", 60), true)
	assert.Less(t, time.Since(begun), 5*time.Second, "%v", err)
}

// A calculation whose type is not known yet fits everywhere, so nothing but the words can
// say what a count is of.
func TestWhatIsCountedIsSaidWithoutTypes(t *testing.T) {
	syms := deskSymbols(t)
	syms.Items["later"] = &expr.Symbol{Key: "later", Label: "Later"}
	for _, src := range []string{"count(rowers) - later = 2", "-count(rowers) = 2", "count(later) - 1 = 2"} {
		n, err := expr.Parse(src)
		require.NoError(t, err)
		sentence := expr.PiecesText(syms.Sentence(n))
		back, err := syms.ReadSentence(sentence, true)
		require.NoError(t, err, sentence)
		assert.True(t, expr.Equal(n, back), "%s was read as %s", sentence, back)
	}
}

// Whatever is read as a sentence reads so.
func FuzzReadSentence(f *testing.F) {
	syms := deskSymbols(f)
	for _, text := range []string{"Boat is eight", "none of these: Swim is yes, Trailer is over 3",
		"the age on 1 May 2026 counted from Born", "“a”"} {
		f.Add(text, true)
		f.Add(text, false)
	}
	f.Fuzz(func(t *testing.T, text string, condition bool) {
		n, err := syms.ReadSentence(text, condition)
		if err != nil {
			return
		}
		said := syms.Phrase
		if condition {
			said = syms.Sentence
		}
		require.Equal(t, strings.TrimSpace(text), expr.PiecesText(said(n)))
	})
}
