package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// Scale tells how one chain of scales is divided, read and spoken of. Every family has one; several families may share
// it.
type Scale interface {
	// Traits returns what the chain has.
	Traits() Traits
	// Complete fills in what a specification may leave out, before it is checked.
	Complete(s *Spec)
	// Divide returns how the scales divide the main scale. It adds what cannot be built to bad, each fault at its
	// field, and returns false if no least count follows. divided says that the main division is more than 0.
	Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool)

	// Describe says in a few words how the scales are made.
	Describe(i *Instrument) text.Text
	// Derivation works out the least count the way it is taught, a step in each line.
	Derivation(i *Instrument) []text.Text
	// Finding returns how to find the least count from the drawing.
	Finding(i *Instrument) Finding
	// LeastCountWorking is the left side of the equation for the least count.
	LeastCountWorking(i *Instrument) text.Text
	// ZeroStory says what the closed instrument shows, which reads r.
	ZeroStory(i *Instrument, r Reading) text.Text
	// MarkStands says which main mark counts and why, as the start of a sentence.
	MarkStands(v View) text.Text
	// LineStands says which line of the fine scale counts, as the start of a sentence; nothing without a fine scale.
	LineStands(v View) text.Text
	// Where says where the main scale is read.
	Where(v View) text.Text
	// FindLine says how the line is found once the mark is; nothing without a fine scale.
	FindLine() text.Text
	// NumbersRun says which way the numbers of the fine scale rise.
	NumbersRun(i *Instrument) text.Text
	// Parts are the named parts, with keys by which a drawing says where they are; none on what has no names.
	Parts() []Part
	// Index is the term for what a line is read at; "" where one meets a mark or there are none.
	Index() text.Term
	// MarksAt names the place at which the marks of the main scale are read; nothing without marks.
	MarksAt() text.Text
	// LinesAt names the place at which a line of the fine scale is read; nothing where one meets a mark.
	LinesAt() text.Text
	// Term is the first word of the terms for the fine scale, as "plate" in "plate reading"; "" without one.
	Term() string

	// Usuals lists main scales on which it commonly stands in a unit, the most common first; at least one.
	Usuals(unit length.Unit) []Usual
	// Limits says what can be made and read.
	Limits() Limits
	// Propose offers ways to build what is wanted on a main scale; without lines, whatever the main scale.
	Propose(w *Wanted, u Usual)
}

// Part is a named part of an instrument.
type Part struct {
	Key  PartKey
	Name text.Text
}

// PartKey names a part for a drawing.
type PartKey string

// The parts that drawings name.
const (
	MainScale PartKey = "main scale"
	FineZero  PartKey = "fine zero"
	FineScale PartKey = "fine scale"
	ReadAt    PartKey = "read at" // the index line
	Edge      PartKey = "edge"    // at which the main scale is read
	Lock      PartKey = "lock"
	Jaw       PartKey = "jaw"
	Slide     PartKey = "slide"
	Grip      PartKey = "grip"
	Bezel     PartKey = "bezel"
	Plunger   PartKey = "plunger"
)

// Traits are the properties of a chain of scales that texts and marking depend on.
type Traits struct {
	HasMarks    bool // a main scale with marks; without, digits are copied
	HasLines    bool // a fine scale whose lines are counted
	Coincides   bool // the line that counts is the one that meets a main mark, so that nothing lies between two lines
	AtIndex     bool // a line is read at an index, a pointer or an edge, and the position may lie between two lines
	GoesRound   bool // after the last line comes line 0 again, at the same place
	HasEdge     bool // a plate, whose edge stands before its 0
	HasThimble  bool // main marks come out from under a thimble, or vanish under it
	CountsTurns bool // whole turns of a pointer are counted on the main scale
	BelowZero   bool // it shows values below its 0 as well
	Digits      bool // it shows numbers, which are copied
	Reversible  bool // its main numbers may run the other way
	Counts      bool // a hand of its own counts whole turns
	Signed      bool // lines are counted both ways from 0, and there is no main scale
	BothWays    bool // its lines are numbered both ways, so that they can be counted from the wrong side
	Round       bool // after a full circle its numbers begin again
	Indicates   bool // its pointer turns with a part against it: what counts is how far
}

