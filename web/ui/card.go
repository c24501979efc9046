package ui

import (
	"cmp"
	"html/template"
	"net/http"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/core/walk"
	"cavix/figure"
	"cavix/school/sitting"
)

// CardView is a card as a page shows it, before and after checking. The same page serves a student at
// work, an instructor who tries a sheet, and an instructor who looks at an answer.
type CardView struct {
	Title, Sub text.Text
	Rule       []RuleMark
	N, Of      int
	Facts      exercise.Facts
	Views      ViewsView
	Sketch     template.HTML // of gauges and parts, where there is no instrument
	Only       bool          // one choice is all that is asked

	Why    text.Text // why it is this card, in practice
	Test   bool      // it is kept, and not checked
	Owner  int64     // whose it is, so that what is kept in the browser is kept apart
	Timer  Timer     // how much time is left
	Hand   string    // the sheet's page, where a test is handed in
	Before string    // the card before; "" where there is none
	After  string    // the card after

	Action   string // where the boxes go; "" when nothing can be filled in
	Draft    string // where half-filled boxes are kept; "" when they are not
	Help     string // where a hint is taken; "" where the boxes go
	Tables   []LineView
	Lines    []LineView
	Empty    text.Text // names of boxes left empty, to be confirmed
	CanSpeak bool      // its figures can be told in words
	Ahead    bool      // the other cards may be fetched ahead, to be shown without a connection
	Told     bool      // they have just been asked for: the keys begin there
	Undo     string    // where the check can be undone; "" where it cannot
	Note     text.Text // something to be said before anything else

	Hints    []text.Text // hints taken, in words
	NextHint text.Text   // what the next hint costs; "" when there is none

	Own       bool // the mark is the instructor's own
	Reason    text.Text
	CanMark   bool // an instructor looks at it, and may set a mark
	OwnMark   string
	OwnReason string
	Errors    map[string]text.Text

	Done      bool
	Marks     text.Text
	Full      bool // all the marks
	Explained exercise.Explanation
	Next      Link
	Read      Link // where the handbook explains what went wrong; without a text where nothing did
}

// Timer holds the time that is left, by the server's clock; the zero value has no limit.
type Timer struct {
	Ends, Now int64 // seconds since 1970
	Text      text.Text
}

// Link is a place to go on to.
type Link struct {
	Href string
	Text text.Text
}

// Half writes a count of half marks.
func Half(n int64) text.Math { return text.Math(length.Frac(n, 2).String()) }

// Halves is a count of half marks, as marks.
func Halves(n int64) length.Number { return length.Frac(n, 2) }

// Marks writes marks, of a mean to one decimal where it is no half.
func Marks(m length.Number) text.Math {
	if m.MulInt(2).IsInt() {
		return text.Math(m.String())
	}
	return text.Math(m.Round(1).Text(1))
}

// ViewsView are the figures of a card: one in sight, the others a press away.
type ViewsView struct {
	Tabs    []TabView // none where there is one figure
	Parts   []PartView
	On      string // the figure in sight
	Sight   string // what is in sight together with it
	Abreast bool   // some stand side by side where there is room
	At      string // where another figure is asked for; "" when all are here
	Moved   string // how far the figure was moved, as its field holds it
	Moving  string // the field that a movement goes into; "" when nothing moves
	Turns   string // where another figure is asked for together with what stands in the boxes; "" where nothing is kept
	Anyway  bool   // boxes that were left empty are left so when the card is sent once more
}

// sightOf names what is in sight together: a figure, or two that stand side by side.
func sightOf(f exercise.Figure) string { return cmp.Or(f.Beside, f.Name) }

// TabView is a figure to be brought in sight.
type TabView struct {
	Name, Href  string
	Sight       string
	Text, Group text.Text // the group is said at its first
	On, Filled  bool
}

// PartView is a figure that is on the page.
type PartView struct {
	Name    string
	On      bool
	Sight   string
	Caption text.Text // of one of two that stand side by side; nil else
	Spoken  []walk.Scale
	FigureView
}

// LineView is an equation of a card, or a table.
type LineView struct {
	Head  []text.Text // of a table's columns; nil for an equation
	Rows  []RowView
	Terms []TermView
}

// RowView is one row of a table.
type RowView struct {
	Head  text.Text
	Terms []TermView
}

// TermView is one piece of an equation of boxes.
type TermView struct {
	Kind    string    // op, given, word, echo, or the input of a box: length, count, choice, position
	Text    text.Text // of an operator, a given number, an echo or a word
	Field   string
	Label   text.Text // short name
	Term    text.Text // full name
	Value   string    // as typed
	Unit    string
	Figure  string // that it is read from
	Options []OptionView
	Worded  bool // its options are sentences
	Error   text.Text
	Wide    bool   // what is written in it may be long
	Keys    string // what is written in it that a keypad of digits and a decimal sign has no keys for
	Locked  bool   // nothing can be filled in

	Outcome exercise.Outcome // "" until it is checked
	Word    text.Text        // the outcome in a word
	Want    string           // what it should have been, where that is not what was written
	Wanted  text.Text        // the same as people read it
}

