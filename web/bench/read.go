package bench

import (
	"strconv"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/core/text"
	"cavix/web/ui"
)

// read lists the steps of the reading at a position, as many as are uncovered; shows is what a zeroed display says.
func (v *view) read(f *form, in *instrument.Instrument, y length.Number, shows *string) (slips.View, error) {
	sight, parts, err := steps(in, v.Method, y, shows)
	if err != nil {
		return sight, err
	}
	uncover, _ := strconv.Atoi(f.Uncover)
	switch f.Do {
	case "next":
		uncover++
	case "all":
		uncover = len(parts)
	case "cover":
		uncover = 0
	}
	v.Read = ui.Uncover(v.ID, parts, uncover)
	return sight, nil
}

// steps are those of reading an instrument at y by a method, each with how it is seen.
func steps(in *instrument.Instrument, m exercise.Method, y length.Number, shows *string) (slips.View, []ui.Part,
	error) {
	place := slips.Place{Instrument: in, Method: m}
	solutions, err := place.Solutions(y, nil)
	if err != nil {
		return slips.View{}, nil, err
	}
	sight := solutions[0].View("", length.Number{})
	r, unit := sight.Shown, in.Unit()
	write := func(x length.Number) text.Text { return text.Numbers(text.Math(unit.With(in.FormatBy(x, m.Between)))) }
	var parts []ui.Part
	if in.Traits().HasMarks {
		parts = append(parts, ui.Part{Name: text.Word("main reading"), Value: text.Numbers(sight.MarkText()),
			Says: sight.MarkStands()})
	}
	if in.HasFine() {
		part := ui.Part{Name: text.New("bench.read.steps.line", "line_worth", text.Math(in.FormatMain(in.LineWorth()))),
			Value: write(r.Fine), Says: sight.LineStands()}
		part.Worked = text.New("bench.read.steps", "line_number", text.Math(place.Text(slips.FineLine, r.LineNumber())),
			"line_worth", text.Math(in.FormatMain(in.LineWorth())))
		parts = append(parts, part)
	}
	if in.HasFiner() {
		line := strconv.Itoa(r.FinerLine)
		parts = append(parts, ui.Part{Name: text.Word("finer line"), Worked: text.New("bench.read.steps.worked", "line",
			line, "least_count", text.Math(in.FormatMain(in.LeastCount()))), Value: write(r.ThimbleVernier),
			Says: text.New("sight.vernier-line-meets", "line", r.FinerLine)})
	}
	if shows != nil {
		parts = append(parts, ui.Part{Name: text.New("bench.read.steps.shown-from-where-zeroed"),
			Value: text.Numbers(text.Math(unit.With(*shows)))})
	}
	parts = append(parts, ui.Part{Name: text.Word("observed reading"), Value: write(r.Observed), Total: true})
	if r.ZeroError.Sign() != 0 {
		eq := sight.Correcting()
		parts = append(parts, ui.Part{Name: text.Word("corrected reading"), Worked: text.New("bench.read.corrected",
			"sum", eq.Left), Value: eq.Right, Total: true})
	}
	return sight, parts, nil
}
