package demo

import (
	"encoding/json"

	"cavix/core/exercise"
	"cavix/core/marking"
)

var instructors = []struct{ login, name string }{
	{"maren", "Maren Tollgate"},
	{"ivo", "Ivo Skerrick"},
	{"una", "Una Brackwater"},
}

// racking is an instrument of somebody's Rack.
type racking struct {
	owner, name, unit, division, to string
	every                           int // main divisions between numbers
	lines, spans, plateEvery, step  int
	base, zero                      string
}

var racked = []racking{
	{"maren", "Float spindle caliper", "mm", "1", "150", 10, 20, 39, 4, 2, "0", "-0.15"},
	{"maren", "Sluice pin caliper", "mm", "1", "150", 10, 20, 19, 4, 4, "0", "-0.10"},
	{"maren", "Weir shim caliper", "mm", "1", "150", 10, 50, 49, 5, 1, "0", "-0.06"},
	{"maren", "Bearing bush, inside nibs", "mm", "1", "200", 10, 50, 49, 5, 5, "10", "0.04"},
	{"maren", "Gauge-board rule with slide", "cm", "0.1", "20", 10, 10, 9, 1, 1, "0", "0.03"},
	{"maren", "Old mill caliper", "in", "1/16", "6", 16, 8, 7, 4, 4, "0", "-3/128"},
	{"maren", "Ratchet arbor caliper", "in", "0.025", "6", 4, 25, 24, 5, 5, "0", "0.004"},
	{"ivo", "Paddle shaft caliper", "mm", "1", "300", 10, 10, 19, 1, 1, "0", "0.2"},
	{"ivo", "Pawl spring caliper", "mm", "1", "130", 10, 50, 49, 5, 5, "0", "0.08"},
	{"ivo", "Backward plate", "mm", "1", "120", 10, 10, 11, 1, 1, "0", "-0.3"},
	{"ivo", "Half-millimetre caliper", "mm", "0.5", "100", 20, 25, 24, 5, 5, "0", "0"},
	{"una", "Cupboard caliper no. 1", "mm", "1", "150", 10, 20, 19, 4, 4, "0", "0.05"},
}

// patterned are instruments of the Racks that are made from a ready pattern.
var patterned = []struct{ owner, name, pattern, zero string }{
	{"maren", "Arbor micrometer", "Micrometer 0.01 mm", "1/50"},
	{"maren", "Paddle dial caliper", "Dial caliper 0.02 mm, two zeros", "-1/25"},
	{"maren", "Spindle micrometer, fine", "Micrometer 0.001 mm, vernier 10 over 9", "-3/1000"},
	{"maren", "Bolt-hole depth micrometer", "Depth micrometer 0.01 mm", "3/100"},
	{"maren", "Two-scale caliper", "Caliper 0.05 mm, inches on the other edge", "1/20"},
	{"maren", "Wallower gear vernier", "Gear-tooth vernier 0.02 mm", "0"},
	{"ivo", "Bush micrometer, 25–50", "Micrometer 0.01 mm, 25–50", "-1/50"},
	{"ivo", "Gauge-board rule", "Rule in 1/16 in", "0"},
	{"ivo", "Sluice balance", "Pointer scale that stands off 0", "2"},
}

// document writes the instrument as a document.
func (r racking) document() string {
	b, err := json.Marshal(map[string]any{
		"format": "cavix/instrument", "version": 1, "name": r.name, "family": "vernier-caliper", "unit": r.unit,
		"main": map[string]any{"division": r.division, "from": "0", "to": r.to, "number_every": r.every},
		"fine": map[string]any{"kind": "vernier", "divisions": r.lines, "spans": r.spans, "number_every": r.plateEvery, "number_step": r.step},
		"base": r.base, "zero_error": r.zero,
	})
	if err != nil {
		panic(err) // strings and numbers always encode
	}
	return string(b)
}

var (
	firstSteps = []marking.Step{marking.Main, marking.FineLine, marking.Observed}
	allSteps   = []marking.Step{marking.Main, marking.FineLine, marking.Fine, marking.Observed, marking.ZeroError, marking.Corrected}
	withFiner  = []marking.Step{marking.Main, marking.FineLine, marking.FinerLine, marking.Observed, marking.ZeroError, marking.Corrected}
	withZero   = []marking.Step{marking.Main, marking.FineLine, marking.Observed, marking.ZeroError, marking.Corrected}
)

