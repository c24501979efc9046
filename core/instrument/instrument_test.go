package instrument_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/locale"
)

const twentieth = `{"format":"cavix/instrument","version":1,"name":"Twentieth caliper","family":"vernier-caliper",
	"unit":"mm",
	"main":{"division":"1","from":"0","to":"150","number_every":10},
	"fine":{"kind":"vernier","divisions":20,"spans":39,"number_every":4,"number_step":2},"zero_error":"-0.15"}`

func ExampleInstrument_Read() {
	in, err := instrument.Parse([]byte(twentieth))
	if err != nil {
		fmt.Println(err)
		return
	}
	y, _ := length.Parse("31.40")
	r, _ := in.Read(y)
	fmt.Printf("%s + line %d × %s = %s, corrected %s\n", r.Main, r.Line, in.LeastCount(), in.Format(r.Observed),
		in.Format(r.Corrected))
	// Output: 31 + line 8 × 0.05 = 31.40, corrected 31.55
}

func ExamplePropose() {
	ways, _ := instrument.Propose(instrument.VernierCaliper, length.Millimetre, length.Frac(1, 50), length.Int(1))
	for _, w := range ways {
		fmt.Println(said(text.Row(w.Made, w.Remark)))
	}
	_, err := instrument.Propose(instrument.VernierCaliper, length.Millimetre, length.Frac(3, 100), length.Int(1))
	fmt.Println(said(refusal.Says(err)))
	// Output:
	// 1 mm beam · 50 lines over 49 main divisions · short form; lines 0.98 mm apart
	// 1 mm beam · 50 lines over 51 main divisions · retrograde form; lines 1.02 mm apart
	// 0.03 mm does not go into a division of 1 mm a whole number of times. 33 lines give 1/33, 34 lines give 1/34.
}

// The parts of every reading add up, lie on the grid, and lead back to the same place.
func TestReadingsOfDrawnInstruments(t *testing.T) {
	draws := rand.New(rand.NewPCG(7, 1))
	half := length.Frac(1, 2)
	for range 20000 {
		in := instrumenttest.Any(draws)
		y := instrumenttest.Position(draws, in)
		by := instrument.Betweens[draws.IntN(3)]
		r, err := in.ReadBy(y, by)
		require.NoError(t, err)
		s, step := in.Spec(), in.LeastCount()
		if in.Tenths(by) {
			step = step.Quo(length.Int(10))
		}
		require.True(t, r.Base.Add(r.Main).Add(r.Fine).Add(r.ThimbleVernier).Equal(r.Observed), "%s + %s + %s + %s",
			r.Base, r.Main, r.Fine, r.ThimbleVernier)
		require.True(t, r.Observed.Sub(s.ZeroError).Equal(r.Corrected))
		require.True(t, r.Line >= 0 && r.Line < in.Lines() && r.FinerLine >= 0 && r.FinerLine < in.FinerLines() &&
			r.Tenth >= 0 && r.Tenth < 10)
		require.True(t, r.Fine.Equal(in.LineWorth().Mul(r.LineNumber())) &&
			r.ThimbleVernier.Equal(in.LeastCount().MulInt(r.FinerLine)))
		require.True(t, r.Main.Quo(in.ScaleInterval()).IsInt())
		off := y.Sub(r.Observed)
		switch {
		case by == instrument.Whole && in.Kind() != instrument.Vernier && in.Kind() != instrument.Display &&
			!in.HasFiner():
			require.True(t, off.Sign() >= 0 && off.Less(step) && !r.Tie, "down to the line passed: %s read as %s", y,
				r.Observed)
		default:
			require.True(t, off.Abs().Cmp(step.Mul(half)) <= 0, "%s read as %s", y, r.Observed)
			if in.Kind() != instrument.Display {
				require.Equal(t, off.Equal(step.Mul(half)), r.Tie, "a tie goes to the lower")
			}
		}
		again, err := in.ReadBy(r.Observed, by)
		if err == nil { // the last half step may round up to the very end of the scale
			require.True(t, again.Observed.Equal(r.Observed) && again.Line == r.Line &&
				again.FinerLine == r.FinerLine && !again.Tie)
		}
		// the coinciding line stands exactly opposite the mark that Opposite names
		if in.Kind() == instrument.Vernier {
			zero := r.Main.Add(r.Fine)
			require.True(t, zero.Add(in.LineOffset(r.Line)).Equal(in.Opposite(r)))
		}
		in.ZeroStory()
		require.NotEmpty(t, in.Derivation())
	}
}

