package roster

import (
	"context"
	"encoding/json"
	"time"

	"cavix/core/exercise"
	"cavix/core/words"
)

// Clock is the clock of a class: the zone of that name, or the server's where it has none.
func Clock(zone string) *time.Location {
	if zone == "" {
		return time.Local
	}
	place, err := time.LoadLocation(zone)
	if err != nil {
		return time.Local
	}
	return place
}

// Words reads the words of a class as they are stored.
func Words(says string) (set words.Set, err error) {
	if says == "" {
		return set, nil
	}
	return set, json.Unmarshal([]byte(says), &set)
}

// StudentSchool returns the reading conventions of a student's class.
func (svc *Service) StudentSchool(ctx context.Context, student int64) (m exercise.Method, err error) {
	says, err := studentMethod(ctx, svc.store, student)
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
