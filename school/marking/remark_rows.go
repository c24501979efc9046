package marking

import (
	"context"
	"time"

	"cavix/store"
)

// Remarking is a marking anew of a given sheet, with the sheet as it was before.
type Remarking struct {
	ID         int64
	Definition string
}

// findLastRemarking finds the latest marking anew of a given sheet, or ErrNotFound.
func findLastRemarking(ctx context.Context, q store.Queryer, assignment int64) (m Remarking, err error) {
	err = store.One(ctx, q, store.Named("marking.findLastRemarking",
		"SELECT id, definition FROM remarkings WHERE assignment = ? ORDER BY id DESC LIMIT 1"), []any{assignment},
		&m.ID, &m.Definition)
	return m, err
}

// Before is the state of a card before it was re-marked.
type Before struct {
	Card     int64
	Item     string
	Result   *string // its entries as a JSON object with the list "steps"; nil when it was not answered yet
	Half, Of *int64
	Slip     *string
}

// listBefore lists what the cards were before a marking anew.
func listBefore(ctx context.Context, q store.Queryer, remarking int64) ([]Before, error) {
	return store.All(ctx, q, func(r store.Row) (b Before, err error) {
		return b, r.Scan(&b.Card, &b.Item, &b.Result, &b.Half, &b.Of, &b.Slip)
	},
		store.Named("marking.listBefore",
			"SELECT card, item, result, half_marks, half_of, slip FROM marks_before WHERE remarking = ?"), remarking)
}

// insertRemarking notes that a given sheet is marked anew.
func insertRemarking(ctx context.Context, tx *store.Tx, assignment int64, before string, at time.Time) (int64, error) {
	return tx.Insert(ctx, store.Named("marking.insertRemarking",
		"INSERT INTO remarkings (assignment, definition, at) VALUES (?, ?, ?)"), assignment, before, at.Unix())
}

// saveBefore keeps what a card was before it is marked anew.
func saveBefore(ctx context.Context, tx *store.Tx, remarking int64, b Before) error {
	_, err := tx.Exec(ctx,
		store.Named("marking.saveBefore",
			"INSERT INTO marks_before (remarking, card, item, result, half_marks, half_of, slip) VALUES (?, ?, ?, "+
				"?, ?, ?, ?)"),
		remarking,
		b.Card,
		b.Item,
		b.Result,
		b.Half,
		b.Of,
		b.Slip,
	)
	return err
}

// deleteRemarking forgets a marking anew that was taken back.
func deleteRemarking(ctx context.Context, tx *store.Tx, id int64) error {
	return tx.Change(ctx, store.Named("marking.deleteRemarking", "DELETE FROM remarkings WHERE id = ?"), id)
}

// updateOwnMark sets an instructor's own mark on an answered card, in halves, with the reason; nil takes it
// away again.
func updateOwnMark(ctx context.Context, tx *store.Tx, card int64, half *int64, reason string) error {
	return tx.Change(ctx, store.Named("marking.updateOwnMark",
		"UPDATE cards SET own_half_marks = ?, own_reason = ? WHERE id = ? AND answered IS NOT NULL"), half, reason,
		card)
}
