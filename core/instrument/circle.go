package instrument

import (
	"cavix/core/length"
	"cavix/core/refusal"
	"cavix/core/text"
)

// bevel is a blade on a disc with a vernier plate that is numbered both ways from its middle. The half of it is read
// that lies where the main numbers rise.
type bevel struct{ vernierScale }

// widest is the largest angle between blade and stock.
var widest = length.Int(180)

func (bevel) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, Coincides: true, BothWays: true, Reversible: true}
}

func (b bevel) Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool) {
	if s.Main.From.Sign() != 0 {
		bad.Add("main.from", "protractor.from", "from", s.Main.From)
	}
	if widest.Less(s.Main.To) {
		bad.Add("main.to", "protractor.to", "widest", widest, "to", s.Main.To)
	}
	return b.vernierScale.Divide(s, divided, bad)
}

func (bevel) Describe(i *Instrument) text.Text {
	return text.New("protractor.describe", "division", i.withUnit(i.spec.Main.Division), "divisions",
		i.spec.Fine.Divisions, "spans", i.spec.Fine.MainDivisions)
}

func (bevel) Where(View) text.Text { return text.New("protractor.where") }
func (bevel) FindLine() text.Text  { return text.New("protractor.find-line") }
func (bevel) ZeroStory(_ *Instrument, r Reading) text.Text {
	switch sign := r.ZeroError.Sign(); {
	case sign == 0:
		return text.New("protractor.no-zero-error")
	case r.Line == 0:
		return text.New("vernier.zero-on-mark." + side(sign))
	default:
		return text.New("protractor.zero."+side(sign), "line", r.Line)
	}
}

func (bevel) NumbersRun(*Instrument) text.Text { return text.New("protractor.numbers-run") }

func (bevel) Usuals(length.Unit) []Usual {
	return []Usual{{Division: length.Int(1), Lines: []int{12}}}
}

func (bevel) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	if !ok {
		return
	}
	for i, m := range []int{2*n - 1, n - 1} {
		w.Offer(w.scale(u.Division), Fine{Divisions: n, MainDivisions: m}, ThimbleVernier{}, text.Text{},
			Rank{u.unusual(n), u.index, 0, i, n})
	}
}

func (bevel) Parts() []Part {
	return []Part{{MainScale, text.New("part.disc")}, {FineZero, text.New("part.its-zero")},
		{FineScale, text.Word("plate")}}
}

func protractors() []Spec {
	return []Spec{
		angled("Bevel protractor 5′", Protractor, length.Int(1), 10, 90, 12, 23, 3, 15),
		angled("Bevel protractor 5′, 12 over 11", Protractor, length.Int(1), 10, 90, 12, 11, 3, 15),
	}
}

// angled is a ready instrument for angles, of main divisions d up to a bound, of which every so many have a number, and
// a plate of lines over main divisions, of which every numbered one has a number that grows by step.
func angled(name string, f Family, d length.Number, every int, to int64, lines, spans, numbered, step int) Spec {
	return Spec{Name: name, Family: f, Unit: length.Degree,
		Main: Main{Division: d, To: length.Int(to), NumberEvery: every},
		Fine: Fine{Kind: Vernier, Divisions: lines, MainDivisions: spans, NumberEvery: numbered, NumberStep: step}}
}

// circle is a divided circle on which a vernier plate goes round.
type circle struct{ vernierScale }

func (circle) Traits() Traits {
	return Traits{HasMarks: true, HasLines: true, Coincides: true, HasEdge: true, Round: true}
}

// Complete takes the full circle for bounds that are left out.
func (circle) Complete(s *Spec) {
	if s.Main.From.Sign() == 0 && s.Main.To.Sign() == 0 {
		s.Main.To = fullCircle
	}
}

