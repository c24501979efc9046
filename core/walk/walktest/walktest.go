// Package walktest reads instruments by what is told of their figures, as somebody does who cannot see them.
package walktest

import (
	"regexp"
	"strconv"
	"strings"

	"cavix/core/instrument"
	"cavix/core/length"
)

var (
	counted = regexp.MustCompile(`^(half mark past )?(?:mark (\d+) after )?(?:number )?([−\d.]+)`)
	line    = regexp.MustCompile(`(?:(left|right) )?line (\d+)`)
	tenths  = regexp.MustCompile(`about (\d+) tenth`)
)

// Mark works out the value of a main mark from what is said of it: by the number before it, and the marks counted.
func Mark(in *instrument.Instrument, says string) (length.Number, bool) {
	m := in.Spec().Main
	found := counted.FindStringSubmatch(says)
	if found == nil {
		return length.Number{}, false
	}
	printed, err := length.Parse(strings.ReplaceAll(found[3], "−", "-"))
	if err != nil {
		return printed, false
	}
	if in.Traits().Counts { // a small hand points at what it counts
		return printed, true
	}
	k, _ := strconv.Atoi(found[2])
	if m.HalfMarks { // of the marks that are counted, every second division is one
		if k *= 2; found[1] != "" {
			k++
		}
	}
	return printed.Quo(m.NumberStep).Mul(m.Division.MulInt(m.NumberEvery)).Add(m.Division.MulInt(k)), true
}

// Main is the last mark that is told to count. One that stands at an edge counts where the fine scale has just begun
// anew, at line k, and not where it is about to.
func Main(in *instrument.Instrument, told []string, k int) (value length.Number, found bool) {
	begun, reverse := 2*k < in.Lines(), in.Spec().Main.Reverse
	for _, l := range told {
		what, state, _ := strings.Cut(l, ": ")
		atEdge := strings.HasPrefix(state, "right at the edge")
		switch {
		case state == "passed", state == "exactly there", state == "in sight" && !reverse, atEdge && begun:
			value, found = Mark(in, what)
		case reverse && !found && (state == "in sight" || atEdge): // what counts is hidden before it
			value, found = Mark(in, what)
			value = value.Sub(in.Spec().Main.Division)
		}
	}
	return value.Quo(in.ScaleInterval()).Floor().Mul(in.ScaleInterval()), found
}

// Between is the value that a hand or an edge shows between two marks, with the tenths that are told.
func Between(in *instrument.Instrument, says string) (value length.Number, ok bool) {
	says = strings.TrimPrefix(strings.TrimPrefix(says, "exactly at "), "between ")
	if value, ok = Mark(in, says); !ok {
		return value, false
	}
	if m := tenths.FindStringSubmatch(says); m != nil {
		n, _ := strconv.Atoi(m[1])
		value = value.Add(in.Spec().Main.Division.Mul(length.Frac(int64(n), 10)))
	}
	if strings.Contains(says, "close to the second") {
		value = value.Add(in.Spec().Main.Division.Mul(length.Frac(19, 20)))
	}
	return value, true
}

// Line is the line of the fine scale that counts; −1 where none can be told.
func Line(in *instrument.Instrument, told []string) int {
	if in.Traits().BothWays {
		side := "right"
		if in.Spec().Main.Reverse {
			side = "left"
		}
		for _, l := range told {
			if m := line.FindStringSubmatch(l); strings.Contains(l, "meets") && (m[1] == side || m[2] == "0") {
				return number(m[2])
			}
		}
		return -1
	}
	if in.Traits().Coincides {
		return Meeting(told)
	}
	m := line.FindStringSubmatch(told[0])
	switch {
	case m == nil, strings.Contains(told[0], "between") && !in.HasFiner():
		return -1
	case strings.HasPrefix(told[0], "on the left"):
		return -number(m[2])
	}
	return number(m[2])
}

// Meeting is the first line that is told to meet a mark; −1 for none.
func Meeting(told []string) int {
	for _, l := range told {
		if m := line.FindStringSubmatch(l); m != nil && strings.Contains(l, "meets") {
			return number(m[2])
		}
	}
	return -1
}

// Observed is the observed reading by what is told of all scales, a list of lines for each. It is not ok where no mark
// before the place of reading is told.
func Observed(in *instrument.Instrument, scales [][]string) (sum length.Number, ok bool) {
	has := in.Traits()
	switch {
	case has.Digits:
		number := strings.Fields(strings.ReplaceAll(strings.TrimPrefix(scales[0][0], "It shows "), "−", "-"))[0]
		sum, err := length.Parse(number)
		return sum, err == nil
	case !in.HasFine():
		sum, ok = Between(in, scales[0][0])
		return in.Spec().Base.Add(sum.Quo(in.LeastCount()).Round(0).Mul(in.LeastCount())), ok
	}
	sum = in.Spec().Base
	k := 0
	if !has.HasMarks {
		k = Line(in, scales[0])
	} else if k = Line(in, scales[1]); k < 0 {
		return sum, false
	}
	switch {
	case has.Counts:
		turns, ok := Between(in, scales[0][0])
		if !ok {
			return sum, false
		}
		sum, scales = sum.Add(turns.Quo(in.ScaleInterval()).Floor().Mul(in.ScaleInterval())), scales[1:]
	case has.HasMarks:
		main, found := Main(in, scales[0], k)
		if !found {
			return sum, false
		}
		sum, scales = sum.Add(main), scales[1:]
	}
	sum = sum.Add(in.LineWorth().MulInt(k))
	if in.HasFiner() {
		sum = sum.Add(in.LeastCount().MulInt(Meeting(scales[1])))
	}
	return in.Around(sum), true
}

func number(digits string) int { n, _ := strconv.Atoi(digits); return n }
