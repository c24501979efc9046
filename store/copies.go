package store

import "time"

// SentCopy is a copy of an instrument or a sheet that one instructor has sent to another.
type SentCopy struct {
	ID               int64
	Sender, Receiver int64
	From             string // the sender's name
	Kind             string // instrument or sheet
	Title            string
	Document         string
	Sent             time.Time
}

func scanCopy(r row) (c SentCopy, err error) {
	var sent int64
	err = r.Scan(&c.ID, &c.Sender, &c.Receiver, &c.From, &c.Kind, &c.Title, &c.Document, &sent)
	c.Sent = time.Unix(sent, 0)
	return c, err
}

const copyColumns = `SELECT p.id, p.sender, p.receiver, i.name, p.kind, p.title, p.document, p.sent FROM sent_copies p
	JOIN instructors i ON i.id = p.sender `

// Copies lists the copies that an instructor has been sent, newest first.
func (r *Reader) Copies(receiver int64) ([]SentCopy, error) {
	return all(r, scanCopy, copyColumns+"WHERE p.receiver = ? ORDER BY p.sent DESC, p.id DESC", receiver)
}

// Copy finds a copy that an instructor has been sent.
func (r *Reader) Copy(receiver, id int64) (SentCopy, error) {
	return only(all(r, scanCopy, copyColumns+"WHERE p.receiver = ? AND p.id = ?", receiver, id))
}

// SendCopy keeps a copy for another instructor.
func (t *Tx) SendCopy(c SentCopy) error {
	_, err := t.insert("INSERT INTO sent_copies (sender, receiver, kind, title, document, sent) VALUES (?, ?, ?, ?, ?, ?)",
		c.Sender, c.Receiver, c.Kind, c.Title, c.Document, c.Sent.Unix())
	return err
}

// DropCopy removes a copy that an instructor has been sent.
func (t *Tx) DropCopy(receiver, id int64) error {
	return t.change("DELETE FROM sent_copies WHERE receiver = ? AND id = ?", receiver, id)
}
