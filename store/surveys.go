package store

import "time"

// Survey is a set of made-up parts that a class measures.
type Survey struct {
	ID        int64
	Class     int64
	ClassName string
	Title     string
	Plan      string // as a document
	Seed      int64
	Given     time.Time
	Closed    time.Time // zero while it is read
	Zone      string    // of the class's clock
	Words     string    // that the class's students see
	Owner     int64     // the instructor who gave it; 0 where that was not kept
	Read      int       // readings taken: by the student who asks, or by all the class
	Readers   int       // students who have taken any
}

func scanSurvey(r row) (s Survey, err error) {
	var given int64
	var closed, owner *int64
	err = r.Scan(&s.ID, &s.Class, &s.ClassName, &s.Title, &s.Plan, &s.Seed, &given, &closed, &owner, &s.Zone, &s.Words, &s.Read, &s.Readers)
	s.Given, s.Closed, s.Owner = time.Unix(given, 0), when(closed), orZero(owner)
	return s, err
}

const surveyHead = "SELECT a.id, a.class, c.name, a.title, a.plan, a.seed, a.given, a.closed, a.owner, c.zone, c.words, "

// surveysOf reads surveys with a count of the readings for which whose holds.
func surveysOf(whose string) string {
	return surveyHead + "(SELECT count(*) FROM readings g WHERE g.survey = a.id AND " + whose + `),
		(SELECT count(DISTINCT g.student) FROM readings g WHERE g.survey = a.id AND ` + whose + `)
		FROM surveys a JOIN classes c ON c.id = a.class `
}

// Surveys lists the surveys of the classes that an instructor teaches, the newest first, up to most.
func (r *Reader) Surveys(instructor int64, most int) ([]Survey, error) {
	return all(r, scanSurvey, surveysOf("true")+"WHERE a.binned IS NULL AND "+taughtSheet+" ORDER BY a.id DESC LIMIT ?", instructor, most)
}

// Survey finds a survey of a class that an instructor teaches.
func (r *Reader) Survey(instructor, id int64) (Survey, error) {
	return only(all(r, scanSurvey, surveysOf("true")+"WHERE a.binned IS NULL AND "+taughtSheet+" AND a.id = ?", instructor, id))
}

// StudentSurveys lists the surveys of a student's class, the newest first, up to most.
func (r *Reader) StudentSurveys(student int64, most int) ([]Survey, error) {
	return all(r, scanSurvey, surveysOf("g.student = s.id")+"JOIN students s ON s.class = c.id WHERE a.binned IS NULL AND s.id = ? ORDER BY a.id DESC LIMIT ?",
		student, most)
}

// StudentSurvey finds a survey of a student's class.
func (r *Reader) StudentSurvey(student, id int64) (Survey, error) {
	return only(all(r, scanSurvey, surveysOf("g.student = s.id")+"JOIN students s ON s.class = c.id WHERE a.binned IS NULL AND s.id = ? AND a.id = ?", student, id))
}

// AddSurvey keeps a survey that a class is given.
func (t *Tx) AddSurvey(s Survey) (int64, error) {
	return t.insert("INSERT INTO surveys (class, title, plan, seed, given, owner) VALUES (?, ?, ?, ?, ?, ?)", s.Class, s.Title, s.Plan,
		s.Seed, s.Given.Unix(), s.Owner)
}

// CloseSurvey ends a survey; a zero time lets it go on.
func (t *Tx) CloseSurvey(id int64, at time.Time) error {
	return t.change("UPDATE surveys SET closed = ? WHERE id = ?", orNull(at), id)
}

// BinSurvey puts a survey into the bin, with all its readings; a zero time takes it out again.
func (t *Tx) BinSurvey(id int64, at time.Time) error {
	return t.change("UPDATE surveys SET binned = ? WHERE id = ? AND (binned IS NULL) = ?", orNull(at), id, !at.IsZero())
}

// RemoveReading deletes a student's reading in a cell of a survey.
func (t *Tx) RemoveReading(survey, student int64, cell int) error {
	return t.change("DELETE FROM readings WHERE survey = ? AND student = ? AND cell = ?", survey, student, cell)
}

// Reading is what a student read in a cell of a survey.
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

