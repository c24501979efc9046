package store

import (
	"time"

	"cavix/core/names"
)

// Sort is what can be put into the bin.
type Sort string

// The sorts.
const (
	BinInstrument Sort = "instrument"
	BinSheet      Sort = "sheet"
	BinClass      Sort = "class"
	BinStudent    Sort = "student"
	BinStudy      Sort = "study"
	BinComparison Sort = "comparison"
)

// Binned is something in the bin.
type Binned struct {
	Sort Sort
	ID   int64
	Name string
	Of   string // the class, of a student or a study
	At   time.Time
}

// Bin lists what an instructor has put into the bin, the latest first, up to most: own instruments and sheets, classes that
// are theirs, students of classes that they lead, studies that they gave or whose class they lead, comparisons.
func (r *Reader) Bin(instructor int64, most int) ([]Binned, error) {
	return all(r, func(r row) (b Binned, err error) {
		var at int64
		err = r.Scan(&b.Sort, &b.ID, &b.Name, &b.Of, &at)
		b.At = time.Unix(at, 0)
		return b, err
	}, `SELECT 'instrument', id, name, '', binned FROM instruments WHERE owner = ? AND binned IS NOT NULL
		UNION ALL SELECT 'sheet', id, title, '', binned FROM sheets WHERE owner = ? AND binned IS NOT NULL
		UNION ALL SELECT 'class', id, name, '', binned FROM classes WHERE owner = ? AND binned IS NOT NULL
		UNION ALL SELECT 'student', s.id, s.name, c.name, s.binned FROM students s JOIN classes c ON c.id = s.class
			JOIN teaching t ON t.class = c.id AND t.role = 'leads' WHERE t.instructor = ? AND s.binned IS NOT NULL AND s.id NOT IN (SELECT student FROM merges)
		UNION ALL SELECT 'study', v.id, v.title, c.name, v.binned FROM surveys v JOIN classes c ON c.id = v.class
			JOIN teaching t ON t.class = c.id WHERE t.instructor = ? AND v.binned IS NOT NULL
			AND (t.role = 'leads' OR t.role = 'marks' AND v.owner = t.instructor)
		UNION ALL SELECT 'comparison', id, title, '', binned FROM comparisons WHERE owner = ? AND binned IS NOT NULL
		ORDER BY 5 DESC, 1, 2 LIMIT ?`, instructor, instructor, instructor, instructor, instructor, instructor, most)
}

// BinInstrument puts an instrument of an owner's into the bin; a zero time takes it out again.
func (t *Tx) BinInstrument(owner, id int64, at time.Time) error {
	return t.change("UPDATE instruments SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?", orNull(at), id, owner, !at.IsZero())
}

// BinSheet puts a sheet of an owner's into the bin; a zero time takes it out again. Classes that were given it keep it.
func (t *Tx) BinSheet(owner, id int64, at time.Time) error {
	return t.change("UPDATE sheets SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?", orNull(at), id, owner, !at.IsZero())
}

// BinClass puts a class of an owner's into the bin, with all that is kept of it; a zero time takes it out again.
func (t *Tx) BinClass(owner, id int64, at time.Time) error {
	return t.change("UPDATE classes SET binned = ? WHERE id = ? AND owner = ? AND (binned IS NULL) = ?", orNull(at), id, owner, !at.IsZero())
}

// BinStudent puts a student of a class into the bin: they are not there any more, all sessions are over, and the name is free
// for somebody else.
func (t *Tx) BinStudent(class, id int64, at time.Time) error {
	return t.change(`UPDATE students SET binned = ?, gone = coalesce(gone, ?), entry = entry + 1, folded = folded || char(10) || id
		WHERE id = ? AND class = ? AND NOT guest AND binned IS NULL`, at.Unix(), at.Unix(), id, class)
}

// BinnedStudent finds a student in the bin.
func (r *Reader) BinnedStudent(id int64) (Student, error) {
	return only(all(r, scanStudent, studentColumns+"WHERE s.id = ? AND s.binned IS NOT NULL", id))
}

// UnbinStudent takes a student out of the bin and back into the class; a name that has come to be there is ErrTaken.
func (t *Tx) UnbinStudent(s Student) error {
	return t.change("UPDATE students SET binned = NULL, gone = NULL, waits = 0, folded = ? WHERE id = ? AND binned IS NOT NULL",
		names.Fold(s.Name), s.ID)
}

// removals delete for good what lies in the bin, by sort; the rest of what is kept of it goes along.
var removals = map[Sort]string{
	BinInstrument: "DELETE FROM instruments WHERE binned IS NOT NULL",
	BinSheet:      "DELETE FROM sheets WHERE binned IS NOT NULL",
	BinClass:      "DELETE FROM classes WHERE binned IS NOT NULL",
	BinStudent:    "DELETE FROM students WHERE binned IS NOT NULL",
	BinStudy:      "DELETE FROM surveys WHERE binned IS NOT NULL",
	BinComparison: "DELETE FROM comparisons WHERE binned IS NOT NULL",
}

// Remove deletes something that lies in the bin for good. Whose it is was asked before.
func (t *Tx) Remove(s Sort, id int64) error { return t.change(removals[s]+" AND id = ?", id) }

// EmptyBins deletes for good what was put into a bin before a time.
func (t *Tx) EmptyBins(before time.Time) error {
	for _, remove := range removals {
		if _, err := t.Exec(remove+" AND binned < ?", before.Unix()); err != nil {
			return err
		}
	}
	return nil
}
