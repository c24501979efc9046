package kinds_test

import (
	"fmt"
	"math/big"
	"math/rand/v2"
	"slices"
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

// This file marks cards by the handbook alone, with rational numbers and none of the core's readings, and holds
// what the core makes of hundreds of thousands of random answers against it.

type rational = *big.Rat

func ratio(a, b int64) rational    { return big.NewRat(a, b) }
func plus(x, y rational) rational  { return new(big.Rat).Add(x, y) }
func minus(x, y rational) rational { return new(big.Rat).Sub(x, y) }
func times(x, y rational) rational { return new(big.Rat).Mul(x, y) }
func over(x, y rational) rational  { return new(big.Rat).Quo(x, y) }
func floor(x rational) rational    { return new(big.Rat).SetInt(new(big.Int).Div(x.Num(), x.Denom())) }
func same(x, y rational) bool      { return x.Cmp(y) == 0 }
func off(x, y rational) rational   { return new(big.Rat).Abs(minus(x, y)) }

// rat reads a number off its written form, as "-1 3/16".
func rat(x length.Number) rational {
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

// decimalsOf is how many decimals a number has, −1 where it has no end.
func decimalsOf(x rational) int {
	for p, y := 0, x; p < 15; p, y = p+1, times(y, ratio(10, 1)) {
		if y.IsInt() {
			return p
		}
	}
	return -1
}

// paper is a card as somebody with pencil and handbook sees it.
type paper struct {
	*kinds.Reading
	d, L, c, base, e, lowest rational
	n, v                     int64
	decimals                 int // of the instrument; −1 for one that writes fractions
	tenths                   bool
	ways                     []map[string]rational // right answers
}

func newPaper(r *kinds.Reading) *paper {
	s := r.Instrument.Spec()
	p := &paper{Reading: r, d: rat(s.Main.Division), base: rat(s.Base), e: rat(s.ZeroError), n: 1, v: 1}
	p.L = p.d
	switch s.Fine.Kind {
	case instrument.Vernier:
		p.n = int64(s.Fine.Divisions)
	case instrument.Thimble:
		p.L, p.n = rat(s.Fine.Travel), int64(s.Fine.Divisions)
	case instrument.Dial:
		zeros := int64(max(1, s.Fine.Zeros))
		p.L, p.n = over(rat(s.Fine.Travel), ratio(zeros, 1)), int64(s.Fine.Divisions)/zeros
	case instrument.Display:
		p.L = rat(s.Fine.Steps[s.Unit])
	}
	p.v = int64(max(1, s.ThimbleVernier.Divisions))
	p.c = over(p.L, ratio(p.n*p.v, 1))
	if p.decimals = decimalsOf(p.c); s.Main.Fractional {
		p.decimals = -1
	}
	if p.lowest = new(big.Rat); s.Main.From.Sign() > 0 {
		p.lowest = rat(s.Main.From)
	}
	vernier := s.Fine.Kind == instrument.Vernier || p.v > 1
	p.tenths = r.Method.Between == instrument.Tenths && !vernier && s.Fine.Kind != instrument.Display
	y := plus(plus(p.base, p.lowest), p.e)
	if !r.Closed {
		y = rat(*r.Indicated)
	}
	p.read(minus(y, p.base), vernier)
	return p
}

// read brings a position to the grid and takes it apart.
func (p *paper) read(shown rational, vernier bool) {
	grid := p.c
	if p.tenths {
		grid = over(p.c, ratio(10, 1))
	}
	steps := over(shown, grid)
	g := floor(steps)
	rest := minus(steps, g)
	half, up := ratio(1, 2), plus(g, ratio(1, 1))
	display := p.Instrument.Kind() == instrument.Display
	grids := []rational{g}
	switch {
	case display:
		if rest.Cmp(half) > 0 || same(rest, half) && shown.Sign() > 0 {
			grids = []rational{up}
		}
	case p.Method.Between == instrument.Whole && !vernier:
	case rest.Cmp(half) > 0:
		grids = []rational{up}
	case same(rest, half) && !p.tenths:
		grids = []rational{g, up}
		switch p.Method.Tie {
		case "lower":
			grids = grids[:1]
		case "upper":
			grids = grids[1:]
		case "unfavourable":
			room := func(g rational) rational {
				corrected := minus(plus(p.base, times(g, grid)), p.e)
				low, high := minus(corrected, rat(p.Limits.Lower)), minus(rat(p.Limits.Upper), corrected)
				if low.Cmp(high) < 0 {
					return low
				}
				return high
			}
			switch room(g).Cmp(room(up)) {
			case -1:
				grids = grids[:1]
			case 1:
				grids = grids[1:]
			}
		}
	}
	for _, g := range grids {
		p.ways = append(p.ways, p.take(times(g, grid)))
	}
	w := p.ways[0]
	if z := new(big.Rat).Neg(p.L); p.Closed && p.e.Sign() < 0 && z.Cmp(p.e) < 0 && p.n > 1 {
		back := map[string]rational{}
		for k, x := range w {
			back[k] = x
		}
		back[slips.Main] = plus(w[slips.Main], p.L)
		back[slips.FineLine] = minus(ratio(p.n, 1), w[slips.FineLine])
		back[slips.Fine] = minus(w[slips.Fine], p.L)
		back["back"] = ratio(1, 1)
		p.ways = append(p.ways, back)
	}
	if p.tenths { // what an estimate is held against
		for _, w := range p.ways {
			more := minus(shown, minus(w[slips.Observed], p.base))
			w["true"] = more
		}
	}
}

// take takes a position on the grid apart.
func (p *paper) take(s rational) map[string]rational {
	main := times(floor(over(s, p.L)), p.L)
	rest, line := minus(s, main), over(p.L, ratio(p.n, 1))
	k := over(rest, line)
	if !p.tenths {
		k = floor(k)
	}
	if p.Instrument.Kind() == instrument.None || p.Instrument.Kind() == instrument.Display {
		k = new(big.Rat)
	}
	k2 := over(minus(rest, times(k, line)), p.c)
	w := map[string]rational{slips.LeastCount: p.c, slips.Main: main, slips.FineLine: k, slips.Fine: times(k, line),
		slips.FinerLine: k2, slips.Finer: times(k2, p.c), slips.Observed: plus(p.base, s), slips.ZeroError: p.e,
		slips.Corrected: minus(plus(p.base, s), p.e)}
	if p.Method.Correction() {
		w[slips.ZeroError] = new(big.Rat).Neg(p.e)
	}
	if p.v == 1 { // tenths of a rule's division stand nowhere but in the sum
		w[slips.FinerLine], w[slips.Finer] = new(big.Rat), new(big.Rat)
		w["rest"] = minus(rest, times(k, line))
	}
	return w
}

// written is an entry as it was put on the card.
type written struct {
	text      string
	value     rational
	places    int // −1 for a fraction
	converted bool
	sign      bool
	unit      bool
}

// outcomes marks entries against one right answer, twice the marks beside. based takes a wrong main reading to
// hold the base.
func (p *paper) outcomes(w map[string]rational, in map[string]written, based bool) (map[string]exercise.Outcome, int) {
	out, twice := map[string]exercise.Outcome{}, 0
	known, blank := map[string]rational{}, map[string]bool{}
	for _, step := range slips.Steps {
		if !slips.Can(p.Instrument, step) && step != slips.Main {
			known[step] = new(big.Rat)
			continue
		}
		want := w[step]
		due, needs := p.follows(step, w, known)
		broken := slices.ContainsFunc(needs, func(s string) bool { return blank[s] })
		e, given := in[step]
		switch {
		case !p.asks(step):
			if known[step], blank[step] = want, broken; due != nil && !broken {
				known[step] = due
			}
			continue
		case !given:
			out[step], blank[step], known[step] = exercise.Missing, true, want
			continue
		case p.right(step, w, e):
			out[step], known[step] = exercise.Right, want
			if p.tenths && step != slips.Main && step != slips.LeastCount && !same(e.value, want) && !e.converted {
				known[step] = e.value
			}
		case due != nil && !broken && p.meets(e, due, step):
			out[step], known[step] = exercise.Carried, due
		default:
			out[step], known[step] = exercise.Wrong, e.value
			if step == slips.Main && based {
				known[step] = minus(e.value, p.base)
			}
			continue
		}
		twice += 2
		if p.form(step, e, out[step] == exercise.Carried, due) ||
			p.asDecimal(step, e, map[bool]rational{true: due, false: want}[out[step] == exercise.Carried]) {
			out[step] = exercise.InForm
			twice--
		}
	}
	return out, twice
}

func (p *paper) asks(step string) bool { return slices.Contains(p.Ask, step) }

// follows is what a step comes to by what is known before it, and what it needs for that.
func (p *paper) follows(step string, w, known map[string]rational) (rational, []string) {
	fine, needs := plus(known2(known, slips.Fine), known2(known, slips.Finer)), []string{slips.Main, slips.Fine}
	if p.v > 1 {
		needs = append(needs, slips.Finer)
	}
	if rest := w["rest"]; rest != nil {
		fine = plus(fine, rest)
	}
	switch step {
	case slips.Fine:
		x := times(times(known[slips.FineLine], known[slips.LeastCount]), ratio(p.v, 1))
		if w["back"] != nil {
			x.Neg(x)
		}
		return x, []string{slips.FineLine, slips.LeastCount}
	case slips.Finer:
		return times(known[slips.FinerLine], known[slips.LeastCount]), []string{slips.FinerLine, slips.LeastCount}
	case slips.Observed:
		return plus(p.base, plus(known[slips.Main], fine)), needs
	case slips.ZeroError:
		if p.Closed {
			x := minus(plus(known[slips.Main], fine), p.lowest)
			if p.Method.Correction() {
				x.Neg(x)
			}
			return x, needs
		}
	case slips.Corrected:
		zero := known[slips.ZeroError]
		if p.Method.Correction() {
			zero = new(big.Rat).Neg(zero)
		}
		return minus(known[slips.Observed], zero), []string{slips.Observed, slips.ZeroError}
	}
	return nil, nil
}

func known2(known map[string]rational, step string) rational {
	if x := known[step]; x != nil {
		return x
	}
	return new(big.Rat)
}

// right reports whether an entry is what the card shows.
func (p *paper) right(step string, w map[string]rational, e written) bool {
	want := w[step]
	if same(e.value, want) || step == slips.Main && same(e.value, plus(want, p.base)) {
		return true
	}
	if p.decimalForFraction(step, e, want) {
		return true
	}
	near := over(p.c, ratio(2, 1))
	if step == slips.LeastCount {
		near = over(p.c, ratio(50, 1))
	}
	if e.converted && (off(e.value, want).Cmp(near) <= 0 ||
		step == slips.Main && off(e.value, plus(want, p.base)).Cmp(near) <= 0) {
		return true
	}
	if !p.tenths || step == slips.Main || step == slips.LeastCount {
		return false
	}
	by, line := ratio(int64(p.tolerance()), 10), over(p.L, ratio(p.n, 1))
	switch step {
	case slips.FineLine:
		sign := ratio(1, 1)
		if w["back"] != nil {
			sign.Neg(sign)
		}
		d := off(e.value, plus(want, times(sign, over(w["true"], line))))
		n := ratio(p.n, 1)
		in := e.value.Sign() >= 0 && e.value.Cmp(n) <= 0
		return in && (d.Cmp(by) <= 0 || off(n, d).Cmp(by) <= 0)
	case slips.ZeroError:
		return off(e.value, want).Cmp(times(by, line)) <= 0
	}
	return off(e.value, plus(want, w["true"])).Cmp(times(by, line)) <= 0
}

func (p *paper) tolerance() int {
	if t := p.Method.TenthsTolerance; t != nil {
		return *t
	}
	return 2
}

// meets reports whether an entry is what follows.
func (p *paper) meets(e written, due rational, step string) bool {
	switch {
	case same(e.value, due), p.decimalForFraction(step, e, due):
		return true
	case e.converted:
		return off(e.value, due).Cmp(over(p.c, ratio(2, 1))) <= 0
	case p.decimals >= 0 && decimalsOf(due) < 0 && e.places >= p.decimals: // no finite decimal: by its rounding
		ten := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(e.places)), nil))
		x := plus(floor(plus(times(new(big.Rat).Abs(due), ten), ratio(1, 2))), new(big.Rat))
		if due.Sign() < 0 {
			x.Neg(x)
		}
		return same(e.value, over(x, ten))
	}
	return false
}

