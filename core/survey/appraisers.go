package survey

import (
	"math"

	"cavix/core/length"
	"cavix/core/text"
)

// Study is a crossed study of readers: Cells[part][reader] holds the repeats.
type Study struct {
	Cells        [][]Values
	Lower, Upper *length.Number // limits; nil where there are none
}

// Variation is one part of the variance of the readings.
type Variation struct {
	SD         float64  // standard deviation
	Spread     *float64 // per cent of the spread of all; nil where there is none
	Variance   *float64 // per cent of the variance of all
	Tolerance  *float64 // six standard deviations in per cent of the tolerance; nil without two limits
	Unknown    bool     // the study cannot tell it
	Shareless  bool     // the study cannot tell what share it has
	WithOthers bool     // something else is in it that the study cannot tell apart
}

// Source is a row of the analysis of variance.
type Source struct {
	SumSquares float64
	DF         int
	MeanSquare float64 // square; 0 without degrees
}

// Analysis is the result of an appraiser study: a two-way analysis of variance with interaction.
type Analysis struct {
	Parts, Appraisers, Repeats int

	PartRow, AppraiserRow, Interaction, Error Source
	F, P                                      float64 // of the interaction
	Tested                                    bool    // there was something to test the interaction with
	Pooled                                    bool    // the interaction is taken for scatter

	Repeatability   Variation // one reader again and again
	Reproducibility Variation // between readers, with how they differ from part to part
	All             Variation // readers together
	PartVariation   Variation // the parts
	Total           Variation

	DistinctCategories *int // parts that can be told apart; nil where the readers do not scatter
	Cannot             []text.Text
}

// pooledAbove is the p of the interaction above which it is taken for scatter.
const pooledAbove = 0.25

// Analyse works a study out. Every cell must hold the same number of repeats, one at least; Complete sees to that.
func Analyse(s Study) Analysis {
	a := Analysis{Parts: len(s.Cells)}
	if a.Parts > 0 {
		a.Appraisers = len(s.Cells[0])
	}
	if a.Appraisers > 0 {
		a.Repeats = len(s.Cells[0][0])
	}
	if a.Parts == 0 || a.Appraisers == 0 || a.Repeats == 0 {
		a.Cannot = append(a.Cannot, text.New("survey.analyse"))
		return a
	}
	a.squares(s)
	a.test()
	a.variations(s)
	return a
}

// squares works out the sums of squares, exactly before they become floating.
func (a *Analysis) squares(s Study) {
	p, o, r := a.Parts, a.Appraisers, a.Repeats
	n := p * o * r
	var all Values
	byPart, byReader := make([]Values, p), make([]Values, o)
	between := length.Number{} // squares of the sums of cells, over their size
	for i, row := range s.Cells {
		for j, cell := range row {
			all = append(all, cell...)
			byPart[i], byReader[j] = append(byPart[i], cell...), append(byReader[j], cell...)
			between = between.Add(square(cell.Sum()))
		}
	}
	grand := Over(square(all.Sum()), n)
	of := func(sets []Values, size int) (sum length.Number) {
		for _, v := range sets {
			sum = sum.Add(square(v.Sum()))
		}
		return Over(sum, size).Sub(grand)
	}
	parts, readers := of(byPart, o*r), of(byReader, p*r)
	cells := Over(between, r).Sub(grand)
	total := length.Number{}
	for _, x := range all {
		total = total.Add(square(x))
	}
	total = total.Sub(grand)
	row := func(ss length.Number, degrees int) Source {
		out := Source{SumSquares: ss.Float(), DF: degrees}
		if degrees > 0 {
			out.MeanSquare = out.SumSquares / float64(degrees)
		}
		return out
	}
	a.PartRow, a.AppraiserRow = row(parts, p-1), row(readers, o-1)
	a.Interaction = row(cells.Sub(parts).Sub(readers), (p-1)*(o-1))
	a.Error = row(total.Sub(cells), p*o*(r-1))
}

func square(x length.Number) length.Number { return x.Mul(x) }

// test tests the interaction against the scatter within cells.
func (a *Analysis) test() {
	if a.Error.DF == 0 || a.Interaction.DF == 0 {
		return
	}
	a.Tested = true
	switch {
	case a.Error.SumSquares > 0:
		a.F = a.Interaction.MeanSquare / a.Error.MeanSquare
		a.P = fSurvival(a.F, float64(a.Interaction.DF), float64(a.Error.DF))
	case a.Interaction.SumSquares > 0:
		a.F, a.P = math.Inf(1), 0
	default:
		a.P = 1
	}
	a.Pooled = a.P > pooledAbove
}