func (c circle) Divide(s *Spec, divided bool, bad *refusal.Refusal) (Division, bool) {
	if s.Main.From.Sign() != 0 {
		bad.Add("main.from", "circle.from", "from", s.Main.From)
	}
	if !s.Main.To.Equal(fullCircle) {
		bad.Add("main.to", "circle.to", "to", s.Main.To)
	}
	if divided && !fullCircle.Quo(s.Main.Division).IsInt() {
		bad.Add("main.division", "circle.division", "division", s.Main.Division)
	}
	return c.vernierScale.Divide(s, divided, bad)
}

func (circle) Describe(i *Instrument) text.Text {
	made := text.New("circle.describe", "division", i.withUnit(i.spec.Main.Division), "divisions",
		i.spec.Fine.Divisions, "spans", i.spec.Fine.MainDivisions)
	if i.second != nil {
		return text.Row(made, text.New("circle.two-plates"))
	}
	return made
}

func (circle) Where(View) text.Text { return text.New("circle.where") }

func (circle) ZeroStory(_ *Instrument, r Reading) text.Text {
	switch sign := r.ZeroError.Sign(); {
	case sign == 0:
		return text.New("circle.no-zero-error")
	case r.Line == 0:
		return text.New("vernier.zero-on-mark." + side(sign))
	default:
		return text.New("circle.zero."+side(sign), "line", r.Line)
	}
}

func (circle) Usuals(length.Unit) []Usual {
	return []Usual{{Division: length.Frac(1, 2), Lines: []int{30}}, {Division: length.Frac(1, 3), Lines: []int{40, 60}},
		{Division: length.Frac(1, 4), Lines: []int{45}}, {Division: length.Int(1), Lines: []int{10}}}
}

func (circle) Propose(w *Wanted, u Usual) {
	n, ok := w.lines(u.Division, w.LeastCount, leastLines)
	if !ok {
		return
	}
	w.Offer(w.scale(u.Division), Fine{Divisions: n, MainDivisions: n - 1}, ThimbleVernier{}, text.Text{},
		Rank{u.unusual(n), u.index, 0, 0, n})
}

func (circle) Parts() []Part {
	return []Part{{MainScale, text.New("part.circle")}, {FineZero, text.New("part.its-zero")},
		{FineScale, text.Word("plate")}}
}

func angleCircles() []Spec {
	both := angled("Spectrometer circle 30″, two verniers", AngleCircle, length.Frac(1, 3), 30, 360, 40, 39, 10, 5)
	both.Role, both.Second = Opposite, &Spec{}
	return []Spec{
		angled("Spectrometer circle 1′", AngleCircle, length.Frac(1, 2), 20, 360, 30, 29, 5, 5),
		both,
		angled("Circle 20″, 60 over 59", AngleCircle, length.Frac(1, 3), 30, 360, 60, 59, 15, 5),
		angled("Circle 20″, 45 over 44", AngleCircle, length.Frac(1, 4), 40, 360, 45, 44, 9, 3),
		angled("Circle 6′, 10 over 9", AngleCircle, length.Int(1), 10, 360, 10, 9, 1, 1),
	}
}

// Turn returns the full circle after which the numbers of a circle begin again; 0 for every other instrument.
func (i *Instrument) Turn() length.Number {
	if i.traits.Round {
		return fullCircle
	}
	return length.Number{}
}

// Around returns a value as a circle shows it, from 0 up to a full circle; of every other instrument as it is.
func (i *Instrument) Around(x length.Number) length.Number {
	if !i.traits.Round {
		return x
	}
	return x.Sub(x.Quo(fullCircle).Floor().Mul(fullCircle))
}

// Nearer returns a difference of two values of a circle the shorter way round, above −180 and up to 180; of every other
// instrument as it is.
func (i *Instrument) Nearer(x length.Number) length.Number {
	if x = i.Around(x); i.traits.Round && widest.Less(x) {
		return x.Sub(fullCircle)
	}
	return x
}

// Mean returns the mean of what two opposite plates read.
func (i *Instrument) Mean(a, b length.Number) length.Number {
	return i.Around(a.Add(i.Nearer(b.Sub(widest).Sub(a)).Mul(half)))
}