// decimalForFraction reports whether an entry is a decimal of three places or more that a fraction rounds to.
func (p *paper) decimalForFraction(step string, e written, x rational) bool {
	line, estimated := step == slips.FineLine || step == slips.FinerLine, step != slips.Main && step != slips.LeastCount
	if p.decimals >= 0 || line || e.converted || e.places < 3 || e.value.Sign() == 0 || p.tenths && estimated {
		return false
	}
	ten := new(big.Rat).SetInt(new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(e.places)), nil))
	rounded := over(floor(plus(times(new(big.Rat).Abs(x), ten), ratio(1, 2))), ten)
	return rounded.Cmp(new(big.Rat).Abs(e.value)) == 0 && e.value.Sign() == x.Sign()
}

// asDecimal reports whether a rounded decimal stands for a fraction where the form counts.
func (p *paper) asDecimal(step string, e written, x rational) bool {
	return p.Method.Decimals != "lenient" && !same(e.value, x) && p.decimalForFraction(step, e, x)
}

// form reports whether the form of a right or carried entry is wrong.
func (p *paper) form(step string, e written, carried bool, due rational) bool {
	places := -1
	switch step {
	case slips.FineLine, slips.FinerLine:
		if places = 0; p.tenths && step == slips.FineLine {
			places = 1
		}
	case slips.Fine, slips.Finer, slips.Observed, slips.ZeroError, slips.Corrected:
		if places = p.decimals; p.tenths && places >= 0 {
			places++
		}
	}
	if p.Method.Decimals == "lenient" {
		places = -1
	}
	if carried && p.decimals >= 0 && (decimalsOf(due) < 0 || places >= 0 && decimalsOf(due) > places) {
		return false
	}
	line := step == slips.FineLine || step == slips.FinerLine
	return places >= 0 && !e.converted && e.places != places ||
		p.Method.Unit == "required" && !line && !e.unit ||
		step == slips.ZeroError && p.Method.ZeroSign != "optional" && e.value.Sign() > 0 && !e.sign
}

