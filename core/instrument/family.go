package instrument

import (
	"maps"
	"slices"

	"cavix/core/text"
)

// Family names a kind of instrument.
type Family string

// The families.
const (
	VernierCaliper   Family = "vernier-caliper"
	DialCaliper      Family = "dial-caliper"
	Micrometer       Family = "micrometer"
	DepthMicrometer  Family = "depth-micrometer"
	InsideMicrometer Family = "inside-micrometer"
	Digital          Family = "digital"
	Pointer          Family = "pointer" // one scale under a pointer that need not return to 0
	Rule             Family = "rule"
	GearTooth        Family = "gear-tooth" // a level vernier that reads, and an upright one that is set

	HeightGauge          Family = "height-gauge" // an upright beam on a base, a slide with a scriber
	DepthGauge           Family = "depth-gauge"  // a vernier blade that comes out of a bridge
	TravellingMicroscope Family = "travelling-microscope"
	Spherometer          Family = "spherometer"        // a screw in three legs
	DialIndicator        Family = "dial-indicator"     // a plunger, a face, and a counter of turns
	BalancedIndicator    Family = "balanced-indicator" // a face numbered both ways from 0
	Protractor           Family = "protractor"         // a blade on a disc
	AngleCircle          Family = "angle-circle"       // a divided circle with one vernier or two
)

// Definition is a family: what it is called and which scales it has.
type Definition struct {
	Family Family
	Name   text.Text
	Fine   FineKind
	Scale  Scale
	Also   map[FineKind]Scale // other kinds of fine scale that it is made with

	Patterns func() []Spec // ready instruments, as they are found in shops and laboratories
	Usual    string        // the name of the one with which one begins to build another

	Measures       []Feature // what it is made for
	SetsByStandard bool      // one that does not begin at 0 is closed on a setting standard
	Transfers      bool      // it measures a transfer gauge that was set in a hole
	Paired         bool      // it has a second, upright scale of the same least count
	Reversed       bool      // its numbers usually run against the movement: marks vanish as the reading grows
	Reach          int64     // how long its main scale usually is, in mm or degrees
	Open           bool      // it is never closed: it measures between two positions
	Zeroed         bool      // its scale begins at 0, so that it has no base
	Angles         bool      // it may be divided in degrees
	AnglesOnly     bool      // it may be divided in nothing else
	Upright        bool      // its scale stands upright
	Seconds        []Role    // what a second scale on it may be for
}

// scaleOf returns the scale of a family with a kind of fine scale, and whether it is made with one.
func (d *Definition) scaleOf(kind FineKind) (Scale, bool) {
	if kind == d.Fine {
		return d.Scale, true
	}
	s, made := d.Also[kind]
	return s, made
}

// kinds lists the kinds of fine scale with which the family is made, the usual one first.
func (d *Definition) kinds() []FineKind {
	return append([]FineKind{d.Fine}, slices.Sorted(maps.Keys(d.Also))...)
}

// Feature is something on a workpiece that is measured.
type Feature = string

// The features.
const (
	Outside        Feature = "outside"
	Inside         Feature = "inside"
	Depth          Feature = "depth"
	Step           Feature = "step"
	Wire           Feature = "wire"
	Sheet          Feature = "sheet"
	ToothThickness Feature = "gear-tooth"
	Height         Feature = "height"
	Flatness       Feature = "flatness"
	Runout         Feature = "runout"
	Angle          Feature = "angle"
	Bore           Feature = "bore"
	Curvature      Feature = "curvature"
)

// MadeFor reports whether the family is made to measure a feature.
func (d *Definition) MadeFor(f Feature) bool { return slices.Contains(d.Measures, f) }

// Squeezes reports whether the family holds a part between faces, which a ratchet or a light hand brings together.
func (d *Definition) Squeezes() bool {
	return d.MadeFor(Outside) || d.MadeFor(Inside) || d.MadeFor(Depth) || d.MadeFor(ToothThickness)
}

// anywhere lists the features that jaws for outside and inside and a depth rod reach.
var anywhere = []Feature{Outside, Inside, Depth, Step}