// CardState is a card with its answer, its result and its hints.
type CardState struct {
	Item    exercise.Item
	Answer  exercise.Answer  // what stands in its boxes
	Result  *exercise.Result // once it is checked
	Wording exercise.Wording
	Hints   []exercise.Hint // that were taken
	Figure  string          // asked to be in sight; "" for the card's own choice
	At      string          // address of the card's figures, "" where they cannot be asked for
	Said    *text.Printer
	Pixels  bool // figures are sent as pictures until it is checked
	Spoken  bool // figures are told in words too
}

// Figures sends the figures of a card alone, for a script that puts them in place.
func (s *Site) Figures(w http.ResponseWriter, r *http.Request, c CardState) error {
	var v CardView
	if err := v.Fill(c); err != nil {
		return err
	}
	return s.Fragment(w, r, "card", "views", v.Views)
}

// Fill shows a card with what stands in its boxes, and with its mark when it has been checked.
func (v *CardView) Fill(c CardState) error {
	v.Facts = c.Item.Facts()
	v.Sketch = sketch(v.Facts, c.Said)
	fields := c.Item.Fields()
	v.Only = len(fields) == 1 && fields[0].Input == exercise.Options
	v.lay(c, fields)
	if c.Result != nil {
		v.Done, v.Full = true, c.Result.Marks.Equal(c.Result.Of)
		v.Marks = text.New("card.marks", "marks", c.Result.Marks, "of", c.Result.Of)
		var err error
		if v.Explained, err = c.Item.Explain(c.Answer, c.Wording); err != nil {
			return err
		}
		v.Read, err = c.explainedIn(v.Explained)
		if err != nil {
			return err
		}
	} else {
		for _, h := range c.Hints {
			v.Hints = append(v.Hints, h.Text)
		}
	}
	var err error
	width := figure.Wide
	if v.Tables != nil { // beside the table
		width = figure.Narrow
	}
	if v.Views, err = c.views(v.Explained, width); err == nil && v.Draft != "" {
		v.Views.Turns, v.Views.Anyway = c.At, v.Test && !v.Empty.IsZero()
	}
	return err
}

// sketch draws what a card shows besides instruments.
func sketch(f exercise.Facts, said *text.Printer) template.HTML {
	if f.Gauges == nil {
		return ""
	}
	return Drawing(figure.Gauges(f.Gauges.Hole, f.Gauges.Parts, figure.Options{Said: said}), "sketch", "fig")
}

// together is the most figures that are all put on a page at once.
const together = 2

// views draws what is in sight of a card's figures.
func (c CardState) views(e exercise.Explanation, width float64) (ViewsView, error) {
	figures := c.Item.Figures()
	v := ViewsView{}
	if len(figures) == 0 {
		return v, nil
	}
	v.On = figures[0].Name
	shown := e.Shown
	if c.Result == nil && len(c.Hints) > 0 {
		shown = c.Hints[len(c.Hints)-1].Shown
	}
	for _, name := range []string{e.Figure, c.Figure} {
		for _, f := range figures {
			if f.Name == name {
				v.On = name
			}
		}
	}
	side := map[string]bool{} // sights of two
	for _, f := range figures {
		if f.Beside != "" {
			side[f.Beside], v.Abreast = true, true
		}
		if f.Name == v.On {
			v.Sight = sightOf(f)
		}
	}
	var group text.Text // of the tab before
	if len(figures) > together {
		v.At = c.At
	}
	for _, f := range figures {
		on := f.Name == v.On
		if len(figures) > 1 {
			tab := c.tab(f, on, len(figures))
			if tab.Group.Equal(group) {
				tab.Group = nil
			} else {
				group = tab.Group
			}
			v.Tabs = append(v.Tabs, tab)
		}
		if len(figures) > together && sightOf(f) != v.Sight {
			continue
		}
		width, caption := width, text.Text(nil)
		if side[sightOf(f)] {
			width, caption = figure.Half, f.Caption
		}
		look := Looking{ID: strings.ReplaceAll(f.Name, ".", "-"), Width: width, Line: -1, Pixels: c.Pixels &&
			c.Result == nil, Options: figure.Options{Said: c.Said}}
		for _, p := range shown {
			if p.Figure == f.Name {
				look.Options.Flags, look.Line = &p, p.Look
			}
		}
		if f.Moves {
			look.Moves = c.Result == nil && c.At != ""
			for _, field := range c.Item.Fields() {
				if field.Figure == f.Name && field.Input == exercise.Position {
					v.Moving, v.Moved = field.Name, c.Answer[field.Name]
					moved, _ := f.Moved(moves(v.Moved))
					if f.Upright == nil {
						f.At = moved
					} else {
						f.Upright = &moved
					}
				}
			}
			v.At = c.At
		}
		drawn, err := NewFigure(f, look)
		if err != nil {
			return v, err
		}
		part := PartView{Name: f.Name, On: on, Sight: sightOf(f), Caption: caption, FigureView: drawn}
		if c.Spoken {
			part.Spoken = walk.Figure(f)
		}
		v.Parts = append(v.Parts, part)
	}
	return v, nil
}

