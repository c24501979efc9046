package exercise

import (
	"errors"
	"maps"
	"math/rand/v2"
	"slices"

	"cavix/core/length"
)

// Student is a made-up student who makes known slips, for trying a sheet and for tests.
type Student struct {
	Slips []Code  // one of them is made where it can happen
	Two   bool    // and, where it can be, another of another part on the same card
	Often float64 // share of the cards on which a slip is made, 0 to 1
	Noise float64 // share of the cards on which another entry is off by some least counts besides, either way
}

// Made is the answer of a simulated student, with the slips in it.
type Made struct {
	Code     Code   // the slip; "" when none was made
	Second   Code   // the other of two
	Synonyms []Code // slips that give the same value there, so that nobody can tell them apart
}

// Answer fills in a card as the student would: the slip where it first can happen, and rightly on from there.
// A slip of a whole value is made in any field.
func (st Student) Answer(it Item, draws *rand.Rand) (Answer, Made, error) {
	w, err := newWriting(it)
	if err != nil {
		return nil, Made{}, err
	}
	if len(st.Slips) == 0 || draws.Float64() >= st.Often {
		a, err := w.fill(nil)
		return a, Made{}, err
	}
	first := w.where(st.Slips[draws.IntN(len(st.Slips))], draws)
	if first == nil {
		a, err := w.fill(nil)
		return a, Made{}, err
	}
	made := Made{Code: first.Code, Synonyms: w.synonyms(*first)}
	wrong := []Prediction{*first}
	if st.Two {
		if second := w.beside(*first, draws); second != nil {
			made.Second, wrong = second.Code, append(wrong, *second)
		}
	}
	if st.Noise > 0 && draws.Float64() < st.Noise {
		if p := w.noise(*first, draws); p != nil {
			wrong = append(wrong, *p)
		}
	}
	a, err := w.fill(wrong)
	return a, made, err
}

// CanHappen reports whether a slip can be made on a card.
func CanHappen(it Item, slip Code) (bool, error) {
	w, err := newWriting(it)
	if err != nil {
		return false, err
	}
	if slices.ContainsFunc(w.all, func(p Prediction) bool { return p.Code == slip }) {
		return true, nil
	}
	chosen := map[Code][]Code{}
	err = w.choose(chosen, nil)
	_, can := chosen[slip]
	return can, err
}

// writing is a card while a student fills it in.
type writing struct {
	it       Item
	fields   []Field
	right    map[string]length.Number // by field; without those that hold no number
	expected Answer
	all      []Prediction
}

func newWriting(it Item) (*writing, error) {
	r, err := it.Mark(nil)
	if err != nil {
		return nil, err
	}
	w := &writing{it: it, fields: it.Fields(), right: map[string]length.Number{}, expected: Answer{}}
	for _, m := range r.Fields {
		w.expected[m.Field] = m.Expected
		if t, err := length.ReadAny(m.Expected); err == nil {
			w.right[m.Field] = t.Value
		}
	}
	if m, ok := it.(Misreader); ok {
		w.all, err = m.Misreadings()
	} else {
		w.all, err = it.Predictions()
	}
	return w, err
}

// where chooses what a slip gives: in the first field that it can happen in, or in any where it is one of whole
// values; nil where it cannot happen.
func (w *writing) where(slip Code, draws *rand.Rand) *Prediction {
	var can []Prediction
	for _, f := range w.fields {
		for _, p := range w.all {
			if x, known := w.right[f.Name]; p.Field == f.Name && p.Code == slip && f.Input != Options &&
				(!known || !x.Equal(p.Value)) {
				can = append(can, p)
			}
		}
		if len(can) > 0 && can[0].Part != Anywhere {
			break
		}
	}
	if len(can) == 0 {
		return nil
	}
	return &can[draws.IntN(len(can))]
}

// synonyms are the other slips that give the same value in the same field.
func (w *writing) synonyms(p Prediction) []Code {
	var out []Code
	for _, o := range w.all {
		if o.Field == p.Field && o.Code != p.Code && o.Value.Equal(p.Value) && !slices.Contains(out, o.Code) {
			out = append(out, o.Code)
		}
	}
	return out
}

// beside chooses a slip of another part to be made too, in the field where it first can happen.
func (w *writing) beside(p Prediction, draws *rand.Rand) *Prediction {
	var codes []Code
	for _, o := range w.all {
		if o.Part != "" && o.Part != p.Part && o.Part != Anywhere && p.Part != Anywhere &&
			!slices.Contains(codes, o.Code) {
			codes = append(codes, o.Code)
		}
	}
	if len(codes) == 0 {
		return nil
	}
	return w.where(codes[draws.IntN(len(codes))], draws)
}

// noise is an entry in another field that is off for no known reason. Before a slip of a whole value it would
// change what that makes.
func (w *writing) noise(slip Prediction, draws *rand.Rand) *Prediction {
	at := slices.IndexFunc(w.fields, func(f Field) bool { return f.Name == slip.Field })
	var others []Field
	for i, f := range w.fields {
		if f.Grain.Sign() > 0 && (f.Input == Length || f.Input == Count) && i != at &&
			(slip.Part != Anywhere || i > at) {
			others = append(others, f)
		}
	}
	if len(others) == 0 {
		return nil
	}
	f := others[draws.IntN(len(others))]
	off := 3 + draws.IntN(60)
	if draws.IntN(2) == 0 {
		off = -off
	}
	return &Prediction{Field: f.Name, Value: w.right[f.Name].Add(f.Grain.MulInt(off))}
}

