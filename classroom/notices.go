package classroom

import (
	"context"
	"time"

	"cavix/core/exercise"
	"cavix/core/notice"
	"cavix/store"
)

// Notice is something worth a word, with whom and what it is about.
type Notice struct {
	notice.Notice
	First   store.Student  // whom it is about, or one of them
	Title   string         // of the sheet
	Example store.FormLost // of a form that costs marks
}

// Notices tells what in an instructor's running classes is worth a word, up to most.
func (r *Room) Notices(ctx context.Context, instructor int64, since time.Time, most int) ([]Notice, error) {
	read := r.read(ctx)
	made, err := read.MadeLately(instructor, since)
	if err != nil {
		return nil, err
	}
	answered, sheets, err := read.AnsweredLately(instructor, since)
	if err != nil {
		return nil, err
	}
	lost, err := read.FormLost(instructor, since)
	if err != nil {
		return nil, err
	}
	titles, examples := map[int64]string{}, map[int64]store.FormLost{}
	var slips []notice.Made
	for _, m := range made {
		slips = append(slips, notice.Made{Student: m.Student, Sheet: m.Sheet, Slip: exercise.Code(m.Slip), Cards: m.Cards})
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
	for _, n := range notice.Notices(slips, counts, form, most) {
		first, err := read.StudentOf(instructor, n.Students[0])
		if err != nil {
			return nil, err
		}
		out = append(out, Notice{Notice: n, First: first, Title: titles[n.Sheet], Example: examples[n.Students[0]]})
	}
	return out, nil
}

// GivenLately lists the sheets given last to the running classes that an instructor teaches, the newest first, up to most.
func (r *Room) GivenLately(ctx context.Context, instructor int64, most int) ([]Given, error) {
	return openAll(r.read(ctx).GivenLately(instructor, most))
}
