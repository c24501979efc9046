package bin

import (
	"context"
	"time"

	"cavix/store"
)

// Sort is a sort of thing that can be in the bin.
type Sort string

// The sorts.
const (
	Instrument Sort = "instrument"
	Sheet      Sort = "sheet"
	Class      Sort = "class"
	Student    Sort = "student"
	Study      Sort = "study"
	Comparison Sort = "comparison"
)

// Binned is something in the bin.
type Binned struct {
	Sort Sort
	ID   int64
	Name string
	Of   string // the class, of a student or a study
	At   time.Time
}

// listBin lists what an instructor has put into the bin, the latest first, up to most: own instruments and sheets,
// classes that are theirs, students of classes that they lead, studies that they gave or whose class they lead,
// comparisons.
func listBin(ctx context.Context, q store.Queryer, instructor int64, most int) ([]Binned, error) {
	return store.All(ctx, q, func(r store.Row) (b Binned, err error) {
		var at int64
		err = r.Scan(&b.Sort, &b.ID, &b.Name, &b.Of, &at)
		b.At = time.Unix(at, 0)
		return b, err
	}, store.Named("bin.listBin",
		`SELECT 'instrument', id, name, '', binned FROM instruments WHERE owner = ? AND binned IS NOT NULL
		UNION ALL SELECT 'sheet', id, title, '', binned FROM sheets WHERE owner = ? AND binned IS NOT NULL
		UNION ALL SELECT 'class', id, name, '', binned FROM classes WHERE owner = ? AND binned IS NOT NULL
		UNION ALL SELECT 'student', s.id, s.name, c.name, s.binned FROM students s JOIN classes c ON c.id = s.class
			JOIN teaching t ON t.class = c.id AND t.role = 'leads' WHERE t.instructor = ? AND s.binned IS NOT NULL
			AND s.id NOT IN (SELECT student FROM merges)
		UNION ALL SELECT 'study', v.id, v.title, c.name, v.binned FROM surveys v JOIN classes c ON c.id = v.class
			JOIN teaching t ON t.class = c.id WHERE t.instructor = ? AND v.binned IS NOT NULL
			AND (t.role = 'leads' OR t.role = 'marks' AND v.owner = t.instructor)
		UNION ALL SELECT 'comparison', id, title, '', binned FROM comparisons WHERE owner = ? AND binned IS NOT NULL
		ORDER BY 5 DESC, 1, 2 LIMIT ?`), instructor, instructor, instructor, instructor, instructor, instructor, most)
}
