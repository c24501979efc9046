package paper

import (
	"strings"

	"cavix/core/exercise"
	"cavix/core/text"
)

// Measures of boxes.
const (
	boxHigh = 8 * mm
	boxWide = 21 * mm
	boxLong = 42 * mm
	sum     = 13.5 * mm // of a line of boxes with their names
)

// run is a line of boxes while it is laid out: it goes on below where there is no more room.
type run struct {
	*document
	fields map[string]exercise.Field
	x, y   float64 // from the corner of the piece
	plain  bool    // a row of a table under the first, whose boxes have their names already
	draws  []func(x, y float64)
	below  []piece // what stands in lines of its own
}

func (d *document) run(fields map[string]exercise.Field) *run {
	return &run{document: d, fields: fields}
}

// put makes room for something so wide, and remembers how it is drawn.
func (r *run) put(width float64, draw func(x, y float64)) {
	if r.x > 0 && r.x+width > across {
		r.x, r.y = 6*mm, r.y+sum
	}
	x, y := r.x, r.y
	r.draws = append(r.draws, func(x0, y0 float64) { draw(x0+x, y0+y) })
	r.x += width + 2.2*mm
}

// line writes a text in the middle of the line.
func (r *run) line(style string, size float64, s string) {
	r.put(r.wide(style, size, s), func(x, y float64) {
		r.print(x, y+5*mm+boxHigh/2+size*0.34, style, size, inkOf, s)
	})
}

// add lays a term out.
func (r *run) add(t exercise.Term) {
	switch {
	case t.Operator != "":
		r.line(plain, 12, t.Operator)
	case t.Given != "":
		r.line(bold, 11, r.say.Math(t.Given))
	case !t.Word.IsZero():
		r.line(plain, 9, r.said(t.Word))
	case t.Echo != "":
		r.line(plain, 9, r.said(r.fields[t.Echo].Label))
	default:
		r.box(r.fields[t.Box])
	}
}

// box lays out what is put into a field.
func (r *run) box(f exercise.Field) {
	switch f.Input {
	case exercise.Options:
		r.options(f)
	case exercise.Position:
		r.below = append(r.below, r.text(left, across, plain, 9.5, inkOf,
			r.say.Say("paper.draw")))
		r.frame(text.Text{}, f, boxLong)
	case exercise.Order:
		for i, w := range f.Words {
			r.below = append(r.below, r.text(left+4*mm, across-8*mm, plain, 10, inkOf, f.Options[i]+"   "+r.said(w)))
		}
		r.frame(f.Label, f, boxLong)
	default:
		width := boxWide
		if places, finite := f.Grain.Decimals(); f.Input == exercise.Length && (!finite || places > 4) {
			width = boxLong
		}
		label := f.Label
		if r.plain {
			label = text.Text{}
		}
		r.frame(label, f, width)
	}
}

// frame is a box to be written in, with its name over it and its unit behind.
func (r *run) frame(name text.Text, f exercise.Field, width float64) {
	label, unit := r.said(name), f.Sign()
	if f.Form.Unit || f.Input == exercise.Order {
		unit = ""
	}
	tail := 0.0
	if unit != "" {
		tail = r.wide(plain, 9, unit) + 1.2*mm
	}
	width = max(width, r.wide(plain, 7.5, label))
	r.put(width+tail, func(x, y float64) {
		r.print(x, y+3.6*mm, plain, 7.5, steelOf, label)
		r.SetDrawColor(steelOf[0], steelOf[1], steelOf[2])
		r.SetLineWidth(0.6)
		r.Rect(x, y+5*mm, width, boxHigh, "D")
		if unit != "" {
			r.print(x+width+1.2*mm, y+5*mm+boxHigh/2+3, plain, 9, steelOf, unit)
		}
	})
}

// options are to be ticked, each in a line of its own where they are sentences.
func (r *run) options(f exercise.Field) {
	worded := false
	texts := make([]string, len(f.Options))
	for i, o := range f.Options {
		texts[i] = r.said(exercise.OptionText(f, i, o))
		worded = worded || len(texts[i]) > 24
	}
	label := r.said(f.Label)
	if r.plain || len(r.fields) == 1 {
		label = ""
	}
	if worded && label != "" {
		r.below = append(r.below, r.text(left, across, plain, 7.5, steelOf, label))
	}
	for i, s := range texts {
		if worded {
			says := r.text(left+8*mm, across-8*mm, plain, 10, inkOf, s)
			r.below = append(r.below, piece{high: says.high + 1.6*mm, draw: func(y float64) {
				r.tick(left+2*mm, y+0.4*mm)
				says.draw(y)
			}})
			continue
		}
		r.put(6*mm+r.wide(plain, 10, s), func(x, y float64) {
			if i == 0 {
				r.print(x, y+3.6*mm, plain, 7.5, steelOf, label)
			}
			r.tick(x, y+6.6*mm)
			r.print(x+6*mm, y+5*mm+boxHigh/2+3.4, plain, 10, inkOf, s)
		})
	}
}

// tick is a small box for a cross.
func (r *run) tick(x, y float64) {
	r.SetDrawColor(inkOf[0], inkOf[1], inkOf[2])
	r.SetLineWidth(0.6)
	r.Rect(x, y, 3.6*mm, 3.6*mm, "D")
}

// piece returns the part that was laid out, with the head of a row before it.
func (r *run) piece(head text.Text) piece {
	var parts []piece
	if len(r.below) > 0 {
		parts = append(parts, space(1*mm), stack(r.below))
	}
	if len(r.draws) > 0 {
		high := r.y + sum
		if r.plain {
			high -= 3.5 * mm
		}
		parts = append(parts, piece{high: high, draw: func(y float64) {
			if r.plain {
				y -= 3.5 * mm
			}
			if !head.IsZero() {
				r.SetFont("text", plain, 9.5)
				r.print(left, y+5*mm+boxHigh/2+3, plain, 9.5, inkOf, r.fit(strings.TrimSpace(r.said(head)), 32*mm))
			}
			for _, draw := range r.draws {
				draw(left, y)
			}
		}})
	}
	return stack(parts)
}
