package ledgers

import (
	"context"
	"time"
)

// Running lists the sheets at which somebody in a class that an instructor teaches has begun since a time and not
// handed in, those that most are at first.
func (svc *Service) Running(ctx context.Context, instructor int64, since time.Time) ([]int64, error) {
	return listRunning(ctx, svc.store, instructor, since)
}

// Pending lists the sheets of an instructor's running classes that close from a time to another, or whose results wait,
// those that close first first.
func (svc *Service) Pending(ctx context.Context, instructor int64, from, to time.Time, most int) ([]Pending, error) {
	return listPending(ctx, svc.store, instructor, from, to, most)
}

// FormLost lists who lost marks for form alone since a time in an instructor's running classes.
func (svc *Service) FormLost(ctx context.Context, instructor int64, since time.Time) ([]FormLost, error) {
	return listFormLost(ctx, svc.store, instructor, since)
}

// WeekSum sums up what an instructor's running classes answered on sheets in a span of time.
func (svc *Service) WeekSum(ctx context.Context, instructor int64, from, to time.Time) (cards int, half, of int64,
	err error) {
	return readWeekSum(ctx, svc.store, instructor, from, to)
}
