package plot

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strconv"

	"cavix/core/text"
	"cavix/figure"
)

// Answer is one value that was given, by some of those who answered.
type Answer struct {
	Text  string  // as it is written below the rule
	At    float64 // where it stands on the rule, in the unit of the instrument
	Count int     // who gave it
	Right bool
	Label string // what is behind it: "right", a slip in words; "" where nothing is known
	N     int    // its number, from 1, by which a page finds it in the drawing; 0 for none
}

// Size is the size of an answer rule.
type Size struct {
	Width float64 // that it may have
	Text  float64 // height of its numerals
}

// The sizes: on a projected board, and in a table of a page.
var (
	Large = Size{Width: 1220, Text: 24}
	Small = Size{Width: 640, Text: 13}
	Row   = Size{Width: 500, Text: 15}  // a card of a list of cards
	Wide  = Size{Width: 1220, Text: 15} // across a page
)

// near is the largest distance, in smallest gaps, of two answers that stand on one piece of the rule.
const near = 3.5

// AnswerRule draws a class's answers on a rule that is broken where they lie far apart: a column for each answer in
// order of size, a dot for each who gave it where it is right and a triangle where it is wrong, the value below, then
// how many and what is behind it. Grain is the smallest difference that means something, in the same unit. What does
// not fit beside the others is summed up in a last column.
func AnswerRule(say *text.Printer, list []Answer, grain float64, size Size) *figure.Scene {
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(a, b Answer) int { return cmp.Compare(a.At, b.At) })
	step := size.Text * 6.3
	for _, a := range list {
		letters := len([]rune(below(a)))
		step = max(step, labelSize(size)*0.42*float64(letters)+size.Text*0.6)
	}
	list, left := fitting(list, int((size.Width-step*0.2)/step))
	dot, line := size.Text*0.28, size.Text*1.3
	most := 1
	for _, a := range list {
		most = max(most, a.Count)
	}
	across := max(1, int(step*0.8/(dot*2.5)))
	rows := min((most+across-1)/across, 6)
	base := dot*2.6*float64(rows) + dot*2
	s := &figure.Scene{Width: size.Width, Height: base + line*2.9}
	if len(list) == 0 {
		s.Label = say.Say("plot.nobody")
		return s
	}
	r := answerRule{s, size, dot, base, step, across, rows}
	for i, a := range list {
		r.column(i, a)
		broken := i+1 < len(list) && list[i+1].At-a.At > near*grain
		r.piece(i, broken, i+1 == len(list), i > 0 && a.At-list[i-1].At > near*grain)
	}
	s.Label = said(say, list, left)
	if left > 0 {
		s.Items = append(s.Items, figure.Text{Class: "a-more", X: r.x(len(list)) - step*0.42, Y: base + line,
			Size: size.Text * 0.75, Anchor: "start", Fill: steel, S: say.Say("plot.and-more", "n", left)})
	}
	return s
}

// Astray is a slip that was made where everybody had values of their own.
type Astray struct {
	Text  string  // the slip in a few words
	By    float64 // how far it led astray, on the mean
	Count int
}

// SlipRule draws the same where everybody had values of their own: a column is a slip, not a value, in order of how far
// it leads astray; those who were right stand first.
func SlipRule(say *text.Printer, right int, list []Astray, size Size) *figure.Scene {
	list = slices.Clone(list)
	slices.SortStableFunc(list, func(a, b Astray) int { return cmp.Compare(a.By, b.By) })
	var columns []Answer
	if right > 0 {
		columns = append(columns, Answer{Label: say.Say("plot.right"), At: -2, Count: right, Right: true})
	}
	for i, a := range list {
		columns = append(columns, Answer{Label: a.Text, At: float64(i), Count: a.Count})
	}
	return AnswerRule(say, columns, 0.5, size) // the rule is broken behind those who were right
}

// fitting leaves as many columns as there is room for: the right ones and those that most gave; left is how many gave
// what is left out.
func fitting(list []Answer, room int) (fit []Answer, left int) {
	if len(list) <= room {
		return list, 0
	}
	byCount := slices.Clone(list)
	slices.SortStableFunc(byCount, func(a, b Answer) int {
		if a.Right != b.Right {
			if a.Right {
				return -1
			}
			return 1
		}
		return cmp.Compare(b.Count, a.Count)
	})
	kept := byCount[:max(1, room-1)]
	for _, a := range list {
		if slices.ContainsFunc(kept, func(k Answer) bool { return k == a }) {
			fit = append(fit, a)
		} else {
			left += a.Count
		}
	}
	return fit, left
}

// answerRule lays a rule out.
type answerRule struct {
	s            *figure.Scene
	size         Size
	dot, base    float64
	step         float64
	across, rows int
}

