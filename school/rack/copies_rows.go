package rack

import (
	"context"
	"time"

	"cavix/store"
)

// SentCopyRow is a copy of an instrument or a sheet that one instructor has sent to another.
type SentCopyRow struct {
	ID               int64
	Sender, Receiver int64
	From             string // the sender's name
	Kind             string // instrument or sheet
	Title            string
	Document         string
	Sent             time.Time
}

func scanCopy(r store.Row) (c SentCopyRow, err error) {
	var sent int64
	err = r.Scan(&c.ID, &c.Sender, &c.Receiver, &c.From, &c.Kind, &c.Title, &c.Document, &sent)
	c.Sent = time.Unix(sent, 0)
	return c, err
}

const copyColumns = `SELECT p.id, p.sender, p.receiver, i.name, p.kind, p.title, p.document, p.sent FROM sent_copies p
	JOIN instructors i ON i.id = p.sender `

// listCopies lists the copies that an instructor has been sent, newest first.
func listCopies(ctx context.Context, q store.Queryer, receiver int64) ([]SentCopyRow, error) {
	return store.All(ctx, q, scanCopy,
		store.Named("rack.listCopies", copyColumns+"WHERE p.receiver = ? ORDER BY p.sent DESC, p.id DESC"), receiver)
}

// findCopy finds a copy that an instructor has been sent.
func findCopy(ctx context.Context, q store.Queryer, receiver, id int64) (SentCopyRow, error) {
	return store.Only(store.All(ctx, q, scanCopy,
		store.Named("rack.findCopy", copyColumns+"WHERE p.receiver = ? AND p.id = ?"), receiver, id))
}

// sendCopy keeps a copy for another instructor.
func sendCopy(ctx context.Context, tx *store.Tx, c SentCopyRow) error {
	_, err := tx.Insert(ctx, store.Named("rack.sendCopy",
		"INSERT INTO sent_copies (sender, receiver, kind, title, document, sent) VALUES (?, ?, ?, ?, ?, ?)"), c.Sender,
		c.Receiver, c.Kind, c.Title, c.Document, c.Sent.Unix())
	return err
}

// deleteCopy removes a copy that an instructor has been sent.
func deleteCopy(ctx context.Context, tx *store.Tx, receiver, id int64) error {
	return tx.Change(ctx, store.Named("rack.deleteCopy", "DELETE FROM sent_copies WHERE receiver = ? AND id = ?"),
		receiver, id)
}
