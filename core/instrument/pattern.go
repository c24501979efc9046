package instrument

import (
	"regexp"
	"strings"

	"cavix/core/text"
)

// Patterns lists ready instruments of every family, as they are found in shops and laboratories; an
// instructor starts from one and changes what is different in the cupboard.
func Patterns() []Spec {
	var out []Spec
	for _, d := range Families {
		out = append(out, d.Patterns()...)
	}
	return out
}

// PatternNamed returns the ready instrument of a name, and whether there is one.
func PatternNamed(name string) (Spec, bool) {
	for _, p := range Patterns() {
		if p.Name == name {
			return p, true
		}
	}
	return Spec{}, false
}

var notInKeys = regexp.MustCompile(`[^a-z0-9]+`)

// PatternTitle names a ready instrument for a reader. Its Name is the same in English, for programs and documents.
func PatternTitle(name string) text.Text {
	return text.New("pattern." + strings.Trim(notInKeys.ReplaceAllString(strings.ToLower(name), "-"), "-"))
}
