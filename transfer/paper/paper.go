// Package paper sets sheets of cards as pages to be printed: the figures true in their lines, each with a magnified inset,
// boxes in the order of the work, and apart from them a key that says what each known slip would have given.
package paper

import (
	"io"

	"cavix/core/exercise"
	"cavix/core/words"
)

// Sheet is what is printed.
type Sheet struct {
	Title    string
	Class    string
	Task     []string  // what is said above the cards, by paragraphs
	Words    words.Set // that cards speak
	Versions []Version
}

// Version is a sheet with values of its own.
type Version struct {
	Number int    // stands on each of its pages, so that what is written on them can be typed back
	For    string // whose it is: a student or a group; "" for anybody
	Items  []exercise.Item
}

// Write sets the versions one after another, each from a page of its own. After each it tells progress how many are set;
// an error of progress ends the work.
func (s Sheet) Write(to io.Writer, progress func(done int) error) error {
	return s.set(to, progress, func(d *document, v Version) error {
		pieces := d.opening(s, v)
		for i, it := range v.Items {
			card, err := d.card(i+1, v.Number, it)
			if err != nil {
				return err
			}
			pieces = append(pieces, card)
		}
		d.flow(pieces)
		return nil
	})
}

// WriteKey sets what is right in the boxes of each version, and what each known slip would have put there.
func (s Sheet) WriteKey(to io.Writer, progress func(done int) error) error {
	return s.set(to, progress, func(d *document, v Version) error {
		d.key = true
		pieces := d.opening(s, v)
		for i, it := range v.Items {
			card, err := d.keyOf(i+1, it)
			if err != nil {
				return err
			}
			pieces = append(pieces, card)
		}
		d.flow(pieces)
		return nil
	})
}

// set sets each version by a way to do that.
func (s Sheet) set(to io.Writer, progress func(done int) error, one func(*document, Version) error) error {
	d := newDocument(s)
	for i, v := range s.Versions {
		d.version = v
		if err := one(d, v); err != nil {
			return err
		}
		if err := progress(i + 1); err != nil {
			return err
		}
	}
	return d.Output(to)
}
