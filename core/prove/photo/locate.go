package photo

import (
	"cmp"
	"math"
	"slices"
)

// A flattened window has so many pixels a cell, where its cells fill it as they usually do (ours).
const (
	flatCell = 20
	usualW   = 0.86 // of a window's width is cells
)

// flat is an area of a picture, made a rectangle, with what stands on its ground.
type flat struct {
	w, h int
	grey []float32
	ink  []float32   // how far each pixel differs from the ground round it
	from *homography // of the unit square onto the picture
}

// at is what stands at a point, and nothing beyond the edges.
func (f *flat) at(x, y float64) float32 {
	i, j := int(x), int(y)
	if x < 0 || y < 0 || i >= f.w || j >= f.h {
		return 0
	}
	return f.ink[j*f.w+i]
}

// inPicture are corners of the flattened area as they lie in the picture.
func (f *flat) inPicture(c Corners) Corners {
	for i, p := range c {
		c[i] = f.from.at(p.X/float64(f.w), p.Y/float64(f.h))
	}
	return c
}

// flatten makes an area of a picture a rectangle of so many pixels across.
func flatten(pyr []*Grey, c Corners, w int) (*flat, error) {
	h, err := span(c)
	if err != nil {
		return nil, err
	}
	across, down := c.sides()
	level := 0
	for level < len(pyr)-1 && across/float64(int(2)<<level) > float64(w) {
		level++
	}
	g, scale := pyr[level], 1/float64(int(1)<<level)
	f := &flat{w: w, h: min(max(12, int(float64(w)*down/across)), 2*w), from: &h}
	grey := &Grey{W: f.w, H: f.h, Pix: make([]float32, f.w*f.h)}
	for j := range f.h {
		for i := range f.w {
			p := h.at((float64(i)+0.5)/float64(f.w), (float64(j)+0.5)/float64(f.h))
			grey.Pix[j*f.w+i] = float32(g.At(p.X*scale, p.Y*scale))
		}
	}
	f.grey = grey.Pix
	f.ink = blurredInk(grey.overGround(int(1.5*flatCell)), f.w, f.h)
	return f, nil
}

// blurredInk gives each pixel the mean of it and those beside it, weighted 1 2 1: a dot has two or three pixels.
func blurredInk(ink []float32, w, h int) []float32 {
	across, out := make([]float32, len(ink)), make([]float32, len(ink))
	for k := range ink {
		i := k % w
		across[k] = (ink[k-min(i, 1)] + 2*ink[k] + ink[k+min(w-1-i, 1)]) / 4
	}
	for k := range ink {
		j := k / w
		out[k] = (across[k-w*min(j, 1)] + 2*across[k] + across[k+w*min(h-1-j, 1)]) / 4
	}
	return out
}

// sums are those of a picture's pixels above and left of each.
type sums struct {
	w   int
	sum []float64
}

func sumsOf(w, h int, value func(i int) float64) *sums {
	s := &sums{w + 1, make([]float64, (w+1)*(h+1))}
	for j := range h {
		row := 0.0
		for i := range w {
			row += value(j*w + i)
			s.sum[(j+1)*s.w+i+1] = s.sum[j*s.w+i+1] + row
		}
	}
	return s
}

// in is the sum within a rectangle.
func (s *sums) in(x0, y0, x1, y1 int) float64 {
	return s.sum[y1*s.w+x1] - s.sum[y0*s.w+x1] - s.sum[y1*s.w+x0] + s.sum[y0*s.w+x0]
}

