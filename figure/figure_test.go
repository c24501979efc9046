package figure_test

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"image/png"
	"io"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/figure"
	"cavix/locale"
)

// drawn is what the eye finds in an SVG: where marks, lines and numerals stand.
type drawn struct {
	main, fine []float64               // x of the upright ones
	lines      map[string][][4]float64 // x1, y1, x2, y2 of every line, by class
	texts      []numeral
	names      map[string]bool // of elements and attributes
	classes    map[string]bool
}

type numeral struct {
	x, y, size float64
	s          string
}

var translate = regexp.MustCompile(`^translate\(([-0-9.]+) ([-0-9.]+)\)( scale\([0-9.]+\))?$`)

// look reads a drawing back from its markup alone.
func look(t testing.TB, svg []byte) drawn {
	t.Helper()
	d := drawn{names: map[string]bool{}, classes: map[string]bool{}, lines: map[string][][4]float64{}}
	type at struct{ dx, dy float64 }
	stack := []at{{}}
	dec := xml.NewDecoder(bytes.NewReader(svg))
	var text *numeral
	for {
		tok, err := dec.Token()
		if errors.Is(err, io.EOF) {
			return d
		}
		require.NoError(t, err)
		switch e := tok.(type) {
		case xml.Comment:
			require.Fail(t, "a comment in a drawing")
		case xml.StartElement:
			attr := map[string]string{}
			for _, a := range e.Attr {
				attr[a.Name.Local] = a.Value
				d.names[e.Name.Local+" "+a.Name.Local] = true
			}
			num := func(name string) float64 {
				v, err := strconv.ParseFloat(attr[name], 64)
				require.NoError(t, err, "%s of %s", name, e.Name.Local)
				return v
			}
			here := stack[len(stack)-1]
			if tr, ok := attr["transform"]; ok {
				m := translate.FindStringSubmatch(tr)
				require.NotNil(t, m, "a transform that is not a plain translate: %q", tr)
				dx, _ := strconv.ParseFloat(m[1], 64)
				dy, _ := strconv.ParseFloat(m[2], 64)
				here = at{here.dx + dx, here.dy + dy}
			}
			stack = append(stack, here)
			d.classes[attr["class"]] = true
			switch {
			case e.Name.Local == "line":
				class := attr["class"]
				d.lines[class] = append(d.lines[class], [4]float64{num("x1") + here.dx, num("y1") + here.dy,
					num("x2") + here.dx, num("y2") + here.dy})
				if num("x1") != num("x2") || class != "main-mark" && class != "fine-mark" {
					break
				}
				if attr["class"] == "main-mark" {
					d.main = append(d.main, num("x1")+here.dx)
				} else {
					d.fine = append(d.fine, num("x1")+here.dx)
				}
			case e.Name.Local == "text":
				text = &numeral{x: num("x") + here.dx, y: num("y") + here.dy, size: num("font-size")}
			}
		case xml.CharData:
			if text != nil {
				text.s += string(e)
			}
		case xml.EndElement:
			stack = stack[:len(stack)-1]
			if text != nil {
				d.texts = append(d.texts, *text)
				text = nil
			}
		}
	}
}

// nearest returns how far the nearest of the sorted marks stands from x.
func nearest(marks []float64, x float64) float64 {
	i, _ := slices.BinarySearch(marks, x)
	best := math.Inf(1)
	for _, j := range []int{i - 1, i} {
		if j >= 0 && j < len(marks) {
			best = min(best, math.Abs(marks[j]-x))
		}
	}
	return best
}

