package kinds_test

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/text"
)

// A conversion is asked back in its own unit, in the step's own way of writing, and shown on a display.
func TestConversions(t *testing.T) {
	for _, tt := range []struct{ value, from, to, step, answer, outcome, slip string }{
		{"11.70", "mm", "in", "0.001", "0.461", "right", ""},
		{"11.70", "mm", "in", "0.001", "0.460", "wrong", "cut-not-rounded"},
		{"11.70", "mm", "in", "0.001", "0.4610", "form", ""},
		{"11.70", "mm", "in", "0.001", "11.7 mm", "wrong", ""},
		{"11.70", "mm", "in", "0.001", "297.180", "wrong", "wrong-way"},
		{"11.70", "mm", "in", "0.001", "4.61", "wrong", "tenfold"},
		{"1 3/16", "in", "mm", "0.01", "30.16", "right", ""},
		{"-11.70", "mm", "in", "0.001", "-0.461", "right", ""},
		{"2.00", "in", "cm", "1/4", "5", "right", ""},
	} {
		it := &kinds.Conversion{Value: tt.value, From: length.Unit(tt.from), To: length.Unit(tt.to), Step: tt.step}
		require.NoError(t, it.Check())
		require.Len(t, it.Figures(), 1, tt.value)
		fig := it.Figures()[0]
		r, err := fig.Instrument.Read(fig.At)
		require.NoError(t, err)
		assert.Equal(t, tt.value, fig.Instrument.Format(r.Observed))
		m := must(it.Mark(exercise.Answer{"value": tt.answer})).Fields[0]
		assert.EqualValues(t, tt.outcome, m.Outcome, "%+v", tt)
		if tt.slip != "" {
			assert.EqualValues(t, tt.slip, m.Slips[0], "%+v", tt)
		}
	}
}

// An angle is asked back in the other way of writing. A minute is a sixtieth of a degree, whatever it looks like.
func TestAnglesInTheOtherWriting(t *testing.T) {
	for _, tt := range []struct{ value, to, step, answer, outcome, slip string }{
		{"34° 25′", "decimal", "0.001", "34.417", "right", ""},
		{"34° 25′", "decimal", "0.001", "34.416", "wrong", "cut-not-rounded"},
		{"34° 25′", "decimal", "0.001", "34.250", "wrong", "minutes-as-hundredths"},
		{"34° 25′", "decimal", "0.001", "34° 25′", "wrong", ""},
		{"34° 25′", "decimal", "0.001", "34.4170", "form", ""},
		{"34.417", "dms", "1/60", "34°25′", "right", ""},
		{"34.417", "dms", "1/60", "34 25", "right", ""},
		{"34.417", "dms", "1/60", "34° 42′", "wrong", "minutes-as-hundredths"},
		{"34.417", "dms", "1/60", "34.417", "wrong", ""},
		{"34.4269", "dms", "1/3600", "34° 25′ 37″", "right", ""},
		{"34.4269", "dms", "1/3600", "34° 25′ 36″", "wrong", "cut-not-rounded"},
		{"-0.25", "dms", "1/60", "-0° 15′", "right", ""},
	} {
		it := &kinds.AngleConversion{Value: tt.value, From: length.Degree, To: tt.to, Step: tt.step}
		require.NoError(t, it.Check())
		m := must(it.Mark(exercise.Answer{"value": tt.answer})).Fields[0]
		assert.EqualValues(t, tt.outcome, m.Outcome, "%+v", tt)
		if tt.slip != "" && assert.NotEmpty(t, m.Slips, "%+v", tt) {
			assert.EqualValues(t, tt.slip, m.Slips[0], "%+v", tt)
		}
		again, err := kinds.Open(must(exercise.Document(it)))
		require.NoError(t, err)
		assert.Equal(t, it, again)
	}
	for _, bad := range []kinds.AngleConversion{{To: "dms", Step: "0.001"}, {To: "dms", Step: "1/7"},
		{To: "rad", Step: "1"}, {To: "decimal", Step: "1/60"}} {
		require.Error(t, bad.Check(), "%+v", bad)
	}
}

// Every kind asks of every ready pattern what can be answered, or refuses it. A right answer gets all marks, and what
// is asked can be stored and read back.
func TestEveryKindOfEveryPattern(t *testing.T) {
	draws := rand.New(rand.NewPCG(1, 2))
	for _, k := range kinds.All {
		asked := 0
		for _, p := range instrument.Patterns() {
			in, err := instrument.New(p)
			require.NoError(t, err)
			sheet := exercise.Sheet{Dealer: exercise.Dealing, Blocks: []exercise.Block{{Kind: k.Name(), Cards: 2,
				Instruments: []*instrument.Instrument{in}}}}
			if sheet.Check(kinds.All) != nil {
				continue
			}
			for _, it := range must(sheet.Deal(kinds.All, 3)) {
				asked++
				a, _, err := exercise.Student{}.Answer(it, draws)
				require.NoError(t, err)
				r := must(it.Mark(a))
				assert.True(t, r.Marks.Equal(r.Of), "%s of %s: %s of %s for %v", k.Name(), p.Name, r.Marks, r.Of, a)
				_, err = kinds.Parse(must(exercise.Document(it)))
				assert.NoError(t, err, "%s of %s", k.Name(), p.Name)
				if p.Unit.Angular() { // whose unit is a sign, never "deg"
					a, _, err := exercise.Student{Noise: 1}.Answer(it, draws)
					require.NoError(t, err)
					assert.NotRegexp(t, `deg\b`, everything(t, it, a), "%s of %s", k.Name(), p.Name)
				}
			}
		}
		if k.Name() != "pick" { // of one instrument there is nothing to pick
			assert.Positive(t, asked, k.Name())
		}
	}
}

// everything is all that a card says to one who answers it.
func everything(t *testing.T, it exercise.Item, a exercise.Answer) string {
	t.Helper()
	facts, e := it.Facts(), must(it.Explain(a, exercise.Wording{}))
	all := slices.Concat(facts.About, facts.Given, []text.Text{facts.Task, facts.Convention, e.Headline}, e.Body)
	for _, eq := range e.Work {
		all = append(all, eq.Left, eq.Right)
	}
	for _, f := range it.Fields() {
		for i, o := range f.Options {
			all = append(all, exercise.OptionText(f, i, o))
		}
	}
	return said(all...)
}

// The least count of a scale in degrees and minutes may be given in every way in which an angle is written.
func TestLeastCountOfAnAngle(t *testing.T) {
	it := &kinds.LeastCount{Instrument: pattern(t, "Bevel protractor 5′", "0"), From: "drawing",
		Ask: []string{"least_count"}}
	for answer, want := range map[string]string{"5′": "right", "0° 05′": "right", "0.083": "right", "0:05": "right",
		"1/12": "right", "300″": "right", "10′": "wrong", "0.05": "wrong", "5": "wrong"} {
		assert.EqualValues(t, want, must(it.Mark(exercise.Answer{"least_count": answer})).Fields[0].Outcome, answer)
	}
}
