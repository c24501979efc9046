// Package exercise knows what every kind of exercise is: an item is asked, an answer is marked field by
// field, and what went wrong is explained. It marks by targets and follow-through, deals sheets of items
// from a seed, and reads back whatever was stored. The kinds themselves it is handed as a list.
package exercise

import (
	"encoding/json"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/text"
)

// Kind is one way to ask.
type Kind interface {
	// Name returns the name of the kind in documents and in the database.
	Name() string
	// Title is the kind's name for people.
	Title() text.Text
	// Settings lists what the composer asks of a block of the kind.
	Settings() []Setting
	// Slips lists the mistakes that the kind adds to those known before it in the list of kinds.
	Slips() []Slip
	// Decode reads the body of an item document. It refuses only what it cannot read.
	Decode(body json.RawMessage) (Item, error)
	// Check refuses a block that cannot be dealt, with a refusal.Refusal naming each field.
	Check(Block) error
	// Deal makes a card of a block that has been checked. One seed gives the same cards for ever.
	Deal(Block, *Dealer) (Item, error)
}

// Item is one exercise as it is asked, complete in itself; json.Marshal writes its body.
type Item interface {
	Kind() string
	// Check refuses what must not be asked anew, with a refusal.Refusal. It is not called for what was
	// asked before and is read back.
	Check() error
	// Fields lists the boxes that are asked, in the order of the work.
	Fields() []Field
	// Lines lays the boxes out, as equations or as the rows of a table.
	Lines() []Line
	// Facts are printed beside the figure.
	Facts() Facts
	// Figures lists the drawings of the card; the first is shown first.
	Figures() []Figure
	// Mark marks an answer. An entry that cannot be read is not wrong but handed back: the error is then a
	// refusal.Refusal whose fields are those of the card.
	Mark(Answer) (Result, error)
	// Explain puts what an answer came to in words, and says where on the figures to look.
	Explain(Answer, Wording) (Explanation, error)
	// Hints are the hints, from where to look to the whole working.
	Hints() ([]Hint, error)
	// Predictions are the wrong values that known slips give, field by field in table order, where all
	// earlier entries are right.
	Predictions() ([]Prediction, error)
}

// Field is one box of a card.
type Field struct {
	Name    string      // in documents: "main", "r.1.2"
	Term    text.Text   // in a sentence: "main reading"
	Label   text.Text   // over the box: "main"
	Input   Input       // what is put in
	Line    bool        // it holds the number of a line
	Unit    length.Unit // of its value; "" for what is no length
	Part    length.Part // the smallest part of an angle that is read; 0 for lengths and decimals of a degree
	Options []string    // of a choice, as they are written
	Words   []text.Text // how each option reads, where that is more than what is written
	Worded  bool        // its options are sentences
	Form    Form
	Figure  string        // the figure that a Position moves
	Grain   length.Number // the smallest difference that means something in it; 0 where there is none
}

// Sign returns what stands behind a box for its unit: "mm"; nothing where an angle is written with the signs of its
// parts.
func (f Field) Sign() string {
	switch {
	case !f.Unit.Angular():
		return string(f.Unit)
	case f.Part != 0:
		return ""
	}
	return "°"
}

// Input says what is put into a field.
type Input string

// The inputs. A page has one part for each.
const (
	Length   Input = "length"   // a length, in any unit
	Count    Input = "count"    // a number without a unit: of a line, of divisions
	Options  Input = "choice"   // one of the options of the field
	Order    Input = "order"    // the field's options, all of them, in the order that is right
	Position Input = "position" // how far a figure was moved from where it stood
)

// Form describes how an entry must be written. The zero value asks for whole numbers.
type Form struct {
	Places int  // decimals that it must have; −1 where they are not judged
	More   int  // decimals that may be written beyond them
	Unit   bool // the unit must be written
	Sign   bool // a plus must be written
	// of an angle: the part down to which it must be written; 0 where that is not judged
	Part length.Part
}

// Line is one equation of a card, or one row of a table. Rows that follow each other make the table.
type Line struct {
	Row   bool
	Head  text.Text // of a row: what it is about
	Terms []Term
}

// Term is one piece of a line. Just one of its kinds is set: an operator or bracket, a box to fill in, an
// echo of what stands in an earlier box, a number printed as given, or a word for what is not asked.
type Term struct {
	Operator string    // "+", "−", "×", "=", "(" or ")"
	Box      string    // a box for the field of this name
	Echo     string    // what was entered in the field of this name
	Given    text.Math // a number that the card prints
	Word     text.Text // the name of what is neither asked nor given
}

// Facts are the texts beside a card's figure.
type Facts struct {
	About      []text.Text // the instrument: its name, and how it is made
	Task       text.Text   // what is to be done, where the boxes do not show it
	Given      []text.Text // what the card tells: the closed reading, limits
	Convention text.Text   // what the class settles that the boxes do not show
	Gauges     *Gauges     // limit gauges with their parts, of a card that shows no instrument
}

// Gauges are limit gauges and the parts that are tried in them.
type Gauges struct {
	Hole  bool        // a plug gauge for holes, or else a snap gauge for shafts
	Parts []text.Math // sizes
}

