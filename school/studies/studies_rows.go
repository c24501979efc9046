package studies

import (
	"context"
	"errors"
	"time"

	"cavix/school/access"
	"cavix/store"
)

// ListSetups lists what the students of a survey worked out and set, each as a JSON object; the id is the student's.
func ListSetups(ctx context.Context, q store.Queryer, survey int64) ([]store.Kept, error) {
	return store.All(ctx, q, func(r store.Row) (k store.Kept, err error) { return k, r.Scan(&k.ID, &k.Document) },
		store.Named("studies.ListSetups", "SELECT student, answer FROM setups WHERE survey = ? ORDER BY student"),
		survey)
}

// ListAllReadings lists what was read in a survey, by those too who lie in the bin.
func ListAllReadings(ctx context.Context, q store.Queryer, survey int64) ([]Reading, error) {
	return store.All(ctx, q, scanReading, store.Named("studies.ListAllReadings",
		readingColumns+"WHERE g.survey = ? ORDER BY g.student, g.cell"), survey)
}

// SurveyRow is a set of made-up parts that a class measures.
type SurveyRow struct {
	ID         int64
	Class      int64
	ClassName  string
	Title      string
	Plan       string // as a document
	Seed       int64
	Given      time.Time
	Closed     time.Time // zero while it is read
	Zone       string    // of the class's clock
	Words      string    // that the class's students see
	Owner      int64     // the instructor who gave it; 0 where that was not kept
	Read       int       // readings taken: by the student who asks, or by all the class
	Appraisers int       // students who have taken any
}

func scanSurvey(r store.Row) (s SurveyRow, err error) {
	var given int64
	var closed, owner *int64
	err = r.Scan(&s.ID, &s.Class, &s.ClassName, &s.Title, &s.Plan, &s.Seed, &given, &closed, &owner, &s.Zone, &s.Words,
		&s.Read, &s.Appraisers)
	s.Given, s.Closed, s.Owner = time.Unix(given, 0), store.TimeOf(closed), store.OrZero(owner)
	return s, err
}

const surveyHead = "SELECT a.id, a.class, c.name, a.title, a.plan, a.seed, a.given, a.closed, a.owner, c.zone, " +
	"c.words, "

// surveysOf reads surveys with a count of the readings for which whose holds.
func surveysOf(whose string) string {
	return surveyHead + "(SELECT count(*) FROM readings g WHERE g.survey = a.id AND " + whose + `),
		(SELECT count(DISTINCT g.student) FROM readings g WHERE g.survey = a.id AND ` + whose + `)
		FROM surveys a JOIN classes c ON c.id = a.class `
}

// listSurveys lists the surveys of the classes that an instructor teaches, the newest first, up to most.
func listSurveys(ctx context.Context, q store.Queryer, instructor int64, most int) ([]SurveyRow, error) {
	return store.All(ctx, q, scanSurvey,
		store.Named("studies.listSurveys",
			surveysOf("true")+"WHERE a.binned IS NULL AND "+access.TaughtSheet+" ORDER BY a.id DESC LIMIT ?"),
		instructor, most)
}

// findSurvey finds a survey of a class that an instructor teaches.
func findSurvey(ctx context.Context, q store.Queryer, instructor, id int64) (SurveyRow, error) {
	return store.Only(store.All(ctx, q, scanSurvey,
		store.Named("studies.findSurvey",
			surveysOf("true")+"WHERE a.binned IS NULL AND "+access.TaughtSheet+" AND a.id = ?"), instructor, id))
}

// listStudentSurveys lists the surveys of a student's class, the newest first, up to most.
func listStudentSurveys(ctx context.Context, q store.Queryer, student int64, most int) ([]SurveyRow, error) {
	return store.All(ctx, q, scanSurvey, store.Named("studies.listStudentSurveys",
		surveysOf("g.student = s.id")+"JOIN students s ON s.class = c.id WHERE a.binned IS NULL AND s.id = ? ORDER "+
			"BY a.id DESC LIMIT ?"), student, most)
}

// findStudentSurvey finds a survey of a student's class.
func findStudentSurvey(ctx context.Context, q store.Queryer, student, id int64) (SurveyRow, error) {
	return store.Only(store.All(ctx, q, scanSurvey, store.Named("studies.findStudentSurvey",
		surveysOf("g.student = s.id")+"JOIN students s ON s.class = c.id WHERE a.binned IS NULL AND s.id = ? AND "+
			"a.id = ?"), student, id))
}