// tab returns the control that shows a figure.
func (c CardState) tab(f exercise.Figure, on bool, all int) TabView {
	t := TabView{Name: f.Name, Sight: sightOf(f), Text: f.Caption, On: on, Filled: !exercise.Blank(c.Answer[f.Name])}
	if all > together && !f.Group.IsZero() {
		t.Group, t.Text = f.Group, f.InGroup
	}
	t.Href = "?figure=" + f.Name
	return t
}

// moves reads how far a figure was moved.
func moves(says string) int {
	n, _ := strconv.Atoi(strings.TrimSuffix(strings.TrimSpace(says), "v"))
	return n
}

// Move carries out a movement of one of a card's figures: the field that holds it then holds how far the
// figure stands from its start, as far as its scale lets it, and whether the last movement was downwards.
func Move(it exercise.Item, a exercise.Answer, moved string) {
	by, err := strconv.Atoi(moved)
	if err != nil || by == 0 || by > 1_000_000 || by < -1_000_000 {
		return
	}
	for _, f := range it.Fields() {
		if f.Input != exercise.Position {
			continue
		}
		for _, fig := range it.Figures() {
			if fig.Name != f.Figure {
				continue
			}
			_, now := fig.Moved(moves(a[f.Name]) + by)
			a[f.Name] = strconv.Itoa(now)
			if by < 0 {
				a[f.Name] += "v"
			}
		}
	}
}

// lay lays the boxes out: the rows of tables, and equations.
func (v *CardView) lay(c CardState, fields []exercise.Field) {
	byName := make(map[string]exercise.Field, len(fields))
	for _, f := range fields {
		byName[f.Name] = f
	}
	begun := false // a table, that goes on with the next row
	for _, l := range c.Item.Lines() {
		terms := make([]TermView, len(l.Terms))
		for i, t := range l.Terms {
			terms[i] = v.term(t, c, byName)
		}
		if !l.Row {
			v.Lines, begun = append(v.Lines, LineView{Terms: terms}), false
			continue
		}
		if !begun {
			v.Tables, begun = append(v.Tables, LineView{}), true
		}
		table := &v.Tables[len(v.Tables)-1]
		for i := len(table.Head); i < len(terms); i++ { // by the first row that reaches so far
			table.Head = append(table.Head, terms[i].Label)
		}
		table.Rows = append(table.Rows, RowView{l.Head, terms})
	}
}

// term turns a piece of an equation into what the page prints.
func (v *CardView) term(t exercise.Term, c CardState, fields map[string]exercise.Field) TermView {
	switch {
	case t.Operator != "":
		return TermView{Kind: "op", Text: text.Numbers(text.Math(t.Operator))}
	case t.Given != "":
		return TermView{Kind: "given", Text: text.Numbers(t.Given)}
	case !t.Word.IsZero():
		return TermView{Kind: "word", Text: t.Word}
	case t.Echo != "":
		return TermView{Kind: "echo", Field: t.Echo, Label: fields[t.Echo].Label,
			Text: text.Typed(strings.TrimSpace(exercise.Show(c.Answer[t.Echo])))}
	}
	f := fields[t.Box]
	out := TermView{Kind: string(f.Input), Field: f.Name, Label: f.Label, Term: f.Term, Value: c.Answer[f.Name],
		Figure: f.Figure,
		Error:  v.Errors[f.Name], Wide: wide(f), Locked: c.Result != nil || v.Action == ""}
	if !f.Form.Unit {
		out.Unit = f.Sign()
	}
	if f.Input == exercise.Options && !v.Only {
		out.Kind = "select"
	}
	out.Worded, out.Keys = f.Worded, keysOf(f)
	for i, o := range f.Options {
		bare := f
		bare.Unit = "" // it stands beside the options
		out.Options = append(out.Options, OptionView{o, exercise.OptionText(bare, i, o),
			o == strings.TrimSpace(out.Value)})
	}
	if f.Input == exercise.Order {
		out.inOrder()
	}
	if c.Result == nil {
		return out
	}
	if m := c.Result.Field(f.Name); m != nil {
		out.Outcome, out.Word = m.Outcome, text.New("outcome."+string(m.Outcome))
		if f.Input != exercise.Position && (m.Outcome == exercise.Wrong || m.Outcome == exercise.Missing ||
			m.Outcome == exercise.Carried) {
			out.Want, out.Wanted = m.Expected, Wanted(f, m.Expected)
		}
	}
	return out
}

