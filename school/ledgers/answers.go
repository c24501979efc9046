package ledgers

import (
	"context"

	"cavix/school/access"
)

// OwnAnswers hands over all that a student answered and was told of.
func (svc *Service) OwnAnswers(ctx context.Context, student int64, each func(Answered) error) error {
	return answers(ctx, svc.store, each, "k.student = ? AND NOT k.hidden ORDER BY k.answered, k.id", student)
}

// StudentAnswers hands over all that a student of a class answered; practice only where the class shows each student's.
func (svc *Service) StudentAnswers(ctx context.Context, instructor, class, student int64,
	each func(Answered) error) error {
	if err := access.ExportPerson.InClass(ctx, svc.store, instructor, class); err != nil {
		return err
	}
	return readStudentAnswers(ctx, svc.store, class, student, each)
}

// SheetAnswers hands over what was answered on a sheet that was given to a class which an instructor teaches.
func (svc *Service) SheetAnswers(ctx context.Context, instructor, assignment int64, each func(Answered) error) error {
	if err := access.DownloadAnswers.OnSheet(ctx, svc.store, instructor, assignment); err != nil {
		return err
	}
	return answers(ctx, svc.store, each, access.TaughtSheet+" AND a.id = ? ORDER BY k.student, k.attempt, k.n",
		instructor, assignment)
}

// ClassAnswers hands over what was answered on all sheets of a class that an instructor teaches.
func (svc *Service) ClassAnswers(ctx context.Context, instructor, class int64, each func(Answered) error) error {
	if err := access.DownloadAnswers.InClass(ctx, svc.store, instructor, class); err != nil {
		return err
	}
	return answers(ctx, svc.store, each,
		access.TaughtSheet+" AND a.class = ? ORDER BY a.id, k.student, k.attempt, k.n", instructor, class)
}
