package hub

import (
	"sync"
)

// Hub tells those who listen that something has happened in a class. It holds no state: whoever is told looks into the
// database, so that after a restart of the server everything is found as it was.
type Hub struct {
	mu        sync.Mutex
	listeners map[Topic]map[chan struct{}]bool
	closed    chan struct{}
}

// Topic is a subject that an open page listens to.
type Topic struct {
	Class int64
	What  What
}

// What is a kind of event.
type What int

// The kinds of news.
const (
	RoundNews  What = iota // a round was opened, closed or uncovered: for students
	AnswerNews             // or somebody has answered one: for the Board
	SheetNews              // somebody has answered a card of a sheet: for those who watch
	PrintNews              // a version more is set as PDF: for the instructor whose number stands in place of a class
	GaugeNews              // a gauge has sent: for those who look at the comparison whose number stands there
)

// NewHub returns a hub that nobody listens to.
func NewHub() *Hub {
	return &Hub{listeners: map[Topic]map[chan struct{}]bool{}, closed: make(chan struct{})}
}

// Listen has news arrive on the channel until stop is called. Several in a row may arrive as one.
func (h *Hub) Listen(t Topic) (news <-chan struct{}, stop func()) {
	c := make(chan struct{}, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.listeners[t] == nil {
		h.listeners[t] = map[chan struct{}]bool{}
	}
	h.listeners[t][c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		if delete(h.listeners[t], c); len(h.listeners[t]) == 0 {
			delete(h.listeners, t)
		}
	}
}

// Tell tells all who listen to any of the topics. Nobody is waited for.
func (h *Hub) Tell(topics ...Topic) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, t := range topics {
		for c := range h.listeners[t] {
			select {
			case c <- struct{}{}:
			default: // news are there already
			}
		}
	}
}

// Close lets all who listen go home.
func (h *Hub) Close() {
	h.mu.Lock()
	defer h.mu.Unlock()
	select {
	case <-h.closed:
	default:
		close(h.closed)
	}
}

// Closed is closed once the hub is.
func (h *Hub) Closed() <-chan struct{} { return h.closed }
