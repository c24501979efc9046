package ledgers

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/school/access"
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

// upgradeBatch is the number of cards that are weighed in one transaction.
const upgradeBatch = 500

// FinishUpgrade works out what a migration of the database cannot: the full marks of cards that were dealt by an
// earlier version and are not answered. The first time it also notes whose marks change by that, for the Desk. Doing it
// again does nothing.
func (svc *Service) FinishUpgrade(ctx context.Context, at time.Time) error {
	for after := int64(0); ; {
		cards, err := listUnweighed(ctx, svc.store, after, upgradeBatch)
		if err != nil {
			return err
		}
		if len(cards) == 0 {
			break
		}
		after = cards[len(cards)-1].ID
		err = svc.store.Write(ctx, func(tx *store.Tx) error {
			for _, c := range cards {
				it, err := kinds.All.Open([]byte(c.Item))
				if err != nil {
					continue // the database check names damaged cards
				}
				full, err := exercise.FullMarks(it)
				if err != nil {
					continue
				}
				if err := updateFull(ctx, tx, c.ID, length.ToHalves(full)); err != nil {
					return err
				}
			}
			return nil
		})
		if err != nil {
			return err
		}
	}
	if _, noted, err := store.Noted(ctx, svc.store, WholeSheets); err != nil || !noted.IsZero() {
		return err
	}
	changes, err := svc.changedByWholeSheets(ctx, at)
	if err != nil {
		return err
	}
	return svc.store.Write(ctx, func(tx *store.Tx) error { return noteMarkChanges(ctx, tx, changes, at) })
}

// changedByWholeSheets lists the shares that are other than those of the cards answered alone, in all classes.
func (svc *Service) changedByWholeSheets(ctx context.Context, at time.Time) (out []MarkChange, err error) {
	classes, err := listClassesAnswered(ctx, svc.store)
	for _, c := range classes {
		l, bad := svc.Ledger(ctx, c.Owner, c.ID, at)
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
					change.Students = append(change.Students, ShareChange{row.Student.Name, was.MulInt(100).Text(0),
						now.MulInt(100).Text(0)})
				}
			}
			if len(change.Students) > 0 {
				out = append(out, change)
			}
		}
	}
	return out, err
}

func noteMarkChanges(ctx context.Context, tx *store.Tx, list []MarkChange, at time.Time) error {
	says, err := store.JSON(list)
	if err != nil {
		return err
	}
	return store.Note(ctx, tx, WholeSheets, says, at)
}

func markChanges(ctx context.Context, rd store.Queryer) (list []MarkChange, err error) {
	says, _, err := store.Noted(ctx, rd, WholeSheets)
	if err == nil && says != "" {
		err = json.Unmarshal([]byte(says), &list)
	}
	return list, err
}

// MarkChanges lists the sheets of the classes that an instructor leads on which marks changed with the upgrade, until
// they are dismissed.
func (svc *Service) MarkChanges(ctx context.Context, instructor int64) ([]MarkChange, error) {
	rd := svc.store
	list, err := markChanges(ctx, rd)
	return slices.DeleteFunc(list, func(c MarkChange) bool {
		return access.DismissMarkChanges.InClass(ctx, rd, instructor, c.Class) != nil
	}), err
}

// DismissMarkChanges takes the sheets of a class off that list.
func (svc *Service) DismissMarkChanges(ctx context.Context, by access.Actor, class int64) error {
	return svc.access.InClass(ctx, access.DismissMarkChanges, by.ID, class, func(tx *store.Tx) error {
		list, err := markChanges(ctx, tx)
		if err != nil {
			return err
		}
		return noteMarkChanges(ctx, tx, slices.DeleteFunc(list, func(c MarkChange) bool { return c.Class == class }),
			by.At)
	})
}

const WholeSheets = "whole-sheets" // whose marks changed when all cards of a sheet began to count