var sheets = []struct {
	owner, title string
	with         []string
	cards        int
	ask          []marking.Step
	zero         exercise.Zero
	awkward      int
}{
	{"maren", "First readings", []string{"Sluice pin caliper"}, 8, firstSteps, exercise.ZeroNone, 20},
	{"maren", "Sluice pins", []string{"Float spindle caliper", "Sluice pin caliper"}, 10, withZero, exercise.ZeroOwn, 30},
	{"maren", "Weir shims, fine lines", []string{"Weir shim caliper", "Bearing bush, inside nibs"}, 10, allSteps, exercise.ZeroOwn, 40},
	{"maren", "Arbors and bushes", []string{"Arbor micrometer", "Paddle dial caliper", "Spindle micrometer, fine", "Bolt-hole depth micrometer"}, 8, withFiner, exercise.ZeroOwn, 30},
	{"ivo", "Paddle shafts", []string{"Paddle shaft caliper", "Pawl spring caliper"}, 8, withZero, exercise.ZeroOwn, 30},
	{"ivo", "Backward and half", []string{"Backward plate", "Half-millimetre caliper"}, 6, firstSteps, exercise.ZeroNone, 30},
}

// class is a class with what it was given.
type class struct {
	owner, name, code string
	given             []given
	pupils            []pupil
}

// given is a sheet given on a day of the course, of which the class has done a share.
type given struct {
	sheet string
	day   int
	done  float64
}

// pupil is a student with a habit that shows in a share of the cards.
type pupil struct {
	name       string
	habit      marking.Code
	often      float64
	improves   bool
	dropsZeros bool
}

var classes = []class{
	{owner: "maren", name: "Mill parts, Monday", code: "MILL47",
		given: []given{{"First readings", 0, 1}, {"Sluice pins", 7, 1}, {"Weir shims, fine lines", 14, 0.5}, {"Arbors and bushes", 21, 0.45}},
		pupils: []pupil{
			{name: "Wren A.", habit: marking.NeighbourLine, often: 0.35, improves: true},
			{name: "Tobin F.", habit: marking.MainNextMark, often: 0.55},
			{name: "Elspeth O.", habit: marking.ZeroSignFlipped, often: 0.6},
			{name: "Caspian R."},
			{name: "Linnet D.", habit: marking.MainAtPlateEdge, often: 0.5, improves: true},
			{name: "Osric T.", habit: marking.ZeroNotApplied, often: 0.5},
			{name: "Fenella K.", habit: marking.LabelTakenAsLine, often: 0.7},
			{name: "Bram H."},
			{name: "Sorrel P.", habit: marking.NeighbourLine, often: 0.3},
			{name: "Idris W.", dropsZeros: true},
			{name: "Maud L.", habit: marking.FineBackwards, often: 0.4, improves: true},
			{name: "Jory N.", habit: marking.ZeroCountedForward, often: 0.5},
			{name: "Petra V."},
			{name: "Alder C.", habit: marking.HalfMarkMissed, often: 0.5, improves: true},
			{name: "Thea B.", habit: marking.NeighbourLine, often: 0.25},
			{name: "Rowan G.", habit: marking.ZeroSignFlipped, often: 0.4, improves: true},
			{name: "Mirren S."},
			{name: "Kestrel J.", habit: marking.MainMarkMissed, often: 0.3},
			{name: "Dunstan E.", habit: marking.ZeroNotApplied, often: 0.3, improves: true},
			{name: "Ottilie M.", habit: marking.PlaceShift, often: 0.25},
		}},
	{owner: "ivo", name: "Mill parts, evening", code: "TIDE93",
		given: []given{{"Paddle shafts", 3, 1}, {"Backward and half", 15, 0.6}},
		pupils: []pupil{
			{name: "Isolde M.", habit: marking.MainNextMark, often: 0.4, improves: true},
			{name: "Corin P.", habit: marking.NeighbourLine, often: 0.3},
			{name: "Bettany A."},
			{name: "Hollis D.", habit: marking.ZeroSignFlipped, often: 0.5},
			{name: "Marlow S.", habit: marking.MainAtPlateEdge, often: 0.4},
			{name: "Nessa T."},
			{name: "Quill R.", habit: marking.ZeroNotApplied, often: 0.4, improves: true},
			{name: "Averil B.", dropsZeros: true},
			{name: "Torsten K.", habit: marking.LastLineCounted, often: 0.8},
			{name: "Gwenna L.", habit: marking.NeighbourLine, often: 0.2},
			{name: "Piran C."},
			{name: "Sable W.", habit: marking.MainAtCoincidence, often: 0.3},
			{name: "Lowen F.", habit: marking.ZeroSignFlipped, often: 0.3, improves: true},
			{name: "Ondine H."},
			{name: "Rafe J.", habit: marking.MainMarkMissed, often: 0.4},
			{name: "Tamar E.", habit: marking.LineNotMultiplied, often: 0.4},
			{name: "Ysolt N."},
			{name: "Breck O.", habit: marking.NeighbourLine, often: 0.3, improves: true},
			{name: "Cordula V."},
			{name: "Emrys G.", habit: marking.MainNextMark, often: 0.3},
		}},
}
