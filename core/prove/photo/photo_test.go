package photo

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"math"
	"math/rand/v2"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// shot is how a photograph is taken, by a camera of the test's own: rays from its eye to the plane of the glass. It shares nothing
// with the reader.
type shot struct {
	cell        float64 // pixels across, where the glass is looked at straight
	slant, turn float64 // degrees
	gapX, gapY  float64 // between cells, in dots
	ground, on  float64 // grey of the ground, and of a dot that is on
	off         float64 // how far dots that are off show, 0–1
	light       float64 // how much brighter one side is, as a part
	noise       float64
	blur        int // pixels to each side
	quality     int // of JPEG
	reflection  bool
	wide        float64 // of what is round the cells, in cells
	dotX, dotY  float64 // part of a dot's place that it fills
	frame       *frame  // nil: the ground goes on for ever
	rng         *rand.Rand
	cols, rows  int
	height      int
	dots        func(cell, row, col int) bool
}

// frame is what is round a glass: its ground goes on to the window's edges, then comes a frame of sheet metal, then the board, then the
// table that it lies on.
type frame struct {
	left, top           float64 // of ground beside the cells, in dots
	metal, board, table float64 // grey
	metalX, metalY      float64 // how wide the frame is, in dots
	boardX, boardY      float64
}

func (f *frame) value(ground, x, y, w, h float64) float64 {
	dx, dy := math.Max(-x, x-w)-f.left, math.Max(-y, y-h)-f.top
	switch {
	case dx < 0 && dy < 0:
		return ground
	case dx < f.metalX && dy < f.metalY:
		return f.metal
	case dx < f.metalX+f.boardX && dy < f.metalY+f.boardY:
		return f.board
	}
	return f.table * (1 + 0.2*math.Sin(x/7+math.Sin(y/11))*math.Sin(y/5+math.Sin(x/17)))
}

// someFrame is a frame at random, for a glass of a size in dots.
func someFrame(r *rand.Rand, w, h float64) *frame {
	return &frame{
		left: w * (0.02 + 0.06*r.Float64()), top: h * (0.1 + 0.2*r.Float64()), metal: 0.03 + 0.1*r.Float64(), board: 0.2 + 0.25*r.Float64(), table: 0.3 + 0.5*r.Float64(),
		metalX: 4 + 6*r.Float64(), metalY: 3 + 6*r.Float64(), boardX: 3 + 6*r.Float64(), boardY: 8 + 10*r.Float64(),
	}
}

