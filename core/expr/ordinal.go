package expr

import (
	"math/big"

	"github.com/cockroachdb/apd/v3"
)

// lowestExponent and highestExponent are those of the last of MaxDigits digits: numbers lie
// 10^lowestExponent apart near zero, and further apart with each power of ten.
const (
	lowestExponent  = -maxExponent
	highestExponent = maxExponent - MaxDigits
)

var (
	tenTo33, tenTo34 = power(MaxDigits - 1), power(MaxDigits)
	// perPower is how many numbers lie between a power of ten and the next.
	perPower = new(big.Int).Sub(tenTo34, tenTo33)
)

func power(n int64) *big.Int { return new(big.Int).Exp(big.NewInt(10), big.NewInt(n), nil) }

// ordinal is the place of n among all numbers in their order: 0 for zero, 1 for the least
// positive one, negative for negative ones.
func (n Number) ordinal() *big.Int {
	d := n.decimal()
	coef, exp := new(big.Int).Set(d.Coeff.MathBigInt()), int64(d.Exponent)
	switch digits := d.NumDigits(); {
	case coef.Sign() == 0:
		return coef
	case exp+digits <= lowestExponent+MaxDigits: // as near to zero as numbers lie evenly
		coef.Mul(coef, power(exp-lowestExponent))
	default:
		coef.Mul(coef, power(MaxDigits-digits))
		exp += digits - MaxDigits
		coef.Sub(coef, tenTo33)
		coef.Add(coef, tenTo34)
		coef.Add(coef, new(big.Int).Mul(perPower, big.NewInt(exp-lowestExponent-1)))
	}
	if n.Sign() < 0 {
		coef.Neg(coef)
	}
	return coef
}

// numberAt is the number whose ordinal is i; ok is false beyond the last.
func numberAt(i *big.Int) (n Number, ok bool) {
	coef, exp := new(big.Int).Abs(i), int64(lowestExponent)
	if coef.Cmp(tenTo34) >= 0 {
		powers, rest := new(big.Int).QuoRem(coef.Sub(coef, tenTo34), perPower, new(big.Int))
		if !powers.IsInt64() || powers.Int64() > highestExponent-lowestExponent-1 {
			return Number{}, false
		}
		coef, exp = rest.Add(rest, tenTo33), exp+powers.Int64()+1
	}
	d := apd.NewWithBigInt(new(apd.BigInt).SetMathBigInt(coef), int32(exp))
	d.Negative = i.Sign() < 0
	return fromBig(d), true
}

// Beside is the next number above n or, if way is -1, below it; ok is false at the end.
func (n Number) Beside(way int) (beside Number, ok bool) {
	return numberAt(new(big.Int).Add(n.ordinal(), big.NewInt(int64(way))))
}

// Middle is the number with as many numbers between it and a as between it and b; ok is
// false if there is none between them.
func Middle(a, b Number) (middle Number, ok bool) {
	low, high := a.ordinal(), b.ordinal()
	at := new(big.Int).Rsh(new(big.Int).Add(low, high), 1)
	middle, inRange := numberAt(at)
	return middle, inRange && at.Cmp(low) > 0 && at.Cmp(high) < 0
}
