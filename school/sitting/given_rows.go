package sitting

import (
	"context"

	"cavix/school/access"
	"cavix/store"
)

// ListTerm lists the sheets given to a class that an instructor teaches, the oldest first, without any tally.
func ListTerm(ctx context.Context, q store.Queryer, instructor, class int64) ([]Assignment, error) {
	return store.All(ctx, q, ScanAssignment,
		store.Named("sitting.ListTerm",
			assignmentColumns+`, 0, 0, NULL, NULL, NULL FROM assignments a JOIN classes c ON c.id = a.class
		WHERE `+access.Taught+" AND c.id = ? ORDER BY a.given, a.id"), instructor, class)
}

// Term lists the sheets given to a class that an instructor teaches, the oldest first, without any tally.
func (svc *Service) Term(ctx context.Context, instructor, class int64) ([]Assignment, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return nil, err
	}
	return ListTerm(ctx, svc.store, instructor, class)
}

// UpdateWeight sets how much a sheet weighs in the total.
func UpdateWeight(ctx context.Context, tx *store.Tx, assignment int64, weight int) error {
	givenSheets.Forget(tx, assignment)
	return tx.Change(ctx, store.Named("sitting.UpdateWeight", "UPDATE assignments SET weight = ? WHERE id = ?"), weight,
		assignment)
}
