package studies

import (
	"cmp"
	"context"
	"crypto/rand"
	"encoding/json"
	"strings"
	"time"

	"cavix/core/comparator"
	"cavix/core/length"
	"cavix/school/hub"
	"cavix/store"
)

// Comparison is a set of parts that are compared with a size, opened.
type Comparison struct {
	ComparisonRow
	Plan comparator.Plan
	Err  error // why the plan cannot be read, if it cannot
}

// Compared is a line that a gauge sent; Deviation is nil where it could not be read, then or now.
type Compared struct {
	ComparedRow
	Deviation *length.Number
	Damaged   bool // it was read once, and what was kept cannot be read now
}

func openComparison(c ComparisonRow, err error) (Comparison, error) {
	out := Comparison{ComparisonRow: c}
	if err == nil {
		if bad := json.Unmarshal([]byte(c.Plan), &out.Plan); bad != nil {
			out.Err = store.DamagedRow{What: "comparison", ID: c.ID, Err: bad}
		}
	}
	return out, cmp.Or(err, out.Err)
}

// mostComparisons is the largest number of comparisons that an instructor keeps.
const mostComparisons = 200

// Comparisons lists an instructor's comparisons, the newest first. One whose plan cannot be read says why.
func (svc *Service) Comparisons(ctx context.Context, owner int64) ([]Comparison, error) {
	list, err := listComparisons(ctx, svc.store, owner, mostComparisons)
	out := make([]Comparison, len(list))
	for i, c := range list {
		out[i], _ = openComparison(c, nil)
	}
	return out, err
}

// Comparison finds one of an instructor's comparisons with what was sent to it. One whose plan cannot be read is
// Damaged.
func (svc *Service) Comparison(ctx context.Context, owner, id int64) (Comparison, []Compared, error) {
	c, err := openComparison(findComparison(ctx, svc.store, owner, id))
	if err != nil {
		return c, nil, err
	}
	list, err := listCompared(ctx, svc.store, id)
	out := make([]Compared, len(list))
	for i, k := range list {
		out[i] = Compared{ComparedRow: k}
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
func (svc *Service) AddComparison(ctx context.Context, owner int64, title string, p comparator.Plan,
	at time.Time) (id int64, err error) {
	if err := p.Check(); err != nil {
		return 0, err
	}
	says, err := store.JSON(p)
	if err != nil {
		return 0, err
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		list, err := listComparisons(ctx, tx, owner, mostComparisons)
		if err == nil && len(list) == mostComparisons {
			err = ErrFull
		}
		if err != nil {
			return err
		}
		id, err = insertComparison(ctx, tx, ComparisonRow{Owner: owner, Title: title, Plan: says, Token: rand.Text(),
			Made: at})
		return err
	})
	return id, err
}

// RemoveCompared deletes a line that was sent to one of an instructor's comparisons.
func (svc *Service) RemoveCompared(ctx context.Context, owner, comparison, line int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		if _, err := findComparison(ctx, tx, owner, comparison); err != nil {
			return err
		}
		return deleteCompared(ctx, tx, comparison, line)
	})
}

// Taken says what became of the lines that were sent.
type Taken struct {
	Read  int // and counted
	Again int // sent before with the same number
	Apart int // that could not be read
}

// Send takes lines that a device sends by its token; store.ErrNotFound where there is none of that token,
// ErrComparisonFull where a comparison is full. A line that cannot be read is kept apart; one that was sent twice with
// the same number counts once.
func (svc *Service) Send(ctx context.Context, token, says string, at time.Time) (Taken, error) {
	c, err := openComparison(findComparisonByToken(ctx, svc.store, token))
	if err != nil {
		return Taken{}, err
	}
	return svc.take(ctx, c, says, at)
}

// Paste takes lines that an instructor pastes.
func (svc *Service) Paste(ctx context.Context, owner, id int64, says string, at time.Time) (Taken, error) {
	c, err := openComparison(findComparison(ctx, svc.store, owner, id))
	if err != nil {
		return Taken{}, err
	}
	return svc.take(ctx, c, says, at)
}

func (svc *Service) take(ctx context.Context, c Comparison, says string, at time.Time) (taken Taken, err error) {
	var list []ComparedRow
	for line := range strings.Lines(says) {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		k := ComparedRow{Line: cut(line, comparator.MaxLine), At: at}
		reading, err := c.Plan.ReadLine(line)
		if k.Number = reading.Number; err != nil {
			k.Why = err.Error()
		} else {
			k.Deviation = reading.Deviation.String()
		}
		list = append(list, k)
	}
	err = svc.store.Write(ctx, func(tx *store.Tx) error {
		taken = Taken{}
		there, err := listCompared(ctx, tx, c.ID)
		if err != nil {
			return err
		}
		if len(there)+len(list) > comparator.MaxReading {
			return ErrComparisonFull
		}
		for _, k := range list {
			first, err := insertCompared(ctx, tx, c.ID, k)
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
		svc.hub.Tell(hub.Topic{Class: c.ID, What: hub.GaugeNews})
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
