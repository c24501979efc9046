package marking

import (
	"fmt"

	"cavix/core/instrument"
)

// Hint is one rung of the ladder of help on a card.
type Hint struct {
	Text     string
	ShowMark bool // the main mark that counts is flagged on the figure
	ShowLine bool // and the line
}

// Hints returns the ladder: where to look, which mark counts, and the whole working.
func (c *Card) Hints() ([]Hint, error) {
	solutions, err := c.Solutions()
	if err != nil {
		return nil, err
	}
	s := solutions[0]
	in := c.Instrument
	where := c.where()
	if in.HasFine() {
		where += " " + map[instrument.FineKind]string{
			instrument.Vernier: "Then find the one line of the plate that stands exactly opposite a mark.",
			instrument.Drum:    "Then the drum line at the index.",
			instrument.Dial:    "Then the line at the pointer.",
		}[in.Kind()]
	}
	mark := c.markStands(s, " "+string(in.Unit())) + "."
	if in.Kind() == instrument.Display {
		mark = "It is read as it stands; mind the unit."
	}
	work := ""
	for _, eq := range c.Work(s) {
		work += fmt.Sprintf("%s = %s. ", eq.Left, eq.Right)
	}
	return []Hint{{Text: where}, {Text: mark, ShowMark: true}, {Text: work, ShowMark: true, ShowLine: true}}, nil
}

// History is how often slips were made before: by the student, and by all of the class.
type History struct {
	Student, Class map[Code]int
}

// likelier sorts codes that explain an entry equally well by what was made before, the student's own
// slips first, and says so when that changed which is named first. Among the rest the table decides.
func (h History) likelier(codes []Code) ([]Code, string) {
	if len(codes) < 2 {
		return codes, ""
	}
	best := 0
	for i, code := range codes {
		if h.Student[code] > h.Student[codes[best]] || h.Student[code] == h.Student[codes[best]] && h.Class[code] > h.Class[codes[best]] {
			best = i
		}
	}
	first := codes[best]
	if h.Student[first] == 0 && h.Class[first] == 0 {
		return codes, ""
	}
	out := append([]Code{first}, codes[:best]...)
	out = append(out, codes[best+1:]...)
	switch n := h.Student[first]; {
	case n == 1:
		return out, "You made this slip once before, so it comes first."
	case n > 1:
		return out, fmt.Sprintf("You made this slip %d times before, so it comes first.", n)
	}
	return out, fmt.Sprintf("It was made %d times in your class before, so it comes first.", h.Class[first])
}

// Wording is what an instructor says of a slip.
type Wording struct {
	Off    bool   // it is not named
	Advice string // instead of the handbook's; "" leaves that
	Note   string // added to it
}

// Wordings are an instructor's own words for slips.
type Wordings map[Code]Wording

// Named leaves out the codes that are switched off, pairs of them too.
func (w Wordings) Named(codes []Code) []Code {
	var out []Code
	for _, code := range codes {
		off := false
		for _, single := range code.singles() {
			off = off || w[single].Off
		}
		if !off {
			out = append(out, code)
		}
	}
	return out
}
