package studies

import "errors"

// Errors that callers tell apart.
var (
	ErrClosed         = errors.New("the study takes no more readings")
	ErrFull           = errors.New("there are as many comparisons as there may be")
	ErrComparisonFull = errors.New("the comparison holds as many readings as it may")
)