// Drawings of random verniers are read by geometry alone and must give what the core reads.
func TestDrawingReadsAsTheCoreDoes(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(11, 1))
	for range many(1600) {
		in := instrumenttest.Vernier(draws)
		y := instrumenttest.Position(draws, in)
		r, err := in.Read(y)
		require.NoError(t, err)
		lay, err := figure.Lay(in, y, []float64{figure.Wide, figure.Narrow}[draws.IntN(2)])
		require.NoError(t, err)
		d := look(t, lay.Scene(figure.Options{}).SVG("", ""))
		s := in.Spec()
		about := fmt.Sprintf("%d over %d of %s at %s", s.Fine.Divisions, s.Fine.MainDivisions, s.Main.Division, y)

		require.Len(t, d.fine, s.Fine.Divisions+1, about)
		require.True(t, slices.IsSorted(d.main), about)
		plate := slices.Clone(d.fine)
		slices.Sort(plate)
		division := d.main[1] - d.main[0]
		require.Less(t, d.main[0], plate[0], about)
		require.Greater(t, d.main[len(d.main)-1], plate[len(plate)-1], about)

		// The line that stands nearest to a mark, lowest number first.
		best, line := math.Inf(1), -1
		var next float64
		for k, x := range d.fine[:s.Fine.Divisions] {
			switch off := nearest(d.main, x); {
			case off < best-1e-6:
				best, next, line = off, best, k
			case off < next:
				next = off
			}
		}
		count := division / float64(s.Fine.Divisions)
		onGrid := r.Observed.Equal(y)
		if onGrid {
			require.InDelta(t, 0, best, 2e-4, about)
			require.Greater(t, next, 0.9*count, "nothing else coincides: %s", about)
		}
		if !r.Tie {
			require.Equal(t, r.Line, line, about)
		}

		// The last mark at or before line 0, by a numeral and counting.
		if onGrid {
			value, ok := markBefore(d, s, d.fine[0]+1e-3, division)
			if ok {
				require.True(t, value.Equal(r.Main), "%s: main mark %s, want %s", about, value, r.Main)
			}
		}
	}
}

// markBefore finds the value of the last main mark at or before x, counting from some numeral.
func markBefore(d drawn, s instrument.Spec, x, division float64) (length.Number, bool) {
	for _, n := range d.texts {
		v, err := length.Parse(n.s)
		if err != nil || n.y > 152 || nearest(d.main, n.x) > 1e-3 { // numerals of the beam stand above its edge
			continue
		}
		every := s.Main.Division.MulInt(s.Main.NumberEvery)
		at := v.Quo(s.Main.NumberStep).Mul(every)
		return at.Add(s.Main.Division.MulInt(int(math.Floor((x - n.x) / division)))), true
	}
	return length.Number{}, false
}

// The second scale of a beam is read back too: at an opening on its own grid just its own line coincides.
func TestSecondScalesReadAsTheCoreDoes(t *testing.T) {
	if testing.Short() {
		t.Skip("draws hundreds of figures; left out with -short")
	}
	t.Parallel()
	draws := rand.New(rand.NewPCG(11, 5))
	held := 0
	for held < 300 {
		in := instrumenttest.Any(draws)
		second, role := in.Second()
		if second == nil || role == instrument.ToothDepthScale {
			continue
		}
		at := instrumenttest.Position(draws, second)
		r, err := second.Read(at)
		require.NoError(t, err)
		y := in.Swapped().OnSecond(r.Observed) // what the first scale indicates when the second shows r
		lay, err := figure.Lay(in, y, figure.Wide)
		if err != nil {
			continue // off the first scale
		}
		held++
		d := look(t, lay.Scene(figure.Options{}).SVG("", ""))
		marks := []float64{}
		for _, l := range d.lines["second-main"] {
			marks = append(marks, l[0])
		}
		if len(marks) < 2 {
			continue
		}
		slices.Sort(marks)
		require.Len(t, d.lines["second-fine"], second.Lines()+1)
		line := d.lines["second-fine"][r.Line][0]
		if line > marks[0]-1 && line < marks[len(marks)-1]+1 {
			require.InDelta(t, 0, nearest(marks, line), 2e-3, "%s: line %d", in.Describe(), r.Line)
		}
	}
}

