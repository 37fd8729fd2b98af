package photo

import (
	"cmp"
	"math"
	"slices"

	"slatebell/core/linear"
)

// params is how many numbers place a field: its corners' and its gaps'.
const params = 10

// by moves one of the numbers that place a field, by a part of a dot.
func (p *placed) by(k int, step float64) (other placed, ok bool) {
	other = *p
	switch {
	case k == 8:
		other.gapX += step
		return other, other.gapX > 0.3
	case k == 9:
		other.gapY += step
		return other, other.gapY > 0.1
	case k%2 == 0:
		other.corners[k/2].X += step * p.dot()
	default:
		other.corners[k/2].Y += step * p.dot()
	}
	return other, other.moved()
}

// badly is how many dots of a cell may be otherwise than those of the nearest look, for it to say where the field lies (ours).
const badly = 9

// settle places the field so that what the nearest looks leave unexplained is least, by least squares: Gauss and Newton's steps
// (Numerical Optimization, §10.3, from memory). A step may make it worse, since what cells are read as changes by it; the best place counts.
func (p *placed) settle(rounds int) {
	dots := width * p.height
	each := dots + p.round()
	best := *p
	for range rounds {
		now := slices.Clone(p.look())
		target, weight := make([]float32, len(now)), make([]float32, len(now))
		for c := 0; c < len(now); c += each {
			look, off := p.looks.nearest(now[c:c+dots], c == 0 || c+each == len(now))
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
		m := make([][]float64, params)
		for k := range m {
			m[k] = make([]float64, params+1)
		}
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
				m[k][l], m[l][k] = float64(sum), float64(sum)
			}
			sum := float32(0)
			if slopes[k] != nil {
				for i, w := range weight {
					sum += w * slopes[k][i] * (target[i] - now[i])
				}
			}
			m[k][params] = float64(sum)
		}
		by, ok := linear.Solve(m)
		if !ok {
			break
		}
		moved := false
		for k := range params {
			step := math.Max(-0.6, math.Min(0.6, by[k]))
			if other, ok := p.by(k, step); ok {
				*p, moved = other, moved || math.Abs(step) > 0.02
			}
		}
		if p.score = p.reads(); p.score > best.score {
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
func (p *placed) stretch() {
	_, h := p.size()
	best := *p
	try := func(top, low float64) {
		other := *p
		for i, c := range [4]Point{{0, top}, {1, top}, {1, h + low}, {0, h + low}} {
			other.corners[i] = p.h.at(c.X, c.Y/h)
		}
		if other.moved() {
			if other.score = other.reads(); other.score > best.score {
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
func (p *placed) slide() {
	for range p.cols {
		var ways []placed
		for _, by := range [][2]int{{-1, 0}, {1, 0}, {0, -1}, {0, 1}} {
			if other, ok := p.shifted(by[0], by[1]); ok {
				other.score = other.reads()
				ways = append(ways, other)
			}
		}
		slices.SortFunc(ways, func(a, b placed) int { return cmp.Compare(b.score, a.score) })
		ways = ways[:min(2, len(ways))]
		for i := range ways {
			ways[i].settle(4)
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

// climb tries each way to place a field a little otherwise, by parts of a dot, and keeps what scores better.
func (p *placed) climb(score func(*placed) float64, step float64) {
	dot := p.dot()
	take := func(other placed) {
		if other.score = score(&other); other.score > p.score {
			*p = other
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
}
