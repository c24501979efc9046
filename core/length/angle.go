package length

import (
	"regexp"
	"strconv"
	"strings"
	"unicode/utf8"

	"cavix/core/text"
)

// Degree is the unit of angles. It is no unit of length: nothing is converted between the two.
const Degree Unit = "deg"

// Angular reports whether the unit is one of angles.
func (u Unit) Angular() bool { return u == Degree }

// With writes a value behind which the unit stands: "7.60 mm", "12.5°". A value in degrees and minutes has its signs
// already, and stays as it is.
func (u Unit) With(value string) string {
	switch {
	case u == "":
		return value
	case !u.Angular():
		return value + " " + string(u)
	case strings.ContainsAny(value, "°′″"):
		return value
	}
	return value + "°"
}

// Part is a part in which an angle is written. The zero value is a decimal number of degrees.
type Part int

// The parts, from the largest.
const (
	Degrees Part = iota + 1
	Minutes
	Seconds
)

// Worth returns what one of a part is, in degrees.
func (p Part) Worth() Number { return Frac(1, int64(worth[p])) }

// worth is how many of a part make a degree.
var worth = [...]int{1, 1, 60, 3600}

// PartOf returns the largest part of which an angle in degrees is a whole number; ok is false where it is no whole
// number of seconds.
func PartOf(x Number) (p Part, ok bool) {
	for p = Degrees; p <= Seconds; p++ {
		if x.MulInt(worth[p]).IsInt() {
			return p, true
		}
	}
	return Seconds, false
}

// DMS writes an angle in degrees down to a part, and further where it needs that: "12°", "-12° 05′", "12° 05′ 30″".
// What is no whole number of seconds has decimals of them, or where these have no end a fraction of a degree.
func DMS(x Number, least Part) string {
	need, whole := PartOf(x)
	if _, finite := x.MulInt(worth[Seconds]).Decimals(); !whole && !finite {
		return x.Fraction() + "°"
	}
	least = max(least, need)
	sign := ""
	if x.Sign() < 0 {
		sign, x = "-", x.Neg()
	}
	var b strings.Builder
	b.WriteString(sign)
	for p, mark := range []string{"°", "′", "″"} {
		if Part(p+1) > least {
			break
		}
		n := x.Floor()
		if Part(p+1) == Seconds {
			n = x
		}
		if p > 0 {
			b.WriteByte(' ')
			if n.Less(Int(10)) {
				b.WriteByte('0')
			}
		}
		b.WriteString(n.String() + mark)
		x = x.Sub(n).MulInt(60)
	}
	return b.String()
}

// angle is what may stand in a box for an angle: one to three numbers with their marks, and a sign.
var angle = regexp.MustCompile(`^([-+]?) ?(\d+\.\d*|\.\d+|\d+(?: \d+/\d+|/\d+)?)` + mark +
	`(?:([ :]?) ?(\d+(?:\.\d+)?)` + mark + `)?(?:([ :]?) ?(\d+(?:\.\d+)?)` + mark + `)?(.*)$`)

// mark is the mark of a part, with the space before it; an empty one must not swallow the space between two numbers.
const mark = `( ?(?:degrees|degree|deg|d|°|minutes|minute|min|m|′|seconds|second|sec|s|″))?`

// marks are the parts that marks stand for, by their first letters.
var marks = map[string]Part{"d": Degrees, "°": Degrees, "m": Minutes, "′": Minutes, "s": Seconds, "″": Seconds}

// spelled brings the signs of degrees, minutes and seconds into one form.
var spelled = strings.NewReplacer("º", "°", "˚", "°", "'", "′", "’", "′", "´", "′", "\"", "″", "”", "″")

