package web

import (
	"net/http"
	"runtime"
	"sync"
	"time"
)

// paces are how many pages are asked for at a time, until they are made: when a whole school looks at once, those who
// wait take no memory. It is no lock: who has waited for long enough goes on all the same.
type paces chan struct{}

// patience is how long somebody waits for a place at the most.
const patience = time.Second

func newPaces() paces { return make(paces, 8*runtime.GOMAXPROCS(0)) }

// paced has pages made in turn. What is sent in a form goes ahead: it waits for the disk, together with others.
func (p paces) paced(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.Method != http.MethodGet {
			next.ServeHTTP(w, r)
			return
		}
		wait := time.NewTimer(patience)
		defer wait.Stop()
		select {
		case p <- struct{}{}:
			placed := &placed{ResponseWriter: w, leave: sync.OnceFunc(func() { <-p })}
			defer placed.leave()
			next.ServeHTTP(placed, r)
		case <-wait.C:
			next.ServeHTTP(w, r)
		case <-r.Context().Done():
		}
	})
}

// placed gives its place up with the first word of the answer: by then the page is made, however slowly it is read.
type placed struct {
	http.ResponseWriter
	leave func()
}

func (p *placed) WriteHeader(status int) {
	p.leave()
	p.ResponseWriter.WriteHeader(status)
}

func (p *placed) Write(b []byte) (int, error) {
	p.leave()
	return p.ResponseWriter.Write(b)
}

// Unwrap lets controllers of the answer find what is underneath.
func (p *placed) Unwrap() http.ResponseWriter { return p.ResponseWriter }