// answer draws an answer: right, following, wrong and empty entries, well and badly written.
func (p *paper) answer(draws *rand.Rand) map[string]written {
	w := p.ways[draws.IntN(len(p.ways))]
	known, in := map[string]rational{}, map[string]written{}
	for _, step := range slips.Steps {
		if known[step] = w[step]; !slips.Can(p.Instrument, step) && step != slips.Main {
			continue
		}
		due, _ := p.follows(step, w, known)
		x := w[step]
		if due != nil && (!p.asks(step) || draws.IntN(3) > 0) {
			x = due
		}
		line := step == slips.FineLine || step == slips.FinerLine
		grain := p.c
		if line {
			grain = ratio(1, 1)
		}
		if p.asks(step) {
			switch draws.IntN(10) {
			case 0:
				continue // empty
			case 1, 2:
				x = plus(x, times(grain, ratio(draws.Int64N(9)-4, 1)))
			case 3:
				if !line {
					x = plus(x, times(p.d, ratio(draws.Int64N(5)-2, 1)))
				}
			case 4:
				if x = new(big.Rat).Neg(x); draws.IntN(2) == 0 || line {
					x.Neg(x)
				}
				if step == slips.Main {
					x = plus(x, p.base)
				}
			case 5:
				x = plus(x, times(grain, ratio(draws.Int64N(9)-4, 10)))
			}
			in[step] = p.write(draws, step, x)
			x = in[step].value
		}
		known[step] = x
	}
	return in
}

