package survey

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/survey"
	"cavix/core/text"
	"cavix/locale"
	"cavix/school/studies"
)

// BenchmarkStudy works a study of 12 parts by 30 readers with 5 repeats out and draws it, as its page shows it.
func BenchmarkStudy(b *testing.B) {
	in, err := instrument.New(instrument.Patterns()[0])
	require.NoError(b, err)
	lower, upper := length.Int(10), length.Int(30)
	p := survey.Plan{Instruments: []*instrument.Instrument{in}, Places: 1, Repeats: 5, Same: true, Scatter: 12,
		Lower: &lower, Upper: &upper}
	for i := range 12 {
		p.Parts = append(p.Parts, survey.Part{Name: fmt.Sprint("part ", i+1), Size: length.Frac(int64(1200+37*i), 100)})
	}
	require.NoError(b, p.Check())
	sv := studies.Survey{SurveyRow: studies.SurveyRow{ID: 1, Seed: 7}, Plan: p}
	var read []studies.Observed
	for student := range int64(30) {
		for cell := range p.Cells() {
			g := studies.Observed{Value: p.Indicated(survey.Reader{Seed: 7 + uint64(student)}, p.Cell(cell))}
			g.Student, g.Name, g.Cell, g.At = student+1, fmt.Sprint("Reader ", student+1), cell,
				time.Unix(int64(cell), 0)
			read = append(read, g)
		}
	}
	for b.Loop() {
		if v := newStudy(locale.English(text.Words{}), sv, read); len(v.Shares) == 0 {
			b.Fatal("nothing came of it")
		}
	}
}
