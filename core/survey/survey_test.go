package survey_test

import (
	"encoding/json"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/length"
	"cavix/core/survey"
)

// vector is a case that was worked out apart from this code.
type vector struct {
	Kind     string          `json:"kind"`
	Decimals int             `json:"decimals"`
	Readings json.RawMessage `json:"readings"`
	Limits   struct {
		Lower, Upper length.Number
	} `json:"limits"`
	Expect struct {
		GroupMeans        []string        `json:"group_means"`
		GroupMeansOneMore []string        `json:"group_means_one_more"`
		GroupRanges       []string        `json:"group_ranges"`
		Mean              string          `json:"mean"`
		MeanOneMore       string          `json:"mean_one_more"`
		Median            string          `json:"median"`
		Range             string          `json:"range"`
		Mode              []length.Number `json:"mode"`
		S                 *float64        `json:"s"`
		OddGroups         []int           `json:"odd_groups"`
		TypeA             *float64        `json:"type_a"`

		P               float64  `json:"interaction_p"`
		Pooled          bool     `json:"pooled"`
		Repeatability   float64  `json:"repeatability_sd"`
		Reproducibility float64  `json:"reproducibility_sd"`
		Readers         float64  `json:"readers_sd"`
		Parts           float64  `json:"parts_sd"`
		Total           float64  `json:"total_sd"`
		Spread          *float64 `json:"share_of_spread"`
		Variance        *float64 `json:"share_of_variance"`
		Tolerance       *float64 `json:"share_of_tolerance"`
		Categories      *int     `json:"categories"`
	} `json:"expect"`
}

// near holds a floating value to what was worked out: to 1e-6 relative, or as closely as it was written.
func near(t *testing.T, want, got, written float64, about string, n int) {
	t.Helper()
	assert.InDelta(t, want, got, max(1e-6*math.Abs(want), written), "%s of vector %d", about, n)
}

func TestVectors(t *testing.T) {
	data, err := os.ReadFile("../../testdata/survey.json")
	require.NoError(t, err)
	var list []vector
	require.NoError(t, json.Unmarshal(data, &list))
	kinds := map[string]int{}
	for n, v := range list {
		kinds[v.Kind]++
		if v.Kind == "readers" {
			holdReaders(t, n, v)
			continue
		}
		var groups []survey.Values
		require.NoError(t, json.Unmarshal(v.Readings, &groups))
		want, all := v.Expect, survey.All(groups)
		for g, values := range groups {
			mean := values.Mean()
			assert.Equal(t, want.GroupMeans[g], mean.Round(v.Decimals).Text(v.Decimals), n)
			assert.Equal(t, want.GroupMeansOneMore[g], mean.Round(v.Decimals+1).Text(v.Decimals+1), n)
			assert.Equal(t, want.GroupRanges[g], values.Range().Text(v.Decimals), n)
		}
		assert.Equal(t, want.Mean, all.Mean().Round(v.Decimals).Text(v.Decimals), n)
		assert.Equal(t, want.MeanOneMore, all.Mean().Round(v.Decimals+1).Text(v.Decimals+1), n)
		assert.Equal(t, want.Median, all.Median().Text(v.Decimals+1), n)
		assert.Equal(t, want.Range, all.Range().Text(v.Decimals), n)
		assert.Equal(t, fmt.Sprint(want.Mode), fmt.Sprint([]length.Number(all.Mode())), n)
		s, ok := all.S()
		require.Equal(t, want.S != nil, ok, n)
		if ok {
			near(t, *want.S, s, 5e-10, "s", n)
			u, _ := survey.UncertaintyOf(all, length.Frac(1, 100), false)
			near(t, *want.TypeA, u.TypeA, 5e-10, "type A", n)
		}
		odd := survey.Furthest(groups)
		for i := range odd {
			odd[i]++
		}
		assert.ElementsMatch(t, want.OddGroups, odd, n)
	}
	assert.Equal(t, map[string]int{"repeat": 14, "readers": 6}, kinds)
}

