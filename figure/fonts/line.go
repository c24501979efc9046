package fonts

import (
	"slices"
	"strings"
	"sync"
	"unicode"

	"github.com/go-text/typesetting/di"
	"github.com/go-text/typesetting/font"
	"github.com/go-text/typesetting/font/opentype"
	"github.com/go-text/typesetting/language"
	"github.com/go-text/typesetting/shaping"
	"golang.org/x/image/math/fixed"
)

// Point is a place on a line of text: in ems from its beginning and its base line, x rightwards and y downwards.
type Point struct{ X, Y float64 }

// Line is a line of text with its letters in place.
type Line struct {
	Text    string
	Width   float64 // in ems
	letters []letter
}

// letter is a letter of a font at its place.
type letter struct {
	face *font.Face
	id   font.GID
	at   Point
}

// steps are the straight pieces that a curve of a letter is drawn in.
const steps = 5

// em is the size that letters are shaped at.
const em = 1000

// setter shapes text. Its faces and its shaper are used by one at a time.
type setter struct {
	sync.Mutex
	faces  []*font.Face
	shaper shaping.HarfbuzzShaper
	cutter shaping.Segmenter
	lines  shaping.LineWrapper
}

// setting is the shaper with all fonts, Archivo first. They come with the program, so that one that cannot be parsed is
// a fault of it.
var setting = sync.OnceValue(func() *setter {
	s := &setter{}
	add := func(data []byte, err error) {
		if err != nil {
			panic(err)
		}
		face, err := font.ParseTTF(strings.NewReader(string(data)))
		if err != nil {
			panic(err)
		}
		s.faces = append(s.faces, face)
	}
	add(Text, nil)
	files, err := Names.ReadDir("names")
	if err != nil {
		panic(err)
	}
	for _, f := range files {
		add(Names.ReadFile("names/" + f.Name()))
	}
	return s
})

// ResolveFace returns the first font that holds a letter, or Archivo.
func (s *setter) ResolveFace(r rune) *font.Face {
	for _, f := range s.faces {
		if _, holds := f.NominalGlyph(r); holds {
			return f
		}
	}
	return s.faces[0]
}

// Set lays a text out that is read from left to right, whatever names it holds, in lines of a width in ems at most; 0
// is no bound. It breaks lines where the script allows it, and within a word that is too long.
func Set(line string, width float64) []Line {
	s := setting()
	s.Lock()
	defer s.Unlock()
	runes := []rune(strings.Map(spaced, Printable(line)))
	if len(runes) == 0 {
		return nil
	}
	var runs []shaping.Output
	in := shaping.Input{Text: runes, Direction: di.DirectionLTR, Size: fixed.I(em),
		Language: language.NewLanguage("und")}
	for in.RunEnd = 0; in.RunEnd < len(runes); {
		for in.RunStart = in.RunEnd; in.RunEnd == in.RunStart || in.RunEnd < len(runes) &&
			!begins(runes, in.RunEnd); in.RunEnd++ {
		}
		for _, part := range s.cutter.Split(in, s) {
			runs = append(runs, s.shaper.Shape(part))
		}
	}
	bound := 1 << 20
	if width > 0 {
		bound = int(width * em)
	}
	wrapped, _ := s.lines.WrapParagraph(shaping.WrapConfig{Direction: di.DirectionLTR}, bound, runes,
		shaping.NewSliceIterator(runs))
	out := make([]Line, len(wrapped))
	for i, l := range wrapped {
		out[i] = placed(l, runes)
	}
	return out
}

// spaced is a space in place of what begins a line or steers a printer.
func spaced(r rune) rune {
	if unicode.In(r, unicode.Cc, unicode.Zl, unicode.Zp) {
		return ' '
	}
	return r
}

// placed puts the letters of the runs of a line in their places, from left to right.
func placed(l shaping.Line, runes []rune) (line Line) {
	for _, run := range l {
		line.Text += said(run, runes)
	}
	for _, run := range inSight(l, runes) {
		for _, g := range run.Glyphs {
			at := Point{line.Width + ems(g.XOffset), -ems(g.YOffset)}
			line.letters = append(line.letters, letter{run.Face, g.GlyphID, at})
			line.Width += ems(g.Advance)
		}
	}
	return line
}

// Outlines draws the letters as outlines to fill, by the rule of nonzero winding.
func (l Line) Outlines() (out [][]Point) {
	s := setting()
	s.Lock() // a face is used by one at a time
	defer s.Unlock()
	for _, g := range l.letters {
		if shape, ok := g.face.GlyphDataOutline(g.id); ok {
			out = append(out, outlines(shape.Segments, g.at, 1/float64(g.face.Upem()))...)
		}
	}
	return out
}

// inSight returns the runs of a line from left to right: those from the right reversed, with the numbers between and
// behind them (Unicode Standard Annex 9, rules N1 and L2), each isolated name by itself.
func inSight(l shaping.Line, runes []rune) []shaping.Output {
	out := slices.Clone(l)
	for i := 0; i < len(out); {
		from := i
		for i++; out[from].Direction == di.DirectionRTL && i < len(out) && !begins(runes, out[i].Runes.Offset) &&
			(out[i].Direction == di.DirectionRTL || strings.IndexFunc(said(out[i], runes), unicode.IsLetter) < 0); i++ {
		}
		slices.Reverse(out[from:i])
	}
	return out
}

// begins reports whether an isolated part, or what follows one, begins at a place of a text.
func begins(runes []rune, at int) bool {
	return at > 0 && (runes[at] == '\u2068' || runes[at-1] == '\u2069')
}

// said returns the text of a run.
func said(run shaping.Output, runes []rune) string {
	return string(runes[run.Runes.Offset : run.Runes.Offset+run.Runes.Count])
}

func ems(x fixed.Int26_6) float64 { return float64(x) / 64 / em }

// outlines are the closed lines of a letter at a place, its curves in straight pieces.
func outlines(segments []opentype.Segment, at Point, scale float64) (out [][]Point) {
	place := func(p opentype.SegmentPoint) Point {
		return Point{at.X + float64(p.X)*scale, at.Y - float64(p.Y)*scale}
	}
	for _, seg := range segments {
		if seg.Op == opentype.SegmentOpMoveTo {
			out = append(out, []Point{place(seg.Args[0])})
			continue
		}
		line := &out[len(out)-1]
		from := (*line)[len(*line)-1]
		switch a, b, c := place(seg.Args[0]), place(seg.Args[1]), place(seg.Args[2]); seg.Op {
		case opentype.SegmentOpLineTo:
			*line = append(*line, a)
		case opentype.SegmentOpQuadTo:
			for i := 1; i <= steps; i++ {
				*line = append(*line, bent(float64(i)/steps, from, a, b))
			}
		case opentype.SegmentOpCubeTo:
			for i := 1; i <= steps; i++ {
				t := float64(i) / steps
				*line = append(*line, between(bent(t, from, a, b), bent(t, a, b, c), t))
			}
		}
	}
	return out
}

// bent is a point of a quadratic curve, by de Casteljau's construction.
func bent(t float64, a, b, c Point) Point { return between(between(a, b, t), between(b, c, t), t) }

func between(a, b Point, t float64) Point { return Point{a.X + (b.X-a.X)*t, a.Y + (b.Y-a.Y)*t} }
