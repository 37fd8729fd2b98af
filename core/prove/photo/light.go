package photo

import (
	"math"
	"slices"
)

// light is how dots that are on and off look.
type light struct {
	sign, on, off float64 // of a dot against its ground
	spread        float64 // of either, as a part of on − off
}

// scale finds out how dots look that are on, and that are off.
func scale(s *sampled, r *Reading) light {
	var all []float64
	skew := 0.0
	for _, dots := range s.dots {
		for _, d := range dots {
			all = append(all, d)
			skew += d * math.Abs(d)
		}
	}
	l := light{sign: 1}
	if r.Dark = skew < 0; r.Dark {
		l.sign = -1
	}
	for i := range all {
		all[i] *= l.sign
	}
	slices.Sort(all)
	top := all[len(all)-max(3, len(all)/50):] // of fifty dots one is on at least, where anything is written
	strong := median(top)
	ons := all[firstAbove(all, strong/2):]
	offs := all[:firstAbove(all, strong/2)]
	l.on = median(ons)
	if len(offs) > 0 {
		l.off = median(offs)
	}
	ground := 0.0
	for _, g := range s.ground {
		ground += g / float64(len(s.ground))
	}
	r.Contrast = l.on / math.Max(ground, 1e-3)
	r.Blank = l.on < faintest*math.Max(s.noise, 1e-3)
	l.spread = math.Hypot(s.noise/math.Max(l.on-l.off, 1e-6), 0.12)
	return l
}

// shade is how strong dots that are off are, as a part of those that are on.
func (l *light) shade() float64 { return math.Max(0, l.off/math.Max(l.on, 1e-6)) }

// enoughOn is how many dots must be on in a part of the glass for its contrast to be known.
const enoughOn = 15

// uneven is how much stronger dots that are on are in one quarter of the glass's width than in another.
func (l *light) uneven(s *sampled, cols int) float64 {
	var parts [4][]float64
	for i, dots := range s.dots {
		part := &parts[i%cols*len(parts)/cols]
		for _, d := range dots {
			if l.value(d) > 0.5 || l.sign*d > 0.5*l.on {
				*part = append(*part, l.sign*d/math.Max(s.ground[i], 1e-3))
			}
		}
	}
	least, most := math.Inf(1), 0.0
	for _, p := range parts {
		if len(p) >= enoughOn {
			v := median(p)
			least, most = math.Min(least, v), math.Max(most, v)
		}
	}
	if most == 0 || least <= 0 {
		return 1
	}
	return most / least
}

func firstAbove(sorted []float64, v float64) int {
	i, _ := slices.BinarySearch(sorted, v)
	return i
}

// value is how far a dot is on: 0 off, 1 on.
func (l *light) value(d float64) float64 { return (l.sign*d - l.off) / (l.on - l.off) }

// leak finds how much light of a dot falls on those beside it, by the dots themselves, each taken for on or off.
func (l *light) leak(cells [][]float64) float64 {
	hard := make([][]float64, len(cells))
	for c, dots := range cells {
		hard[c] = make([]float64, len(dots))
		for i, d := range dots {
			if l.value(d) > 0.5 {
				hard[c][i] = 1
			}
		}
	}
	best, least := 0.0, math.Inf(1)
	for _, leak := range []float64{0, 0.1, 0.2, 0.3, 0.4} {
		sum := 0.0
		for c, dots := range cells {
			for i, d := range dots {
				off := l.value(d) - blurred(hard[c], i, leak)
				sum += off * off
			}
		}
		if sum < least {
			best, least = leak, sum
		}
	}
	return best
}

// together is how much of the likelihood of a cell's dots counts: what spoils one dot spoils those beside it too
// (ours; TestSure holds what comes of it against how often a reading is right).
const together = 0.8

// unlikely is how unlikely it is, as a logarithm, that a dot looks so where it should look otherwise. Its tails are heavy: one dot under a
// speck of dust settles nothing.
func unlikely(is, should, spread float64) float64 {
	off := (is - should) / spread
	return together * math.Log1p(off*off/4) * 2.5
}

// cell reads one cell: the likelihood of each look, with its dots as they show, is that of all its dots.
func (l *light) cell(dots []float64, looks []look, shown [][]float64) Cell {
	values := make([]float64, len(dots))
	for i, d := range dots {
		values[i] = l.value(d)
	}
	likely := make([]float64, len(looks))
	best, next := -1, -1
	for k := range looks {
		for i, v := range values {
			likely[k] -= unlikely(v, shown[k][i], l.spread)
		}
		if looks[k].line {
			likely[k] -= lineUnlikely
		}
		if looks[k].half != Whole {
			likely[k] -= halfUnlikely
		}
		switch {
		case best < 0 || likely[k] > likely[best]:
			best, next = k, best
		case next < 0 || likely[k] > likely[next]:
			next = k
		}
	}
	sum := 0.0
	for _, v := range likely {
		sum += math.Exp(v - likely[best])
	}
	return Cell{
		Code: looks[best].code, bits: looks[best].bits, Line: looks[best].line, Half: looks[best].half, Sure: 1 / sum,
		Next: looks[next].code, Also: math.Exp(likely[next]-likely[best]) / sum,
		Dots: values,
	}
}
