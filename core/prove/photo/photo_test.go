package photo

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

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

// someShot is a photograph at random of codes, kept as JPEG of some quality: its grey values, and where its cells are.
func someShot(r *rand.Rand, m *module.Module, codes []byte, cell, slant float64, quality int) (*Grey, Corners) {
	shot := phototest.Some(r, m.Geometry.Cols, m.Geometry.Rows, m.CellRows(), cell, slant, func(cell, row, col int) bool {
		return glyph.Of(m.ROM.Dots(codes[cell])).Lit(row, col)
	})
	return kept(shot.Take(), quality)
}

// kept is a picture as JPEG gives it back.
func kept(p *phototest.Picture, quality int) (*Grey, Corners) {
	img := &image.Gray{Pix: p.Pix, Stride: p.W, Rect: image.Rect(0, 0, p.W, p.H)}
	var file bytes.Buffer
	jpeg.Encode(&file, img, &jpeg.Options{Quality: quality})
	back, err := jpeg.Decode(&file)
	if err != nil {
		panic(err)
	}
	g := &Grey{W: p.W, H: p.H, Pix: make([]float32, len(p.Pix))}
	for i := range g.Pix {
		g.Pix[i] = float32(back.(*image.Gray).GrayAt(i%p.W, i/p.W).Y) / 255
	}
	var corners Corners
	for i, c := range p.Corners {
		corners[i] = Point(c)
	}
	return g, corners
}

// alike reports whether two codes look the same.
func alike(m *module.Module, a, b byte) bool { return m.ROM.Dots(a) == m.ROM.Dots(b) }

// TestRead reads photographs of the test's own camera: with corners that are placed by a hand that trembles, and found by itself. Of the
// pictures at most one is read at a wrong place, as where the picture cuts the window off; of the others nearly every cell is right.
func TestRead(t *testing.T) {
	for _, c := range []struct{ cell, slant, want float64 }{{24, 25, 0.995}, {20, 25, 0.995}, {14, 40, 0.97}} { // pixels, degrees, share of cells
		t.Run(fmt.Sprintf("%v px", c.cell), func(t *testing.T) {
			t.Parallel()
			const pictures = 4
			r := rand.New(rand.NewPCG(26, uint64(c.cell)))
			var placed, right, cells [2]int
			for round := range pictures {
				geometry := []string{"16x2", "20x4", "8x2", "40x2"}[round%4]
				m := moduleOf(t, geometry, []string{"A00", "A02"}[round%2])
				codes := written(r, m.Geometry.Cells())
				g, corners := someShot(r, &m, codes, c.cell, c.slant, 60+r.IntN(36))
				for i := range corners {
					corners[i].X += (2*r.Float64() - 1) * c.cell / 12
					corners[i].Y += (2*r.Float64() - 1) * c.cell / 12
				}
				for way, at := range []*Corners{&corners, nil} {
					got, err := Read(g, at, &m, nil)
					if err != nil {
						continue
					}
					n := 0
					for i := range codes {
						if alike(&m, got.Cells[i].Code, codes[i]) {
							n++
						}
					}
					if n*4 >= len(codes)*3 {
						placed[way]++
						right[way] += n
						cells[way] += len(codes)
					}
				}
			}
			for way, name := range []string{"corners given", "found"} {
				share := float64(right[way]) / float64(cells[way])
				t.Logf("≤ %v°, %s: %d of %d pictures, of them %.2f %% of %d cells", c.slant, name, placed[way], pictures, 100*share, cells[way])
				if placed[way] < pictures-1 || share < c.want {
					t.Errorf("%s: %d of %d pictures are read, and of their cells %.2f %% are right; expected %.1f %%", name, placed[way], pictures, 100*share, 100*c.want)
				}
			}
		})
	}
}

