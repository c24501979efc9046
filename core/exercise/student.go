package exercise

import (
	"math/rand/v2"

	"cavix/core/length"
	"cavix/core/marking"
)

// Student is a made-up student who makes known slips, for trying a sheet and for tests.
type Student struct {
	Slips []marking.Code // one of them is made where it can happen
	Often float64        // share of the cards on which a slip is made, 0 to 1
	Noise float64        // share of the cards on which the last entry is off by some least counts besides
}

// Answer fills in a card as the student would: the slip where it first can happen, and rightly on from
// there. It returns the slip that was made, "" when none was. Of slips that give the same value at that
// place (a mark counted early is the next mark too) it is the first of the table.
func (st Student) Answer(c *marking.Card, draws *rand.Rand) (marking.Answer, marking.Code, error) {
	slip := marking.Code("")
	if len(st.Slips) > 0 && draws.Float64() < st.Often {
		slip = st.Slips[draws.IntN(len(st.Slips))]
	}
	a, made, err := st.fill(c, slip, draws)
	if err == nil && st.Noise > 0 && draws.Float64() < st.Noise {
		last := c.Ask[len(c.Ask)-1]
		if x, err := length.Parse(a[last]); err == nil {
			a[last] = c.Text(last, x.Add(c.Instrument.LeastCount().MulInt(3+draws.IntN(60))))
		}
	}
	return a, made, err
}

// fill writes the answer with one slip.
func (st Student) fill(c *marking.Card, slip marking.Code, draws *rand.Rand) (marking.Answer, marking.Code, error) {
	solutions, err := c.Solutions()
	if err != nil {
		return nil, "", err
	}
	s := solutions[0]
	values := map[marking.Step]length.Number{}
	for _, step := range marking.Steps {
		if step.Can(c.Instrument) || step == marking.Main {
			values[step] = s.Value(step)
		}
	}
	made := marking.Code("")
	a := marking.Answer{}
	for _, step := range c.Ask {
		follow(c, s, step, values)
		if slip != "" && made == "" {
			ps, err := c.Predictions(step)
			if err != nil {
				return nil, "", err
			}
			var fits []length.Number
			for _, p := range ps {
				if p.Code == slip && !p.Value.Equal(values[step]) {
					fits = append(fits, p.Value)
				}
			}
			if len(fits) > 0 {
				values[step] = fits[draws.IntN(len(fits))]
				// Where two slips give the same value here, the first of the table is what it is called.
				for _, p := range ps {
					if made == "" && p.Value.Equal(values[step]) {
						made = p.Code
					}
				}
			}
		}
		a[step] = c.Text(step, values[step])
	}
	return a, made, nil
}

// follow works a step out from the student's own earlier values.
func follow(c *marking.Card, s marking.Solution, step marking.Step, values map[marking.Step]length.Number) {
	fine := values[marking.FineLine].Mul(c.Instrument.LineWorth())
	finer := values[marking.FinerLine].Mul(c.Instrument.LeastCount())
	if s.FromEnd {
		fine = fine.Neg()
	}
	switch step {
	case marking.Fine:
		values[step] = fine
	case marking.Finer:
		values[step] = finer
	case marking.Observed:
		if c.Asks(marking.FineLine) && !c.Asks(marking.Fine) {
			values[marking.Fine] = fine
		}
		if c.Asks(marking.FinerLine) && !c.Asks(marking.Finer) {
			values[marking.Finer] = finer
		}
		if c.Asks(marking.Main) || c.Asks(marking.FineLine) || c.Asks(marking.Fine) || c.Asks(marking.FinerLine) || c.Asks(marking.Finer) {
			values[step] = s.Base.Add(values[marking.Main]).Add(values[marking.Fine]).Add(values[marking.Finer])
		}
	case marking.Corrected:
		zero := values[marking.ZeroError]
		if c.Method.ZeroTerm == "correction" {
			zero = zero.Neg()
		}
		values[step] = values[marking.Observed].Sub(zero)
	}
}

// Diagnosis says how well a sheet names its causes: what students with single slips answered to it, and
// what marking made of that.
type Diagnosis struct {
	Answers int // with a slip
	First   int // the slip was named first
	Three   int // it was among the first three
	ByCode  map[marking.Code]*Named
}

// Named is how often one slip was made and named.
type Named struct {
	Made, First, Three int
	TakenFor           map[marking.Code]int // what was named first instead
}

// Simulate has students with one slip each, of every kind that can happen on the sheet, answer it, and
// tells what marking names. Each round deals the sheet once more, to one student for each slip.
func (s *Sheet) Simulate(rounds int, noise float64, seed uint64) (Diagnosis, error) {
	d := Diagnosis{ByCode: map[marking.Code]*Named{}}
	draws := rand.New(rand.NewPCG(seed, 0x73696d75_6c617465))
	for range rounds {
		cards, err := s.Deal(draws.Uint64())
		if err != nil {
			return d, err
		}
		for _, slip := range marking.Slips() {
			st := Student{Slips: []marking.Code{slip.Code}, Often: 1, Noise: noise}
			for _, c := range cards {
				a, made, err := st.Answer(c, draws)
				if err != nil {
					return d, err
				}
				if made == "" {
					continue
				}
				r, err := c.Mark(a)
				if err != nil {
					return d, err
				}
				d.count(made, r)
			}
		}
	}
	return d, nil
}

func (d *Diagnosis) count(made marking.Code, r marking.Result) {
	n := d.ByCode[made]
	if n == nil {
		n = &Named{TakenFor: map[marking.Code]int{}}
		d.ByCode[made] = n
	}
	d.Answers, n.Made = d.Answers+1, n.Made+1
	for i, code := range r.Slips {
		if code != made || i > 2 {
			continue
		}
		d.Three, n.Three = d.Three+1, n.Three+1
		if i == 0 {
			d.First, n.First = d.First+1, n.First+1
			return
		}
	}
	if len(r.Slips) > 0 {
		n.TakenFor[r.Slips[0]]++
	} else {
		n.TakenFor[""]++
	}
}
