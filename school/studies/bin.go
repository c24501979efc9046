package studies

import (
	"context"

	"cavix/core/text"
	"cavix/school/access"
	"cavix/store"
)

// DropSurvey puts a study of a class into the bin, with all its readings. Who gave it may do that, and who leads the
// class; anybody else gets access.ErrForbidden.
func (svc *Service) DropSurvey(ctx context.Context, by access.Actor, id int64) error {
	return svc.onStudy(ctx, access.RemoveOwnStudy, by, id, func(tx *store.Tx, s SurveyRow) error {
		if s.Owner != by.ID {
			if err := access.RemoveStudy.OnStudy(ctx, tx, by.ID, id); err != nil {
				return err
			}
		}
		if err := BinSurvey(ctx, tx, id, by.At); err != nil {
			return err
		}
		return by.Log(ctx, tx, s.Class, text.New("log.drop-survey", "title", s.Title))
	})
}

// DropComparison puts one of an instructor's comparisons into the bin, with all that was sent to it.
func (svc *Service) DropComparison(ctx context.Context, by access.Actor, id int64) error {
	return svc.access.Logging(ctx, by, text.New("log.drop-comparison"),
		func(tx *store.Tx) error { return BinComparison(ctx, tx, by.ID, id, by.At) })
}
