package sitting

import (
	"context"
	"time"

	"cavix/school/access"
	"cavix/store"
)

// SheetDates are other dates of a sheet than the class has, for a group or for one student.
type SheetDates struct {
	ID         int64
	Assignment int64
	Student    int64  // 0 for a group
	Team       string // the group; "" for one student
	Name       string // of the student
	Opens      time.Time
	Closes     time.Time // zero times are those of the class
}

func scanDates(r store.Row) (d SheetDates, err error) {
	var student, opens, closes *int64
	err = r.Scan(&d.ID, &d.Assignment, &student, &d.Team, &d.Name, &opens, &closes)
	d.Student, d.Opens, d.Closes = store.OrZero(student), store.TimeOf(opens), store.TimeOf(closes)
	return d, err
}

const datesColumns = `SELECT d.id, d.assignment, d.student, d.team, coalesce(s.name, ''), d.opens, d.closes
	FROM sheet_dates d
	JOIN assignments a ON a.id = d.assignment LEFT JOIN students s ON s.id = d.student `

// ListSheetDates lists the other dates of a sheet of an instructor's class: of groups first.
func ListSheetDates(ctx context.Context, q store.Queryer, instructor, assignment int64) ([]SheetDates, error) {
	return store.All(ctx, q, scanDates, store.Named("sitting.ListSheetDates",
		datesColumns+"WHERE "+access.TaughtSheet+" AND d.assignment = ? ORDER BY d.student IS NOT NULL, d.team, "+
			"s.folded"), instructor, assignment)
}

// ListClassDates lists the other dates of all sheets of an instructor's class.
func ListClassDates(ctx context.Context, q store.Queryer, instructor, class int64) ([]SheetDates, error) {
	return store.All(ctx, q, scanDates, store.Named("sitting.ListClassDates",
		datesColumns+"WHERE "+access.TaughtSheet+" AND a.class = ?"), instructor, class)
}

// updateSheetDates keeps other dates of a sheet, in place of those that the group or student had.
func updateSheetDates(ctx context.Context, tx *store.Tx, d SheetDates) error {
	if err := deleteSheetDates(ctx, tx, d.Assignment, d.Student, d.Team); err != nil {
		return err
	}
	_, err := tx.Insert(ctx, store.Named("sitting.updateSheetDates",
		"INSERT INTO sheet_dates (assignment, student, team, opens, closes) VALUES (?, nullif(?, 0), ?, ?, ?)"),
		d.Assignment, d.Student, d.Team, store.OrNull(d.Opens), store.OrNull(d.Closes))
	return err
}

// deleteSheetDates has a group, or a student, have the dates of the class again.
func deleteSheetDates(ctx context.Context, tx *store.Tx, assignment, student int64, team string) error {
	givenSheets.Forget(tx, assignment)
	_, err := tx.Exec(ctx, store.Named("sitting.deleteSheetDates",
		"DELETE FROM sheet_dates WHERE assignment = ? AND coalesce(student, 0) = ? AND team = ?"), assignment, student,
		team)
	return err
}

// ownDate is a date of a sheet a as it is for a student s: their own, that of their group, or that of the class.
func ownDate(what string) string {
	of := func(whose string) string {
		return "(SELECT d." + what + " FROM sheet_dates d WHERE d.assignment = a.id AND d." + what +
			" IS NOT NULL AND " + whose + ")"
	}
	return "coalesce(" + of("d.student = s.id") + ", " + of("d.student IS NULL AND d.team = s.team AND s.team <> ''") +
		", a." + what + ")"
}

// moreMinutes gives an attempt more minutes, and sets its end.
func moreMinutes(ctx context.Context, tx *store.Tx, s Sitting, more int, ends time.Time) error {
	s.forget(tx)
	return tx.Change(ctx, store.Named("sitting.moreMinutes",
		"UPDATE sittings SET more_minutes = ?, ends = ?, handed = NULL WHERE assignment = ? AND student = ? AND "+
			"attempt = ?"), more, store.OrNull(ends), s.Assignment, s.Student, s.Attempt)
}

// reopen takes back what the clock handed in of an attempt: what stands on its cards is a draft again.
func reopen(ctx context.Context, tx *store.Tx, s Sitting) error {
	s.forget(tx)
	const handed = " WHERE assignment = ? AND student = ? AND attempt = ? AND answered = ?"
	args := []any{s.Assignment, s.Student, s.Attempt, s.Handed.Unix()}
	_, err := tx.Exec(ctx, store.Named("sitting.reopen",
		`UPDATE cards SET draft = unpacked(answer), answer = NULL, result = NULL, answered = NULL,
			half_marks = NULL, half_of = NULL,
			slip = NULL, late = 0,
		hidden = 0`+handed), args...)
	return err
}
