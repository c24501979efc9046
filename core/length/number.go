// Package length knows exact numbers and the units lengths are given in. A Number is a rational
// number that never rounds, so that 0.02 or 1/128 in is what it says; Parse reads the numbers of
// documents and ReadTyped what people write in a box. No floating point takes part in any of it.
package length

import (
	"fmt"
	"math/big"
	"math/bits"
	"slices"
	"strings"
)

// Number is an exact rational number. The zero value is 0. Numbers are immutable; compare them with
// Equal or Cmp, not with ==, since a number is held in several forms.
type Number struct {
	num, den int64    // den > 0 (or 0 in the zero value, which stands for 1), see ratio; used when big is nil
	big      *big.Rat // only what does not fit int64/int64
}

// Int returns n as a Number.
func Int(n int64) Number { return Number{num: n, den: 1} }

// FromHalves returns half of a count of half marks: marks are kept as whole numbers of halves.
func FromHalves(n int64) Number { return Frac(n, 2) }

// ToHalves returns how many whole half marks a number of marks is, rounded down.
func ToHalves(marks Number) int64 {
	n, _ := marks.MulInt(2).Floor().Int64()
	return n
}

// Frac returns num/den in lowest terms. It panics when den is 0, as an integer division does.
func Frac(num, den int64) Number {
	if den == 0 {
		panic("length: division by zero")
	}
	if den == 1 {
		return Number{num: num, den: 1}
	}
	if den > 0 && num > -1<<62 {
		g := gcd(abs(num), uint64(den))
		if g == 1 {
			return Number{num: num, den: den}
		}
		return Number{num: num / int64(g), den: den / int64(g)}
	}
	return fromRat(big.NewRat(num, den))
}

// ratio returns num/den, where den is more than 0: in lowest terms only where the two would grow, since most of the
// time of exact arithmetic is spent on greatest common divisors.
func ratio(num, den int64) Number {
	if den < 1<<24 && num < 1<<36 && num > -1<<36 {
		return Number{num: num, den: den}
	}
	return Frac(num, den)
}

// lowest returns a small number in lowest terms.
func (x Number) lowest() Number { return Frac(x.num, x.d()) }

// pow10 holds the powers of ten that fit an int64.
var pow10 = func() (p [19]int64) {
	p[0] = 1
	for i := 1; i < len(p); i++ {
		p[i] = 10 * p[i-1]
	}
	return p
}()

// Pow10 returns ten to the power e, which may be negative.
func Pow10(e int) Number {
	switch {
	case e >= 0 && e < len(pow10):
		return Int(pow10[e])
	case e < 0 && -e < len(pow10):
		return Number{num: 1, den: pow10[-e]}
	}
	n := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(max(e, -e))), nil)
	if e < 0 {
		return fromRat(new(big.Rat).SetFrac(big.NewInt(1), n))
	}
	return fromRat(new(big.Rat).SetInt(n))
}

func abs(n int64) uint64 {
	if n < 0 {
		return uint64(-n)
	}
	return uint64(n)
}

// gcd is the greatest common divisor by Stein's method: shifts and differences are faster than
// remainders, and most of the time of exact arithmetic is spent here. gcd(0, b) is b; b is not 0.
func gcd(a, b uint64) uint64 {
	if a == 0 {
		return b
	}
	shift := bits.TrailingZeros64(a | b)
	a >>= bits.TrailingZeros64(a)
	for b != 0 {
		b >>= bits.TrailingZeros64(b)
		less := b - a // a and b become the smaller one and the distance: no branch that a processor could guess wrong
		sign := uint64(int64(less) >> 63)
		a += less & sign
		b = (less ^ sign) - sign
	}
	return a << shift
}

// d is the denominator of a small number.
func (x Number) d() int64 {
	if x.den == 0 {
		return 1
	}
	return x.den
}

func (x Number) rat() *big.Rat {
	if x.big != nil {
		return x.big
	}
	return big.NewRat(x.num, x.d())
}

func fromRat(r *big.Rat) Number {
	if r.Num().IsInt64() && r.Denom().IsInt64() && r.Num().Int64() > -1<<62 {
		return Number{num: r.Num().Int64(), den: r.Denom().Int64()}
	}
	return Number{big: r}
}

// mul multiplies and says whether the product fits well inside an int64.
func mul(a, b int64) (int64, bool) {
	hi, lo := bits.Mul64(abs(a), abs(b))
	if hi != 0 || lo >= 1<<62 {
		return 0, false
	}
	if (a < 0) != (b < 0) {
		return -int64(lo), true
	}
	return int64(lo), true
}

// Add returns x + y.
func (x Number) Add(y Number) Number {
	if x.big == nil && y.big == nil {
		xd, yd := x.d(), y.d()
		if xd == yd {
			if s := x.num/2 + y.num/2; s > -1<<60 && s < 1<<60 {
				return ratio(x.num+y.num, xd)
			}
		}
		a, ok1 := mul(x.num, yd)
		b, ok2 := mul(y.num, xd)
		d, ok3 := mul(xd, yd)
		if ok1 && ok2 && ok3 {
			if s := a/2 + b/2; s > -1<<60 && s < 1<<60 {
				return ratio(a+b, d)
			}
		}
	}
	return fromRat(new(big.Rat).Add(x.rat(), y.rat()))
}

