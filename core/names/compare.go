package names

import (
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
