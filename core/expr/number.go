package expr

import (
	"errors"
	"math"
	"math/big"
	"math/bits"
	"strings"

	"github.com/cockroachdb/apd/v3"
)

// MaxDigits is the number of significant digits that a Number holds, the
// precision of IEEE 754 decimal128. Sums, differences and products that need
// no more are exact; longer ones, and divisions, are rounded half to even to
// that many digits.
const MaxDigits = 34

// maxExponent bounds the magnitude: 10^99 and more is out of range, and no number
// has more than 99 decimals. What is computed is held within that, too.
const maxExponent = 99

// ErrNumber is returned for text that is no number, ErrDigits for a number with
// more significant digits than MaxDigits or out of range.
var (
	ErrNumber = errors.New("not a number")
	ErrDigits = errors.New("too many digits")
)

// Number is an exact decimal. The zero value is 0. Numbers that fit, which are
// nearly all, are held as coef × 10^-scale without an allocation; the others in big.
type Number struct {
	coef  int64
	scale uint8
	big   *apd.Decimal
}

const maxScale = 18

var pow10 = [...]int64{1, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6, 1e7, 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15, 1e16, 1e17,
	1e18}

var decimals = apd.Context{
	Precision: MaxDigits, MaxExponent: maxExponent - 1, MinExponent: -maxExponent + MaxDigits - 1,
	Rounding: apd.RoundHalfEven,
}

// Int returns n as a Number.
func Int(n int64) Number { return small(n, 0) }

// small returns coef × 10^-scale in its shortest form.
func small(coef int64, scale uint8) Number {
	for scale > 0 && coef%10 == 0 {
		coef /= 10
		scale--
	}
	return Number{coef: coef, scale: scale}
}

// ParseNumber reads digits with an optional sign and decimal point, as they
// stand in expressions and JSON ("12.50", "-3", "1e6").
func ParseNumber(s string) (Number, error) {
	if n, ok := parseSmall(s); ok {
		return n, nil
	}
	if len(s) > 400 || s == "" ||
		strings.ContainsFunc(s, func(r rune) bool { return !strings.ContainsRune("0123456789+-.eE", r) }) {
		return Number{}, ErrNumber
	}
	d, _, err := apd.NewFromString(s)
	if err != nil || d.Form != apd.Finite {
		return Number{}, ErrNumber
	}
	d.Reduce(d)
	if d.NumDigits() > MaxDigits || int64(d.Exponent)+d.NumDigits() > maxExponent || d.Exponent < -maxExponent {
		return Number{}, ErrDigits
	}
	return fromBig(d), nil
}

func parseSmall(s string) (Number, bool) {
	neg := strings.HasPrefix(s, "-")
	if neg {
		s = s[1:]
	}
	if len(s) == 0 || len(s) > 18 {
		return Number{}, false
	}
	var coef int64
	scale, dot := 0, false
	for i := 0; i < len(s); i++ {
		switch c := s[i]; {
		case c >= '0' && c <= '9':
			coef = coef*10 + int64(c-'0')
			if dot {
				scale++
			}
		case c == '.' && !dot && i > 0 && i < len(s)-1:
			dot = true
		default:
			return Number{}, false
		}
	}
	if neg {
		coef = -coef
	}
	return small(coef, uint8(scale)), true
}

func (n Number) decimal() *apd.Decimal {
	if n.big != nil {
		return n.big
	}
	return apd.New(n.coef, -int32(n.scale))
}

// fromBig takes d over; d must be finite.
func fromBig(d *apd.Decimal) Number {
	d.Reduce(d)
	if d.Exponent >= 0 && int64(d.Exponent)+d.NumDigits() <= maxScale {
		if i, err := d.Int64(); err == nil {
			return Number{coef: i}
		}
	}
	if d.Exponent < 0 && d.Exponent >= -maxScale && d.NumDigits() <= maxScale {
		c := apd.NewWithBigInt(&d.Coeff, 0)
		if i, err := c.Int64(); err == nil {
			if d.Negative {
				i = -i
			}
			return small(i, uint8(-d.Exponent))
		}
	}
	return Number{big: d}
}

// align brings both to one scale; ok is false if that leaves 64 bits.
func align(a, b Number) (x, y int64, scale uint8, ok bool) {
	if a.big != nil || b.big != nil {
		return 0, 0, 0, false
	}
	x, y, scale = a.coef, b.coef, a.scale
	switch {
	case a.scale < b.scale:
		x, ok = mul64(x, pow10[b.scale-a.scale])
		return x, y, b.scale, ok
	case b.scale < a.scale:
		y, ok = mul64(y, pow10[a.scale-b.scale])
		return x, y, scale, ok
	}
	return x, y, scale, true
}

func mul64(a, b int64) (int64, bool) {
	hi, lo := bits.Mul64(abs64(a), abs64(b))
	if hi != 0 || lo > math.MaxInt64 {
		return 0, false
	}
	if (a < 0) != (b < 0) {
		return -int64(lo), true
	}
	return int64(lo), true
}

func abs64(a int64) uint64 {
	if a < 0 {
		return uint64(-a)
	}
	return uint64(a)
}

// Cmp returns -1, 0 or 1.
func (n Number) Cmp(m Number) int {
	if n.big == nil && m.big == nil && n.scale == m.scale {
		switch {
		case n.coef < m.coef:
			return -1
		case n.coef > m.coef:
			return 1
		}
		return 0
	}
	if x, y, _, ok := align(n, m); ok {
		switch {
		case x < y:
			return -1
		case x > y:
			return 1
		}
		return 0
	}
	return n.decimal().Cmp(m.decimal())
}

