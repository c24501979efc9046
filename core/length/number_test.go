package length_test

import (
	"cmp"
	"fmt"
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/length"
	"cavix/core/text"
)

func ExampleReadTyped() {
	for _, s := range []string{"7,60", " −0.03 mm", "1 3/16 in", "seven"} {
		t, err := length.ReadTyped(s)
		if err != nil {
			fmt.Println(text.Says(err).Key())
			continue
		}
		fmt.Println(t.Value, t.Unit, t.Decimals)
	}
	// Output:
	// 7.6  2
	// -0.03 mm 2
	// 1.1875 in 0
	// number.holds-no-number-write
}

func TestReadTyped(t *testing.T) {
	for _, tt := range []struct {
		in, value string
		unit      length.Unit
		decimals  int
		signed    bool
	}{
		{"7.60", "7.6", "", 2, false},
		{"7,60", "7.6", "", 2, false},
		{" 7.60mm ", "7.6", "mm", 2, false},
		{"+0.03", "0.03", "", 2, true},
		{"−0.03", "-0.03", "", 2, true},
		{"– 0.03", "-0.03", "", 2, true},
		{".318", "0.318", "", 3, false},
		{"12.", "12", "", 0, false},
		{"3/16", "0.1875", "", 0, false},
		{"1 3/16", "1.1875", "", 0, false},
		{"-1 3/16\"", "-1.1875", "in", 0, true},
		{"2 ⁄ 8 in.", "0.25", "in", 0, false},
		{"0.5 Inches", "0.5", "in", 1, false},
		{"3 in.", "3", "in", 0, false},
		{"12 thou", "12", "thou", 0, false},
		{"00012", "12", "", 0, false},
		{"12.06 mm.", "12.06", "mm", 2, false},
		{"12.06.", "12.06", "", 2, false},
		{"= 12.06", "12.06", "", 2, false},
		{"12·06", "12.06", "", 2, false},
		{"\u200e12.06\u200b mm\ufeff", "12.06", "mm", 2, false},
		{"١٢٫٠٦", "12.06", "", 2, false},
		{"१२.०६ mm", "12.06", "mm", 2, false},
		{"１２．０６", "12.06", "", 2, false},
		{"2-3/8", "2.375", "", 0, false},
		{"−2 - 3/8 in", "-2.375", "in", 0, true},
		{"2⅜", "2.375", "", 0, false},
		{"½", "0.5", "", 0, false},
		{"1.206e1", "12.06", "", 2, false},
		{"-4E-2", "-0.04", "", 2, true},
		{"12，06", "12.06", "", 2, false},
		{"12 . 06", "12.06", "", 2, false},
		{"12.06 =", "12.06", "", 2, false},
		{"2 3/8 Zoll", "2.375", "in", 0, false},
		{"1,206 centímetros", "1.206", "cm", 3, false},
		{"12,06 millimètres", "12.06", "mm", 2, false},
	} {
		got, err := length.ReadTyped(tt.in)
		require.NoError(t, err, tt.in)
		assert.Equal(t, tt.value, got.Value.String(), tt.in)
		assert.Equal(t, tt.unit, got.Unit, tt.in)
		assert.Equal(t, tt.decimals, got.Decimals, tt.in)
		assert.Equal(t, tt.signed, got.Signed, tt.in)
	}
	for _, in := range []string{"", "  ", "mm", "7.6.0", "7,6.0", "1/0", "1/2/3", "7 6", "--3", "+", "7.6 furlong",
		"0x10", "3/-4", "2-3", "1e", "1e2.5", "1/2e3", "1e99", "½½", "= ", "0.012 m",
		strings.Repeat("1", 19), "0." + strings.Repeat("1", 18) + "1", "1/1329227995784915872903807060280344576",
		strings.Repeat("1", 41), "\xff1", "1 1.5/2", "NaN", "inf"} {
		_, err := length.ReadTyped(in)
		assert.Error(t, err, "%q", in)
	}
}

func TestParseRefusesWhatDocumentsDoNotWrite(t *testing.T) {
	for _, in := range []string{"0,02", "+1", "1mm", "−1", "", "1/0", "abc", "1 2"} {
		_, err := length.Parse(in)
		assert.Error(t, err, "%q", in)
	}
	var n length.Number
	require.NoError(t, n.UnmarshalText([]byte("1 3/16")))
	assert.Equal(t, "1 3/16", n.Fraction())
}