// overGround is how far each pixel differs from its ground: the mean round it of what does not differ much from the mean itself.
func (g *Grey) overGround(radius int) []float32 {
	box := func(i, j int) (x0, y0, x1, y1 int) {
		return max(0, i-radius), max(0, j-radius), min(g.W, i+radius+1), min(g.H, j+radius+1)
	}
	first := sumsOf(g.W, g.H, func(i int) float64 { return float64(g.Pix[i]) })
	square := sumsOf(g.W, g.H, func(i int) float64 { return float64(g.Pix[i]) * float64(g.Pix[i]) })
	plain := make([]bool, len(g.Pix))
	for j := range g.H {
		for i := range g.W {
			x0, y0, x1, y1 := box(i, j)
			n := float64((x1 - x0) * (y1 - y0))
			mean := first.in(x0, y0, x1, y1) / n
			spread := math.Sqrt(math.Max(0, square.in(x0, y0, x1, y1)/n-mean*mean))
			plain[j*g.W+i] = math.Abs(float64(g.Pix[j*g.W+i])-mean) < 0.8*spread+0.004
		}
	}
	ground := sumsOf(g.W, g.H, func(i int) float64 {
		if plain[i] {
			return float64(g.Pix[i])
		}
		return 0
	})
	count := sumsOf(g.W, g.H, func(i int) float64 {
		if plain[i] {
			return 1
		}
		return 0
	})
	out := make([]float32, len(g.Pix))
	for j := range g.H {
		for i := range g.W {
			x0, y0, x1, y1 := box(i, j)
			out[j*g.W+i] = g.Pix[j*g.W+i] - float32(ground.in(x0, y0, x1, y1)/math.Max(1, count.in(x0, y0, x1, y1)))
		}
	}
	return out
}

// row is how n cells lie along a line, in pixels.
type row struct {
	start, cell, gap float64
	score            float64
}

func (r *row) length(n int) float64 { return float64(n)*r.cell + float64(n-1)*r.gap }

// reach says where cells are looked for along a line: how much of it they fill, how far from its middle theirs may be, and how wide
// gaps may be, as parts of a cell.
type reach struct {
	least, most, usual float64
	aside              float64
	gaps               []float64
}

var (
	columnsIn = reach{0.55, 1.02, usualW, 0.05, []float64{0.12, 0.17, 0.22, 0.28}}
	linesIn   = reach{0.2, 1.02, 0.65, 0.1, []float64{0.06, 0.12, 0.2, 0.3}}
)

// Gaps count by how much stands in them, were they as wide as the cells (ours).
const gapsAgainst = 1.5

// profile is what stands on each pixel of a line, summed up.
type profile struct {
	sum   []float64
	total float64 // of what is above nothing
}

func profileOf(values []float64) *profile {
	least := slices.Sorted(slices.Values(values))[len(values)/12] // what stands everywhere, as the edges of a frame do, says nothing
	for i := range values {
		values[i] -= least
	}
	p := &profile{make([]float64, len(values)+1), 1e-9}
	for i, v := range values {
		p.sum[i+1] = p.sum[i] + v
		p.total += math.Max(v, 0)
	}
	return p
}

func (p *profile) upTo(x float64) float64 {
	if x <= 0 {
		return 0
	}
	i := int(x)
	if i >= len(p.sum)-1 {
		return p.sum[len(p.sum)-1]
	}
	return p.sum[i] + (x-float64(i))*(p.sum[i+1]-p.sum[i])
}

// score is how well n cells lie, with how much stands in them and not in the gaps, and how far they are from where they usually are.
func (p *profile) score(r *row, n int, in reach) float64 {
	size, length := float64(len(p.sum)-1), r.length(n)
	cells, gaps, thin := 0.0, 0.0, 0.7*r.gap
	x := r.start
	for range n {
		cells += p.upTo(x+r.cell) - p.upTo(x)
		gaps += p.upTo(x-r.gap/2+thin/2) - p.upTo(x-r.gap/2-thin/2)
		x += r.cell + r.gap
	}
	gaps += p.upTo(x-r.gap/2+thin/2) - p.upTo(x-r.gap/2-thin/2)
	density := gaps / (thin * float64(n+1))
	off, fills := ((r.start+length/2)/size-0.5)/in.aside, (length/size-in.usual)/0.25
	return (cells-gapsAgainst*density*float64(n)*r.cell)/p.total - 0.06*off*off - 0.05*fills*fills
}

