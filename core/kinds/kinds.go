// Package kinds holds the kinds of exercise, one file each, and lists them; of the longest ones the marking
// stands in a _mark file and the facts, the working and the hints in a _work file. Each marks by the same
// outcomes and names slips by the same rules; what is the same for several stands in dealing.go and words.go.
package kinds

import (
	"sync"

	"cavix/core/exercise"
)

// All lists the kinds in the order in which they are offered. Documents of version 1 are of the first.
var All = exercise.Kinds{read{}, leastCount{}, set{}, choose{}, decide{}, repeat{}, gauge{}, pick{}, convert{},
	gear{}, difference{}, care{}}

// Open reads an item that was stored.
func Open(data []byte) (exercise.Item, error) { return All.Open(data) }

// Parse reads an item document from outside.
func Parse(data []byte) (exercise.Item, error) { return All.Parse(data) }

// Slips lists the slips of all kinds, each once, in the order in which they are named.
var Slips = sync.OnceValue(func() []exercise.Slip {
	var out []exercise.Slip
	known := map[exercise.Code]bool{}
	for _, k := range All {
		for _, s := range k.Slips() {
			if !known[s.Code] {
				known[s.Code] = true
				out = append(out, s)
			}
		}
	}
	return out
})

// coverer remembers what cards can tell.
var coverer exercise.Coverer

// Cover finds out what cards can tell of all slips: see exercise.Coverer.
func Cover(items []exercise.Item, possible map[exercise.Code]bool) (exercise.Coverage, error) {
	return coverer.Cover(items, Slips(), possible)
}

var codes = sync.OnceValue(func() map[exercise.Code]bool {
	out := map[exercise.Code]bool{}
	for _, s := range Slips() {
		out[s.Code] = true
	}
	return out
})

// Known reports whether a code is that of a slip, or of a pair of slips.
func Known(c exercise.Code) bool {
	for _, single := range c.Singles() {
		if !codes()[single] {
			return false
		}
	}
	return true
}