// TestSure holds how sure cells are against how often they are right, in photographs with much noise and little contrast.
func TestSure(t *testing.T) {
	r := rand.New(rand.NewPCG(26, 5))
	m := moduleOf(t, "16x2", "A00")
	var all, right [3]int // less than half sure, up to 0.9, more
	for range 24 {
		codes := written(r, m.Geometry.Cells())
		shot := phototest.Some(r, 16, 2, 8, 11+3*r.Float64(), 40, func(cell, row, col int) bool {
			return glyph.Of(m.ROM.Dots(codes[cell])).Lit(row, col)
		})
		shot.Noise, shot.On = 0.02+0.06*r.Float64(), (shot.On+shot.Ground)/2
		g, corners := kept(shot.Take(), 40+r.IntN(40))
		got, err := Read(g, &corners, &m, nil)
		if err != nil || got.Blank {
			continue
		}
		for i, c := range got.Cells {
			k := 0
			if c.Sure >= 0.9 {
				k = 2
			} else if c.Sure >= 0.5 {
				k = 1
			}
			if all[k]++; alike(&m, c.Code, codes[i]) {
				right[k]++
			}
		}
	}
	share := func(k int) float64 { return float64(right[k]) / float64(max(1, all[k])) }
	t.Logf("right of %v cells: %.3f less than half sure, %.3f up to 0.9, %.3f more", all, share(0), share(1), share(2))
	if all[2] < 100 || share(2) < 0.9 || share(0) > share(1) || share(1) > share(2) {
		t.Errorf("of %v cells %.3f, %.3f and %.3f are right; expected more the surer they are, and 0.9 where 0.9 is said", all, share(0), share(1), share(2))
	}
}

// TestSomethingElse finds no glass in pictures of something else.
func TestSomethingElse(t *testing.T) {
	r := rand.New(rand.NewPCG(26, 4))
	segments := []string{"1110111", "0010010", "1011101", "1011011", "0111010", "1101011", "1101111", "1010010", "1111111", "1111011"} // of the digits: top, upper left, upper right, middle, lower left, lower right, low
	watch := func(n int) func(x, y float64) float64 {
		digits := make([]int, n)
		for i := range digits {
			digits[i] = r.IntN(10)
		}
		return func(x, y float64) float64 {
			x, y = x-100, y-120
			pitch := 600 / float64(n)
			digit := int(math.Floor(x / pitch))
			switch {
			case x < -20 || x > 620 || y < -20 || y > 180:
				return 0.15
			case digit < 0 || digit >= n:
				return 0.7
			}
			u, v := (x-float64(digit)*pitch)/pitch*1.3, y/160
			for k, box := range [][4]float64{{0.1, 0.9, 0, 0.1}, {0, 0.12, 0.05, 0.47}, {0.88, 1, 0.05, 0.47}, {0.1, 0.9, 0.45, 0.55}, {0, 0.12, 0.53, 0.95}, {0.88, 1, 0.53, 0.95}, {0.1, 0.9, 0.9, 1}} {
				if segments[digits[digit]][k] == '1' && u > box[0] && u < box[1] && v > box[2] && v < box[3] {
					return 0.15
				}
			}
			return 0.7
		}
	}
	others := map[string]func(x, y float64) float64{
		"a table top": func(x, y float64) float64 {
			return 0.5 + 0.15*math.Sin(y/9+3*math.Sin(x/140)) + 0.08*math.Sin(y/3+math.Sin(x/40))
		},
		"a face": func(x, y float64) float64 {
			x, y = x-400, y-250
			switch {
			case math.Hypot((math.Abs(x)-70)/1.6, y+50) < 22:
				return 0.2
			case math.Abs(x) < 70 && math.Abs(y-100-x*x/400) < 10:
				return 0.3
			case math.Hypot(x/0.75, y) < 220:
				return 0.75
			}
			return 0.4
		},
		"a watch of 4 digits": watch(4), "a watch of 6 digits": watch(6), "a watch of 8 digits": watch(8), "another of 8 digits": watch(8), "another of 6 digits": watch(6),
		"bricks": func(x, y float64) float64 {
			x += 45 * math.Mod(math.Floor(y/40), 2)
			if math.Mod(x, 90) < 6 || math.Mod(y, 40) < 6 {
				return 0.8
			}
			return 0.4
		},
		"noise": func(x, y float64) float64 { return r.Float64() },
	}
	for _, name := range slices.Sorted(maps.Keys(others)) {
		value, g := others[name], &Grey{W: 800, H: 500, Pix: make([]float32, 800*500)}
		for i := range g.Pix {
			g.Pix[i] = float32(math.Max(0, math.Min(1, value(float64(i%800), float64(i/800))+0.02*r.NormFloat64())))
		}
		for _, geometry := range []string{"8x1", "16x2"} {
			m := moduleOf(t, geometry, "A00")
			if got, err := Read(g, nil, &m, nil); !errors.Is(err, ErrNoGlass) {
				t.Errorf("%s is read as a %s: %v, %v", name, geometry, got.Text(&m), err)
			}
		}
	}
}