// take returns the photograph, and where the corners of its cells lie.
func (s *shot) take() (*Grey, Corners) {
	w := float64(s.cols)*(5+s.gapX) - s.gapX
	h := float64(s.rows)*(float64(s.height)+s.gapY) - s.gapY
	scale := s.cell / (5 + s.gapX) // pixels of a dot
	eye := 3 * w
	sl, tu := s.slant*math.Pi/180, s.turn*math.Pi/180
	// A point of the plane, turned about the upright axis and in the picture, and seen from the eye.
	project := func(x, y float64) Point {
		x, y = x-w/2, y-h/2
		px, pz := x*math.Cos(sl), x*math.Sin(sl)
		k := eye / (eye + pz) * scale
		px, py := px*k, y*k
		return Point{px*math.Cos(tu) - py*math.Sin(tu), px*math.Sin(tu) + py*math.Cos(tu)}
	}
	corners := Corners{project(0, 0), project(w, 0), project(w, h), project(0, h)}
	low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
	for _, c := range corners {
		low.X, low.Y, high.X, high.Y = math.Min(low.X, c.X), math.Min(low.Y, c.Y), math.Max(high.X, c.X), math.Max(high.Y, c.Y)
	}
	margin := s.wide * s.cell
	gw, gh := int(high.X-low.X+2*margin), int(high.Y-low.Y+2*margin)
	for i := range corners {
		corners[i].X += margin - low.X
		corners[i].Y += margin - low.Y
	}
	img := image.NewGray(image.Rect(0, 0, gw, gh))
	value := func(fx, fy float64) float64 {
		// The ray back onto the plane.
		px, py := fx-margin+low.X, fy-margin+low.Y
		qx, qy := px*math.Cos(tu)+py*math.Sin(tu), -px*math.Sin(tu)+py*math.Cos(tu)
		a := qx / (eye * scale)
		x := a * eye / (math.Cos(sl) - a*math.Sin(sl))
		y := qy / (eye * scale) * (eye + x*math.Sin(sl))
		x, y = x+w/2, y+h/2
		v := s.ground
		if s.frame != nil {
			v = s.frame.value(s.ground, x, y, w, h)
		}
		cx, cy := int(math.Floor(x/(5+s.gapX))), int(math.Floor(y/(float64(s.height)+s.gapY)))
		if cx >= 0 && cx < s.cols && cy >= 0 && cy < s.rows {
			dx, dy := x-float64(cx)*(5+s.gapX), y-float64(cy)*(float64(s.height)+s.gapY)
			if dx < 5 && dy < float64(s.height) {
				fx, fy := dx-math.Floor(dx)-0.5, dy-math.Floor(dy)-0.5
				if math.Abs(fx) < s.dotX/2 && math.Abs(fy) < s.dotY/2 {
					if s.dots(cy*s.cols+cx, int(dy), int(dx)) {
						v = s.on
					} else {
						v += (s.on - s.ground) * s.off
					}
				}
			}
		}
		v *= 1 + s.light*(x/w-0.5)
		if s.reflection {
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
			for y := max(0, j-s.blur); y <= min(gh-1, j+s.blur); y++ {
				for x := max(0, i-s.blur); x <= min(gw-1, i+s.blur); x++ {
					sum, n = sum+raw[y*gw+x], n+1
				}
			}
			v := sum/n + s.rng.NormFloat64()*s.noise
			img.SetGray(i, j, color.Gray{uint8(255 * math.Max(0, math.Min(1, v)))})
		}
	}
	var file bytes.Buffer
	jpeg.Encode(&file, img, &jpeg.Options{Quality: s.quality})
	back, err := jpeg.Decode(&file)
	if err != nil {
		panic(err)
	}
	g := &Grey{W: gw, H: gh, Pix: make([]float32, gw*gh)}
	for j := range gh {
		for i := range gw {
			g.Pix[j*gw+i] = float32(color.GrayModel.Convert(back.At(i, j)).(color.Gray).Y) / 255
		}
	}
	return g, corners
}

// moduleOf is a module with a ROM.
func moduleOf(t *testing.T, geometry, rom string) module.Module {
	t.Helper()
	d := bench.NewModule("quay", "Quay").Display
	d.Geometry, d.Controller.ROM = geometry, rom
	m, err := d.Module()
	if err != nil {
		t.Fatal(err)
	}
	return m
}

// written are codes as texts have them: letters, figures and signs, with spaces between words.
func written(r *rand.Rand, n int) []byte {
	out := make([]byte, n)
	for i := range out {
		switch k := r.IntN(10); {
		case k < 2:
			out[i] = ' '
		case k < 8:
			out[i] = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789"[r.IntN(62)]
		default:
			out[i] = ".,:-+/%()<>=?!*#"[r.IntN(16)]
		}
	}
	return out
}

// someShot is a photograph at random, of a cell so many pixels across and up to a slant.
func someShot(r *rand.Rand, m *module.Module, codes []byte, cell, slant float64) *shot {
	s := &shot{
		cell: cell, slant: (2*r.Float64() - 1) * slant, turn: (2*r.Float64() - 1) * 12, gapX: 0.7 + 0.6*r.Float64(), gapY: 0.5 + 1.5*r.Float64(),
		ground: 0.55 + 0.25*r.Float64(), off: 0.1 * r.Float64(), light: 0.4 * (2*r.Float64() - 1), noise: 0.02 * r.Float64(), blur: int(cell / 25), quality: 60 + r.IntN(36),
		reflection: r.IntN(3) == 0, wide: 0.6 + 2*r.Float64(), dotX: 0.85 + 0.1*r.Float64(), dotY: 0.85 + 0.1*r.Float64(), rng: r,
		cols: m.Geometry.Cols, rows: m.Geometry.Rows, height: m.CellRows(),
	}
	s.on = s.ground * (0.2 + 0.3*r.Float64())
	if r.IntN(3) == 0 { // lit dots on a dark ground
		s.ground, s.on = 0.1+0.15*r.Float64(), 0.6+0.3*r.Float64()
	}
	s.dots = func(cell, row, col int) bool { return glyph.Of(m.ROM.Dots(codes[cell])).Lit(row, col) }
	if r.IntN(2) == 0 {
		s.turn *= 3
	}
	w, h := float64(s.cols)*(5+s.gapX)-s.gapX, float64(s.rows)*(float64(s.height)+s.gapY)-s.gapY
	s.frame = someFrame(r, w, h)
	return s
}

