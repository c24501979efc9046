package figure_test

import (
	"fmt"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/figure"
)

// ruled is a set of marks on one line, straight or bent, read off a drawing: where each stands along it.
type ruled struct {
	bent   bool
	cx, cy float64 // the middle of a bent one
	nx, ny float64 // the direction of a straight one
}

// newRuled finds the line on which marks stand: parallel ones along a straight line, others about a point.
func newRuled(marks [][4]float64) ruled {
	a, b := marks[0], marks[len(marks)-1]
	ax, ay, bx, by := a[2]-a[0], a[3]-a[1], b[2]-b[0], b[3]-b[1]
	cross := ax*by - ay*bx
	if math.Abs(cross) < 1e-6*math.Hypot(ax, ay)*math.Hypot(bx, by) {
		return ruled{nx: ay / math.Hypot(ax, ay), ny: -ax / math.Hypot(ax, ay)}
	}
	t := ((b[0]-a[0])*by - (b[1]-a[1])*bx) / cross
	return ruled{bent: true, cx: a[0] + t*ax, cy: a[1] + t*ay}
}

// at returns where a point stands along the line: in px, or in degrees clockwise from the top.
func (r ruled) at(x, y float64) float64 {
	if r.bent {
		return math.Atan2(x-r.cx, r.cy-y) * 180 / math.Pi
	}
	return x*r.nx + y*r.ny
}

// Figures of every family are read by geometry alone, at random positions: the line that meets a mark, or stands at the
// index or pointer, the mark before it by a numeral and counting, the hand of a counter. Numerals stand upright, clear
// of each other.
func TestEveryFamilyIsReadBack(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(11, 7))
	read := map[instrument.Family]int{}
	all := instrument.Patterns()
	for _, p := range instrument.Patterns() {
		if p.Family == instrument.Protractor {
			p.Main.Reverse = true
			all = append(all, p)
		}
	}
	seen := map[instrument.Family]int{}
	for _, p := range all {
		if seen[p.Family]++; testing.Short() && seen[p.Family] > 2 {
			continue
		}
		in, err := instrument.New(p)
		require.NoError(t, err)
		for range 20 {
			y := instrumenttest.Position(draws, in)
			r, err := in.Read(y)
			require.NoError(t, err)
			if r, err = in.Read(r.Observed); err != nil { // rounded up to the very end of the scale
				continue
			}
			lay, err := figure.Lay(in, r.Observed, []float64{figure.Wide, figure.Narrow, figure.Half}[draws.IntN(3)])
			require.NoError(t, err)
			svg := lay.Scene(figure.Options{}).SVG("", "")
			d := look(t, svg) // which refuses what is turned
			about := fmt.Sprintf("%s at %s", in.Name(), in.Format(r.Observed))
			apart(t, d, about)
			switch {
			case p.Family == instrument.Spherometer:
				line, _ := readDrum(t, laid(d), in, about)
				require.Contains(t, []int{r.Line, -1}, line, about)
				require.GreaterOrEqual(t, leftwards(d, in.Spec().Fine), 0, "numbers rise to the left: %s", about)
			case in.Kind() == instrument.Vernier:
				meets(t, d, in, r, about)
				holdsTheLine(t, lay, in, r, about)
			case p.Family == instrument.DialIndicator:
				require.Equal(t, r.Line, readFace(t, d, in), about)
				turns := smallHand(t, svg, about)
				counted := r.Observed.Quo(in.Spec().Fine.Travel).Float()
				require.InDelta(t, 0, math.Remainder(turns-counted/10, 1), 1e-3, about)
			case p.Family == instrument.BalancedIndicator:
				n := in.Spec().Fine.Divisions
				k := (readFace(t, d, in) + 1 - n/2 + n) % n // lines are drawn from the one after the lowest
				require.Equal(t, (r.Line+n)%n, k, about)
			default:
				continue
			}
			read[p.Family]++
		}
	}
	for _, f := range instrument.Families {
		switch f.Fine {
		case instrument.Vernier:
			assert.GreaterOrEqual(t, read[f.Family], 20, f.Family)
		}
	}
	for _, f := range []instrument.Family{instrument.Spherometer, instrument.DialIndicator,
		instrument.BalancedIndicator} {
		assert.GreaterOrEqual(t, read[f], 20, f)
	}
}