// TestUnreadable says of a glass with nothing on it that it is blank, and refuses corners that span nothing, and cells that are
// too small.
func TestUnreadable(t *testing.T) {
	m := moduleOf(t, "16x2", "A00")
	r := rand.New(rand.NewPCG(26, 2))
	g, corners := someShot(r, &m, bytes.Repeat([]byte{' '}, m.Geometry.Cells()), 24, 25, 90)
	if got, err := Read(g, &corners, &m, nil); err != nil || !got.Blank {
		t.Errorf("a glass without a dot is not said to be blank (%v)", err)
	}
	if got, err := Read(g, nil, &m, nil); err != nil || !got.Blank {
		t.Errorf("a glass without a dot is not found, and said to be blank (%v)", err)
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

// faulty are the looks of glasses with a fault, or with nothing on them.
type faulty struct {
	code string // of the finding
	dots func(cell, row, col int) bool
}

// TestBlocks finds glasses by themselves all of whose cells are solid, or those of the first row, and says so.
func TestBlocks(t *testing.T) {
	for _, c := range []struct {
		geometry string
		seed     uint64
		all      bool
	}{{"16x2", 0, false}, {"20x2", 2, false}, {"16x2", 7, true}, {"20x4", 1, true}} {
		r := rand.New(rand.NewPCG(c.seed, 5))
		m := moduleOf(t, c.geometry, "A00")
		shot := phototest.Some(r, m.Geometry.Cols, m.Geometry.Rows, 8, 16+20*r.Float64(), 25, func(cell, _, _ int) bool { return c.all || cell < m.Geometry.Cols })
		g, _ := kept(shot.Take(), 80)
		got, err := Read(g, nil, &m, nil)
		if err != nil {
			t.Errorf("%s, all of them %v: %v", c.geometry, c.all, err)
			continue
		}
		if f := got.Findings(&m); len(f) == 0 || f[0].Code != "photo.blocks" {
			t.Errorf("%s, all of them %v: %v, %q", c.geometry, c.all, f, got.Text(&m))
		}
	}
}

// TestFindings names what is wrong with a glass: nothing on it, blocks, a dark half, a column and a line of dots that are missing.
func TestFindings(t *testing.T) {
	m := moduleOf(t, "16x2", "A00")
	text := func(s string) func(cell, row, col int) bool {
		return func(cell, row, col int) bool { return glyph.Of(m.ROM.Dots(s[cell])).Lit(row, col) }
	}
	const composed = "Quillfish TIDE 8Oars back: 3 of9"
	const cursor = 20
	full := text(composed)
	list := []faulty{
		{"photo.blank", func(cell, row, col int) bool { return false }},
		{"photo.blocks", func(cell, row, col int) bool { return cell < 16 }},
		{"photo.half", text("Quillfish TIDE 8                ")},
		{"photo.missing-row", func(cell, row, col int) bool { return full(cell, row, col) && (cell >= 16 || row != 3) }},
		{"photo.missing-column", func(cell, row, col int) bool { return full(cell, row, col) && (cell%16 != 0 || col != 0) }},
		{"photo.half-cells", func(cell, row, col int) bool { return full(cell, row, col) && row < 4 }},
		{"photo.half-cells", func(cell, row, col int) bool { return full(cell, row, col) && row >= 4 }},
		{"photo.shaded", full},
		{"photo.faint", full},
		{"", func(cell, row, col int) bool { return full(cell, row, col) || cell == cursor && row == 7 }},
		{"", full},
	}
	for i, f := range list {
		r := rand.New(rand.NewPCG(27, uint64(i)))
		shot := phototest.Some(r, 16, 2, 8, 26, 15, f.dots)
		switch f.code {
		case "photo.shaded":
			shot.Off = 0.6
		case "photo.faint":
			shot.On, shot.Noise = 0.92*shot.Ground, 0.004
		}
		g, corners := kept(shot.Take(), 85)
		got, err := Read(g, &corners, &m, nil)
		if err != nil {
			t.Fatal(f.code, err)
		}
		var codes []string
		for _, f := range append(got.Findings(&m), got.Differences(&m, nil, []byte(composed))...) {
			codes = append(codes, f.Code)
		}
		if line := f.dots(cursor, 7, 0); line != got.Cells[cursor].Line && f.code == "" {
			t.Errorf("the cursor's line is seen: %v; expected %v", got.Cells[cursor].Line, line)
		}
		if f.code == "" && len(codes) > 0 || f.code != "" && !slices.Contains(codes, f.code) {
			t.Errorf("%q is found as %v: %q", f.code, codes, got.Text(&m))
		}
	}
}

// TestColours tells the colours of glasses by those of the page's, and holds them against what a module is said to have; and tells a glass that is
// darker than the table by far.
func TestColours(t *testing.T) {
	m := moduleOf(t, "16x2", "A00")
	codes := []byte("Quillfish TIDE 8Oars back: 3 of9")
	for _, c := range []struct {
		name    string
		r, g, b uint8
		ground  float64
		says    []string // to one that has a blue glass
	}{
		{"green", 0xb3, 0xc6, 0x3f, 0.6, []string{"photo.colour"}}, {"amber", 0xf0, 0xa1, 0x3a, 0.6, []string{"photo.colour"}}, {"blue", 0x1f, 0x4f, 0xc4, 0.6, nil},
		{"teal", 0x6c, 0xf5, 0xd4, 0.6, []string{"photo.colour"}}, {"grey", 0xd3, 0xda, 0xd2, 0.6, []string{"photo.colour"}}, {"", 0x77, 0x81, 0x5a, 0.18, []string{"photo.unlit"}},
	} {
		shot := phototest.Some(rand.New(rand.NewPCG(30, 3)), 16, 2, 8, 26, 15, func(cell, row, col int) bool {
			return glyph.Of(m.ROM.Dots(codes[cell])).Lit(row, col)
		})
		shot.Wide, shot.Frame.Table, shot.Ground, shot.On = 6, 0.8, c.ground, c.ground/4
		g, corners := kept(shot.Take(), 85)
		y, cb, cr := color.RGBToYCbCr(c.r, c.g, c.b)
		part := float32(c.ground) / (float32(y) / 255) // of that light
		g.Chroma = &Chroma{W: 1, H: 1, Cb: []float32{(float32(cb)/255 - 0.5) * part}, Cr: []float32{(float32(cr)/255 - 0.5) * part}}
		got, err := Read(g, &corners, &m, nil)
		if err != nil {
			t.Fatal(err)
		}
		var says []string
		for _, f := range got.Colours("blue") {
			says = append(says, f.Code)
		}
		if got.Colour != c.name || !slices.Equal(says, c.says) {
			t.Errorf("a glass that is %q, of brightness %v, is %q and said to be %v; expected %v", c.name, c.ground, got.Colour, says, c.says)
		}
		g.Chroma = nil
		if got, err := Read(g, &corners, &m, nil); err != nil || got.Colour != "" {
			t.Errorf("a photograph without colours shows one: %q, %v", got.Colour, err)
		}
	}
}