// The exact numbers are held against math/big over small and very large values alike.
func TestArithmeticAgreesWithBig(t *testing.T) {
	draws := rand.New(rand.NewPCG(1, 2))
	draw := func() (length.Number, *big.Rat) {
		top, bottom := draws.Int64N(1<<62)>>draws.IntN(62), 1+draws.Int64N(1<<62)>>draws.IntN(62)
		if draws.IntN(2) == 0 {
			top = -top
		}
		return length.Frac(top, bottom), big.NewRat(top, bottom)
	}
	same := func(x length.Number, want *big.Rat) {
		t.Helper()
		got, ok := new(big.Rat).SetString(strings.Replace(x.Fraction(), " ", "+", 1))
		if !ok { // a mixed fraction: whole and rest have the same sign
			whole, rest, _ := strings.Cut(x.Fraction(), " ")
			w, _ := new(big.Rat).SetString(whole)
			r, _ := new(big.Rat).SetString(rest)
			if strings.HasPrefix(whole, "-") {
				r.Neg(r)
			}
			got = w.Add(w, r)
		}
		require.Zero(t, want.Cmp(got), "%s, want %s", x.Fraction(), want)
	}
	rounds := 20000
	if testing.Short() {
		rounds = 4000
	}
	for range rounds {
		x, bx := draw()
		y, by := draw()
		same(x.Add(y), new(big.Rat).Add(bx, by))
		same(x.Sub(y), new(big.Rat).Sub(bx, by))
		same(x.Mul(y), new(big.Rat).Mul(bx, by))
		if y.Sign() != 0 {
			same(x.Quo(y), new(big.Rat).Quo(bx, by))
		}
		require.Equal(t, bx.Cmp(by), x.Cmp(y))
		f := x.Floor()
		require.True(t, f.IsInt() && f.Cmp(x) <= 0 && x.Less(f.Add(length.Int(1))), "floor of %s is %s", x, f)
		require.Equal(t, strings.Replace(bx.FloatString(4), "-0.0000", "0.0000", 1), x.Text(4))
	}
}

// What is worked out of small numbers is the same number as the fraction in lowest terms, and lies on the same grid.
func TestWhatIsWorkedOutIsTheFractionInLowestTerms(t *testing.T) {
	draws := rand.New(rand.NewPCG(3, 4))
	draw := func() (length.Number, *big.Rat) {
		top, bottom := draws.Int64N(4000)-2000, []int64{1, 2, 5, 8, 10, 50, 100, 128, 360, 1000}[draws.IntN(10)]
		return length.Frac(top, bottom), big.NewRat(top, bottom)
	}
	for range 4000 {
		x, bx := draw()
		y, by := draw()
		z, bz := x.Add(y).Mul(y).Sub(x), new(big.Rat).Add(bx, by)
		bz.Sub(bz.Mul(bz, by), bx)
		if draws.IntN(2) == 0 && by.Sign() != 0 {
			z, bz = z.Quo(y), bz.Quo(bz, by)
		}
		lowest := length.Frac(bz.Num().Int64(), bz.Denom().Int64())
		require.True(t, z.Equal(lowest) && lowest.Equal(z), "%s, want %s", z, lowest)
		require.Equal(t, lowest.String(), z.String())
		require.Equal(t, lowest.IsInt(), z.IsInt())
		require.Equal(t, lowest.IsPow10(), z.IsPow10())
		wantN, want := lowest.Int64()
		n, is := z.Int64()
		require.Equal(t, want, is)
		require.Equal(t, wantN, n)

		g, sum := length.Grid(1), x.Add(y)
		for _, held := range []length.Number{x, y, sum} {
			g.Hold(held)
		}
		require.NotZero(t, g)
		require.Equal(t, g.Of(sum), g.Of(x)+g.Of(y))
		require.Equal(t, x.Cmp(y), cmp.Compare(g.Of(x), g.Of(y)))
	}
	for _, large := range []length.Number{length.Pow10(12), length.Frac(1, 1<<40), length.Pow10(30)} {
		g := length.Grid(1)
		g.Hold(length.Frac(1, 3))
		g.Hold(large)
		g.Hold(length.Int(1))
		assert.Zero(t, g, "%s", large)
	}
}

func TestText(t *testing.T) {
	for _, tt := range []struct {
		num, den int64
		places   int
		want     string
	}{
		{1, 8, 2, "0.13"}, {-1, 8, 2, "-0.13"}, {1, 8, 3, "0.125"}, {5, 2, 0, "3"}, {-5, 2, 0, "-3"},
		{-1, 1000, 2, "0.00"}, {3162, 100, 2, "31.62"}, {-5, 100, 3, "-0.050"}, {0, 1, 2, "0.00"}, {-120, 1, 0, "-120"},
	} {
		assert.Equal(t, tt.want, length.Frac(tt.num, tt.den).Text(tt.places))
	}
	assert.Equal(t, "1/3", length.Frac(1, 3).String())
	assert.Equal(t, "2 51/128", length.Frac(2*128+51, 128).Fraction())
}

func TestConvert(t *testing.T) {
	assert.Equal(t, "25.4", length.Convert(length.Int(1), length.Inch, length.Millimetre).String())
	assert.Equal(t, "1.5", length.Convert(length.Int(15), length.Millimetre, length.Centimetre).String())
	assert.Equal(t, "0.012", length.Convert(length.Int(12), "thou", length.Inch).String())
}

func FuzzReadTyped(f *testing.F) {
	for _, s := range []string{"7,60", "−0.03mm", "1 3/16 in.", ".5", "1/0", "+-1", "9999999999999999999999999999"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		typed, err := length.ReadTyped(s)
		if err != nil {
			return
		}
		require.GreaterOrEqual(t, typed.Decimals, 0)
		// What was accepted can be stored and read back as the same number, and so can what is worked out of it.
		for _, x := range []length.Number{typed.Value, typed.Value.Mul(length.Frac(1, 7)),
			typed.Value.Mul(typed.Value)} {
			text, err := x.MarshalText()
			require.NoError(t, err)
			var again length.Number
			require.NoError(t, again.UnmarshalText(text), "%q is stored as %s", s, text)
			require.True(t, again.Equal(x), "%q", s)
		}
	})
}
