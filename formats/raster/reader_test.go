package raster

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"math/rand/v2"
	"os/exec"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/text/picture"
	"slatebell/formats/pbm"
)

func encoded(t *testing.T, img image.Image) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// TestRead reads pictures of a block's very size dot by dot, as PNG with and
// without transparency and as PBM, inverted and not.
func TestRead(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 11))
	block := picture.Block{Cols: 4, Rows: 2, Gaps: true}
	w, h := block.Size()
	want := picture.NewPlane(w, h)
	clear := image.NewNRGBA(image.Rect(0, 0, w, h)) // dark dots are transparent
	solid := image.NewGray(image.Rect(0, 0, w, h))
	for i := range want.Lit {
		want.Lit[i] = rng.IntN(2) == 0
		solid.Pix[i] = 255
		if want.Lit[i] {
			clear.SetNRGBA(i%w, i/w, color.NRGBA{A: 255})
			solid.Pix[i] = 0
		}
	}
	var bits bytes.Buffer
	if err := pbm.WriteBits(&bits, &want); err != nil {
		t.Fatal(err)
	}
	for name, data := range map[string][]byte{"transparent": encoded(t, clear), "grey": encoded(t, solid), "PBM": bits.Bytes()} {
		for _, o := range []Options{{}, {Dither: Diffuse}, {Dither: Ordered}} {
			if got, err := Read(data, block, o); err != nil || !reflect.DeepEqual(got, want) {
				t.Errorf("%s, dither %q: another picture, %v", name, o.Dither, err)
			}
		}
		inverted := want.Inverted()
		if got, err := Read(data, block, Options{Invert: true}); err != nil || !reflect.DeepEqual(got, inverted) {
			t.Errorf("%s inverted: another picture, %v", name, err)
		}
	}
}

// TestGrey reads even greys: the threshold decides, and dithering lights as many
// dots as the grey is dark, within a twentieth.
func TestGrey(t *testing.T) {
	block := picture.Block{Cols: 16, Rows: 4}
	w, h := block.Size()
	for _, grey := range []uint8{20, 64, 128, 200} {
		img := image.NewGray(image.Rect(0, 0, 3*w, 3*h))
		for i := range img.Pix {
			img.Pix[i] = grey
		}
		for _, dither := range []Dither{Diffuse, Ordered} {
			p, err := Read(encoded(t, img), block, Options{Dither: dither})
			if err != nil {
				t.Fatal(err)
			}
			lit := 0
			for _, l := range p.Lit {
				if l {
					lit++
				}
			}
			if share := float64(lit) / float64(w*h); share < 1-float64(grey)/255-0.05 || share > 1-float64(grey)/255+0.05 {
				t.Errorf("grey %d by %s lights %.2f of the dots", grey, dither, share)
			}
		}
		p, err := Read(encoded(t, img), block, Options{Threshold: 100})
		if err != nil || p.At(5, 5) != (grey < 100) || p.At(0, 0) != p.At(w-1, h-1) {
			t.Errorf("grey %d with the threshold at 100: lit %v, %v", grey, p.At(5, 5), err)
		}
	}
}

// TestFit makes a square fit a wide block: it stands in the middle, as high as the
// block, and nothing else is lit.
func TestFit(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 64, 64)) // black
	p, err := Read(encoded(t, img), picture.Block{Cols: 8, Rows: 2}, Options{})
	if err != nil {
		t.Fatal(err)
	}
	for y := range p.H {
		for x := range p.W {
			if in := x >= 12 && x < 28; p.At(x, y) != in {
				t.Fatalf("dot %d, %d is lit: %v", x, y, p.At(x, y))
			}
		}
	}
}

// TestNetpbm reads a PNG that netpbm (Debian's package) wrote of a bitmap of ours.
func TestNetpbm(t *testing.T) {
	if _, err := exec.LookPath("pnmtopng"); err != nil {
		t.Skip("netpbm is not installed: run make test")
	}
	rng := rand.New(rand.NewPCG(9, 12))
	block := picture.Block{Cols: 3, Rows: 2}
	want := picture.NewPlane(block.Size())
	for i := range want.Lit {
		want.Lit[i] = rng.IntN(3) == 0
	}
	var b bytes.Buffer
	if err := pbm.Write(&b, &want); err != nil {
		t.Fatal(err)
	}
	c := exec.Command("pnmtopng")
	c.Stdin = &b
	data, err := c.Output()
	if err != nil {
		t.Fatal(err)
	}
	if got, err := Read(data, block, Options{}); err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("the PNG shows another picture: %v", err)
	}
}

// TestRefused says what is wrong with what cannot be read.
func TestRefused(t *testing.T) {
	one := picture.Block{Cols: 1, Rows: 1}
	small := encoded(t, image.NewGray(image.Rect(0, 0, 5, 8)))
	for what, c := range map[string]struct {
		data  []byte
		block picture.Block
		o     Options
	}{
		"neither a PNG nor a PBM": {[]byte("GIF89a"), one, Options{}},
		"unexpected EOF":          {small[:40], one, Options{}},
		"a block of 0 × 1":        {small, picture.Block{Rows: 1}, Options{}},
		"threshold 300":           {small, one, Options{Threshold: 300}},
		`dither "dots"`:           {small, one, Options{Dither: "dots"}},
		"5000 × 5000 pixels":      {encoded(t, image.NewPaletted(image.Rect(0, 0, 5000, 5000), color.Palette{color.Black})), one, Options{}},
		"no width":                {[]byte("P1 x"), one, Options{}},
		"at most 4 MiB":           {make([]byte, MaxBytes+1), one, Options{}},
	} {
		if _, err := Read(c.data, c.block, c.o); err == nil || !strings.Contains(err.Error(), what) {
			t.Errorf("%v, want %q", err, what)
		}
	}
}

// FuzzRead reads pictures that are none: what is read has the block's size, and what is not is told.
func FuzzRead(f *testing.F) {
	img := image.NewNRGBA(image.Rect(0, 0, 11, 9))
	img.SetNRGBA(3, 3, color.NRGBA{A: 255})
	var b bytes.Buffer
	png.Encode(&b, img)
	f.Add(b.Bytes(), "", false)
	f.Add([]byte("P1 3 2 010 101"), string(Diffuse), true)
	f.Add([]byte("P4\n8 1\n\xAA"), string(Ordered), false)
	f.Fuzz(func(t *testing.T, data []byte, dither string, invert bool) {
		block := picture.Block{Cols: 2, Rows: 1}
		w, h := block.Size()
		if got, err := Read(data, block, Options{Dither: Dither(dither), Invert: invert}); err == nil && (got.W != w || got.H != h || len(got.Lit) != w*h) {
			t.Errorf("a picture of %d × %d with %d dots, want %d × %d", got.W, got.H, len(got.Lit), w, h)
		}
	})
}