// write puts a value on the card in one of many ways.
func (p *paper) write(draws *rand.Rand, step string, x rational) written {
	unit := p.Instrument.Unit()
	e := written{value: x, places: decimalsOf(x)}
	line := step == slips.FineLine || step == slips.FinerLine
	if e.places < 0 || p.decimals < 0 && !line && draws.IntN(2) == 0 {
		if e.places = -1; x.IsInt() {
			e.places = 0
		}
		e.text = x.RatString()
	} else {
		if want := p.decimals; !line && want > e.places && draws.IntN(6) > 0 {
			e.places = want
		}
		if p.tenths && draws.IntN(6) > 0 && !(line && step == slips.FinerLine) {
			e.places = max(e.places, 1)
			if !line {
				e.places = max(e.places, p.decimals+1)
			}
		}
		if draws.IntN(12) == 0 {
			e.places++
		}
		e.text = x.FloatString(e.places)
	}
	if e.sign = x.Sign() > 0 && draws.IntN(3) > 0 && step == slips.ZeroError; e.sign {
		e.text = "+" + e.text
	}
	if !line && draws.IntN(2) == 0 {
		e.unit = true
		if other := length.Millimetre; draws.IntN(4) == 0 && unit != other {
			factor := map[length.Unit]rational{length.Centimetre: ratio(10, 1), length.Inch: ratio(127, 5)}[unit]
			e.converted = true
			e.text = strings.TrimPrefix(times(x, factor).FloatString(6), "+")
			shown, _ := new(big.Rat).SetString(e.text)
			e.value, e.sign = over(shown, factor), false
			if x.Sign() > 0 {
				e.text, e.sign = "+"+e.text, true
			}
			unit = other
		}
		e.text += " " + string(unit)
	}
	return e
}

