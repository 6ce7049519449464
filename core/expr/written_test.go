package expr_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"lazo/core/expr"
)

// What an author may write, and what is kept of it.
func TestReadWritten(t *testing.T) {
	syms := deskSymbols(t)
	for written, want := range map[string]string{
		`boat = "eight"`:                                `boat = "eight"`,
		`boat is "eight"`:                               `boat = "eight"`,
		`boat is not "eight"`:                           `boat != "eight"`,
		`boat is one of ("eight", "single")`:            `boat in ("eight", "single")`,
		`boat is none of ("eight")`:                     `boat not in ("eight")`,
		`boat is not in ("eight")`:                      `boat not in ("eight")`,
		`swim is yes`:                                   `swim`,
		`swim is ticked and trailer is no later than 3`: `swim and trailer <= 3`,
		`swim is no`:                                    `swim = no`,
		`swim is not ticked`:                            `swim = no`,
		`trailer is between 2 and 4 or swim`:            `trailer between 2 and 4 or swim`,
		`trailer is not between 2 and 4`:                `not trailer between 2 and 4`,
		`trailer is empty`:                              `trailer is blank`,
		`trailer is not empty`:                          `trailer is answered`,
		`trailer is not answered`:                       `trailer is blank`,
		`trailer is over or equal 3`:                    `trailer >= 3`,
		`trailer is greater than or equal to 3`:         `trailer >= 3`,
		`trailer is less than 3`:                        `trailer < 3`,
		`trailer is at least 3`:                         `trailer >= 3`,
		`trailer is at most 3`:                          `trailer <= 3`,
		`born is no earlier than 2010-01-01`:            `born >= 2010-01-01`,
		`Boat is one of eight, single`:                  `boat in ("eight", "single")`,
		`Born is in the last 7 days`:                    `born between today - 7 days and today`,
		`trailer is …`:                                  `trailer = …`,
	} {
		n, err := syms.ReadWritten(written, true)
		require.NoError(t, err, written)
		assert.Equal(t, want, n.String(), written)
		assert.Empty(t, expr.CheckBegun(n, syms, true), written)
	}
	for written, want := range map[string]string{
		"trailer is":          "the expression ends where a value was expected",
		"trailer is one of 3": "“(” was expected after “one of”, “3” was found",
		"trailer = ":          "the expression ends where a value was expected",
	} {
		_, err := syms.ReadWritten(written, true)
		require.Error(t, err, written)
		assert.Equal(t, want, err.Error(), written)
	}
	// A form file has the language alone.
	_, err := expr.Parse(`boat is "eight"`)
	require.Error(t, err)
}

// Every word that the sentence editor has for an operator is taken in writing, too.
func TestOperatorsInWriting(t *testing.T) {
	syms := deskSymbols(t)
	for _, key := range []string{"boat", "swim", "trailer", "born"} {
		subject, ok := syms.Subject(key)
		require.True(t, ok, key)
		for _, op := range subject.Type.Operators() {
			c := expr.Clause{Key: key, Op: op.ID, Values: syms.KeptOperands(subject.Type, op, nil)}
			n, err := syms.ClauseNode(c)
			require.NoError(t, err)
			back, err := syms.ReadWritten(expr.PiecesText(syms.Sentence(n)), true)
			require.NoError(t, err, expr.PiecesText(syms.Sentence(n)))
			assert.Equal(t, syms.Sentence(n), syms.Sentence(back))
		}
	}
}
