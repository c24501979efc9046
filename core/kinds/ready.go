package kinds

import (
	"slices"
	"strings"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/slips"
	"cavix/core/text"
)

// Ready is a sheet to begin with: what it trains, and of which instruments it makes its blocks.
type Ready struct {
	Name   string // in forms
	Title  text.Text
	Why    text.Text // what it is good for, in a sentence
	needs  []need
	blocks []readyBlock
}

// need is an instrument that a ready sheet takes: the first of the Rack that fits, or else a ready pattern.
type need struct {
	fits    func(*instrument.Instrument) bool
	pattern string
}

// readyBlock is a block of a ready sheet: its kind, cards, settings, and which of the needed instruments it takes.
type readyBlock struct {
	kind     exercise.Kind
	cards    int
	settings map[string]string
	takes    []int
}

// likePattern needs an instrument of the family of a ready pattern, and with or without a vernier over its thimble as
// that one.
func likePattern(name string) need {
	p, _ := instrument.PatternNamed(name)
	return need{func(in *instrument.Instrument) bool {
		return in.Spec().Family == p.Family && in.HasFiner() == (p.ThimbleVernier != instrument.ThimbleVernier{})
	}, name}
}

var (
	aCaliper    = likePattern("Caliper 0.05 mm, 20 over 39")
	aMicrometer = likePattern("Micrometer 0.01 mm")
	aDial       = likePattern("Dial caliper 0.01 mm, a turn of 1 mm")
	anyRule     = likePattern("Steel rule in mm")
	aFineScrew  = need{(*instrument.Instrument).HasFiner, "Micrometer 0.001 mm, vernier 10 over 9"}
)

func asking(steps ...string) string { return strings.Join(steps, " ") }

