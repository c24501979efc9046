package kinds_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
)

func ExampleParse() {
	card, err := kinds.Parse(
		[]byte(`{"format":"cavix/item","version":1,"indicated":"31.40","ask":["main","fine_line","observed"],
		"instrument":{"format":"cavix/instrument","version":1,"family":"vernier-caliper","unit":"mm",
		"main":{"division":"1","from":"0","to":"150"},"fine":{"kind":"vernier","divisions":20,"spans":39}}}`),
	)
	if err != nil {
		fmt.Println(err)
		return
	}
	answer := exercise.Answer{"main": "32", "fine_line": "8", "observed": "32,40"}
	r, _ := card.Mark(answer)
	for _, st := range r.Fields {
		fmt.Println(st.Field, st.Outcome, st.Slips)
	}
	fmt.Println(r.Marks, "of", r.Of)
	e, _ := card.Explain(answer, exercise.Wording{})
	fmt.Println(said(e.Headline))
	// Output:
	// main wrong [main-next-mark]
	// fine_line right []
	// observed carried []
	// 2 of 3
	// You wrote 32. The plate's 0 is past the 31 mm mark.
}

// Each answer is put in words that name the cause, and points at the mark or line that was taken.
func TestExplain(t *testing.T) {
	for _, tt := range []struct {
		name, zero, position, ask, answer string
		headline                          string
		says                              []string
		work                              string // the last equation
	}{
		{"right", "-0.10", at4735, "main fine_line observed zero_error corrected",
			"main=47|fine_line=7|observed=47.35|zero_error=-0.10|corrected=47.45",
			"Right: the corrected reading is 47.45 mm.", nil, "47.35 − (−0.10) = 47.45 mm"},
		{"a neighbour", "-0.10", at4735, "main fine_line observed", "main=47|fine_line=8|observed=47.40",
			"You wrote 8. Line 7 lines up with a mark.", []string{"Correct so far: main reading.",
				"line 8 is slightly left", "parallax"}, "47 + 7 × 0.05 = 47.35 mm"},
		{"the last line", "0", `"indicated":"47.00"`, "fine_line", "fine_line=20",
			"You wrote 20. Line 0 lines up with a mark.", []string{"line 0 and line 20 both line up with one"},
			"47 + 0 × 0.05 = 47.00 mm"},
		{"a sign", "-0.10", at4735, "zero_error", "zero_error=+0.10",
			"You wrote +0.10 for the zero error. The right value is −0.10 mm.",
			[]string{"to the left of the main scale's 0"},
			"−(20 − 18) × 0.05 = −0.10 mm"},
		{"carried, then wrong", "-0.10", at4735, "observed zero_error corrected",
			"observed=47.30|zero_error=-0.10|corrected=47.20",
			"You wrote 47.30 for the observed reading. The right value is 47.35 mm.", []string{"parallax"},
			"47.35 − (−0.10) = 47.45 mm"},
		{"decimals", "0", at4735, "observed", "observed=47.350",
			"Your values are correct. Check how you wrote them.", []string{"2 decimal places"},
			"47 + 7 × 0.05 = 47.35 mm"},
		{"left empty", "0", at4735, "main observed", "main=47",
			"Empty: observed reading.", nil, "47 + 7 × 0.05 = 47.35 mm"},
		{"two slips", "-0.10", at4735, "corrected", "corrected=48.35",
			"You wrote 48.35 for the corrected reading. The right value is 47.45 mm.",
			[]string{"Two mistakes together"},
			"47.35 − (−0.10) = 47.45 mm"},
		{"no known slip", "0", at4735, "main", "main=12",
			"You wrote 12. The plate's 0 is past the 47 mm mark.", []string{"at or before the plate's 0"},
			"47 + 7 × 0.05 = 47.35 mm"},
	} {
		t.Run(tt.name, func(t *testing.T) {
			c := twentieth(t, tt.zero, "0", tt.position, tt.ask, "")
			e, err := c.Explain(answered(tt.answer), exercise.Wording{})
			require.NoError(t, err)
			assert.Equal(t, tt.headline, said(e.Headline))
			for _, s := range tt.says {
				assert.Contains(t, said(e.Body...), s)
			}
			last := e.Work[len(e.Work)-1]
			assert.Equal(t, tt.work, said(last.Left)+" = "+said(last.Right))
		})
	}
	c := twentieth(t, "0", "0", at4735, "main fine_line", "")
	e, err := c.Explain(answered("main=48|fine_line=9"), exercise.Wording{})
	require.NoError(t, err)
	assert.Equal(t, slips.Main, e.Field)
	assert.Equal(t, "48", e.Shown[0].TakenMark.String())
	assert.Equal(t, 9, *e.Shown[0].TakenLine)
	assert.Equal(t, 7, e.Shown[0].Line)
}

