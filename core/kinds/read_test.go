package kinds_test

import (
	"encoding/json"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/slips"
)

// at4735 is the position that most cards of these tests show.
const at4735 = `"indicated":"47.35"`

// twentieth is a 20-over-19 caliper in mm with the given zero error and more.
func twentieth(t *testing.T, zero, base, position, ask, more string) *kinds.Reading {
	t.Helper()
	steps := `"` + strings.ReplaceAll(ask, " ", `","`) + `"`
	it, err := kinds.Parse(fmt.Appendf(nil, `{"format":"cavix/item","version":1,"instrument":{
		"format":"cavix/instrument","version":1,"name":"Twentieth","family":"vernier-caliper","unit":"mm",
		"main":{"division":"1","from":"0","to":"150","number_every":10,"number_step":"10"},
		"fine":{"kind":"vernier","divisions":20,"spans":19,"number_every":4},
		"base":%q,"zero_error":%q},%s,"ask":[%s]%s}`, base, zero, position, steps, more))
	require.NoError(t, err)
	return it.(*kinds.Reading)
}

// solutionsOf are the right ways to answer a card, textOf how a value stands on it.
func solutionsOf(c *kinds.Reading) ([]*slips.Solution, error) {
	y := c.Instrument.Closed()
	if !c.Closed {
		y = *c.Indicated
	}
	return placeOf(c).Solutions(y, c.Limits)
}

func placeOf(c *kinds.Reading) slips.Place {
	return slips.Place{Instrument: c.Instrument, Method: c.Method, Closed: c.Closed}
}

func textOf(c *kinds.Reading, step string, x length.Number) string { return placeOf(c).Text(step, x) }

// answered reads "step=text|step=text".
func answered(pairs string) exercise.Answer {
	a := exercise.Answer{}
	for _, pair := range strings.Split(pairs, "|") {
		step, text, _ := strings.Cut(pair, "=")
		a[step] = text
	}
	return a
}

// outcomes marks a card and writes "step outcome[/slips]" for every step that is not right.
func outcomes(t *testing.T, c *kinds.Reading, answer string) (string, string) {
	t.Helper()
	r, err := c.Mark(answered(answer))
	require.NoError(t, err)
	var out []string
	for _, st := range r.Fields {
		if st.Outcome == exercise.Right {
			continue
		}
		s := fmt.Sprintf("%s %s", st.Field, st.Outcome)
		for _, f := range st.Faults {
			s += " " + string(f)
		}
		for _, code := range st.Slips {
			s += "/" + string(code)
		}
		out = append(out, s)
	}
	return strings.Join(out, ", "), r.Marks.String() + " of " + r.Of.String()
}