func holdReaders(t *testing.T, n int, v vector) {
	t.Helper()
	var cells [][]survey.Values
	require.NoError(t, json.Unmarshal(v.Readings, &cells))
	a := survey.Analyse(survey.Study{Cells: cells, Lower: &v.Limits.Lower, Upper: &v.Limits.Upper})
	want := v.Expect
	near(t, want.P, a.P, 5e-7, "p", n)
	assert.Equal(t, want.Pooled, a.Pooled, n)
	for about, pair := range map[string][2]float64{"repeatability": {want.Repeatability, a.Repeatability.SD},
		"reproducibility": {want.Reproducibility, a.Reproducibility.SD}, "readers": {want.Readers, a.All.SD},
		"parts": {want.Parts, a.PartVariation.SD}, "total": {want.Total, a.Total.SD}} {
		near(t, pair[0], pair[1], 5e-9, about, n)
	}
	for about, pair := range map[string][2]*float64{"spread": {want.Spread, a.All.Spread},
		"variance": {want.Variance, a.All.Variance}, "tolerance": {want.Tolerance, a.All.Tolerance}} {
		require.Equal(t, pair[0] == nil, pair[1] == nil, "%s of %d", about, n)
		if pair[0] != nil {
			near(t, *pair[0], *pair[1], 5e-5, about, n)
		}
	}
	assert.Equal(t, want.Categories, a.DistinctCategories, n)
}

// study is a made-up study of chance: parts differ, readers have a bias, and some cells are read otherwise than others.
func study(draws *rand.Rand, p, o, r int) survey.Study {
	s := survey.Study{}
	bias := make([]int, o)
	for j := range bias {
		bias[j] = draws.IntN(5) - 2
	}
	for range p {
		part := 1000 + draws.IntN(40)
		row := make([]survey.Values, o)
		for j := range row {
			own := draws.IntN(3) - 1
			for range r {
				row[j] = append(row[j], length.Frac(int64(part+bias[j]+own+draws.IntN(4)), 100))
			}
		}
		s.Cells = append(s.Cells, row)
	}
	return s
}

// The sums of squares add up to that of all readings, and so do the shares of the variance; the order of parts and
// readers changes nothing; all readings moved by the same change nothing but the means.
func TestTheAnalysisAddsUp(t *testing.T) {
	draws := rand.New(rand.NewPCG(3, 0x73757276))
	for range 200 {
		s := study(draws, 1+draws.IntN(7), 1+draws.IntN(5), 1+draws.IntN(4))
		a := survey.Analyse(s)
		var all survey.Values
		for _, row := range s.Cells {
			all = append(all, survey.All(row)...)
		}
		sum := a.PartRow.SumSquares + a.AppraiserRow.SumSquares + a.Interaction.SumSquares + a.Error.SumSquares
		assert.InDelta(t, all.Squares().Float(), sum, 1e-9*(1+sum))
		assert.Equal(t, len(all)-1, a.PartRow.DF+a.AppraiserRow.DF+a.Interaction.DF+a.Error.DF)
		for _, row := range []survey.Source{a.PartRow, a.AppraiserRow, a.Interaction, a.Error} {
			assert.GreaterOrEqual(t, row.SumSquares, 0.0)
		}
		if a.Total.Variance != nil && a.All.Variance != nil && a.PartVariation.Variance != nil {
			assert.InDelta(t, 100, *a.All.Variance+*a.PartVariation.Variance, 1e-9)
		}
		shuffled, moved := survey.Study{Cells: slices.Clone(s.Cells)}, survey.Study{}
		draws.Shuffle(len(shuffled.Cells), func(i, j int) {
			shuffled.Cells[i], shuffled.Cells[j] = shuffled.Cells[j],
				shuffled.Cells[i]
		})
		order := draws.Perm(len(s.Cells[0]))
		for i, row := range shuffled.Cells {
			other := make([]survey.Values, len(row))
			for j, from := range order {
				other[j] = row[from]
			}
			shuffled.Cells[i] = other
		}
		for _, row := range s.Cells {
			other := make([]survey.Values, len(row))
			for j, c := range row {
				for _, x := range c {
					other[j] = append(other[j], x.Add(length.Frac(-17, 3)))
				}
			}
			moved.Cells = append(moved.Cells, other)
		}
		for _, b := range []survey.Analysis{survey.Analyse(shuffled), survey.Analyse(moved)} {
			assert.InDelta(t, a.All.SD, b.All.SD, 1e-9)
			assert.InDelta(t, a.PartVariation.SD, b.PartVariation.SD, 1e-9)
			assert.InDelta(t, a.P, b.P, 1e-9)
			assert.Equal(t, a.DistinctCategories, b.DistinctCategories)
		}
	}
}