// Figure is an instrument at a position, as a card shows it.
type Figure struct {
	Name       string // keeps the figures of a card apart: "open", "closed", "r.1.2"
	Instrument *instrument.Instrument
	At         length.Number // the indicated value; of a figure that moves, where it starts
	Caption    text.Text     // what it shows, in a word or two
	Group      text.Text     // of a figure of several: what it is one of, and InGroup which of them
	InGroup    text.Text
	Beside     string         // the figure that it is compared with, and stands beside where there is room; "" for none
	Moves      bool           // it may be moved, and its field holds how far
	Upright    *length.Number // of a gear-tooth pair: where its upright scale stands; it is that which moves
	Plain      bool           // it is looked at as a whole, without a lens
	Limits     *Limits        // a face shows them by its tolerance hands; nil for none
}

// Moved returns where a figure stands after it was moved by so many tenths of a least count from its
// start, and how many of them the ends of its scale let it go.
func (f Figure) Moved(by int) (at length.Number, moves int) {
	in, start := f.Instrument, f.At
	if f.Upright != nil {
		in, _ = in.Second()
		start = *f.Upright
	}
	tenth := in.LeastCount().Mul(length.Frac(1, 10))
	if in.Turn().Sign() > 0 { // it goes round
		return in.Around(start.Add(tenth.MulInt(by))), by
	}
	_, high := in.Range()
	steps := func(to length.Number) int {
		n, _ := to.Sub(start).Quo(tenth).Floor().Int64()
		return int(n)
	}
	moves = max(min(by, steps(high)), -steps(start.Add(start).Sub(in.Lowest())))
	return start.Add(tenth.MulInt(moves)), moves
}

// MovesTo returns how many tenths of a least count a figure must be moved from its start so that it shows a value; ok
// is false where that is far off every scale.
func (f Figure) MovesTo(shown length.Number) (moves int, ok bool) {
	in, start := f.Instrument, f.At
	if f.Upright != nil {
		in, _ = in.Second()
		start = *f.Upright
	}
	n, ok := shown.Sub(start).Quo(in.LeastCount()).MulInt(10).Round(0).Int64()
	return int(n), ok
}

// Pointing lists what is flagged on a figure: the right mark and line, and those that the student took.
type Pointing struct {
	Figure   string        // its name
	Mark     length.Number // the main mark that counts
	MarkText text.Text     // none leaves the mark alone
	Line     int           // the fine line that counts
	LineText text.Text     // none leaves the line alone
	Look     int           // the line that the lens looks at; −1 is where a reading begins

	FinerLine  *int // the line of a finer scale that coincides
	TakenMark  *length.Number
	TakenLine  *int
	TakenFiner *int
}

// Hint is one hint on a card.
type Hint struct {
	Text   text.Text
	Shown  []Pointing // on the figures besides
	Worked bool       // it works the card: nothing is left to find
}

// Explanation says in words what an answer came to, and where on the figures to look.
type Explanation struct {
	Headline text.Text   // what happened, in one sentence
	Body     []text.Text // how to see it, and one piece of advice
	Work     []Equation  // the arithmetic, in the class's school
	Field    string      // the first field that went wrong; "" when none did
	Figure   string      // the figure to be in sight; "" for the first
	Shown    []Pointing
}

// Equation is one line of working: what is computed, and what it comes to; Right says nothing if the line only says
// something.
type Equation struct{ Left, Right text.Text }

// Sum returns an equation of numbers alone.
func Sum(left, right string) Equation {
	return Equation{text.Numbers(text.Math(left)), text.Numbers(text.Math(right))}
}

// Banked is a Kind whose items come from a bank that an instructor edits and extends.
type Banked interface {
	Kind
	// Shipped are the bodies of the items that come with the program.
	Shipped() []json.RawMessage
	// Bank lists the fields of the form in which an item is written.
	Bank() []Setting
	// Write makes a body from a form; what is wrong with it is a refusal.Refusal naming each field.
	Write(form map[string]string) (json.RawMessage, error)
	// Form fills a form with a body. What comes with the program is in the printer's language.
	Form(json.RawMessage, *text.Printer) (map[string]string, error)
	// Says is an item in a line.
	Says(json.RawMessage) text.Text
}

// Bare is a Kind whose cards show no instrument, so that its blocks need none.
type Bare interface{ Bare() }

// Prediction is the wrong value that a slip gives in one field.
type Prediction struct {
	Field string
	Code  Code
	Value length.Number
	Part  string // of the work, that the slip belongs to: slips of different parts can be made together
}

// Anywhere is the part of slips that can be made with any value, whatever was right before: digits exchanged,
// units mixed up.
const Anywhere = "whole"

// Misreader is an Item that can also foretell slips of whole values, which a sheet's coverage leaves out.
type Misreader interface {
	Misreadings() ([]Prediction, error)
}

// Wording adapts an explanation to a student: it holds earlier slips, and the instructor's own words for slips.
type Wording struct {
	History  History
	Wordings SlipWordings
}

// OptionText is the option of a field at a place, as people read it.
func OptionText(f Field, i int, option string) text.Text {
	switch {
	case i < len(f.Words):
		return f.Words[i]
	case option == "none":
		return text.New("option.none-of-these")
	case f.Unit != "":
		option = f.Unit.With(option)
	}
	return text.Numbers(text.Math(option))
}

// Show puts a typographic minus for a hyphen, as numbers are printed for reading.
func Show(s string) string { return strings.ReplaceAll(s, "-", "−") }

// Bracket writes a number for reading, with a minus in brackets, as it stands after an operator.
func Bracket(s string) string {
	if strings.HasPrefix(s, "-") {
		return "(" + Show(s) + ")"
	}
	return s
}
