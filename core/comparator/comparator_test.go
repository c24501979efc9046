package comparator_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/comparator"
	"cavix/core/length"
	"cavix/core/refusal"
)

func number(t testing.TB, text string) *length.Number {
	t.Helper()
	x, err := length.Parse(text)
	require.NoError(t, err)
	return &x
}

func plan(t testing.TB) comparator.Plan {
	return comparator.Plan{Nominal: *number(t, "25"), Lower: number(t, "24.98"), Upper: number(t, "25.02"),
		Unit: length.Millimetre, Places: 2}
}

func TestLinesOfAGauge(t *testing.T) {
	p := plan(t)
	for line, want := range map[string]struct {
		n         int
		deviation string
	}{
		"+0.02 mm":        {0, "0.02"},
		"-0.01":           {0, "-0.01"},
		"−0.01 mm":        {0, "-0.01"},
		"7 +0.02 mm":      {7, "0.02"},
		"12: −0.03":       {12, "-0.03"},
		"  3   0.00  mm ": {3, "0"},
		"0.001 in":        {0, "0.0254"},
		"0.05":            {0, "0.05"},
	} {
		r, err := p.ReadLine(line)
		require.NoError(t, err, line)
		assert.Equal(t, want.n, r.Number, line)
		assert.Equal(t, want.deviation, r.Deviation.String(), line)
	}
	for _, line := range []string{"", "ERR", "7", "+0.02 volt", "1 ERR 4", "+26 mm", strings.Repeat("1", 90)} {
		if line == "7" { // a deviation of 7 mm
			_, err := p.ReadLine(line)
			assert.NoError(t, err)
			continue
		}
		_, err := p.ReadLine(line)
		assert.Error(t, err, line)
	}
}

func TestVerdicts(t *testing.T) {
	shaft, hole := plan(t), plan(t)
	hole.Hole = true
	for deviation, want := range map[string][2]string{"0.02": {"accept", "accept"}, "-0.02": {"accept", "accept"},
		"0.03": {"rework", "scrap"}, "-0.03": {"scrap", "rework"}} {
		size := shaft.Size(*number(t, deviation))
		assert.Equal(t, want, [2]string{shaft.Verdict(size), hole.Verdict(size)}, deviation)
	}
	open := plan(t)
	open.Lower, open.Upper = nil, nil
	assert.Empty(t, open.Verdict(*number(t, "30")))
}

func TestPlansThatCompareNothing(t *testing.T) {
	require.NoError(t, plan(t).Check())
	for field, spoil := range map[string]func(*comparator.Plan){
		"unit":    func(p *comparator.Plan) { p.Unit = "ell" },
		"places":  func(p *comparator.Plan) { p.Places = 9 },
		"nominal": func(p *comparator.Plan) { p.Nominal = length.Number{} },
		"upper":   func(p *comparator.Plan) { p.Upper = number(t, "20") },
	} {
		p := plan(t)
		spoil(&p)
		assert.Contains(t, refusal.By(p.Check()), field)
	}
}

// What a made-up device sends can be read, and is now and then beyond a limit on either side.
func TestMadeUpReadings(t *testing.T) {
	p := plan(t)
	seen := map[string]int{}
	for draw := 0; draw < 1_000_000; draw += 997 {
		r, err := p.ReadLine(p.MadeUp(draw))
		require.NoError(t, err)
		seen[p.Verdict(p.Size(r.Deviation))]++
	}
	all := float64(seen["accept"] + seen["rework"] + seen["scrap"])
	assert.Greater(t, float64(seen["accept"])/all, 0.8)
	assert.Greater(t, seen["rework"], 5)
	assert.Greater(t, seen["scrap"], 5)
}

func FuzzReadLine(f *testing.F) {
	f.Add("+0.02 mm")
	f.Add("7 +0.02 mm")
	f.Fuzz(func(t *testing.T, line string) {
		p := plan(t)
		r, err := p.ReadLine(line)
		if err == nil {
			p.Verdict(p.Size(r.Deviation))
		}
	})
}
