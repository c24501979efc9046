package instrument

import (
	"fmt"
	"strings"
)

// Describe says in a few words how the scales are made.
func (i *Instrument) Describe() string { return i.definition.Scale.Describe(i) }

// Derivation works out the least count the way it is taught for this kind of instrument, each line one
// step.
func (i *Instrument) Derivation() []string { return i.definition.Scale.Derivation(i) }

// ZeroWork writes how the closed instrument's zero error is counted: a positive one as main + line ×
// least count; a negative one counted back from the last line, or with a signed main reading.
func (i *Instrument) ZeroWork(signedMain bool) string {
	r, err := i.Read(i.Closed())
	if err != nil {
		return ""
	}
	main := r.Main.Sub(lowest(i.spec.Main))
	if !i.HasFine() {
		return strings.ReplaceAll(i.FormatMain(main), "-", "−")
	}
	worth := i.FormatMain(i.LineWorth())
	finer := ""
	if i.HasFiner() {
		finer = fmt.Sprintf(" + %d × %s", r.FinerLine, i.FormatMain(i.leastCount))
	}
	if main.Equal(i.cycle.Neg()) && r.Line != 0 && !signedMain {
		return fmt.Sprintf("−(%d − %d) × %s", i.lines, r.Line, worth) + finer
	}
	return strings.ReplaceAll(fmt.Sprintf("%s + %d × %s", i.FormatMain(main), r.Line, worth), "-", "−") + finer
}

// ZeroStory says in words what the closed instrument shows.
func (i *Instrument) ZeroStory() string {
	r, err := i.Read(i.Closed())
	if err != nil {
		return ""
	}
	back := ""
	if i.spec.ZeroError.Sign() < 0 && r.Line != 0 {
		back = fmt.Sprintf(", %s before %s", Counted(i.lines-r.Line, "{line}"), i.LastLine())
	}
	return i.definition.Scale.ZeroStory(i, r, back)
}

// shows says on which side of zero a closed instrument reads.
func shows(sign int) string {
	if sign < 0 {
		return "below zero"
	}
	return "above zero"
}

// LastLine names the line that a negative zero error is counted back from.
func (i *Instrument) LastLine() string {
	if !i.traits.GoesRound {
		return fmt.Sprintf("{line} %d", i.lines)
	}
	return "0"
}

// Counted is a number with the word for what it counts: "1 line", "3 lines".
func Counted(n int, word string) string {
	if n == 1 {
		return "1 " + word
	}
	return fmt.Sprintf("%d %ss", n, word)
}