func TestDocumentsOfDrawnInstrumentsComeBack(t *testing.T) {
	draws := rand.New(rand.NewPCG(7, 2))
	for range 1000 {
		in := instrumenttest.Any(draws)
		doc, err := json.Marshal(in)
		require.NoError(t, err)
		again, err := instrument.Parse(doc)
		require.NoError(t, err, "%s", doc)
		back, err := json.Marshal(again)
		require.NoError(t, err)
		require.JSONEq(t, string(doc), string(back))
	}
}

// A plate is refused exactly when no line but one, or all at once, could ever be told to coincide:
// when moving it by one least count does not pass the coincidence on by one line.
func TestUsablePlatesAreJustThoseThatStepLineByLine(t *testing.T) {
	for n := 2; n <= 40; n++ {
		for m := 1; m <= 130; m++ {
			// With main divisions of 1 line k stands at k·m/n: by how much it lies past the last mark
			// must take every n-th part just once, and neighbours must differ by one n-th.
			step := m % n
			usable := step == n-1 || step == 1 && m > n
			_, ok := instrument.FormOf(n, m)
			require.Equal(t, usable, ok, "%d over %d", n, m)
			near := instrument.NearestSpans(n, m)
			_, works := instrument.FormOf(n, near)
			require.True(t, works, "%d over %d: %d", n, m, near)
			if usable {
				require.Equal(t, m, near)
			}
			for other := max(1, m-abs(near-m)+1); other < m+abs(near-m); other++ {
				_, closer := instrument.FormOf(n, other)
				require.False(t, closer, "%d lines: %d is nearer to %d than %d", n, other, m, near)
			}
		}
	}
}

func abs(n int) int { return max(n, -n) }

func TestProposalsGiveTheWantedLeastCount(t *testing.T) {
	for _, tt := range []struct {
		family  instrument.Family
		unit    length.Unit
		c, d    string
		refused string
	}{
		{"vernier-caliper", "mm", "0.02", "1", ""}, {"vernier-caliper", "mm", "0.05", "0", ""},
		{"vernier-caliper", "in", "1/128", "1/16", ""},
		{"vernier-caliper", "in", "0.001", "0", ""}, {"vernier-caliper", "cm", "0.01", "0.1", ""},
		{"micrometer", "mm", "0.01", "0", ""}, {"micrometer", "mm", "0.002", "0", ""},
		{"micrometer", "mm", "0.001", "0", ""}, {"micrometer", "in", "0.0001", "0", ""},
		{"depth-micrometer", "mm", "0.01", "0.5", ""}, {"inside-micrometer", "mm", "0.01", "0", ""},
		{"dial-caliper", "mm", "0.02", "0", ""}, {"dial-caliper", "in", "0.001", "0", ""},
		{"digital", "mm", "0.01", "0", ""}, {"rule", "in", "1/16", "0", ""}, {"pointer", "mm", "2", "0", ""},
		{"vernier-caliper", "mm", "0", "1", "⟦proposal.propose c=0⟧"},
		{"vernier-caliper", "mm", "0.02", "-1", "⟦proposal.main-division-more-than "},
		{"vernier-caliper", "mm", "0.7", "1", "⟦proposal.too-coarse "},
		{"vernier-caliper", "mm", "0.0001", "1", "lines=10000 "},
		{"vernier-caliper", "mm", "0.0001", "0", "need=0.025 mm"},
		{"vernier-caliper", "mm", "3", "0", "need=15 mm"},
		{"vernier-caliper", "mm", "0.5", "400", "⟦proposal.division division=400 mm "},
		{"rule", "mm", "400", "0", "low=0.25 mm high=10 mm"},
		{"pointer", "mm", "0.03", "0", "⟦proposal.apart family=⟦family.pointer⟧ "},
		{"micrometer", "mm", "0.0001", "0.5", "⟦thimble.limits.drum-lines-without-vernier "},
		{"yardstick", "mm", "1", "0", "⟦proposal.not-family-known-here "},
	} {
		c, err := length.Parse(tt.c)
		require.NoError(t, err)
		d, err := length.Parse(tt.d)
		require.NoError(t, err)
		ways, err := instrument.Propose(tt.family, tt.unit, c, d)
		if tt.refused != "" {
			require.Error(t, err)
			assert.Contains(t, err.Error(), tt.refused)
			continue
		}
		require.NoError(t, err, "%+v", tt)
		assert.NotEmpty(t, ways, "%+v", tt)
		for _, w := range ways {
			in, err := instrument.New(w.Spec)
			require.NoError(t, err)
			assert.True(t, in.LeastCount().Equal(c), "%+v", w)
		}
	}
}