// Drawings of drums and faces are read by geometry alone too: the line at the index or pointer, the finer
// line that coincides, and the last main mark.
func TestTurningScalesReadAsTheCoreDoes(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(11, 4))
	seen := map[instrument.FineKind]int{}
	for range many(12000) {
		in := instrumenttest.Any(draws)
		if in.Kind() == instrument.Vernier { // these have a test of their own
			continue
		}
		y := instrumenttest.Position(draws, in)
		r, err := in.Read(y)
		require.NoError(t, err)
		if r, err = in.Read(r.Observed); err != nil { // rounded up to the very end of the scale
			continue
		}
		lay, err := figure.Lay(in, r.Observed, []float64{figure.Wide, figure.Narrow}[draws.IntN(2)])
		require.NoError(t, err)
		svg := lay.Scene(figure.Options{}).SVG("", "")
		require.Less(t, len(svg), 80<<10)
		d := look(t, svg)
		about := fmt.Sprintf("%s at %s", in.Describe(), r.Observed)
		seen[in.Kind()]++
		switch in.Kind() {
		case instrument.Thimble:
			k, finer := readDrum(t, d, in, about)
			if k >= 0 {
				require.Equal(t, r.Line, k, about)
			}
			require.Equal(t, r.FinerLine, finer, about)
		case instrument.Dial:
			require.Equal(t, r.Line, readFace(t, d, in), about)
		default:
			if lines := append(d.lines["index"], d.lines["pointer"]...); len(lines) > 0 &&
				r.Main.Cmp(in.Spec().Main.From) >= 0 && r.Main.Cmp(in.Spec().Main.To) <= 0 {
				require.InDelta(t, 0, nearest(sorted(d.main), lines[0][0]), 1e-3, about)
			}
		}
		if in.Kind() == instrument.Display || in.Kind() == instrument.None {
			continue
		}
		marks, step := sorted(d.main), in.Spec().Main.Division
		for _, n := range d.texts {
			v, err := length.Parse(n.s)
			if err != nil || nearest(marks, n.x) > 1e-3 || len(marks) == 0 {
				continue
			}
			at := v.Quo(in.Spec().Main.NumberStep).Mul(step.MulInt(in.Spec().Main.NumberEvery))
			i, _ := slices.BinarySearchFunc(marks, n.x, func(m,
				x float64) int {
				return int(math.Copysign(1, m-x+1e-3))
			})
			last := at.Add(step.MulInt(len(marks) - 1 - i)) // the last mark clear of the edge
			if in.Spec().Main.Reverse {
				last = at.Sub(step.MulInt(len(marks) - i)) // the last one hidden: below those in sight
			}
			whole := last.Quo(in.ScaleInterval()).Floor().Mul(in.ScaleInterval())
			if r.Main.Cmp(in.Spec().Main.To) <= 0 {
				require.True(t, whole.Equal(r.Main), "%s: main mark %s, want %s", about, whole, r.Main)
			}
			break
		}
	}
	for _, k := range []instrument.FineKind{instrument.Thimble, instrument.Dial, instrument.Display, instrument.None} {
		require.Greater(t, seen[k], many(1000), k)
	}
}

func sorted(x []float64) []float64 { x = slices.Clone(x); slices.Sort(x); return x }

