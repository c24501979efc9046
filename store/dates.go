package store

import "time"

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

func scanDates(r row) (d SheetDates, err error) {
	var student, opens, closes *int64
	err = r.Scan(&d.ID, &d.Assignment, &student, &d.Team, &d.Name, &opens, &closes)
	d.Student, d.Opens, d.Closes = orZero(student), when(opens), when(closes)
	return d, err
}

const datesColumns = `SELECT d.id, d.assignment, d.student, d.team, coalesce(s.name, ''), d.opens, d.closes FROM sheet_dates d
	JOIN assignments a ON a.id = d.assignment LEFT JOIN students s ON s.id = d.student `

// SheetDates lists the other dates of a sheet of an instructor's class: of groups first.
func (r *Reader) SheetDates(instructor, assignment int64) ([]SheetDates, error) {
	return all(r, scanDates, datesColumns+"WHERE "+taughtSheet+" AND d.assignment = ? ORDER BY d.student IS NOT NULL, d.team, s.folded",
		instructor, assignment)
}

// ClassDates lists the other dates of all sheets of an instructor's class.
func (r *Reader) ClassDates(instructor, class int64) ([]SheetDates, error) {
	return all(r, scanDates, datesColumns+"WHERE "+taughtSheet+" AND a.class = ?", instructor, class)
}

// SetSheetDates keeps other dates of a sheet, in place of those that the group or student had.
func (t *Tx) SetSheetDates(d SheetDates) error {
	if err := t.DropSheetDates(d.Assignment, d.Student, d.Team); err != nil {
		return err
	}
	_, err := t.insert("INSERT INTO sheet_dates (assignment, student, team, opens, closes) VALUES (?, nullif(?, 0), ?, ?, ?)", d.Assignment, d.Student,
		d.Team, orNull(d.Opens), orNull(d.Closes))
	return err
}

// DropSheetDates has a group, or a student, have the dates of the class again.
func (t *Tx) DropSheetDates(assignment, student int64, team string) error {
	_, err := t.Exec("DELETE FROM sheet_dates WHERE assignment = ? AND coalesce(student, 0) = ? AND team = ?", assignment, student, team)
	return err
}

// ownDate is a date of a sheet a as it is for a student s: their own, that of their group, or that of the class.
func ownDate(what string) string {
	of := func(whose string) string {
		return "(SELECT d." + what + " FROM sheet_dates d WHERE d.assignment = a.id AND d." + what + " IS NOT NULL AND " + whose + ")"
	}
	return "coalesce(" + of("d.student = s.id") + ", " + of("d.student IS NULL AND d.team = s.team AND s.team <> ''") + ", a." + what + ")"
}

// MoreMinutes gives an attempt more minutes, and sets its end.
func (t *Tx) MoreMinutes(s Sitting, more int, ends time.Time) error {
	return t.change("UPDATE sittings SET more_minutes = ?, ends = ?, handed = NULL WHERE assignment = ? AND student = ? AND attempt = ?", more, orNull(ends),
		s.Assignment, s.Student, s.Attempt)
}

// Reopen takes back what the clock handed in of an attempt: what stands on its cards is a draft again.
func (t *Tx) Reopen(s Sitting) error {
	const handed = " WHERE assignment = ? AND student = ? AND attempt = ? AND answered = ?"
	args := []any{s.Assignment, s.Student, s.Attempt, s.Handed.Unix()}
	if _, err := t.Exec("DELETE FROM entries WHERE card IN (SELECT id FROM cards"+handed+")", args...); err != nil {
		return err
	}
	_, err := t.Exec(`UPDATE cards SET draft = answer, answer = NULL, answered = NULL, half_marks = NULL, half_of = NULL, slip = NULL, late = 0,
		hidden = 0`+handed, args...)
	return err
}