func TestZeroInWords(t *testing.T) {
	in, err := instrument.Parse([]byte(twentieth))
	require.NoError(t, err)
	assert.EqualValues(t, "−(20 − 17) × 0.05", in.ZeroWork(false))
	assert.EqualValues(t, "-1 + 17 × 0.05", in.ZeroWork(true))
	assert.Contains(t, said(in.ZeroStory()),
		"Line 17 lines up with a mark. Counting back from line 20, that is 3 lines.")
	assert.Equal(t, "2 main divisions − 1 plate division: 2 mm − 1.95 mm = 0.05 mm", said(in.Derivation()[2]))
	plus, err := in.WithZeroError(length.Frac(1, 10))
	require.NoError(t, err)
	assert.EqualValues(t, "0 + 2 × 0.05", plus.ZeroWork(false))
	assert.Equal(t, text.New("vernier.zero.above", "line", 2), plus.ZeroStory())
}

func TestParseNamesEveryFieldAtFault(t *testing.T) {
	for change, want := range map[string]string{
		`"divisions":20`:     `"divisions":20,"colour":"red"` + "\x00fine.colour: is not a field",
		`"division":"1"`:     `"division":1` + "\x00main.division: ",
		`"unit":"mm"`:        `"unit":"furlong"` + "\x00unit: ",
		`"zero_error":"-0.`:  `"zero_error":"-1/0","base":"0.` + "\x00zero_error: ",
		`"to":"150"`:         `"to":"-1"` + "\x00main.to: must be more than",
		`"from":"0"`:         `"from":"1e9"` + "\x00main.from: ",
		`"number_every":10`:  `"number_every":-1` + "\x00main.number_every: ",
		`"number_step":2`:    `"number_step":1001` + "\x00fine.number_step: ",
		`"version":1`:        `"version":3` + "\x00version: ",
		`"zero_error":"-0.1`: `"zero_error":"-150.1` + "\x00zero_error: −150.15 is more than the scale can show",
	} {
		to, message, _ := strings.Cut(want, "\x00")
		_, err := instrument.Parse([]byte(strings.Replace(twentieth, change, to, 1)))
		require.Error(t, err, to)
		assert.Contains(t, err.Error(), message)
	}
}

