// Package words knows what a class calls things: the words of a workshop, those of a school laboratory, or its own for
// some terms of the trade. The ready words stand in the catalogues.
package words

import "cavix/core/text"

// Base names a set of words that is ready made.
type Base string

// The ready sets. The zero value of Base is the workshop's.
const (
	Workshop   Base = "workshop"
	Laboratory Base = "laboratory"
)

// Bases lists the sets that a class may choose, the default first.
var Bases = []Base{Workshop, Laboratory}

// Set is the words of a class: a ready set, and its own words for some terms, in a language. The zero value is the
// workshop's words in the language of each reader.
type Set struct {
	Base     Base                 `json:"base,omitempty"`
	Own      map[text.Term]string `json:"own,omitempty"`
	Language string               `json:"language,omitempty"` // as "de"; "" is each reader's own
}

// Words returns the set as printers take it.
func (s Set) Words() text.Words { return text.Words{Base: string(s.Base), Own: s.Own} }
