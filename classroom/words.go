package classroom

import (
	"context"
	"encoding/json"

	"cavix/core/exercise"
	"cavix/core/words"
)

// Words reads the words of a class as they are stored.
func Words(says string) (set words.Set, err error) {
	if says == "" {
		return set, nil
	}
	return set, json.Unmarshal([]byte(says), &set)
}

// StudentSchool is how the class of a student settles what teachers settle differently.
func (r *Room) StudentSchool(ctx context.Context, student int64) (m exercise.Method, err error) {
	says, err := r.read(ctx).StudentMethod(student)
	if err != nil {
		return m, err
	}
	return m, json.Unmarshal([]byte(says), &m)
}

// In are the words of a sheet's cards in a class.
func In(class words.Set, sheet words.Base) words.Set {
	if sheet == "" {
		return class
	}
	return words.Set{Base: sheet, Language: class.Language}
}
