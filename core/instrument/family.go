package instrument

import (
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
)

// Definition is a family: what it is called and which scales it has.
type Definition struct {
	Family Family
	Name   text.Text
	Fine   FineKind
	Scale  Scale

	Patterns func() []Spec // ready instruments, as they are found in shops and laboratories
	Usual    string        // the name of the one with which one begins to build another

	Measures       []Feature // what it is made for
	SetsByStandard bool      // one that does not begin at 0 is closed on a setting standard
	Transfers      bool      // it measures a transfer gauge that was set in a hole
	Paired         bool      // it has a second, upright scale of the same least count
	Reversed       bool      // its numbers usually run against the movement: marks vanish as the reading grows
	Reach          int64     // how long its main scale usually is, in mm
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
)

// MadeFor reports whether the family is made to measure a feature.
func (d *Definition) MadeFor(f Feature) bool { return slices.Contains(d.Measures, f) }

// anywhere lists the features that jaws for outside and inside and a depth rod reach.
var anywhere = []Feature{Outside, Inside, Depth, Step}

// Families lists the families that there are.
var Families = []Definition{
	{
		Family: VernierCaliper, Name: text.New("family.vernier-caliper"), Fine: Vernier, Scale: vernierScale{},
		Reach:    150,
		Patterns: vernierCalipers, Usual: "Caliper 0.05 mm, 20 over 39", Measures: anywhere,
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
		Patterns: pointerScales, Usual: "Pointer scale that stands off 0",
	},
	{
		Family: GearTooth, Name: text.New("family.gear-tooth"), Fine: Vernier, Scale: vernierScale{}, Reach: 150,
		Paired:   true,
		Patterns: gearToothVerniers, Usual: "Gear-tooth vernier 0.02 mm", Measures: []Feature{ToothThickness},
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
