// Package paper sets sheets of cards as pages to be printed: the figures true in their lines, each with a magnified
// inset, boxes in the order of the work, and apart from them a key that says what each known slip would have given.
package paper

import (
	"bytes"
	"fmt"
	"io"
	"runtime"
	"slices"
	"strconv"
	"strings"

	"cavix/core/exercise"
	"cavix/core/text"
)

// Sheet is the content of a printed sheet.
type Sheet struct {
	Title    string
	Class    string
	Task     []string      // what is said above the cards, by paragraphs
	Said     *text.Printer // that cards speak
	Size     Size          // of the pages; "" is A4
	Dense    bool          // as many cards on a page as fit, up to four
	Versions []Version
}

// Version is a sheet with values of its own.
type Version struct {
	Number int    // stands on each of its pages, so that what is written on them can be typed back
	For    string // whose it is: a student or a group; "" for anybody
	Items  []exercise.Item
}

// Write sets the versions one after another, each from a page of its own. After each it tells progress how many are
// set; an error of progress ends the work.
func (s Sheet) Write(to io.Writer, progress func(done int) error) error {
	return s.set(to, progress, func(d *document, v Version) error {
		pieces, err := d.cards(s, v)
		if err != nil {
			return err
		}
		d.flow(pieces)
		return nil
	})
}

// cards are the opening of a version and its cards.
func (d *document) cards(s Sheet, v Version) ([]piece, error) {
	pieces := d.opening(s, v)
	for i, it := range v.Items {
		card, err := d.card(i+1, v.Number, it)
		if err != nil {
			return nil, err
		}
		pieces = append(pieces, card)
	}
	return pieces, nil
}

// Label is the version as it stands on the pages: its number where it is somebody's own, else a letter: A, B … Z, AA.
func (v Version) Label() string {
	if v.For != "" {
		return fmt.Sprint(v.Number)
	}
	return Letters(v.Number)
}

// Letters writes a number from 1 as letters: A, B … Z, AA, AB.
func Letters(n int) string {
	says := ""
	for ; n > 0; n = (n - 1) / 26 {
		says = string(rune('A'+(n-1)%26)) + says
	}
	return says
}

// ReadLabel reads the number of a version from what stands on its pages: "3", "C" or "c".
func ReadLabel(says string) (n int, ok bool) {
	says = strings.ToUpper(strings.TrimSpace(says))
	if n, err := strconv.Atoi(says); err == nil {
		return n, n > 0
	}
	for _, r := range says {
		if r < 'A' || r > 'Z' || n > 10_000 {
			return 0, false
		}
		n = 26*n + int(r-'A') + 1
	}
	return n, n > 0
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

// together is the number of versions that are set as one document: such parts are made side by side, on all processors,
// and joined as they are ready, so that a sheet for hundreds takes no more memory than one for some.
const together = 8

// set sets each version by a way to do that.
func (s Sheet) set(to io.Writer, progress func(done int) error, one func(*document, Version) error) error {
	if len(s.Versions) <= together {
		return s.part(to, s.Versions, progress, one)
	}
	type made struct {
		doc []byte
		err error
	}
	parts := slices.Collect(slices.Chunk(s.Versions, together))
	ready := make([]chan made, len(parts))
	for i := range ready {
		ready[i] = make(chan made, 1)
	}
	stop := make(chan struct{})
	defer close(stop)
	room := make(chan struct{}, runtime.GOMAXPROCS(0)) // one for each part that is made or waits to be joined
	go func() {
		for i, versions := range parts {
			select {
			case room <- struct{}{}:
			case <-stop:
				return
			}
			go func() {
				var doc bytes.Buffer
				err := s.part(&doc, versions, func(int) error { return nil }, one)
				ready[i] <- made{doc.Bytes(), err}
			}()
		}
	}()
	j, done := joiner{to: to}, 0
	for i, versions := range parts {
		m := <-ready[i]
		if m.err != nil {
			return m.err
		}
		if err := j.add(m.doc); err != nil {
			return err
		}
		<-room
		done += len(versions)
		if err := progress(done); err != nil {
			return err
		}
	}
	return j.end()
}

// part sets some versions as a document of their own.
func (s Sheet) part(to io.Writer, versions []Version, progress func(done int) error,
	one func(*document, Version) error) error {
	d := newDocument(s)
	for i, v := range versions {
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