func TestSecondScales(t *testing.T) {
	pattern := func(role instrument.Role) instrument.Spec {
		for _, p := range instrument.Patterns() {
			if p.Role == role {
				return p
			}
		}
		panic("no pattern")
	}
	both, err := instrument.New(pattern(instrument.OtherScale))
	require.NoError(t, err)
	second, _ := both.Second()
	y := both.OnSecond(length.Frac(254, 10)) // 25.4 mm
	r, err := second.Read(y)
	require.NoError(t, err)
	assert.Equal(t, "1.000", second.Format(r.Observed))
	assert.True(t, both.Swapped().OnSecond(y).Equal(length.Frac(254, 10)), "and back again")

	nibs, err := instrument.New(pattern(instrument.InsidePlate))
	require.NoError(t, err)
	second, _ = nibs.Second()
	r, err = second.Read(nibs.OnSecond(length.Int(20)))
	require.NoError(t, err)
	assert.Equal(t, "30.00", second.Format(r.Observed), "the width of the nibs is added")

	for _, tt := range []struct {
		says  string
		spoil func(*instrument.Spec)
	}{
		{"second.role: a gear-tooth vernier needs", func(s *instrument.Spec) {
			s.Family, s.Role = instrument.GearTooth,
				instrument.OtherScale
		}},
		{"second: is missing", func(s *instrument.Spec) { s.Second = nil }},
		{"second.role: a vernier-caliper has no", func(s *instrument.Spec) { s.Role = instrument.ToothDepthScale }},
		{"second.role: “roof” is not", func(s *instrument.Spec) { s.Role = "roof" }},
		{"second.fine.spans: 25 lines over 20",
			func(s *instrument.Spec) { e := *s.Second; e.Fine.MainDivisions = 20; s.Second = &e }},
	} {
		s := pattern(instrument.OtherScale)
		tt.spoil(&s)
		_, err := instrument.New(s)
		require.Error(t, err)
		assert.Contains(t, err.Error(), tt.says)
	}
	gear := pattern(instrument.ToothDepthScale)
	coarse := *gear.Second
	coarse.Fine.Divisions, coarse.Fine.MainDivisions = 10, 9
	gear.Second = &coarse
	_, err = instrument.New(gear)
	assert.ErrorContains(t, err, "have the same least count")
}

func TestDigital(t *testing.T) {
	var digital *instrument.Instrument
	for _, p := range instrument.Patterns() {
		if p.Family == instrument.Digital {
			in, err := instrument.New(p)
			require.NoError(t, err)
			digital = in
		}
	}
	r, err := digital.Read(length.Frac(12345, 1000))
	require.NoError(t, err)
	assert.Equal(t, "12.35", digital.Format(r.Observed), "half away from zero")
	assert.Equal(t, "-0.02", digital.Format(digital.Displayed(length.Frac(99985, 10000), length.Frac(10015, 1000))),
		"signed deviation from where it was zeroed")
	inches, err := digital.InUnit(length.Inch)
	require.NoError(t, err)
	r, err = inches.Read(length.Convert(length.Frac(127, 10), length.Millimetre, length.Inch))
	require.NoError(t, err)
	assert.Equal(t, "0.5000", inches.Format(r.Observed))
	_, err = digital.InUnit(length.Centimetre)
	assert.Error(t, err)
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(twentieth))
	f.Add([]byte(`{"format":"cavix/instrument"}`))
	f.Add([]byte(strings.Replace(twentieth, `"1"`, `"1/16"`, 1)))
	f.Fuzz(func(t *testing.T, doc []byte) {
		in, err := instrument.Parse(doc)
		if err != nil {
			return
		}
		r, err := in.Read(in.Closed())
		require.NoError(t, err, "the closed instrument can be read: %s", doc)
		require.True(t, r.Corrected.Equal(r.Observed.Sub(r.ZeroError)))
		back, err := json.Marshal(in)
		require.NoError(t, err)
		_, err = instrument.Parse(back)
		require.NoError(t, err, "%s", back)
	})
}