// fill writes the answer: wrong where it is said, by as much as that differs from what is right, and elsewhere
// what follows from what stands before.
func (w *writing) fill(wrong []Prediction) (Answer, error) {
	a := Answer{}
	if len(wrong) == 0 {
		maps.Copy(a, w.expected)
		return a, nil
	}
	began := false
	for _, f := range w.fields {
		due := w.expected[f.Name]
		if began {
			r, err := w.it.Mark(a)
			if err != nil {
				return nil, err
			}
			due = r.Field(f.Name).Due()
		}
		a[f.Name] = due
		for _, p := range wrong {
			if p.Field != f.Name {
				continue
			}
			began = true
			x := p.Value
			if t, err := f.Unit.Read(a[f.Name]); err == nil && f.Input != Position {
				if right, known := w.right[f.Name]; known && p.Part != Anywhere {
					x = t.Value.Add(p.Value.Sub(right))
				}
			}
			a[f.Name] = f.Write(x)
		}
	}
	return a, nil
}

// Write writes a value as the field wants it, but for unit and sign.
func (f Field) Write(x length.Number) string {
	if f.Part != 0 {
		return length.DMS(x, f.Part)
	}
	if f.Form.Places >= 0 {
		if p, finite := x.Decimals(); finite && p <= f.Form.Places {
			return x.Text(f.Form.Places)
		}
	}
	return x.String()
}

// Diagnosis says how well a sheet names its causes: what students with slips answered to it, and what marking
// made of that. The slip that was truly made counts, not one that gives the same value.
type Diagnosis struct {
	Answers  int // with one slip
	First    int // the true slip was named first
	Three    int // it was among the first three
	Synonyms int // it was not first, but what was gives the same value: nobody can tell the two apart
	Apart    int // answers whose slip has no synonym on its card
	Named    int // of those, the true slip was named first

	Pairs  int // answers with two slips of different parts
	Listed int // both were named: as a pair, or each at its own field

	ByCode map[Code]*Named
}

// Named counts how often one slip was made, and how often it was named.
type Named struct {
	Made, First, Three int
	TakenFor           map[Code]int // what was named first instead
}

// Simulate has students with one slip each, of every one that is given, answer the sheet, and as many with two,
// and tells what marking names. Each round deals the sheet once more, to one student for each slip.
func (s *Sheet) Simulate(kinds Kinds, slips []Slip, rounds int, noise float64, seed uint64) (Diagnosis, error) {
	d := Diagnosis{ByCode: map[Code]*Named{}}
	draws := rand.New(rand.NewPCG(seed, 0x73696d75_6c617465))
	for range rounds {
		cards, err := s.Deal(kinds, draws.Uint64())
		if err != nil {
			return d, err
		}
		for _, slip := range slips {
			st := Student{Slips: []Code{slip.Code}, Often: 1, Noise: noise}
			two := st
			two.Two = true
			for _, c := range cards {
				if err := errors.Join(d.try(st, c, draws), d.try(two, c, draws)); err != nil {
					return d, err
				}
			}
		}
	}
	return d, nil
}

// try has a student answer a card, and counts what is named.
func (d *Diagnosis) try(st Student, it Item, draws *rand.Rand) error {
	a, made, err := st.Answer(it, draws)
	if err != nil || made.Code == "" || st.Two && made.Second == "" {
		return err
	}
	r, err := it.Mark(a)
	switch {
	case err != nil:
	case st.Two:
		d.countPair(made, r)
	default:
		d.count(made, r)
	}
	return err
}

func (d *Diagnosis) countPair(made Made, r Result) {
	d.Pairs++
	has := func(c Code) bool { return slices.Contains(r.Slips, c) }
	if has(made.Code.Pair(made.Second)) || has(made.Second.Pair(made.Code)) || has(made.Code) && has(made.Second) {
		d.Listed++
	}
}

func (d *Diagnosis) count(made Made, r Result) {
	n := d.ByCode[made.Code]
	if n == nil {
		n = &Named{TakenFor: map[Code]int{}}
		d.ByCode[made.Code] = n
	}
	d.Answers, n.Made = d.Answers+1, n.Made+1
	at := slices.Index(r.Slips, made.Code)
	if at >= 0 && at < 3 {
		d.Three, n.Three = d.Three+1, n.Three+1
	}
	if len(made.Synonyms) == 0 {
		if d.Apart++; at == 0 {
			d.Named++
		}
	}
	if at == 0 {
		d.First, n.First = d.First+1, n.First+1
		return
	}
	var first Code
	if len(r.Slips) > 0 {
		first = r.Slips[0]
	}
	n.TakenFor[first]++
	if slices.Contains(made.Synonyms, first) {
		d.Synonyms++
	}
}
