package expr

import (
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Every number that is written has its place, and neighbours lie as near as numbers can.
func TestOrdinalsAreInOrder(t *testing.T) {
	last := new(big.Int).Add(tenTo34, new(big.Int).Mul(perPower, big.NewInt(highestExponent-lowestExponent)))
	rapid.Check(t, func(t *rapid.T) {
		digits := rapid.StringMatching(`-?[1-9][0-9]{0,33}`).Draw(t, "digits")
		exponent := rapid.IntRange(lowestExponent, highestExponent).Draw(t, "exponent")
		n, err := ParseNumber(digits + "e" + itoa(int64(exponent)))
		require.NoError(t, err)

		at := n.ordinal()
		back, ok := numberAt(at)
		require.True(t, ok)
		require.Zero(t, n.Cmp(back), "%s is found again where it is", n)

		next, ok := numberAt(new(big.Int).Add(at, big.NewInt(1)))
		if !ok {
			require.Zero(t, at.Cmp(new(big.Int).Sub(last, big.NewInt(1))))
			return
		}
		require.Positive(t, next.Cmp(n))
		// Nothing lies between: the middle of both is rounded to one of them.
		if mid, ok := next.Add(n).Div(Int(2)); ok {
			require.True(t, mid.Cmp(n) == 0 || mid.Cmp(next) == 0, "%s lies between %s and %s", mid, n, next)
		}
	})
	_, ok := numberAt(last)
	require.False(t, ok)
	zero, _ := numberAt(new(big.Int))
	require.Zero(t, zero.Sign())
	require.Zero(t, Number{}.ordinal().Sign())
}

// What is computed can be written down and read again as it is.
func TestResultsCanBeRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		number := rapid.Custom(func(t *rapid.T) Number {
			n, err := ParseNumber(rapid.StringMatching(`-?[1-9][0-9]{0,33}`).Draw(t, "digits") + "e" +
				itoa(int64(rapid.IntRange(lowestExponent, highestExponent).Draw(t, "exponent"))))
			require.NoError(t, err)
			return n
		})
		a, b := number.Draw(t, "a"), number.Draw(t, "b")
		rounded := a.Round(rapid.IntRange(-99, 99).Draw(t, "places"))
		quotient, ok := a.Div(b)
		require.True(t, ok)
		for _, got := range []Number{a.Add(b), a.Sub(b), a.Mul(b), quotient, rounded, a.Floor(), a.Ceil()} {
			back, err := ParseNumber(got.String())
			require.NoError(t, err, got.String())
			require.Zero(t, got.Cmp(back))
		}
	})
}

// Half goes to the even digit.
func TestTheLastDigitIsRoundedHalfToEven(t *testing.T) {
	half := func(s string) string {
		n, err := ParseNumber(s)
		require.NoError(t, err)
		h, _ := ParseNumber("0.5")
		return n.Add(h).String()
	}
	require.Equal(t, "1000000000000000000000000000000000", half("1000000000000000000000000000000000"))
	require.Equal(t, "1000000000000000000000000000000002", half("1000000000000000000000000000000001"))
}

// Whole numbers below and above are that, however near to zero a number is.
func TestWholeNumbersBelowAndAbove(t *testing.T) {
	for text, want := range map[string][2]string{
		"0.01": {"0", "1"}, "-0.01": {"-1", "0"}, "1e-34": {"0", "1"}, "-1e-99": {"-1", "0"}, "0.5": {"0", "1"},
		"2":    {"2", "2"},
		"-2.5": {"-3", "-2"}, "7e60": {"7" + strings.Repeat("0", 60), "7" + strings.Repeat("0", 60)}, "0": {"0", "0"},
	} {
		n, err := ParseNumber(text)
		require.NoError(t, err)
		require.Equal(t, want, [2]string{n.Floor().String(), n.Ceil().String()}, text)
	}
}
