package paper

import (
	"fmt"
	"strings"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/text"
)

// keyOf says what is right on a card, and what each known slip would have put in a box instead.
func (d *document) keyOf(n int, it exercise.Item) (piece, error) {
	empty, err := it.Mark(nil)
	if err != nil {
		return piece{}, err
	}
	slips, err := it.Predictions()
	if err != nil {
		return piece{}, err
	}
	parts := []piece{d.heading(n, d.row(it.Facts().About))}
	for _, f := range it.Fields() {
		right := empty.Field(f.Name).Expected
		parts = append(parts, d.keyLine(f, d.rightly(it, f, right), d.wrongly(f, right, slips)))
	}
	return stack(parts), nil
}

// rightly returns the right entry of a field, as it is written; of what is moved, the reading that it then shows.
func (d *document) rightly(it exercise.Item, f exercise.Field, expected string) string {
	if f.Input == exercise.Position {
		if at, ok := Shown(it, f, expected); ok {
			return d.say.Math(text.Math(at))
		}
	}
	for i, o := range f.Options {
		if o == expected && i < len(f.Words) {
			return d.said(f.Words[i])
		}
	}
	return d.say.Math(text.Math(expected))
}

// wrongly says what slips put in a field, the same value once.
func (d *document) wrongly(f exercise.Field, right string, slips []exercise.Prediction) []string {
	var values, out []string
	names := map[string][]text.Text{}
	for _, p := range slips {
		if p.Field != f.Name || f.Input == exercise.Position || p.Part == exercise.Anywhere {
			continue
		}
		value := written(f, p.Value)
		if value == right {
			continue
		}
		if names[value] == nil {
			values = append(values, value)
		}
		names[value] = append(names[value], p.Code.Short())
	}
	for _, v := range values {
		out = append(out, d.say.Say("paper.wrong", "value", text.Math(v), "slips", text.Or(names[v]...)))
	}
	return out
}

// written is a value as it stands in a field: of a choice, the option that is as large.
func written(f exercise.Field, x length.Number) string {
	for _, o := range f.Options {
		if t, err := f.Unit.Read(o); err == nil && t.Value.Equal(x) {
			return o
		}
	}
	return f.Write(x)
}

// keyLine is one box of a key.
func (d *document) keyLine(f exercise.Field, right string, wrong []string) piece {
	if f.Unit != "" && f.Words == nil {
		right = f.Unit.With(right)
	}
	label := d.text(left+9*mm, 30*mm, plain, 9, steelOf, d.said(f.Label))
	value := d.text(left+41*mm, 32*mm, bold, 10, inkOf, right)
	slips := d.text(left+76*mm, across-76*mm, plain, 8.5, steelOf, strings.Join(wrong, "   ·   "))
	one := abreast([]piece{label, value, slips})
	one.high = max(one.high, 12) + 1.4*mm
	return one
}

// Shown returns what a figure shows once it was moved as far as a field says, as it is written on paper; ok is false
// where the field moves nothing.
func Shown(it exercise.Item, f exercise.Field, moved string) (shown string, ok bool) {
	for _, fig := range it.Figures() {
		if fig.Name != f.Figure {
			continue
		}
		var by int
		if _, err := fmt.Sscanf(strings.ReplaceAll(moved, "−", "-"), "%d", &by); err != nil {
			return "", false
		}
		at, _ := fig.Moved(by)
		in := fig.Instrument
		if fig.Upright != nil {
			in, _ = in.Second()
		}
		return in.Format(at), true
	}
	return "", false
}

// Moves returns how far a figure has to be moved so that it shows what was written on paper: the other way round than
// Shown.
func Moves(it exercise.Item, f exercise.Field, shown length.Number) (int, bool) {
	for _, fig := range it.Figures() {
		if fig.Name == f.Figure {
			return fig.MovesTo(shown)
		}
	}
	return 0, false
}
