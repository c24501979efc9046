package sitting

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"cavix/school/access"
	"cavix/store"
)

// AttemptRow is an attempt with what its cards came to.
type AttemptRow struct {
	Student       int64
	Attempt       int
	Began, Handed time.Time // Handed is zero until then
	Cards         []CardState
}

// CardState is a card of an attempt without its item.
type CardState struct {
	Mark
	Seen, Answered time.Time // zero where it is not known, and until it is answered
	Led            *float64  // how far the slip led from what is right, in the instrument's unit; nil if unknown
}

// ListAttempts lists all attempts at a sheet of an instructor's, by student and attempt, each with its cards by number.
func ListAttempts(ctx context.Context, q store.Queryer, owner, assignment int64) ([]AttemptRow, error) {
	return store.All(ctx, q, func(r store.Row) (a AttemptRow, err error) {
		var began int64
		var handed *int64
		var marks string
		if err := r.Scan(&a.Student, &a.Attempt, &began, &handed, &marks); err != nil {
			return a, err
		}
		a.Began, a.Handed = time.Unix(began, 0), store.TimeOf(handed)
		if a.Cards, err = readMarks(marks, a.Began); err != nil {
			return a, fmt.Errorf("sheet %d, student %d, attempt %d: %w", assignment, a.Student, a.Attempt, err)
		}
		for i := range a.Cards {
			a.Cards[i].Student, a.Cards[i].Assignment, a.Cards[i].Attempt = a.Student, assignment, a.Attempt
		}
		return a, nil
	}, store.Named("sitting.ListAttempts",
		`SELECT t.student, t.attempt, t.began, t.handed, coalesce(json(m.cards), '') FROM sittings t
		JOIN assignments a ON a.id = t.assignment JOIN classes c ON c.id = a.class LEFT JOIN marks m
		ON m.assignment = t.assignment AND m.student = t.student AND m.attempt = t.attempt
		WHERE `+access.Taught+` AND a.id = ? ORDER BY t.student, t.attempt`),
		owner, assignment)
}

// readMarks reads what the cards of an attempt came to, as the triggers of migration 30 write it: an object of lists of
// plain numbers and words.
func readMarks(says string, began time.Time) ([]CardState, error) {
	says = strings.Trim(says, "{}]")
	if says == "" {
		return nil, nil
	}
	out := make([]CardState, 0, strings.Count(says, "[")) // a card each
	for says != "" {
		name, rest, _ := strings.Cut(says, ":[")
		fields, next, _ := strings.Cut(rest, "],")
		says = next
		n, err := strconv.Atoi(strings.Trim(name, `"`))
		if err != nil {
			return nil, fmt.Errorf("its marks cannot be read: %w", err)
		}
		out = append(out, CardState{Mark: Mark{N: n}})
		c := &out[len(out)-1]
		for i, more := 0, true; more; i++ {
			var field string
			if field, fields, more = strings.Cut(fields, ","); field == "null" {
				continue
			}
			if err := c.take(i, field, began); err != nil {
				return nil, fmt.Errorf("the marks of card %d cannot be read: %w", n, err)
			}
		}
	}
	if !slices.IsSortedFunc(out, byNumber) {
		slices.SortFunc(out, byNumber)
	}
	return out, nil
}

func byNumber(a, b CardState) int { return a.N - b.N }

// take takes in a field of a card, by its place.
func (c *CardState) take(at int, says string, began time.Time) error {
	switch at {
	case 2:
		c.Slip = strings.Trim(says, `"`)
		return nil
	case 6:
		led, err := strconv.ParseFloat(says, 64)
		c.Led = &led
		return err
	}
	n, err := strconv.ParseInt(says, 10, 64)
	switch at {
	case 0:
		c.Half = n
	case 1:
		c.Of = n
	case 3:
		c.Late, c.Hidden = n&1 > 0, n&2 > 0
	case 4:
		c.Seen = began.Add(time.Duration(n) * time.Second)
	case 5:
		c.Done, c.Answered = true, began.Add(time.Duration(n)*time.Second)
	}
	return err
}

// CardKey names a card of a student's attempt at some sheet.
type CardKey struct {
	Student int64
	Attempt int
	N       int
}

// ListTyped lists the cards of a sheet that are not answered and have something in a box.
func ListTyped(ctx context.Context, q store.Queryer, assignment int64) (map[CardKey]bool, error) {
	out := map[CardKey]bool{}
	_, err := store.All(ctx, q, func(r store.Row) (k CardKey, err error) {
		err = r.Scan(&k.Student, &k.Attempt, &k.N)
		out[k] = true
		return k, err
	}, store.Named("sitting.ListTyped", `SELECT k.student, k.attempt, k.n FROM cards k
		WHERE k.assignment = ? AND k.answered IS NULL AND k.draft IS NOT NULL`), assignment)
	return out, err
}
