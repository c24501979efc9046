package kinds_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
)

// Parts lie where verdicts are learned: a third clearly inside, a third near a limit, one in six exactly on one,
// and with a zero error one in four is judged otherwise without it.
func TestVerdictsAreDealtNearTheLimits(t *testing.T) {
	if testing.Short() {
		t.Skip("deals hundreds of cards; left out with -short")
	}
	in := pattern(t, "Caliper 0.05 mm, 20 over 39", "-0.15")
	b := block("decide", 60, "width=20|zero=own", in)
	inside, near, on, otherwise, all := 0, 0, 0, 0, 0
	for seed := range uint64(10) {
		sheet := exercise.Sheet{Blocks: []exercise.Block{b}, Dealer: exercise.Dealing}
		for _, it := range must(sheet.Deal(kinds.All, seed)) {
			d := it.(*kinds.Decision)
			r, err := in.Read(*d.Indicated)
			require.NoError(t, err)
			steps := func(x, y length.Number) int64 { n, _ := x.Sub(y).Quo(in.LeastCount()).Int64(); return n }
			low, high := steps(r.Corrected, d.Limits.Lower), steps(d.Limits.Upper, r.Corrected)
			assert.EqualValues(t, 20, low+high)
			good := low >= 0 && high >= 0
			asRead := !r.Observed.Less(d.Limits.Lower) && !d.Limits.Upper.Less(r.Observed)
			all++
			switch at := min(low, high); {
			case at == 0:
				on++
			case at >= 5:
				inside++
			case -2 <= at && at <= 2:
				near++
			}
			if good != asRead {
				otherwise++
			}
			m := must(it.Mark(exercise.Answer{"verdict": map[bool]string{true: "accept", false: "reject"}[good]}))
			assert.Equal(t, exercise.Right, m.Field("verdict").Outcome)
		}
	}
	share := func(n int) float64 { return float64(n) / float64(all) }
	assert.InDelta(t, 1.0/3, share(inside), 0.001, "clearly inside")
	assert.InDelta(t, 1.0/3, share(near), 0.001)
	assert.InDelta(t, 1.0/6, share(on), 0.001)
	assert.GreaterOrEqual(t, share(otherwise), 0.25)
}

// A tie goes to the line that is nearer to breaking a limit, unless the class settles it otherwise.
func TestATieIsJudgedAgainstAcceptance(t *testing.T) {
	in := pattern(t, "Caliper 0.05 mm, 20 over 39", "0")
	y := number(t, "20.025")
	it := &kinds.Decision{Instrument: in, Indicated: &y, Ask: []string{"observed", "verdict"}, Feature: "shaft",
		Limits: kinds.DecisionLimits{Lower: number(t, "19.50"), Upper: number(t, "20.00")}}
	require.NoError(t, it.Check())
	r := must(it.Mark(exercise.Answer{"observed": "20.05", "verdict": "reject"}))
	assert.True(t, r.Marks.Equal(length.Int(2)), "%+v", r)
	r = must(it.Mark(exercise.Answer{"observed": "20.00", "verdict": "accept"}))
	assert.Equal(t, exercise.Wrong, r.Field("observed").Outcome)
	assert.Equal(t, exercise.Carried, r.Field("verdict").Outcome, "of the own reading it follows")
	it.Method.Tie = "lower"
	r = must(it.Mark(exercise.Answer{"observed": "20.00", "verdict": "accept"}))
	assert.True(t, r.Marks.Equal(length.Int(2)))
	for field, spoil := range map[string]func(*kinds.Decision){
		"limits.upper": func(d *kinds.Decision) { d.Limits.Upper = number(t, "1") },
		"ask":          func(d *kinds.Decision) { d.Ask = []string{"observed"} },
		"indicated":    func(d *kinds.Decision) { far := length.Int(900); d.Indicated = &far },
	} {
		bad := *it
		spoil(&bad)
		assert.ErrorContains(t, bad.Check(), field)
	}
}

// Limits of an angle are in degrees and minutes, and nothing is called a shaft that is an angle.
func TestDecidingOnAnAngle(t *testing.T) {
	in := pattern(t, "Bevel protractor 5′", "0")
	sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: "decide", Cards: 4,
		Instruments: []*instrument.Instrument{in}}}}
	for _, it := range must(sheet.Deal(kinds.All, 3)) {
		asks := said(it.Facts().Task)
		assert.Contains(t, asks, "Is this angle good?")
		assert.Regexp(t, `\d+° \d\d′ to \d+° \d\d′`, asks)
	}
}
