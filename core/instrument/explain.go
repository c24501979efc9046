package instrument

import (
	"fmt"
	"strings"

	"cavix/core/length"
)

// Derivation works out the least count the way it is taught: the difference between j main divisions
// and one plate division, each line one step.
func (i *Instrument) Derivation() []string {
	s := i.spec
	unit := string(s.Unit)
	n, m, j := s.Fine.Divisions, s.Fine.Spans, i.form.J
	write := func(x length.Number) string { return i.FormatMain(x) + " " + unit }
	spans := s.Main.Division.MulInt(m)
	plate := i.PlateDivision()
	marks := s.Main.Division.MulInt(j)
	one := "1 main division"
	if j > 1 {
		one = fmt.Sprintf("%d main divisions", j)
	}
	difference := fmt.Sprintf("%s − 1 plate division: %s − %s", one, write(marks), write(plate))
	if i.form.Retrograde {
		difference = fmt.Sprintf("1 plate division − %s: %s − %s", one, write(plate), write(marks))
	}
	return []string{
		fmt.Sprintf("%d plate divisions cover %d main divisions: %d × %s = %s", n, m, m, write(s.Main.Division), write(spans)),
		fmt.Sprintf("1 plate division = %s ÷ %d = %s", write(spans), n, write(plate)),
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
	c := i.FormatMain(i.leastCount)
	n := i.spec.Fine.Divisions
	main := r.Main.Sub(lowest(i.spec.Main))
	if main.Sign() < 0 && r.Line != 0 && main.Equal(i.Cycle().Neg()) && !signedMain {
		return fmt.Sprintf("−(%d − %d) × %s", n, r.Line, c)
	}
	return strings.ReplaceAll(fmt.Sprintf("%s + %d × %s", i.FormatMain(main), r.Line, c), "-", "−")
}

// ZeroStory says in words what the closed instrument shows.
func (i *Instrument) ZeroStory() string {
	r, err := i.Read(i.Closed())
	if err != nil {
		return ""
	}
	n := i.spec.Fine.Divisions
	switch i.spec.ZeroError.Sign() {
	case 0:
		return fmt.Sprintf("The plate's 0 stands on the main 0 and line %d on a mark too: no zero error.", n)
	case 1:
		return fmt.Sprintf("The plate's 0 stands right of the main 0: it shows more than nothing. Line %d coincides.", r.Line)
	}
	if r.Line == 0 {
		return "The plate's 0 stands left of the main 0, exactly on a mark: it shows less than nothing."
	}
	return fmt.Sprintf("The plate's 0 stands left of the main 0: it shows less than nothing. Line %d coincides, %d back from line %d.", r.Line, n-r.Line, n)
}