func BenchmarkRead(b *testing.B) {
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(b, err)
		from, to := in.Range()
		y := from.Add(to.Sub(from).Mul(length.Frac(3, 7)))
		b.Run(p.Name, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				if _, err := in.Read(y); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// Patterns are ready to be kept: each can exist, and reads what its name says.
func TestPatterns(t *testing.T) {
	names := map[string]bool{}
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err, p.Name)
		assert.False(t, names[p.Name], p.Name)
		names[p.Name] = true
		assert.Equal(t, p.Name, locale.Documents().Print(instrument.PatternTitle(p.Name)),
			"its name in English is the one of documents")
		if c := in.FormatMain(in.LeastCount()); in.HasFine() {
			if p.Unit.Angular() { // "0° 05′" is called 5′
				c = strings.NewReplacer("0° 00′ ", "", "0° 0", "", "0° ", "").Replace(c)
			}
			assert.Contains(t, p.Name, p.Unit.With(c))
		}
	}
	assert.GreaterOrEqual(t, len(names), 20)
}

// A finer vernier that a drum has no room for is told so, and never offered what was just refused.
func TestAVernierThatIsTooLongForItsDrum(t *testing.T) {
	for _, tt := range []struct {
		lines, v, spans int
		says            string
	}{
		{10, 10, 9, "finer.divisions: must be 8 or fewer: a vernier of 10 lines needs a drum of 12 lines or more"},
		{12, 10, 9, ""},
		{20, 10, 19, "finer.spans: 10 lines over 19 drum divisions is not a vernier"},
	} {
		_, err := instrument.New(instrument.Spec{Name: "Screw", Family: instrument.Micrometer, Unit: length.Millimetre,
			Main:           instrument.Main{Division: length.Frac(1, 2), To: length.Int(25)},
			Fine:           instrument.Fine{Kind: instrument.Thimble, Divisions: tt.lines, Travel: length.Frac(1, 2)},
			ThimbleVernier: instrument.ThimbleVernier{Divisions: tt.v, ThimbleDivisions: tt.spans}})
		if tt.says == "" {
			require.NoError(t, err)
			continue
		}
		require.Error(t, err)
		require.Contains(t, err.Error(), tt.says)
		require.NotContains(t, err.Error(), fmt.Sprintf("works: %d", tt.spans))
	}
}

// proposalsFile lists what is offered for many least counts, for looking through; CAVIX_GOLDEN=write writes it anew.
const proposalsFile = "../../testdata/proposals.txt"