// combs are ways to lay many cells, by their pitch first: gaps that stand at one pitch all along the line.
func (p *profile) combs(n int, in reach) (all []row) {
	size := float64(len(p.sum) - 1)
	type comb struct{ pitch, phase, score float64 }
	var list []comb
	step := 0.5 / float64(n)
	for pitch := in.least * size / float64(n); pitch <= in.most*size/float64(n); pitch += step {
		best := comb{pitch, 0, math.Inf(1)}
		thin := pitch / 8
		for phase := 0.0; phase < pitch; phase += max(1, pitch/20) {
			sum, k := 0.0, 0
			for x := phase; x < size; x += pitch {
				sum += p.upTo(x+thin/2) - p.upTo(x-thin/2)
				k++
			}
			if sum /= float64(k); sum < best.score {
				best.phase, best.score = phase, sum
			}
		}
		best.score /= thin
		list = append(list, best)
	}
	var tops []comb
	for i, c := range list {
		if (i == 0 || list[i-1].score >= c.score) && (i == len(list)-1 || list[i+1].score > c.score) {
			tops = append(tops, c)
		}
	}
	slices.SortFunc(tops, func(a, b comb) int { return cmp.Compare(a.score, b.score) })
	for _, c := range tops[:min(16, len(tops))] {
		for x := c.phase; x < size; x += c.pitch {
			for _, gap := range in.gaps {
				r := row{cell: c.pitch / (1 + gap)}
				r.gap = gap * r.cell
				r.start = x + r.gap/2
				if r.start+r.length(n) > 1.02*size || math.Abs((r.start+r.length(n)/2)/size-0.5) > in.aside+1/float64(n) {
					continue
				}
				r.score = p.score(&r, n, in)
				all = append(all, r)
			}
		}
	}
	return all
}

// everywhere are ways to lay a few cells, all that there are.
func (p *profile) everywhere(n int, in reach) (all []row) {
	size := float64(len(p.sum) - 1)
	step := math.Max(1, size*in.usual/float64(n)/20)
	for length := in.least * size; length <= in.most*size; length += step {
		for aside := -in.aside * size; aside <= in.aside*size; aside += step {
			start := (size-length)/2 + aside
			if start < -0.02*size || start+length > 1.02*size {
				continue
			}
			best := row{score: math.Inf(-1)}
			for _, gap := range in.gaps {
				r := row{start: start, cell: length / (float64(n) + float64(n-1)*gap)}
				r.gap = gap * r.cell
				if r.score = p.score(&r, n, in); r.score > best.score {
					best = r
				}
			}
			all = append(all, best)
		}
	}
	return all
}

// lay finds how n cells lie along a line, by what stands on each place of it: much in the cells, nothing in the gaps, and as much to one
// side as to the other. The best ways come first, each far from those before.
func lay(values []float64, n int, in reach) (out []row) {
	p := profileOf(values)
	all := p.everywhere
	if n > 4 {
		all = p.combs
	}
	return p.distinct(all(n, in), n, in)
}

// distinct are the best of some ways, moved to where they lie best, each far from those before.
func (p *profile) distinct(all []row, n int, in reach) (out []row) {
	slices.SortFunc(all, func(a, b row) int { return cmp.Compare(b.score, a.score) })
	for _, r := range all {
		if len(out) == ways {
			break
		}
		if !slices.ContainsFunc(out, func(o row) bool {
			return math.Abs(o.start-r.start) < 0.35*r.cell && math.Abs(o.start+o.length(n)-r.start-r.length(n)) < 0.35*r.cell
		}) {
			out = append(out, r)
		}
	}
	for i := range out {
		out[i].settle(p, n, in)
	}
	slices.SortFunc(out, func(a, b row) int { return cmp.Compare(b.score, a.score) })
	return out
}

// settle moves cells to where they lie best near by, in ever smaller steps.
func (r *row) settle(p *profile, n int, in reach) {
	for by := 0.06 * r.cell; by > 0.1; by /= 2 {
		r.closer(p, n, in, by)
	}
}

