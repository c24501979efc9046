package roster

import (
	"context"
	"time"

	"cavix/core/names"
	"cavix/school/access"
	"cavix/store"
)

// Colleague is an instructor who teaches a class.
type Colleague struct {
	ID          int64
	Login, Name string
	Role        access.Role
}

// ListStaff lists who teaches a class, who leads it first.
func ListStaff(ctx context.Context, q store.Queryer, class int64) ([]Colleague, error) {
	return store.All(ctx, q, func(r store.Row) (m Colleague, err error) {
		return m,
			r.Scan(&m.ID, &m.Login, &m.Name, &m.Role)
	},
		store.Named("roster.ListStaff",
			`SELECT i.id, i.login, i.name, f.role FROM staff f JOIN instructors i ON i.id = f.instructor
		WHERE f.class = ? ORDER BY f.role <> 'leads', i.name, i.id`), class)
}

// UpdateRole has an instructor teach a class, or changes what they may do there.
func UpdateRole(ctx context.Context, tx *store.Tx, class, instructor int64, role access.Role) error {
	_, err := tx.Exec(ctx, store.Named("roster.UpdateRole",
		`INSERT INTO staff (class, instructor, role) VALUES (?, ?, ?)
		ON CONFLICT (class, instructor) DO UPDATE SET role = excluded.role`), class, instructor, role)
	return err
}

// deleteRole has an instructor who does not lead a class teach it no longer.
func deleteRole(ctx context.Context, tx *store.Tx, class, instructor int64) error {
	return tx.Change(ctx, store.Named("roster.deleteRole",
		"DELETE FROM staff WHERE class = ? AND instructor = ? AND role <> 'leads'"), class, instructor)
}

// ListAll lists all students of a class that an instructor teaches, by name, those too who have left.
func ListAll(ctx context.Context, q store.Queryer, instructor, class int64) ([]Student, error) {
	return store.All(ctx, q, ScanStudent,
		store.Named("roster.ListEverybody",
			StudentColumns+"WHERE "+access.Taught+" AND c.id = ? AND NOT s.guest AND s.binned IS NULL ORDER BY "+
				"s.gone IS NOT NULL, s.folded COLLATE people, s.id"), instructor, class)
}

// FindInClass finds a student of a class.
func FindInClass(ctx context.Context, q store.Queryer, class, student int64) (Student, error) {
	return store.Only(store.All(ctx, q, ScanStudent,
		store.Named("roster.FindPupil",
			StudentColumns+"WHERE s.class = ? AND s.id = ? AND NOT s.guest AND s.binned IS NULL"), class, student))
}

// UpdateStudent keeps a student's name, group, extra minutes and number; a name that exists in the class is
// ErrNameTaken.
func UpdateStudent(ctx context.Context, tx *store.Tx, s Student) error {
	students.Forget(tx, s.ID)
	err := tx.Change(ctx, store.Named("roster.UpdatePupil",
		"UPDATE students SET name = ?, folded = ?, team = ?, extra_minutes = ?, number = ? WHERE id = ? AND class = ?"),
		s.Name, names.Fold(s.Name), s.Team, s.Extra, s.Number, s.ID, s.Class)
	return store.Instead(err, store.ErrDuplicate, ErrNameTaken)
}

// updateGone notes when a student left the class, which ends all their sessions; a zero time brings them back, or lets
// in one who waits.
func updateGone(ctx context.Context, tx *store.Tx, class, student int64, at time.Time) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.updateGone",
		"UPDATE students SET gone = ?, waits = 0, entry = entry + ? WHERE id = ? AND class = ?"), store.OrNull(at),
		!at.IsZero(), student, class)
}

// updateWaiting has a student who has just joined wait to be let in.
func updateWaiting(ctx context.Context, tx *store.Tx, class, student int64, at time.Time) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.updateWaiting",
		"UPDATE students SET gone = ?, waits = 1 WHERE id = ? AND class = ?"), at.Unix(), student, class)
}

// updateJoining settles how somebody who is on no list joins a class.
func updateJoining(ctx context.Context, tx *store.Tx, class int64, how Joining) error {
	return tx.Change(ctx, store.Named("roster.updateJoining", "UPDATE classes SET joining = ? WHERE id = ?"),
		string(how), class)
}

// updateCode gives a class another joining code; one that exists is errCodeTaken.
func updateCode(ctx context.Context, tx *store.Tx, class int64, code string) error {
	err := tx.Change(ctx, store.Named("roster.updateCode", "UPDATE classes SET code = ? WHERE id = ?"), code, class)
	return store.Instead(err, store.ErrDuplicate, errCodeTaken)
}

