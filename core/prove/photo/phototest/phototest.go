// Package phototest takes photographs of a glass for tests, by a camera of its own: rays from its eye to the plane of the glass. It shares
// nothing with package photo, which reads them.
package phototest

import (
	"math"
	"math/rand/v2"
)

// Point is a place in a picture, in pixels.
type Point struct{ X, Y float64 }

// Picture is a photograph: grey values, row by row, and where the corners of the cells lie in it.
type Picture struct {
	W, H    int
	Pix     []uint8
	Corners [4]Point // upper left, upper right, lower right, lower left
}

// Greys are its grey values, 0–1.
func (p *Picture) Greys() []float32 {
	out := make([]float32, len(p.Pix))
	for i, v := range p.Pix {
		out[i] = float32(v) / 255
	}
	return out
}

// Shot is how a photograph is taken.
type Shot struct {
	Cell        float64 // pixels across, where the glass is looked at straight
	Slant, Turn float64 // degrees
	GapX, GapY  float64 // between cells, in dots
	Ground, On  float64 // grey of the ground, and of a dot that is on, 0–1
	Off         float64 // how far dots that are off show, 0–1
	Light       float64 // how much brighter one side is, as a part
	Noise       float64
	Blur        int // pixels to each side
	Reflection  bool
	Wide        float64    // of what is round the cells, in cells
	DotX, DotY  float64    // part of a dot's place that it fills
	Frame       *Frame     // nil: the ground goes on for ever
	Rng         *rand.Rand // of the noise
	Cols, Rows  int
	Height      int // rows of dots of a cell
	Dots        func(cell, row, col int) bool
	Plane       func(x, y float64) float64 // what else lies there, in dots from the upper left of the cells, 0–1; nil: the glass, by its dots
}

// Frame is what is round a glass: its ground goes on to the window's edges, then comes a frame of sheet metal, then the board, then the
// table that it lies on.
type Frame struct {
	Left, Top           float64 // of ground beside the cells, in dots
	Metal, Board, Table float64 // grey
	MetalX, MetalY      float64 // how wide the frame is, in dots
	BoardX, BoardY      float64
}

func (f *Frame) value(ground, x, y, w, h float64) float64 {
	dx, dy := math.Max(-x, x-w)-f.Left, math.Max(-y, y-h)-f.Top
	switch {
	case dx < 0 && dy < 0:
		return ground
	case dx < f.MetalX && dy < f.MetalY:
		return f.Metal
	case dx < f.MetalX+f.BoardX && dy < f.MetalY+f.BoardY:
		return f.Board
	}
	return f.Table * (1 + 0.2*math.Sin(x/7+math.Sin(y/11))*math.Sin(y/5+math.Sin(x/17)))
}

// someFrame is a frame at random, for a glass of a size in dots.
func someFrame(r *rand.Rand, w, h float64) *Frame {
	return &Frame{
		Left: w * (0.02 + 0.06*r.Float64()), Top: h * (0.1 + 0.2*r.Float64()), Metal: 0.03 + 0.1*r.Float64(), Board: 0.2 + 0.25*r.Float64(), Table: 0.3 + 0.5*r.Float64(),
		MetalX: 4 + 6*r.Float64(), MetalY: 3 + 6*r.Float64(), BoardX: 3 + 6*r.Float64(), BoardY: 8 + 10*r.Float64(),
	}
}

