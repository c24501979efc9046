// Package limits knows limit gauges: which sizes they are made to, and what passes them.
package limits

import "cavix/core/length"

// Limits are the smallest and the largest good size, both inclusive, of a shaft or a hole.
type Limits struct {
	Lower, Upper length.Number
	Hole         bool
}

// Go is the size that the GO gauge is made to: of a shaft the upper limit, of a hole the lower one (handbook, 6).
func (l Limits) Go() length.Number {
	if l.Hole {
		return l.Lower
	}
	return l.Upper
}

// NoGo is the size that the NO-GO gauge is made to.
func (l Limits) NoGo() length.Number {
	if l.Hole {
		return l.Upper
	}
	return l.Lower
}

// Passes reports whether a part passes the GO gauge, or else the NO-GO gauge.
func (l Limits) Passes(goes bool, part length.Number) bool {
	if goes {
		return Pass(l.Go(), part, true, l.Hole)
	}
	return Pass(l.NoGo(), part, false, l.Hole)
}

// Pass reports whether a part passes a gauge of a size: exactly its size passes GO and not NO-GO.
func Pass(gauge, part length.Number, goes, hole bool) bool {
	c := part.Cmp(gauge)
	if hole {
		c = -c
	}
	return c < 0 || c == 0 && goes
}

// Good reports whether a part is good: GO passes and NO-GO does not.
func (l Limits) Good(part length.Number) bool { return l.Passes(true, part) && !l.Passes(false, part) }

// Kind is a kind of gauge.
type Kind string

// The kinds: a ring or a snap for shafts, a plug for holes.
const (
	Ring Kind = "ring"
	Snap Kind = "snap"
	Plug Kind = "plug"
)

// Fits reports whether a kind of gauge is for the feature.
func (k Kind) Fits(hole bool) bool { return hole && k == Plug || !hole && (k == Ring || k == Snap) }