// What is proposed can be made and read, whatever least count is wanted, and never a blank where something can.
func TestProposalsCanBeMade(t *testing.T) {
	var wanted []string
	for _, digits := range []int64{1, 2, 3, 4, 5, 8, 10, 12, 15, 16, 20, 24, 25, 30, 32, 33, 35, 40, 50, 60, 64, 75, 80,
		96} {
		for places := 4; places >= 1; places-- {
			wanted = append(wanted, length.Int(digits).Mul(length.Pow10(-places)).String())
		}
	}
	for den := 3; den <= 12; den++ {
		wanted = append(wanted, length.Frac(1, int64(den)).Fraction())
	}
	for den := 8; den <= 1024; den *= 2 {
		wanted = append(wanted, length.Frac(1, int64(den)).Fraction(), length.Frac(3, int64(den)).Fraction())
	}
	slices.Sort(wanted)
	wanted = slices.Compact(wanted)
	var table strings.Builder
	asked := 0
	for _, unit := range []length.Unit{length.Millimetre, length.Centimetre, length.Inch} {
		low, high := map[length.Unit]length.Number{"mm": length.Frac(1, 4), "cm": length.Frac(1, 40),
			"in": length.Frac(1, 64)}[unit], map[length.Unit]length.Number{"mm": length.Int(10), "cm": length.Int(1),
			"in": length.Frac(1, 4)}[unit]
		for _, text := range wanted {
			c, err := length.Parse(text)
			require.NoError(t, err)
			asked++
			fmt.Fprintf(&table, "%s %s\n", text, unit)
			for _, family := range []instrument.Family{instrument.VernierCaliper, instrument.Micrometer,
				instrument.DialCaliper, instrument.Rule} {
				ways, err := instrument.Propose(family, unit, c, length.Number{})
				if err != nil {
					require.NotEmpty(t, err.Error())
					fmt.Fprintf(&table, "    %-15s –  %s\n", family, said(refusal.Says(err)))
					continue
				}
				fmt.Fprintf(&table, "    %-15s %d  %s · %s\n", family, len(ways), said(ways[0].Made),
					said(ways[0].Remark))
				for _, w := range ways {
					in, err := instrument.New(w.Spec)
					require.NoError(t, err)
					s := in.Spec()
					about := fmt.Sprintf("%s %s: %s", text, unit, said(w.Made))
					require.True(t, in.LeastCount().Equal(c), about)
					require.True(t, low.Cmp(s.Main.Division) <= 0 && s.Main.Division.Cmp(high) <= 0, about)
					if in.HasFine() {
						require.True(t, 5 <= in.Lines() && in.Lines() <= 250, about)
					}
					if in.Kind() == instrument.Vernier {
						mm := func(x length.Number) float64 {
							return length.Convert(x, unit,
								length.Millimetre).Float()
						}
						require.GreaterOrEqual(t, mm(in.PlateDivision()), 0.4, about)
						require.LessOrEqual(t, mm(in.PlateDivision().MulInt(in.Lines())), 60.0, about)
						require.LessOrEqual(t, mm(in.PlateDivision().MulInt(in.Lines())), mm(s.Main.To)/2, about)
					}
				}
			}
		}
	}
	require.Greater(t, asked, 300)
	if os.Getenv("CAVIX_GOLDEN") == "write" {
		require.NoError(t, os.WriteFile(proposalsFile, []byte(table.String()), 0o644))
	}
	want, err := os.ReadFile(proposalsFile)
	require.NoError(t, err)
	require.Equal(t, string(want), table.String())
}

// Least counts that once had no answer have one, in each family that can.
func TestProposalsForUnusualLeastCounts(t *testing.T) {
	for _, tt := range []struct {
		family  instrument.Family
		unit    length.Unit
		c, made string
	}{
		{"vernier-caliper", "mm", "0.02", "1 mm beam · 50 lines over 49 main divisions"},
		{"vernier-caliper", "mm", "0.03", "0.9 mm beam · 30 lines over 29 main divisions"},
		{"vernier-caliper", "mm", "0.15", "1.5 mm beam · 10 lines over 9 main divisions"},
		{"vernier-caliper", "mm", "1/3", ""}, {"vernier-caliper", "mm", "0.004", ""},
		{"vernier-caliper", "mm", "0.0025", ""}, {"vernier-caliper", "in", "1/64", "1/8 in beam"},
		{"vernier-caliper", "in", "1/128", "1/16 in beam · 8 lines over 7 main divisions"},
		{"micrometer", "mm", "0.03", ""}, {"micrometer", "mm", "0.15", ""}, {"micrometer", "mm", "1/3", ""},
		{"micrometer", "mm", "0.004", ""}, {"micrometer", "mm", "0.0025", ""},
		{"micrometer", "mm", "0.0001", "250 lines on the drum · 10 lines over 9"}, {"micrometer", "in", "1/64", ""},
		{"dial-caliper", "mm", "0.03", ""}, {"dial-caliper", "mm", "0.004", ""}, {"dial-caliper", "mm", "1/3", ""},
		{"rule", "in", "1/64", "1/64 in divisions"}, {"rule", "mm", "1/3", ""},
	} {
		c, err := length.Parse(tt.c)
		require.NoError(t, err)
		ways, err := instrument.Propose(tt.family, tt.unit, c, length.Number{})
		require.NoError(t, err, "%+v", tt)
		assert.Contains(t, said(ways[0].Made), tt.made, "%+v", tt)
	}
}