// readDrum reads a drum off its lines: the line at the index (or, with a vernier, the last one passed),
// and the vernier's line that coincides. The line is −1 where no number is in sight.
func readDrum(t *testing.T, d drawn, in *instrument.Instrument, about string) (line, finer int) {
	t.Helper()
	index := d.lines["index"][0]
	lines := slices.Clone(d.lines["fine-mark"])
	slices.SortFunc(lines, func(a, b [4]float64) int { return int(math.Copysign(1, b[1]-a[1])) }) // from below upwards
	up := 1
	if in.Spec().Fine.Down {
		up = -1
		slices.Reverse(lines)
	}
	at := -1 // the last line passed: at the index, or before it in the order of the numbers
	for i, l := range lines {
		if float64(up)*(l[1]-index[1]) > -1e-3 {
			at = i
		}
	}
	line = -1
	for _, n := range d.texts {
		number, err := strconv.Atoi(n.s)
		if err != nil || math.Abs(n.x-index[2]-66) > 1 {
			continue
		}
		for i, l := range lines {
			if there := l[1] + (l[3]-l[1])/(l[2]-l[0])*0.78*84; math.Abs(there-(n.y-0.35*n.size)) < 0.05 {
				k := number / in.Spec().Fine.NumberStep * in.Spec().Fine.NumberEvery
				line = ((k+at-i)%in.Lines() + in.Lines()) % in.Lines()
			}
		}
	}
	if !in.HasFiner() {
		require.InDelta(t, index[1], lines[at][1], 1e-3, about)
		return line, 0
	}
	finer = -1
	for k, l := range d.lines["finer-mark"][:in.FinerLines()] {
		for _, m := range lines {
			if math.Abs(m[1]-l[1]) < 2e-4 && finer < 0 {
				finer = k
			}
		}
	}
	require.Len(t, d.lines["finer-mark"], in.FinerLines()+1, about)
	return line, finer
}

// readFace reads a face: the line that the pointer stands at, counted from the nearest 0 before it.
func readFace(t *testing.T, d drawn, in *instrument.Instrument) int {
	t.Helper()
	p := d.lines["pointer"][0]
	angle := func(x, y float64) float64 { return math.Mod(math.Atan2(x-p[0], p[1]-y)+2*math.Pi, 2*math.Pi) }
	want, best, at := angle(p[2], p[3]), math.Inf(1), 0
	lines := d.lines["fine-mark"]
	for i, l := range lines {
		off := math.Abs(angle(l[0], l[1]) - want)
		if off = min(off, 2*math.Pi-off); off < best {
			best, at = off, i
		}
	}
	require.Less(t, best, 1e-4)
	require.Len(t, lines, in.Spec().Fine.Divisions)
	return at % in.Lines() // line 0 of the face stands at its top and is drawn first
}

func TestNumeralsNeverCollide(t *testing.T) {
	t.Parallel()
	draws, drawings := rand.New(rand.NewPCG(11, 2)), 400
	if testing.Short() {
		drawings = 100
	}
	for range drawings {
		in := instrumenttest.Any(draws)
		lay, err := figure.Lay(in, instrumenttest.Position(draws, in), figure.Narrow)
		require.NoError(t, err)
		scenes := [][]byte{lay.Scene(figure.Options{}).SVG("", "")}
		for _, zoom := range lay.Strengths() {
			if in.Kind() != instrument.Vernier { // the same figure, enlarged all round
				break
			}
			scenes = append(scenes, lay.Strip(lay.LensOn(zoom, 1), figure.Options{}).SVG("", ""))
		}
		for _, svg := range scenes {
			rows := map[float64][]numeral{}
			for _, n := range look(t, svg).texts {
				rows[n.y] = append(rows[n.y], n)
			}
			for _, row := range rows {
				slices.SortFunc(row, func(a, b numeral) int { return int(math.Copysign(1, a.x-b.x)) })
				for i := range row[1:] {
					a, b := row[i], row[i+1]
					// Archivo's narrow digits are 0.52 of their size wide (measured in Chromium).
					gap := b.x - a.x - 0.52*(a.size*float64(len(a.s))+b.size*float64(len(b.s)))/2
					require.Greater(t, gap, 1.0, "%q and %q of %d over %d", a.s, b.s, in.Spec().Fine.Divisions,
						in.Spec().Fine.MainDivisions)
				}
			}
		}
	}
}

// somewhere is a value that an instrument shows, not at the beginning of its scale.
func somewhere(in *instrument.Instrument) length.Number {
	if in.Traits().Signed {
		return in.LeastCount().MulInt(7)
	}
	return in.Closed().Add(in.ScaleInterval().MulInt(3))
}

