package length

import (
	"math/big"
	"regexp"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"

	"cavix/core/text"
)

// Bounds of what is read as one number from outside: enough for any length, too little to make exact
// arithmetic costly. What Cavix has written itself may be longer: see ParseStored.
const (
	maxWritten = 40 // characters
	maxDigits  = 18 // of the numerator and of the denominator, in lowest terms
)

// limit is the first whole number that is too large for a numerator or denominator from outside.
var limit = new(big.Int).Exp(big.NewInt(10), big.NewInt(maxDigits), nil)

// CheckDigits refuses a number with more than 18 digits above or below its fraction line. The error completes "this …".
func CheckDigits(x Number) error {
	if r := x.big; r != nil && (r.Num().CmpAbs(limit) >= 0 || r.Denom().Cmp(limit) >= 0) ||
		r == nil && (abs(x.num) >= uint64(pow10[maxDigits]) || x.d() >= pow10[maxDigits]) {
		return text.Error("number.check-digits", "max_digits", maxDigits)
	}
	return nil
}

// Parse reads a number as documents write it: "0.02", "-0.04", "1/128", "1 3/16". The decimal sign
// is a point, a minus is "-" and there is no unit. Numbers of more than 18 digits are refused, so that
// all that follows from an accepted one stays cheap to work out.
func Parse(s string) (Number, error) {
	if len(s) > maxWritten {
		return Number{}, text.Error("number.parse", "max_written", maxWritten)
	}
	x, err := parse(s)
	if err == nil {
		if err := CheckDigits(x); err != nil {
			return Number{}, text.Error("number.as-it-is", "s", s, "err", err)
		}
	}
	return x, err
}

// ParseStored reads a number that String wrote, with as many digits as it has: what was accepted once stays readable.
// It fails for what is no number, and for more than 4,096 characters.
func ParseStored(s string) (Number, error) {
	if len(s) > maxStored {
		return Number{}, text.Error("number.parse-stored", "max_stored", maxStored)
	}
	return parse(s)
}

// parse reads a number of any length.
func parse(s string) (Number, error) {
	for _, r := range s {
		if !strings.ContainsRune("0123456789.-/ ", r) {
			return Number{}, text.Error("number.not-number-write-like", "s", s)
		}
	}
	w, err := parseNumber(s)
	if err != nil {
		return Number{}, text.Error("number.as-it-is", "s", s, "err", err)
	}
	return w.Value, nil
}

// Typed is a number as a person wrote it: its value, and what a marker may want to know of its form.
type Typed struct {
	Value    Number
	Unit     Unit // "" when none was written
	Decimals int  // places after the decimal sign
	Signed   bool // a plus or minus was written
	Fraction bool // written with a slash
	Parts    uint // of an angle: a bit for each part that was written; see Names
}

// In returns the value in the given unit: as written where t has no unit, else converted exactly. It fails where the
// converted value has too many digits; see CheckDigits.
func (t Typed) In(unit Unit) (Number, error) {
	if t.Unit == "" || t.Unit == unit || unit == "" {
		return t.Value, nil
	}
	x := Convert(t.Value, t.Unit, unit)
	if CheckDigits(x) != nil {
		return Number{}, text.Error("number.in", "unit", unit)
	}
	return x, nil
}