// closer moves cells by a few pixels, wider, and with other gaps, where they lie better then.
func (r *row) closer(p *profile, n int, in reach, by float64) {
	for _, way := range [][3]float64{{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {-1, 1, 0}, {1, -1, 0}, {0, 0, 0.03}, {0, 0, -0.03}} {
		length := r.length(n) + way[1]*by
		gap := r.gap/r.cell + way[2]
		if gap < in.gaps[0]/1.5 || gap > in.gaps[len(in.gaps)-1]*1.5 {
			continue
		}
		other := row{start: r.start + way[0]*by, cell: length / (float64(n) + float64(n-1)*gap)}
		other.gap = gap * other.cell
		if other.score = p.score(&other, n, in); other.score > r.score {
			*r = other
		}
	}
}

// ways is how many ways to lie are looked at more closely.
const ways = 4

// columns is what stands on each column of a part of the rows.
func (f *flat) columns(sign float32, y0, y1 int) []float64 {
	out := make([]float64, f.w)
	for j := max(0, y0); j < min(f.h, y1); j++ {
		for i := range out {
			out[i] += float64(max(0, sign*f.ink[j*f.w+i]))
		}
	}
	return out
}

// lines is what stands on each line in the cells, less what stands there in the gaps between them, so that an edge that runs along all of
// it does not count.
func (f *flat) lines(sign float32, n int, x row) []float64 {
	part := make([]float64, f.w) // of a pixel's column: in a cell, or in a gap
	cells, gaps := 0.0, 0.0
	for i := range part {
		at := math.Mod(float64(i)+0.5-x.start, x.cell+x.gap)
		switch {
		case float64(i)+0.5 < x.start || float64(i)+0.5 > x.start+x.length(n):
		case at < x.cell:
			part[i] = 1
			cells++
		case at > x.cell+0.15*x.gap && at < x.cell+0.85*x.gap:
			part[i] = -1
			gaps++
		}
	}
	out := make([]float64, f.h)
	for j := range out {
		in, between := 0.0, 0.0
		for i, p := range part {
			v := float64(max(0, sign*f.ink[j*f.w+i]))
			if p > 0 {
				in += v
			} else if p < 0 {
				between += v
			}
		}
		out[j] = in
		if gaps > 0 {
			out[j] -= between / gaps * cells
		}
	}
	return out
}

// locate finds where in a flattened window the cells may lie: of each way that characters leave the lowest line of dots free, one.
func (f *field) locate(fl *flat) (out []placed) {
	var rough []placed
	for k, sign := range []float32{1, -1} {
		byColumn := lay(fl.columns(sign, 0, fl.h), f.cols, columnsIn)
		for _, x := range byColumn[:min(3, len(byColumn))] {
			byLine := lay(fl.lines(sign, f.cols, x), f.rows, linesIn)
			for i, y := range byLine[:min(3, len(byLine))] {
				if i == 0 {
					x.settle(profileOf(fl.columns(sign, int(y.start), int(y.start+y.length(f.rows)))), f.cols, columnsIn)
				}
				one := placed{field: *f, in: fl, dark: k == 1, middle: Point{float64(fl.w) / 2, float64(fl.h) / 2}}
				one.gapX, one.gapY = x.gap/x.cell*width, y.gap/y.cell*float64(f.height)
				if f.rows == 1 {
					one.gapY = 1
				}
				right, low := x.start+x.length(f.cols), y.start+y.length(f.rows)
				one.corners = Corners{{x.start, y.start}, {right, y.start}, {right, low}, {x.start, low}}
				if one.moved() {
					rough = append(rough, one)
				}
			}
		}
	}
	var kept seen
	for i := range rough {
		rough[i].seen = &kept
		rough[i].score = rough[i].stands()
	}
	better := func(a, b placed) int { return cmp.Compare(b.score, a.score) }
	slices.SortFunc(rough, better)
	rough = rough[:min(8, len(rough))]
	for i := range rough {
		rough[i].climb((*placed).stands, 0.8)
		rough[i].climb((*placed).stands, 0.5)
	}
	slices.SortFunc(rough, better)
	for _, one := range rough[:min(3, len(rough))] {
		out = append(out, one)
		// What nothing stands on below each line may belong to its cells.
		h := float64(f.height)
		if one.gapY = one.gapY*(h-1)/h - 1; one.gapY < 0.2 && f.rows > 1 {
			continue
		}
		if f.rows == 1 {
			one.gapY = 1
		}
		_, before := (&field{cols: f.cols, rows: f.rows, height: f.height - 1, gapX: one.gapX, gapY: one.gapY + 1}).size()
		_, after := one.size()
		one.corners[2], one.corners[3] = one.h.at(1, after/before), one.h.at(0, after/before)
		if one.moved() {
			out = append(out, one)
		}
	}
	return out
}
