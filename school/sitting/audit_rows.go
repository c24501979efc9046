package sitting

import (
	"context"

	"cavix/store"
)

// SheetTitle is the title of a sheet that was given, and the name of its class.
func SheetTitle(ctx context.Context, q store.Queryer, assignment int64) (title, class string, err error) {
	err = store.One(ctx, q, store.Named("sitting.SheetTitle",
		"SELECT a.title, c.name FROM assignments a JOIN classes c ON c.id = a.class WHERE a.id = ?"), []any{assignment},
		&title, &class)
	return title, class, err
}

// LastCard returns the highest number of a card; 0 where there is none.
func LastCard(ctx context.Context, q store.Queryer) (id int64, err error) {
	err = store.One(ctx, q, store.Named("sitting.LastCard", "SELECT coalesce(max(id), 0) FROM cards"), nil, &id)
	return id, err
}

// LastSummed returns the highest number of a sheet that was given, or of a class; 0 where there is none.
func LastSummed(ctx context.Context, q store.Queryer) (id int64, err error) {
	err = store.One(ctx, q, store.Named("sitting.LastSummed", `SELECT max(
		(SELECT coalesce(max(id), 0) FROM assignments), (SELECT coalesce(max(id), 0) FROM classes))`), nil, &id)
	return id, err
}

// ListCardsBetween lists the cards after one of them up to another, whoever they belong to, in the order of their ids.
func ListCardsBetween(ctx context.Context, q store.Queryer, after, to int64) ([]CardRow, error) {
	return store.All(ctx, q, scanCard, store.Named("sitting.ListCardsBetween",
		cardColumns+"WHERE k.id > ? AND k.id <= ? ORDER BY k.id"), after, to)
}

// TallyOff is a tally that is not that of its cards, or is missing.
type TallyOff struct {
	Assignment int64 // 0 for the makers of a class
	Class      int64
	Slip       string
}

// ListTalliesOff lists the tallies of sheets after one of them up to another, and those of classes with the same
// numbers, that are not those of their cards, up to most of each.
func ListTalliesOff(ctx context.Context, q store.Queryer, after, to int64, most int) ([]TallyOff, error) {
	scan := func(r store.Row) (t TallyOff, err error) { return t, r.Scan(&t.Assignment, &t.Class, &t.Slip) }
	sheets, err := store.All(ctx, q, scan, store.Named("sitting.ListTalliesOff", `WITH counted AS (
		SELECT assignment, coalesce(slip, '') AS slip, answered / 900 AS quarter, block, kind, family,
			count(*) AS cards, sum(coalesce(own_half_marks, half_marks, 0)) AS half, sum(half_of) AS of FROM cards
		WHERE assignment > ?1 AND assignment <= ?2 AND answered IS NOT NULL AND half_of IS NOT NULL
		GROUP BY 1, 2, 3, 4, 5, 6), standing AS (SELECT * FROM tallies WHERE assignment > ?1 AND assignment <= ?2)
		SELECT DISTINCT assignment, 0, slip FROM (SELECT * FROM (SELECT * FROM counted EXCEPT SELECT * FROM standing)
		UNION ALL SELECT * FROM (SELECT * FROM standing EXCEPT SELECT * FROM counted)) LIMIT ?3`), after, to, most)
	if err != nil {
		return nil, err
	}
	classes, err := store.All(ctx, q, scan, store.Named("sitting.ListTalliesOff", `WITH counted AS (
		SELECT a.class, k.slip, k.student, count(*) AS cards FROM cards k JOIN assignments a ON a.id = k.assignment
		WHERE a.class > ?1 AND a.class <= ?2 AND k.answered IS NOT NULL AND k.half_of IS NOT NULL AND k.slip IS NOT NULL
		GROUP BY 1, 2, 3), standing AS (SELECT * FROM makers WHERE class > ?1 AND class <= ?2)
		SELECT DISTINCT 0, class, slip FROM (SELECT * FROM (SELECT * FROM counted EXCEPT SELECT * FROM standing)
		UNION ALL SELECT * FROM (SELECT * FROM standing EXCEPT SELECT * FROM counted)) LIMIT ?3`), after, to, most)
	return append(sheets, classes...), err
}

// ListSumsOff lists attempts on sheets after one of them up to another whose sums are not those of their cards, up to
// most.
func ListSumsOff(ctx context.Context, q store.Queryer, after, to int64, most int) ([]Sitting, error) {
	return store.All(ctx, q, func(r store.Row) (s Sitting, err error) {
		return s,
			r.Scan(&s.Assignment, &s.Student, &s.Attempt)
	},
		store.Named("sitting.ListSumsOff", `SELECT t.assignment, t.student, t.attempt FROM sittings t LEFT JOIN cards k
			ON k.assignment = t.assignment AND k.student = t.student AND k.attempt = t.attempt
		WHERE t.assignment > ? AND t.assignment <= ?
		GROUP BY t.assignment, t.student, t.attempt
		HAVING t.done <> count(k.answered) OR t.half_marks <> coalesce(sum(coalesce(k.own_half_marks, k.half_marks)), 0)
			OR t.half_of <> coalesce(sum(k.half_of), 0) OR t.half_full <> coalesce(sum(k.half_full), 0)
			OR t.late <> coalesce(max(k.late), 0)
			OR t.hidden <> coalesce(max(k.hidden), 0) LIMIT ?`), after, to, most)
}
