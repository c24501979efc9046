package school

import "cavix/store"

// Errors that any use case can return.
var (
	ErrNotFound = store.ErrNotFound // or not this person's to see
	ErrFull     = store.ErrFull
	ErrHeld     = store.ErrHeld
	ErrReadOnly = store.ErrReadOnly
)

// DamagedRow is the error for a row that is kept and cannot be read.
type DamagedRow = store.DamagedRow