// Families lists the families that there are.
var Families = []Definition{
	{
		Family: VernierCaliper, Name: text.New("family.vernier-caliper"), Fine: Vernier, Scale: vernierScale{},
		Reach:    150,
		Patterns: vernierCalipers, Usual: "Caliper 0.05 mm, 20 over 39", Measures: anywhere,
		Seconds: []Role{OtherScale, InsidePlate},
	},
	{
		Family: DialCaliper, Name: text.New("family.dial-caliper"), Fine: Dial, Scale: dial{}, Reach: 150,
		Patterns: dialCalipers, Usual: "Dial caliper 0.01 mm, a turn of 1 mm", Measures: anywhere,
	},
	{
		Family: Micrometer, Name: text.New("family.micrometer"), Fine: Thimble, Scale: thimble{}, Reach: 25,
		Patterns: micrometers, Usual: "Micrometer 0.01 mm", Measures: []Feature{Outside, Wire, Sheet},
		SetsByStandard: true, Transfers: true,
	},
	{
		Family: DepthMicrometer, Name: text.New("family.depth-micrometer"), Fine: Thimble, Scale: thimble{}, Reach: 25,
		Reversed: true,
		Patterns: depthMicrometers, Usual: "Depth micrometer 0.01 mm", Measures: []Feature{Depth, Step},
	},
	{
		Family: InsideMicrometer, Name: text.New("family.inside-micrometer"), Fine: Thimble, Scale: thimble{},
		Reach:    13,
		Patterns: insideMicrometers, Usual: "Inside micrometer 0.01 mm, head and rod 50", Measures: []Feature{Inside},
	},
	{
		Family: Digital, Name: text.New("family.digital"), Fine: Display, Scale: digits{}, Reach: 150,
		Patterns: digitalCalipers, Usual: "Digital caliper", Measures: anywhere,
	},
	{
		Family: Rule, Name: text.New("family.rule"), Fine: None, Scale: plainScale{}, Reach: 150,
		Patterns: rules, Usual: "Steel rule in mm", Measures: []Feature{Outside, Step},
	},
	{
		Family: Pointer, Name: text.New("family.pointer"), Fine: None, Scale: plainScale{}, Reach: 150,
		Patterns: pointerScales, Usual: "Pointer scale that stands off 0", Angles: true,
	},
	{
		Family: GearTooth, Name: text.New("family.gear-tooth"), Fine: Vernier, Scale: vernierScale{}, Reach: 150,
		Paired:   true,
		Seconds:  []Role{ToothDepthScale},
		Patterns: gearToothVerniers, Usual: "Gear-tooth vernier 0.02 mm", Measures: []Feature{ToothThickness},
	},
	{
		Family: HeightGauge, Name: text.New("family.height-gauge"), Fine: Vernier, Scale: slider{},
		Also: map[FineKind]Scale{Dial: dial{}, Display: digits{}}, Reach: 300, Upright: true,
		Patterns: heightGauges, Usual: "Height gauge 0.02 mm", Measures: []Feature{Height, Step},
	},
	{
		Family: DepthGauge, Name: text.New("family.depth-gauge"), Fine: Vernier, Scale: slider{}, Reach: 200,
		Patterns: depthGauges, Usual: "Depth gauge 0.05 mm", Measures: []Feature{Depth, Step},
	},
	{
		Family: TravellingMicroscope, Name: text.New("family.travelling-microscope"), Fine: Vernier,
		Scale: slider{}, Reach: 200, Open: true, Zeroed: true,
		Patterns: travellingMicroscopes, Usual: "Travelling microscope 0.01 mm", Measures: []Feature{Bore, Wire},
	},
	{
		Family: Spherometer, Name: text.New("family.spherometer"), Fine: Thimble, Scale: disc{}, Reach: 10,
		Zeroed:   true,
		Patterns: spherometers, Usual: "Spherometer 0.01 mm", Measures: []Feature{Curvature},
	},
	{
		Family: DialIndicator, Name: text.New("family.dial-indicator"), Fine: Dial, Scale: counter{}, Reach: 10,
		Zeroed: true, SetsByStandard: true,
		Patterns: dialIndicators, Usual: "Dial indicator 0.01 mm", Measures: []Feature{Flatness, Runout, Height},
	},
	{
		Family: BalancedIndicator, Name: text.New("family.balanced-indicator"), Fine: Dial, Scale: balance{},
		Zeroed: true, SetsByStandard: true,
		Patterns: balancedIndicators, Usual: "Lever indicator 0.01 mm", Measures: []Feature{Flatness, Runout, Bore},
	},
	{
		Family: Protractor, Name: text.New("family.protractor"), Fine: Vernier, Scale: bevel{}, Reach: 90, Zeroed: true,
		Patterns: protractors, Usual: "Bevel protractor 5′", Measures: []Feature{Angle}, Angles: true, AnglesOnly: true,
	},
	{
		Family: AngleCircle, Name: text.New("family.angle-circle"), Fine: Vernier, Scale: circle{}, Reach: 360,
		Zeroed: true, Seconds: []Role{Opposite},
		Patterns: angleCircles, Usual: "Spectrometer circle 1′", Measures: []Feature{Angle}, Angles: true,
		AnglesOnly: true,
	},
}

// definitionOf returns the definition of a family, and whether there is one.
func definitionOf(f Family) (*Definition, bool) {
	for i := range Families {
		if Families[i].Family == f {
			return &Families[i], true
		}
	}
	return nil, false
}

// likeliest returns a family with a kind of fine scale, or that of a main scale alone: by it an instrument of an
// unknown family is checked, so that everything that is wrong is named at once.
func likeliest(k FineKind) *Definition {
	for i := range Families {
		if Families[i].Fine == k {
			return &Families[i]
		}
	}
	d, _ := definitionOf(Rule)
	return d
}

// Known reports whether there is such a family.
func (f Family) Known() bool {
	_, known := definitionOf(f)
	return known
}

// Name returns the family's name for people.
func (f Family) Name() text.Text {
	if d, known := definitionOf(f); known {
		return d.Name
	}
	return text.Typed(string(f))
}

// Fine returns the kind of fine scale that the family has; None if there is no such family.
func (f Family) Fine() FineKind {
	if d, known := definitionOf(f); known {
		return d.Fine
	}
	return None
}

// Kinds lists the kinds of fine scale with which the family is made, the usual one first.
func (f Family) Kinds() []FineKind {
	if d, known := definitionOf(f); known {
		return d.kinds()
	}
	return nil
}

// Paired reports whether the family has a second, upright scale.
func (f Family) Paired() bool {
	d, known := definitionOf(f)
	return known && d.Paired
}

// Usual returns the ready instrument with which one begins to build one of the family, and whether there is one.
func (f Family) Usual() (Spec, bool) {
	d, known := definitionOf(f)
	if !known {
		return Spec{}, false
	}
	return PatternNamed(d.Usual)
}
