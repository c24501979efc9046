package length

import "strings"

// Unit is a unit of length, by its symbol. The zero value stands for no unit.
type Unit string

// The units that instruments are divided in. People may write answers in a few more: see ParseUnit.
const (
	Millimetre Unit = "mm"
	Centimetre Unit = "cm"
	Inch       Unit = "in"
)

// Plural returns the unit's name in a sentence that counts it: "millimetres". Other units than those that instruments
// are divided in are written by their symbol.
func (u Unit) Plural() string {
	switch u {
	case Millimetre:
		return "millimetres"
	case Centimetre:
		return "centimetres"
	case Inch:
		return "inches"
	}
	return string(u)
}

// sizes holds each unit's length in millimetres; an inch is 25.4 mm exactly (ISO 31-1, 1992).
var sizes = map[Unit]Number{
	Millimetre: Int(1),
	Centimetre: Int(10),
	Inch:       Frac(127, 5),
	Degree:     Int(1), // of itself: angles and lengths are kept apart by whoever converts
	metre:      Int(1000),
	"µm":       Frac(1, 1000),
	"thou":     Frac(127, 5000),
	"ft":       Frac(1524, 5),
}

// spellings maps what people write to a unit.
var spellings = map[string]Unit{
	"mm": Millimetre, "millimetre": Millimetre, "millimetres": Millimetre, "millimeter": Millimetre,
	"millimeters": Millimetre,
	"cm":          Centimetre, "centimetre": Centimetre, "centimetres": Centimetre, "centimeter": Centimetre,
	"centimeters": Centimetre,
	"in":          Inch, "in.": Inch, "inch": Inch, "inches": Inch, `"`: Inch, "″": Inch, "”": Inch, "''": Inch,
	"m": metre, "metre": metre, "metres": metre, "meter": metre, "meters": metre,
	"µm": "µm", "μm": "µm", "um": "µm", "micron": "µm", "microns": "µm",
	"thou": "thou", "mil": "thou", "mils": "thou",
	"ft": "ft", "foot": "ft", "feet": "ft",

	"zentimeter": Centimetre, "zoll": Inch, "mikrometer": "µm",
	"milímetro": Millimetre, "milímetros": Millimetre, "centímetro": Centimetre, "centímetros": Centimetre,
	"pulgada":  Inch,
	"pulgadas": Inch, "pulg": Inch, "metro": metre, "metros": metre, "micra": "µm", "micras": "µm",
	"millimètre": Millimetre, "millimètres": Millimetre, "centimètre": Centimetre, "centimètres": Centimetre,
	"pouce":  Inch,
	"pouces": Inch, "po": Inch, "mètre": metre, "mètres": metre,
}

// ParseUnit returns the unit that a symbol or word means, upper or lower case.
func ParseUnit(s string) (Unit, bool) {
	u, ok := spellings[strings.ToLower(strings.TrimSpace(s))]
	return u, ok
}

// Convert returns x, a length in from, as a length in to, exactly. Both must be known units.
func Convert(x Number, from, to Unit) Number {
	if from == to {
		return x
	}
	return x.Mul(sizes[from]).Quo(sizes[to])
}
