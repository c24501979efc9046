package paper

import (
	"bytes"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"
	"unicode"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"cavix/core/exercise"
	"cavix/core/instrument/instrumenttest"
	"cavix/core/kinds"
	"cavix/core/length"
	"cavix/core/text"
	"cavix/core/words"
	"cavix/figure"
	"cavix/locale"
)

// ready are the ready sheets, with versions of cards.
func ready(t testing.TB, versions int) []Sheet {
	t.Helper()
	var out []Sheet
	for _, r := range kinds.ReadySheets {
		sheet, _, err := r.Compose(nil)
		require.NoError(t, err)
		s := Sheet{Title: locale.English(text.Words{}).Print(r.Title), Class: "Mill parts",
			Said: locale.English(text.Words{}), Task: []string{"Read as the plate is cut: no guessing."}}
		for v := range versions {
			items, err := sheet.Deal(kinds.All, uint64(v))
			require.NoError(t, err)
			s.Versions = append(s.Versions, Version{Number: v + 1, For: fmt.Sprintf("Ørjan Ž. %d", v), Items: items})
		}
		out = append(out, s)
	}
	return out
}

// line is a line that is drawn on a page, in points from its upper left corner.
type line struct{ x1, y1, x2, y2 float64 }

// page is what stands on a page of a PDF: its lines, and its texts in the order in which they are written.
type onPage struct {
	lines []line
	texts []string
}

var (
	drawn   = regexp.MustCompile(`(-?[\d.]+) (-?[\d.]+) m\s+(-?[\d.]+) (-?[\d.]+) l\s+S`)
	shown   = regexp.MustCompile(`(?s)\(((?:[^\\()]|\\.)*)\)\s*Tj`)
	streams = regexp.MustCompile(`(?s)stream\n(.*?)\nendstream`)
)

// read reads the pages of a document that is not compressed.
func read(t testing.TB, set func(*document)) []onPage {
	t.Helper()
	d := newDocument(Sheet{Title: "Try", Class: "Try", Said: locale.English(text.Words{})})
	d.SetCompression(false)
	set(d)
	var b bytes.Buffer
	require.NoError(t, d.Output(&b))
	var pages []onPage
	_, high := d.GetPageSize()
	for _, s := range streams.FindAllSubmatch(b.Bytes(), -1) {
		if !bytes.Contains(s[1], []byte(" re")) && !bytes.Contains(s[1], []byte(" Tj")) ||
			bytes.Contains(s[1], []byte("begincmap")) {
			continue
		}
		var p onPage
		for _, m := range drawn.FindAllSubmatch(s[1], -1) {
			var n [4]float64
			for i := range n {
				var err error
				n[i], err = strconv.ParseFloat(string(m[i+1]), 64)
				require.NoError(t, err)
			}
			p.lines = append(p.lines, line{n[0], high - n[1], n[2], high - n[3]})
		}
		for _, m := range shown.FindAllSubmatch(s[1], -1) {
			raw := regexp.MustCompile(`\\(.)`).ReplaceAllFunc(m[1], func(b []byte) []byte {
				if b[1] == 'r' {
					return []byte{'\r'}
				}
				return b[1:]
			})
			var units []uint16
			for i := 0; i+1 < len(raw); i += 2 {
				units = append(units, uint16(raw[i])<<8|uint16(raw[i+1]))
			}
			p.texts = append(p.texts, string(utf16.Decode(units)))
		}
		pages = append(pages, p)
	}
	return pages
}

// upright are the x of vertical lines between two heights that touch the edge, each once.
func upright(lines []line, left, right, edge float64, above bool) []float64 {
	var out []float64
	for _, l := range lines {
		low, high := max(l.y1, l.y2), min(l.y1, l.y2)
		touches := math.Abs(low-edge) < 0.02 && high < edge-4
		if !above {
			touches = math.Abs(high-edge) < 0.02 && low > edge+4
		}
		if math.Abs(l.x1-l.x2) < 0.005 && l.x1 > left && l.x1 < right && touches {
			out = append(out, l.x1)
		}
	}
	slices.Sort(out)
	return slices.CompactFunc(out, func(a, b float64) bool { return math.Abs(a-b) < 0.005 })
}