// ReadTyped reads what people write in a box: "7,60", " 7.60mm", "= 7.60", "7·60", "+0.03", "−0.03" with any minus
// sign, ".318", "7.6e1", "3/16", "1 3/16 in", "1-3/16", "1⅜", in the digits of any script. Both comma and point are
// decimal signs; separators of thousands are not accepted, since 1,234 would be two numbers. The error completes "this
// ...".
func ReadTyped(s string) (Typed, error) {
	if utf8.RuneCountInString(s) > maxWritten {
		return Typed{}, text.Error("number.read-typed", "max_written", maxWritten)
	}
	if !utf8.ValidString(s) {
		return Typed{}, text.Error("number.holds-characters-not-text")
	}
	s = plainly(s)
	if s == "" {
		return Typed{}, text.Error("number.empty-write-number-like")
	}
	end := strings.LastIndexAny(s, "0123456789.,")
	if end < 0 {
		return Typed{}, text.Error("number.holds-no-number-write", "s", s)
	}
	digits, tail := s[:end+1], strings.TrimSpace(s[end+1:])
	var unit Unit
	if tail != "" {
		u, ok := ParseUnit(tail)
		if u == metre {
			return Typed{}, text.Error("number.metres-write-mm-cm")
		}
		if !ok {
			return Typed{}, text.Error("number.ends-which-no-unit", "tail", tail)
		}
		unit = u
	}
	if strings.ContainsAny(digits, ".") && strings.Contains(digits, ",") {
		return Typed{}, text.Error("number.both-point-comma-use", "digits", digits)
	}
	digits, power, err := powerOfTen(strings.ReplaceAll(digits, ",", "."))
	if err != nil {
		return Typed{}, err
	}
	if strings.Contains(digits, "/") {
		digits = hyphened.ReplaceAllString(digits, "$1$2 $3")
	}
	t, err := parseNumber(digits)
	if err != nil {
		return Typed{}, text.Error("number.write-like-7-60", "err", err)
	}
	if err := CheckDigits(t.Value); err != nil {
		return Typed{}, err
	}
	if power != 0 {
		t.Value, t.Decimals = t.Value.Mul(Pow10(power)), max(0, t.Decimals-power)
		if err := CheckDigits(t.Value); err != nil {
			return Typed{}, err
		}
	}
	t.Unit = unit
	return t, nil
}

// metre is a unit that no instrument here is read in.
const metre Unit = "m"

// hyphened is a mixed fraction with a hyphen between its parts.
var hyphened = regexp.MustCompile(`^([-+]? ?)(\d+) ?- ?(\d+ ?/)`)

// powerOfTen cuts the power of ten off a number: "1.206e1".
func powerOfTen(s string) (mantissa string, power int, err error) {
	at := strings.IndexAny(s, "eE")
	if at < 0 {
		return s, 0, nil
	}
	mantissa, exponent := s[:at], s[at+1:]
	power, err = strconv.Atoi(strings.TrimSpace(exponent))
	if err != nil || power < -maxDigits || power > maxDigits || strings.Contains(mantissa, "/") {
		return "", 0, text.Error("number.power-of-ten", "s", s)
	}
	return strings.TrimSpace(mantissa), power, nil
}

// plainly rewrites what was typed with the signs of numbers: ASCII digits and signs, fractions with a slash,
// single spaces, nothing invisible, no equals sign before and no full stop behind.
func plainly(s string) string {
	unsigned := s
	if s != "" && (s[0] == '-' || s[0] == '+') {
		unsigned = s[1:]
	}
	if strings.Trim(unsigned, "0123456789.") == "" && strings.Count(unsigned, ".") < 2 {
		return s // as nearly all are
	}
	var b strings.Builder
	for _, r := range s {
		switch {
		case strings.ContainsRune("−–—‐‑‒﹣\uff0d-⁻", r):
			b.WriteByte('-')
		case strings.ContainsRune("\uff0b+⁺", r):
			b.WriteByte('+')
		case strings.ContainsRune("⁄∕\uff0f/", r):
			b.WriteByte('/')
		case strings.ContainsRune("·٫⋅・․\uff0e.", r):
			b.WriteByte('.')
		case r == '，':
			b.WriteByte(',')
		case r == '=':
			b.WriteByte('=')
		case fractions[r] != "":
			b.WriteString(" " + fractions[r])
		case unicode.IsSpace(r):
			b.WriteByte(' ')
		case unicode.Is(unicode.Cf, r): // it cannot be seen
		case r > unicode.MaxASCII && unicode.Is(unicode.Nd, r):
			b.WriteByte(digit(r))
		default:
			b.WriteRune(r)
		}
	}
	s = strings.TrimSpace(strings.Trim(strings.Join(strings.Fields(b.String()), " "), "="))
	s = loosePoint.ReplaceAllString(s, "$1.$2")
	if said, stop := strings.CutSuffix(s, "."); stop && (strings.ContainsAny(said, ".,") || endsInLetter(said)) {
		return said // the full stop of a sentence, or of an abbreviated unit
	}
	return s
}

