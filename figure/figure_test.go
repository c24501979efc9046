package figure_test

import (
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
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

	"cavix/core/instrument"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/length"
	"cavix/figure"
)

// drawn is what the eye finds in an SVG: where marks, lines and numerals stand.
type drawn struct {
	main, fine []float64
	texts      []numeral
	names      map[string]bool // of elements and attributes
	classes    map[string]bool
}

type numeral struct {
	x, y, size float64
	s          string
}

var translate = regexp.MustCompile(`^translate\(([-0-9.]+) ([-0-9.]+)\)$`)

// look reads a drawing back from its markup alone.
func look(t testing.TB, svg []byte) drawn {
	t.Helper()
	d := drawn{names: map[string]bool{}, classes: map[string]bool{}}
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
			case e.Name.Local == "line" && (attr["class"] == "main-mark" || attr["class"] == "fine-mark"):
				require.Equal(t, num("x1"), num("x2"), "marks are upright")
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
	draws := rand.New(rand.NewPCG(11, 1))
	for range 1200 {
		in := instrumenttest.Vernier(draws)
		y := instrumenttest.Position(draws, in)
		r, err := in.Read(y)
		require.NoError(t, err)
		lay, err := figure.Lay(in, y, []float64{figure.Wide, figure.Narrow}[draws.IntN(2)])
		require.NoError(t, err)
		d := look(t, lay.Scene(figure.Options{}).SVG("", ""))
		s := in.Spec()
		about := fmt.Sprintf("%d over %d of %s at %s", s.Fine.Divisions, s.Fine.Spans, s.Main.Division, y)

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

func TestNumeralsNeverCollide(t *testing.T) {
	draws := rand.New(rand.NewPCG(11, 2))
	for range 400 {
		in := instrumenttest.Vernier(draws)
		lay, err := figure.Lay(in, instrumenttest.Position(draws, in), figure.Narrow)
		require.NoError(t, err)
		scenes := [][]byte{lay.Scene(figure.Options{}).SVG("", "")}
		for _, zoom := range lay.Strengths() {
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
					require.Greater(t, gap, 1.0, "%q and %q of %d over %d", a.s, b.s, in.Spec().Fine.Divisions, in.Spec().Fine.Spans)
				}
			}
		}
	}
}

// What is served in a test must not tell the answer: nothing but drawing stands in the markup.
func TestMarkupHoldsDrawingOnly(t *testing.T) {
	in := caliper(t, 20, 39, "-0.15")
	y := length.Frac(3140, 100)
	lay, err := figure.Lay(in, y, figure.Wide)
	require.NoError(t, err)
	for _, svg := range [][]byte{lay.Scene(figure.Options{}).SVG("a", ""), lay.Strip(lay.LensOn(8, 0), figure.Options{}).SVG("b", ""), lay.Whole().SVG("c", "")} {
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
	assert.Equal(t, look(t, lay.Scene(figure.Options{}).SVG("", "")).classes, look(t, other.Scene(figure.Options{}).SVG("", "")).classes)
}

func TestFlagsPointAtTheMetal(t *testing.T) {
	in := caliper(t, 20, 39, "0")
	lay, err := figure.Lay(in, length.Frac(3140, 100), figure.Wide)
	require.NoError(t, err)
	taken, line := length.Int(32), 9
	f := &figure.Flags{Mark: length.Int(31), MarkText: "31 mm", Line: 8, LineText: "line 8", TakenMark: &taken, TakenLine: &line}
	for _, svg := range [][]byte{lay.Scene(figure.Options{Flags: f}).SVG("", ""), lay.Strip(lay.LensOn(8, 8), figure.Options{Flags: f}).SVG("", "")} {
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

func TestOffTheScaleIsTheCoresError(t *testing.T) {
	_, err := figure.Lay(caliper(t, 20, 19, "0"), length.Int(200), figure.Wide)
	var off *instrument.RangeError
	require.ErrorAs(t, err, &off)
}

func caliper(t testing.TB, lines, spans int, zero string) *instrument.Instrument {
	t.Helper()
	in, err := instrument.Parse(fmt.Appendf(nil, `{"format":"cavix/instrument","version":1,"family":"vernier-caliper","unit":"mm",
		"main":{"division":"1","from":"0","to":"150"},"fine":{"kind":"vernier","divisions":%d,"spans":%d,"number_every":5},"zero_error":%q}`, lines, spans, zero))
	require.NoError(t, err)
	return in
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