func TestMark(t *testing.T) {
	for _, tt := range []struct {
		name, zero, base, position, ask, more, answer string
		want, marks                                   string
	}{
		{name: "one mistake is paid once", zero: "-0.10", base: "0", position: at4735,
			ask:    "main fine_line fine observed zero_error corrected",
			answer: "main=47|fine_line=8|fine=0.40|observed=47.40|zero_error=-0.10|corrected=47.50",
			want:   "fine_line wrong/neighbour-line, fine carried, observed carried, corrected carried",
			marks:  "5 of 6"},
		{name: "a line alone carries into the sum", zero: "0", base: "0", position: at4735,
			ask:    "main fine_line observed",
			answer: "main=47|fine_line=8|observed=47.40",
			want:   "fine_line wrong/neighbour-line, observed carried", marks: "2 of 3"},
		{name: "nothing follows from an empty box", zero: "0", base: "0", position: at4735,
			ask:    "main fine_line observed",
			answer: "main=|fine_line=8|observed=47.40",
			want:   "main missing, fine_line wrong/neighbour-line, observed wrong/neighbour-line/rounded-off",
			marks:  "0 of 3"},
		{name: "a sign is missing and decimals too", zero: "0.10", base: "0", position: at4735,
			ask:    "observed zero_error",
			answer: "observed=47.350|zero_error=0.10",
			want:   "observed form decimals, zero_error form sign", marks: "1 of 2"},
		{name: "form is no matter under lenient and optional", zero: "0.10", base: "0", position: at4735,
			ask:    "observed zero_error",
			more:   `,"method":{"decimals":"lenient","zero_sign":"optional"}`,
			answer: "observed=47.350|zero_error=0.1", want: "", marks: "2 of 2"},
		{name: "zero needs no sign", zero: "0", base: "0", position: at4735, ask: "zero_error",
			answer: "zero_error=0.00", marks: "1 of 1"},
		{name: "a required unit", zero: "0", base: "0", position: at4735, ask: "fine_line observed",
			more:   `,"method":{"unit":"required"}`,
			answer: "fine_line=7|observed=47.35", want: "observed form unit", marks: "1.5 of 2"},
		{name: "a carried value in the wrong form", zero: "0", base: "0", position: at4735, ask: "main observed",
			answer: "main=48|observed=48.350", want: "main wrong/main-next-mark, observed form decimals",
			marks: "0.5 of 2"},
		{name: "the correction is asked", zero: "-0.10", base: "0", position: at4735,
			ask:    "observed zero_error corrected",
			more:   `,"method":{"zero_term":"correction"}`,
			answer: "observed=47.35|zero_error=+0.10|corrected=47.45", marks: "3 of 3"},
		{name: "the correction with the wrong sign", zero: "-0.10", base: "0", position: at4735,
			ask:    "observed zero_error corrected",
			more:   `,"method":{"zero_term":"correction"}`,
			answer: "observed=47.35|zero_error=-0.10|corrected=47.25",
			want:   "zero_error wrong/zero-sign-flipped, corrected carried", marks: "2 of 3"},
		{name: "a negative zero read from the front", zero: "-0.10", base: "0", position: at4735, ask: "zero_error",
			answer: "zero_error=+0.90", want: "zero_error wrong/zero-counted-forward/main-next-mark", marks: "0 of 1"},
		{name: "an empty least count is not needed beside a fine reading", zero: "0", base: "0", position: at4735,
			ask:    "least_count main fine observed",
			answer: "main=48|fine=0.35|observed=48.35",
			want:   "least_count missing, main wrong/main-next-mark, observed carried", marks: "2 of 4"},
		{name: "a wrong line is paid once where the fine reading is not asked", zero: "0", base: "0", position: at4735,
			ask:    "fine_line observed corrected",
			answer: "fine_line=6|observed=47.30|corrected=47.30",
			want:   "fine_line wrong/neighbour-line, observed carried, corrected carried", marks: "2 of 3"},
		{name: "digits swapped behind a sign", zero: "0.15", base: "0", position: at4735, ask: "zero_error",
			answer: "zero_error=+0.51", want: "zero_error wrong/digits-swapped", marks: "0 of 1"},
		{name: "a zero error read rightly and added", zero: "-0.10", base: "0", position: at4735,
			ask:    "observed zero_error corrected",
			answer: "observed=47.35|zero_error=-0.10|corrected=47.25",
			want:   "corrected wrong/zero-sign-flipped", marks: "2 of 3"},
		{name: "a zero error read rightly and left out", zero: "-0.10", base: "0", position: at4735,
			ask:    "observed zero_error corrected",
			answer: "observed=47.35|zero_error=-0.10|corrected=47.35",
			want:   "corrected wrong/zero-not-applied", marks: "2 of 3"},
		{name: "after a right observed reading its parts explain nothing", zero: "-0.10", base: "0", position: at4735,
			ask:    "observed corrected",
			answer: "observed=47.35|corrected=46.45",
			want:   "corrected wrong/zero-counted-forward", marks: "1 of 2"},
		{name: "nor is a zero error counted forward that was read rightly", zero: "-0.10", base: "0", position: at4735,
			ask:    "observed zero_error corrected",
			answer: "observed=47.35|zero_error=-0.10|corrected=46.45",
			want:   "corrected wrong/sum-slip", marks: "2 of 3"},
		{name: "closed, counted from the front", zero: "-0.10", base: "0", position: `"closed":true`,
			ask:    "main fine_line zero_error",
			answer: "main=0|fine_line=18|zero_error=+0.90",
			want:   "main wrong/zero-counted-forward/main-next-mark, zero_error carried", marks: "2 of 3"},
		{name: "closed, one line off and carried", zero: "-0.10", base: "0", position: `"closed":true`,
			ask:    "main fine_line zero_error",
			answer: "main=0|fine_line=3|zero_error=-0.15",
			want:   "fine_line wrong/neighbour-line, zero_error carried", marks: "2 of 3"},
		{name: "closed, the fine reading from the front", zero: "-0.10", base: "0", position: `"closed":true`,
			ask:    "main fine",
			answer: "main=0|fine=0.90", want: "fine wrong/zero-counted-forward", marks: "1 of 2"},
		{name: "a wrong main mark with the base in it", zero: "0", base: "25", position: `"indicated":"72.35"`,
			ask:    "main observed",
			answer: "main=73|observed=73.35", want: "main wrong/main-next-mark, observed carried", marks: "1 of 2"},
		{name: "what follows cannot be written with the places", zero: "0", base: "0", position: at4735,
			ask:    "least_count fine_line fine",
			answer: "least_count=0.125|fine_line=7|fine=0.875",
			want:   "least_count wrong, fine carried", marks: "2 of 3"},
		{name: "near zero inches explain nothing", zero: "0.05", base: "0", position: at4735, ask: "zero_error",
			answer: "zero_error=+1.25", want: "zero_error wrong", marks: "0 of 1"},
		{name: "a zero error one line off", zero: "-0.10", base: "0", position: at4735,
			ask:    "main fine_line zero_error",
			answer: "main=47|fine_line=7|zero_error=-0.15", want: "zero_error wrong/neighbour-line", marks: "2 of 3"},
		{name: "the base may stand in the main reading", zero: "0", base: "25", position: `"indicated":"72.35"`,
			ask:    "main observed",
			answer: "main=72|observed=72.35", marks: "2 of 2"},
		{name: "the base left out", zero: "0", base: "25", position: `"indicated":"72.35"`, ask: "main observed",
			answer: "main=47|observed=47.35", want: "observed wrong/base-left-out", marks: "1 of 2"},
		{name: "a tie takes either line", zero: "0", base: "0", position: `"indicated":"47.375"`,
			ask:    "fine_line observed",
			answer: "fine_line=8|observed=47.40", marks: "2 of 2"},
		{name: "but not a value between them", zero: "0", base: "0", position: `"indicated":"47.375"`, ask: "observed",
			answer: "observed=47.375", want: "observed wrong/invented-line", marks: "0 of 1"},
		{name: "a tie by the lower line", zero: "0", base: "0", position: `"indicated":"47.375"`, ask: "fine_line",
			more:   `,"method":{"tie":"lower"}`,
			answer: "fine_line=8", want: "fine_line wrong/neighbour-line", marks: "0 of 1"},
		{name: "a tie by the unfavourable line", zero: "0", base: "0", position: `"indicated":"47.375"`,
			ask:    "observed",
			more:   `,"method":{"tie":"unfavourable"},"limits":{"lower":"47.00","upper":"47.45"}`,
			answer: "observed=47.35", want: "observed wrong/neighbour-line", marks: "0 of 1"},
		{name: "closed, counted from the end", zero: "-0.15", base: "0", position: `"closed":true`,
			ask:    "main fine_line fine zero_error",
			answer: "main=0|fine_line=3|fine=-0.15|zero_error=-0.15", marks: "4 of 4"},
		{name: "closed, with a signed main", zero: "-0.15", base: "0", position: `"closed":true`,
			ask:    "main fine_line fine zero_error",
			answer: "main=-1|fine_line=17|fine=0.85|zero_error=-0.15", marks: "4 of 4"},
		{name: "digits swapped", zero: "0", base: "0", position: at4735, ask: "observed",
			answer: "observed=74.35", want: "observed wrong/digits-swapped", marks: "0 of 1"},
		{name: "inches for millimetres", zero: "0", base: "0", position: at4735, ask: "observed",
			answer: "observed=1.864", want: "observed wrong/unit-inch", marks: "0 of 1"},
		{name: "another unit is converted", zero: "0", base: "0", position: at4735, ask: "observed",
			answer: "observed=1.864 in", marks: "1 of 1"},
		{name: "a pair of slips", zero: "-0.10", base: "0", position: at4735, ask: "corrected",
			answer: "corrected=48.35", want: "corrected wrong/main-next-mark+zero-not-applied", marks: "0 of 1"},
		{name: "right parts, wrong sum", zero: "0", base: "0", position: at4735, ask: "main fine_line observed",
			answer: "main=47|fine_line=7|observed=48.10", want: "observed wrong/sum-slip", marks: "2 of 3"},
		{name: "marks of a step", zero: "0", base: "0", position: at4735, ask: "main observed",
			more:   `,"marks":{"observed":3}`,
			answer: "main=47|observed=47.350", want: "observed form decimals", marks: "2.5 of 4"},
	} {
		t.Run(tt.name, func(t *testing.T) {
			c := twentieth(t, tt.zero, tt.base, tt.position, tt.ask, tt.more)
			got, marks := outcomes(t, c, tt.answer)
			assert.Equal(t, tt.want, got)
			assert.Equal(t, tt.marks, marks)
		})
	}
}