// insertSurvey keeps a survey that a class is given.
func insertSurvey(ctx context.Context, tx *store.Tx, s SurveyRow) (int64, error) {
	return tx.Insert(ctx, store.Named("studies.insertSurvey",
		"INSERT INTO surveys (class, title, plan, seed, given, owner) VALUES (?, ?, ?, ?, ?, ?)"), s.Class, s.Title,
		s.Plan, s.Seed, s.Given.Unix(), s.Owner)
}

// closeSurvey ends a survey; a zero time lets it go on.
func closeSurvey(ctx context.Context, tx *store.Tx, id int64, at time.Time) error {
	return tx.Change(ctx, store.Named("studies.closeSurvey", "UPDATE surveys SET closed = ? WHERE id = ?"),
		store.OrNull(at), id)
}

// BinSurvey puts a survey into the bin, with all its readings; a zero time takes it out again.
func BinSurvey(ctx context.Context, tx *store.Tx, id int64, at time.Time) error {
	return tx.Change(ctx, store.Named("studies.BinSurvey",
		"UPDATE surveys SET binned = ? WHERE id = ? AND (binned IS NULL) = ?"), store.OrNull(at), id, !at.IsZero())
}

// deleteReading deletes a student's reading in a cell of a survey.
func deleteReading(ctx context.Context, tx *store.Tx, survey, student int64, cell int) error {
	return tx.Change(ctx, store.Named("studies.deleteReading",
		"DELETE FROM readings WHERE survey = ? AND student = ? AND cell = ?"), survey, student, cell)
}

// Reading is a student's reading in one cell of a study.
type Reading struct {
	Student int64
	Name    string // of the student
	Cell    int
	Given   string // as typed
	Value   string // exact
	Right   bool
	Slip    string // the first that explains it
	At      time.Time
}

func scanReading(r store.Row) (g Reading, err error) {
	var at int64
	var slip *string
	err = r.Scan(&g.Student, &g.Name, &g.Cell, &g.Given, &g.Value, &g.Right, &slip, &at)
	if g.At = time.Unix(at, 0); slip != nil {
		g.Slip = *slip
	}
	return g, err
}

const readingColumns = `SELECT g.student, s.name, g.cell, g.given, g.value, g.right, g.slip, g.at FROM readings g
	JOIN students s ON s.id = g.student `

// listReadings lists what was read in a survey, by student in the order in which it was read.
func listReadings(ctx context.Context, q store.Queryer, survey int64) ([]Reading, error) {
	return store.All(ctx, q, scanReading,
		store.Named("studies.listReadings",
			readingColumns+"WHERE g.survey = ? AND s.binned IS NULL ORDER BY s.folded, g.student, g.at, g.cell"),
		survey)
}

// listReadingsBy lists what a student read in a survey, in the order in which it was read.
func listReadingsBy(ctx context.Context, q store.Queryer, survey, student int64) ([]Reading, error) {
	return store.All(ctx, q, scanReading, store.Named("studies.listReadingsBy",
		readingColumns+"WHERE g.survey = ? AND g.student = ? ORDER BY g.at, g.cell"), survey, student)
}

// SurveyReading is a reading with the survey that it belongs to.
type SurveyReading struct {
	Reading
	Title string // of the survey
}

// listSurveyReadings lists what a student of a class has read in all surveys.
func listSurveyReadings(ctx context.Context, q store.Queryer, class, student int64) ([]SurveyReading, error) {
	return store.All(ctx, q, func(r store.Row) (g SurveyReading, err error) {
		var at int64
		var slip *string
		err = r.Scan(&g.Title, &g.Student, &g.Cell, &g.Given, &g.Value, &g.Right, &slip, &at)
		if g.At = time.Unix(at, 0); slip != nil {
			g.Slip = *slip
		}
		return g, err
	}, store.Named("studies.listSurveyReadings",
		`SELECT v.title, g.student, g.cell, g.given, g.value, g.right, g.slip, g.at FROM readings g JOIN surveys v
			ON v.id = g.survey
		JOIN students s ON s.id = g.student WHERE s.class = ? AND s.id = ?
		ORDER BY v.id, g.at, g.cell`), class, student)
}

// writeDown keeps a reading of a cell that has none.
func writeDown(ctx context.Context, tx *store.Tx, survey int64, g Reading) error {
	_, err := tx.Insert(ctx, store.Named("studies.writeDown",
		`INSERT INTO readings (survey, student, cell, given, value, right, slip, at)
			VALUES (?, ?, ?, ?, ?, ?, nullif(?, ''), ?)`), survey, g.Student, g.Cell, g.Given, g.Value, g.Right, g.Slip,
		g.At.Unix())
	return err
}