// ReadySheets lists the sheets to begin with, from whole marks to mixed instruments with negative zeros.
var ReadySheets = []Ready{
	{Name: "marks", Title: text.New("ready.marks.title"), Why: text.New("ready.marks.why"),
		needs: []need{aCaliper, aMicrometer},
		blocks: []readyBlock{
			{read{}, 5, map[string]string{"ask": asking(slips.Main), "zero": zeroNone, "awkward": "40"}, []int{0}},
			{read{}, 5, map[string]string{"ask": asking(slips.Main), "zero": zeroNone, "awkward": "80"}, []int{1}},
		}},
	{Name: "lines", Title: text.New("ready.lines.title"), Why: text.New("ready.lines.why"),
		needs: []need{aCaliper},
		blocks: []readyBlock{
			{read{}, 10, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Fine, slips.Observed),
				"zero": zeroNone}, []int{0}},
		}},
	{Name: "drum", Title: text.New("ready.drum.title"), Why: text.New("ready.drum.why"),
		needs: []need{aMicrometer},
		blocks: []readyBlock{
			{read{}, 10, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Fine, slips.Observed),
				"zero": zeroNone, "awkward": "40"}, []int{0}},
		}},
	{Name: "face", Title: text.New("ready.face.title"), Why: text.New("ready.face.why"),
		needs: []need{aDial},
		blocks: []readyBlock{
			{read{}, 10, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Observed, slips.ZeroError,
				slips.Corrected), "zero": zeroVaried}, []int{0}},
		}},
	{
		Name:  "zeros",
		Title: text.New("ready.zeros.title"),
		Why:   text.New("ready.zeros.why"),
		needs: []need{aCaliper},
		blocks: []readyBlock{
			{
				read{},
				3,
				map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.ZeroError), "zero": zeroVaried,
					"shape": shapeClosed},
				[]int{0},
			},
			{
				read{},
				7,
				map[string]string{"ask": asking(slips.Observed, slips.ZeroError, slips.Corrected), "zero": zeroVaried},
				[]int{0},
			}},
	},
	{Name: "finer", Title: text.New("ready.finer.title"), Why: text.New("ready.finer.why"),
		needs: []need{aFineScrew},
		blocks: []readyBlock{
			{read{}, 10, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.FinerLine, slips.Observed,
				slips.Corrected), "zero": zeroVaried, "awkward": "40"}, []int{0}},
		}},
	{
		Name:  "mixed",
		Title: text.New("ready.mixed.title"),
		Why:   text.New("ready.mixed.why"),
		needs: []need{aCaliper, aMicrometer, aDial, anyRule},
		blocks: []readyBlock{
			{
				read{},
				8,
				map[string]string{
					"ask":     asking(slips.Main, slips.FineLine, slips.Observed, slips.ZeroError, slips.Corrected),
					"zero":    zeroVaried,
					"awkward": "100",
				},
				[]int{0, 1, 2},
			},
			{read{}, 1, map[string]string{"ask": asking(slips.Observed), "zero": zeroNone}, []int{3}},
			{choose{}, 1, map[string]string{"ask": slips.Corrected, "zero": zeroVaried}, []int{2}}},
	},
	{
		Name:  "bench",
		Title: text.New("ready.bench.title"),
		Why:   text.New("ready.bench.why"),
		needs: []need{aCaliper, aMicrometer},
		blocks: []readyBlock{
			{leastCount{}, 2, nil, []int{0, 1}},
			{read{}, 6, map[string]string{"zero": zeroVaried, "awkward": "100"}, []int{0, 1}},
			{set{}, 2, map[string]string{"zero": zeroVaried}, []int{0, 1}}},
	},
	{
		Name:   "limits",
		Title:  text.New("ready.limits.title"),
		Why:    text.New("ready.limits.why"),
		needs:  []need{aCaliper},
		blocks: []readyBlock{{decide{}, 10, map[string]string{"zero": zeroVaried}, []int{0}}},
	},
	{Name: "prism", Title: text.New("ready.prism.title"), Why: text.New("ready.prism.why"),
		needs: []need{likePattern("Spectrometer circle 1′")},
		blocks: []readyBlock{
			{read{}, 5, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Observed), "zero": zeroNone},
				[]int{0}},
			{difference{}, 5, map[string]string{"half": "yes"}, []int{0}}}},
	{Name: "capillary", Title: text.New("ready.capillary.title"), Why: text.New("ready.capillary.why"),
		needs: []need{likePattern("Travelling microscope 0.01 mm")},
		blocks: []readyBlock{
			{read{}, 5, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Observed), "zero": zeroNone},
				[]int{0}},
			{difference{}, 5, nil, []int{0}}}},
	{Name: "lens", Title: text.New("ready.lens.title"), Why: text.New("ready.lens.why"),
		needs: []need{likePattern("Spherometer 0.01 mm")},
		blocks: []readyBlock{
			{read{}, 5, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Observed), "zero": zeroNone},
				[]int{0}},
			{difference{}, 5, map[string]string{"zero": zeroVaried}, []int{0}}}},
	{Name: "block", Title: text.New("ready.block.title"), Why: text.New("ready.block.why"),
		needs: []need{likePattern("Dial indicator 0.01 mm")},
		blocks: []readyBlock{
			{read{}, 5, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Observed), "zero": zeroNone},
				[]int{0}},
			{difference{}, 5, map[string]string{"indicator": wantsDeviation}, []int{0}}}},
	{Name: "runout", Title: text.New("ready.runout.title"), Why: text.New("ready.runout.why"),
		needs: []need{likePattern("Lever indicator 0.01 mm")},
		blocks: []readyBlock{
			{read{}, 5, map[string]string{"ask": asking(slips.FineLine, slips.Observed), "zero": zeroNone}, []int{0}},
			{difference{}, 5, map[string]string{"indicator": wantsRunout}, []int{0}}}},
	{Name: "bevel", Title: text.New("ready.bevel.title"), Why: text.New("ready.bevel.why"),
		needs: []need{likePattern("Bevel protractor 5′")},
		blocks: []readyBlock{{read{}, 10, map[string]string{"ask": asking(slips.Main, slips.FineLine, slips.Observed,
			slips.Corrected), "zero": zeroVaried}, []int{0}}}},
	{Name: "plate", Title: text.New("ready.plate.title"), Why: text.New("ready.plate.why"),
		needs: []need{likePattern("Height gauge 0.02 mm")},
		blocks: []readyBlock{
			{read{}, 7, map[string]string{"zero": zeroVaried}, []int{0}},
			{difference{}, 3, map[string]string{"zero": zeroVaried}, []int{0}}}},
}

// Compose makes the sheet of instruments of a Rack, and of ready patterns where it has none that fits. Of each block it
// also tells which of the Rack's it took, as indices.
func (r Ready) Compose(rack []*instrument.Instrument) (sheet exercise.Sheet, took [][]int, err error) {
	with, at := make([]*instrument.Instrument, len(r.needs)), make([]int, len(r.needs))
	for i, n := range r.needs {
		at[i] = slices.IndexFunc(rack, n.fits)
		if at[i] >= 0 {
			with[i] = rack[at[i]]
			continue
		}
		p, _ := instrument.PatternNamed(n.pattern)
		if with[i], err = instrument.New(p); err != nil {
			return sheet, nil, err
		}
	}
	sheet = exercise.Sheet{HintCost: 1, Dealer: exercise.Dealing, Effort: 1}
	for _, b := range r.blocks {
		block := exercise.Block{Kind: b.kind.Name(), Cards: b.cards, Settings: b.settings}
		var from []int
		for _, i := range b.takes {
			block.Instruments = append(block.Instruments, with[i])
			if at[i] >= 0 {
				from = append(from, at[i])
			}
		}
		sheet.Blocks, took = append(sheet.Blocks, block), append(took, from)
	}
	return sheet, took, nil
}