// A study that is not whole gives what it can, and says what it cannot.
func TestSmallStudies(t *testing.T) {
	draws := rand.New(rand.NewPCG(5, 0x73757276))
	for _, tt := range []struct {
		p, o, r int
		cannot  []string
	}{
		{4, 3, 2, nil},
		{1, 3, 2, []string{"survey.one-part-does-not"}},
		{4, 1, 2, []string{"survey.one-reader-does-not"}},
		{4, 3, 1, []string{"survey.without-repeats-scatter-differences"}},
		{4, 1, 1, []string{"survey.variations", "survey.one-reader-does-not"}},
		{1, 1, 3, []string{"survey.one-reader-does-not", "survey.one-part-does-not"}},
		{0, 0, 0, []string{"survey.analyse"}},
	} {
		a := survey.Analyse(study(draws, tt.p, tt.o, tt.r))
		require.Len(t, a.Cannot, len(tt.cannot), "%d parts, %d readers, %d repeats: %v", tt.p, tt.o, tt.r, a.Cannot)
		for i, says := range tt.cannot {
			assert.Equal(t, says, a.Cannot[i].Key())
		}
		// by the interaction
		told := len(tt.cannot) == 0 || tt.cannot[0] == "survey.without-repeats-scatter-differences"
		assert.Equal(t, told, a.Acceptability() != survey.Undecided, "%d parts, %d readers, %d repeats", tt.p, tt.o,
			tt.r)
		for _, v := range []survey.Variation{a.Repeatability, a.Reproducibility, a.All, a.PartVariation, a.Total} {
			assert.True(t, told || v.Spread == nil && v.Variance == nil && v.Tolerance == nil,
				"no share where it cannot be told")
		}
		assert.Equal(t, told, a.DistinctCategories != nil)
		for _, v := range []survey.Variation{a.Repeatability, a.Reproducibility, a.All, a.PartVariation, a.Total} {
			assert.False(t, math.IsNaN(v.SD) || math.IsInf(v.SD, 0))
		}
	}
	same := survey.Study{Cells: [][]survey.Values{{{length.Int(3), length.Int(3)}, {length.Int(3), length.Int(3)}}}}
	a := survey.Analyse(same)
	assert.Nil(t, a.All.Spread, "no shares where nothing scatters")
	assert.Equal(t, survey.Undecided, a.Acceptability())
}

