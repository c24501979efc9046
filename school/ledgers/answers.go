package ledgers

import (
	"context"
	"runtime"
	"slices"

	"cavix/school/access"
	"cavix/school/roster"
	"cavix/store"
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

// answersAtOnce is the number of cards whose answers are held at a time.
const answersAtOnce = 1000

// answers hands over what was answered, field by field, on the cards of a condition in its order. What is of the card
// is read once for all its fields.
func answers(ctx context.Context, q store.Queryer, each func(Answered) error, whose string, args ...any) error {
	ids, err := listAnswered(ctx, q, whose, args)
	if err != nil {
		return err
	}
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	// Some cards are read while others are handed over: as many parts at a time as there are processors.
	type part struct {
		list []Answered
		err  error
	}
	parts := make(chan chan part, runtime.GOMAXPROCS(0)-1)
	go func() {
		defer close(parts)
		for some := range slices.Chunk(ids, answersAtOnce) {
			next := make(chan part, 1)
			select {
			case parts <- next:
			case <-ctx.Done():
				return
			}
			go func() {
				var p part
				p.err = safely(func() (err error) { p.list, err = listAnswersOn(ctx, q, some); return err })()
				next <- p
			}()
		}
	}()
	for next := range parts {
		p := <-next
		if p.err != nil {
			return p.err
		}
		for _, o := range p.list {
			if err := each(o); err != nil {
				return err
			}
		}
	}
	return ctx.Err()
}

// readStudentAnswers hands over all that a student of a class answered; practice only where the class shows each
// student's.
func readStudentAnswers(ctx context.Context, q store.Queryer, class, student int64, each func(Answered) error) error {
	st, err := roster.FindStudent(ctx, q, student)
	if err != nil {
		return err
	}
	return answers(ctx, q, each,
		"s.class = ? AND k.student = ? AND (? OR k.assignment IS NOT NULL) ORDER BY k.answered, k.id", class,
		student, st.Practice == roster.SeesEach)
}
