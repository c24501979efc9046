// Package survey makes something of many readings: what they come to, which group stands out, how sure the mean is, and
// how good the readers are. What a rule makes exact is exact; roots and distributions are floating.
package survey

import (
	"math"
	"slices"
	"strconv"

	"cavix/core/length"
)

// Values are readings as they go into sums, in one unit.
type Values []length.Number

// Sum is the sum of the values.
func (v Values) Sum() (s length.Number) {
	for _, x := range v {
		s = s.Add(x)
	}
	return s
}

// Over divides a number by a count, which must not be 0.
func Over(x length.Number, n int) length.Number { return x.Quo(length.Int(int64(n))) }

// Mean is the mean of one value or more.
func (v Values) Mean() length.Number { return Over(v.Sum(), len(v)) }

// Sorted are the values from the least to the largest.
func (v Values) Sorted() Values {
	out := slices.Clone(v)
	slices.SortFunc(out, length.Number.Cmp)
	return out
}

// Median is the middle one of one value or more; of an even count the mean of the two in the middle.
func (v Values) Median() length.Number {
	s := v.Sorted()
	n := len(s)
	return s[(n-1)/2].Add(s[n/2]).Mul(length.Frac(1, 2))
}

// Range is the largest of one value or more less the least.
func (v Values) Range() length.Number {
	s := v.Sorted()
	return s[len(s)-1].Sub(s[0])
}

// Mode are all values that occur most often, from the least; none where all differ.
func (v Values) Mode() Values {
	var out Values
	most := 1
	s := v.Sorted()
	for i := 0; i < len(s); {
		end := i + 1
		for end < len(s) && s[end].Equal(s[i]) {
			end++
		}
		switch n := end - i; {
		case n > most:
			most, out = n, Values{s[i]}
		case n == most && most > 1:
			out = append(out, s[i])
		}
		i = end
	}
	return out
}

// Squares is the sum of the squares of what each value lies off the mean.
func (v Values) Squares() (sum length.Number) {
	m := v.Mean()
	for _, x := range v {
		off := x.Sub(m)
		sum = sum.Add(off.Mul(off))
	}
	return sum
}

// S is the standard deviation with N − 1; ok is false for fewer than two values.
func (v Values) S() (s float64, ok bool) {
	if len(v) < 2 {
		return 0, false
	}
	return math.Sqrt(Over(v.Squares(), len(v)-1).Float()), true
}

// All are the values of all groups, one group after the other.
func All(groups []Values) Values { return slices.Concat(groups...) }

// Furthest are the groups whose mean lies furthest from the mean of the others, by index; none where all are equal or
// there is one alone. Of two groups it is both. Groups without values are passed over.
func Furthest(groups []Values) []int {
	var out []int
	off := length.Number{}
	for g := range groups {
		others := All(slices.Delete(slices.Clone(groups), g, g+1))
		if len(others) == 0 || len(groups[g]) == 0 {
			continue
		}
		switch d := groups[g].Mean().Sub(others.Mean()).Abs(); {
		case off.Less(d):
			out, off = []int{g}, d
		case off.Equal(d) && d.Sign() > 0:
			out = append(out, g)
		}
	}
	return out
}

// Uncertainty holds the standard uncertainties of a mean.
type Uncertainty struct {
	TypeA    float64 // of the scatter of the readings: s/√N
	Count    float64 // of the least count: c/√12
	Zero     float64 // of a zero error that was read once: c/√12
	Combined float64 // the root of their squares
	Expanded float64 // with the factor 2
}

// UncertaintyOf works out how sure the mean is of values read with a least count; zeroed says that a zero error was
// read once and taken off. It is ok for two values or more.
func UncertaintyOf(v Values, leastCount length.Number, zeroed bool) (u Uncertainty, ok bool) {
	s, ok := v.S()
	if !ok {
		return u, false
	}
	u.TypeA = s / math.Sqrt(float64(len(v)))
	u.Count = leastCount.Float() / math.Sqrt(12)
	if zeroed {
		u.Zero = u.Count
	}
	u.Combined = math.Sqrt(u.TypeA*u.TypeA + u.Count*u.Count + u.Zero*u.Zero)
	u.Expanded = 2 * u.Combined
	return u, true
}

// Written is the mean with its expanded uncertainty: that to two significant digits, the mean rounded to the same
// place.
func (u Uncertainty) Written(mean length.Number) (m, expanded string) {
	if u.Expanded <= 0 {
		return mean.Round(6).String(), "0"
	}
	places := 1 - int(math.Floor(math.Log10(u.Expanded)))
	if math.Round(u.Expanded*math.Pow10(places)) >= 100 { // 0.0996 is 0.10 in two digits
		places--
	}
	places = max(0, min(places, 12))
	return mean.Round(places).Text(places), strconv.FormatFloat(u.Expanded, 'f', places, 64)
}
