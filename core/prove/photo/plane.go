// Package photo reads the glass of a module from a photograph: where the cells lie in it, how dark each dot is, and which
// character each cell shows, with how sure that is.
//
// It takes grey values and four corners near the cells; pictures are decoded elsewhere. It stands beside the other packages
// of prove, and needs no run.
package photo

import (
	"errors"
	"math"

	"slatebell/core/linear"
)

// Grey is a picture of grey values, 0 black to 1 white, row by row.
type Grey struct {
	W, H   int
	Pix    []float32
	Chroma *Chroma // nil: without colours
}

// At is the value at a point, between four pixels; beyond the border it is that of the border.
func (g *Grey) At(x, y float64) float64 {
	x, y = clamp(x-0.5, float64(g.W-1)), clamp(y-0.5, float64(g.H-1))
	i, j := int(x), int(y)
	fx, fy := x-float64(i), y-float64(j)
	right, below := min(i+1, g.W-1), min(j+1, g.H-1)
	p := func(i, j int) float64 { return float64(g.Pix[j*g.W+i]) }
	return (p(i, j)*(1-fx)+p(right, j)*fx)*(1-fy) + (p(i, below)*(1-fx)+p(right, below)*fx)*fy
}

func clamp(v, most float64) float64 { return math.Max(0, math.Min(v, most)) }

// Point is a place in a picture, in pixels from its upper left corner.
type Point struct{ X, Y float64 }

// Corners are those of the field of cells, from the outer edge of the first dot to that of the last: upper left, upper
// right, lower right, lower left, as the glass is read.
type Corners [4]Point

// errFlat says that corners span no field.
var errFlat = errors.New("the corners lie on a line; expected four that go round the cells: upper left, upper right, lower right, lower left")

// homography maps the unit square onto a picture.
type homography [8]float64

// span returns the homography that takes the corners of the unit square to corners: eight equations for its eight
// numbers (Multiple View Geometry in Computer Vision, §4.1, from memory).
func span(c Corners) (h homography, err error) {
	if c.flat() {
		return h, errFlat
	}
	var m [][]float64
	for i, p := range [4]Point{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
		m = append(m, []float64{p.X, p.Y, 1, 0, 0, 0, -p.X * c[i].X, -p.Y * c[i].X, c[i].X},
			[]float64{0, 0, 0, p.X, p.Y, 1, -p.X * c[i].Y, -p.Y * c[i].Y, c[i].Y})
	}
	x, ok := linear.Solve(m)
	if !ok {
		return h, errFlat
	}
	return homography(x), nil
}

// flat reports whether three of the corners lie on a line, as far as can be seen.
func (c *Corners) flat() bool {
	for i := range c {
		a, b, d := c[i], c[(i+1)%4], c[(i+2)%4]
		x, y := b.X-a.X, b.Y-a.Y
		u, v := d.X-a.X, d.Y-a.Y
		if !(math.Abs(x*v-y*u) > 1e-9*(math.Hypot(x, y)+math.Hypot(u, v))*math.Hypot(u, v)) {
			return true
		}
	}
	return false
}

// at is where a point of the unit square lies.
func (h *homography) at(u, v float64) Point {
	w := h[6]*u + h[7]*v + 1
	return Point{(h[0]*u + h[1]*v + h[2]) / w, (h[3]*u + h[4]*v + h[5]) / w}
}

// inverse maps the picture onto the unit square.
func (h *homography) inverse() *homography {
	inverse := linear.Adjugate([9]float64(append(h[:len(h):len(h)], 1))) // but for a factor, which makes no difference
	out := new(homography)
	if inverse[8] == 0 {
		return out
	}
	for i := range out {
		out[i] = inverse[i] / inverse[8]
	}
	return out
}
