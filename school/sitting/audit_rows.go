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

// ListCardsAfter lists cards after one of them, whoever they belong to, in the order of their ids, up to most.
func ListCardsAfter(ctx context.Context, q store.Queryer, after int64, most int) ([]CardRow, error) {
	return store.All(ctx, q, scanCard, store.Named("sitting.ListCardsAfter",
		cardColumns+"WHERE k.id > ? ORDER BY k.id LIMIT ?"), after, most)
}

// ListEntriesFrom lists what the fields of cards came to, from one card to another, both included.
func ListEntriesFrom(ctx context.Context, q store.Queryer, first, last int64) ([]Entry, error) {
	return store.All(ctx, q, scanEntry, store.Named("sitting.ListEntriesFrom",
		entryColumns+"WHERE card BETWEEN ? AND ? ORDER BY card, n"), first, last)
}

// ListSumsOff lists attempts whose sums are not those of their cards, up to most.
func ListSumsOff(ctx context.Context, q store.Queryer, most int) ([]Sitting, error) {
	return store.All(ctx, q, func(r store.Row) (s Sitting, err error) {
		return s,
			r.Scan(&s.Assignment, &s.Student, &s.Attempt)
	},
		store.Named("sitting.ListSumsOff", `SELECT t.assignment, t.student, t.attempt FROM sittings t LEFT JOIN cards k
			ON k.assignment = t.assignment AND k.student = t.student AND k.attempt = t.attempt
		GROUP BY t.assignment, t.student, t.attempt
		HAVING t.done <> count(k.answered) OR t.half_marks <> coalesce(sum(coalesce(k.own_half_marks, k.half_marks)), 0)
			OR t.half_of <> coalesce(sum(k.half_of), 0) OR t.half_full <> coalesce(sum(k.half_full), 0)
			OR t.late <> coalesce(max(k.late), 0)
			OR t.hidden <> coalesce(max(k.hidden), 0) LIMIT ?`), most)
}
