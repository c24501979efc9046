package bench

import (
	"strconv"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/slips"
	"cavix/web/ui"
)

// read lists the steps of the reading at a position, as many as are uncovered; shows is what a zeroed display says.
func (v *view) read(f *form, in *instrument.Instrument, y length.Number, shows *string) (slips.Sight, error) {
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
func steps(in *instrument.Instrument, m exercise.Method, y length.Number, shows *string) (slips.Sight, []ui.Part, error) {
	place := slips.Place{Instrument: in, Method: m}
	solutions, err := place.Solutions(y, nil)
	if err != nil {
		return slips.Sight{}, nil, err
	}
	sight := solutions[0].Look("", length.Number{})
	r, unit := sight.Shown, " "+string(in.Unit())
	write := func(x length.Number) string { return exercise.Show(in.FormatBy(x, m.Between)) + unit }
	var parts []ui.Part
	if in.Traits().HasMarks {
		parts = append(parts, ui.Part{Name: "{main reading}", Value: sight.MarkText(), Says: sight.MarkStands() + "."})
	}
	if in.HasFine() {
		part := ui.Part{Name: "{line} × " + in.FormatMain(in.LineWorth()), Value: write(r.Fine), Says: sight.LineStands() + "."}
		part.Worked = "{line} " + place.Text(slips.FineLine, r.LineNumber()) + " × " + in.FormatMain(in.LineWorth())
		parts = append(parts, part)
	}
	if in.HasFiner() {
		line := strconv.Itoa(r.FinerLine)
		parts = append(parts, ui.Part{Name: "{finer line}", Worked: "{finer line} " + line + " × " + in.FormatMain(in.LeastCount()),
			Value: write(r.Finer), Says: "{Line} " + line + " of the vernier meets {a drum} {line}."})
	}
	if shows != nil {
		parts = append(parts, ui.Part{Name: "shown, from where it was zeroed", Value: exercise.Show(*shows) + unit})
	}
	parts = append(parts, ui.Part{Name: "{observed reading}", Value: write(r.Observed), Total: true})
	if r.ZeroError.Sign() != 0 {
		eq := sight.Correcting()
		parts = append(parts, ui.Part{Name: "{corrected reading}", Worked: "corrected: " + eq.Left, Value: eq.Right, Total: true})
	}
	return sight, parts, nil
}
