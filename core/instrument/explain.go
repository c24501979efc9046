package instrument

import (
	"fmt"
	"strings"

	"cavix/core/length"
)

// Describe says in a few words how the scales are made.
func (i *Instrument) Describe() string {
	s := i.spec
	unit := " " + string(s.Unit)
	d := i.FormatMain(s.Main.Division) + unit
	switch s.Fine.Kind {
	case Vernier:
		return fmt.Sprintf("%s beam · %d {line}s over %s", d, s.Fine.Divisions, Counted(s.Fine.Spans, "main division"))
	case Drum:
		made := fmt.Sprintf("%s a turn · %d {line}s on the {drum}", i.FormatMain(s.Fine.Travel)+unit, s.Fine.Divisions)
		if i.HasFiner() {
			made += fmt.Sprintf(" · %d {line}s over %d", s.Finer.Divisions, s.Finer.Spans)
		}
		return made
	case Dial:
		made := fmt.Sprintf("%s beam · %s a turn · %d {line}s on the {face}", d, i.FormatMain(s.Fine.Travel)+unit,
			s.Fine.Divisions)
		if s.Fine.Zeros > 1 {
			made += fmt.Sprintf(" · %d zeros", s.Fine.Zeros)
		}
		return made
	case Display:
		return "steps of " + i.FormatMain(i.leastCount) + unit
	}
	return d + " divisions"
}

// Derivation works out the least count the way it is taught for this kind of instrument, each line one
// step.
func (i *Instrument) Derivation() []string {
	s := i.spec
	unit := string(s.Unit)
	write := func(x length.Number) string { return i.FormatMain(x) + " " + unit }
	switch s.Fine.Kind {
	case Vernier:
		return i.plateDerivation(write)
	case Drum:
		lines := []string{
			fmt.Sprintf("10 whole turns move the spindle %s: 1 turn = %s ÷ 10 = %s", write(s.Fine.Travel.MulInt(10)),
				write(s.Fine.Travel.MulInt(10)), write(s.Fine.Travel)),
			fmt.Sprintf("1 {drum} {line} = {pitch} ÷ {line}s: %s ÷ %d = %s", write(s.Fine.Travel), i.lines,
				write(i.LineWorth())),
		}
		if i.HasFiner() {
			lines = append(lines, fmt.Sprintf("%d {finer line}s share 1 {drum} {line}: %s ÷ %d", i.finer,
				write(i.LineWorth()), i.finer))
		}
		return lines
	case Dial:
		if s.Fine.Zeros > 1 {
			return []string{
				fmt.Sprintf("1 turn of the {pointer} moves the slide %s", write(s.Fine.Travel)),
				fmt.Sprintf("the {face} has %d zeros: from 0 to 0 is %s ÷ %d = %s", s.Fine.Zeros, write(s.Fine.Travel),
					s.Fine.Zeros, write(i.cycle)),
				fmt.Sprintf("%d {line}s from 0 to 0: %s ÷ %d", i.lines, write(i.cycle), i.lines),
			}
		}
		return []string{
			fmt.Sprintf("1 turn of the {pointer} moves the slide %s", write(s.Fine.Travel)),
			fmt.Sprintf("%d {line}s on the {face}: %s ÷ %d", i.lines, write(s.Fine.Travel), i.lines),
		}
	case Display:
		return []string{"the last digit changes by one step", "1 step = " + write(i.leastCount)}
	}
	return []string{"there is no fine scale: the {least count} is one division", "1 division = " +
		write(s.Main.Division)}
}

// plateDerivation is the difference between j main divisions and one plate division.
func (i *Instrument) plateDerivation(write func(length.Number) string) []string {
	s := i.spec
	n, m, j := s.Fine.Divisions, s.Fine.Spans, i.form.J
	spans := s.Main.Division.MulInt(m)
	plate := i.PlateDivision()
	marks := s.Main.Division.MulInt(j)
	one := "1 main division"
	if j > 1 {
		one = fmt.Sprintf("%d main divisions", j)
	}
	difference := fmt.Sprintf("%s − 1 {plate} division: %s − %s", one, write(marks), write(plate))
	if i.form.Retrograde {
		difference = fmt.Sprintf("1 {plate} division − %s: %s − %s", one, write(plate), write(marks))
	}
	return []string{
		fmt.Sprintf("%d {plate} divisions cover %s: %d × %s = %s", n, Counted(m, "main division"), m, write(s.Main.Division),
			write(spans)),
		fmt.Sprintf("1 {plate} division = %s ÷ %d = %s", write(spans), n, write(plate)),
		difference,
	}
}

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
	sign := i.spec.ZeroError.Sign()
	than := map[int]string{1: "it shows more than nothing", -1: "it shows less than nothing"}[sign]
	back := ""
	if sign < 0 && r.Line != 0 {
		back = fmt.Sprintf(", %d back from %s", i.lines-r.Line, i.LastLine())
	}
	switch i.Kind() {
	case Vernier:
		switch {
		case sign == 0:
			return fmt.Sprintf("The {plate}'s 0 stands on the main 0 and {line} %d on {a mark} too: no {zero error}.", i.lines)
		case r.Line == 0:
			return fmt.Sprintf("The {plate}'s 0 stands %s of the main 0, exactly on {a mark}: %s.", side(sign), than)
		}
		return fmt.Sprintf("The {plate}'s 0 stands %s of the main 0: %s. {Line} %d stands opposite {a mark}%s.", side(sign), than, r.Line,
			back)
	case Drum:
		drum := "The {drum}'s 0 stands"
		if i.spec.Base.Sign() > 0 && i.spec.Family == Micrometer {
			drum = "On its {setting standard} the {drum}'s 0 stands"
		}
		if sign == 0 {
			return drum + " at the {index line}: no {zero error}."
		}
		where := "below"
		if (sign > 0) == i.spec.Fine.Down {
			where = "above"
		}
		at := fmt.Sprintf("{Line} %d stands at the {index line}%s", r.Line, back)
		if i.HasFiner() {
			at = fmt.Sprintf("{Line} %d is the last one passed%s, and {line} %d of the vernier meets {a drum} {line}", r.Line, back,
				r.FinerLine)
		}
		return fmt.Sprintf("%s %s the {index line}: %s. %s.", drum, where, than, at)
	case Dial:
		if sign == 0 {
			return "The {pointer} stands at 0: no {zero error}."
		}
		where := map[int]string{1: "past", -1: "short of"}[sign]
		return fmt.Sprintf("The {pointer} stands %s 0: %s. It points at {line} %d%s.", where, than, r.Line, back)
	case Display:
		if sign == 0 {
			return "{Closed}, the display shows 0: no {zero error}."
		}
		return fmt.Sprintf("{Closed}, the display shows %s: %s.",
			strings.ReplaceAll(i.Format(i.spec.ZeroError), "-", "−"), strings.TrimPrefix(than, "it shows "))
	}
	if sign == 0 {
		return "It stands at 0: no {zero error}."
	}
	return fmt.Sprintf("With nothing to measure it stands at %s: %s.",
		strings.ReplaceAll(i.FormatMain(i.spec.ZeroError), "-", "−"), than)
}

// LastLine names the line that a negative zero error is counted back from.
func (i *Instrument) LastLine() string {
	if i.Kind() == Vernier {
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

func side(sign int) string {
	if sign < 0 {
		return "left"
	}
	return "right"
}
