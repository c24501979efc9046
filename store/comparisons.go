package store

import "time"

// Comparison is a set of parts that are compared with a size.
type Comparison struct {
	ID    int64
	Owner int64
	Title string
	Plan  string // as a document
	Token string // by which a device sends
	Made  time.Time
	Sent  int // readings that could be read
}

func scanComparison(r row) (c Comparison, err error) {
	var made int64
	err = r.Scan(&c.ID, &c.Owner, &c.Title, &c.Plan, &c.Token, &made, &c.Sent)
	c.Made = time.Unix(made, 0)
	return c, err
}

const comparisonColumns = `SELECT c.id, c.owner, c.title, c.plan, c.token, c.made,
	(SELECT count(*) FROM compared g WHERE g.comparison = c.id AND g.deviation IS NOT NULL) FROM comparisons c `

// Comparisons lists an instructor's comparisons, the newest first, up to most.
func (r *Reader) Comparisons(owner int64, most int) ([]Comparison, error) {
	return all(r, scanComparison, comparisonColumns+"WHERE c.owner = ? AND c.binned IS NULL ORDER BY c.id DESC LIMIT ?", owner, most)
}

// Comparison finds one of an instructor's comparisons.
func (r *Reader) Comparison(owner, id int64) (Comparison, error) {
	return only(all(r, scanComparison, comparisonColumns+"WHERE c.owner = ? AND c.id = ? AND c.binned IS NULL", owner, id))
}

// ComparisonByToken finds the comparison that a device sends to.
func (r *Reader) ComparisonByToken(token string) (Comparison, error) {
	return only(all(r, scanComparison, comparisonColumns+"WHERE c.token = ? AND c.binned IS NULL", token))
}

// AddComparison keeps a comparison.
func (t *Tx) AddComparison(c Comparison) (int64, error) {
	return t.insert("INSERT INTO comparisons (owner, title, plan, token, made) VALUES (?, ?, ?, ?, ?)", c.Owner, c.Title, c.Plan, c.Token,
		c.Made.Unix())
}

// BinComparison puts one of an instructor's comparisons into the bin, with all that was sent; a zero time takes it out
// again.
func (t *Tx) BinComparison(owner, id int64, at time.Time) error {
	return t.change("UPDATE comparisons SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?", orNull(at), id, owner,
		!at.IsZero())
}

// RemoveCompared deletes a line that was sent to a comparison.
func (t *Tx) RemoveCompared(comparison, id int64) error {
	return t.change("DELETE FROM compared WHERE comparison = ? AND id = ?", comparison, id)
}

// Compared is a line that a device sent.
type Compared struct {
	ID        int64
	Number    int // that it was sent with; 0 where there was none
	Line      string
	Deviation string // exact; "" where the line could not be read
	Why       string // why not
	At        time.Time
}

// Compared lists what was sent to a comparison, in the order in which it came.
func (r *Reader) Compared(comparison int64) ([]Compared, error) {
	return all(r, func(r row) (c Compared, err error) {
		var number *int64
		var deviation *string
		var at int64
		err = r.Scan(&c.ID, &number, &c.Line, &deviation, &c.Why, &at)
		c.Number, c.At = int(orZero(number)), time.Unix(at, 0)
		if deviation != nil {
			c.Deviation = *deviation
		}
		return c, err
	}, "SELECT id, number, line, deviation, why, at FROM compared WHERE comparison = ? ORDER BY id", comparison)
}

// AddCompared keeps a line; one whose number was read before is not counted again: first is then false.
func (t *Tx) AddCompared(comparison int64, c Compared) (first bool, err error) {
	return t.changed(`INSERT INTO compared (comparison, number, line, deviation, why, at)
		VALUES (?, nullif(?, 0), ?, nullif(?, ''), ?, ?) ON CONFLICT DO NOTHING`, comparison, c.Number, c.Line, c.Deviation, c.Why, c.At.Unix())
}
