package photofile

import (
	"bytes"
	"image"
	"image/jpeg"
	"math/rand/v2"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/photo"
	"slatebell/core/prove/photo/phototest"
	"slatebell/core/text/glyph"
)

// BenchmarkPhotograph decodes a photograph of 12 megapixels, and reads the glass of 20 × 4 cells that lies somewhere in it.
func BenchmarkPhotograph(b *testing.B) {
	display := bench.NewModule("hall", "Hall").Display
	display.Geometry = "20x4"
	m, err := display.Module()
	if err != nil {
		b.Fatal(err)
	}
	const text = "Tide 3.2 m rising   Wind SW 4, gusts 6  Boats out: 7 of 12High 14:05  Low 20:31"
	p := phototest.Some(rand.New(rand.NewPCG(29, 1)), 20, 4, 8, 60, 20, func(cell, row, col int) bool {
		return cell < len(text) && glyph.Of(m.ROM.Dots(text[cell])).Lit(row, col)
	}).Take()
	img := image.NewGray(image.Rect(0, 0, 4000, 3000))
	for i := range img.Pix {
		img.Pix[i] = uint8(90 + i%4000/100 + i/4000/60)
	}
	for y := range p.H {
		copy(img.Pix[(900+y)*4000+1200:], p.Pix[y*p.W:(y+1)*p.W])
	}
	var file bytes.Buffer
	jpeg.Encode(&file, img, &jpeg.Options{Quality: 85})
	b.ReportAllocs()
	for b.Loop() {
		g, err := Read(file.Bytes())
		if err != nil {
			b.Fatal(err)
		}
		r, err := photo.Read(g, nil, &m, nil)
		if err != nil {
			b.Fatal(err)
		}
		if rows := r.Text(&m); rows[0] != "Tide 3.2 m rising" {
			b.Fatalf("%q", rows)
		}
	}
}
