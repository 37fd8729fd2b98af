package photo

import (
	"errors"
	"math"
	"math/bits"
	"slices"

	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// Cell is what a cell shows by its picture.
type Cell struct {
	Code byte    // the likeliest
	Sure float64 // how likely it is, 0–1
	Next byte    // the next best, of other dots
	Also float64 // how likely that is
	Dots []float64
}

// Reading is what a photograph shows.
type Reading struct {
	Corners  Corners // as they were fitted
	Cells    []Cell  // row by row
	Dark     bool    // dots are darker than their ground
	Contrast float64 // of dots that are on, as a part of their ground's grey
	Blank    bool    // no dot stands out: the codes mean nothing
}

// faintest is the contrast below which nothing is read, in standard deviations of the ground (ours).
const faintest = 4

// ErrSmall says that a picture has too few pixels to be read.
var ErrSmall = errors.New("the cells have fewer than 9 pixels across; take the photograph from nearer by")

// smallest is how many pixels a cell must have across.
const smallest = 9

// Read reads the glass of a module, whose cells lie within corners, with the glyphs that its CGRAM may hold. Its error says that
// corners or picture cannot be read.
func Read(g *Grey, c Corners, m *module.Module, glyphs glyph.Bank) (*Reading, error) {
	f := field{cols: m.Geometry.Cols, rows: m.Geometry.Rows, height: m.CellRows(), gapX: 1, gapY: 1}
	if across := math.Hypot(c[1].X-c[0].X, c[1].Y-c[0].Y) / float64(f.cols); across < smallest {
		return nil, ErrSmall
	}
	looks := looksOf(m, glyphs)
	c, h, err := f.fit(g, c, looks)
	if err != nil {
		return nil, err
	}
	s := f.sample(g, h, closely)
	out := &Reading{Corners: c}
	lit := scale(&s, out)
	if out.Blank {
		for range s.dots {
			out.Cells = append(out.Cells, Cell{Code: ' '})
		}
		return out, nil
	}
	leak := lit.leak(s.dots)
	for _, dots := range s.dots {
		out.Cells = append(out.Cells, lit.cell(dots, looks, leak))
	}
	return out, nil
}

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

func firstAbove(sorted []float64, v float64) int {
	i, _ := slices.BinarySearch(sorted, v)
	return i
}

// value is how far a dot is on: 0 off, 1 on.
func (l *light) value(d float64) float64 { return (l.sign*d - l.off) / (l.on - l.off) }

// look is what a code shows.
type look struct {
	code byte
	on   []float64 // dots, row by row, 1 or 0
	bits uint64    // the same, a bit each
}

// looksOf are all that cells may show: each look once, under the code that is likeliest to be meant by it.
func looksOf(m *module.Module, glyphs glyph.Bank) (out []look) {
	seen := map[glyph.Pattern]bool{}
	add := func(code byte, p glyph.Pattern) {
		if seen[p] {
			return
		}
		seen[p] = true
		one := look{code: code}
		for row := range m.CellRows() {
			for col := range width {
				v := 0.0
				if p.Lit(row, col) {
					v = 1
					one.bits |= 1 << len(one.on)
				}
				one.on = append(one.on, v)
			}
		}
		out = append(out, one)
	}
	below := func(code byte) []byte {
		b := m.ROM.Below(code)
		return b[:]
	}
	add(' ', glyph.Pattern{})
	for code := 0x20; code < 0x100; code++ {
		if _, known := m.ROM.Rune(byte(code)); known {
			add(byte(code), glyph.Of(m.ROM.Dots(byte(code)), below(byte(code))...))
		}
	}
	for _, g := range glyphs {
		add(byte(g.Slot), g.Pattern())
	}
	block := glyph.Pattern{}
	for row := range m.CellRows() {
		block[row] = 0x1F
	}
	add(0xFF, block)
	return out
}

// blurred is how far a dot of a look is on where each dot gives a part of its light to those beside it.
func blurred(on []float64, i int, leak float64) float64 {
	x, y, n, sum := i%width, i/width, len(on)/width, 0.0
	if x > 0 {
		sum += on[i-1]
	}
	if x < width-1 {
		sum += on[i+1]
	}
	if y > 0 {
		sum += on[i-width]
	}
	if y < n-1 {
		sum += on[i+width]
	}
	return (1-leak)*on[i] + leak*sum/4
}

// leak finds how much light of a dot falls on those beside it, by the dots themselves, each taken for on or off.
func (l *light) leak(cells [][]float64) float64 {
	best, least := 0.0, math.Inf(1)
	for _, leak := range []float64{0, 0.1, 0.2, 0.3, 0.4} {
		sum := 0.0
		for _, dots := range cells {
			hard := make([]float64, len(dots))
			for i, d := range dots {
				if l.value(d) > 0.5 {
					hard[i] = 1
				}
			}
			for i, d := range dots {
				off := l.value(d) - blurred(hard, i, leak)
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
// (ours; not yet held against how often a reading is right).
const together = 0.45

// cell reads one cell: the likelihood of each look is that of all its dots.
func (l *light) cell(dots []float64, looks []look, leak float64) Cell {
	values := make([]float64, len(dots))
	for i, d := range dots {
		values[i] = l.value(d)
	}
	likely := make([]float64, len(looks))
	best, next := -1, -1
	for k := range looks {
		for i, v := range values {
			off := (v - blurred(looks[k].on, i, leak)) / l.spread
			likely[k] -= together * math.Log1p(off*off/4) * 2.5 // heavy tails: one dot under a speck of dust settles nothing
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
		Code: looks[best].code, Sure: 1 / sum,
		Next: looks[next].code, Also: math.Exp(likely[next]-likely[best]) / sum,
		Dots: values,
	}
}

// reads is how well all cells can be read: how much of the light of their dots the nearest look of each explains, less what it does not. A
// field that loses what stands in some cells explains less.
func (s *sampled) reads(looks []look) float64 {
	l := scale(s, &Reading{})
	sum := 0.0
	for _, dots := range s.dots {
		var is uint64
		for i, d := range dots {
			if l.value(d) > 0.5 {
				is |= 1 << i
			}
		}
		best := 0
		for k := range looks {
			if bits.OnesCount64(looks[k].bits^is) < bits.OnesCount64(looks[best].bits^is) {
				best = k
			}
		}
		for i, d := range dots {
			v := l.value(d)
			off := v - looks[best].on[i]
			sum += looks[best].on[i]*math.Min(v, 1) - 2*math.Min(off*off, 1)
		}
	}
	return sum
}
