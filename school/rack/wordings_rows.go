package rack

import (
	"context"

	"cavix/school/roster"
	"cavix/store"
)

// Wording is an instructor's own text for a slip.
type Wording struct {
	Code   string
	Off    bool
	Advice string
	Note   string
}

func scanWording(r store.Row) (w Wording, err error) {
	return w, r.Scan(&w.Code, &w.Off, &w.Advice, &w.Note)
}

// listWordings are an instructor's own words for slips.
func listWordings(ctx context.Context, q store.Queryer, owner int64) ([]Wording, error) {
	return store.All(ctx, q, scanWording,
		store.Named("rack.listWordings", "SELECT code, off, advice, note FROM slip_words WHERE owner = ?"), owner)
}

// wordingsOf remembers the words of instructors by their id.
var wordingsOf = store.NewCache[int64, []Wording](2_000)

// ListStudentWordings lists the words of the instructor who leads a student's class.
func ListStudentWordings(ctx context.Context, q store.Queryer, student int64) ([]Wording, error) {
	st, err := roster.FindStudent(ctx, q, student)
	if err != nil {
		return nil, err
	}
	return wordingsOf.Get(q, st.Owner, func() ([]Wording, error) { return listWordings(ctx, q, st.Owner) })
}

// ListClassWordings are the words of the instructor who leads a class.
func ListClassWordings(ctx context.Context, q store.Queryer, class int64) ([]Wording, error) {
	return store.All(ctx, q, scanWording, store.Named("rack.ListClassWordings",
		`SELECT w.code, w.off, w.advice, w.note FROM slip_words w JOIN classes c ON c.owner = w.owner
		WHERE c.id = ?`), class)
}

// updateWording keeps an instructor's words for one slip.
func updateWording(ctx context.Context, tx *store.Tx, owner int64, w Wording) error {
	wordingsOf.Forget(tx, owner)
	_, err := tx.Exec(ctx, store.Named("rack.updateWording",
		`INSERT INTO slip_words (owner, code, off, advice, note) VALUES (?, ?, ?, ?, ?)
		ON CONFLICT (owner, code) DO UPDATE SET off = excluded.off, advice = excluded.advice, note = excluded.note`),
		owner, w.Code, w.Off, w.Advice, w.Note)
	return err
}
