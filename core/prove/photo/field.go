package photo

import (
	"cmp"
	"math"
	"math/rand/v2"
	"slices"
)

// field is how cells and dots lie in the field: the gaps between cells are counted in dots, as makers make them
// differently.
type field struct {
	cols, rows, height int     // cells, and rows of dots of a cell
	gapX, gapY         float64 // between cells, in dots
}

const width = 5 // columns of dots of a cell

// size is that of the whole field, in dots.
func (f *field) size() (w, h float64) {
	return float64(f.cols*width) + float64(f.cols-1)*f.gapX, float64(f.rows*f.height) + float64(f.rows-1)*f.gapY
}

// place is where a point of a cell lies in the field, from 0 to 1; x and y are counted in dots from the cell's upper left.
func (f *field) place(col, row int, x, y float64) (u, v float64) {
	w, h := f.size()
	return (float64(col)*(width+f.gapX) + x) / w, (float64(row)*(float64(f.height)+f.gapY) + y) / h
}

// sampled is what a picture shows of a field: of each cell its dots, without the light that falls on the glass.
type sampled struct {
	dots   [][]float64 // of each cell, row by row: brighter (+) or darker (−) than the ground beside it
	ground []float64   // of each cell
	noise  float64     // of the ground, as a standard deviation
	energy float64     // how much the dots stand out: the better the field fits, the more
}

// gapsCount is how much it counts that something stands in a gap, where nothing can, against what stands in the cells (ours).
const gapsCount = 2

// closeness says how closely a field is looked at: at which places of a dot, from its middle, and at how many of each gap.
type closeness struct {
	around [][2]float64
	gaps   int
}

var (
	closely = closeness{[][2]float64{{0, 0}, {-0.2, -0.2}, {0.2, -0.2}, {-0.2, 0.2}, {0.2, 0.2}}, 7}
	quickly = closeness{[][2]float64{{-0.15, -0.15}, {0.15, 0.15}}, 3} // while a field is fitted
)

// sample looks at all cells of a field. The ground of a cell is a plane through what stands in the gaps round it, which
// no dot ever darkens: so that light from one side, and a reflection, do not count.
func (f *field) sample(g *Grey, h *homography, how closeness) (s sampled) {
	at := func(col, row int, x, y float64) float64 {
		p := h.at(f.place(col, row, x, y))
		return g.At(p.X, p.Y)
	}
	var residuals []float64
	for row := range f.rows {
		for col := range f.cols {
			sides := [4][]float64{}
			for i := range how.gaps {
				along := (float64(i) + 0.5) / float64(how.gaps)
				sides[0] = append(sides[0], at(col, row, -f.gapX/2, along*float64(f.height)))
				sides[1] = append(sides[1], at(col, row, width+f.gapX/2, along*float64(f.height)))
				sides[2] = append(sides[2], at(col, row, along*width, -f.gapY/2))
				sides[3] = append(sides[3], at(col, row, along*width, float64(f.height)+f.gapY/2))
			}
			var mean [4]float64
			for i, side := range sides {
				mean[i] = median(side)
				for _, v := range side {
					residuals = append(residuals, math.Abs(v-mean[i]))
					s.energy -= gapsCount * math.Abs(v-mean[i])
				}
			}
			level := (mean[0] + mean[1] + mean[2] + mean[3]) / 4
			dots := make([]float64, 0, width*f.height)
			for y := range f.height {
				for x := range width {
					v := 0.0
					for _, by := range how.around {
						v += at(col, row, float64(x)+0.5+by[0], float64(y)+0.5+by[1])
					}
					v /= float64(len(how.around))
					ground := level + (mean[1]-mean[0])*((float64(x)+0.5)/width-0.5) + (mean[3]-mean[2])*((float64(y)+0.5)/float64(f.height)-0.5)
					dots = append(dots, v-ground)
					s.energy += math.Abs(v - ground)
				}
			}
			s.dots, s.ground = append(s.dots, dots), append(s.ground, level)
		}
	}
	s.noise = 1.4826 * median(residuals) // of a normal distribution
	return s
}

func median(list []float64) float64 {
	sorted := slices.Sorted(slices.Values(list))
	return sorted[len(sorted)/2]
}

