package survey_test

import (
	"encoding/json"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/limits"
	"cavix/core/refusal"
	"cavix/core/survey"
)

func number(t testing.TB, text string) length.Number {
	t.Helper()
	x, err := length.Parse(text)
	require.NoError(t, err)
	return x
}

func pattern(t testing.TB, name string) *instrument.Instrument {
	t.Helper()
	for _, p := range instrument.Patterns() {
		if p.Name == name {
			in, err := instrument.New(p)
			require.NoError(t, err)
			return in
		}
	}
	t.Fatal("there is no pattern " + name)
	return nil
}

// arbors is a plan of two parts, one tapered and worn, at four places.
func arbors(t testing.TB) survey.Plan {
	lower, upper := number(t, "11.70"), number(t, "12.30")
	return survey.Plan{Instruments: []*instrument.Instrument{pattern(t, "Caliper 0.05 mm, 20 over 39")}, Places: 4,
		Repeats: 3, Scatter: 7, Lower: &lower, Upper: &upper, Verdicts: "three", Parts: []survey.Part{
			{Name: "a", Size: number(t, "12.00"), Taper: number(t, "0.09"), Round: number(t, "0.02"),
				Wear: number(t, "0.20"), Worn: 3},
			{Name: "b", Size: number(t, "12.25")}}}
}

func TestAPartHasItsProfile(t *testing.T) {
	p := arbors(t)
	// taper 0, 0.03, 0.06, 0.09; less 0.02 at every second; less 0.20 at the third
	want := []string{"12", "12.01", "11.86", "12.07"}
	for place, size := range want {
		assert.Equal(t, size, p.Profile(0, place).String())
	}
	p.Feature = "hole" // on which wear and out-of-round make larger
	assert.Equal(t, "12.26", p.Profile(0, 2).String())
	assert.Equal(t, "12.05", p.Profile(0, 1).String())
}

// Whoever reads the same cell reads the same where all read the same, and parts of their own where they do not; the
// order is each reader's own and leaves no cell out; what is shown lies within the scatter of what is true.
func TestWhoReadsWhat(t *testing.T) {
	p := arbors(t)
	draws := rand.New(rand.NewPCG(8, 0x706c616e))
	differ, moved := 0, 0
	for range 60 {
		a, b := survey.Reader{Seed: draws.Uint64(), Student: 1}, survey.Reader{Student: 2}
		b.Seed = a.Seed
		for _, same := range []bool{true, false} {
			p.Same = same
			order := p.Order(a)
			if !slices.Equal(order, p.Order(b)) {
				moved++
			}
			slices.Sort(order)
			for n, cell := range order {
				require.Equal(t, n, cell)
				c := p.Cell(cell)
				require.Equal(t, cell, p.Number(c))
				off := p.Indicated(a, c).Sub(p.True(a, c)).Sub(p.Instrument(c.Part).Spec().ZeroError).Abs()
				assert.False(t, number(t, "0.035").Less(off), "0.7 of a least count")
				_, err := p.Instrument(c.Part).Read(p.Indicated(a, c))
				require.NoError(t, err)
				if same {
					assert.Equal(t, p.Indicated(a, c).String(), p.Indicated(b, c).String())
					assert.Equal(t, p.Profile(c.Part, c.Place).String(), p.True(a, c).String())
				} else if !p.True(a, c).Equal(p.True(b, c)) {
					differ++
				}
			}
		}
	}
	assert.Greater(t, differ, 1000)
	assert.Greater(t, moved, 110)
}

func TestVerdictsOnSizes(t *testing.T) {
	p := arbors(t)
	sizes := func(texts ...string) (out []length.Number) {
		for _, s := range texts {
			out = append(out, number(t, s))
		}
		return out
	}
	for _, tt := range []struct {
		shaft, hole, beyond string
		sizes               []length.Number
	}{
		{"accept", "accept", "0", sizes("11.70", "12.30")},
		{"rework", "scrap", "0.01", sizes("12.31", "12.00")},
		{"scrap", "rework", "0.02", sizes("11.68", "12.00")},
		{"scrap", "scrap", "0.05", sizes("11.69", "12.35")},
	} {
		p.Feature = ""
		assert.Equal(t, tt.shaft, p.Verdict(tt.sizes))
		assert.Equal(t, tt.beyond, p.Beyond(tt.sizes).String())
		p.Feature = "hole"
		assert.Equal(t, tt.hole, p.Verdict(tt.sizes))
	}
	p.Verdicts = "two"
	assert.Equal(t, "reject", p.Verdict(sizes("12.31")))
}

