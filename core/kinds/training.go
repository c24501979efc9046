package kinds

import (
	"cmp"
	"maps"
	"slices"

	"cavix/core/exercise"
)

// trainingCards is the number of cards on a sheet that trains a slip.
const trainingCards = 10

// Training makes a sheet of ten cards that trains a slip, of blocks on whose cards it was made: those of them, with the
// share of awkward cases, that tell it on most cards. ok is false where none of them can.
func Training(blocks []exercise.Block, m exercise.Method, slip exercise.Code) (sheet exercise.Sheet, ok bool,
	err error) {
	type told struct {
		block exercise.Block
		cards int
	}
	var best []told
	for _, b := range blocks {
		most := told{}
		for _, v := range variants(b) {
			n, err := tells(v, m, slip)
			if err != nil {
				return sheet, false, err
			}
			if n > most.cards {
				most = told{v, n}
			}
		}
		if most.cards > 0 {
			best = append(best, most)
		}
	}
	slices.SortStableFunc(best, func(a, b told) int { return cmp.Compare(b.cards, a.cards) })
	best = best[:min(2, len(best))]
	sheet = exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing, Effort: exercise.MaxEffort,
		Delivery: exercise.Delivery{Help: exercise.HelpWorked}}
	for i, t := range best {
		t.block.Cards = (trainingCards - i + len(best) - 1) / len(best)
		sheet.Blocks = append(sheet.Blocks, t.block)
	}
	return sheet, len(best) > 0, nil
}

// variants are a block of ten cards as it is, and with more awkward cases where it has any.
func variants(b exercise.Block) []exercise.Block {
	b.Cards = trainingCards
	out := []exercise.Block{b}
	kind, known := All.Find(b.Kind)
	if !known || !slices.ContainsFunc(kind.Settings(),
		func(s exercise.Setting) bool { return s.Name == awkwardSetting.Name }) {
		return out
	}
	for _, share := range []string{"60", "100"} {
		v := b
		v.Settings = maps.Clone(b.Settings)
		if v.Settings == nil {
			v.Settings = map[string]string{}
		}
		v.Settings[awkwardSetting.Name] = share
		out = append(out, v)
	}
	return out
}

// tells is on how many of a block's cards a wrong answer names the slip, alone or with slips that are alike.
func tells(b exercise.Block, m exercise.Method, slip exercise.Code) (int, error) {
	sheet := exercise.Sheet{Blocks: []exercise.Block{b}, Method: m, Dealer: exercise.Dealing}
	items, err := sheet.Deal(All, 1)
	if err != nil {
		return 0, err
	}
	c, err := Cover(items, nil)
	for _, s := range c.Slips {
		if s.Code == slip {
			return s.Count(exercise.WithSynonyms), err
		}
	}
	return 0, err
}
