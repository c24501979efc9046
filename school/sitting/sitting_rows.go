package sitting

import (
	"context"
	"slices"
	"time"

	"cavix/school/roster"
	"cavix/store"
)

// Sitting is an attempt of a student at a sheet that was given.
type Sitting struct {
	Assignment int64
	Student    int64
	Attempt    int // 1, 2, 3 …
	Began      time.Time
	Ends       time.Time // when it is over; zero: never
	Handed     time.Time // zero until it is handed in or closed
	Extra      int       // minutes that the student has on top
	More       int       // minutes that this attempt was given after an interruption
	Half, Of   int64     // twice the marks of its cards that are checked and told; only Scored reads them
	Full       int64     // twice the full marks of all its cards; only Scored reads them
	Done       int       // cards answered; only Scored reads them
}

func scanSitting(r store.Row) (s Sitting, err error) {
	var began int64
	var ends, handed, half, of, full, done *int64
	err = r.Scan(&s.Assignment, &s.Student, &s.Attempt, &began, &ends, &handed, &s.Extra, &s.More, &half, &of, &full,
		&done)
	s.Ends = store.TimeOf(ends)
	s.Began, s.Handed, s.Half, s.Of = time.Unix(began, 0), store.TimeOf(handed), store.OrZero(half), store.OrZero(of)
	s.Full, s.Done = store.OrZero(full), int(store.OrZero(done))
	return s, err
}

const (
	sittingHead = "SELECT t.assignment, t.student, t.attempt, t.began, t.ends, t.handed, s.extra_minutes, " +
		"t.more_minutes, "
	sittingTail    = " FROM sittings t JOIN students s ON s.id = t.student "
	sittingColumns = sittingHead + "NULL, NULL, NULL, NULL" + sittingTail
	scoredColumns  = sittingHead +
		"iif(t.hidden, NULL, t.half_marks), iif(t.hidden, NULL, t.half_of), t.half_full, t.done" + sittingTail
)

// listScored lists a student's attempts at a sheet with their marks, the first first.
func listScored(ctx context.Context, q store.Queryer, student, assignment int64) ([]Sitting, error) {
	return store.All(ctx, q, scanSitting,
		store.Named("sitting.listScored", scoredColumns+"WHERE t.student = ? AND t.assignment = ? ORDER BY t.attempt"),
		student, assignment)
}

// attemptsKey names the attempts of a student at a sheet.
type attemptsKey struct{ assignment, student int64 }

// attempts remembers attempts without the minutes that their student has on top.
var attempts = store.NewCache[attemptsKey, []Sitting](50_000)

// listSittings lists a student's attempts at a sheet, the first first, without their marks.
func listSittings(ctx context.Context, q store.Queryer, student, assignment int64) ([]Sitting, error) {
	known, err := attempts.Get(q, attemptsKey{assignment, student}, func() ([]Sitting, error) {
		return store.All(ctx, q, scanSitting, store.Named("sitting.listSittings", sittingColumns+
			"WHERE t.student = ? AND t.assignment = ? ORDER BY t.attempt"), student, assignment)
	})
	if err != nil || len(known) == 0 {
		return nil, err
	}
	st, err := roster.FindStudent(ctx, q, student)
	list := slices.Clone(known)
	for i := range list {
		list[i].Extra = st.Extra
	}
	return list, err
}

// forget has the attempts that a row belongs to asked anew.
func (s Sitting) forget(tx *store.Tx) { attempts.Forget(tx, attemptsKey{s.Assignment, s.Student}) }

// ForgetAttempts has all attempts asked anew, after those of a student were given to another.
func ForgetAttempts(tx *store.Tx) { attempts.ForgetAll(tx) }

// listOver lists attempts that are over by the clock and not handed in, up to most.
func listOver(ctx context.Context, q store.Queryer, at time.Time, most int) ([]Sitting, error) {
	return store.All(
		ctx, q,
		scanSitting,
		store.Named("sitting.listOver",
			sittingColumns+"WHERE t.handed IS NULL AND t.ends <= ? ORDER BY t.ends LIMIT ?"),
		at.Unix(),
		most,
	)
}

