package author

import (
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"sync"

	"cavix/core/exercise"
	"cavix/core/kinds"
)

// dealtSheet is what a sheet deals with one seed, and the slips that can happen on its cards.
type dealtSheet struct {
	cards    []exercise.Dealt
	items    []exercise.Item
	possible map[exercise.Code]bool // nil for a sheet of many cards
}

// dealCache holds the sheets that were dealt last: while a title or a note is typed, every letter asks for the same
// cards. The zero value is empty.
type dealCache struct {
	mu   sync.Mutex
	last []dealEntry // the one used last at the end
}

type dealEntry struct {
	key   [sha256.Size]byte
	sheet *dealtSheet
}

// maxDealt is the number of sheets in a cache; a card takes some kilobytes.
const maxDealt = 12

// deal returns what a sheet deals with a seed. The result is shared and must not be changed.
func (d *dealCache) deal(s exercise.Sheet, seed uint64) (*dealtSheet, error) {
	says, err := json.Marshal(s)
	if err != nil {
		return nil, err
	}
	key := sha256.Sum256(fmt.Appendf(says, " %d", seed))
	if found := d.find(key); found != nil {
		return found, nil
	}
	out := &dealtSheet{}
	if out.cards, err = s.DealBlocks(kinds.All, seed); err != nil {
		return nil, err
	}
	for _, one := range out.cards {
		out.items = append(out.items, one.Item)
	}
	if len(out.items) <= many {
		if out.possible, err = s.Possible(kinds.All, students); err != nil {
			return nil, err
		}
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	d.last = append(d.last[max(0, len(d.last)+1-maxDealt):], dealEntry{key, out})
	return out, nil
}

func (d *dealCache) find(key [sha256.Size]byte) *dealtSheet {
	d.mu.Lock()
	defer d.mu.Unlock()
	at := slices.IndexFunc(d.last, func(e dealEntry) bool { return e.key == key })
	if at < 0 {
		return nil
	}
	found := d.last[at]
	d.last = append(slices.Delete(d.last, at, at+1), found)
	return found.sheet
}
