package exercise

import (
	"math/rand/v2"
	"slices"

	"cavix/core/length"
)

// Student is a made-up student who makes known slips, for trying a sheet and for tests.
type Student struct {
	Slips []Code  // one of them is made where it can happen
	Often float64 // share of the cards on which a slip is made, 0 to 1
	Noise float64 // share of the cards on which the last entry is off by some least counts besides
}

// Answer fills in a card as the student would: the slip where it first can happen, and rightly on from
// there. It returns the slip that was made, "" when none was. Of slips that give the same value at that
// place (a mark counted early is the next mark too) it is the first of the table.
func (st Student) Answer(it Item, draws *rand.Rand) (Answer, Code, error) {
	slip := Code("")
	if len(st.Slips) > 0 && draws.Float64() < st.Often {
		slip = st.Slips[draws.IntN(len(st.Slips))]
	}
	a, made, err := st.fill(it, slip, draws)
	if err == nil && st.Noise > 0 && draws.Float64() < st.Noise {
		fields := it.Fields()
		last := fields[len(fields)-1]
		if x, err := length.ReadTyped(a[last.Name]); err == nil && last.Grain.Sign() > 0 && last.Input == Length {
			a[last.Name] = last.write(x.Value.Add(last.Grain.MulInt(3 + draws.IntN(60))))
		}
	}
	return a, made, err
}

// write writes a value as the field wants it, but for unit and sign.
func (f Field) write(x length.Number) string {
	if f.Form.Places >= 0 {
		if p, finite := x.Decimals(); finite && p <= f.Form.Places {
			return x.Text(f.Form.Places)
		}
	}
	return x.String()
}

// fill writes the answer with one slip: all right up to where it is made, and on from there what follows.
func (st Student) fill(it Item, slip Code, draws *rand.Rand) (Answer, Code, error) {
	r, err := it.Mark(nil)
	if err != nil {
		return nil, "", err
	}
	a := Answer{}
	for _, m := range r.Fields {
		a[m.Field] = m.Expected
	}
	if slip == "" {
		return a, "", nil
	}
	all, err := it.Predictions()
	if err != nil {
		return nil, "", err
	}
	for i, f := range it.Fields() {
		var here, fits []Prediction
		for _, p := range all {
			if p.Field != f.Name || f.Input == Options {
				continue
			}
			here = append(here, p)
			if right, err := length.ReadTyped(a[f.Name]); p.Code == slip &&
				(err != nil || !right.Value.Equal(p.Value)) {
				fits = append(fits, p)
			}
		}
		if len(fits) == 0 {
			continue
		}
		taken := fits[draws.IntN(len(fits))].Value
		a[f.Name] = f.write(taken)
		first := slices.IndexFunc(here, func(p Prediction) bool { return p.Value.Equal(taken) })
		return a, here[first].Code, follow(it, a, i+1)
	}
	return a, "", nil
}

// follow works the fields from the nth on out of those before.
func follow(it Item, a Answer, n int) error {
	fields := it.Fields()
	for _, f := range fields[n:] {
		delete(a, f.Name)
	}
	for _, f := range fields[n:] {
		r, err := it.Mark(a)
		if err != nil {
			return err
		}
		a[f.Name] = r.Field(f.Name).Due()
	}
	return nil
}

// Diagnosis says how well a sheet names its causes: what students with single slips answered to it, and
// what marking made of that.
type Diagnosis struct {
	Answers int // with a slip
	First   int // the slip was named first
	Three   int // it was among the first three
	ByCode  map[Code]*Named
}

// Named is how often one slip was made and named.
type Named struct {
	Made, First, Three int
	TakenFor           map[Code]int // what was named first instead
}

// Simulate has students with one slip each, of every one that is given, answer the sheet, and tells what
// marking names. Each round deals the sheet once more, to one student for each slip.
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
			for _, c := range cards {
				if err := d.try(st, c, draws); err != nil {
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
	if err != nil || made == "" {
		return err
	}
	r, err := it.Mark(a)
	if err == nil {
		d.count(made, r)
	}
	return err
}

func (d *Diagnosis) count(made Code, r Result) {
	n := d.ByCode[made]
	if n == nil {
		n = &Named{TakenFor: map[Code]int{}}
		d.ByCode[made] = n
	}
	d.Answers, n.Made = d.Answers+1, n.Made+1
	at := slices.Index(r.Slips, made)
	if at >= 0 && at < 3 {
		d.Three, n.Three = d.Three+1, n.Three+1
	}
	switch {
	case at == 0:
		d.First, n.First = d.First+1, n.First+1
	case len(r.Slips) > 0:
		n.TakenFor[r.Slips[0]]++
	default:
		n.TakenFor[""]++
	}
}