func (r answerRule) x(i int) float64 { return r.step*float64(i) + r.step*0.55 }

// piece draws the rule under a column, and the double stroke where it is broken behind it.
func (r answerRule) piece(i int, broken, last, begins bool) {
	from, to := r.x(i)-r.step/2, r.x(i)+r.step/2
	if begins {
		from += r.step * 0.1
	}
	if broken || last {
		to -= r.step * 0.1
	}
	width := r.size.Text / 11
	r.s.Items = append(r.s.Items,
		figure.Line{Class: "axis", X1: from, Y1: r.base, X2: to, Y2: r.base, Stroke: ink, Width: width},
		figure.Line{Class: "axis", X1: r.x(i), Y1: r.base, X2: r.x(i), Y2: r.base + r.dot, Stroke: ink, Width: width})
	if broken {
		for _, off := range []float64{0, r.dot * 0.9} {
			x := to + off
			r.s.Items = append(r.s.Items, figure.Line{Class: "break", X1: x - r.dot*0.5, Y1: r.base - r.dot, X2: x +
				r.dot*0.5, Y2: r.base + r.dot, Stroke: steel, Width: width})
		}
	}
}

// column draws what was given: the stack, the value, how many and why.
// marks draws a dot or a triangle for each who gave an answer, as one path: a page of forty rules has thousands.
func (r answerRule) marks(x float64, a Answer) string {
	shown := min(a.Count, r.across*r.rows)
	b := make([]byte, 0, 40*shown)
	draw := func(command byte, numbers ...float64) {
		b = append(b, command)
		for i, n := range numbers {
			if i > 0 {
				b = append(b, ' ')
			}
			b = strconv.AppendFloat(b, math.Round(n*10)/10, 'f', -1, 64)
		}
	}
	for n := range shown {
		row := n / r.across
		in := min(r.across, shown-row*r.across)
		cx := x + (float64(n%r.across)-float64(in-1)/2)*r.dot*2.5
		cy := r.base - r.dot*1.7 - float64(row)*r.dot*2.6
		if a.Right {
			draw('M', cx-r.dot, cy)
			draw('a', r.dot, r.dot, 0, 1, 0, 2*r.dot, 0)
			draw('a', r.dot, r.dot, 0, 1, 0, -2*r.dot, 0)
		} else {
			d := r.dot * 1.1
			draw('M', cx, cy-d)
			draw('L', cx-d, cy+d*0.8)
			draw('L', cx+d, cy+d*0.8)
		}
		b = append(b, 'Z')
	}
	return string(b)
}

func (r answerRule) column(i int, a Answer) {
	x, class, colour := r.x(i), "wrong", madder
	if a.Right {
		class, colour = "right", verdigris
	}
	if a.N > 0 {
		class += fmt.Sprintf(" n%d", a.N)
	}
	r.s.Items = append(r.s.Items, figure.Group{Class: "answer " + class, Paint: figure.Paint{Fill: colour},
		Items: []figure.Item{figure.Path{D: r.marks(x, a)}}})
	at := r.base + r.size.Text*1.35
	if a.Text != "" {
		r.s.Items = append(r.s.Items,
			figure.Text{Class: "a-value " + class, X: x, Y: at, Size: r.size.Text, Anchor: "middle", Fill: ink,
				S: a.Text})
		at += r.size.Text
	}
	r.s.Items = append(r.s.Items,
		figure.Text{Class: "a-why " + class, X: x, Y: at, Size: labelSize(r.size), Anchor: "middle", Fill: colour,
			S: below(a)})
}

// below returns the lines under an answer: how many gave it, and what explains it.
func below(a Answer) string {
	if a.Label == "" {
		return fmt.Sprint(a.Count)
	}
	return fmt.Sprintf("%d · %s", a.Count, a.Label)
}

func labelSize(s Size) float64 { return math.Max(s.Text*0.75, 11.5) }

// said is an answer rule in words.
func said(say *text.Printer, list []Answer, left int) string {
	var says []text.Text
	for _, a := range list {
		switch {
		case a.Text == "":
			says = append(says, text.New("plot.count-label", "n", a.Count, "label", a.Label))
		case a.Label == "":
			says = append(says, text.New("plot.wrote", "n", a.Count, "value", text.Math(a.Text)))
		default:
			says = append(says, text.New("plot.wrote-label", "n", a.Count, "value", text.Math(a.Text), "label",
				a.Label))
		}
	}
	if left > 0 {
		says = append(says, text.New("plot.wrote-else", "n", left))
	}
	return say.Say("plot.answers", "list", text.Steps(says...))
}