// ReadAngle reads an angle as people write it, in degrees: "12°35′", "12 35", "12:35", "12d35m", "12°35.5′", "755′",
// "30″", "12.5", "12,5°", "1/12", "12 1/2". One to three parts follow each other without a gap, each with its mark, or
// without one the part after that before it, the first one degrees. Only the last may have decimals; of several parts
// minutes and seconds are below 60. One sign may stand before the whole. The error completes "this …".
func ReadAngle(s string) (Typed, error) {
	if utf8.RuneCountInString(s) > maxWritten {
		return Typed{}, text.Error("number.read-typed", "max_written", maxWritten)
	}
	if !utf8.ValidString(s) {
		return Typed{}, text.Error("number.holds-characters-not-text")
	}
	plain := strings.ToLower(spelled.Replace(strings.ReplaceAll(plainly(s), ",", ".")))
	plain = looseColon.ReplaceAllString(strings.ReplaceAll(plain, "′′", "″"), "$1:$2")
	if plain == "" {
		return Typed{}, text.Error("angle.empty")
	}
	m := angle.FindStringSubmatch(plain)
	if m == nil || m[10] != "" {
		return Typed{}, text.Error("angle.none", "s", s)
	}
	t := Typed{Signed: m[1] != "", Fraction: strings.Contains(m[2], "/")}
	type piece struct{ number, mark, gap string }
	pieces := []piece{{m[2], m[3], ""}}
	for at := 4; at < 10; at += 3 {
		if m[at+1] != "" {
			pieces = append(pieces, piece{m[at+1], m[at+2], m[at]})
		}
	}
	part, marked := Part(0), false
	for i, piece := range pieces {
		named := part + 1
		if piece.mark = strings.TrimSpace(piece.mark); piece.mark != "" {
			r, _ := utf8.DecodeRuneInString(piece.mark)
			named = marks[string(r)]
		}
		x, err := parseNumber(strings.TrimSuffix(piece.number, "."))
		switch {
		case err != nil:
			return Typed{}, text.Error("number.write-like-7-60", "err", err)
		case named > Seconds, i > 0 && named != part+1:
			return Typed{}, text.Error("angle.parts-follow", "s", s)
		case x.Fraction && (len(pieces) > 1 || named != Degrees):
			return Typed{}, text.Error("angle.fraction-of-degrees", "s", s)
		case i < len(pieces)-1 && strings.Contains(piece.number, "."):
			return Typed{}, text.Error("angle.decimals-last", "s", s)
		case i > 0 && piece.gap == ":" && (pieces[i-1].mark != "" || piece.mark != ""),
			i > 0 && piece.gap == "" && strings.TrimSpace(pieces[i-1].mark) == "":
			return Typed{}, text.Error("angle.none", "s", s)
		case len(pieces) > 1 && named > Degrees && !x.Value.Less(Int(60)):
			return Typed{}, text.Error("angle.sixty-" + strconv.Itoa(int(named)))
		}
		part, marked = named, marked || piece.mark != ""
		t.Value = t.Value.Add(x.Value.Quo(Int(int64(worth[part]))))
		t.Decimals = x.Decimals
		t.Parts |= 1 << part
	}
	if marked {
		t.Unit = Degree
	}
	if m[1] == "-" {
		t.Value = t.Value.Neg()
	}
	return t, CheckDigits(t.Value)
}

// Read reads a value as people write it, an angle in degrees or a length in any unit. The error completes "this …".
func (u Unit) Read(s string) (Typed, error) {
	if u.Angular() {
		return ReadAngle(s)
	}
	return ReadTyped(s)
}

// ReadAny reads a value of which it is not known whether it is a length or an angle: with the sign of degrees or
// minutes in it, or where it is no length, an angle.
func ReadAny(s string) (Typed, error) {
	if strings.ContainsAny(s, "°′") {
		return ReadAngle(s)
	}
	t, err := ReadTyped(s)
	if angle, bad := ReadAngle(s); err != nil && bad == nil {
		return angle, nil
	}
	return t, err
}

// looseColon is a colon between two numbers with spaces beside it.
var looseColon = regexp.MustCompile(`(\d) ?: ?(\d)`)

// Names reports whether an angle was written with a part.
func (t Typed) Names(p Part) bool { return t.Parts&(1<<p) != 0 }

// Step returns the worth of one in the last place that was written: 0.01 of "7.60", a minute of "12° 05′".
func (t Typed) Step() Number {
	step := Pow10(-t.Decimals)
	for p := Seconds; p > Degrees; p-- {
		if t.Names(p) {
			return step.Mul(p.Worth())
		}
	}
	return step
}

// Manner reports whether an angle in degrees and minutes was written down to a part, with every larger part that is
// not 0.
func (t Typed) Manner(least Part) bool {
	if t.Fraction || !t.Names(least) {
		return false
	}
	x := t.Value.Abs()
	for p := Degrees; p < least; p++ {
		n := x.MulInt(worth[p]).Floor()
		if n.Sign() != 0 && !t.Names(p) {
			return false
		}
		x = x.Sub(n.Quo(Int(int64(worth[p]))))
	}
	return true
}
