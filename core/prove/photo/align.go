package photo

import (
	"cmp"
	"math"
	"slices"
)

// texts are the areas of a picture that may be text by itself, where no window stands out from what is round it: places where the grey
// changes much both along and across, as it does not at an edge. How much is the smaller eigenvalue of the structure tensor (Förstner and
// Gülch, ISPRS Intercommission Conference, 1987, from memory). The list begins with those that hold most of it for their size.
func texts(g *Grey) (out []Corners) {
	slope := func(k, by, n, of int) float64 { return float64(g.Pix[k+by*min(n-1-of, 1)] - g.Pix[k-by*min(of, 1)]) }
	dx := func(k int) float64 { return slope(k, 1, g.W, k%g.W) }
	dy := func(k int) float64 { return slope(k, g.W, g.H, k/g.W) }
	xx := sumsOf(g.W, g.H, func(k int) float64 { return dx(k) * dx(k) })
	yy := sumsOf(g.W, g.H, func(k int) float64 { return dy(k) * dy(k) })
	xy := sumsOf(g.W, g.H, func(k int) float64 { return dx(k) * dy(k) })
	var finest *Grey
	for _, radius := range []int{5, 9, 16, 28} { // pixels: what is round a pixel goes on over the spaces of a text
		dense := &Grey{W: g.W, H: g.H, Pix: make([]float32, len(g.Pix))}
		mean := float32(0)
		for j := range g.H {
			for i := range g.W {
				x0, y0, x1, y1 := max(0, i-radius), max(0, j-radius), min(g.W, i+radius+1), min(g.H, j+radius+1)
				a, b, c := xx.in(x0, y0, x1, y1), yy.in(x0, y0, x1, y1), xy.in(x0, y0, x1, y1)
				least := (a+b)/2 - math.Hypot((a-b)/2, c)
				v := float32(math.Sqrt(math.Max(0, least) / float64((x1-x0)*(y1-y0))))
				dense.Pix[j*g.W+i] = v
				mean += v / float32(len(g.Pix))
			}
		}
		if finest == nil {
			finest = dense
		}
		region := newRegions(dense)
		for _, times := range []float32{0.9, 1.3, 1.8, 2.6} {
			region.each(times*mean, true, func(hull []Point, _ int) {
				c := boxOf(hull).lying()
				w, h := c.sides()
				c = c.grown(0.1-float64(radius)/2/w, 0.3-float64(radius)/2/h) // it was made wider by what is round each pixel; and a field is larger than its text
				if c.plausible() && !slices.ContainsFunc(out, c.near) {
					out = append(out, c)
				}
			})
		}
	}
	slices.SortStableFunc(out, func(a, b Corners) int { return cmp.Compare(holds(finest, b), holds(finest, a)) })
	return out
}

// holds is how much of a picture's values an area holds, for the length of its edges.
func holds(g *Grey, c Corners) float64 {
	const across, down = 64, 16
	h, err := span(c)
	if err != nil {
		return 0
	}
	sum := 0.0
	for j := range down {
		for i := range across {
			p := h.at((float64(i)+0.5)/across, (float64(j)+0.5)/down)
			if p.X >= 0 && p.Y >= 0 && p.X < float64(g.W) && p.Y < float64(g.H) {
				sum += g.At(p.X, p.Y)
			}
		}
	}
	return sum / (across * down) * math.Sqrt(c.area())
}

// strips is how many parts of a flattened area are held against each other.
const strips = 16

// aligned turns an area so that the lines of its text run along it, and the columns of its cells down: each by how sharp what stands on them
// gets, summed up along them.
func aligned(pyr []*Grey, c Corners, w int) Corners {
	fl, err := flatten(pyr, c.grown(0.04, 0.12), w)
	if err != nil {
		return c
	}
	lean := func(n, m int, at func(along, across int) float64, most float64) (a, k float64) {
		// n places along, m across them; strips of what lies along are summed up.
		var list [strips][]float64
		for i := range list {
			list[i] = make([]float64, m)
		}
		for along := range n {
			of := list[along*strips/n]
			for across := range m {
				of[across] += at(along, across)
			}
		}
		best := 0.0
		step := math.Max(0.5, most/24)
		for lean := -most; lean <= most; lean += step {
			for spread := -most / 4; spread <= most/4; spread += most / 12 {
				sharp := 0.0
				for across := range m {
					sum := 0.0
					for i := range list {
						by := (lean + spread*(float64(across)/float64(m)-0.5)) * ((float64(i)+0.5)/strips - 0.5)
						if at := across + int(math.Round(by)); at >= 0 && at < m {
							sum += list[i][at]
						}
					}
					sharp += sum * sum
				}
				if sharp > best {
					best, a, k = sharp, lean, spread
				}
			}
		}
		return a, k
	}
	square := func(x, y int) float64 { v := float64(fl.ink[y*fl.w+x]); return v * v }
	fw, fh := float64(fl.w), float64(fl.h)
	rowA, rowK := lean(fl.w, fl.h, square, 0.3*fh)
	colA, colK := lean(fl.h, fl.w, func(y, x int) float64 { return square(x, y) }, 0.4*fh)
	out := Corners{{0, 0}, {fw, 0}, {fw, fh}, {0, fh}}
	for i, p := range out {
		u, v := p.X/fw-0.5, p.Y/fh-0.5
		out[i] = Point{p.X + (colA+colK*u)*v, p.Y + (rowA+rowK*v)*u}
	}
	return fl.inPicture(out)
}