// Verdict is a student's verdict on a part.
type Verdict struct {
	Student int64
	Part    int
	Verdict string
	Beyond  string // by how much it lies beyond a limit, as typed; "" where that is not asked
}

// listVerdicts lists what students say of the parts of a survey.
func listVerdicts(ctx context.Context, q store.Queryer, survey int64) ([]Verdict, error) {
	return store.All(ctx, q, func(r store.Row) (v Verdict, err error) {
		return v,
			r.Scan(&v.Student, &v.Part, &v.Verdict, &v.Beyond)
	},
		store.Named("studies.listVerdicts",
			"SELECT student, part, verdict, beyond FROM verdicts WHERE survey = ? ORDER BY student, part"), survey)
}

// updateVerdict keeps what a student says of a part, instead of what was said before.
func updateVerdict(ctx context.Context, tx *store.Tx, survey int64, v Verdict, at time.Time) error {
	_, err := tx.Exec(ctx, store.Named("studies.updateVerdict",
		`INSERT INTO verdicts (survey, student, part, verdict, beyond, at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (survey, student, part) DO UPDATE
		SET verdict = excluded.verdict, beyond = excluded.beyond, at = excluded.at`),
		survey, v.Student, v.Part, v.Verdict, v.Beyond, at.Unix())
	return err
}

// Trial tells how far a student has tried a part in a gauge, and what was said of it then.
type Trial struct {
	Student  int64
	Part     int
	Go, NoGo bool   // it was tried in that gauge
	Said     string // accept or reject; "" until something was said
}

// listTrials lists how far the students of a survey have tried its parts.
func listTrials(ctx context.Context, q store.Queryer, survey int64) ([]Trial, error) {
	return store.All(ctx, q, func(r store.Row) (t Trial, err error) {
		return t,
			r.Scan(&t.Student, &t.Part, &t.Go, &t.NoGo, &t.Said)
	},
		store.Named("studies.listTrials",
			"SELECT student, part, go, no_go, said FROM trials WHERE survey = ? ORDER BY student, part"), survey)
}

// try keeps that a part was tried in a gauge, or what was said of it, which then stays.
func try(ctx context.Context, tx *store.Tx, survey int64, k Trial) error {
	_, err := tx.Exec(ctx, store.Named("studies.try",
		`INSERT INTO trials (survey, student, part, go, no_go, said) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (survey, student, part) DO UPDATE SET go = max(go, excluded.go), no_go = max(no_go, excluded.no_go),
		said = CASE WHEN said = '' THEN excluded.said ELSE said END`), survey, k.Student, k.Part, k.Go, k.NoGo, k.Said)
	return err
}

// findSetup finds what a student worked out and set before measuring, as a JSON object; "" where nothing was.
func findSetup(ctx context.Context, q store.Queryer, survey, student int64) (answer string, err error) {
	err = store.One(ctx, q, store.Named("studies.findSetup",
		"SELECT answer FROM setups WHERE survey = ? AND student = ?"), []any{survey, student}, &answer)
	if errors.Is(err, store.ErrNotFound) {
		return "", nil
	}
	return answer, err
}

// updateUp keeps what a student worked out and set; what was kept before stays.
func updateUp(ctx context.Context, tx *store.Tx, survey, student int64, answer string, at time.Time) error {
	_, err := tx.Exec(ctx, store.Named("studies.updateUp",
		"INSERT INTO setups (survey, student, answer, at) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING"), survey, student,
		answer, at.Unix())
	return err
}

// RestoreStudy takes a study out of the Bin.
func RestoreStudy(ctx context.Context, tx *store.Tx, _, id int64) error {
	return BinSurvey(ctx, tx, id, time.Time{})
}

// RemoveStudy deletes a study that lies in the Bin for good, with all that belongs to it.
func RemoveStudy(ctx context.Context, tx *store.Tx, id int64) error {
	return tx.Change(ctx, store.Named("studies.RemoveStudy", "DELETE FROM surveys WHERE binned IS NOT NULL AND id = ?"),
		id)
}

// RemoveStudies deletes the studies for good that came into the Bin before a time.
func RemoveStudies(ctx context.Context, tx *store.Tx, before time.Time) error {
	_, err := tx.Exec(ctx, store.Named("studies.RemoveStudies", "DELETE FROM surveys WHERE binned < ?"), before.Unix())
	return err
}
