package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"cavix/core/exercise"
	"cavix/core/length"
	"cavix/core/marking"
)

// Wordings are an instructor's own words for slips.
func (s *Store) Wordings(ctx context.Context, owner int64) (marking.Wordings, error) {
	type words struct {
		code string
		marking.Wording
	}
	list, err := all(ctx, s, func(r row) (w words, err error) { return w, r.Scan(&w.code, &w.Off, &w.Advice, &w.Note) },
		"SELECT code, off, advice, note FROM slip_words WHERE owner = ?", owner)
	out := make(marking.Wordings, len(list))
	for _, w := range list {
		out[marking.Code(w.code)] = w.Wording
	}
	return out, err
}

// StudentWordings are the words of the instructor who teaches a student.
func (s *Store) StudentWordings(ctx context.Context, student int64) (marking.Wordings, error) {
	var owner int64
	err := s.one(ctx, "SELECT c.owner FROM classes c JOIN students s ON s.class = c.id WHERE s.id = ?", []any{student}, &owner)
	if err != nil {
		return nil, err
	}
	return s.Wordings(ctx, owner)
}

// SetWording keeps an instructor's words for one slip.
func (s *Store) SetWording(ctx context.Context, owner int64, code marking.Code, w marking.Wording) error {
	return s.Write(ctx, func(tx *Tx) error {
		_, err := tx.Exec("INSERT INTO slip_words (owner, code, off, advice, note) VALUES (?, ?, ?, ?, ?) ON CONFLICT (owner, code) DO UPDATE SET off = excluded.off, advice = excluded.advice, note = excluded.note",
			owner, string(code), w.Off, w.Advice, w.Note)
		return err
	})
}

// Remarked is what another method makes of one answered card.
type Remarked struct {
	Card    int64
	Student string
	N       int
	Before  length.Number
	After   length.Number
	Own     bool // the instructor's own mark stands over both

	item string
	kept kept
}

// Remark works out what an instructor's given sheet would be marked by another method. It changes
// nothing: marking is a pure function of what is stored.
func (s *Store) Remark(ctx context.Context, owner, assignment int64, m marking.Method) ([]Remarked, error) {
	a, err := s.Assignment(ctx, owner, assignment)
	if err != nil {
		return nil, err
	}
	type stored struct {
		Remarked
		answer string
		hints  int
		half   int64
	}
	cards, err := all(ctx, s, func(r row) (c stored, err error) {
		return c, r.Scan(&c.Card, &c.Student, &c.N, &c.item, &c.answer, &c.half, &c.hints, &c.Own)
	}, `SELECT k.id, s.name, k.n, k.item, k.answer, k.half_marks, k.hints, k.own_half_marks IS NOT NULL FROM cards k JOIN students s ON s.id = k.student
		JOIN assignments a ON a.id = k.assignment JOIN classes c ON c.id = a.class WHERE c.owner = ? AND a.id = ? AND k.answered IS NOT NULL ORDER BY s.folded, k.n`, owner, assignment)
	if err != nil {
		return nil, err
	}
	out := make([]Remarked, len(cards))
	for i, c := range cards {
		var item marking.Card
		var answer marking.Answer
		if err := errors.Join(json.Unmarshal([]byte(c.item), &item), json.Unmarshal([]byte(c.answer), &answer)); err != nil {
			return nil, err
		}
		item.Method = m
		if item.Limits == nil {
			item.Limits = a.Definition.Limits
		}
		r, err := item.Mark(answer)
		if err != nil {
			return nil, fmt.Errorf("card %d of %s: %w", c.N, c.Student, err)
		}
		if c.kept, err = keptOf(&r, a.Definition.Cost(c.hints)); err != nil {
			return nil, err
		}
		b, err := json.Marshal(&item)
		if err != nil {
			return nil, err
		}
		c.Before, c.After, c.item = length.Frac(c.half, 2), length.Frac(c.kept.half, 2), string(b)
		out[i] = c.Remarked
	}
	return out, nil
}

