package ledgers

import (
	"context"
	"time"

	"cavix/school/sitting"
	"cavix/store"
)

// PaperRow is a version of a given sheet as it was printed.
type PaperRow struct {
	Version int
	Cards   string // item documents, a JSON list
	Blocks  string // of the sheet, that each card comes from: a JSON list of numbers
	Made    time.Time
}

func scanPaper(r store.Row) (p PaperRow, err error) {
	var made int64
	err = r.Scan(&p.Version, &p.Cards, &p.Blocks, &made)
	p.Made = time.Unix(made, 0)
	return p, err
}

// ListPapers lists the versions of a sheet without their cards, up to most.
func ListPapers(ctx context.Context, q store.Queryer, assignment int64, most int) ([]PaperRow, error) {
	return store.All(ctx, q, scanPaper,
		store.Named("ledgers.ListPapers",
			"SELECT version, '', '', made FROM papers WHERE assignment = ? ORDER BY version LIMIT ?"), assignment, most)
}

// findPaper finds a version of a sheet.
func findPaper(ctx context.Context, q store.Queryer, assignment int64, version int) (PaperRow, error) {
	return store.Only(store.All(ctx, q, scanPaper,
		store.Named("ledgers.findPaper",
			"SELECT version, cards, blocks, made FROM papers WHERE assignment = ? AND version = ?"), assignment,
		version))
}

// insertPaper keeps a version of a sheet as it is printed.
func insertPaper(ctx context.Context, tx *store.Tx, assignment int64, p PaperRow) error {
	_, err := tx.Insert(ctx, store.Named("ledgers.insertPaper",
		"INSERT INTO papers (assignment, version, cards, blocks, made) VALUES (?, ?, ?, ?, ?)"), assignment, p.Version,
		p.Cards, p.Blocks, p.Made.Unix())
	return err
}

// PaperFor says that a student has a version of a sheet.
type PaperFor struct {
	Student int64
	Version int
	Typed   bool // what was written on it has been typed back
}

// listPaperFor lists who has which version of a sheet.
func listPaperFor(ctx context.Context, q store.Queryer, assignment int64) ([]PaperFor, error) {
	return store.All(ctx, q, func(r store.Row) (p PaperFor, err error) {
		return p,
			r.Scan(&p.Student, &p.Version, &p.Typed)
	},
		store.Named("ledgers.listPaperFor",
			`SELECT p.student, p.version, EXISTS (SELECT 1 FROM sittings t WHERE t.assignment = p.assignment
				AND t.student = p.student
			AND t.version = p.version) FROM paper_for p WHERE p.assignment = ?
			ORDER BY p.version, p.student`), assignment)
}

// updatePaperFor has a student have a version of a sheet, instead of another.
func updatePaperFor(ctx context.Context, tx *store.Tx, assignment, student int64, version int) error {
	_, err := tx.Exec(ctx, store.Named("ledgers.updatePaperFor",
		`INSERT INTO paper_for (assignment, student, version) VALUES (?, ?, ?)
		ON CONFLICT (assignment, student) DO UPDATE SET version = excluded.version`), assignment, student, version)
	return err
}

// findPaperAttempt finds the attempt that a student made on a version; 0 where there is none. Last is the student's
// latest attempt of all.
func findPaperAttempt(ctx context.Context, q store.Queryer, assignment, student int64, version int) (attempt, last int,
	err error) {
	err = store.One(ctx, q, store.Named("ledgers.findPaperAttempt",
		`SELECT coalesce(max(CASE WHEN version = ? THEN attempt END), 0), coalesce(max(attempt), 0)
		FROM sittings WHERE assignment = ? AND student = ?`), []any{version, assignment, student}, &attempt, &last)
	return attempt, last, err
}

// updateTyped keeps what was typed back from paper on a card, whatever stood there before.
func updateTyped(ctx context.Context, tx *store.Tx, card int64, a sitting.Answer) error {
	return tx.Change(ctx, store.Named("ledgers.updateTyped",
		"UPDATE cards SET answer = packed(?), answered = ?, late = ?, hidden = ?, draft = NULL WHERE id = ?"), a.Text,
		a.At.Unix(), a.Late, a.Hidden, card)
}