// meets holds that one line of a plate meets a mark, the one that the core reads, and which mark stands before its 0.
func meets(t *testing.T, d drawn, in *instrument.Instrument, r instrument.Reading, about string) {
	t.Helper()
	s := in.Spec()
	rule := newRuled(d.lines["main-mark"])
	var marks []float64
	for _, l := range d.lines["main-mark"] {
		require.InDelta(t, rule.at(l[0], l[1]), rule.at(l[2], l[3]), 1e-3, "%s: a mark stands across the scale", about)
		marks = append(marks, rule.at(l[0], l[1]))
	}
	slices.Sort(marks)
	division := (marks[len(marks)-1] - marks[0]) / float64(len(marks)-1)

	// Numerals name the marks that they stand at; two of them tell which way the numbers rise.
	type named struct {
		at    float64
		value length.Number
	}
	var names []named
	for _, n := range d.texts {
		v, err := length.Parse(n.s)
		at := rule.at(n.x, n.y-0.36*n.size)
		isMain := false
		for _, l := range d.lines["main-mark"] {
			// On the far side of its mark, away from the plate.
			isMain = isMain || math.Hypot(n.x-l[0], n.y-0.36*n.size-l[1]) < 26 ||
				math.Hypot(n.x-l[2], n.y-0.36*n.size-l[3]) < 26
		}
		if err == nil && isMain && nearest(marks, at) < 0.1*division && n.size > 16 {
			names = append(names, named{at, v.Quo(s.Main.NumberStep).Mul(s.Main.Division.MulInt(s.Main.NumberEvery))})
		}
	}
	require.GreaterOrEqual(t, len(names), 1, about)
	rises := 1.0
	if len(names) > 1 {
		a, b := names[0], names[len(names)-1]
		by := b.value.Sub(a.value)
		if turn := in.Turn(); turn.Sign() > 0 && by.Abs().Cmp(turn.Mul(length.Frac(1, 2))) > 0 { // over the circle's 0
			by = by.Neg()
		}
		rises = math.Copysign(1, (b.at-a.at)*by.Float())
	}

	if rule.bent {
		require.Equal(t, !s.Main.Reverse, rises > 0, "%s: numbers rise clockwise, or in reverse", about)
	}

	fine := d.lines["fine-mark"]
	at := func(k int) float64 { return rule.at(fine[k][0], fine[k][1]) }
	zero, n := 0, in.Lines()
	if in.Traits().BothWays {
		zero = n
		if at(zero+1) > at(zero) != (rises > 0) { // the half that counts lies where the numbers rise
			slices.Reverse(fine)
		}
	}
	best, line := math.Inf(1), -1
	for k := range n {
		if off := nearest(marks, at(zero+k)); off < best-1e-6*division {
			best, line = off, k
		}
	}
	require.Less(t, best, 1e-3*division, about)
	require.Equal(t, r.Line, line, about)

	passed := math.Floor((at(zero)-names[0].at)*rises/division + 1e-4)
	mark := names[0].value.Add(s.Main.Division.MulInt(int(passed)))
	require.True(t, in.Around(mark).Equal(in.Around(r.Main)), "%s: mark %s, want %s", about, mark, r.Main)
}