// By tenths a slip of a line is named within the tolerance too: 23.3 counted backwards is 26.7, and 26.6 near it.
func TestTenthsOfALine(t *testing.T) {
	in, err := instrument.New(instrument.Spec{Name: "Screw", Family: instrument.Micrometer, Unit: length.Millimetre,
		Main: instrument.Main{Division: length.Frac(1, 2), To: length.Int(25), HalfMarks: true},
		Fine: instrument.Fine{Kind: instrument.Thimble, Divisions: 50, Travel: length.Frac(1, 2)}})
	require.NoError(t, err)
	y := length.Frac(5233, 1000)
	c := &kinds.Reading{Instrument: in, Indicated: &y, Ask: []string{slips.FineLine},
		Method: exercise.Method{Between: instrument.Tenths}}
	for line, want := range map[string]string{"23.5": "", "26.6": "fine_line wrong/fine-counted-backwards",
		"26.4": "fine_line wrong", "24.4": "fine_line wrong/neighbour-line"} {
		got, _ := outcomes(t, c, "fine_line="+line)
		assert.Equal(t, want, got, line)
	}
}

func TestMarkHandsBackWhatIsNoNumber(t *testing.T) {
	c := twentieth(t, "0", "0", `"indicated":"47.35"`, "main fine_line observed", "")
	for _, tt := range []struct{ answer, says string }{
		{"main=forty", "main: contains no number"},
		{"main=1,234.5", "main: has both a point and a comma"},
		{"fine_line=7 mm", "fine_line: must be the number of the"},
		{"observed=47.35 furlong", "observed: ends in “furlong”"},
		{"corrected=47.35", "corrected: is not asked"},
		{"observed=1/0", "observed: divides by zero"},
	} {
		step, text, _ := strings.Cut(tt.answer, "=")
		_, err := c.Mark(exercise.Answer{step: text})
		require.Error(t, err, tt.answer)
		assert.True(t, strings.HasPrefix(err.Error(), tt.says), "%q should begin with %q", err, tt.says)
	}
}

