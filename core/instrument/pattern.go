package instrument

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