// variations splits the variance.
func (a *Analysis) variations(s Study) {
	p, o, r := float64(a.Parts), float64(a.Appraisers), float64(a.Repeats)
	scatter, interaction := a.Error.MeanSquare, 0.0
	against := a.Interaction.MeanSquare // what parts and readers are held against
	switch {
	case a.Error.DF == 0 && a.Interaction.DF == 0:
		against, scatter = 0, 0
		a.Repeatability.Unknown = true
		a.Cannot = append(a.Cannot, text.New("survey.variations"))
	case a.Error.DF == 0: // no repeats: the interaction stands for the scatter
		scatter = a.Interaction.MeanSquare
		a.Repeatability.WithOthers = true
		a.Cannot = append(a.Cannot, text.New("survey.without-repeats-scatter-differences"))
	case a.Interaction.DF == 0:
		against = scatter
	case a.Pooled:
		scatter = (a.Interaction.SumSquares + a.Error.SumSquares) / float64(a.Interaction.DF+a.Error.DF)
		against = scatter
	default:
		interaction = math.Max(0, (a.Interaction.MeanSquare-a.Error.MeanSquare)/r)
	}
	readers, parts := 0.0, 0.0
	if a.Appraisers > 1 {
		readers = math.Max(0, (a.AppraiserRow.MeanSquare-against)/(p*r))
	} else {
		a.Reproducibility.Unknown = true
		a.Cannot = append(a.Cannot, text.New("survey.one-reader-does-not"))
	}
	if a.Parts > 1 {
		parts = math.Max(0, (a.PartRow.MeanSquare-against)/(o*r))
	} else {
		a.PartVariation.Unknown = true
		a.Cannot = append(a.Cannot, text.New("survey.one-part-does-not"))
	}
	// What cannot be told makes no share and no verdict: one reader, one part and one reading of each are alike in
	// that.
	a.All.Unknown = a.Repeatability.Unknown || a.Reproducibility.Unknown || a.PartVariation.Unknown
	a.Total.Unknown = a.All.Unknown
	a.Repeatability.Shareless, a.Reproducibility.Shareless, a.PartVariation.Shareless = a.All.Unknown, a.All.Unknown,
		a.All.Unknown
	together := scatter + readers + interaction
	total := together + parts
	tolerance := 0.0
	if s.Lower != nil && s.Upper != nil {
		tolerance = s.Upper.Sub(*s.Lower).Float()
	}
	for _, v := range []struct {
		into     *Variation
		variance float64
	}{{&a.Repeatability, scatter}, {&a.Reproducibility, readers + interaction}, {&a.All, together},
		{&a.PartVariation, parts}, {&a.Total, total}} {
		v.into.fill(v.variance, total, tolerance)
	}
	if together > 0 && !a.All.Unknown {
		n := max(1, int(math.Floor(1.41*math.Sqrt(parts)/math.Sqrt(together))))
		a.DistinctCategories = &n
	}
}

// fill says what share a variance has.
func (v *Variation) fill(variance, total, tolerance float64) {
	if v.SD = math.Sqrt(variance); v.Unknown || v.Shareless {
		return
	}
	if total > 0 {
		spread, share := 100*v.SD/math.Sqrt(total), 100*variance/total
		v.Spread, v.Variance = &spread, &share
	}
	if tolerance > 0 && total > 0 {
		share := 100 * 6 * v.SD / tolerance
		v.Tolerance = &share
	}
}

// Acceptability says in words whether readings serve.
type Acceptability int

// What they serve for.
const (
	Undecided   Acceptability = iota
	Acceptable                // up to 10 %
	Conditional               // up to 30 %
	Unacceptable
)

// Acceptability judges readers together, by their share of the tolerance, without limits by that of the spread. It is
// ServeUnknown where the study cannot tell that; Cannot then says what is missing.
func (a Analysis) Acceptability() Acceptability {
	share := a.All.Tolerance
	if share == nil {
		share = a.All.Spread
	}
	switch {
	case share == nil:
		return Undecided
	case *share <= 10:
		return Acceptable
	case *share <= 30:
		return Conditional
	}
	return Unacceptable
}
