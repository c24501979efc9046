package classroom

import "fmt"

// Damaged is the error for a row that is kept and cannot be read. The row stays as it is until somebody removes it.
type Damaged struct {
	What string // as "study"
	ID   int64
	Err  error // why it cannot be read
}

func (d Damaged) Error() string { return fmt.Sprintf("%s %d cannot be read: %s", d.What, d.ID, d.Err) }

// Unwrap returns why it cannot be read.
func (d Damaged) Unwrap() error { return d.Err }
