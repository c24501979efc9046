package ledgers

import (
	"context"
	"errors"
	"slices"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/text"
	"cavix/school/access"
	"cavix/school/rack"
)

// ErrUntrained is for a slip that none of a class's blocks can show.
var ErrUntrained = errors.New("no block shows the slip")

// blocksLooked is the number of blocks that are tried for a sheet that trains a slip.
const blocksLooked = 4

// TrainingSheet composes a sheet that trains a slip, of the blocks on which a class has made it, and keeps it among the
// instructor's sheets.
func (svc *Service) TrainingSheet(ctx context.Context, instructor, class int64, slip exercise.Code,
	said *text.Printer) (int64, error) {
	if err := access.ViewClass.InClass(ctx, svc.store, instructor, class); err != nil {
		return 0, err
	}
	slip = slip.Singles()[0]
	if !kinds.Known(slip) {
		return 0, ErrUntrained
	}
	made, err := listSlipBlocks(ctx, svc.store, instructor, class, string(slip), blocksLooked)
	if err != nil {
		return 0, err
	}
	var blocks []exercise.Block
	var method exercise.Method
	for _, m := range made {
		g, err := svc.sitting.GivenSheet(ctx, instructor, m.Assignment)
		if err != nil {
			return 0, err
		}
		method = g.Sheet.Method
		at := m.Block - 1
		if at < 0 || at >= len(g.Sheet.Blocks) { // dealt before the block was noted
			at = slices.IndexFunc(g.Sheet.Blocks, func(b exercise.Block) bool { return b.Kind == m.Kind })
		}
		if at >= 0 {
			blocks = append(blocks, g.Sheet.Blocks[at])
		}
	}
	sheet, ok, err := kinds.Training(blocks, method, slip)
	if err != nil {
		return 0, err
	}
	if !ok {
		return 0, ErrUntrained
	}
	title := said.Say("sheet.once-more", "slip", slip.Short())
	return svc.rack.KeepSheet(ctx, instructor, rack.Sheet{Title: title, Definition: sheet,
		Racked: make([][]int64, len(sheet.Blocks))})
}