// A gauge accepts a part just when it is good at all its places.
func TestAGaugeTakesTheWholePart(t *testing.T) {
	p := arbors(t)
	p.Gauge = limits.Snap
	r := survey.Reader{Seed: 5}
	p.Same = true
	assert.Equal(t, "accept", p.Gauged(r, 0))
	p.Parts[0].Wear = number(t, "0.37") // 11.69 at the third place
	assert.Equal(t, "reject", p.Gauged(r, 0))
	assert.True(t, p.Passes(r, 0, false), "NO-GO goes over the worn place")
	p.Parts[0].Wear, p.Parts[0].Size = length.Number{}, number(t, "12.24") // 12.33 at the last
	assert.False(t, p.Passes(r, 0, true))
}

func TestPlansThatCannotBeRead(t *testing.T) {
	require.NoError(t, arbors(t).Check())
	gear := &survey.Gear{Outside: number(t, "88"), Pitch: number(t, "80"), Teeth: 20}
	for field, spoil := range map[string]func(*survey.Plan){
		"instrument": func(p *survey.Plan) { p.Gear = gear }, // no gear-tooth vernier
		"parts":      func(p *survey.Plan) { p.Parts = nil },
		"places":     func(p *survey.Plan) { p.Places = 7 },
		"repeats":    func(p *survey.Plan) { p.Repeats = 0 },
		"scatter":    func(p *survey.Plan) { p.Scatter = 99 },
		"upper":      func(p *survey.Plan) { p.Upper = p.Lower; x := number(t, "20"); p.Lower = &x },
		"verdicts":   func(p *survey.Plan) { p.Lower, p.Upper = nil, nil },
		"tried":      func(p *survey.Plan) { p.Gauge = limits.Plug },
		"nominal":    func(p *survey.Plan) { p.Compare = true },
		"parts.1":    func(p *survey.Plan) { p.Parts[1].Size = number(t, "149.99") },
		"parts.0":    func(p *survey.Plan) { p.Parts[0].Name = "b" },
	} {
		p := arbors(t)
		p.Parts = slices.Clone(p.Parts)
		spoil(&p)
		by := refusal.By(p.Check())
		if field == "parts.0" {
			field = "parts.1" // the second of a name is at fault
		}
		assert.Contains(t, by, field)
	}
}

// A plan reads back from its document as it was.
func TestAPlanIsKeptAsItIs(t *testing.T) {
	p := arbors(t)
	p.Gear = &survey.Gear{Outside: number(t, "88"), Pitch: number(t, "80"), Teeth: 20}
	b, err := json.Marshal(p)
	require.NoError(t, err)
	var back survey.Plan
	require.NoError(t, json.Unmarshal(b, &back))
	again, err := json.Marshal(back)
	require.NoError(t, err)
	assert.JSONEq(t, string(b), string(again))
}

func TestTheWornTooth(t *testing.T) {
	c := length.Frac(2, 100)
	group := func(texts ...string) (v survey.Values) {
		for _, s := range texts {
			v = append(v, number(t, s))
		}
		return v
	}
	assert.Equal(t, 2, survey.Worn([]survey.Values{group("6.28", "6.26"), group("6.28"), group("6.02", "6.04"),
		group("6.28")}, c))
	assert.Equal(t, -1, survey.Worn([]survey.Values{group("6.28"), group("6.28"), group("6.27"), group("6.28")}, c),
		"less than a least count")
	assert.Equal(t, -1, survey.Worn([]survey.Values{group("6.28"), group("6.28"), group("6.48"), group("6.28")}, c),
		"thicker is not worn")
}

// An indicator set to 0 at the nominal size shows how far each part differs; a part beyond its travel, and an indicator
// that turns the other way, are refused.
func TestAnIndicatorReadsDeviations(t *testing.T) {
	nominal := number(t, "12.00")
	p := survey.Plan{Instruments: []*instrument.Instrument{pattern(t, "Lever indicator 0.01 mm")}, Places: 1,
		Repeats: 1, Same: true, Nominal: &nominal, Compare: true,
		Parts: []survey.Part{{Name: "a", Size: number(t, "12.07")}, {Name: "b", Size: number(t, "11.94")}}}
	require.NoError(t, p.Check())
	for part, want := range []string{"0.07", "-0.06"} {
		y := p.Indicated(survey.Reader{Seed: 3, Student: 1}, survey.Cell{Part: part})
		assert.Equal(t, want, y.String())
		r, err := p.Instrument(part).Read(y)
		require.NoError(t, err)
		assert.Equal(t, want, r.Observed.String())
		assert.True(t, p.Value(r.Observed).Equal(p.Parts[part].Size))
		assert.Equal(t, "observed", p.Asked(part))
	}
	far := p
	far.Parts = []survey.Part{{Name: "a", Size: number(t, "12.50")}}
	assert.ErrorAs(t, far.Check(), &refusal.Refusal{})
	bore := p
	bore.Instruments = []*instrument.Instrument{pattern(t, "Bore gauge 0.01 mm")}
	assert.ErrorAs(t, bore.Check(), &refusal.Refusal{})
}
