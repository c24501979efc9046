package rack

import (
	"context"

	"cavix/store"
)

// BankedRow is an item of a bank that an instructor wrote, changed or took out.
type BankedRow struct {
	ID       int64
	Kind     string
	Replaces string // fingerprint of the one that comes with the program; "" where it is new
	Body     string
	Retired  bool
}

func scanBanked(r store.Row) (b BankedRow, err error) {
	return b, r.Scan(&b.ID, &b.Kind, &b.Replaces, &b.Body, &b.Retired)
}

const bankedColumns = "SELECT id, kind, replaces, body, retired FROM bank "

// listBank lists an instructor's own items of a kind, the oldest first.
func listBank(ctx context.Context, q store.Queryer, owner int64, kind string) ([]BankedRow, error) {
	return store.All(ctx, q, scanBanked,
		store.Named("rack.listBank", bankedColumns+"WHERE owner = ? AND kind = ? ORDER BY id"), owner, kind)
}

// saveBanked keeps an item: a new one when its ID is 0.
func saveBanked(ctx context.Context, tx *store.Tx, owner int64, b BankedRow) (int64, error) {
	if b.ID == 0 {
		return tx.Insert(ctx,
			store.Named("rack.saveBanked",
				"INSERT INTO bank (owner, kind, replaces, body, retired, changed) VALUES (?, ?, ?, ?, ?, ?)"),
			owner,
			b.Kind,
			b.Replaces,
			b.Body,
			b.Retired,
			store.Now(),
		)
	}
	return b.ID, tx.Change(ctx,
		store.Named("rack.saveBanked", "UPDATE bank SET body = ?, retired = ?, changed = ? WHERE id = ? AND owner = ?"),
		b.Body,
		b.Retired,
		store.Now(),
		b.ID,
		owner,
	)
}

// deleteBanked forgets an item; where it stood for one that comes with the program, that one counts again.
func deleteBanked(ctx context.Context, tx *store.Tx, owner, id int64) error {
	return tx.Change(ctx, store.Named("rack.deleteBanked", "DELETE FROM bank WHERE id = ? AND owner = ?"), id, owner)
}
