package instrument

import (
	"fmt"

	"cavix/core/text"
)

// Describe says in a few words how the scales are made.
func (i *Instrument) Describe() text.Text { return i.scale.Describe(i) }

// Derivation works out the least count the way it is taught for this kind of instrument, each line one
// step.
func (i *Instrument) Derivation() []text.Text { return i.scale.Derivation(i) }

// ZeroWork writes how the closed instrument's zero error is counted: a positive one as main + line ×
// least count; a negative one counted back from the last line, or with a signed main reading.
func (i *Instrument) ZeroWork(signedMain bool) text.Math {
	r, err := i.Read(i.Closed())
	if err != nil {
		return ""
	}
	main := r.Main.Sub(lowest(i.spec.Main))
	if !i.HasFine() {
		return text.Math(i.FormatMain(main))
	}
	worth := i.FormatMain(i.LineWorth())
	finer := ""
	if i.HasFiner() {
		finer = fmt.Sprintf(" + %d × %s", r.FinerLine, i.FormatMain(i.leastCount))
	}
	if main.Equal(i.scaleInterval.Neg()) && r.Line != 0 && !signedMain {
		return text.Math(fmt.Sprintf("−(%d − %d) × %s", i.lines, r.Line, worth) + finer)
	}
	return text.Math(fmt.Sprintf("%s + %d × %s", i.FormatMain(main), r.Line, worth) + finer)
}

// ZeroStory says in words what the closed instrument shows, in whole sentences.
func (i *Instrument) ZeroStory() text.Text {
	r, err := i.Read(i.Closed())
	if err != nil {
		return text.Text{}
	}
	story := i.scale.ZeroStory(i, r)
	if i.spec.ZeroError.Sign() >= 0 || r.Line == 0 || !i.HasFine() {
		return story
	}
	return text.Run(story, text.New("instrument.counted-back", "lines", i.lines-r.Line, "last", i.LastLine()))
}

// LastLine names the line that a negative zero error is counted back from.
func (i *Instrument) LastLine() text.Text {
	if !i.traits.GoesRound {
		return text.New("instrument.last-line", "line", i.lines)
	}
	return text.Numbers("0")
}

// side says on which side of zero something reads, for a key.
func side(sign int) string {
	if sign < 0 {
		return "below"
	}
	return "above"
}