// Names of parts stand beside the numerals, never on them, and so do their leaders.
func TestNamesLeaveTheNumeralsFree(t *testing.T) {
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(t, err)
		lay, err := figure.Lay(in, somewhere(in), figure.Wide)
		require.NoError(t, err)
		numerals := look(t, lay.Scene(figure.Options{}).SVG("", "")).texts
		names := 0
		var walk func(items []figure.Item, dx, dy float64)
		walk = func(items []figure.Item, dx, dy float64) {
			for _, it := range items {
				var left, right, top, bottom float64
				switch it := it.(type) {
				case figure.Group:
					walk(it.Items, dx+it.DX, dy+it.DY)
					continue
				case figure.Rect:
					if it.Class != "tag" {
						continue
					}
					names++
					left, right, top, bottom = it.X, it.X+it.W, it.Y, it.Y+it.H
				case figure.Line:
					if it.Class != "pin" {
						continue
					}
					left, right, top, bottom = min(it.X1, it.X2), max(it.X1, it.X2), min(it.Y1, it.Y2),
						max(it.Y1, it.Y2)
				default:
					continue
				}
				for _, n := range numerals {
					half, x, y := 0.26*n.size*float64(len(n.s)), n.x-dx, n.y-dy
					if x+half > left && x-half < right && y > top && y-0.72*n.size < bottom && len(n.s) < 5 {
						t.Errorf("%s: a name lies over the numeral %q at %.0f, %.0f", p.Name, n.s, n.x, n.y)
					}
				}
			}
		}
		walk(lay.Scene(figure.Options{Names: true}).Items, 0, 0)
		assert.Equal(t, len(in.Scale().Parts()), names, "%s: every part that has a name has a place in the drawing",
			p.Name)
	}
}

// What is served in a test must not tell the answer: nothing but drawing stands in the markup.
func TestMarkupHoldsDrawingOnly(t *testing.T) {
	in := caliper(t, 20, 39, "-0.15")
	y := length.Frac(3140, 100)
	lay, err := figure.Lay(in, y, figure.Wide)
	require.NoError(t, err)
	for _, svg := range [][]byte{lay.Scene(figure.Options{}).SVG("a", ""),
		lay.Strip(lay.LensOn(8, 0), figure.Options{}).SVG("b", ""), lay.Whole(figure.Options{}).SVG("c", "")} {
		d := look(t, svg)
		for name := range d.names {
			_, attr, _ := strings.Cut(name, " ")
			assert.NotContains(t, []string{"title", "desc", "data", "style", "href"}, attr)
			assert.False(t, strings.HasPrefix(attr, "data"), attr)
		}
		for _, n := range d.texts {
			v, err := length.Parse(n.s)
			require.NoError(t, err)
			assert.True(t, v.IsInt(), "%q", n.s)
		}
		assert.NotContains(t, string(svg), "31.4")
		assert.NotContains(t, string(svg), "31.55")
	}
	// Two positions of the same plate differ in coordinates only.
	other, err := figure.Lay(in, y.Add(length.Int(7)), figure.Wide)
	require.NoError(t, err)
	assert.Equal(t, look(t, lay.Scene(figure.Options{}).SVG("", "")).classes,
		look(t, other.Scene(figure.Options{}).SVG("", "")).classes)
}

