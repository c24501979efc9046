package demo

import (
	"math/rand/v2"
	"strings"

	"cavix/core/length"
	"cavix/core/marking"
)

// answer fills in a card as somebody would who makes the slip where it first can happen and goes on
// rightly from there. Without a slip, or where it cannot happen, all is right.
func answer(c *marking.Card, slip marking.Code, draws *rand.Rand) (marking.Answer, error) {
	solutions, err := c.Solutions()
	if err != nil {
		return nil, err
	}
	s := solutions[0]
	values := map[marking.Step]length.Number{}
	for _, st := range marking.Steps {
		values[st] = s.Value(st)
	}
	made := slip == ""
	a := marking.Answer{}
	for _, st := range c.Ask {
		fine := values[marking.FineLine].Mul(c.Instrument.LineWorth())
		finer := values[marking.FinerLine].Mul(values[marking.LeastCount])
		switch st {
		case marking.Fine:
			values[st] = fine
		case marking.Finer:
			values[st] = finer
		case marking.Observed:
			if c.Asks(marking.FineLine) && !c.Asks(marking.Fine) {
				values[marking.Fine] = fine
			}
			if c.Asks(marking.FinerLine) && !c.Asks(marking.Finer) {
				values[marking.Finer] = finer
			}
			values[st] = s.Base.Add(values[marking.Main]).Add(values[marking.Fine]).Add(values[marking.Finer])
		case marking.Corrected:
			values[st] = values[marking.Observed].Sub(values[marking.ZeroError])
		}
		if !made && slip == marking.DigitsSwapped && st == marking.Observed {
			if t, ok := swapped(c.Text(st, values[st])); ok {
				a[st], made = t, true
				values[st], _ = length.Parse(t)
				continue
			}
		}
		if !made {
			ps, err := c.Predictions(st)
			if err != nil {
				return nil, err
			}
			var fits []length.Number
			for _, p := range ps {
				if p.Code == slip {
					fits = append(fits, p.Value)
				}
			}
			if len(fits) > 0 {
				values[st], made = fits[draws.IntN(len(fits))], true
			}
		}
		a[st] = c.Text(st, values[st])
		if st == marking.ZeroError && values[st].Sign() > 0 {
			a[st] = "+" + a[st]
		}
	}
	return a, nil
}

// swapped exchanges the first two neighbouring digits that differ.
func swapped(text string) (string, bool) {
	b := []byte(text)
	for i := range len(b) - 1 {
		if b[i] >= '0' && b[i] <= '9' && b[i+1] >= '0' && b[i+1] <= '9' && b[i] != b[i+1] {
			b[i], b[i+1] = b[i+1], b[i]
			return string(b), true
		}
	}
	return text, false
}

// dropZeros writes the sums without the zeros at their end, as on a pocket calculator.
func dropZeros(c *marking.Card, a marking.Answer) {
	for _, st := range []marking.Step{marking.Observed, marking.Corrected} {
		if t, ok := a[st]; ok && strings.Contains(t, ".") && c.Asks(st) {
			a[st] = strings.TrimSuffix(strings.TrimRight(t, "0"), ".")
		}
	}
}