// Given returns the entry of a field as people read it: an option in words, everything else as it was typed.
func Given(f exercise.Field, says string) text.Text {
	f.Unit = ""
	for i, o := range f.Options {
		if o == strings.TrimSpace(says) {
			return exercise.OptionText(f, i, o)
		}
	}
	return text.Typed(exercise.Show(says))
}

// Wanted returns the right entry of a field as people read it.
func Wanted(f exercise.Field, expected string) text.Text {
	f.Unit = ""
	for i, o := range f.Options {
		if o == expected {
			return exercise.OptionText(f, i, o)
		}
	}
	return text.Numbers(text.Math(expected))
}

// inOrder brings the options of an order into the order that is written, where it names every one.
func (t *TermView) inOrder() {
	words := strings.FieldsFunc(t.Value, func(r rune) bool { return strings.ContainsRune(" ,;.", r) })
	sorted := make([]OptionView, 0, len(t.Options))
	for _, w := range words {
		for _, o := range t.Options {
			if o.Value == w {
				sorted = append(sorted, o)
			}
		}
	}
	if len(sorted) == len(t.Options) {
		t.Options = sorted
	}
}

// keysOf returns what may be written in a field that a keypad of digits and a decimal sign has no keys for.
func keysOf(f exercise.Field) string {
	keys := ""
	if f.Input == exercise.Length && f.Unit.Angular() {
		keys = "°′″"
	}
	if f.Form.Sign || f.Input == exercise.Length {
		keys += "−"
	}
	if f.Form.Sign {
		keys += "+"
	}
	_, finite := f.Grain.Decimals()
	if f.Input == exercise.Length && !finite && !f.Unit.Angular() || f.Unit == length.Inch {
		keys += "/ "
	}
	return keys
}

// Keyboard is the keyboard of a phone on which a box is filled in: letters where a unit must be written.
func (t TermView) Keyboard() string {
	if t.Kind == string(exercise.Order) || t.Unit == "" && t.Kind == string(exercise.Length) {
		return "text"
	}
	return "decimal"
}

// wide reports whether what is written in a field may be long: mixed fractions, and many decimals.
func wide(f exercise.Field) bool {
	places, finite := f.Grain.Decimals()
	return f.Input == exercise.Order || f.Input == exercise.Length && (!finite || places > 4)
}

// Written reads the boxes of a card from a form: those that it holds, empty ones too.
func Written(r *http.Request, it exercise.Item) exercise.Answer {
	a := exercise.Answer{}
	for _, f := range it.Fields() {
		if r.PostForm.Has(f.Name) {
			a[f.Name] = Clip(r.PostForm.Get(f.Name), 60)
		}
	}
	return a
}

// Ready reports whether an answer can be marked, or says in the view why not yet: a box that cannot be
// read, or boxes left empty that have not been confirmed.
func (v *CardView) Ready(r *http.Request, it exercise.Item, a exercise.Answer) (bool, error) {
	if err := exercise.Readable(it, a); err != nil {
		faults := Faults{}
		if err := faults.Take("", err); err != nil {
			return false, err
		}
		v.Errors = faults.By()
		return false, nil
	}
	if empty := exercise.Empty(it, a); len(empty) > 0 && r.PostFormValue("do") != "anyway" {
		v.Empty = text.List(empty...)
		if len(empty) > 6 {
			v.Empty = text.New("story.and-more", "names", text.List(empty[:5]...), "n", len(empty)-5)
		}
		return false, nil
	}
	return true, nil
}

// Stand puts the mark that stands in place of the computed one: what help took off, or the instructor's own.
func (v *CardView) Stand(c sitting.Card) {
	if !c.Done() {
		return
	}
	v.Marks = text.New("card.marks", "marks", c.Marks, "of", c.Of)
	v.Own, v.Reason = c.Own != nil, text.Typed(c.Reason)
	if c.Hints > 0 && !v.Own {
		v.Reason = text.New("ui.card.stand", "hints", c.Hints)
	}
	if c.Undone && !v.Own {
		v.Reason = text.New("ui.card.half-marks-because-undid")
	}
}

// TrySeed keeps the seeds of previews apart from students' own, which are spread over all numbers.
func TrySeed(n int) uint64 { return exercise.StudentSeed(0x70726576_69657773, int64(n)) }
