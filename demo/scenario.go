package demo

import (
	"encoding/json"
	"time"

	"cavix/core/exercise"
	"cavix/core/slips"
	"cavix/core/words"
)

var instructors = []struct {
	login, name string
	keeper      bool // keeps the server too
}{
	{"maren", "Maren Tollgate", true},
	{"ivo", "Ivo Skerrick", false},
	{"una", "Una Brackwater", false},
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
	{"ivo", "Gate hinge circle", "Spectrometer circle 30″, two verniers", "1/60"},
	{"ivo", "Sight-glass microscope", "Travelling microscope 0.01 mm", "0"},
	{"ivo", "Shaft indicator", "Lever indicator 0.01 mm", "0"},
}

// document writes the instrument as a document.
func (r racking) document() string {
	b, err := json.Marshal(map[string]any{
		"format": "cavix/instrument", "version": 1, "name": r.name, "family": "vernier-caliper", "unit": r.unit,
		"main": map[string]any{"division": r.division, "from": "0", "to": r.to, "number_every": r.every},
		"fine": map[string]any{"kind": "vernier", "divisions": r.lines, "spans": r.spans, "number_every": r.plateEvery,
			"number_step": r.step},
		"base": r.base, "zero_error": r.zero,
	})
	if err != nil {
		panic(err) // strings and numbers always encode
	}
	return string(b)
}

var (
	firstSteps = "main fine_line observed"
	allSteps   = "main fine_line fine observed zero_error corrected"
	withFiner  = "main fine_line finer_line observed zero_error corrected"
	withZero   = "main fine_line observed zero_error corrected"
)

var sheets = []struct {
	owner, title string
	blocks       []block
	conduct      exercise.Delivery
	picture      string // the instrument beside the task
}{
	{"maren", "First readings", []block{{"read", 8, "zero=none|awkward=20|ask=" + firstSteps,
		[]string{"Sluice pin caliper"}}}, practice, ""},
	{"maren", "Sluice pins", []block{{"read", 10, "ask=" + withZero,
		[]string{"Float spindle caliper", "Sluice pin caliper"}}}, practice, ""},
	{"maren", "Weir shims, fine lines",
		[]block{{"read", 10, "awkward=40|ask=" + allSteps,
			[]string{"Weir shim caliper", "Bearing bush, inside nibs"}}}, practice, ""},
	{"maren", "Arbors and bushes", []block{{"read", 8, "ask=" + withFiner,
		[]string{"Arbor micrometer", "Paddle dial caliper", "Spindle micrometer, fine",
			"Bolt-hole depth micrometer"}}}, practice, ""},
	{"maren", "Before the bench test", []block{
		{"least_count", 2, "", []string{"Float spindle caliper", "Arbor micrometer"}},
		{"set", 3, "below=yes", []string{"Float spindle caliper", "Arbor micrometer", "Paddle dial caliper"}},
		{"choose", 3, "", []string{"Weir shim caliper", "Arbor micrometer", "Paddle dial caliper"}},
		{"repeat", 1, "places=3|repeats=2|ask=readings groups mean odd corrected", []string{"Sluice pin caliper"}},
	}, practice, ""},
	{"ivo", "Paddle shafts", []block{{"read", 8, "ask=" + withZero,
		[]string{"Paddle shaft caliper", "Pawl spring caliper"}}}, practice, ""},
	{"maren", "Good or not", []block{
		{"decide", 6, "width=20", []string{"Float spindle caliper", "Arbor micrometer", "Weir shim caliper"}},
		{"decide", 2, "verdicts=three|feature=hole|ask=observed corrected verdict", []string{"Sluice pin caliper"}},
		{"convert", 2, "", []string{"Float spindle caliper"}},
		{"gauge", 2, "", nil},
		{"pick", 2, "best=plainest", []string{"Float spindle caliper", "Arbor micrometer", "Bolt-hole depth micrometer",
			"Weir shim caliper"}},
		{"gear", 1, "", []string{"Wallower gear vernier"}},
		{"care", 2, "which=order", nil},
		{"care", 3, "", nil},
	}, practice, ""},
	{"maren", "Half-term test", []block{
		{"read", 6, "zero=varied|awkward=50", []string{"Float spindle caliper", "Arbor micrometer"}},
		{"decide", 2, "zero=varied", []string{"Weir shim caliper"}},
	}, exercise.Delivery{Mode: exercise.Test, Release: exercise.ReleaseHand, Minutes: 30, Help: exercise.HelpNone,
		Task: halfTerm}, "Arbor micrometer"},
	{"maren", "Second sitting", []block{
		{"read", 5, "zero=varied|awkward=50", []string{"Sluice pin caliper", "Arbor micrometer"}},
		{"choose", 2, "zero=varied|ask=corrected", []string{"Weir shim caliper"}},
	}, exercise.Delivery{Mode: exercise.Test, Minutes: 40, Attempts: 2, Shuffled: true, Help: exercise.HelpNone,
		Task: secondSitting}, "Sluice pin caliper"},
	{"ivo", "Backward and half", []block{{"read", 6, "zero=none|ask=" + firstSteps,
		[]string{"Backward plate", "Half-millimetre caliper"}}}, practice, ""},
	{"maren", "Paddle bolts", []block{{"read", 8, "zero=varied|awkward=60|ask=" + withZero,
		[]string{"Float spindle caliper", "Arbor micrometer"}}}, practice, ""},
	{"ivo", "The gate hinge's angle", []block{
		{"read", 2, "zero=none|ask=observed observed_b mean", []string{"Gate hinge circle"}},
		{"difference", 2, "direction=rising", []string{"Gate hinge circle"}}}, practice, ""},
	{"ivo", "Bore of the sight glass", []block{{"difference", 4, "", []string{"Sight-glass microscope"}}}, practice,
		""},
	{"ivo", "Runout of the worn shaft", []block{{"difference", 4, "indicator=runout", []string{"Shaft indicator"}}},
		practice, ""},
}