// ApplyRemark marks a given sheet anew by another method. The old marks are kept, and cards not yet
// answered are asked by the new method too.
func (s *Store) ApplyRemark(ctx context.Context, owner, assignment int64, m marking.Method, who string, at time.Time) error {
	a, err := s.Assignment(ctx, owner, assignment)
	if err != nil {
		return err
	}
	remarked, err := s.Remark(ctx, owner, assignment, m)
	if err != nil {
		return err
	}
	before, err := json.Marshal(a.Definition)
	if err != nil {
		return err
	}
	a.Definition.Method = m
	after, err := json.Marshal(a.Definition)
	if err != nil {
		return err
	}
	open, err := s.unanswered(ctx, assignment, m)
	if err != nil {
		return err
	}
	return s.Write(ctx, func(tx *Tx) error {
		id, err := tx.insert("INSERT INTO remarkings (assignment, definition, at) VALUES (?, ?, ?)", assignment, string(before), at.Unix())
		if err != nil {
			return err
		}
		if _, err := tx.Exec("INSERT INTO marks_before (remarking, card, item, result, half_marks, half_of, slip) SELECT ?, id, item, result, half_marks, half_of, slip FROM cards WHERE assignment = ?", id, assignment); err != nil {
			return err
		}
		if _, err := tx.Exec("UPDATE assignments SET definition = ? WHERE id = ?", string(after), assignment); err != nil {
			return err
		}
		changed := 0
		for _, r := range remarked {
			if !r.Before.Equal(r.After) {
				changed++
			}
			if _, err := tx.Exec("UPDATE cards SET item = ?, result = ?, half_marks = ?, half_of = ?, slip = ? WHERE id = ?", r.item, r.kept.result, r.kept.half, r.kept.of, r.kept.slip, r.Card); err != nil {
				return err
			}
		}
		for card, item := range open {
			if _, err := tx.Exec("UPDATE cards SET item = ? WHERE id = ? AND answered IS NULL", item, card); err != nil {
				return err
			}
		}
		return tx.log(assignment, who, fmt.Sprintf("marked the sheet anew by another method: %d of %d marks changed", changed, len(remarked)), at)
	})
}

// unanswered returns the items of the cards still open, asked by another method.
func (s *Store) unanswered(ctx context.Context, assignment int64, m marking.Method) (map[int64]string, error) {
	type stored struct {
		id   int64
		item string
	}
	list, err := all(ctx, s, func(r row) (c stored, err error) { return c, r.Scan(&c.id, &c.item) }, "SELECT id, item FROM cards WHERE assignment = ? AND answered IS NULL", assignment)
	out := make(map[int64]string, len(list))
	for _, c := range list {
		var item marking.Card
		if err := json.Unmarshal([]byte(c.item), &item); err != nil {
			return nil, err
		}
		item.Method = m
		b, err := json.Marshal(&item)
		if err != nil {
			return nil, err
		}
		out[c.id] = string(b)
	}
	return out, err
}