// A vernier on paper is read back from its lines: the line that coincides is the one that the core reads, on the figure
// and in the inset, where all others miss by a quarter of a millimetre or more, in steps of it.
func TestAFigureOnPaperReadsAsItShould(t *testing.T) {
	t.Parallel()
	draws := rand.New(rand.NewPCG(7, 0x70617065))
	const x0, y0 = 40.0, 60.0
	figures := 60
	if testing.Short() {
		figures = 12
	}
	for range figures {
		in := instrumenttest.Vernier(draws)
		low, high := in.Range()
		steps, _ := high.Sub(low).Quo(in.LeastCount()).Floor().Int64()
		y := low.Add(in.LeastCount().MulInt(int(draws.Int64N(steps))))
		r, err := in.Read(y)
		if err != nil {
			continue
		}
		about := fmt.Sprintf("%s, %d over %d, c %s at %s", in.Unit(), in.Spec().Fine.Divisions,
			in.Spec().Fine.MainDivisions, in.LeastCount(), y)
		pixel := across / mm / figure.Wide
		sc, err := scene(exercise.Figure{Instrument: in, At: y}, figure.InsetWide, pixel, draws.Float64()*1.4-0.7,
			locale.English(text.Words{}))
		require.NoError(t, err, about)
		scale := across / figure.Wide
		pages := read(t, func(d *document) {
			d.AddPage()
			sc.Place(d.Fpdf, x0, y0, scale)
		})
		require.Len(t, pages, 1, about)

		// The edge of the inset is the one line that goes all along it.
		insetLeft := x0 + (figure.Narrow+14)*scale
		edge := 0.0
		for _, l := range pages[0].lines {
			if math.Abs(l.y1-l.y2) < 0.005 && math.Abs(l.x1-insetLeft) < 0.02 &&
				math.Abs(l.x2-l.x1-figure.InsetWide*scale) < 0.02 {
				edge = l.y1
			}
		}
		require.NotZero(t, edge, "%s: no inset", about)
		right := insetLeft + figure.InsetWide*scale
		marks, plate := upright(pages[0].lines, insetLeft, right, edge, true), upright(pages[0].lines, insetLeft, right,
			edge, false)
		require.NotEmpty(t, plate, "%s: nothing of the plate in the inset", about)
		meets := 0
		for _, x := range plate {
			miss := math.Inf(1)
			for _, m := range marks {
				miss = min(miss, math.Abs(m-x)/mm)
			}
			if miss < 0.02 {
				meets++
			} else {
				assert.GreaterOrEqual(t, miss, 0.24, "%s: a line that does not coincide misses by so many mm", about)
			}
		}
		// The last line of a plate coincides where its 0 does.
		assert.True(t, meets == 1 || r.Line == 0 && meets == 2, "%s: %d lines coincide in the inset", about, meets)
	}
}

// Each page says its version and its number, each card has its boxes in the order of the work, and nothing is left in
// the braces of the core, in any set of words.
func TestPagesSayWhatTheyAre(t *testing.T) {
	t.Parallel()
	for i, s := range ready(t, 2) {
		if testing.Short() && i%8 != 0 {
			continue
		}
		s.Said = locale.English(text.Words{Base: string(words.Bases[i%2])})
		pages := read(t, func(d *document) {
			d.say = s.Said
			for _, v := range s.Versions {
				d.version = v
				pieces := d.opening(s, v)
				for n, it := range v.Items {
					c, err := d.card(n+1, v.Number, it)
					require.NoError(t, err)
					pieces = append(pieces, c)
				}
				d.flow(pieces)
			}
		})
		version, number := 0, 0
		all := ""
		for _, p := range pages {
			says := strings.Join(p.texts, "\n")
			all += says + "\n"
			if version == 0 || !strings.Contains(says, fmt.Sprintf("Version %d\n", version)) {
				version, number = version+1, 0
			}
			number++
			assert.Contains(t, says, fmt.Sprintf("Version %d\n", version), s.Title)
			assert.Regexp(t, fmt.Sprintf(`(?m)^%d / \d+$`, number), says, s.Title)
		}
		assert.Equal(t, 2, version, s.Title)
		assert.NotRegexp(t, `[{}⟦]`, all, s.Title)
		assert.Contains(t, all, "Ørjan Ž. 0")
		at := 0
		for _, it := range s.Versions[1].Items {
			labels := map[string]string{}
			for _, f := range it.Fields() {
				labels[f.Name] = s.Said.Print(f.Label)
			}
			for _, l := range it.Lines() {
				for _, term := range l.Terms {
					if f := labels[term.Box]; term.Box != "" && f != "" && !l.Row && len(it.Fields()) > 1 &&
						it.Fields()[0].Input == exercise.Length {
						next := strings.Index(all[at:], "\n"+f+"\n")
						require.GreaterOrEqual(t, next, 0, "%s: %s", s.Title, f)
						at += next
					}
				}
			}
		}
	}
}

// Names in other scripts are set on pages, in lines that stay within them.
func TestNamesInOtherScriptsAreSet(t *testing.T) {
	if testing.Short() {
		t.Skip("draws pages; left out with -short")
	}
	s := ready(t, 1)[0]
	plain := setAs(t, s)
	for _, name := range []string{"Ελένη Παππά", "Ольга Їжак", "\u2068שרה כהן\u2069", "محمد علي", "प्रिया शर्मा", "王小明",
		"さくら", "김민준"} {
		s.Class, s.Title = name, strings.Repeat(name+" ", 20)
		s.Task = []string{strings.Repeat(name+" ", 30)}
		for i := range s.Versions {
			s.Versions[i].For = name
		}
		assert.Greater(t, len(setAs(t, s)), len(plain), name)
		page, err := s.Preview()
		require.NoError(t, err)
		assert.Contains(t, string(page), name)
	}
}

