package rack

import (
	"context"

	"cavix/core/exercise"
	"cavix/store"
)

// Wordings makes the wordings of slips from their rows; an error is passed on.
func Wordings(list []Wording, err error) (exercise.SlipWordings, error) {
	out := make(exercise.SlipWordings, len(list))
	for _, w := range list {
		out[exercise.Code(w.Code)] = exercise.SlipWording{Off: w.Off, Advice: w.Advice, Note: w.Note}
	}
	return out, err
}

// Wordings are an instructor's own words for slips.
func (svc *Service) Wordings(ctx context.Context, owner int64) (exercise.SlipWordings, error) {
	return Wordings(listWordings(ctx, svc.store, owner))
}

// SetWording keeps an instructor's words for one slip.
func (svc *Service) SetWording(ctx context.Context, owner int64, code exercise.Code, w exercise.SlipWording) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		return updateWording(ctx, tx, owner, Wording{Code: string(code), Off: w.Off, Advice: w.Advice, Note: w.Note})
	})
}