// Of slips that give the same value the one made before comes first, and why is said; a slip that is
// switched off is not named, and own words replace the handbook's.
func TestHistoryAndOwnWords(t *testing.T) {
	c := twentieth(t, "-19/20", "0", `"indicated":"47.35"`, "corrected", "")
	a := answered("corrected=47.30")
	r, err := c.Mark(a) // 48.30 − 1: zero-counted-forward and main-mark-missed alike
	require.NoError(t, err)
	st := r.Field(slips.Corrected)
	require.Equal(t, []exercise.Code{slips.ZeroCountedForward, slips.MainMarkMissed}, st.Slips[:2])
	told := func(h exercise.History, w exercise.SlipWordings) exercise.Explanation {
		e, err := c.Explain(a, exercise.Wording{History: h, Wordings: w})
		require.NoError(t, err)
		return e
	}
	unhurried := told(exercise.History{}, nil)
	assert.Contains(t, said(unhurried.Body...), "the reading is below zero")
	before := told(exercise.History{Student: map[exercise.Code]int{slips.MainMarkMissed: 2}}, nil)
	assert.Contains(t, said(before.Body...), "You read one mark too few.")
	assert.Contains(t, said(before.Body...), "You made this mistake 2 times before")
	class := told(exercise.History{Class: map[exercise.Code]int{slips.MainMarkMissed: 5}}, nil)
	assert.Contains(t, said(class.Body...), "5 times in your class")
	private := told(exercise.History{Class: map[exercise.Code]int{slips.MainMarkMissed: 5}, Private: true}, nil)
	assert.Contains(t, said(private.Body...), "You read one mark too few.",
		"what the class does most comes first all the same")
	assert.NotContains(t, said(private.Body...), "class")
	off := told(exercise.History{}, exercise.SlipWordings{slips.ZeroCountedForward: {Off: true},
		slips.MainMarkMissed: {Advice: "Count again.", Note: "Ask me."}})
	assert.Contains(t, said(off.Body[0]), "Count again. Ask me.")
}

func TestHintsGoFromWhereToTheWorking(t *testing.T) {
	c := twentieth(t, "-0.10", "0", at4735, "main fine_line observed zero_error corrected", "")
	h, err := c.Hints()
	require.NoError(t, err)
	require.Len(t, h, 3)
	assert.Contains(t, said(h[0].Text), "at or before the plate's 0")
	assert.NotContains(t, said(h[0].Text), "47")
	assert.Contains(t, said(h[1].Text), "47 mm")
	assert.Contains(t, said(h[2].Text), "47 + 7 × 0.05 = 47.35 mm")
	assert.Empty(t, h[0].Shown)
	assert.Equal(t, "47 mm", said(h[1].Shown[0].MarkText))
	assert.Empty(t, h[1].Shown[0].LineText, "the line is not yet told")
	assert.Equal(t, "line 7", said(h[2].Shown[0].LineText))
}

