// Package kinds holds the kinds of exercise, one file each, and lists them; of the longest ones the marking
// stands in a _mark file and the facts, the working and the hints in a _work file. Each marks by the same
// outcomes and names slips by the same rules; what is the same for several stands in dealing.go and words.go.
package kinds

import (
	"strings"
	"sync"

	"cavix/core/exercise"
)

// All lists the kinds in the order in which they are offered. Documents of version 1 are of the first.
var All = exercise.Kinds{read{}, leastCount{}, set{}, choose{}, decide{}, repeat{}, gauge{}, pick{}, convert{},
	gear{}, care{}}

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

// did holds what somebody did who made each slip.
var did = sync.OnceValue(func() map[exercise.Code]string {
	out := map[exercise.Code]string{}
	for _, s := range Slips() {
		out[s.Code] = s.Did
	}
	return out
})

// Short names a slip, or a pair of slips, in a few words, as a picture has room for.
func Short(c exercise.Code) string {
	var says []string
	for _, single := range c.Singles() {
		short := strings.ReplaceAll(string(single), "-", " ")
		for _, s := range Slips() {
			if s.Code == single && s.Short != "" {
				short = s.Short
			}
		}
		says = append(says, short)
	}
	return strings.Join(says, " + ")
}

// Did says in words what somebody does who makes the slip or pair of slips.
func Did(c exercise.Code) string {
	var says []string
	for _, single := range c.Singles() {
		if s := did()[single]; s != "" {
			says = append(says, s)
		}
	}
	return strings.Join(says, ", and ")
}