func scanReading(r row) (g Reading, err error) {
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

// Readings lists what was read in a survey, by student in the order in which it was read.
func (r *Reader) Readings(survey int64) ([]Reading, error) {
	return all(r, scanReading, readingColumns+"WHERE g.survey = ? AND s.binned IS NULL ORDER BY s.folded, g.student, g.at, g.cell", survey)
}

// ReadingsBy lists what a student read in a survey, in the order in which it was read.
func (r *Reader) ReadingsBy(survey, student int64) ([]Reading, error) {
	return all(r, scanReading, readingColumns+"WHERE g.survey = ? AND g.student = ? ORDER BY g.at, g.cell", survey, student)
}

// SurveyReading is a reading with the survey that it belongs to.
type SurveyReading struct {
	Reading
	Title string // of the survey
}

// SurveyReadings lists what a student of a class has read in all surveys.
func (r *Reader) SurveyReadings(class, student int64) ([]SurveyReading, error) {
	return all(r, func(r row) (g SurveyReading, err error) {
		var at int64
		var slip *string
		err = r.Scan(&g.Title, &g.Student, &g.Cell, &g.Given, &g.Value, &g.Right, &slip, &at)
		if g.At = time.Unix(at, 0); slip != nil {
			g.Slip = *slip
		}
		return g, err
	}, `SELECT v.title, g.student, g.cell, g.given, g.value, g.right, g.slip, g.at FROM readings g JOIN surveys v ON v.id = g.survey
		JOIN students s ON s.id = g.student WHERE s.class = ? AND s.id = ? ORDER BY v.id, g.at, g.cell`, class, student)
}

// WriteDown keeps a reading of a cell that has none.
func (t *Tx) WriteDown(survey int64, g Reading) error {
	_, err := t.insert(`INSERT INTO readings (survey, student, cell, given, value, right, slip, at) VALUES (?, ?, ?, ?, ?, ?, nullif(?, ''), ?)`,
		survey, g.Student, g.Cell, g.Given, g.Value, g.Right, g.Slip, g.At.Unix())
	return err
}

// Verdict is what a student says of a part.
type Verdict struct {
	Student int64
	Part    int
	Verdict string
	Beyond  string // by how much it lies beyond a limit, as typed; "" where that is not asked
}

// Verdicts lists what students say of the parts of a survey.
func (r *Reader) Verdicts(survey int64) ([]Verdict, error) {
	return all(r, func(r row) (v Verdict, err error) { return v, r.Scan(&v.Student, &v.Part, &v.Verdict, &v.Beyond) },
		"SELECT student, part, verdict, beyond FROM verdicts WHERE survey = ? ORDER BY student, part", survey)
}

// SetVerdict keeps what a student says of a part, instead of what was said before.
func (t *Tx) SetVerdict(survey int64, v Verdict, at time.Time) error {
	_, err := t.Exec(`INSERT INTO verdicts (survey, student, part, verdict, beyond, at) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (survey, student, part) DO UPDATE SET verdict = excluded.verdict, beyond = excluded.beyond, at = excluded.at`,
		survey, v.Student, v.Part, v.Verdict, v.Beyond, at.Unix())
	return err
}

// Trial is how far a student has tried a part in a gauge, and what was said of it then.
type Trial struct {
	Student  int64
	Part     int
	Go, NoGo bool   // it was tried in that gauge
	Said     string // accept or reject; "" until something was said
}

// Trials lists how far the students of a survey have tried its parts.
func (r *Reader) Trials(survey int64) ([]Trial, error) {
	return all(r, func(r row) (t Trial, err error) { return t, r.Scan(&t.Student, &t.Part, &t.Go, &t.NoGo, &t.Said) },
		"SELECT student, part, go, no_go, said FROM trials WHERE survey = ? ORDER BY student, part", survey)
}

// Try keeps that a part was tried in a gauge, or what was said of it, which then stays.
func (t *Tx) Try(survey int64, k Trial) error {
	_, err := t.Exec(`INSERT INTO trials (survey, student, part, go, no_go, said) VALUES (?, ?, ?, ?, ?, ?)
		ON CONFLICT (survey, student, part) DO UPDATE SET go = max(go, excluded.go), no_go = max(no_go, excluded.no_go),
		said = CASE WHEN said = '' THEN excluded.said ELSE said END`, survey, k.Student, k.Part, k.Go, k.NoGo, k.Said)
	return err
}

// Setup finds what a student worked out and set before measuring, as a JSON object; "" where nothing was.
func (r *Reader) Setup(survey, student int64) (answer string, err error) {
	err = r.one("SELECT answer FROM setups WHERE survey = ? AND student = ?", []any{survey, student}, &answer)
	if err == ErrNotFound {
		return "", nil
	}
	return answer, err
}

// SetUp keeps what a student worked out and set; what was kept before stays.
func (t *Tx) SetUp(survey, student int64, answer string, at time.Time) error {
	_, err := t.Exec("INSERT INTO setups (survey, student, answer, at) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING", survey, student, answer,
		at.Unix())
	return err
}
