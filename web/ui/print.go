package ui

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"runtime"
	"strings"
	"sync"

	"github.com/klauspost/compress/gzip"
)

// presses is the number of pages that are set at a time: more would not be ready sooner, and each takes half a megabyte
// while it is made and compressed. Who waits for a write or reads slowly holds none.
type presses chan struct{}

func newPresses() presses { return make(presses, 2*runtime.GOMAXPROCS(0)) }

// use makes something when there is a press for it.
func (p presses) use(ctx context.Context, make func() error) error {
	select {
	case p <- struct{}{}:
		defer func() { <-p }()
		return make()
	case <-ctx.Done():
		return ctx.Err()
	}
}

// zippers are compressors that have been used before: a new one takes a megabyte.
var zippers = sync.Pool{New: func() any {
	z, err := gzip.NewWriterLevel(io.Discard, 5)
	if err != nil {
		panic(err) // the level is one of gzip's
	}
	return z
}}

// leastZipped is the size from which on compressing saves anything worth its time.
const leastZipped = 1 << 10

func (s *Site) print(w http.ResponseWriter, r *http.Request, status int, page, part string, view any) error {
	p, ok := s.pages[page]
	if !ok {
		return fmt.Errorf("no page %q", page)
	}
	var made bytes.Buffer
	zipped := false
	err := s.presses.use(r.Context(), func() error {
		c, err := p.take(s, Said(r))
		if err != nil {
			return err
		}
		if err := c.template.ExecuteTemplate(&made, part, view); err != nil {
			return err // the copy is not used again: it may have stopped half-way
		}
		p.copies.Put(c)
		if zipped = made.Len() >= leastZipped && takesGzip(r); !zipped {
			return nil
		}
		z := zippers.Get().(*gzip.Writer)
		defer zippers.Put(z)
		var packed bytes.Buffer
		z.Reset(&packed)
		if _, err := made.WriteTo(z); err != nil {
			return err
		}
		err = z.Close()
		made = packed
		return err
	})
	if err != nil {
		return err
	}
	h := w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Add("Vary", "Accept-Encoding, Accept-Language")
	if zipped {
		h.Set("Content-Encoding", "gzip")
	}
	w.WriteHeader(status)
	_, err = w.Write(made.Bytes())
	return err
}

// takesGzip reports whether a browser takes compressed pages.
func takesGzip(r *http.Request) bool {
	for one := range strings.SplitSeq(r.Header.Get("Accept-Encoding"), ",") {
		name, q, _ := strings.Cut(strings.TrimSpace(one), ";")
		if name == "gzip" {
			return strings.ReplaceAll(q, " ", "") != "q=0"
		}
	}
	return false
}