// UndoRemark puts back the marks that stood before the latest re-marking of a given sheet; ErrNotFound
// when there is none. Cards answered since are marked by the method that is put back.
func (s *Store) UndoRemark(ctx context.Context, owner, assignment int64, who string, at time.Time) error {
	if _, err := s.Assignment(ctx, owner, assignment); err != nil {
		return err
	}
	var id int64
	var before string
	if err := s.one(ctx, "SELECT id, definition FROM remarkings WHERE assignment = ? ORDER BY id DESC LIMIT 1", []any{assignment}, &id, &before); err != nil {
		return err
	}
	var sheet exercise.Sheet
	if err := json.Unmarshal([]byte(before), &sheet); err != nil {
		return err
	}
	now, err := s.Remark(ctx, owner, assignment, sheet.Method)
	if err != nil {
		return err
	}
	open, err := s.unanswered(ctx, assignment, sheet.Method)
	if err != nil {
		return err
	}
	return s.Write(ctx, func(tx *Tx) error {
		if _, err := tx.Exec("UPDATE assignments SET definition = ? WHERE id = ?", before, assignment); err != nil {
			return err
		}
		for _, r := range now {
			var had int
			if err := tx.one("SELECT count(*) FROM marks_before WHERE remarking = ? AND card = ? AND result IS NOT NULL", []any{id, r.Card}, &had); err != nil {
				return err
			}
			var err error
			if had == 1 {
				_, err = tx.Exec(`UPDATE cards SET (item, result, half_marks, half_of, slip) = (SELECT item, result, half_marks, half_of, slip FROM marks_before WHERE remarking = ? AND card = cards.id) WHERE id = ?`, id, r.Card)
			} else {
				_, err = tx.Exec("UPDATE cards SET item = ?, result = ?, half_marks = ?, half_of = ?, slip = ? WHERE id = ?", r.item, r.kept.result, r.kept.half, r.kept.of, r.kept.slip, r.Card)
			}
			if err != nil {
				return err
			}
		}
		for card, item := range open {
			if _, err := tx.Exec("UPDATE cards SET item = ? WHERE id = ? AND answered IS NULL", item, card); err != nil {
				return err
			}
		}
		if _, err := tx.Exec("DELETE FROM remarkings WHERE id = ?", id); err != nil {
			return err
		}
		return tx.log(assignment, who, "took the re-marking back: the marks stand as before", at)
	})
}

// CanUndo reports whether a given sheet has been marked anew.
func (s *Store) CanUndo(ctx context.Context, assignment int64) (bool, error) {
	var n int
	err := s.one(ctx, "SELECT EXISTS (SELECT 1 FROM remarkings WHERE assignment = ?)", []any{assignment}, &n)
	return n == 1, err
}

// SetOwnMark sets an instructor's own mark on a student's card, in halves, with the reason; nil takes it
// away again.
func (s *Store) SetOwnMark(ctx context.Context, owner, assignment, student int64, n int, half *int64, reason, who string, at time.Time) error {
	return s.Write(ctx, func(tx *Tx) error {
		err := tx.change(`UPDATE cards SET own_half_marks = ?, own_reason = ? WHERE assignment = ? AND student = ? AND n = ? AND answered IS NOT NULL
			AND assignment IN (SELECT a.id FROM assignments a JOIN classes c ON c.id = a.class WHERE c.owner = ?)`, half, reason, assignment, student, n, owner)
		if err != nil {
			return err
		}
		var name string
		if err := tx.one("SELECT name FROM students WHERE id = ?", []any{student}, &name); err != nil {
			return err
		}
		what := fmt.Sprintf("took the own mark on card %d of %s away", n, name)
		if half != nil {
			what = fmt.Sprintf("gave %s on card %d of %s: %s", length.Frac(*half, 2), n, name, reason)
		}
		return tx.log(assignment, who, what, at)
	})
}

// Change is a line of the record of changed marks.
type Change struct {
	Who, What string
	At        time.Time
}

// log notes a change of marks.
func (t *Tx) log(assignment int64, who, what string, at time.Time) error {
	_, err := t.insert("INSERT INTO changes (assignment, who, what, at) VALUES (?, ?, ?, ?)", assignment, who, what, at.Unix())
	return err
}

// Changes lists who changed marks of an instructor's given sheet, the latest first.
func (s *Store) Changes(ctx context.Context, owner, assignment int64) ([]Change, error) {
	return all(ctx, s, func(r row) (c Change, err error) {
		var at int64
		err = r.Scan(&c.Who, &c.What, &at)
		c.At = time.Unix(at, 0)
		return c, err
	}, `SELECT h.who, h.what, h.at FROM changes h JOIN assignments a ON a.id = h.assignment JOIN classes c ON c.id = a.class
		WHERE c.owner = ? AND a.id = ? ORDER BY h.id DESC`, owner, assignment)
}