// Take takes the photograph.
func (s *Shot) Take() *Picture {
	w := float64(s.Cols)*(5+s.GapX) - s.GapX
	h := float64(s.Rows)*(float64(s.Height)+s.GapY) - s.GapY
	scale := s.Cell / (5 + s.GapX) // pixels of a dot
	eye := 3 * w
	sl, tu := s.Slant*math.Pi/180, s.Turn*math.Pi/180
	// A point of the plane, turned about the upright axis and in the picture, and seen from the eye.
	project := func(x, y float64) Point {
		x, y = x-w/2, y-h/2
		px, pz := x*math.Cos(sl), x*math.Sin(sl)
		k := eye / (eye + pz) * scale
		px, py := px*k, y*k
		return Point{px*math.Cos(tu) - py*math.Sin(tu), px*math.Sin(tu) + py*math.Cos(tu)}
	}
	corners := [4]Point{project(0, 0), project(w, 0), project(w, h), project(0, h)}
	low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, c := range corners {
		low.X, low.Y, high.X, high.Y = math.Min(low.X, c.X), math.Min(low.Y, c.Y), math.Max(high.X, c.X), math.Max(high.Y, c.Y)
	}
	margin := s.Wide * s.Cell
	gw, gh := int(high.X-low.X+2*margin), int(high.Y-low.Y+2*margin)
	for i := range corners {
		corners[i].X += margin - low.X
		corners[i].Y += margin - low.Y
	}
	pix := make([]uint8, gw*gh)
	value := func(fx, fy float64) float64 {
		// The ray back onto the plane.
		px, py := fx-margin+low.X, fy-margin+low.Y
		qx, qy := px*math.Cos(tu)+py*math.Sin(tu), -px*math.Sin(tu)+py*math.Cos(tu)
		a := qx / (eye * scale)
		x := a * eye / (math.Cos(sl) - a*math.Sin(sl))
		y := qy / (eye * scale) * (eye + x*math.Sin(sl))
		x, y = x+w/2, y+h/2
		v := s.shows(x, y, w, h)
		v *= 1 + s.Light*(x/w-0.5)
		if s.Reflection {
			v += 0.15 * math.Exp(-((x-w*0.7)*(x-w*0.7)+(y-h*0.3)*(y-h*0.3))/(w*w/60))
		}
		return v
	}
	raw := make([]float64, gw*gh)
	for j := range gh {
		for i := range gw {
			sum := 0.0
			for k := range 9 {
				sum += value(float64(i)+(float64(k%3)+0.5)/3, float64(j)+(float64(k/3)+0.5)/3)
			}
			raw[j*gw+i] = sum / 9
		}
	}
	for j := range gh {
		for i := range gw {
			sum, n := 0.0, 0.0
			for y := max(0, j-s.Blur); y <= min(gh-1, j+s.Blur); y++ {
				for x := max(0, i-s.Blur); x <= min(gw-1, i+s.Blur); x++ {
					sum, n = sum+raw[y*gw+x], n+1
				}
			}
			v := sum/n + s.Rng.NormFloat64()*s.Noise
			pix[j*gw+i] = uint8(255 * math.Max(0, math.Min(1, v)))
		}
	}
	return &Picture{gw, gh, pix, corners}
}

// shows is what lies at a point of the plane, for a glass of a size in dots.
func (s *Shot) shows(x, y, w, h float64) float64 {
	if s.Plane != nil {
		return s.Plane(x, y)
	}
	v := s.Ground
	if s.Frame != nil {
		v = s.Frame.value(s.Ground, x, y, w, h)
	}
	cx, cy := int(math.Floor(x/(5+s.GapX))), int(math.Floor(y/(float64(s.Height)+s.GapY)))
	if cx >= 0 && cx < s.Cols && cy >= 0 && cy < s.Rows {
		dx, dy := x-float64(cx)*(5+s.GapX), y-float64(cy)*(float64(s.Height)+s.GapY)
		if dx < 5 && dy < float64(s.Height) {
			fx, fy := dx-math.Floor(dx)-0.5, dy-math.Floor(dy)-0.5
			if math.Abs(fx) < s.DotX/2 && math.Abs(fy) < s.DotY/2 {
				if s.Dots(cy*s.Cols+cx, int(dy), int(dx)) {
					v = s.On
				} else {
					v += (s.On - s.Ground) * s.Off
				}
			}
		}
	}
	return v
}

// Some is a photograph at random of cells that are so many pixels across, up to a slant in degrees; dots says which are on.
func Some(r *rand.Rand, cols, rows, height int, cell, slant float64, dots func(cell, row, col int) bool) *Shot {
	s := &Shot{
		Cell: cell, Slant: (2*r.Float64() - 1) * slant, Turn: (2*r.Float64() - 1) * 12, GapX: 0.7 + 0.6*r.Float64(), GapY: 0.5 + 1.5*r.Float64(),
		Ground: 0.55 + 0.25*r.Float64(), Off: 0.1 * r.Float64(), Light: 0.4 * (2*r.Float64() - 1), Noise: 0.02 * r.Float64(), Blur: int(cell / 25),
		Reflection: r.IntN(3) == 0, Wide: 0.6 + 2*r.Float64(), DotX: 0.85 + 0.1*r.Float64(), DotY: 0.85 + 0.1*r.Float64(), Rng: r,
		Cols: cols, Rows: rows, Height: height, Dots: dots,
	}
	s.On = s.Ground * (0.2 + 0.3*r.Float64())
	if r.IntN(3) == 0 { // lit dots on a dark ground
		s.Ground, s.On = 0.1+0.15*r.Float64(), 0.6+0.3*r.Float64()
	}
	if r.IntN(2) == 0 {
		s.Turn *= 3
	}
	w, h := float64(cols)*(5+s.GapX)-s.GapX, float64(rows)*(float64(height)+s.GapY)-s.GapY
	s.Frame = someFrame(r, w, h)
	return s
}