// Division describes how the scales of an instrument divide its main scale.
type Division struct {
	Interval  length.Number // L, the length that one cycle of the fine scale covers
	Lines     int           // n, lines in one cycle; 1 without a fine scale
	Form      Form          // of a vernier plate
	Finer     int           // v, lines of the vernier over a thimble; 1 without one
	FinerForm Form          // of the vernier over a thimble
}

// View is a reading that somebody looks at again.
type View struct {
	Instrument *Instrument
	Reading    Reading
	Between    Between   // how the class reads between two lines
	Mark       text.Math // the main mark that counts, with its unit
	Line       text.Math // the number of the line that counts
}

// exact reports whether the position stands just on a step.
func (v View) exact() bool { return v.Reading.Indicated.Equal(v.Reading.Observed) }

func (v View) tenths() bool { return v.Instrument.Tenths(v.Between) }

// noFiner refuses a vernier over a fine scale that can have none.
func noFiner(s *Spec, bad *refusal.Refusal) bool {
	if s.ThimbleVernier == (ThimbleVernier{}) {
		return true
	}
	bad.Add("finer", "scale.no-finer")
	return false
}

// checkNumbers completes and checks the printed numbers of a fine scale, of which one usually stands at every so many
// lines.
func checkNumbers(f *Fine, usual int, bad *refusal.Refusal) {
	if f.NumberEvery == 0 {
		f.NumberEvery = usual
		if f.Divisions <= 10 {
			f.NumberEvery = 1
		}
	}
	if f.NumberEvery < 1 || f.NumberEvery > maxLines {
		bad.Add("fine.number_every", "scale.check-numbers", "max_lines", maxLines, "number_every", f.NumberEvery)
	}
	if f.NumberStep == 0 {
		f.NumberStep = f.NumberEvery
	}
	if f.NumberStep < 1 || f.NumberStep > 1000 {
		bad.Add("fine.number_step", "scale.whole-number-from-1", "number_step", f.NumberStep)
	}
}

// checkTurn completes and checks what a thimble and a dial share: lines round a circle, and what one turn moves. It
// returns the length from one zero to the next and the lines on it.
func checkTurn(s *Spec, divided, manyZeros bool, bad *refusal.Refusal) (interval length.Number, lines int, ok bool) {
	f, d := &s.Fine, s.Main.Division
	if f.Zeros == 0 {
		f.Zeros = 1
	}
	switch {
	case f.Divisions < 2 || f.Divisions > maxLines:
		bad.Add("fine.divisions", "scale.check-turn", "max_lines", maxLines, "divisions", f.Divisions)
		return d, 1, false
	case f.Zeros < 1 || f.Zeros > 4 || f.Divisions%f.Zeros != 0:
		bad.Add("fine.zeros", "scale.1-2-3-4", "divisions", f.Divisions, "zeros", f.Zeros)
		return d, 1, false
	case !manyZeros && f.Zeros != 1:
		bad.Add("fine.zeros", "scale.drum-one-zero-leave")
		return d, 1, false
	case f.Travel.Sign() <= 0:
		bad.Add("fine.travel", "scale.what-one-turn-moves", "travel", f.Travel)
		return d, 1, false
	}
	interval = f.Travel.Quo(length.Int(int64(f.Zeros)))
	lines = f.Divisions / f.Zeros
	if divided {
		if turns := interval.Quo(d); !turns.IsInt() {
			below := turns.Floor()
			if below.Sign() == 0 {
				below = length.Int(1)
			}
			bad.Add("fine.travel",
				"scale.from-0-0-no", "interval", interval, "d", d, "mul", d.Mul(below).MulInt(f.Zeros), "mul2",
				d.Mul(below.Add(length.Int(1))).MulInt(f.Zeros))
			return interval, lines, false
		}
	}
	return interval, lines, true
}
