package names

import (
	"slices"
	"sync"

	"golang.org/x/text/collate"
	"golang.org/x/text/language"
)

// collators are used by one at a time.
var collators = sync.Pool{New: func() any { return collate.New(language.Und, collate.IgnoreCase, collate.Numeric) }}

// Compare orders names as people look them up: by letters, of whatever case, one with a mark beside the one without it;
// and numbers in them by their size, so that "Caliper 2" stands before "Caliper 10". It is negative, zero or positive
// as a stands before b, beside it or after it.
func Compare(a, b string) int {
	c := collators.Get().(*collate.Collator)
	defer collators.Put(c)
	return c.CompareString(a, b)
}

// spelledApart are the languages whose letters stand in another order than the common one: Spanish has ñ after n.
var spelledApart = map[string]bool{"es": true}

// Arrange brings a list that stands in the order of Compare into the order of a reader's language.
func Arrange[T any](list []T, reader language.Tag, name func(T) string) {
	if base, _ := reader.Base(); spelledApart[base.String()] {
		compare := CompareIn(reader)
		slices.SortStableFunc(list, func(a, b T) int { return compare(name(a), name(b)) })
	}
}

// CompareIn returns Compare as a reader's language has it. What is returned is for one at a time.
func CompareIn(reader language.Tag) func(a, b string) int {
	if base, _ := reader.Base(); !spelledApart[base.String()] {
		return Compare
	}
	return collate.New(reader, collate.IgnoreCase, collate.Numeric).CompareString
}