// fit finds the gaps, and moves the corners by parts of a dot, so that the dots stand out most in the cells and not at all in the gaps, and
// then so that what they show is best read.
func (f *field) fit(g *Grey, c Corners, looks []look) (Corners, *homography, error) {
	h, err := span(c)
	if err != nil {
		return c, nil, err
	}
	w, _ := f.size()
	dot := math.Hypot(c[1].X-c[0].X, c[1].Y-c[0].Y) / w // in pixels
	var starts []placed
	for _, gapX := range []float64{0.7, 1, 1.3, 1.6} {
		for _, gapY := range []float64{0.4, 0.7, 1, 1.5, 2, 2.6} {
			if f.rows == 1 && gapY != 1 {
				continue
			}
			one := placed{*f, c, h, 0}
			one.gapX, one.gapY = gapX, gapY
			s := one.sample(g, &h, quickly)
			one.score = s.energy
			starts = append(starts, one)
		}
	}
	slices.SortFunc(starts, func(a, b placed) int { return cmp.Compare(b.score, a.score) })
	starts = starts[:min(len(starts), 6)]
	for _, p := range starts[:len(starts):len(starts)] {
		for _, by := range shifts {
			other := p
			for i := range other.corners {
				other.corners[i].X += (by[0] + by[2]*(2*float64(i&1^i>>1)-1)) * dot
				other.corners[i].Y += by[1] * dot
			}
			if other.h, err = span(other.corners); err == nil {
				starts = append(starts, other)
			}
		}
	}
	for i := range starts {
		starts[i].score = starts[i].reads(g, looks)
	}
	slices.SortFunc(starts, func(a, b placed) int { return cmp.Compare(b.score, a.score) })
	starts = starts[:min(len(starts), 4)]
	for i := range starts {
		p := &starts[i]
		p.climb(g, looks, dot, 0.5)
		p.climb(g, looks, dot, 0.3)
	}
	best := slices.MaxFunc(starts, func(a, b placed) int { return cmp.Compare(a.score, b.score) })
	r := rand.New(rand.NewPCG(uint64(len(looks)), uint64(f.cols)))
	for range max(2, restarts*16/(f.cols*f.rows)) {
		other := best
		for i := range other.corners {
			other.corners[i].X += r.NormFloat64() * dot / 2
			other.corners[i].Y += r.NormFloat64() * dot / 2
		}
		other.gapX = math.Max(0.4, other.gapX+0.15*r.NormFloat64())
		other.gapY = math.Max(0.2, other.gapY+0.3*r.NormFloat64())
		if other.h, err = span(other.corners); err != nil {
			continue
		}
		other.score = other.reads(g, looks)
		for step := 0.5; step > 0.15; step *= 0.6 {
			other.climb(g, looks, dot, step)
		}
		if other.score > best.score {
			best = other
		}
	}
	for step := 0.4; step > 0.05; step *= 0.6 {
		for round := 0; round < 2 && best.climb(g, looks, dot, step); round++ {
		}
	}
	*f = best.field
	return best.corners, &best.h, nil
}

// restarts is how often the search begins again beside the best place so far, for 16 cells; the more there are, the less often. What is
// read changes by whole characters, so that a climb alone ends on the nearest hill.
const restarts = 6

// shifts are where a field may lie beside its corners, in dots: to the side, up and down, and wider.
var shifts = [][3]float64{{-0.8, 0, 0}, {0.8, 0, 0}, {0, -0.7, 0}, {0, 0.7, 0}, {0, 0, -0.5}, {0, 0, 0.5}, {-0.5, 0, 0.5}, {0.5, 0, 0.5}, {-0.5, 0, -0.5}, {0.5, 0, -0.5}}

// placed is a field at a place of a picture, with how well it can be read there.
type placed struct {
	field
	corners Corners
	h       homography
	score   float64
}

func (p *placed) reads(g *Grey, looks []look) float64 {
	s := p.sample(g, &p.h, quickly)
	return s.reads(looks)
}

// edges are the corners that are moved together: all, those of an edge, and each.
var edges = [][]int{{0, 1, 2, 3}, {0, 3}, {1, 2}, {0, 1}, {2, 3}, {0}, {1}, {2}, {3}}

// climb tries each way to place a field a little otherwise, by parts of a dot, and keeps what is read better.
func (p *placed) climb(g *Grey, looks []look, dot, step float64) (better bool) {
	take := func(other placed) {
		if other.score = other.reads(g, looks); other.score > p.score {
			*p, better = other, true
		}
	}
	for _, which := range edges {
		for _, by := range []Point{{-step * dot, 0}, {step * dot, 0}, {0, -step * dot}, {0, step * dot}} {
			other := *p
			for _, i := range which {
				other.corners[i].X += by.X
				other.corners[i].Y += by.Y
			}
			var err error
			if other.h, err = span(other.corners); err == nil {
				take(other)
			}
		}
	}
	for _, way := range []float64{-step, step} {
		if other := *p; other.gapX+way/3 > 0.4 {
			other.gapX += way / 3
			take(other)
		}
		if other := *p; other.rows > 1 && other.gapY+way > 0.2 {
			other.gapY += way
			take(other)
		}
	}
	return better
}