func TestFlagsPointAtTheMetal(t *testing.T) {
	in := caliper(t, 20, 39, "0")
	lay, err := figure.Lay(in, length.Frac(3140, 100), figure.Wide)
	require.NoError(t, err)
	taken, line := length.Int(32), 9
	f := &exercise.Pointing{Mark: length.Int(31), MarkText: text.Typed("31 mm"), Line: 8,
		LineText: text.Typed("line 8"), TakenMark: &taken, TakenLine: &line}
	for _, svg := range [][]byte{lay.Scene(figure.Options{Flags: f}).SVG("", ""),
		lay.Strip(lay.LensOn(8, 8), figure.Options{Flags: f}).SVG("", "")} {
		assert.Equal(t, 2, bytes.Count(svg, []byte(`class="taken"`)), "the mark and the line that were taken")
	}
	svg := string(lay.Scene(figure.Options{Flags: f}).SVG("", ""))
	assert.Contains(t, svg, ">31 mm<")
	assert.Contains(t, svg, ">line 8<")
}

// At the strongest lens one least count is at least 4 px between neighbouring lines.
func TestStrongestLensIsStrongEnough(t *testing.T) {
	draws := rand.New(rand.NewPCG(11, 3))
	for range 300 {
		in := instrumenttest.Vernier(draws)
		lay, err := figure.Lay(in, in.Closed(), figure.Wide)
		require.NoError(t, err)
		z := lay.Strengths()
		require.True(t, z[0] < z[1] && z[1] < z[2])
		d := look(t, lay.Strip(lay.LensOn(z[2], 0), figure.Options{}).SVG("", ""))
		count := (d.main[1] - d.main[0]) / float64(in.Spec().Fine.Divisions)
		require.GreaterOrEqual(t, count, 4.0)
	}
}

// The picture and the page are painted from the same scene: where the SVG has a mark, pixels are dark.
func TestPicturesShowTheSameMarks(t *testing.T) {
	t.Parallel()
	for i, p := range instrument.Patterns() {
		if testing.Short() && i%8 != 0 {
			continue
		}
		in, err := instrument.New(p)
		require.NoError(t, err)
		lay, err := figure.Lay(in, somewhere(in), figure.Wide)
		require.NoError(t, err)
		sc := figure.WithLens(lay, lay.LensOn(lay.Strengths()[0], -1), locale.English(text.Words{}))
		b, err := sc.PNG(1)
		require.NoError(t, err, p.Name)
		img, err := png.Decode(bytes.NewReader(b))
		require.NoError(t, err)
		require.Equal(t, int(math.Ceil(sc.Width)), img.Bounds().Dx())
		dark := func(x, y float64) uint32 {
			best := uint32(0xFFFF)
			for dx := -1; dx <= 1; dx++ { // the line may share two pixels
				r, g, b, _ := img.At(int(x)+dx, int(y)).RGBA()
				best = min(best, (r+g+b)/3)
			}
			return best
		}
		held := 0
		fig := look(t, lay.Scene(figure.Options{}).SVG("", ""))
		for _, m := range fig.lines["main-mark"] {
			if x := m[0]; x > 300 && x < 500 && m[1] > 0 { // where nothing lies over the marks
				require.Less(t, dark((x+m[2])/2, (m[1]+m[3])/2), uint32(0xA000), "%s: no mark at %v", p.Name, m)
				held++
			}
		}
		if in.Kind() == instrument.Vernier {
			require.Positive(t, held, p.Name)
		}
		one, err := sc.PDF()
		require.NoError(t, err)
		again, err := sc.PDF()
		require.NoError(t, err)
		require.True(t, bytes.HasPrefix(one, []byte("%PDF-")) && bytes.Equal(one, again), p.Name)
	}
}

func TestOffTheScaleIsTheCoresError(t *testing.T) {
	_, err := figure.Lay(caliper(t, 20, 19, "0"), length.Int(200), figure.Wide)
	var off *instrument.RangeError
	require.ErrorAs(t, err, &off)
}

func caliper(t testing.TB, lines, spans int, zero string) *instrument.Instrument {
	t.Helper()
	in, err := instrument.Parse(
		fmt.Appendf(nil, `{"format":"cavix/instrument","version":1,"family":"vernier-caliper","unit":"mm",
		"main":{"division":"1","from":"0","to":"150"},"fine":{"kind":"vernier","divisions":%d,"spans":%d,
		"number_every":5},"zero_error":%q}`, lines, spans, zero),
	)
	require.NoError(t, err)
	return in
}