func TestMethodOverAnother(t *testing.T) {
	two := 2
	m := exercise.Method{Decimals: "lenient"}.Over(exercise.Method{Decimals: "strict", ZeroTerm: "correction",
		TenthsTolerance: &two})
	assert.Equal(t, exercise.Method{Decimals: "lenient", ZeroTerm: "correction", TenthsTolerance: &two}, m)
	for _, s := range exercise.MethodSettings {
		require.NoError(t, s.Set(&m, s.Choices[1].Value))
		assert.Equal(t, s.Choices[1].Value, s.Get(m))
		assert.ErrorContains(t, s.Set(&m, "whatever"), s.Field+": ")
	}
}

// A card says what its school wants of who works it, and nothing that does not concern it.
func TestSchoolInWords(t *testing.T) {
	for _, tt := range []struct{ ask, more, want string }{
		{"main observed", "", ""},
		{"main zero_error", "", "write the sign of the zero error"},
		{"main zero_error", `,"method":{"zero_sign":"optional"}`, ""},
		{"main zero_error", `,"method":{"zero_term":"correction","between":"tenths"}`,
			"write the sign of the zero correction"},
		{"observed", `,"method":{"tie":"upper","unit":"required"}`,
			"exactly midway, take the upper line; write the unit of every length"},
		{"observed", `,"method":{"tie":"unfavourable"},"limits":{"lower":"47.00","upper":"47.45"}`,
			"exactly midway, take the line nearer to a limit: 47.00 and 47.45 mm"},
	} {
		c := twentieth(t, "-0.10", "0", at4735, tt.ask, tt.more)
		assert.Equal(t, tt.want, said(c.Facts().Convention), tt.more)
	}
}

// A drum read to a tenth is marked against the true position, with its tolerance, going round at 0.
func TestTenths(t *testing.T) {
	const item = `{"format":"cavix/item","version":1,"instrument":{"format":"cavix/instrument","version":1,
		"family":"micrometer","unit":"mm",
		"main":{"division":"0.5","from":"0","to":"25","half_marks":true},"fine":{"kind":"drum","divisions":50,
		"travel":"0.5"}},
		"indicated":%q,"ask":["main","fine_line","observed"],"method":{"between":"tenths"%s}}`
	for _, tt := range []struct{ at, more, line, observed, want string }{
		{"7.2436", "", "24.4", "7.244", ""},
		{"7.2436", "", "24.2", "7.242", ""},
		{"7.2436", "", "24.1", "7.244", "fine_line wrong/neighbour"},
		{"7.2436", "", "24", "7.24", "fine_line wrong"},
		{"7.2436", `,"tenths_tolerance":6`, "24", "7.24", "fine_line form decimals, observed form decimals"},
		{"7.0004", "", "49.9", "7.001", ""}, // going round at 0
		{"7.2436", "", "24.4", "7.2440", "observed form decimals"},
		{"7.2436", "", "24.4", "7.344", "observed wrong"},
	} {
		it, err := kinds.Parse(fmt.Appendf(nil, item, tt.at, tt.more))
		require.NoError(t, err)
		got, _ := outcomes(t, it.(*kinds.Reading), "main=7|fine_line="+tt.line+"|observed="+tt.observed)
		if tt.want == "" {
			assert.Empty(t, got, "%+v", tt)
		} else {
			assert.True(t, strings.HasPrefix(got, strings.Split(tt.want, "/")[0]), "%+v gives %q", tt, got)
		}
	}
}

// Every slip says what was done and has advice of its own.
func TestEverySlipHasWords(t *testing.T) {
	seen := map[string]bool{}
	for _, s := range kinds.Slips() {
		you := said(s.Code.You())
		assert.Regexp(t, `^Your? .*\.$`, you, s.Code)
		assert.False(t, seen[you], "two slips say %q", you)
		seen[you] = true
	}
	assert.Equal(t, "reading one mark too far and leaving out the zero error",
		said(exercise.Code("main-next-mark+zero-not-applied").Name()))
}

// allSteps asks for everything.
func allSteps(in *instrument.Instrument, y length.Number) *kinds.Reading {
	c := &kinds.Reading{Instrument: in, Indicated: &y}
	for _, s := range slips.Steps {
		if slips.Can(in, s) {
			c.Ask = append(c.Ask, s)
		}
	}
	return c
}