// practice is the delivery of sheets that name no other.
var practice = exercise.Delivery{Help: exercise.HelpWorked}

const (
	halfTerm = "The float's **spindle** and the ratchet's **arbor** come back from the forge this week.\n\n" +
		"- Read the zero error first, with its sign.\n- Work alone; paper is allowed, a calculator too."
	secondSitting = "For whoever was away, or wants to try again: the better of two attempts counts."
)

// block is a block of a sheet: its kind, cards, settings as "name=value|name=value", and instruments.
type block struct {
	kind     string
	cards    int
	settings string
	with     []string
}

// practiceDays are the days of the course on which pupils practise.
var practiceDays = []int{36, 39, 43, 46}

// class is a class with what it was given.
type class struct {
	owner, name, code string
	given             []given
	atWork            *given // the sheet that the class is at work on just now
	practise          int    // how many of the pupils practise by themselves
	words             words.Base
	asked             *question
	pupils            []pupil
}

// question holds what a class was asked at once: what the instrument showed, and every how many of the pupils did not
// answer.
type question struct {
	instrument, shows string
	day, silent       int
}

// given is a sheet given on a day of the course, of which the class has done a share.
type given struct {
	sheet  string
	day    int
	done   float64
	closes time.Duration // after it was given, or after now; 0 for never

	fromNow bool // it closes so long after now
	running bool // the class is at work on it just now
	printed bool // for those who were not there
}

// crews are the groups of a class.
var crews = []string{"Tide crew", "Weir crew", "Wheel crew"}

// runningSince is the time since the class began that is at work now.
const runningSince = 26 * time.Minute

// pupil is a student with a habit that shows in a share of the cards.
type pupil struct {
	name       string
	habit      exercise.Code
	often      float64
	improves   bool
	dropsZeros bool
}

