package ledgers

import (
	"context"
	"slices"
	"time"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/notice"
	"cavix/school/roster"
	"cavix/school/sitting"
	"cavix/store"
)

// Notice is something worth a word, with whom and what it is about.
type Notice struct {
	notice.Notice
	First   roster.Student // whom it is about, or one of them
	Title   string         // of the sheet
	Example FormLost       // of a form that costs marks
}

// Notices tells what in an instructor's running classes is worth a word, up to most.
func (svc *Service) Notices(ctx context.Context, instructor int64, since time.Time, most int) ([]Notice, error) {
	read := svc.store
	made, err := listMadeLately(ctx, read, instructor, since)
	if err != nil {
		return nil, err
	}
	answered, sheets, err := listAnsweredLately(ctx, read, instructor, since)
	if err != nil {
		return nil, err
	}
	lost, err := listFormLost(ctx, read, instructor, since)
	if err != nil {
		return nil, err
	}
	titles, examples := map[int64]string{}, map[int64]FormLost{}
	var list []notice.Made
	for _, m := range made {
		list = append(list, notice.Made{Student: m.Student, Sheet: m.Sheet, Slip: exercise.Code(m.Slip),
			Cards: m.Cards})
	}
	if err := countCould(ctx, read, list, since); err != nil {
		return nil, err
	}
	var counts []notice.Answered
	for i, t := range answered {
		titles[sheets[i]] = t.Name
		counts = append(counts, notice.Answered{Sheet: sheets[i], Students: t.Count})
	}
	var form []notice.Lost
	for _, l := range lost {
		examples[l.Student] = l
		form = append(form, notice.Lost{Student: l.Student, Times: l.Times})
	}
	var out []Notice
	for _, n := range notice.Notices(list, counts, form, most) {
		first, err := findTaughtStudent(ctx, read, instructor, n.Students[0])
		if err != nil {
			return nil, err
		}
		out = append(out, Notice{Notice: n, First: first, Title: titles[n.Sheet], Example: examples[n.Students[0]]})
	}
	return out, nil
}

// habitsLooked is the number of frequent slips on one sheet that are examined, those made most often first.
const habitsLooked = 40

// countCould counts, for slips that were made often enough to be a habit, the cards on which they could be made.
func countCould(ctx context.Context, rd store.Queryer, made []notice.Made, since time.Time) error {
	var often []int
	for i, m := range made {
		if m.Cards >= notice.HabitLeast && !m.Slip.IsPair() {
			often = append(often, i)
		}
	}
	slices.SortStableFunc(often, func(a, b int) int { return made[b].Cards - made[a].Cards })
	for _, i := range often[:min(len(often), habitsLooked)] {
		m := &made[i]
		items, err := listItemsAnswered(ctx, rd, m.Student, m.Sheet, since)
		if err != nil {
			return err
		}
		for _, doc := range items {
			it, err := kinds.All.Open([]byte(doc))
			if err != nil {
				continue // the database check names damaged cards
			}
			if can, err := exercise.CanHappen(it, m.Slip); err == nil && can {
				m.Could++
			}
		}
	}
	return nil
}

// RecentSheets lists the sheets given last to the running classes that an instructor teaches, the newest first, up to
// most.
func (svc *Service) RecentSheets(ctx context.Context, instructor int64, most int) ([]sitting.Given, error) {
	return sitting.OpenAll(listGivenLately(ctx, svc.store, instructor, most))
}