// Whatever the vernier and position, the expected entries earn all marks, and a single wrong entry with
// all that follows from it loses just its own.
func TestRightAndCarriedOnDrawnVerniers(t *testing.T) {
	if testing.Short() {
		t.Skip("marks thousands of answers; left out with -short")
	}
	draws := rand.New(rand.NewPCG(5, 5))
	for range 2000 {
		in := instrumenttest.Vernier(draws)
		c := allSteps(in, instrumenttest.Position(draws, in))
		solutions, err := solutionsOf(c)
		require.NoError(t, err)
		s := solutions[draws.IntN(len(solutions))]
		a := exercise.Answer{}
		for _, step := range c.Ask {
			a[step] = textOf(c, step, s.Step(step))
		}
		r, err := c.Mark(a)
		require.NoError(t, err)
		require.True(t, r.Marks.Equal(r.Of), "%v gives %s of %s on %+v", a, r.Marks, r.Of, in.Spec())
		require.Empty(t, r.Slips)

		off := in.LeastCount().MulInt(1 + draws.IntN(40))
		a[slips.Observed] = textOf(c, slips.Observed, s.Observed.Add(off))
		a[slips.Corrected] = textOf(c, slips.Corrected, s.Corrected.Add(off))
		r, err = c.Mark(a)
		require.NoError(t, err)
		if len(solutions) == 1 { // of a tie, the other line may fit better
			wrong := r.Field(slips.Observed)
			follows := r.Field(slips.Corrected)
			require.Equal(t, exercise.Wrong, wrong.Outcome)
			require.Equal(t, exercise.Carried, follows.Outcome)
			require.True(t, r.Of.Sub(r.Marks).Equal(length.Int(1)))
			require.NotEmpty(t, wrong.Slips, "parts right, sum wrong at the least")
		}
		_, err = c.Explain(a, exercise.Wording{})
		require.NoError(t, err)
	}
}

// A card as it is stored is the card as it was asked.
func TestCardsComeBackFromTheStore(t *testing.T) {
	draws := rand.New(rand.NewPCG(5, 6))
	for range 200 {
		in := instrumenttest.Vernier(draws)
		c := allSteps(in, instrumenttest.Position(draws, in))
		c.Method = exercise.Method{ZeroTerm: "correction", Decimals: "lenient"}
		c.Marks = map[string]int{slips.Corrected: 3}
		b, err := exercise.Document(c)
		require.NoError(t, err)
		for _, read := range []func([]byte) (exercise.Item, error){kinds.Parse, kinds.Open} {
			back, err := read(b)
			require.NoError(t, err, "%s", b)
			again, err := exercise.Document(back)
			require.NoError(t, err)
			require.JSONEq(t, string(b), string(again))
		}
	}
}

func BenchmarkMark(b *testing.B) {
	in, err := instrument.New(instrument.Spec{Family: instrument.VernierCaliper, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Int(1), To: length.Int(150)},
		Fine: instrument.Fine{Kind: instrument.Vernier, Divisions: 50, MainDivisions: 49, NumberEvery: 5,
			NumberStep: 1},
		ZeroError: length.Frac(-3, 50)})
	require.NoError(b, err)
	c := allSteps(in, length.Frac(3164, 100))
	for name, text := range map[string]string{
		"right":   "least_count=0.02|main=31|fine_line=32|fine=0.64|observed=31.64|zero_error=-0.06|corrected=31.70",
		"singles": "least_count=0.02|main=32|fine_line=33|fine=0.00|observed=23.00|zero_error=+0.06|corrected=23.00",
		"slips":   "least_count=0.05|main=32|fine_line=33|fine=0.62|observed=32.00|zero_error=+0.06|corrected=31.00",
	} {
		b.Run(name, func(b *testing.B) {
			a := answered(text)
			b.ReportAllocs()
			for b.Loop() {
				if _, err := c.Mark(a); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}