// Sub returns x − y.
func (x Number) Sub(y Number) Number { return x.Add(y.Neg()) }

// Neg returns −x.
func (x Number) Neg() Number {
	if x.big == nil {
		return Number{num: -x.num, den: x.d()}
	}
	return fromRat(new(big.Rat).Neg(x.big))
}

// Abs returns x without its sign.
func (x Number) Abs() Number {
	if x.Sign() < 0 {
		return x.Neg()
	}
	return x
}

// Mul returns x · y.
func (x Number) Mul(y Number) Number {
	if x.big == nil && y.big == nil {
		n, ok1 := mul(x.num, y.num)
		d, ok2 := mul(x.d(), y.d())
		if ok1 && ok2 {
			return ratio(n, d)
		}
	}
	return fromRat(new(big.Rat).Mul(x.rat(), y.rat()))
}

// MulInt returns x · n.
func (x Number) MulInt(n int) Number { return x.Mul(Int(int64(n))) }

// Quo returns x ÷ y. It panics when y is 0.
func (x Number) Quo(y Number) Number {
	if y.Sign() == 0 {
		panic("length: division by zero")
	}
	if x.big == nil && y.big == nil {
		n, ok1 := mul(x.num, y.d())
		d, ok2 := mul(x.d(), y.num)
		if ok1 && ok2 {
			if d < 0 {
				n, d = -n, -d
			}
			return ratio(n, d)
		}
	}
	return fromRat(new(big.Rat).Quo(x.rat(), y.rat()))
}

// Cmp returns −1, 0 or +1 as x is less than, equal to or greater than y.
func (x Number) Cmp(y Number) int {
	if x.big == nil && y.big == nil {
		a, ok1 := mul(x.num, y.d())
		b, ok2 := mul(y.num, x.d())
		if ok1 && ok2 {
			switch {
			case a < b:
				return -1
			case a > b:
				return 1
			}
			return 0
		}
	}
	return x.rat().Cmp(y.rat())
}

// Equal reports whether x and y are the same number.
func (x Number) Equal(y Number) bool {
	if xd := x.d(); x.big == nil && y.big == nil && xd == y.d() {
		return x.num == y.num
	}
	return x.Cmp(y) == 0
}

// Less reports whether x < y.
func (x Number) Less(y Number) bool { return x.Cmp(y) < 0 }

// Sign returns −1, 0 or +1 as x is negative, zero or positive.
func (x Number) Sign() int {
	if x.big != nil {
		return x.big.Sign()
	}
	switch {
	case x.num < 0:
		return -1
	case x.num > 0:
		return 1
	}
	return 0
}

// IsInt reports whether x is a whole number.
func (x Number) IsInt() bool {
	if x.big != nil {
		return x.big.IsInt()
	}
	return x.num%x.d() == 0
}

// IsPow10 reports whether x is a power of ten: 1, 10, 100 … or 0.1, 0.01 ….
func (x Number) IsPow10() bool {
	if x.big != nil {
		return false // beyond any scale
	}
	x = x.lowest()
	return x.d() == 1 && slices.Contains(pow10[:], x.num) || x.num == 1 && slices.Contains(pow10[:], x.d())
}

// Floor returns the greatest whole number that is not greater than x.
func (x Number) Floor() Number {
	if x.big != nil {
		q := new(big.Int).Div(x.big.Num(), x.big.Denom()) // Euclidean: floors for a positive divisor
		return fromRat(new(big.Rat).SetInt(q))
	}
	q := x.num / x.d()
	if x.num%x.d() < 0 {
		q--
	}
	return Int(q)
}

// Int64 returns x as an integer, and whether x is one that fits.
func (x Number) Int64() (int64, bool) {
	if x.big != nil || x.num%x.d() != 0 {
		return 0, false
	}
	return x.num / x.d(), true
}

// Float returns the nearest float64, for drawing only: no reading and no mark is computed with it.
func (x Number) Float() float64 {
	if x.big != nil {
		f, _ := x.big.Float64()
		return f
	}
	return float64(x.num) / float64(x.d())
}

// Decimals returns how many decimal places x has when written out in full, and false when it has no
// end, as 1/3.
func (x Number) Decimals() (int, bool) {
	if x.big == nil {
		d, twos, fives := x.lowest().d(), 0, 0
		for ; d%2 == 0; d /= 2 {
			twos++
		}
		for ; d%5 == 0; d /= 5 {
			fives++
		}
		return max(twos, fives), d == 1
	}
	den := new(big.Int).Set(x.rat().Denom())
	places := 0
	for _, p := range []int64{2, 5} {
		n, prime, rest := 0, big.NewInt(p), new(big.Int)
		for {
			q, r := new(big.Int).QuoRem(den, prime, rest)
			if r.Sign() != 0 {
				break
			}
			den, n = q, n+1
		}
		places = max(places, n)
	}
	return places, den.IsInt64() && den.Int64() == 1
}

