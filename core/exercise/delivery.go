package exercise

import (
	"time"

	"cavix/core/instrument"
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
	"cavix/core/words"
)

// Delivery says how a sheet is taken. What is left out stands for how sheets were taken before there was a choice.
type Delivery struct {
	Task    string                 `json:"task,omitempty"`    // what is said above the cards, in Markdown
	Picture *instrument.Instrument `json:"picture,omitempty"` // shown beside it
	Mode    Mode                   `json:"mode,omitempty"`
	Help    Help                   `json:"help,omitempty"`
	// how often it may be taken, each time with other values; 0 is 1
	Attempts int    `json:"attempts,omitempty"`
	Counts   Counts `json:"counts,omitempty"`   // which of several attempts
	Shuffled bool   `json:"shuffled,omitempty"` // every student has the cards in an order of their own
	Minutes  int    `json:"minutes,omitempty"`  // from first sight; 0 is as long as one likes
	// a check of practice may be undone once; the card then earns half of what it comes to
	Undo    bool       `json:"undo,omitempty"`
	Spoken  bool       `json:"spoken,omitempty"` // students may have figures told in words, line by line
	Late    bool       `json:"late,omitempty"`   // work after the closing time is taken, and marked late
	Release Release    `json:"release,omitempty"`
	Words   words.Base `json:"words,omitempty"`   // of its cards; "" is the class's
	Aids    Aids       `json:"aids,omitempty"`    // while a test with an end is taken
	Figures Figures    `json:"figures,omitempty"` // of a test, until its results are told
}

// Mode says when students see the results of a sheet.
type Mode string

// The modes.
const (
	Practice Mode = ""     // each card is checked at once
	Test     Mode = "test" // nothing is told before it is handed in and released
)

// Help limits the hints on a card.
type Help string

// The ways to help.
const (
	HelpAsBefore Help = ""       // every hint, at its cost alone
	HelpNone     Help = "none"   // none
	HelpWhere    Help = "where"  // where to look
	HelpMark     Help = "mark"   // which mark counts
	HelpWorked   Help = "worked" // the whole working, after which the card earns nothing
)

// Counts says which of several attempts counts.
type Counts string

// The attempts that can count.
const (
	CountsBest Counts = "" // the one with most marks
	CountsLast Counts = "last"
	CountsMean Counts = "mean"
)

// Release says when a test tells what it came to.
type Release string

// The times.
const (
	ReleaseAtEnd Release = ""     // as soon as it is handed in
	ReleaseHand  Release = "hand" // when the instructor releases it
)

// Aids says whether a student may use the Bench, practice and the handbook, for the instruments of a test, while taking
// it. It counts for tests with an end only: one without could close them for good.
type Aids string

// The choices.
const (
	AidsClosed Aids = ""
	AidsOpen   Aids = "open"
)

// Figures says how the figures of a test are sent.
type Figures string

// The choices.
const (
	FiguresDrawn  Figures = ""       // with coordinates, crisp at any size: a short program reads them
	FiguresPixels Figures = "pixels" // as pictures, which are harder to read for a program
)

// Pixels reports whether figures are sent as pictures until the results are told.
func (c Delivery) Pixels() bool { return c.Mode == Test && c.Figures == FiguresPixels }

// Bounds of a sheet's conduct.
const (
	MaxTask     = 4000 // characters of the task
	MaxAttempts = 20
	MaxMinutes  = 600
)

// ConductChoices are the choices of a conduct for those who compose: by field, the default first.
var ConductChoices = map[string][]Choice{
	"mode": {
		{string(Practice), text.New("conduct.mode.practice")},
		{string(Test), text.New("conduct.mode.test")},
	},
	"help": {
		{string(HelpWorked), text.New("conduct.help.worked")},
		{string(HelpMark), text.New("conduct.help.mark")},
		{string(HelpWhere), text.New("conduct.help.where")},
		{string(HelpNone), text.New("conduct.help.none")},
	},
	"counts": {
		{string(CountsBest), text.New("conduct.counts.best")},
		{string(CountsLast), text.New("conduct.counts.last")},
		{string(CountsMean), text.New("conduct.counts.mean")},
	},
	"words": {
		{"", text.New("conduct.words.class")},
		{string(words.Workshop), text.New("conduct.words.workshop")},
		{string(words.Laboratory), text.New("conduct.words.laboratory")},
	},
	"aids": {
		{string(AidsClosed), text.New("conduct.aids.closed")},
		{string(AidsOpen), text.New("conduct.aids.open")},
	},
	"figures": {
		{string(FiguresDrawn), text.New("conduct.figures.drawn")},
		{string(FiguresPixels), text.New("conduct.figures.pixels")},
	},
	"release": {{string(ReleaseAtEnd), text.New("conduct.release.atend")},
		{string(ReleaseHand), text.New("conduct.release.hand")}},
}

