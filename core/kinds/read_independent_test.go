package kinds_test

import (
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
)

// rat reads a number off its written form, as "-1 3/16".
func rat(x length.Number) *big.Rat {
	text := x.Fraction()
	whole, rest, mixed := strings.Cut(text, " ")
	r, ok := new(big.Rat).SetString(whole)
	if mixed {
		part, _ := new(big.Rat).SetString(rest)
		if strings.HasPrefix(whole, "-") {
			part.Neg(part)
		}
		r.Add(r, part)
	}
	if !ok {
		panic(text)
	}
	return r
}

func floor(r *big.Rat) *big.Rat {
	return new(big.Rat).SetInt(new(big.Int).Div(r.Num(), r.Denom())) // Euclidean, so it floors
}

// sheetOfPaper works a card's answers out with rational arithmetic from the definition alone, without any
// of the core's own readings.
func sheetOfPaper(in *instrument.Instrument, y length.Number) map[string]*big.Rat {
	s := in.Spec()
	L, n, v := rat(s.Main.Division), int64(1), int64(1)
	switch s.Fine.Kind {
	case instrument.Vernier:
		n = int64(s.Fine.Divisions)
	case instrument.Drum:
		L, n = rat(s.Fine.Travel), int64(s.Fine.Divisions)
	case instrument.Dial:
		L = new(big.Rat).Quo(rat(s.Fine.Travel), big.NewRat(int64(s.Fine.Zeros), 1))
		n = int64(s.Fine.Divisions / s.Fine.Zeros)
	case instrument.Display:
		L = rat(s.Fine.Steps[s.Unit])
	}
	if s.Finer.Divisions > 0 {
		v = int64(s.Finer.Divisions)
	}
	mul := func(a, b *big.Rat) *big.Rat { return new(big.Rat).Mul(a, b) }
	quo := func(a, b *big.Rat) *big.Rat { return new(big.Rat).Quo(a, b) }
	line := quo(L, big.NewRat(n, 1))
	c := quo(line, big.NewRat(v, 1))
	shown := new(big.Rat).Sub(rat(y), rat(s.Base))
	main := mul(floor(quo(shown, L)), L)
	rest := new(big.Rat).Sub(shown, main)
	k := floor(quo(rest, line))
	k2 := floor(quo(new(big.Rat).Sub(rest, mul(k, line)), c))
	e := rat(s.ZeroError)
	return map[string]*big.Rat{
		slips.LeastCount: c, slips.Main: main, slips.FineLine: k, slips.Fine: mul(k, line), slips.FinerLine: k2,
		slips.Finer:    mul(k2, c),
		slips.Observed: rat(y), slips.ZeroError: e, slips.Corrected: new(big.Rat).Sub(rat(y), e),
	}
}

// No right answer is ever marked wrong, and no wrong one right: a million random entries against the
// arithmetic above.
func TestMarksAgainstAnIndependentCheck(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(6, 28))
	entries := 0
	most := 1_000_000
	if testing.Short() {
		most = 60_000
	}
	for entries < most {
		in := instrumenttest.Any(draws)
		r, err := in.Read(instrumenttest.Position(draws, in))
		require.NoError(t, err)
		if r, err = in.Read(r.Observed); err != nil {
			continue
		}
		c := allSteps(in, r.Observed)
		want := sheetOfPaper(in, r.Observed)
		for range 40 {
			a, own := exercise.Answer{}, map[string]*big.Rat{}
			for _, step := range c.Ask {
				x := valueOf(t, c, step)
				switch draws.IntN(4) {
				case 0:
					x = x.Add(in.LeastCount().MulInt(draws.IntN(9) - 4))
				case 1:
					x = x.Add(length.Int(int64(draws.IntN(5) - 2)))
				}
				a[step], own[step] = textOf(c, step, x), rat(x)
			}
			got, err := c.Mark(a)
			require.NoError(t, err)
			for _, st := range got.Fields {
				entries++
				right := own[st.Field].Cmp(want[st.Field]) == 0
				if st.Field == slips.Main { // the base may stand in it, and is then not added again
					if based := new(big.Rat).Add(want[st.Field], rat(in.Spec().Base)); own[st.Field].Cmp(based) == 0 {
						right, own[st.Field] = true, want[st.Field]
					}
				}
				if follows := fromOwn(in, st.Field, own); follows != nil && own[st.Field].Cmp(follows) == 0 {
					right = true
				}
				if full := st.Marks.Equal(st.Of); full != right {
					t.Fatalf("%s of %v on %+v at %s: marked %s, but by hand it is right: %v", st.Field, a, in.Spec(),
						r.Observed, st.Outcome, right)
				}
			}
		}
	}
}

// fromOwn is what a step comes to from the student's own earlier entries; nil where nothing leads to it.
func fromOwn(in *instrument.Instrument, step string, own map[string]*big.Rat) *big.Rat {
	get := func(s string) *big.Rat {
		if x := own[s]; x != nil {
			return x
		}
		return new(big.Rat)
	}
	c := get(slips.LeastCount)
	switch step {
	case slips.Fine:
		return new(big.Rat).Mul(get(slips.FineLine), new(big.Rat).Mul(c,
			big.NewRat(int64(max(1, in.Spec().Finer.Divisions)), 1)))
	case slips.Finer:
		return new(big.Rat).Mul(get(slips.FinerLine), c)
	case slips.Observed:
		if in.Kind() == instrument.Display {
			return nil
		}
		sum := new(big.Rat).Add(rat(in.Spec().Base), get(slips.Main))
		return sum.Add(sum, get(slips.Fine)).Add(sum, get(slips.Finer))
	case slips.Corrected:
		return new(big.Rat).Sub(get(slips.Observed), get(slips.ZeroError))
	}
	return nil
}

// valueOf is the expected value of a step, to be spoiled.
func valueOf(t *testing.T, c *kinds.Reading, step string) length.Number {
	t.Helper()
	s, err := solutionsOf(c)
	require.NoError(t, err)
	return s[0].Step(step)
}