// holdsTheLine holds that the lens of a figure on paper has the line that meets a mark in it, however far it stands
// aside.
func holdsTheLine(t *testing.T, lay figure.Drawing, in *instrument.Instrument, r instrument.Reading, about string) {
	t.Helper()
	aside := []float64{-0.7, 0.7}[r.Line%2]
	strip := lay.Strip(figure.Inset(lay, 0.15, r.Line, aside, figure.InsetWide), figure.Options{})
	d := look(t, strip.SVG("", ""))
	line := r.Line
	if in.Traits().BothWays {
		line += in.Lines()
	}
	l := d.lines["fine-mark"][line]
	inside := l[0] > 0 && l[0] < strip.Width && l[1] > 0 && l[1] < strip.Height
	require.True(t, inside, "%s: line %d at %v", about, r.Line, l)
	met := slices.ContainsFunc(d.lines["main-mark"], func(m [4]float64) bool {
		touches := func(x, y float64) bool { return math.Hypot(x-l[0], y-l[1]) < 0.1 }
		return touches(m[0], m[1]) || touches(m[2], m[3])
	})
	require.True(t, met, "%s: no mark meets line %d in the lens", about, r.Line)
}

// laid lays a disc's figure on its side, as readDrum reads a drum.
func laid(d drawn) drawn {
	out := drawn{lines: map[string][][4]float64{}}
	for class, lines := range d.lines {
		for _, l := range lines {
			out.lines[class] = append(out.lines[class], [4]float64{-l[1], l[0], -l[3], l[2]})
		}
	}
	edge := out.lines["fine-mark"][0][0]
	index := out.lines["index"][0]
	index[2] = edge
	out.lines["index"][0] = index
	for _, n := range d.texts {
		out.texts = append(out.texts, numeral{x: -(n.y - 0.36*n.size), y: n.x + 0.35*n.size, size: n.size, s: n.s})
	}
	return out
}

// leftwards returns how many more pairs of neighbouring numbers on a disc rise to the left than fall.
func leftwards(d drawn, f instrument.Fine) (more int) {
	foot := d.lines["fine-mark"][0][1]
	on := slices.DeleteFunc(slices.Clone(d.texts), func(n numeral) bool {
		return math.Abs(n.y-0.36*n.size-foot+66) > 1
	})
	slices.SortFunc(on, func(a, b numeral) int { return int(math.Copysign(1, b.x-a.x)) })
	for i := range on[1:] {
		a, _ := strconv.Atoi(on[i].s)
		b, _ := strconv.Atoi(on[i+1].s)
		all := f.Divisions / f.NumberEvery * f.NumberStep
		more += int(math.Copysign(1, float64(all/2-(b-a+all)%all)))
	}
	return more
}

var hand = regexp.MustCompile(
	`class="small-hand"><path d="M([0-9.]+) ([0-9.]+) L.*?<circle cx="([0-9.]+)" cy="([0-9.]+)"`)

// smallHand returns the share of a turn at which the small hand stands, clockwise from the top.
func smallHand(t *testing.T, svg []byte, about string) float64 {
	t.Helper()
	m := hand.FindSubmatch(svg)
	require.NotNil(t, m, about)
	var v [4]float64
	for i := range v {
		var err error
		v[i], err = strconv.ParseFloat(string(m[i+1]), 64)
		require.NoError(t, err)
	}
	return math.Atan2(v[0]-v[2], v[3]-v[1]) / 2 / math.Pi
}

// apart holds that numerals stand clear of each other. Archivo's narrow digits are 0.52 of their size wide.
func apart(t *testing.T, d drawn, about string) {
	t.Helper()
	for i, a := range d.texts {
		for _, b := range d.texts[:i] {
			wide := 0.52 * (a.size*float64(len(a.s)) + b.size*float64(len(b.s))) / 2
			high := 0.36 * (a.size + b.size)
			if _, err := length.Parse(a.s + b.s); err == nil {
				require.False(t, math.Abs(a.x-b.x) < wide && math.Abs(a.y-b.y) < high,
					"%s: %q at %g, %g and %q at %g, %g", about, a.s, a.x, a.y, b.s, b.x, b.y)
			}
		}
	}
}