func TestParseRefuses(t *testing.T) {
	const in = `{"format":"cavix/instrument","version":1,"family":"vernier-caliper","unit":"mm","main":{"division":"1",
		"from":"0","to":"150"},"fine":{"kind":"vernier","divisions":20,"spans":%s}}`
	for _, tt := range []struct{ spans, rest, names string }{
		{"18", `"indicated":"5","ask":["main"]`, "instrument.fine.spans"},
		{"19", `"indicated":"5","ask":["colour"]`, "ask.0"},
		{"19", `"indicated":"5","closed":true,"ask":["main"]`, "indicated"},
		{"19", `"ask":["main"]`, "indicated"},
		{"19", `"indicated":"151","ask":["main"]`, "indicated"},
		{"19", `"indicated":"5","ask":["main"],"method":{"tie":"unfavourable"}`, "limits"},
		{"19", `"indicated":"5","ask":["main"],"limits":{"lower":"6","upper":"5"}`, "limits.upper"},
		{"19", `"indicated":"5","ask":["main"],"method":{"decimals":"loose"}`, "method.decimals"},
	} {
		doc := fmt.Sprintf(`{"format":"cavix/item","version":1,"instrument":`+in+`,%s}`, tt.spans, tt.rest)
		_, err := kinds.Parse([]byte(doc))
		require.Error(t, err, doc)
		assert.True(t, strings.HasPrefix(err.Error(), tt.names+": "), "%q should name %q", err, tt.names)
	}
}