// Sign returns -1, 0 or 1.
func (n Number) Sign() int {
	if n.big != nil {
		return n.big.Sign()
	}
	switch {
	case n.coef < 0:
		return -1
	case n.coef > 0:
		return 1
	}
	return 0
}

type bigOp func(d, x, y *apd.Decimal) (apd.Condition, error)

// viaBig computes what does not fit into 64 bits. What would be out of range is the last
// number that is not, so that only a blank makes a sum, a difference or a product blank.
func viaBig(op bigOp, a, b Number) Number {
	var d apd.Decimal
	cond, err := op(&d, a.decimal(), b.decimal())
	if err != nil || d.Form != apd.Finite || cond.Overflow() {
		return limit(d.Negative)
	}
	return fromBig(&d)
}

// limit is the largest number, or the smallest.
func limit(negative bool) Number {
	d := apd.NewWithBigInt(new(apd.BigInt).SetMathBigInt(new(big.Int).Sub(tenTo34, big.NewInt(1))), highestExponent)
	d.Negative = negative
	return Number{big: d}
}

// Least and Most are the ends of all numbers.
func Least() Number { return limit(true) }

// Most is the other one.
func Most() Number { return limit(false) }

// Add returns n + m.
func (n Number) Add(m Number) Number {
	if x, y, scale, ok := align(n, m); ok {
		if s := x + y; (s > x) == (y > 0) {
			return small(s, scale)
		}
	}
	return viaBig(decimals.Add, n, m)
}

// Neg returns -n.
func (n Number) Neg() Number {
	if n.big != nil {
		var d apd.Decimal
		d.Neg(n.big)
		return Number{big: &d}
	}
	return Number{coef: -n.coef, scale: n.scale}
}

// Sub returns n - m.
func (n Number) Sub(m Number) Number { return n.Add(m.Neg()) }

// Mul returns n × m.
func (n Number) Mul(m Number) Number {
	if n.big == nil && m.big == nil && n.scale+m.scale <= maxScale {
		if c, ok := mul64(n.coef, m.coef); ok {
			return small(c, n.scale+m.scale)
		}
	}
	return viaBig(decimals.Mul, n, m)
}

// Div returns n ÷ m; ok is false for a division by zero.
func (n Number) Div(m Number) (quotient Number, ok bool) {
	if m.Sign() == 0 {
		return Number{}, false
	}
	if n.big == nil && m.big == nil && n.scale == m.scale && n.coef%m.coef == 0 {
		return small(n.coef/m.coef, 0), true
	}
	return viaBig(decimals.Quo, n, m), true
}

// Round rounds half away from zero to places decimals; places may be negative, and beyond
// -99 to 99 is the same as there.
func (n Number) Round(places int) Number {
	if n.big == nil && places >= int(n.scale) {
		return n
	}
	return n.quantize(min(max(places, -maxExponent), maxExponent), apd.RoundHalfUp)
}

// Floor returns the greatest whole number that is not above n.
func (n Number) Floor() Number {
	floor := n.quantize(0, apd.RoundFloor)
	if floor.Cmp(n) > 0 { // the library makes 0 of whatever is nearer to it than 0.1
		return floor.Sub(Int(1))
	}
	return floor
}

// Ceil returns the least whole number that is not below n.
func (n Number) Ceil() Number {
	ceil := n.quantize(0, apd.RoundCeiling)
	if ceil.Cmp(n) < 0 {
		return ceil.Add(Int(1))
	}
	return ceil
}

func (n Number) quantize(places int, rounding apd.Rounder) Number {
	d := n.decimal()
	if d.Exponent >= -int32(places) {
		return n
	}
	ctx := decimals
	ctx.Rounding, ctx.Precision, ctx.MinExponent, ctx.MaxExponent = rounding, 3*MaxDigits+2*maxExponent, -3*maxExponent,
		3*maxExponent
	var out apd.Decimal
	_, err := ctx.Quantize(&out, d, -int32(places))
	switch {
	case err != nil || out.Form != apd.Finite || int64(out.Exponent)+out.NumDigits() > maxExponent:
		return limit(d.Negative)
	case out.IsZero():
		return Number{}
	}
	return fromBig(&out)
}

// Abs returns the magnitude of n.
func (n Number) Abs() Number {
	if n.Sign() < 0 {
		return n.Neg()
	}
	return n
}

// Whole returns n as an int if it is a whole number of at most nine digits.
func (n Number) Whole() (int, bool) {
	if n.big != nil || n.scale != 0 || n.coef > 999_999_999 || n.coef < -999_999_999 {
		return 0, false
	}
	return int(n.coef), true
}

// Held returns n rounded down, held within low and high.
func (n Number) Held(low, high int) int {
	floor := n.Floor()
	if floor.Cmp(Int(int64(low))) < 0 {
		return low
	}
	if whole, ok := floor.Whole(); ok {
		return min(whole, high)
	}
	return high
}

// String returns all digits in plain notation, without trailing zeros.
func (n Number) String() string {
	if n.big != nil {
		return n.big.Text('f')
	}
	if n.scale == 0 {
		return itoa(n.coef)
	}
	neg := n.coef < 0
	digits := itoa(n.coef)
	if neg {
		digits = digits[1:]
	}
	for len(digits) <= int(n.scale) {
		digits = "0" + digits
	}
	cut := len(digits) - int(n.scale)
	digits = digits[:cut] + "." + digits[cut:]
	if neg {
		return "-" + digits
	}
	return digits
}

// MarshalJSON writes the number with all its digits.
func (n Number) MarshalJSON() ([]byte, error) { return []byte(n.String()), nil }

// UnmarshalJSON reads a JSON number exactly.
func (n *Number) UnmarshalJSON(b []byte) error {
	got, err := ParseNumber(string(b))
	if err != nil {
		return err
	}
	*n = got
	return nil
}
