package store

// Kept is a document that is kept somewhere in the file, whoever it belongs to.
type Kept struct {
	ID       int64
	Document string
}

// Shelf is where documents of one sort are kept.
type Shelf string

// The shelves, by what is kept there. Each names its rows id and document.
const (
	Instruments  Shelf = "SELECT id, document FROM instruments"
	SheetsMade   Shelf = "SELECT id, definition AS document FROM sheets"
	SheetsGiven  Shelf = "SELECT id, definition AS document FROM assignments"
	RoundsAsked  Shelf = "SELECT id, item AS document FROM rounds"
	PlansGiven   Shelf = "SELECT id, plan AS document FROM surveys"
	ZeroBounds   Shelf = "SELECT id, zero_limit AS document FROM instruments WHERE zero_limit <> ''"
	LogEntries   Shelf = "SELECT id, entry AS document FROM logbook"
	Comparisons  Shelf = "SELECT id, plan AS document FROM comparisons"
	Deviations   Shelf = "SELECT id, deviation AS document FROM compared WHERE deviation IS NOT NULL"
	Boards       Shelf = "SELECT class AS id, state AS document FROM boards"
	Conventions  Shelf = "SELECT id, method AS document FROM classes"
	Terms        Shelf = "SELECT id, words AS document FROM classes"
	CareItems    Shelf = `SELECT id, '{"format": "cavix/item", "version": 2, "kind": "' || kind || '", "body": ' || body || '}' AS document FROM bank`
	BeforeMarked Shelf = "SELECT id, definition AS document FROM remarkings"
)

// Shelved lists documents of a shelf after one of them, in the order of their ids, up to most. It asks for nobody: it is
// for looking through a whole file.
func (r *Reader) Shelved(from Shelf, after int64, most int) ([]Kept, error) {
	return all(r, func(r row) (k Kept, err error) { return k, r.Scan(&k.ID, &k.Document) },
		"SELECT id, document FROM ("+string(from)+") WHERE id > ? ORDER BY id LIMIT ?", after, most)
}

// Setups lists what the students of a survey worked out and set, each as a JSON object; the id is the student's.
func (r *Reader) Setups(survey int64) ([]Kept, error) {
	return all(r, func(r row) (k Kept, err error) { return k, r.Scan(&k.ID, &k.Document) },
		"SELECT student, answer FROM setups WHERE survey = ? ORDER BY student", survey)
}

// TitleOf is the title of a sheet that was given, and the name of its class.
func (r *Reader) TitleOf(assignment int64) (title, class string, err error) {
	return title, class, r.one("SELECT a.title, c.name FROM assignments a JOIN classes c ON c.id = a.class WHERE a.id = ?",
		[]any{assignment}, &title, &class)
}

// CardsAfter lists cards after one of them, whoever they belong to, in the order of their ids, up to most.
func (r *Reader) CardsAfter(after int64, most int) ([]Card, error) {
	return all(r, scanCard, cardColumns+"WHERE k.id > ? ORDER BY k.id LIMIT ?", after, most)
}

// EntriesFrom lists what the fields of cards came to, from one card to another, both included.
func (r *Reader) EntriesFrom(first, last int64) ([]Entry, error) {
	return all(r, scanEntry, entryColumns+"WHERE card BETWEEN ? AND ? ORDER BY card, n", first, last)
}

// SumsOff lists attempts whose sums are not those of their cards, up to most.
func (r *Reader) SumsOff(most int) ([]Sitting, error) {
	return all(r, func(r row) (s Sitting, err error) { return s, r.Scan(&s.Assignment, &s.Student, &s.Attempt) },
		`SELECT t.assignment, t.student, t.attempt FROM sittings t LEFT JOIN cards k
			ON k.assignment = t.assignment AND k.student = t.student AND k.attempt = t.attempt
		GROUP BY t.assignment, t.student, t.attempt
		HAVING t.done <> count(k.answered) OR t.half_marks <> coalesce(sum(coalesce(k.own_half_marks, k.half_marks)), 0)
			OR t.half_of <> coalesce(sum(k.half_of), 0) OR t.half_full <> coalesce(sum(k.half_full), 0) OR t.late <> coalesce(max(k.late), 0)
			OR t.hidden <> coalesce(max(k.hidden), 0) LIMIT ?`, most)
}

// RepliesAfter lists answers to a round after a student's, up to most.
func (r *Reader) RepliesAfter(round, student int64, most int) ([]Reply, error) {
	return all(r, scanReply, replyColumns+"WHERE round = ? AND student > ? ORDER BY student LIMIT ?", round, student, most)
}

// AllReadings lists what was read in a survey, by those too who lie in the bin.
func (r *Reader) AllReadings(survey int64) ([]Reading, error) {
	return all(r, scanReading, readingColumns+"WHERE g.survey = ? ORDER BY g.student, g.cell", survey)
}
