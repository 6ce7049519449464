package engine_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"lazo/core/expr"
)

// Every tie of a random form reads back from its sentence as what the sentence says.
func TestTheSentencesOfRandomFormsAreRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f := drawForm(t)
		syms := f.Symbols()
		for _, tie := range f.AllTies() {
			n, err := expr.Parse(tie.Expr)
			if err != nil {
				continue
			}
			at := f.Narrow(syms, tie.Owner, tie.Property)
			code, _ := expr.Compile(n, at)
			if code == nil {
				continue
			}
			condition := code.Type.Kind == expr.YesNo
			said := at.Phrase
			if condition {
				said = at.Sentence
			}
			sentence := expr.PiecesText(said(n))
			back, err := at.ReadSentence(sentence, condition)
			if err != nil && len(sentence) > 400 {
				continue
			}
			require.NoError(t, err, "%s\nfrom %s\nof %s", sentence, tie.Expr, strings.ReplaceAll(string(f.JSON()), "\n", ""))
			require.Equal(t, sentence, expr.PiecesText(said(back)))
		}
	})
}