// String writes x exactly: as a decimal number where it has an end, else as a mixed fraction.
func (x Number) String() string {
	if p, ok := x.Decimals(); ok {
		return x.Text(p)
	}
	return x.Fraction()
}

// Text writes x with the given number of decimal places, rounded half away from zero. What rounds to
// nothing has no sign.
func (x Number) Text(places int) string {
	if x.big != nil || places > 18 {
		return x.longText(places)
	}
	n, ok := mul(x.num, pow10[places])
	if !ok {
		return x.longText(places)
	}
	a, d := abs(n), uint64(x.d())
	q, r := a/d, a%d
	if r >= d-r {
		q++
	}
	below := n < 0 && q != 0
	var room [48]byte
	at := len(room)
	for i := 0; i <= places || q != 0; i++ {
		if i == places && places > 0 {
			at--
			room[at] = '.'
		}
		at--
		room[at] = '0' + byte(q%10)
		q /= 10
	}
	if below {
		at--
		room[at] = '-'
	}
	return string(room[at:])
}

// longText is Text for what is too large or too fine for machine integers.
func (x Number) longText(places int) string {
	s := x.rat().FloatString(places)
	if strings.Trim(s, "-0.") == "" {
		s = strings.TrimPrefix(s, "-")
	}
	return s
}

// Fraction writes x as people write inches: "2 51/128", "3/16", "-1 1/2", "4".
func (x Number) Fraction() string {
	r := x.rat()
	if r.IsInt() {
		return r.Num().String()
	}
	whole, rest := new(big.Int).QuoRem(new(big.Int).Abs(r.Num()), r.Denom(), new(big.Int))
	sign := ""
	if r.Sign() < 0 {
		sign = "-"
	}
	if whole.Sign() == 0 {
		return fmt.Sprintf("%s%s/%s", sign, rest, r.Denom())
	}
	return fmt.Sprintf("%s%s %s/%s", sign, whole, rest, r.Denom())
}

// maxStored bounds what is read back, in characters: far more than any number that follows from accepted
// ones is written with.
const maxStored = 4096

// MarshalText writes x as documents hold it; see Parse.
func (x Number) MarshalText() ([]byte, error) { return []byte(x.String()), nil }

// UnmarshalText reads a number as ParseStored does. Documents from outside are held to the bounds of Parse before.
func (x *Number) UnmarshalText(b []byte) error {
	n, err := ParseStored(string(b))
	if err != nil {
		return err
	}
	*x = n
	return nil
}

// Round returns x with so many decimals, rounded half away from zero.
func (x Number) Round(places int) Number { return x.RoundTo(Pow10(-places)) }

// Cut returns x with so many decimals, the others cut off.
func (x Number) Cut(places int) Number { return x.CutTo(Pow10(-places)) }

// RoundTo returns the multiple of a step, which is more than 0, that is nearest to x, half away from zero.
func (x Number) RoundTo(step Number) Number {
	r := x.Abs().Quo(step).Add(Frac(1, 2)).Floor().Mul(step)
	if x.Sign() < 0 {
		return r.Neg()
	}
	return r
}

// CutTo returns the next multiple of a step, which is more than 0, from x towards zero.
func (x Number) CutTo(step Number) Number {
	r := x.Abs().Quo(step).Floor().Mul(step)
	if x.Sign() < 0 {
		return r.Neg()
	}
	return r
}

// Grid is a common denominator: numbers are whole multiples of 1/Grid, so that many sums of them can be compared as
// integers. It begins as 1, and is 0 once a number was too large or too fine for it.
type Grid int64

// Hold makes the grid so fine that x lies on it.
func (g *Grid) Hold(x Number) {
	d := x.d()
	switch n := int64(*g); {
	case n == 0 || x.big != nil || abs(x.num) >= 1<<30 || d >= 1<<30:
		*g = 0
	case n%d != 0:
		if n = n / int64(gcd(uint64(n), uint64(d))) * d; n >= 1<<30 {
			n = 0
		}
		*g = Grid(n)
	}
}

// Of returns how many units of the grid a number is, which the grid must hold.
func (g Grid) Of(x Number) int64 { return x.num * (int64(g) / x.d()) }

// Sqrt returns the square root of x ≥ 0 with so many decimals, rounded to the nearest. It is found in whole
// numbers: no floating point takes part.
func (x Number) Sqrt(places int) Number {
	four := Int(4)
	scaled := x.Mul(four).Mul(Pow10(2 * places)).Floor().rat().Num() // of twice the root in the last place
	twice := fromRat(new(big.Rat).SetInt(new(big.Int).Sqrt(scaled)))
	return twice.Add(Int(1)).Mul(Frac(1, 2)).Floor().Quo(Pow10(places))
}