var classes = []class{
	{owner: "maren", name: "Mill parts, Monday", code: "MILL47", practise: 3,
		asked: &question{"Float spindle caliper", "45.20", 42, 11},
		given: []given{{sheet: "First readings", done: 1, printed: true}, {sheet: "Sluice pins", day: 7, done: 1},
			{sheet: "Weir shims, fine lines", day: 14, done: 0.5}, {sheet: "Arbors and bushes", day: 21, done: 0.45},
			{sheet: "Before the bench test", day: 28, done: 0.5}, {sheet: "Good or not", day: 35, done: 0.5},
			{sheet: "Half-term test", day: 38, done: 1, closes: 30 * time.Hour},
			{sheet: "Second sitting", day: 40, closes: 75 * time.Hour, fromNow: true},
		},
		atWork: &given{sheet: "Paddle bolts", done: 1, running: true, closes: 48 * time.Minute},
		pupils: []pupil{
			{name: "Wren A.", habit: slips.NeighbourLine, often: 0.35, improves: true},
			{name: "Tobin F.", habit: slips.MainNextMark, often: 0.55},
			{name: "Elspeth O.", habit: slips.ZeroSignFlipped, often: 0.6},
			{name: "Caspian R."},
			{name: "Linnet D.", habit: slips.MainAtPlateEdge, often: 0.5, improves: true},
			{name: "Osric T.", habit: slips.ZeroNotApplied, often: 0.5},
			{name: "Fenella K.", habit: slips.LabelTakenAsLine, often: 0.7},
			{name: "Bram H."},
			{name: "Sorrel P.", habit: slips.NeighbourLine, often: 0.3},
			{name: "Idris W.", dropsZeros: true},
			{name: "Maud L.", habit: slips.FineBackwards, often: 0.4, improves: true},
			{name: "Jory N.", habit: slips.ZeroCountedForward, often: 0.5},
			{name: "Petra V."},
			{name: "Alder C.", habit: slips.HalfMarkMissed, often: 0.5, improves: true},
			{name: "Thea B.", habit: slips.NeighbourLine, often: 0.25},
			{name: "Rowan G.", habit: slips.ZeroSignFlipped, often: 0.4, improves: true},
			{name: "Mirren S."},
			{name: "Kestrel J.", habit: slips.MainMarkMissed, often: 0.3},
			{name: "Dunstan E.", habit: slips.ZeroNotApplied, often: 0.3, improves: true},
			{name: "Ottilie M.", habit: slips.PlaceShift, often: 0.25},
		}},
	{owner: "ivo", name: "Mill parts, evening", code: "TIDE93", words: words.Laboratory,
		given: []given{{sheet: "Paddle shafts", day: 3, done: 1}, {sheet: "Backward and half", day: 15, done: 0.6},
			{sheet: "The gate hinge's angle", day: 36, done: 0.5},
			{sheet: "Bore of the sight glass", day: 39, done: 0.4},
			{sheet: "Runout of the worn shaft", day: 43, done: 0.3}},
		pupils: []pupil{
			{name: "Isolde M.", habit: slips.MainNextMark, often: 0.4, improves: true},
			{name: "Corin P.", habit: slips.NeighbourLine, often: 0.3},
			{name: "Bettany A."},
			{name: "Hollis D.", habit: slips.ZeroSignFlipped, often: 0.5},
			{name: "Marlow S.", habit: slips.MainAtPlateEdge, often: 0.4},
			{name: "Nessa T."},
			{name: "Quill R.", habit: slips.ZeroNotApplied, often: 0.4, improves: true},
			{name: "Averil B.", dropsZeros: true},
			{name: "Torsten K.", habit: slips.LastLineCounted, often: 0.8},
			{name: "Gwenna L.", habit: slips.NeighbourLine, often: 0.2},
			{name: "Piran C."},
			{name: "Sable W.", habit: slips.MainAtCoincidence, often: 0.3},
			{name: "Lowen F.", habit: slips.ZeroSignFlipped, often: 0.3, improves: true},
			{name: "Ondine H."},
			{name: "Rafe J.", habit: slips.MainMarkMissed, often: 0.4},
			{name: "Tamar E.", habit: slips.LineNotMultiplied, often: 0.4},
			{name: "Ysolt N."},
			{name: "Breck O.", habit: slips.NeighbourLine, often: 0.3, improves: true},
			{name: "Cordula V."},
			{name: "Emrys G.", habit: slips.MainNextMark, often: 0.3},
		}},
}
