package classroom

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"strings"
	"time"

	"cavix/core/comparator"
	"cavix/core/length"
	"cavix/store"
)

// Comparison is a set of parts that are compared with a size, opened.
type Comparison struct {
	store.Comparison
	Plan comparator.Plan
	Err  error // why the plan cannot be read, if it cannot
}

// Compared is a line that a gauge sent; Deviation is nil where it could not be read, then or now.
type Compared struct {
	store.Compared
	Deviation *length.Number
	Damaged   bool // it was read once, and what was kept cannot be read now
}

func openComparison(c store.Comparison, err error) (Comparison, error) {
	out := Comparison{Comparison: c}
	if err == nil {
		if bad := json.Unmarshal([]byte(c.Plan), &out.Plan); bad != nil {
			out.Err = Damaged{"comparison", c.ID, bad}
		}
	}
	return out, cmp.Or(err, out.Err)
}

// mostComparisons is how many comparisons an instructor keeps.
const mostComparisons = 200

// Comparisons lists an instructor's comparisons, the newest first. One whose plan cannot be read says why.
func (r *Room) Comparisons(ctx context.Context, owner int64) ([]Comparison, error) {
	list, err := r.read(ctx).Comparisons(owner, mostComparisons)
	out := make([]Comparison, len(list))
	for i, c := range list {
		out[i], _ = openComparison(c, nil)
	}
	return out, err
}

// Comparison finds one of an instructor's comparisons with what was sent to it. One whose plan cannot be read is Damaged.
func (r *Room) Comparison(ctx context.Context, owner, id int64) (Comparison, []Compared, error) {
	c, err := openComparison(r.read(ctx).Comparison(owner, id))
	if err != nil {
		return c, nil, err
	}
	list, err := r.read(ctx).Compared(id)
	out := make([]Compared, len(list))
	for i, k := range list {
		out[i] = Compared{Compared: k}
		if k.Deviation == "" {
			continue
		}
		x, bad := length.ParseStored(k.Deviation)
		if out[i].Damaged = bad != nil; !out[i].Damaged {
			out[i].Deviation = &x
		}
	}
	return c, out, err
}

// AddComparison makes a comparison, with a token of its own by which a device sends.
func (r *Room) AddComparison(ctx context.Context, owner int64, title string, p comparator.Plan, at time.Time) (id int64, err error) {
	if err := p.Check(); err != nil {
		return 0, err
	}
	says, err := toJSON(p)
	if err != nil {
		return 0, err
	}
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		list, err := tx.Comparisons(owner, mostComparisons)
		if err == nil && len(list) == mostComparisons {
			err = store.ErrTaken
		}
		if err != nil {
			return err
		}
		id, err = tx.AddComparison(store.Comparison{Owner: owner, Title: title, Plan: says, Token: rand.Text(), Made: at})
		return err
	})
	return id, err
}

// RemoveCompared deletes a line that was sent to one of an instructor's comparisons.
func (r *Room) RemoveCompared(ctx context.Context, owner, comparison, line int64) error {
	return r.store.Write(ctx, func(tx *store.Tx) error {
		if _, err := tx.Comparison(owner, comparison); err != nil {
			return err
		}
		return tx.RemoveCompared(comparison, line)
	})
}

// Taken says what became of the lines that were sent.
type Taken struct {
	Read  int // and counted
	Again int // sent before with the same number
	Apart int // that could not be read
}

// Send takes lines that a device sends by its token; store.ErrNotFound where there is none of that token, store.ErrTaken
// where a comparison is full. A line that cannot be read is kept apart; one that was sent twice with the same number counts
// once.
func (r *Room) Send(ctx context.Context, token, says string, at time.Time) (Taken, error) {
	c, err := openComparison(r.read(ctx).ComparisonByToken(token))
	if err != nil {
		return Taken{}, err
	}
	return r.take(ctx, c, says, at)
}

// Paste takes lines that an instructor pastes.
func (r *Room) Paste(ctx context.Context, owner, id int64, says string, at time.Time) (Taken, error) {
	c, err := openComparison(r.read(ctx).Comparison(owner, id))
	if err != nil {
		return Taken{}, err
	}
	return r.take(ctx, c, says, at)
}

func (r *Room) take(ctx context.Context, c Comparison, says string, at time.Time) (taken Taken, err error) {
	var list []store.Compared
	for line := range strings.Lines(says) {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		k := store.Compared{Line: cut(line, comparator.MaxLine), At: at}
		reading, err := c.Plan.ReadLine(line)
		if k.Number = reading.Number; err != nil {
			k.Why = err.Error()
		} else {
			k.Deviation = reading.Deviation.String()
		}
		list = append(list, k)
	}
	err = r.store.Write(ctx, func(tx *store.Tx) error {
		taken = Taken{}
		there, err := tx.Compared(c.ID)
		if err != nil {
			return err
		}
		if len(there)+len(list) > comparator.MaxReading {
			return store.ErrTaken
		}
		for _, k := range list {
			first, err := tx.AddCompared(c.ID, k)
			switch {
			case err != nil:
				return err
			case !first:
				taken.Again++
			case k.Deviation == "":
				taken.Apart++
			default:
				taken.Read++
			}
		}
		return nil
	})
	if err == nil {
		r.Hub.Tell(Topic{c.ID, GaugeNews})
	}
	return taken, err
}

// cut shortens a text to so many signs.
func cut(s string, most int) string {
	if runes := []rune(s); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return s
}