// listUnderWay lists the attempts that are not handed in at a sheet, or of a student; 0 stands for any.
func listUnderWay(ctx context.Context, q store.Queryer, assignment, student int64) ([]Sitting, error) {
	return store.All(
		ctx, q,
		scanSitting,
		store.Named("sitting.listUnderWay",
			sittingColumns+"WHERE t.handed IS NULL AND ? IN (0, t.assignment) AND ? IN (0, t.student)"),
		assignment,
		student,
	)
}

// mayWork reports whether a student may work on an attempt at a time: it is the latest, it is not handed in, its time
// has not gone by, and the student is in the class that was given the sheet, which runs.
func mayWork(ctx context.Context, q store.Queryer, student, assignment int64, attempt int, at time.Time) (may bool,
	err error) {
	err = store.One(ctx, q, store.Named("sitting.mayWork",
		"SELECT "+mayWorkOnK+" FROM (SELECT ? AS student, ? AS assignment, ? AS attempt) k"),
		[]any{at.Unix(), student, assignment, attempt}, &may)
	return may, err
}

// mayWorkOnK is the condition of mayWork for the student, the sheet and the attempt of a row k. Its parameter is the
// time.
const mayWorkOnK = `EXISTS (SELECT 1 FROM sittings t JOIN assignments a ON a.id = t.assignment JOIN students s
		ON s.id = t.student JOIN classes c ON c.id = a.class
	WHERE t.student = k.student AND t.assignment = k.assignment AND t.attempt = k.attempt AND t.handed IS NULL
	AND (t.ends IS NULL OR t.ends > ?) AND s.class = a.class AND s.gone IS NULL AND c.archived IS NULL
	AND c.binned IS NULL AND NOT EXISTS (SELECT 1 FROM sittings l
		WHERE l.assignment = t.assignment AND l.student = t.student AND l.attempt > t.attempt))`

// placeInClass tells where a student sits in the class: how many joined before.
func placeInClass(ctx context.Context, q store.Queryer, student int64) (n int, err error) {
	err = store.One(ctx, q,
		store.Named("sitting.placeInClass",
			"SELECT count(*) FROM students o JOIN students s ON s.class = o.class WHERE s.id = ? AND o.id < s.id"),
		[]any{student},
		&n,
	)
	return n, err
}

// insertSitting notes that a student begins an attempt; one that has begun is errBegun.
func insertSitting(ctx context.Context, tx *store.Tx, s Sitting) error {
	s.forget(tx)
	_, err := tx.Insert(ctx,
		store.Named("sitting.insertSitting",
			"INSERT INTO sittings (assignment, student, attempt, began, ends) VALUES (?, ?, ?, ?, ?)"),
		s.Assignment,
		s.Student,
		s.Attempt,
		s.Began.Unix(),
		store.OrNull(s.Ends),
	)
	return store.Instead(err, store.ErrDuplicate, errBegun)
}

// updateEnds changes when an attempt is over.
func updateEnds(ctx context.Context, tx *store.Tx, s Sitting, ends time.Time) error {
	s.forget(tx)
	return tx.Change(ctx, store.Named("sitting.updateEnds",
		"UPDATE sittings SET ends = ? WHERE assignment = ? AND student = ? AND attempt = ?"), store.OrNull(ends),
		s.Assignment, s.Student, s.Attempt)
}

// handIn notes that an attempt is handed in; first is false where it was before.
func handIn(ctx context.Context, tx *store.Tx, student, assignment int64, attempt int, at time.Time) (first bool,
	err error) {
	attempts.Forget(tx, attemptsKey{assignment, student})
	return tx.Changed(ctx,
		store.Named("sitting.handIn",
			"UPDATE sittings SET handed = ? WHERE student = ? AND assignment = ? AND attempt = ? AND handed IS NULL"),
		at.Unix(),
		student,
		assignment,
		attempt,
	)
}

// InsertPaperSitting notes an attempt that a student made on a version, handed in when it is typed back.
func InsertPaperSitting(ctx context.Context, tx *store.Tx, s Sitting, version int) error {
	s.forget(tx)
	_, err := tx.Insert(ctx, store.Named("sitting.InsertPaperSitting",
		"INSERT INTO sittings (assignment, student, attempt, began, handed, version) VALUES (?, ?, ?, ?, ?, ?)"),
		s.Assignment, s.Student, s.Attempt, s.Began.Unix(), s.Handed.Unix(), version)
	return err
}