func setAs(t *testing.T, s Sheet) []byte {
	var b bytes.Buffer
	require.NoError(t, s.Write(&b, func(int) error { return nil }))
	return b.Bytes()
}

// What a key says is right earns full marks, and what it says of a slip is what marking names where that alone is
// written.
func TestAKeyIsRight(t *testing.T) {
	all := 0
	d := &document{say: locale.English(text.Words{})}
	for _, s := range ready(t, 1) {
		for _, it := range s.Versions[0].Items {
			empty, err := it.Mark(nil)
			require.NoError(t, err)
			slips, err := it.Predictions()
			require.NoError(t, err)
			right := exercise.Answer{}
			for _, f := range it.Fields() {
				right[f.Name] = empty.Field(f.Name).Expected
			}
			r, err := it.Mark(right)
			require.NoError(t, err)
			assert.True(t, r.Marks.Equal(r.Of), "%s: %v", s.Title, right)
			for _, f := range it.Fields() {
				for _, w := range d.wrongly(f, right[f.Name], slips) {
					at := strings.IndexFunc(w, unicode.IsLetter)
					value, names := strings.TrimSpace(w[:at]), w[at:]
					r, err := it.Mark(exercise.Answer{f.Name: strings.ReplaceAll(value, "−", "-")})
					require.NoError(t, err, "%s: %s", s.Title, w)
					m := r.Field(f.Name)
					if m.Outcome != exercise.Wrong {
						continue // within a tolerance
					}
					all++
					assert.True(t, slices.ContainsFunc(m.Slips, func(c exercise.Code) bool {
						return slices.Contains(strings.Split(names, " or "), d.say.Print(c.Short()))
					}), "%s, %s: the key says %s, marking %v", s.Title, f.Name, w, m.Slips)
				}
			}
		}
	}
	assert.Greater(t, all, 1000)
}

// Where something was drawn becomes the movement that leads there, and back.
func TestWhatIsDrawnIsAMovement(t *testing.T) {
	for _, s := range ready(t, 1) {
		for _, it := range s.Versions[0].Items {
			for _, f := range it.Fields() {
				if f.Input != exercise.Position {
					continue
				}
				empty, err := it.Mark(nil)
				require.NoError(t, err)
				says, ok := Shown(it, f, empty.Field(f.Name).Expected)
				require.True(t, ok)
				typed, err := length.ReadTyped(says)
				require.NoError(t, err)
				n, ok := Moves(it, f, typed.Value)
				require.True(t, ok)
				r, err := it.Mark(exercise.Answer{f.Name: strconv.Itoa(n)})
				require.NoError(t, err)
				assert.Contains(t, []exercise.Outcome{exercise.Right, exercise.InForm}, r.Field(f.Name).Outcome,
					"%s: %s", s.Title, says)
			}
		}
	}
}

// Everything can be set, torn over pages where it must be, and the same sheet gives the same file.
func TestEverySheetIsSet(t *testing.T) {
	if testing.Short() {
		t.Skip("sets every sheet twice; left out with -short")
	}
	for _, s := range ready(t, 1) {
		for _, write := range []func(io.Writer, func(int) error) error{s.Write, s.WriteKey, s.WriteFlash} {
			var first, second bytes.Buffer
			done := 0
			require.NoError(t, write(&first, func(n int) error { done = n; return nil }), s.Title)
			require.NoError(t, write(&second, func(int) error { return nil }), s.Title)
			assert.Equal(t, 1, done)
			assert.True(t, bytes.Equal(first.Bytes(), second.Bytes()), s.Title)
			assert.True(t, bytes.HasPrefix(first.Bytes(), []byte("%PDF-")))
		}
	}
	stop := fmt.Errorf("enough")
	assert.ErrorIs(t, ready(t, 2)[0].Write(io.Discard, func(int) error { return stop }), stop)
}

// BenchmarkClass sets the sheets of a class: 30 versions of ten cards, and their key.
func BenchmarkClass(b *testing.B) {
	sheet, _, err := kinds.ReadySheets[len(kinds.ReadySheets)-1].Compose(nil)
	require.NoError(b, err)
	s := Sheet{Title: "Ten cards", Class: "Thirty students", Said: locale.English(text.Words{})}
	for v := range 30 {
		items, err := sheet.Deal(kinds.All, uint64(v))
		require.NoError(b, err)
		s.Versions = append(s.Versions, Version{Number: v + 1, Items: items[:min(10, len(items))]})
	}
	for b.Loop() {
		require.NoError(b, s.Write(io.Discard, func(int) error { return nil }))
		require.NoError(b, s.WriteKey(io.Discard, func(int) error { return nil }))
	}
}