// alike reports whether two codes look the same.
func alike(m *module.Module, a, b byte) bool { return m.ROM.Dots(a) == m.ROM.Dots(b) }

// TestRead reads photographs of the test's own camera: with corners that are placed by a hand that trembles, and found by itself.
func TestRead(t *testing.T) {
	for _, c := range []struct {
		cell, slant   float64 // pixels, degrees
		placed, found float64 // the share of cells that is right
	}{{24, 25, 0.995, 0.98}, {20, 25, 0.995, 0.98}, {14, 40, 0.97, 0.97}} {
		t.Run(fmt.Sprintf("%v px", c.cell), func(t *testing.T) {
			t.Parallel()
			r := rand.New(rand.NewPCG(26, uint64(c.cell)))
			var right [2]int
			all := 0
			for round := range 8 {
				geometry := []string{"16x2", "20x4", "8x2", "40x2"}[round%4]
				m := moduleOf(t, geometry, []string{"A00", "A02"}[round/4])
				codes := written(r, m.Geometry.Cells())
				g, corners := someShot(r, &m, codes, c.cell, c.slant).take()
				for i := range corners {
					corners[i].X += (2*r.Float64() - 1) * c.cell / 12
					corners[i].Y += (2*r.Float64() - 1) * c.cell / 12
				}
				for way, at := range []*Corners{&corners, nil} {
					got, err := Read(g, at, &m, nil)
					if err != nil {
						t.Logf("%s, round %d: %v", geometry, round, err)
						continue
					}
					was := right[way]
					for i := range codes {
						if alike(&m, got.Cells[i].Code, codes[i]) {
							right[way]++
						}
					}
					if n := len(codes) - right[way] + was; n > 0 {
						t.Logf("%s, round %d: %d wrong: %q for %q", geometry, round, n, got.Text(&m), codes)
					}
				}
				all += len(codes)
			}
			for way, want := range []float64{c.placed, c.found} {
				share := float64(right[way]) / float64(all)
				t.Logf("≤ %v°, %s: %.2f %% of %d cells", c.slant, []string{"corners given", "found"}[way], 100*share, all)
				if share < want {
					t.Errorf("%s: %.2f %% are right; expected %.1f %%", []string{"corners given", "found"}[way], 100*share, 100*want)
				}
			}
		})
	}
}

// TestUnreadable says of a glass with nothing on it that it is blank, and refuses corners that span nothing, and cells that are
// too small.
func TestUnreadable(t *testing.T) {
	m := moduleOf(t, "16x2", "A00")
	r := rand.New(rand.NewPCG(26, 2))
	s := someShot(r, &m, bytes.Repeat([]byte{' '}, m.Geometry.Cells()), 24, 25)
	s.off = 0
	g, corners := s.take()
	if got, err := Read(g, &corners, &m, nil); err != nil || !got.Blank {
		t.Errorf("a glass without a dot is not said to be blank (%v)", err)
	}
	for _, c := range []struct {
		corners Corners
		want    error
	}{
		{Corners{{0, 0}, {400, 0}, {300, 0}, {100, 0}}, errFlat},
		{Corners{{0, 0}, {100, 0}, {100, 30}, {0, 30}}, ErrSmall},
	} {
		if _, err := Read(g, &c.corners, &m, nil); !errors.Is(err, c.want) {
			t.Errorf("with the corners %v it says %v; expected %v", c.corners, err, c.want)
		}
	}
}

// TestSpan holds a homography against the corners that it was made of.
func TestSpan(t *testing.T) {
	r := rand.New(rand.NewPCG(26, 3))
	for range 100 {
		c := Corners{{r.Float64(), r.Float64()}, {10 + r.Float64(), r.Float64()}, {10 + r.Float64(), 5 + r.Float64()}, {r.Float64(), 5 + r.Float64()}}
		h, err := span(c)
		if err != nil {
			t.Fatal(err)
		}
		for i, p := range [4]Point{{0, 0}, {1, 0}, {1, 1}, {0, 1}} {
			if got := h.at(p.X, p.Y); math.Hypot(got.X-c[i].X, got.Y-c[i].Y) > 1e-9 {
				t.Errorf("%v goes to %v; expected %v", p, got, c[i])
			}
		}
	}
}
