package marking_test

import (
	"math/big"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/core/marking"
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
func sheetOfPaper(in *instrument.Instrument, y length.Number) map[marking.Step]*big.Rat {
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
	return map[marking.Step]*big.Rat{
		marking.LeastCount: c, marking.Main: main, marking.FineLine: k, marking.Fine: mul(k, line), marking.FinerLine: k2, marking.Finer: mul(k2, c),
		marking.Observed: rat(y), marking.ZeroError: e, marking.Corrected: new(big.Rat).Sub(rat(y), e),
	}
}

// No right answer is ever marked wrong, and no wrong one right: a million random entries against the
// arithmetic above.
func TestMarksAgainstAnIndependentCheck(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(6, 28))
	entries := 0
	for entries < 1_000_000 {
		in := instrumenttest.Any(draws)
		r, err := in.Read(instrumenttest.Position(draws, in))
		require.NoError(t, err)
		if r, err = in.Read(r.Observed); err != nil {
			continue
		}
		c := allSteps(in, r.Observed)
		want := sheetOfPaper(in, r.Observed)
		for range 40 {
			a, own := marking.Answer{}, map[marking.Step]*big.Rat{}
			for _, step := range c.Ask {
				x := valueOf(t, c, step)
				switch draws.IntN(4) {
				case 0:
					x = x.Add(in.LeastCount().MulInt(draws.IntN(9) - 4))
				case 1:
					x = x.Add(length.Int(int64(draws.IntN(5) - 2)))
				}
				a[step], own[step] = c.Text(step, x), rat(x)
			}
			got, err := c.Mark(a)
			require.NoError(t, err)
			for _, st := range got.Steps {
				entries++
				right := own[st.Step].Cmp(want[st.Step]) == 0
				if st.Step == marking.Main { // the base may stand in it, and is then not added again
					if based := new(big.Rat).Add(want[st.Step], rat(in.Spec().Base)); own[st.Step].Cmp(based) == 0 {
						right, own[st.Step] = true, want[st.Step]
					}
				}
				if follows := fromOwn(in, st.Step, own); follows != nil && own[st.Step].Cmp(follows) == 0 {
					right = true
				}
				if full := st.Marks.Equal(st.Of); full != right {
					t.Fatalf("%s of %v on %+v at %s: marked %s, but by hand it is right: %v", st.Step, a, in.Spec(), r.Observed, st.Outcome, right)
				}
			}
		}
	}
}

// fromOwn is what a step comes to from the student's own earlier entries; nil where nothing leads to it.
func fromOwn(in *instrument.Instrument, step marking.Step, own map[marking.Step]*big.Rat) *big.Rat {
	get := func(s marking.Step) *big.Rat {
		if x := own[s]; x != nil {
			return x
		}
		return new(big.Rat)
	}
	c := get(marking.LeastCount)
	switch step {
	case marking.Fine:
		return new(big.Rat).Mul(get(marking.FineLine), new(big.Rat).Mul(c, big.NewRat(int64(max(1, in.Spec().Finer.Divisions)), 1)))
	case marking.Finer:
		return new(big.Rat).Mul(get(marking.FinerLine), c)
	case marking.Observed:
		if in.Kind() == instrument.Display {
			return nil
		}
		sum := new(big.Rat).Add(rat(in.Spec().Base), get(marking.Main))
		return sum.Add(sum, get(marking.Fine)).Add(sum, get(marking.Finer))
	case marking.Corrected:
		return new(big.Rat).Sub(get(marking.Observed), get(marking.ZeroError))
	}
	return nil
}

// valueOf is the expected value of a step, to be spoiled.
func valueOf(t *testing.T, c *marking.Card, step marking.Step) length.Number {
	t.Helper()
	s, err := c.Solutions()
	require.NoError(t, err)
	return s[0].Value(step)
}
