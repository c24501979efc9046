package ledgers

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/store"
)

// Answered is one field of a card that was answered, as tables of answers have it.
type Answered struct {
	Class, Sheet string // its title; "" of practice
	Block, Card  int    // from 1; a block of 0 is not known
	Attempt      int
	Kind, Family string
	Instrument   string // its name, and its least count as written; "" where there is none, or Item tells
	LeastCount   string
	Item         string // the item document of a card that was dealt before its instrument was noted; else ""
	Student      string
	Team         string
	Field        string
	Given        string
	Expected     string
	Outcome      string
	Half, Of     int64 // twice the marks
	Slip         string
	Hints        int
	Seconds      int // from first sight to the answer; 0 where that is not known
	Answered     time.Time
	Late         bool
	Number       string // the school's own, of the student
}

const answersFrom = ` FROM cards k JOIN students s ON s.id = k.student JOIN classes c ON c.id = s.class
	LEFT JOIN assignments a ON a.id = k.assignment `

// listAnswersOn reads the answers on some cards.
func listAnswersOn(ctx context.Context, q store.Queryer, ids []int64) ([]Answered, error) {
	list, err := store.JSON(ids)
	if err != nil {
		return nil, err
	}
	out := make([]Answered, 0, 5*len(ids))
	_, err = store.All(ctx, q, func(r store.Row) (none struct{}, err error) {
		var o Answered
		var at int64
		var result store.Packed
		if err := r.Scan(&o.Class, &o.Sheet, &o.Block, &o.Card, &o.Attempt, &o.Kind, &o.Family, &o.Instrument,
			&o.LeastCount, &o.Item, &o.Student, &o.Team, &o.Hints, &o.Seconds, &at, &o.Late, &o.Number,
			&result); err != nil {
			return none, err
		}
		o.Answered = time.Unix(at, 0).UTC()
		var fields []exercise.Mark
		if err := json.Unmarshal([]byte(result.Text), &fields); err != nil {
			return none, fmt.Errorf("what card %d of %s came to cannot be read: %w", o.Card, o.Student, err)
		}
		for _, f := range fields {
			o.Field, o.Given, o.Expected, o.Outcome = f.Field, f.Given, f.Expected, string(f.Outcome)
			o.Half, o.Of, o.Slip = length.ToHalves(f.Marks), length.ToHalves(f.Of), ""
			if len(f.Slips) > 0 {
				o.Slip = string(f.Slips[0])
			}
			out = append(out, o)
		}
		return none, nil
	}, store.Named("ledgers.listAnswersOn", `SELECT c.name, coalesce(a.title, ''), k.block, k.n, k.attempt, k.kind,
		k.family, k.instrument, k.least_count, iif(k.instrument = '' AND k.family <> '', unpacked(k.item), ''), s.name,
		s.team, k.hints, coalesce(k.answered - k.seen, 0), k.answered, k.late, s.number, k.result
		FROM json_each(?) j JOIN cards k ON k.id = j.value JOIN students s ON s.id = k.student
		JOIN classes c ON c.id = s.class LEFT JOIN assignments a ON a.id = k.assignment
		WHERE k.result IS NOT NULL ORDER BY j.key`), list)
	return out, err
}

// listAnswered lists the cards of a condition that are answered, in its order.
func listAnswered(ctx context.Context, q store.Queryer, whose string, args []any) ([]int64, error) {
	return store.All(ctx, q, func(r store.Row) (id int64, err error) { return id, r.Scan(&id) },
		store.Named("ledgers.listAnswered", "SELECT k.id"+answersFrom+"WHERE k.answered IS NOT NULL AND "+whose),
		args...)
}
