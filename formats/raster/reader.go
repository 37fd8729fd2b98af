// Package raster reads pictures, PNG (ISO/IEC 15948) and PBM, into dots over a
// block of cells.
package raster

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/png"

	"golang.org/x/image/draw"

	"slatebell/core/text/picture"
	"slatebell/formats/pbm"
)

// MaxBytes and MaxPixels bound a picture that is read.
const (
	MaxBytes  = 4 << 20
	MaxPixels = 16 << 20
)

// Dither is how grey becomes lit and dark dots.
type Dither string

// The ways.
const (
	None    Dither = ""        // by the threshold alone
	Diffuse Dither = "diffuse" // the error of a dot goes to its neighbours (Floyd and Steinberg, Proceedings of the SID 17, 1976)
	Ordered Dither = "ordered" // by a pattern of thresholds, 4 × 4 (Bayer, IEEE ICC, 1973)
)

// Options say how a picture becomes dots.
type Options struct {
	Threshold int    // grey below which a dot is lit, 1–255; 0 means 128
	Dither    Dither // with Diffuse the threshold shifts the greys
	Invert    bool   // bright dots are lit
}

// Is reports whether data is a picture that Read reads.
func Is(data []byte) bool { return isPNG(data) || pbm.Is(data) }

func isPNG(data []byte) bool { return bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")) }

// Decode reads a picture as grey levels; what is transparent is white.
func Decode(data []byte) (*image.Gray, error) {
	switch {
	case len(data) > MaxBytes:
		return nil, fmt.Errorf("%d bytes; a picture of at most %d MiB is read", len(data), MaxBytes>>20)
	case pbm.Is(data):
		p, err := pbm.Read(data)
		if err != nil {
			return nil, err
		}
		g := image.NewGray(image.Rect(0, 0, p.W, p.H))
		for i, lit := range p.Lit {
			if !lit {
				g.Pix[i] = 255
			}
		}
		return g, nil
	case !isPNG(data):
		return nil, errors.New("it is neither a PNG nor a PBM picture (P1 or P4)")
	}
	c, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	if c.Width*c.Height > MaxPixels {
		return nil, fmt.Errorf("%d × %d pixels; at most %d million are read", c.Width, c.Height, MaxPixels>>20)
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, err
	}
	g := image.NewGray(image.Rect(0, 0, c.Width, c.Height))
	draw.Draw(g, g.Rect, image.White, image.Point{}, draw.Src)
	draw.Draw(g, g.Rect, img, img.Bounds().Min, draw.Over)
	return g, nil
}

// Read reads a picture into a block: as it is where it has the block's very size,
// else made to fit, as large as it can be and in the middle.
func Read(data []byte, block picture.Block, o Options) (picture.Plane, error) {
	if err := block.Check(); err != nil {
		return picture.Plane{}, err
	}
	if err := o.check(); err != nil {
		return picture.Plane{}, err
	}
	g, err := Decode(data)
	if err != nil {
		return picture.Plane{}, err
	}
	w, h := block.Size()
	return o.dots(fitted(g, w, h)), nil
}

func (o Options) check() error {
	if o.Threshold < 0 || o.Threshold > 255 {
		return fmt.Errorf("threshold %d; expected 1–255, usually 128", o.Threshold)
	}
	if o.Dither != None && o.Dither != Diffuse && o.Dither != Ordered {
		return fmt.Errorf("dither %q; expected none, diffuse or ordered", o.Dither)
	}
	return nil
}

// fitted returns a picture made to fit a size, on white.
func fitted(g *image.Gray, w, h int) *image.Gray {
	if g.Rect.Dx() == w && g.Rect.Dy() == h {
		return g
	}
	out := image.NewGray(image.Rect(0, 0, w, h))
	draw.Draw(out, out.Rect, image.White, image.Point{}, draw.Src)
	scale := min(float64(w)/float64(g.Rect.Dx()), float64(h)/float64(g.Rect.Dy()))
	fw, fh := max(int(float64(g.Rect.Dx())*scale+0.5), 1), max(int(float64(g.Rect.Dy())*scale+0.5), 1)
	at := image.Pt((w-fw)/2, (h-fh)/2)
	draw.CatmullRom.Scale(out, image.Rectangle{at, at.Add(image.Pt(fw, fh))}, g, g.Rect, draw.Src, nil)
	return out
}

// bayer is the order in which the dots of a 4 × 4 square light up.
var bayer = [4][4]int{{0, 8, 2, 10}, {12, 4, 14, 6}, {3, 11, 1, 9}, {15, 7, 13, 5}}

// dots makes greys lit or dark.
func (o Options) dots(g *image.Gray) picture.Plane {
	threshold := o.Threshold
	if threshold == 0 {
		threshold = 128
	}
	p := picture.NewPlane(g.Rect.Dx(), g.Rect.Dy())
	if o.Dither == Diffuse {
		shifted := image.NewGray(g.Rect)
		for i, v := range g.Pix {
			shifted.Pix[i] = uint8(min(max(int(v)+128-threshold, 0), 255))
		}
		two := image.NewPaletted(g.Rect, color.Palette{color.White, color.Black})
		draw.FloydSteinberg.Draw(two, g.Rect, shifted, image.Point{})
		for i, index := range two.Pix {
			p.Lit[i] = index == 1
		}
	} else {
		for y := range p.H {
			for x := range p.W {
				at := threshold
				if o.Dither == Ordered {
					at += 16*bayer[y%4][x%4] - 120
				}
				p.Lit[y*p.W+x] = int(g.GrayAt(x, y).Y) < at
			}
		}
	}
	if o.Invert {
		return p.Inverted()
	}
	return p
}