// ListNamesakes lists the names in a class, but for one student's: those who have left and guests too.
func ListNamesakes(ctx context.Context, q store.Queryer, class, but int64) ([]string, error) {
	return store.All(ctx, q, func(r store.Row) (name string, err error) { return name, r.Scan(&name) },
		store.Named("roster.ListNamesakes", "SELECT name FROM students WHERE class = ? AND id <> ? AND binned IS NULL"),
		class, but)
}

// countJoined counts who joined a class by themselves since a time, as members or as guests, and who of those is there
// altogether.
func countJoined(ctx context.Context, q store.Queryer, class int64, guests bool, since time.Time) (lately, all int,
	err error) {
	err = store.One(ctx, q, store.Named("roster.countJoined",
		`SELECT coalesce(sum(created >= ? AND hash <> ''), 0), count(*) FROM students
		WHERE class = ? AND guest = ? AND binned IS NULL`), []any{since.Unix(), class, guests}, &lately, &all)
	return lately, all, err
}

// move brings a student to another class, with all answers; a name that exists there is ErrNameTaken.
func move(ctx context.Context, tx *store.Tx, class, student, to int64) error {
	students.Forget(tx, student)
	err := tx.Change(ctx, store.Named("roster.move",
		"UPDATE students SET class = ?, team = '' WHERE id = ? AND class = ?"), to, student, class)
	return store.Instead(err, store.ErrDuplicate, ErrNameTaken)
}

// deletePupil removes a student with everything that is kept of them.
func deletePupil(ctx context.Context, tx *store.Tx, class, student int64) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.deletePupil", "DELETE FROM students WHERE id = ? AND class = ?"), student,
		class)
}

// updateArchived puts a class away; a zero time brings it back.
func updateArchived(ctx context.Context, tx *store.Tx, class int64, at time.Time) error {
	students.ForgetAll(tx)
	return tx.Change(ctx, store.Named("roster.updateArchived", "UPDATE classes SET archived = ? WHERE id = ?"),
		store.OrNull(at), class)
}

// Seat counts what a student has done in a class: on sheets, and in practice where the class shows each
// student's.
type Seat struct {
	Student int64
	Cards   int       // answered
	Last    time.Time // answer; zero where there is none
}

// listSeats counts what the students of a class have done.
func listSeats(ctx context.Context, q store.Queryer, class int64) ([]Seat, error) {
	return store.All(ctx, q, func(r store.Row) (s Seat, err error) {
		var last *int64
		err = r.Scan(&s.Student, &s.Cards, &last)
		s.Last = store.TimeOf(last)
		return s, err
	}, store.Named("roster.listSeats",
		`SELECT s.id, (SELECT coalesce(sum(t.done), 0) FROM sittings t WHERE t.student = s.id)
			+ iif(c.practice_seen = 2, (SELECT count(k.answered) FROM cards k WHERE k.student = s.id
			AND k.assignment IS NULL), 0),
		(SELECT k.answered FROM cards k WHERE k.student = s.id AND k.answered IS NOT NULL
			AND (k.assignment IS NOT NULL OR c.practice_seen = 2) ORDER BY k.answered DESC LIMIT 1)
		FROM students s JOIN classes c ON c.id = s.class WHERE s.class = ?`), class)
}

// UpdateStudentPassphrase gives a student the hash of a passphrase; "" leaves none.
func UpdateStudentPassphrase(ctx context.Context, tx *store.Tx, student int64, hash string) error {
	students.Forget(tx, student)
	return tx.Change(ctx, store.Named("roster.updateStudentPassphrase", "UPDATE students SET hash = ? WHERE id = ?"),
		hash, student)
}

// listColumns returns what each column of the list imported last is, by its head, as a JSON object.
func listColumns(ctx context.Context, q store.Queryer, class int64) (text string, err error) {
	err = store.One(ctx, q, store.Named("roster.listColumns", "SELECT list_columns FROM classes WHERE id = ?"),
		[]any{class}, &text)
	return text, err
}

// updateListColumns keeps that.
func updateListColumns(ctx context.Context, tx *store.Tx, class int64, text string) error {
	return tx.Change(ctx, store.Named("roster.updateListColumns", "UPDATE classes SET list_columns = ? WHERE id = ?"),
		text, class)
}