// What is left out of a study with gaps costs the fewest readings, and does not hang on the order.
func TestGapsLeaveOutAsLittleAsCanBe(t *testing.T) {
	cell := func(n int) survey.Values { return make(survey.Values, n) }
	whole := survey.Table{Parts: []string{"1", "2", "3"}, Readers: []string{"A", "B"},
		Cells: [][]survey.Values{{cell(2), cell(2)}, {cell(2), cell(2)}, {cell(2), cell(2)}}}
	got, left := whole.Complete()
	assert.Empty(t, left)
	assert.Equal(t, whole, got)
	for _, tt := range []struct {
		cells [][]survey.Values
		left  []survey.Left
	}{
		{[][]survey.Values{{cell(2), cell(0)}, {cell(2), cell(2)}, {cell(2), cell(2)}},
			[]survey.Left{{Name: "1", Readings: 2}}},
		{[][]survey.Values{{cell(2), cell(1)}, {cell(2), cell(0)}, {cell(2), cell(0)}},
			[]survey.Left{{Reader: true, Name: "B", Readings: 1}}},
		{[][]survey.Values{{cell(0), cell(0)}, {cell(2), cell(2)}, {cell(2), cell(2)}},
			[]survey.Left{{Name: "1", Readings: 0}}},
		{[][]survey.Values{{cell(0), cell(2)}, {cell(0), cell(2)}, {cell(0), cell(0)}},
			[]survey.Left{{Reader: true, Name: "A"}, {Name: "3"}}},
	} {
		_, left := survey.Table{Parts: whole.Parts, Readers: whole.Readers, Cells: tt.cells}.Complete()
		assert.Equal(t, tt.left, left)
	}
	tie := survey.Table{Parts: []string{"1", "2"}, Readers: []string{"A", "B"},
		Cells: [][]survey.Values{{cell(0), cell(2)}, {cell(2), cell(2)}}}
	_, left = tie.Complete()
	assert.Equal(t, []survey.Left{{Reader: true, Name: "A", Readings: 2}}, left, "of equals the reader")
}

func TestUncertainty(t *testing.T) {
	v := survey.Values{length.Frac(784, 100), length.Frac(783, 100), length.Frac(784, 100), length.Frac(782, 100)}
	u, ok := survey.UncertaintyOf(v, length.Frac(1, 100), true)
	require.True(t, ok)
	// Worked by hand: s = √(2.75e-4 / 3), u = s/2; c/√12 twice; the root of their squares; twice that.
	assert.InDelta(t, 0.00478714, u.TypeA, 1e-8)
	assert.InDelta(t, 0.00288675, u.Count, 1e-8)
	assert.Equal(t, u.Count, u.Zero)
	assert.InDelta(t, 0.00629153, u.Combined, 1e-8)
	m, e := u.Written(v.Mean())
	assert.Equal(t, []string{"7.833", "0.013"}, []string{m, e})
	_, ok = survey.UncertaintyOf(v[:1], length.Frac(1, 100), false)
	assert.False(t, ok)
	for expanded, written := range map[float64]string{0.0996: "0.10", 0.00951: "0.0095", 1.26: "1.3", 14.4: "14",
		0: "0"} {
		_, e := survey.Uncertainty{Expanded: expanded}.Written(length.Int(20))
		assert.Equal(t, written, e)
	}
}

// BenchmarkStudy works out 12 parts by 30 readers with 5 repeats each.
func BenchmarkStudy(b *testing.B) {
	s := study(rand.New(rand.NewPCG(1, 1)), 12, 30, 5)
	for b.Loop() {
		survey.Analyse(s)
	}
}

// Up to 10 % of the tolerance readings serve, up to 30 % for some purposes; without limits the share of the spread
// tells.
func TestWhatReadingsServeFor(t *testing.T) {
	share := func(x float64) *float64 { return &x }
	for _, tt := range []struct {
		tolerance, spread *float64
		want              survey.Acceptability
	}{
		{share(9.9), share(80), survey.Acceptable}, {share(10), nil, survey.Acceptable},
		{share(10.1), nil, survey.Conditional}, {share(30), share(1), survey.Conditional},
		{share(30.1), share(1), survey.Unacceptable}, {nil, share(10), survey.Acceptable},
		{nil, share(30), survey.Conditional}, {nil, share(31), survey.Unacceptable},
		{nil, nil, survey.Undecided},
	} {
		a := survey.Analysis{All: survey.Variation{Tolerance: tt.tolerance, Spread: tt.spread}}
		assert.Equal(t, tt.want, a.Acceptability(), tt)
	}
}
