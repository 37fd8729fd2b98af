package photo

import (
	"math"
	"math/bits"
)

// placed is a field at a place of a flattened window, with how well it can be read there.
type placed struct {
	field
	in      *flat
	looks   *looks
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

// seen is what a field shows of itself, in a window that was flattened: of each cell its dots, then what is in the gaps round it. Its memory
// is used again from one place to the next.
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
		per := 1 / (aw*x + bw*y + 1)
		return p.in.at((ax*x+bx*y+cx)*per, (ay*x+by*y+cy)*per) * sign
	}
	n := 0
	for row := range p.rows {
		y0 := float64(row) * (float64(p.height) + p.gapY)
		above, below := y0-p.gapY/2, y0+float64(p.height)+p.gapY/2
		for col := range p.cols {
			x0 := float64(col) * (width + p.gapX)
			for y := range p.height {
				middle := y0 + float64(y) + 0.5
				px, py, pw := ax*x0+bx*middle+cx, ay*x0+by*middle+cy, aw*x0+bw*middle+1
				for x := range width {
					along := float64(x) + 0.5
					per := 1 / (pw + aw*along)
					s.values[n+x] = p.in.at((px+ax*along)*per, (py+ay*along)*per) * sign
				}
				n += width
			}
			left, right := x0-p.gapX/2, x0+width+p.gapX/2
			for y := range p.height {
				middle := y0 + float64(y) + 0.5
				s.values[n], s.values[n+1] = at(right, middle), at(left, middle)
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

// What dots that are off show of themselves (ours): how far a cell's mean is off at least, as a part of a dot that is on, how much of it counts,
// how much it says at most of two places, in dots, and how many times as dark as usual a cell is that is none: an edge lies in it.
const (
	shadeNoise = 0.01
	shadeCount = 0.5
	shadeMost  = 30
	shadeFar   = 3
)

// shade is how much the cells on which nothing stands look like cells all the same: on most glasses dots that are off are a little darker, or
// brighter, than the gaps round them. It is the logarithm of how much likelier it is by that for all of them to be cells than to be none.
func (p *placed) shade() float64 {
	all := p.look()
	dots := width * p.height
	var means []float64
	for c := 0; c < len(all); c += dots + p.round() {
		written, in, round := false, float32(0), float32(0)
		for _, v := range all[c : c+dots] {
			written = written || v > 0.5
			in += v
		}
		for _, v := range all[c+dots : c+dots+p.round()] {
			round += v
		}
		if !written {
			means = append(means, float64(in/float32(dots)-round/float32(p.round())))
		}
	}
	if len(means) == 0 {
		return 0
	}
	usual := median(means)
	if usual == 0 {
		return 0
	}
	var offs []float64
	for _, m := range means {
		offs = append(offs, math.Abs(m-usual))
	}
	noise := math.Max(shadeNoise, 1.4826*median(offs)) // of a normal distribution
	sum := 0.0
	for _, m := range means {
		like := math.Max(0, 1-math.Max((usual-m)/usual, (m-usual)/usual/shadeFar))
		sum += (math.Min(1, like) - 0.5) * usual * usual / (noise * noise)
	}
	return shadeCount * sum
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
func (p *placed) reads() float64 {
	all := p.look()
	dots := width * p.height
	each := dots + p.round()
	sum, most := float32(0), float32(0)
	for c := 0; c < len(all); c += each {
		values := all[c : c+each]
		mean := float32(0)
		for _, v := range values[:dots] {
			mean += v
		}
		for _, v := range values[dots:] {
			mean += gapSample * v
		}
		mean /= float32(dots) + gapSample*float32(p.round())
		look, off := p.looks.nearest(values[:dots], c == 0 || c+each == len(all))
		// Nothing is explained by characters that an even grey explains as well, or stripes along the line or across it, as edges make them.
		even, stripes, posts := float32(0), float32(0), p.posts(values)
		for y := range p.height {
			line, sides := values[y*width:(y+1)*width], values[dots+2*y:dots+2*y+2]
			stripe := gapSample * (sides[0] + sides[1])
			for _, v := range line {
				stripe += v
			}
			stripe /= width + 2*gapSample
			for x, v := range line {
				even += (v - mean) * (v - mean)
				stripes += (v - stripe) * (v - stripe)
				off := v - float32(look>>(y*width+x)&1)
				sum -= unexplained * off * off
			}
			for _, v := range sides {
				even += gapSample * (v - mean) * (v - mean)
				stripes += gapSample * (v - stripe) * (v - stripe)
				sum -= gapSample * unexplained * v * v
			}
		}
		for _, v := range values[dots+2*p.height:] {
			even += gapSample * (v - mean) * (v - mean)
			sum -= gapSample * unexplained * v * v
		}
		most += min(even, stripes, posts)
		if p.looks.any && off == strange {
			sum -= strangeness
		}
	}
	sum += most
	if p.explained = 0; most > 3 { // dots: less is nothing at all
		p.explained = float64(sum / most)
	}
	return float64(sum) - p.aside()
}

// posts is what stripes across the line leave unexplained of a cell, and of what is above and below it and beside it.
func (p *placed) posts(values []float32) (off float32) {
	dots := width * p.height
	beside, over := values[dots:dots+2*p.height], values[dots+2*p.height:]
	for x := range width {
		sum := gapSample * (over[2*x] + over[2*x+1])
		for y := range p.height {
			sum += values[y*width+x]
		}
		post := sum / (float32(p.height) + 2*gapSample)
		for y := range p.height {
			v := values[y*width+x] - post
			off += v * v
		}
		for _, v := range over[2*x : 2*x+2] {
			off += gapSample * (v - post) * (v - post)
		}
	}
	for side := range 2 {
		sum := float32(0)
		for y := range p.height {
			sum += beside[2*y+side]
		}
		for y := range p.height {
			v := beside[2*y+side] - sum/float32(p.height)
			off += gapSample * v * v
		}
	}
	return off
}

// strange is how many dots of a cell are otherwise than in the nearest look where it may be one that nobody knows; and strangeness what counts
// against such a one, in dots (ours).
const (
	strange     = 4
	strangeness = 3
)

// nearest is the look that has the fewest dots otherwise than a cell, and how many; where any look may be, that of the cell itself if none is
// near. At the ends of a field it is one of those that stand there.
func (l *looks) nearest(dots []float32, end bool) (look uint64, off int) {
	var is uint64
	for i, v := range dots {
		if v > 0.5 {
			is |= 1 << i
		}
	}
	list := l.known
	if end && l.ends != nil {
		list = l.ends
	} else if is == 0 {
		return 0, 0
	}
	off = 99
	for k := range list {
		if d := bits.OnesCount64(list[k].bits ^ is); d < off {
			look, off = list[k].bits, d
		}
	}
	if l.any && !end && off >= strange {
		return is, strange
	}
	return look, off
}
