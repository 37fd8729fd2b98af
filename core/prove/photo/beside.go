package photo

import (
	"math"
	"math/rand/v2"
)

// polished looks once more, from places beside it; and whole cells and lines aside, at what is round the field too, as the window may have
// cut it off.
func (q *search) polished(p placed) placed {
	first := q.beside(p)
	best := first
	for range mostAside {
		moved, ok := q.aside(best, 2, 0)
		if !ok && q.rows > 1 {
			moved, ok = q.aside(best, 1, 1)
		}
		if !ok {
			break
		}
		best = q.beside(moved)
	}
	if best.explained < q.least {
		return first
	}
	return best
}

// mostAside is how often a field is moved by whole cells or lines.
const mostAside = 4

// aside is the field some whole cells and lines at most beside where it is, if it is read better there; or where as much stands, but the dots
// that are off show themselves better.
func (q *search) aside(best placed, cells, lines int) (moved placed, ok bool) {
	loose := *q.looks
	loose.any = true // a glyph that nobody gave stands there all the same
	looser := best
	looser.looks = &loose
	here, ok := q.wider(looser, float64(cells)-0.5, math.Max(0.15, 1.1*float64(lines)))
	if !ok {
		return best, false
	}
	settled := func(p *placed) {
		p.settle(3)
		p.climb((*placed).reads, 0.5)
		p.settle(5)
	}
	settled(&here)
	shade, outside, from := here.shade(), q.outside(&here), here.score
	moved, most := here, from
	for y := -lines; y <= lines; y++ {
		for x := -cells; x <= cells; x++ {
			other, ok := here.shifted(x, y)
			if !ok || x == 0 && y == 0 || lines > 0 && y == 0 {
				continue
			}
			if other.score = other.reads(); other.score < from-q.most(&here) {
				continue
			}
			settled(&other)
			sum := other.score + math.Max(-shadeMost, math.Min(shadeMost, other.shade()-shade)) - outsideCount*(q.outside(&other)-outside)
			if sum > most+enough/10 {
				moved, most = other, sum
			}
		}
	}
	if most <= from {
		return best, false
	}
	moved.looks = q.looks
	moved.score = moved.reads()
	return moved, true
}

// outsideCount is what counts against a cell's width of a field beyond the picture, in dots (ours).
const outsideCount = 20

// outside is how far a field reaches beyond the picture, as a part of a cell's width.
func (q *search) outside(p *placed) float64 {
	c := p.in.inPicture(p.corners)
	across, _ := c.sides()
	most := 0.0
	for _, o := range c {
		most = max(most, -o.X, -o.Y, o.X-float64(q.pyr[0].W), o.Y-float64(q.pyr[0].H))
	}
	return most / across * float64(q.cols)
}

// most is by how much worse a place may be read for it to be looked at more closely: by what half of its characters give.
func (q *search) most(p *placed) float64 { return 0.5*math.Abs(p.score) + enough }

// wider is the field in an area so many cells and lines larger to each side.
func (q *search) wider(p placed, cells, lines float64) (placed, bool) {
	area := p.in.inPicture(p.corners.grown(cells/float64(q.cols), lines/float64(q.rows)))
	fl, err := flatten(q.pyr, area, int((float64(q.cols)+3)*flatCell))
	if err != nil {
		return p, false
	}
	back := fl.from.inverse()
	into := func(c Point) Point {
		c = p.in.from.at(c.X/float64(p.in.w), c.Y/float64(p.in.h))
		c = back.at(c.X, c.Y)
		return Point{c.X * float64(fl.w), c.Y * float64(fl.h)}
	}
	out := p
	out.in, out.middle = fl, into(p.middle)
	for i, c := range p.corners {
		out.corners[i] = into(c)
	}
	if !out.moved() {
		return p, false
	}
	out.score = out.reads()
	return out, true
}

// beside is the best place for a field near to where it is.
func (q *search) beside(best placed) placed {
	r := rand.New(rand.NewPCG(uint64(len(q.looks.known)), uint64(q.cols)))
	for range 4 {
		if best.explained > verily {
			break
		}
		other := best
		dot := best.dot()
		for i := range other.corners {
			other.corners[i].X += r.NormFloat64() * dot / 2
			other.corners[i].Y += r.NormFloat64() * dot / 2
		}
		other.gapX = math.Max(0.4, other.gapX+0.15*r.NormFloat64())
		other.gapY = math.Max(0.2, other.gapY+0.3*r.NormFloat64())
		if !other.moved() {
			continue
		}
		other.score = other.reads()
		other.climb((*placed).reads, 0.4)
		other.settle(8)
		if other.score > best.score {
			best = other
		}
	}
	best.climb((*placed).reads, 0.2)
	best.settle(10)
	return best
}

// verily is how much is explained where nothing is to be gained by looking beside it (ours).
const verily = 0.85