// Every figure of every pattern is drawn within the budget.
func BenchmarkPatterns(b *testing.B) {
	for _, p := range instrument.Patterns() {
		in, err := instrument.New(p)
		require.NoError(b, err)
		from, to := in.Range()
		y := from.Add(to.Sub(from).Mul(length.Frac(3, 7)))
		b.Run(p.Name, func(b *testing.B) {
			var size int
			for b.Loop() {
				lay, err := figure.Lay(in, y, figure.Wide)
				if err != nil {
					b.Fatal(err)
				}
				size = len(lay.Scene(figure.Options{}).SVG("", ""))
			}
			b.ReportMetric(float64(size), "bytes")
		})
	}
}

func BenchmarkSVG(b *testing.B) {
	in := caliper(b, 50, 49, "-0.06")
	b.ReportAllocs()
	var size int
	for b.Loop() {
		lay, err := figure.Lay(in, length.Frac(3164, 100), figure.Wide)
		if err != nil {
			b.Fatal(err)
		}
		size = len(lay.Scene(figure.Options{}).SVG("", ""))
	}
	b.ReportMetric(float64(size), "bytes")
}

// What a caliper holds is drawn as long as it is: between the outside jaws, over the inside jaws, and
// under the depth blade. The zero error makes the reading wrong, not the work.
func TestTheOpeningIsTheWorksSize(t *testing.T) {
	for _, zero := range []string{"0", "-0.15", "0.1"} {
		in := caliper(t, 20, 39, zero)
		size := length.Frac(25, 4)
		lay, err := figure.Lay(in, in.Closed().Add(size), figure.Wide)
		require.NoError(t, err)
		marks := look(t, lay.Scene(figure.Options{}).SVG("", "")).main
		want := size.Float() * (marks[1] - marks[0])
		for _, hold := range []figure.Hold{figure.Outside, figure.Inside, figure.Depth} {
			rects := map[string][]figure.Rect{}
			for _, it := range lay.Scene(figure.Options{Hold: hold}).Items {
				if r, ok := it.(figure.Rect); ok {
					rects[r.Class] = append(rects[r.Class], r)
				}
			}
			var got float64
			switch hold {
			case figure.Outside:
				require.Len(t, rects["work"], 1)
				got = rects["work"][0].W
			case figure.Inside:
				got = rects["wall moving"][0].X - rects["wall"][0].X - rects["wall"][0].W
			case figure.Depth:
				require.Empty(t, rects["work"], "nothing between the jaws")
				got = rects["wall moving"][0].X - rects["wall"][0].X
			}
			require.InDelta(t, want, got, 0.05, "%q held with a zero error of %s", hold, zero)
		}
	}
}

// many is how many instruments are drawn by chance: a sixteenth with -short.
func many(n int) int {
	if testing.Short() {
		return n / 16
	}
	return n
}