// loosePoint is a decimal point with a space beside it. A comma with one may stand between two numbers.
var loosePoint = regexp.MustCompile(`^([-+]? ?\d*) ?\. ?(\d)`)

func endsInLetter(s string) bool {
	r, _ := utf8.DecodeLastRuneInString(s)
	return unicode.IsLetter(r)
}

// fractions are the fractions that are one sign.
var fractions = map[rune]string{'½': "1/2", '⅓': "1/3", '⅔': "2/3", '¼': "1/4", '¾': "3/4", '⅕': "1/5", '⅖': "2/5",
	'⅗': "3/5", '⅘': "4/5", '⅙': "1/6", '⅚': "5/6", '⅛': "1/8", '⅜': "3/8", '⅝': "5/8", '⅞': "7/8", '⅒': "1/10"}

// digit is the ASCII digit of a decimal digit of another script: they stand ten by ten.
func digit(r rune) byte {
	for _, t := range unicode.Nd.R16 {
		if rune(t.Lo) <= r && r <= rune(t.Hi) {
			return '0' + byte((r-rune(t.Lo))%10)
		}
	}
	for _, t := range unicode.Nd.R32 {
		if rune(t.Lo) <= r && r <= rune(t.Hi) {
			return '0' + byte((r-rune(t.Lo))%10)
		}
	}
	return '0'
}

// parseNumber reads [sign] (decimal | fraction | whole fraction), with a point for the decimals and
// single spaces between the parts.
func parseNumber(s string) (Typed, error) {
	var t Typed
	rest := s
	neg := false
	if rest != "" && (rest[0] == '-' || rest[0] == '+') {
		t.Signed, neg = true, rest[0] == '-'
		rest = strings.TrimPrefix(rest[1:], " ")
	}
	whole, frac := "", rest
	if strings.Contains(rest, "/") {
		t.Fraction = true
		rest = strings.Replace(strings.Replace(rest, " /", "/", 1), "/ ", "/", 1)
		frac = rest
		if i := strings.IndexByte(rest, ' '); i >= 0 {
			whole, frac = rest[:i], rest[i+1:]
		}
		top, bottom, _ := strings.Cut(frac, "/")
		if !allDigits(top) || !allDigits(bottom) || (whole != "" && !allDigits(whole)) {
			return Typed{}, text.Error("number.parse-number")
		}
		n, _ := new(big.Int).SetString(top, 10)
		d, _ := new(big.Int).SetString(bottom, 10)
		if d.Sign() == 0 {
			return Typed{}, text.Error("number.divides-by-zero")
		}
		r := new(big.Rat).SetFrac(n, d)
		if whole != "" {
			w, _ := new(big.Rat).SetString(whole)
			r.Add(r, w)
		}
		t.Value = fromRat(r)
	} else {
		before, after, _ := strings.Cut(rest, ".")
		if before == "" && after == "" || before != "" && !allDigits(before) || after != "" && !allDigits(after) {
			return Typed{}, text.Error("number.not-one-number")
		}
		t.Decimals = len(after)
		t.Value = decimal(before, after)
	}
	if neg {
		t.Value = t.Value.Neg()
	}
	return t, nil
}

// decimal is the number that the digits before and after a point write.
func decimal(before, after string) Number {
	digits := before + after
	if len(digits) < len(pow10) {
		var n int64
		for i := range len(digits) {
			n = 10*n + int64(digits[i]-'0')
		}
		return Frac(n, pow10[len(after)])
	}
	n, _ := new(big.Int).SetString(digits, 10)
	scale := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(len(after))), nil)
	return fromRat(new(big.Rat).SetFrac(n, scale))
}

func allDigits(s string) bool {
	for i := range len(s) {
		if s[i] < '0' || s[i] > '9' {
			return false
		}
	}
	return s != ""
}
