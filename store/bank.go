package store

// Banked is an item of a bank that an instructor wrote, changed or took out.
type Banked struct {
	ID       int64
	Kind     string
	Replaces string // fingerprint of the one that comes with the program; "" where it is new
	Body     string
	Retired  bool
}

func scanBanked(r row) (b Banked, err error) {
	return b, r.Scan(&b.ID, &b.Kind, &b.Replaces, &b.Body, &b.Retired)
}

const bankedColumns = "SELECT id, kind, replaces, body, retired FROM bank "

// Bank lists an instructor's own items of a kind, the oldest first.
func (r *Reader) Bank(owner int64, kind string) ([]Banked, error) {
	return all(r, scanBanked, bankedColumns+"WHERE owner = ? AND kind = ? ORDER BY id", owner, kind)
}

// KeepBanked keeps an item: a new one when its ID is 0.
func (t *Tx) KeepBanked(owner int64, b Banked) (int64, error) {
	if b.ID == 0 {
		return t.insert(
			"INSERT INTO bank (owner, kind, replaces, body, retired, changed) VALUES (?, ?, ?, ?, ?, ?)",
			owner,
			b.Kind,
			b.Replaces,
			b.Body,
			b.Retired,
			now(),
		)
	}
	return b.ID, t.change(
		"UPDATE bank SET body = ?, retired = ?, changed = ? WHERE id = ? AND owner = ?",
		b.Body,
		b.Retired,
		now(),
		b.ID,
		owner,
	)
}

// DropBanked forgets an item; where it stood for one that comes with the program, that one counts again.
func (t *Tx) DropBanked(owner, id int64) error {
	return t.change("DELETE FROM bank WHERE id = ? AND owner = ?", id, owner)
}
