package photo

import (
	"cmp"
	"math"
	"math/bits"
	"slices"

	"gonum.org/v1/gonum/mat"
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

var closely = closeness{[][2]float64{{0, 0}, {-0.2, -0.2}, {0.2, -0.2}, {-0.2, 0.2}, {0.2, 0.2}}, 7}

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

// placed is a field at a place of a flattened window, with how well it can be read there.
type placed struct {
	field
	in      *flat
	seen    *seen
	dark    bool // dots are darker than their ground
	corners Corners
	h       homography
	score   float64

	explained float64 // how much of what stands in the cells the looks explain: 1 all; below 0 where they make it worse
	pull      float64 // what counts against a place beside the middle, for a cell's width or height, squared
	unusual   float64 // what counts against the share of the window that it fills
	middle    Point   // of the window, in the flattened area
}

// moved makes the homography of corners that were moved, and reports whether there is one.
func (p *placed) moved() bool {
	var err error
	p.h, err = span(p.corners)
	return err == nil
}

// dot is the width of a dot, in pixels.
func (p *placed) dot() float64 {
	w, _ := p.size()
	across, _ := p.corners.sides()
	return across / w
}

// How places are weighed (ours): what the nearest look leaves unexplained, a sample of a gap, and a place beside the middle of the window.
const (
	unexplained = 2
	gapSample   = 0.5
	asideMost   = 500
)

// round is how many places are looked at in the gaps round a cell.
func (f *field) round() int { return 2*width + 2*f.height }

// seen is what a field shows of itself, in a window that was flattened: of each cell its dots, then what is in the gaps
// round it.
// It is kept from one place to the next.
type seen struct {
	values []float32
	counts [64]int
}

// on finds how far dots that are on differ from their ground: the middle of those that differ by more than half of what most differ by.
func (s *seen) on() float32 {
	most := float32(1e-3)
	for _, v := range s.values {
		most = max(most, v)
	}
	clear(s.counts[:])
	for _, v := range s.values {
		if v > 0 {
			s.counts[min(63, int(v/most*64))]++
		}
	}
	top, n := 63, 0
	for ; top > 1 && n < len(s.values)/50; top-- {
		n += s.counts[top]
	}
	all := 0
	for k := top / 2; k < 64; k++ {
		all += s.counts[k]
	}
	k := top / 2
	for n = 0; k < 63 && n+s.counts[k] < all/2; k++ {
		n += s.counts[k]
	}
	return max(0.004, (float32(k)+0.5)/64*most)
}

// ink takes what stands on a field where it is placed: of each cell on its dots, then in the gaps round it.
func (p *placed) ink() []float32 {
	sign := float32(1)
	if p.dark {
		sign = -1
	}
	w, h := p.size()
	s := p.seen
	if n := p.cols * p.rows * (width*p.height + p.round()); cap(s.values) < n {
		s.values = make([]float32, n)
	} else {
		s.values = s.values[:n]
	}
	// The homography, for places counted in dots.
	ax, bx, cx := p.h[0]/w, p.h[1]/h, p.h[2]
	ay, by, cy := p.h[3]/w, p.h[4]/h, p.h[5]
	aw, bw := p.h[6]/w, p.h[7]/h
	at := func(x, y float64) float32 {
		by1 := 1 / (aw*x + bw*y + 1)
		return p.in.at((ax*x+bx*y+cx)*by1, (ay*x+by*y+cy)*by1) * sign
	}
	n := 0
	for row := range p.rows {
		y0 := float64(row) * (float64(p.height) + p.gapY)
		above, below := y0-p.gapY/2, y0+float64(p.height)+p.gapY/2
		for col := range p.cols {
			x0 := float64(col) * (width + p.gapX)
			for y := range p.height {
				at1 := y0 + float64(y) + 0.5
				px, py, pw := ax*x0+bx*at1+cx, ay*x0+by*at1+cy, aw*x0+bw*at1+1
				for x := range width {
					along := float64(x) + 0.5
					by1 := 1 / (pw + aw*along)
					s.values[n+x] = p.in.at((px+ax*along)*by1, (py+ay*along)*by1) * sign
				}
				n += width
			}
			left, right := x0-p.gapX/2, x0+width+p.gapX/2
			for y := range p.height {
				at1 := y0 + float64(y) + 0.5
				s.values[n], s.values[n+1] = at(right, at1), at(left, at1)
				n += 2
			}
			for x := range width {
				along := x0 + float64(x) + 0.5
				s.values[n], s.values[n+1] = at(along, below), at(along, above)
				n += 2
			}
		}
	}
	return s.values
}

// look takes what a field shows where it is placed, as parts of what dots that are on show.
func (p *placed) look() []float32 {
	p.ink()
	return p.seen.scaled(1 / p.seen.on())
}

// scaled makes parts of what was seen, so that a dot that is on is about 1.
func (s *seen) scaled(by float32) []float32 {
	for i, v := range s.values {
		s.values[i] = max(-0.5, min(1.5, v*by))
	}
	return s.values
}

// stands is how much stands in the cells and not in the gaps, whatever it is.
func (p *placed) stands() float64 {
	dots := width * p.height
	cells, gaps := float32(0), float32(0)
	values := p.ink()
	for c := 0; c < len(values); c += dots + p.round() {
		for _, v := range values[c : c+dots] {
			cells += v
		}
		for _, v := range values[c+dots : c+dots+p.round()] {
			gaps += max(v, -v)
		}
	}
	return float64(cells - gapsAgainst*gaps*float32(dots)/float32(p.round()))
}

// aside is what counts against a field that is not in the middle of its window.
func (p *placed) aside() float64 {
	mid := p.h.at(0.5, 0.5)
	across, down := p.corners.sides()
	dx, dy := (mid.X-p.middle.X)/across*float64(p.cols), (mid.Y-p.middle.Y)/down*float64(p.rows)
	return min(asideMost, p.pull*dx*dx) + min(asideMost, p.pull*dy*dy)
}

// reads is how well all cells can be read: how much better the nearest look explains what stands in each cell and in the gaps beside it
// than an even grey would. A field that loses what stands in some cells explains less.
func (p *placed) reads(looks []look) float64 {
	all := p.look()
	dots := width * p.height
	each := dots + p.round()
	sum, most := float32(0), float32(0)
	for c := 0; c < len(all); c += each {
		values := all[c : c+each]
		var is uint64
		mean, weight := float32(0), float32(dots)+gapSample*float32(p.round())
		for i, v := range values {
			switch {
			case i >= dots:
				mean += gapSample * v
			case v > 0.5:
				is |= 1 << i
				fallthrough
			default:
				mean += v
			}
		}
		mean /= weight
		look, _ := nearest(looks, is)
		// Nothing is explained by characters that an even grey explains as well, or stripes along the line, as edges make them.
		even, stripes := float32(0), float32(0)
		for y := range p.height {
			line, sides := values[y*width:(y+1)*width], values[dots+2*y:dots+2*y+2]
			mean1 := gapSample * (sides[0] + sides[1])
			for _, v := range line {
				mean1 += v
			}
			mean1 /= width + 2*gapSample
			for x, v := range line {
				even += (v - mean) * (v - mean)
				stripes += (v - mean1) * (v - mean1)
				off := v - float32(look>>(y*width+x)&1)
				sum -= unexplained * off * off
			}
			for _, v := range sides {
				even += gapSample * (v - mean) * (v - mean)
				stripes += gapSample * (v - mean1) * (v - mean1)
				sum -= gapSample * unexplained * v * v
			}
		}
		for _, v := range values[dots+2*p.height:] {
			even += gapSample * (v - mean) * (v - mean)
			sum -= gapSample * unexplained * v * v
		}
		most += min(even, stripes)
	}
	sum += most
	if p.explained = 0; most > 3 { // dots: less is nothing at all
		p.explained = float64(sum / most)
	}
	return float64(sum) - p.aside()
}

// nearest is the look that has the fewest dots otherwise, and how many.
func nearest(looks []look, is uint64) (look uint64, off int) {
	if is == 0 {
		return 0, 0
	}
	off = 99
	for k := range looks {
		if d := bits.OnesCount64(looks[k].bits ^ is); d < off {
			look, off = looks[k].bits, d
		}
	}
	return look, off
}

// params is how many numbers place a field: its corners' and its gaps'.
const params = 10

// by moves one of the numbers that place a field, by a part of a dot.
func (p *placed) by(k int, step float64) (other placed, ok bool) {
	other = *p
	step *= p.dot()
	switch {
	case k == 8:
		other.gapX += step / p.dot()
		return other, other.gapX > 0.3
	case k == 9:
		other.gapY += step / p.dot()
		return other, other.gapY > 0.1
	case k%2 == 0:
		other.corners[k/2].X += step
	default:
		other.corners[k/2].Y += step
	}
	return other, other.moved()
}

// badly is how many dots of a cell may be otherwise than those of the nearest look, for it to say where the field lies (ours).
const badly = 9

// settle places the field so that what the nearest looks leave unexplained is least, by least squares: Gauss and Newton's steps
// (Numerical Optimization, §10.3, from memory). A step may make it worse, since what cells are read as changes by it; the best place counts.
func (p *placed) settle(reads func(*placed) float64, looks []look, rounds int) {
	dots := width * p.height
	each := dots + p.round()
	best := *p
	for range rounds {
		now := slices.Clone(p.look())
		target, weight := make([]float32, len(now)), make([]float32, len(now))
		for c := 0; c < len(now); c += each {
			var is uint64
			for i, v := range now[c : c+dots] {
				if v > 0.5 {
					is |= 1 << i
				}
			}
			look, off := nearest(looks, is)
			for i := range each {
				if i < dots {
					target[c+i] = float32(look >> i & 1)
				}
				if off <= badly {
					weight[c+i] = 1
				}
			}
		}
		const step = 0.15
		var slopes [params][]float32
		for k := range params {
			more, ok := p.by(k, step)
			if !ok {
				continue
			}
			slopes[k] = slices.Clone(more.look())
			for i := range slopes[k] {
				slopes[k][i] = (slopes[k][i] - now[i]) / step
			}
		}
		a, b := mat.NewSymDense(params, nil), mat.NewVecDense(params, nil)
		for k := range params {
			for l := k; l < params; l++ {
				sum := float32(0)
				if slopes[k] != nil && slopes[l] != nil {
					for i, w := range weight {
						sum += w * slopes[k][i] * slopes[l][i]
					}
				}
				if k == l {
					sum = sum*1.01 + 1
				}
				a.SetSym(k, l, float64(sum))
			}
			sum := float32(0)
			if slopes[k] != nil {
				for i, w := range weight {
					sum += w * slopes[k][i] * (target[i] - now[i])
				}
			}
			b.SetVec(k, float64(sum))
		}
		var by mat.VecDense
		if err := by.SolveVec(a, b); err != nil {
			break
		}
		moved := false
		for k := range params {
			step := math.Max(-0.6, math.Min(0.6, by.AtVec(k)))
			if other, ok := p.by(k, step); ok {
				*p, moved = other, moved || math.Abs(step) > 0.02
			}
		}
		if p.score = reads(p); p.score > best.score {
			best = *p
		}
		if !moved {
			break
		}
	}
	*p = best
}

// edges are the corners that are moved together: all, those of an edge, and each.
var edges = [][]int{{0, 1, 2, 3}, {0, 3}, {1, 2}, {0, 1}, {2, 3}, {0}, {1}, {2}, {3}}

// stretch tries other places for the upper and the lower edge, as the characters of a line do not say where they are: a line of dots above
// or below may be free in all of them.
func (p *placed) stretch(reads func(*placed) float64) {
	_, h := p.size()
	best := *p
	try := func(top, low float64) {
		other := *p
		for i, c := range [4]Point{{0, top}, {1, top}, {1, h + low}, {0, h + low}} {
			other.corners[i] = p.h.at(c.X, c.Y/h)
		}
		if other.moved() {
			if other.score = reads(&other); other.score > best.score {
				best = other
			}
		}
	}
	for top := -1.5; top <= 1; top += 0.5 {
		for _, low := range []float64{-1, 0, 1} {
			try(top, top/2+low)
		}
	}
	*p = best
}

// shifted is the field some cells to the right and some lines further down.
func (p *placed) shifted(cells, lines int) (other placed, ok bool) {
	w, h := p.size()
	x, y := float64(cells)*(width+p.gapX)/w, float64(lines)*(float64(p.height)+p.gapY)/h
	other = *p
	for i, c := range [4]Point{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
		other.corners[i] = p.h.at(c.X+x, c.Y+y)
	}
	return other, other.moved()
}

// slide moves the field by whole cells and lines, as long as it is read better.
func (p *placed) slide(reads func(*placed) float64, looks []look) {
	for range p.cols {
		var ways []placed
		for _, by := range [][2]int{{-1, 0}, {1, 0}, {0, -1}, {0, 1}} {
			if other, ok := p.shifted(by[0], by[1]); ok {
				other.score = reads(&other)
				ways = append(ways, other)
			}
		}
		slices.SortFunc(ways, func(a, b placed) int { return cmp.Compare(b.score, a.score) })
		ways = ways[:min(2, len(ways))]
		for i := range ways {
			ways[i].settle(reads, looks, 4)
		}
		if len(ways) == 0 {
			return
		}
		best := slices.MaxFunc(ways, func(a, b placed) int { return cmp.Compare(a.score, b.score) })
		if best.score <= p.score+1 {
			return
		}
		*p = best
	}
}

// climb tries each way to place a field a little otherwise, by parts of a dot, and keeps what is read better.
func (p *placed) climb(reads func(*placed) float64, step float64) (better bool) {
	dot := p.dot()
	take := func(other placed) {
		if other.score = reads(&other); other.score > p.score {
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
			if other.moved() {
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
