package classroom

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/store"
)

// MarkChange is a sheet on which students stand with another share of marks since all its cards count.
type MarkChange struct {
	Class      int64
	ClassName  string
	Assignment int64
	Title      string
	Students   []ShareChange
}

// ShareChange is a student's share of the marks of a sheet, in per cent, before and after an upgrade.
type ShareChange struct {
	Name     string
	Was, Now string
}

// upgradeBatch is how many cards are weighed in one transaction.
const upgradeBatch = 500

// FinishUpgrade works out what a migration of the database cannot: the full marks of cards that were dealt by an earlier version
// and are not answered. The first time it also notes whose marks change by that, for the Desk. Doing it again does nothing.
func (r *Room) FinishUpgrade(ctx context.Context, at time.Time) error {
	for after := int64(0); ; {
		cards, err := r.read(ctx).Unweighed(after, upgradeBatch)
		if err != nil {
			return err
		}
		if len(cards) == 0 {
			break
		}
		after = cards[len(cards)-1].ID
		err = r.store.Write(ctx, func(tx *store.Tx) error {
			for _, c := range cards {
				it, err := kinds.All.Open([]byte(c.Item))
				if err != nil {
					continue // the database check names damaged cards
				}
				full, err := exercise.FullMarks(it)
				if err != nil {
					continue
				}
				if err := tx.SetFull(c.ID, twice(full)); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if _, noted, err := r.read(ctx).Noted(store.WholeSheets); err != nil || !noted.IsZero() {
		return err
	}
	changes, err := r.changedByWholeSheets(ctx, at)
	if err != nil {
		return err
	}
	return r.store.Write(ctx, func(tx *store.Tx) error { return noteMarkChanges(tx, changes, at) })
}

// changedByWholeSheets lists the shares that are other than those of the cards answered alone, in all classes.
func (r *Room) changedByWholeSheets(ctx context.Context, at time.Time) (out []MarkChange, err error) {
	classes, err := r.read(ctx).ClassesAnswered()
	for _, c := range classes {
		l, bad := r.Ledger(ctx, c.Owner, c.ID, at)
		if bad != nil {
			return out, bad
		}
		for j, g := range l.Sheets {
			change := MarkChange{Class: c.ID, ClassName: c.Name, Assignment: g.ID, Title: g.Title}
			for _, row := range l.Rows {
				m := row.Cells[j].Mark
				now, counts := m.Share()
				if !counts || m.Answered.Sign() == 0 {
					continue
				}
				if was := m.Earned.Quo(m.Answered); !was.Equal(now) {
					change.Students = append(change.Students, ShareChange{row.Student.Name, was.MulInt(100).Text(0), now.MulInt(100).Text(0)})
				}
			}
			if len(change.Students) > 0 {
				out = append(out, change)
			}
		}
	}
	return out, err
}

func noteMarkChanges(tx *store.Tx, list []MarkChange, at time.Time) error {
	says, err := toJSON(list)
	if err != nil {
		return err
	}
	return tx.Note(store.WholeSheets, says, at)
}

func markChanges(rd *store.Reader) (list []MarkChange, err error) {
	says, _, err := rd.Noted(store.WholeSheets)
	if err == nil && says != "" {
		err = json.Unmarshal([]byte(says), &list)
	}
	return list, err
}

// MarkChanges lists the sheets of the classes that an instructor leads on which marks changed with the upgrade, until they are
// dismissed.
func (r *Room) MarkChanges(ctx context.Context, instructor int64) ([]MarkChange, error) {
	rd := r.read(ctx)
	list, err := markChanges(rd)
	return slices.DeleteFunc(list, func(c MarkChange) bool {
		role, bad := rd.RoleIn(instructor, c.Class)
		return bad != nil || !role.May(store.Leads)
	}), err
}

// DismissMarkChanges takes the sheets of a class off that list.
func (r *Room) DismissMarkChanges(ctx context.Context, by Hand, class int64) error {
	return r.inClass(ctx, by.ID, class, store.Leads, func(tx *store.Tx) error {
		list, err := markChanges(&tx.Reader)
		if err != nil {
			return err
		}
		return noteMarkChanges(tx, slices.DeleteFunc(list, func(c MarkChange) bool { return c.Class == class }), by.At)
	})
}