// No number of any drawing is what is to be read on it, in any unit: what equals a reading by chance at one
// position does not at six.
func TestNoDrawingHoldsItsReading(t *testing.T) {
	t.Parallel()
	numbers := regexp.MustCompile(`-?\d+(\.\d+)?`)
	printed := regexp.MustCompile(`<text[^>]*>[^<]*</text>|<title>[^<]*</title>|Numbers in sight[^"]*`)
	draws := rand.New(rand.NewPCG(11, 9))
	for i, spec := range instrument.Patterns() {
		in, err := instrument.New(spec)
		require.NoError(t, err)
		const positions = 6
		told := map[string]int{} // at how many positions a drawing held this of the reading
		_, high := in.Range()
		room, _ := high.Sub(in.Spec().ZeroError.Abs()).Sub(in.Closed()).Quo(in.LeastCount()).Int64()
		for range positions {
			y := in.Closed().Add(in.LeastCount().MulInt(1 + int(draws.Int64N(room-1))))
			if testing.Short() && i%4 != 0 {
				continue
			}
			r, err := in.Read(y)
			require.NoError(t, err)
			lay, err := figure.Lay(in, y, figure.Wide)
			require.NoError(t, err)
			scenes := map[string]*figure.Scene{"whole": lay.Whole(figure.Options{}),
				"figure": lay.Scene(figure.Options{Loose: true}),
				"lens":   lay.Strip(lay.LensOn(max(1, lay.Strengths()[0]), -1), figure.Options{})}
			for name, sc := range scenes {
				held := map[string]bool{}
				for _, n := range numbers.FindAllString(printed.ReplaceAllString(string(sc.SVG("p", "fig")), ""), -1) {
					held[strings.TrimRight(strings.TrimRight(n, "0"), ".")] = strings.Contains(n, ".")
				}
				for what, x := range map[string]length.Number{"observed": r.Observed, "corrected": r.Corrected,
					"shown": r.Observed.Sub(r.Base), "main": r.Main} {
					for _, unit := range []length.Unit{length.Millimetre, length.Centimetre, length.Inch} {
						value := length.Convert(x, in.Unit(), unit)
						for places := 1; places <= 3; places++ {
							if value.Round(places).IsInt() {
								continue // a whole number stands in every drawing somewhere
							}
							text := value.Round(places).Text(places)
							if held[strings.TrimRight(text, "0")] {
								told[fmt.Sprintf("%s holds %s in %s to %d places", name, what, unit, places)]++
							}
						}
					}
				}
			}
		}
		for what, n := range told {
			assert.Less(t, n, positions-1, "%s: the %s at %d of %d positions", in.Name(), what, n, positions)
		}
	}
}

// A figure tells those who cannot see it what numbers a glance finds: those round what is read, and none where every
// mark has one.
func TestAFigureTellsWhatNumbersAreInSight(t *testing.T) {
	numbers := regexp.MustCompile(`Numbers in sight on the ([a-z ]+): ([^.]+(?:\.\d+[^.]*)*)\.`)
	for _, pattern := range instrument.Patterns() {
		in, err := instrument.New(pattern)
		require.NoError(t, err)
		spec := in.Spec()
		low, high := in.Range()
		y := low.Add(high).Mul(length.Frac(1, 2)).Quo(in.LeastCount()).Floor().Mul(in.LeastCount())
		r, err := in.Read(y)
		require.NoError(t, err)
		lay, err := figure.Lay(in, y, figure.Wide)
		require.NoError(t, err)
		told := map[string]string{}
		for _, found := range numbers.FindAllStringSubmatch(lay.Scene(figure.Options{Said: locale.Documents()}).Label,
			-1) {
			told[found[1]] = found[2]
		}
		main := told["main scale"] + told["sleeve scale"]
		if spec.Main.NumberEvery <= 1 || !in.Traits().HasMarks {
			assert.Empty(t, main, spec.Name)
			continue
		}
		step := spec.Main.NumberStep
		before := r.Main.Quo(spec.Main.Division.MulInt(spec.Main.NumberEvery)).Floor().Mul(step)
		if in.Kind() == instrument.Thimble && !spec.Main.Reverse {
			assert.Contains(t, ", "+main+",", ", "+exercise.Show(before.String())+",", "%s at %s", spec.Name, y)
		}
		if in.Kind() == instrument.Thimble {
			assert.NotEmpty(t, told["drum"]+told["disc"], spec.Name)
		}
		for n := range strings.SplitSeq(main, ", ") {
			var x length.Number
			require.NoError(t, x.UnmarshalText([]byte(strings.ReplaceAll(n, "−", "-"))), "%s: %q", spec.Name, main)
			assert.True(t, x.Quo(step).IsInt(), "%s: %s", spec.Name, n)
		}
	}
}
