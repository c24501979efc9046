package studies

import (
	"context"
	"time"

	"cavix/store"
)

// ComparisonRow is a set of parts that are compared with a size.
type ComparisonRow struct {
	ID    int64
	Owner int64
	Title string
	Plan  string // as a document
	Token string // by which a device sends
	Made  time.Time
	Sent  int // readings that could be read
}

func scanComparison(r store.Row) (c ComparisonRow, err error) {
	var made int64
	err = r.Scan(&c.ID, &c.Owner, &c.Title, &c.Plan, &c.Token, &made, &c.Sent)
	c.Made = time.Unix(made, 0)
	return c, err
}

const comparisonColumns = `SELECT c.id, c.owner, c.title, c.plan, c.token, c.made,
	(SELECT count(*) FROM compared g WHERE g.comparison = c.id AND g.deviation IS NOT NULL) FROM comparisons c `

// listComparisons lists an instructor's comparisons, the newest first, up to most.
func listComparisons(ctx context.Context, q store.Queryer, owner int64, most int) ([]ComparisonRow, error) {
	return store.All(ctx, q, scanComparison, store.Named("studies.listComparisons",
		comparisonColumns+"WHERE c.owner = ? AND c.binned IS NULL ORDER BY c.id DESC LIMIT ?"), owner, most)
}

// findComparison finds one of an instructor's comparisons.
func findComparison(ctx context.Context, q store.Queryer, owner, id int64) (ComparisonRow, error) {
	return store.Only(store.All(ctx, q, scanComparison, store.Named("studies.findComparison",
		comparisonColumns+"WHERE c.owner = ? AND c.id = ? AND c.binned IS NULL"), owner, id))
}

// findComparisonByToken finds the comparison that a device sends to.
func findComparisonByToken(ctx context.Context, q store.Queryer, token string) (ComparisonRow, error) {
	return store.Only(store.All(ctx, q, scanComparison, store.Named("studies.findComparisonByToken",
		comparisonColumns+"WHERE c.token = ? AND c.binned IS NULL"), token))
}

// insertComparison keeps a comparison.
func insertComparison(ctx context.Context, tx *store.Tx, c ComparisonRow) (int64, error) {
	return tx.Insert(ctx, store.Named("studies.insertComparison",
		"INSERT INTO comparisons (owner, title, plan, token, made) VALUES (?, ?, ?, ?, ?)"), c.Owner, c.Title, c.Plan,
		c.Token, c.Made.Unix())
}

// BinComparison puts one of an instructor's comparisons into the bin, with all that was sent; a zero time takes it out
// again.
func BinComparison(ctx context.Context, tx *store.Tx, owner, id int64, at time.Time) error {
	return tx.Change(ctx, store.Named("studies.BinComparison",
		"UPDATE comparisons SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?"), store.OrNull(at), id,
		owner, !at.IsZero())
}

// deleteCompared deletes a line that was sent to a comparison.
func deleteCompared(ctx context.Context, tx *store.Tx, comparison, id int64) error {
	return tx.Change(ctx, store.Named("studies.deleteCompared", "DELETE FROM compared WHERE comparison = ? AND id = ?"),
		comparison, id)
}

// ComparedRow is a line that a device sent.
type ComparedRow struct {
	ID        int64
	Number    int // that it was sent with; 0 where there was none
	Line      string
	Deviation string // exact; "" where the line could not be read
	Why       string // why not
	At        time.Time
}

// listCompared lists what was sent to a comparison, in the order in which it came.
func listCompared(ctx context.Context, q store.Queryer, comparison int64) ([]ComparedRow, error) {
	return store.All(ctx, q, func(r store.Row) (c ComparedRow, err error) {
		var number *int64
		var deviation *string
		var at int64
		err = r.Scan(&c.ID, &number, &c.Line, &deviation, &c.Why, &at)
		c.Number, c.At = int(store.OrZero(number)), time.Unix(at, 0)
		if deviation != nil {
			c.Deviation = *deviation
		}
		return c, err
	}, store.Named("studies.listCompared",
		"SELECT id, number, line, deviation, why, at FROM compared WHERE comparison = ? ORDER BY id"), comparison)
}

// insertCompared keeps a line; one whose number was read before is not counted again: first is then false.
func insertCompared(ctx context.Context, tx *store.Tx, comparison int64, c ComparedRow) (first bool, err error) {
	return tx.Changed(ctx, store.Named("studies.insertCompared",
		`INSERT INTO compared (comparison, number, line, deviation, why, at)
		VALUES (?, nullif(?, 0), ?, nullif(?, ''), ?, ?)
		ON CONFLICT DO NOTHING`), comparison, c.Number, c.Line, c.Deviation, c.Why, c.At.Unix())
}

// RestoreComparison takes a comparison of an instructor's out of the Bin.
func RestoreComparison(ctx context.Context, tx *store.Tx, instructor, id int64) error {
	return BinComparison(ctx, tx, instructor, id, time.Time{})
}

// RemoveComparison deletes a comparison that lies in the Bin for good, with all that belongs to it.
func RemoveComparison(ctx context.Context, tx *store.Tx, id int64) error {
	return tx.Change(ctx, store.Named("studies.RemoveComparison",
		"DELETE FROM comparisons WHERE binned IS NOT NULL AND id = ?"), id)
}

// RemoveComparisons deletes the comparisons for good that came into the Bin before a time.
func RemoveComparisons(ctx context.Context, tx *store.Tx, before time.Time) error {
	_, err := tx.Exec(ctx, store.Named("studies.RemoveComparisons", "DELETE FROM comparisons WHERE binned < ?"),
		before.Unix())
	return err
}
