package survey

import "math"

// fSurvival returns the probability that a value of the F distribution with d1 and d2 degrees of freedom is larger than
// f: the regularised incomplete beta function I_x(d2/2, d1/2) at x = d2/(d2 + d1·f) (NIST DLMF 8.17).
func fSurvival(f, d1, d2 float64) float64 {
	if f <= 0 {
		return 1
	}
	return betaRegularised(d2/(d2+d1*f), d2/2, d1/2)
}

// betaRegularised returns I_x(a, b) by its continued fraction (DLMF 8.17.22), taken on the side where it converges
// fast.
func betaRegularised(x, a, b float64) float64 {
	if x <= 0 || x >= 1 {
		return min(max(x, 0), 1)
	}
	if x > (a+1)/(a+b+2) {
		return 1 - betaRegularised(1-x, b, a)
	}
	lgamma := func(v float64) float64 { g, _ := math.Lgamma(v); return g }
	front := math.Exp(a*math.Log(x)+b*math.Log1p(-x)+lgamma(a+b)-lgamma(a)-lgamma(b)) / a
	// Lentz's method: c and d are the ratios of successive numerators and denominators.
	const tiny, enough, most = 1e-300, 1e-16, 10_000
	c, d, fraction := 1.0, 0.0, 1.0
	for i := range most {
		m := float64((i + 1) / 2)
		term := 1.0
		switch {
		case i == 0:
		case i%2 == 0:
			term = m * (b - m) * x / ((a + 2*m - 1) * (a + 2*m))
		default:
			m--
			term = -(a + m) * (a + b + m) * x / ((a + 2*m) * (a + 2*m + 1))
		}
		d = 1 / nonzero(1+term*d, tiny)
		c = nonzero(1+term/c, tiny)
		fraction *= c * d
		if math.Abs(1-c*d) < enough {
			break
		}
	}
	return front * (fraction - 1)
}

func nonzero(v, tiny float64) float64 {
	if math.Abs(v) < tiny {
		return tiny
	}
	return v
}