// card draws a card of any family, school and shape; nil where what was drawn cannot be asked.
func card(t *testing.T, draws *rand.Rand) *kinds.Reading {
	t.Helper()
	in := instrumenttest.Any(draws)
	if draws.IntN(2) == 0 {
		all := drawnFrom()
		spec := all[draws.IntN(len(all))]
		made, err := instrument.New(spec)
		require.NoError(t, err)
		spec.ZeroError = made.LeastCount().MulInt(draws.IntN(31) - 15)
		if in, err = instrument.New(spec); err != nil {
			return nil
		}
	}
	any := func(of ...string) string { return of[draws.IntN(len(of))] }
	r := &kinds.Reading{Instrument: in, Closed: draws.IntN(3) == 0, Method: exercise.Method{
		Between:      instrument.Between(any("nearest", "whole", "tenths")),
		Tie:          any("either", "lower", "upper", "unfavourable"),
		NegativeZero: any("from-end", "signed-main"), ZeroTerm: any("error", "correction"),
		ZeroSign: any("required", "optional"), Decimals: any("strict", "strict", "lenient"),
		Unit: any("given", "given", "required")}}
	y := instrumenttest.Position(draws, in)
	r.Indicated = &y
	if r.Method.Tie == "unfavourable" {
		r.Limits = &exercise.Limits{Lower: y.Sub(in.LeastCount().MulInt(draws.IntN(4))),
			Upper: y.Add(in.LeastCount().MulInt(draws.IntN(4)))}
	}
	if r.Closed {
		r.Indicated = nil
	}
	for _, s := range slips.Steps {
		if slips.Can(in, s) && draws.IntN(4) > 0 {
			r.Ask = append(r.Ask, s)
		}
	}
	if len(r.Ask) == 0 || r.Check() != nil {
		return nil
	}
	return r
}