// A card that can be stored can be solved, drawn up and marked, whatever was typed.
func FuzzMark(f *testing.F) {
	seeds, err := os.ReadFile("../../testdata/cards.json")
	require.NoError(f, err)
	var vectors []struct{ Item json.RawMessage }
	require.NoError(f, json.Unmarshal(seeds, &vectors))
	for _, v := range vectors[:min(len(vectors), 40)] {
		f.Add([]byte(v.Item), "47.35")
	}
	f.Add([]byte(vectors[0].Item), "47 1/16 in")
	more, err := os.ReadFile("../../testdata/kinds.json")
	require.NoError(f, err)
	require.NoError(f, json.Unmarshal(more, &vectors))
	for _, v := range vectors {
		f.Add([]byte(v.Item), "1.5")
	}
	f.Fuzz(func(t *testing.T, doc []byte, typed string) {
		c, err := kinds.Parse(doc)
		if err != nil {
			return
		}
		stored, err := exercise.Document(c)
		require.NoError(t, err)
		_, err = kinds.Open(stored)
		require.NoError(t, err, "what was accepted is readable: %s", stored)
		a := exercise.Answer{}
		for _, f := range c.Fields() {
			a[f.Name] = typed
		}
		r, err := c.Mark(a)
		if err != nil {
			return // what was typed is no number
		}
		require.False(t, r.Of.Less(r.Marks), "more marks than there are: %s answered %q", doc, typed)
		require.False(t, r.Marks.Sign() < 0)
		require.Len(t, r.Fields, len(c.Fields()))
		require.NotEmpty(t, c.Lines())
		_, err = c.Explain(a, exercise.Wording{})
		require.NoError(t, err)
	})
}

// A decimal that stands for a fraction is right if it is rightly rounded to three places or more, and a matter of form
// where that is judged; with fewer places it is another value.
func TestDecimalsForFractions(t *testing.T) {
	in := pattern(t, "Caliper 1/128 in, 8 over 7", "0")
	y := length.Frac(131, 128) // 1 3/128
	for _, tt := range []struct {
		written, decimals string
		want              exercise.Outcome
	}{
		{"1 3/128", "strict", exercise.Right}, {"1.0234375", "strict", exercise.Right},
		{"1.023", "strict", exercise.InForm},
		{"1.0234", "strict", exercise.InForm}, {"1.02", "strict", exercise.Wrong}, {"1.024", "strict", exercise.Wrong},
		{"1.023", "lenient", exercise.Right}, {"1-3/128 in", "strict", exercise.Right},
	} {
		card := &kinds.Reading{Instrument: in, Indicated: &y, Ask: []string{slips.Observed},
			Method: exercise.Method{Decimals: tt.decimals}}
		r, err := card.Mark(exercise.Answer{slips.Observed: tt.written})
		require.NoError(t, err)
		assert.Equal(t, tt.want, r.Fields[0].Outcome, "%s, %s", tt.written, tt.decimals)
		e, err := card.Explain(exercise.Answer{slips.Observed: tt.written}, exercise.Wording{})
		require.NoError(t, err)
		if tt.want == exercise.InForm {
			assert.Contains(t, said(e.Headline)+said(e.Body...), "as a fraction")
		}
	}
}
