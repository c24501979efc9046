package kinds

import (
	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/text"
)

// Fit returns which instruments a block of a kind takes, as indices: those of the chosen ones that the kind can ask
// about, or the first of the others that it can. A kind that needs several takes the chosen ones and as many of the
// others as it needs. It is nil where they do not serve; Needs then says what is missing.
func Fit(k exercise.Kind, list []*instrument.Instrument, chosen int) []int {
	if _, bare := k.(exercise.Bare); bare {
		return nil
	}
	serves := func(at ...int) bool {
		b := exercise.Block{Kind: k.Name(), Cards: 1, Settings: map[string]string{}}
		for _, i := range at {
			b.Instruments = append(b.Instruments, list[i])
		}
		return k.Check(b) == nil
	}
	var out []int
	for i := range list {
		if (i < chosen || len(out) == 0) && serves(i) {
			out = append(out, i)
		}
	}
	if out != nil {
		return out
	}
	for i := range list {
		if i >= chosen && serves(out...) {
			break
		}
		if len(out) < mostPicked {
			out = append(out, i)
		}
	}
	if len(out) == 0 || !serves(out...) {
		return nil
	}
	return out
}

// Needs says what a kind needs to show that no instrument serves for, and the family of which one can be built.
func Needs(k exercise.Kind) (what text.Text, family instrument.Family) {
	switch k.(type) {
	case gear:
		return text.New("fit.needs"), instrument.GearTooth
	case pick:
		return text.New("fit.needs-least-three-instruments"), instrument.Micrometer
	}
	return text.New("fit.needs-instrument"), instrument.VernierCaliper
}