// The core marks as the handbook does: outcomes and marks of random cards of every family, school, zero error,
// open and closed, with blanks, wrong forms and own entries carried on.
func TestMarksAgainstAnIndependentMarker(t *testing.T) {
	t.Parallel()
	const runs = 10
	most := 110_000
	if testing.Short() {
		most = 12_000
	}
	for seed := 1; seed <= runs; seed++ {
		t.Run(fmt.Sprint(seed), func(t *testing.T) {
			t.Parallel()
			draws := rand.New(rand.NewPCG(6, uint64(seed)))
			seen := map[exercise.Outcome]int{}
			for cards := 0; cards < most/runs; {
				if r := card(t, draws); r != nil {
					answerAndCompare(t, draws, r, seen)
					cards += perCard
				}
			}
			for _, o := range []exercise.Outcome{exercise.Right, exercise.Carried, exercise.InForm, exercise.Wrong,
				exercise.Missing} {
				require.Greater(t, seen[o], most/runs/10, o)
			}
		})
	}
}

// perCard is how many answers are drawn to a card.
const perCard = 4

func answerAndCompare(t *testing.T, draws *rand.Rand, r *kinds.Reading, seen map[exercise.Outcome]int) {
	t.Helper()
	p := newPaper(r)
	for range perCard {
		in := p.answer(draws)
		a := exercise.Answer{}
		for step, e := range in {
			a[step] = e.text
		}
		got, err := r.Mark(a)
		require.NoError(t, err, "%v", a)
		if why := p.disagrees(in, got); why != "" {
			doc, err := exercise.Document(r)
			require.NoError(t, err)
			t.Fatalf("%s\n%s\nanswered %v", why, doc, a)
		}
		for _, m := range got.Fields {
			seen[m.Outcome]++
			for _, code := range m.Slips {
				if first, second, pair := strings.Cut(string(code), "+"); pair {
					require.Less(t, inTable(first), inTable(second), "%s at %s", code, m.Field)
				}
			}
		}
	}
}

// inTable is where a slip stands in the table, as it is listed.
func inTable(code string) int {
	return slices.IndexFunc(kinds.Slips(), func(s exercise.Slip) bool { return string(s.Code) == code })
}

// disagrees says how the core's marks differ from the handbook's: they must come about as one of the right
// answers has it, and be no fewer than any of them gives.
func (p *paper) disagrees(in map[string]written, got exercise.Result) string {
	best, fits := -1, false
	var all []string
	marks, _ := got.Marks.MulInt(2).Int64()
	for _, w := range p.ways {
		for _, based := range []bool{false, true} {
			if based && (p.base.Sign() == 0 || !p.asks(slips.Main)) {
				continue
			}
			out, twice := p.outcomes(w, in, based)
			if !based { // whether a wrong main reading holds the base hangs on the slip that explains it
				best = max(best, twice)
			}
			alike := twice == int(marks)
			for _, m := range got.Fields {
				alike = alike && out[m.Field] == m.Outcome
			}
			fits = fits || alike
			all = append(all, fmt.Sprint(out))
		}
	}
	if best > int(marks) || !fits {
		var core []string
		for _, m := range got.Fields {
			core = append(core, m.Field+":"+string(m.Outcome))
		}
		return fmt.Sprintf("the core: %v, %d; by hand: %s, %d", core, marks, strings.Join(all, " or "), best)
	}
	return ""
}

// drawnFrom are the ready instruments whose families this marker knows.
func drawnFrom() (all []instrument.Spec) {
	for _, f := range instrument.Families[:9] {
		all = append(all, f.Patterns()...)
	}
	return all
}
