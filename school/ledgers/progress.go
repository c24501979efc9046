package ledgers

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
)

// Progress holds a student's work over some weeks, and the slips in it.
type Progress struct {
	Weeks     []Week // the oldest first
	Slips     []SlipWeek
	Practised bool // practice is among them
}

// OwnProgress returns a student's own progress over the latest weeks, by a clock that is so many seconds ahead.
func (svc *Service) OwnProgress(ctx context.Context, student int64, ahead, most int) (Progress, error) {
	return progress(ctx, svc.store, student, true, ahead, most)
}

// StudentProgress returns a student's progress as an instructor sees it: with practice only where the class shows each
// student's.
func (svc *Service) StudentProgress(ctx context.Context, instructor, student int64, ahead, most int) (p Progress,
	err error) {
	if err := access.ViewClass.OnStudent(ctx, svc.store, instructor, student); err != nil {
		return p, err
	}
	st, err := roster.FindStudent(ctx, svc.store, student)
	if err != nil {
		return p, err
	}
	return progress(ctx, svc.store, student, st.Practice == roster.SeesEach, ahead, most)
}

func progress(ctx context.Context, q store.Queryer, student int64, practice bool, ahead, most int) (p Progress,
	err error) {
	p.Practised = practice
	if p.Weeks, err = listWeeks(ctx, q, student, practice, ahead, most); err != nil || len(p.Weeks) == 0 {
		return p, err
	}
	p.Slips, err = listSlipWeeks(ctx, q, student, practice, ahead, p.Weeks[0].Begins.Add(-24*time.Hour))
	return p, err
}

// PracticeSum sums up what one of an instructor's classes practised since a time, where the class says that it is seen.
func (svc *Service) PracticeSum(ctx context.Context, owner, class int64, since time.Time) (s PracticeSum, err error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return s, err
	}
	return readPracticeSum(ctx, svc.store, owner, class, since)
}

// PracticeSlips lists the slips that a class made most in practice since a time, where the class says that it is seen.
func (svc *Service) PracticeSlips(ctx context.Context, owner, class int64, since time.Time, most int) ([]SlipCount,
	error) {
	if err := access.ViewClass.InClass(ctx, svc.store, owner, class); err != nil {
		return nil, err
	}
	return listPracticeSlips(ctx, svc.store, owner, class, since, most)
}

// ClassSlipWeeks lists how often a class made each slip on its sheets, week by week.
func (svc *Service) ClassSlipWeeks(ctx context.Context, instructor, class int64, ahead int,
	since time.Time) ([]SlipWeek, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listClassSlipWeeks(ctx, svc.store, instructor, class, ahead, since)
}

// ClassWeeks lists what a class did on its sheets by week, the oldest first, of the latest weeks up to most.
func (svc *Service) ClassWeeks(ctx context.Context, instructor, class int64, ahead, most int) ([]Week, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listClassWeeks(ctx, svc.store, instructor, class, ahead, most)
}

// FamilySlips lists the slips of a class by the families of the instruments on which they were made.
func (svc *Service) FamilySlips(ctx context.Context, instructor, class int64) ([]FamilySlip, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listFamilySlips(ctx, svc.store, instructor, class)
}

// SlipMakers lists who in a class made which slips on its sheets, and on how many cards.
func (svc *Service) SlipMakers(ctx context.Context, instructor, class int64) ([]SlipMaker, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return listSlipMakers(ctx, svc.store, instructor, class)
}