func (c Delivery) check(bad *refusal.Refusal) {
	for field, value := range map[string]string{"mode": string(c.Mode), "help": string(c.Help),
		"counts": string(c.Counts), "words": string(c.Words), "release": string(c.Release), "aids": string(c.Aids),
		"figures": string(c.Figures)} {
		known := field == "help" && value == string(HelpAsBefore)
		for _, choice := range ConductChoices[field] {
			known = known || choice.Value == value
		}
		if !known {
			bad.Add(field, "conduct.check", "value", value)
		}
	}
	if len([]rune(c.Task)) > MaxTask {
		bad.Add("task", "conduct.most-characters-these", "max_task", MaxTask, "x", len([]rune(c.Task)))
	}
	if c.Undo && c.Mode == Test {
		bad.Add("undo", "conduct.practice-nothing-checked-test")
	}
	if c.Attempts < 0 || c.Attempts > MaxAttempts {
		bad.Add("attempts", "conduct.from-1", "max_attempts", MaxAttempts)
	}
	if c.Minutes < 0 || c.Minutes > MaxMinutes {
		bad.Add("minutes", "conduct.from-1-left-empty", "max_minutes", MaxMinutes)
	}
}

// Tries returns the number of attempts that the sheet allows.
func (c Delivery) Tries() int { return max(1, c.Attempts) }

// HintSteps returns the hints of a card that the sheet offers.
func (c Delivery) HintSteps(all []Hint) []Hint {
	most := map[Help]int{HelpNone: 0, HelpWhere: 1, HelpMark: 2}
	n, limited := most[c.Help]
	if c.Mode == Test {
		n, limited = 0, true
	}
	if !limited {
		return all
	}
	var out []Hint
	for _, h := range all {
		if len(out) < n && !h.Worked {
			out = append(out, h)
		}
	}
	return out
}

// Spent reports whether the help that was taken is worth all of a card's marks: its whole working.
func (c Delivery) Spent(taken []Hint) bool {
	for _, h := range taken {
		if h.Worked && c.Help != HelpAsBefore {
			return true
		}
	}
	return false
}

// Earned returns the marks of a card less the cost of the hints taken.
func (s *Sheet) Earned(marks length.Number, taken []Hint) length.Number {
	left := marks.Sub(s.Cost(len(taken)))
	if left.Sign() < 0 || s.Spent(taken) {
		return length.Number{}
	}
	return left
}

// Counting returns the marks that count of those of several attempts, and the index of the attempt that they are shown
// for: -1 where there is none. The last attempt is left out while it is under way, unless it is the only one.
func (c Delivery) Counting(marks []length.Number, underWay bool) (earned length.Number, attempt int) {
	if len(marks) == 0 {
		return earned, -1
	}
	if underWay && len(marks) > 1 {
		marks = marks[:len(marks)-1]
	}
	last := len(marks) - 1
	switch c.Counts {
	case CountsLast:
		return marks[last], last
	case CountsMean:
		for _, m := range marks {
			earned = earned.Add(m)
		}
		return earned.Quo(length.Int(int64(len(marks)))), last
	}
	for i, m := range marks {
		if !m.Less(marks[attempt]) {
			attempt = i
		}
	}
	return marks[attempt], attempt
}

// Ends is when an attempt that began at a time is over: minutes later, with what a student has extra, and no later
// than the sheet closes; zero where it never is. Late work may go on after the closing time.
func (c Delivery) Ends(began, closes time.Time, extra int) time.Time {
	var end time.Time
	if c.Minutes > 0 {
		end = began.Add(time.Duration(c.Minutes+extra) * time.Minute)
	}
	if closes.IsZero() || c.Late {
		return end
	}
	if by := closes.Add(time.Duration(extra) * time.Minute); end.IsZero() || by.Before(end) {
		return by
	}
	return end
}
