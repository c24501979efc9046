package store

import "time"

// Paper is a version of a given sheet as it was printed.
type Paper struct {
	Version int
	Cards   string // item documents, a JSON list
	Blocks  string // of the sheet, that each card comes from: a JSON list of numbers
	Made    time.Time
}

func scanPaper(r row) (p Paper, err error) {
	var made int64
	err = r.Scan(&p.Version, &p.Cards, &p.Blocks, &made)
	p.Made = time.Unix(made, 0)
	return p, err
}

// Papers lists the versions of a sheet without their cards, up to most.
func (r *Reader) Papers(assignment int64, most int) ([]Paper, error) {
	return all(r, scanPaper, "SELECT version, '', '', made FROM papers WHERE assignment = ? ORDER BY version LIMIT ?", assignment, most)
}

// Paper finds a version of a sheet.
func (r *Reader) Paper(assignment int64, version int) (Paper, error) {
	return only(all(r, scanPaper, "SELECT version, cards, blocks, made FROM papers WHERE assignment = ? AND version = ?",
		assignment, version))
}

// AddPaper keeps a version of a sheet as it is printed.
func (t *Tx) AddPaper(assignment int64, p Paper) error {
	_, err := t.insert("INSERT INTO papers (assignment, version, cards, blocks, made) VALUES (?, ?, ?, ?, ?)", assignment,
		p.Version, p.Cards, p.Blocks, p.Made.Unix())
	return err
}

// PaperFor says that a student has a version of a sheet.
type PaperFor struct {
	Student int64
	Version int
	Typed   bool // what was written on it has been typed back
}

// PaperFor lists who has which version of a sheet.
func (r *Reader) PaperFor(assignment int64) ([]PaperFor, error) {
	return all(r, func(r row) (p PaperFor, err error) { return p, r.Scan(&p.Student, &p.Version, &p.Typed) },
		`SELECT p.student, p.version, EXISTS (SELECT 1 FROM sittings t WHERE t.assignment = p.assignment AND t.student = p.student
			AND t.version = p.version) FROM paper_for p WHERE p.assignment = ? ORDER BY p.version, p.student`, assignment)
}

// SetPaperFor has a student have a version of a sheet, instead of another.
func (t *Tx) SetPaperFor(assignment, student int64, version int) error {
	_, err := t.Exec(`INSERT INTO paper_for (assignment, student, version) VALUES (?, ?, ?)
		ON CONFLICT (assignment, student) DO UPDATE SET version = excluded.version`, assignment, student, version)
	return err
}

// SatOnPaper finds the attempt that a student made on a version; 0 where there is none. Last is the student's latest
// attempt of all.
func (r *Reader) SatOnPaper(assignment, student int64, version int) (attempt, last int, err error) {
	return attempt, last, r.one(`SELECT coalesce(max(CASE WHEN version = ? THEN attempt END), 0), coalesce(max(attempt), 0)
		FROM sittings WHERE assignment = ? AND student = ?`, []any{version, assignment, student}, &attempt, &last)
}

// SitOnPaper notes an attempt that a student made on a version, handed in when it is typed back.
func (t *Tx) SitOnPaper(s Sitting, version int) error {
	_, err := t.insert("INSERT INTO sittings (assignment, student, attempt, began, handed, version) VALUES (?, ?, ?, ?, ?, ?)",
		s.Assignment, s.Student, s.Attempt, s.Began.Unix(), s.Handed.Unix(), version)
	return err
}

// Retype keeps what was typed back from paper on a card, whatever stood there before.
func (t *Tx) Retype(card int64, a Answer) error {
	return t.change("UPDATE cards SET answer = ?, answered = ?, late = ?, hidden = ?, draft = NULL WHERE id = ?", a.Text,
		a.At.Unix(), a.Late, a.Hidden, card)
}
