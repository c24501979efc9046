package classroom

import (
	"context"
	"encoding/json"

	"cavix/core/exercise"
	"cavix/core/words"
	"cavix/store"
)

// Words reads the words of a class as they are stored.
func Words(text string) (set words.Set, err error) {
	if text == "" {
		return set, nil
	}
	return set, json.Unmarshal([]byte(text), &set)
}

// SetWords settles the words that the students of one of an instructor's classes see, on the cards they had before too.
// A set that cannot be spoken is a refusal.Refusal.
func (r *Room) SetWords(ctx context.Context, owner, class int64, set words.Set) error {
	if err := set.Check(); err != nil {
		return err
	}
	text, err := toJSON(set)
	if err != nil {
		return err
	}
	return r.inClass(ctx, owner, class, store.Leads, func(tx *store.Tx) error { return tx.SetWords(owner, class, text) })
}

// SetPracticeSeen settles what the instructors of a class see of what its students practise; store.ErrNotFound for what there
// is not.
func (r *Room) SetPracticeSeen(ctx context.Context, owner, class int64, seen store.Sight) error {
	if seen < store.SeesNothing || seen > store.SeesEach {
		return store.ErrNotFound
	}
	return r.inClass(ctx, owner, class, store.Leads, func(tx *store.Tx) error { return tx.SetPracticeSeen(owner, class, seen) })
}

// StudentSchool is how the class of a student settles what teachers settle differently.
func (r *Room) StudentSchool(ctx context.Context, student int64) (m exercise.Method, err error) {
	text, err := r.read(ctx).StudentMethod(student)
	if err != nil {
		return m, err
	}
	return m, json.Unmarshal([]byte(text), &m)
}

// In are the words of a sheet's cards in a class.
func In(class words.Set, sheet words.Base) words.Set {
	if sheet == "" {
		return class
	}
	return words.Set{Base: sheet}
}
