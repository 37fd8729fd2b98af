package photofile

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"math"
	"strings"
	"testing"
)

// sketch is a picture of 16 × 8 pixels whose upper left quarter is black and whose lower right one is grey.
func sketch() *image.RGBA {
	img := image.NewRGBA(image.Rect(0, 0, 16, 8))
	for i := range 16 * 8 {
		x, y := i%16, i/16
		v := color.RGBA{255, 255, 255, 255}
		switch {
		case x < 8 && y < 4:
			v = color.RGBA{0, 0, 0, 255}
		case x >= 8 && y >= 4:
			v = color.RGBA{120, 120, 120, 255}
		}
		img.Set(x, y, v)
	}
	return img
}

// held is a JPEG file that says how the camera was held: an APP1 segment with a TIFF of one tag (Exif 2.32, §4.5 and §4.6.4, from memory).
func held(orientation uint16) []byte {
	var file bytes.Buffer
	jpeg.Encode(&file, sketch(), &jpeg.Options{Quality: 95})
	tiff := []byte("MM\x00\x2a\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01")
	tiff = binary.BigEndian.AppendUint16(tiff, orientation)
	tiff = append(tiff, 0, 0, 0, 0, 0, 0)
	segment := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{}, file.Bytes()[:2]...)
	out = append(out, 0xFF, 0xE1)
	out = binary.BigEndian.AppendUint16(out, uint16(len(segment)+2))
	return append(append(out, segment...), file.Bytes()[2:]...)
}

// TestTurned turns a picture as each of the eight orientations says: where its first row and its first column go to is what Exif 2.32 lists
// for the tag (from memory).
func TestTurned(t *testing.T) {
	corner := func(name string, w, h int) (x, y int) {
		if strings.Contains(name, "right") {
			x = w - 1
		}
		if strings.Contains(name, "bottom") {
			y = h - 1
		}
		return x, y
	}
	for orientation, black := range []string{1: "top left", 2: "top right", 3: "bottom right", 4: "bottom left", 5: "top left", 6: "top right", 7: "bottom right", 8: "bottom left"} {
		if orientation == 0 {
			continue
		}
		g, err := Read(held(uint16(orientation)))
		if err != nil {
			t.Fatal(err)
		}
		if on := orientation >= 5; on && (g.W != 8 || g.H != 16) || !on && (g.W != 16 || g.H != 8) {
			t.Errorf("orientation %d gives %d × %d pixels", orientation, g.W, g.H)
		}
		x, y := corner(black, g.W, g.H)
		at := func(x, y int) float64 { return float64(g.Pix[y*g.W+x]) }
		if at(x, y) > 0.1 || math.Abs(at(g.W-1-x, g.H-1-y)-120.0/255) > 0.05 || at(g.W-1-x, y) < 0.9 || at(x, g.H-1-y) < 0.9 {
			t.Errorf("orientation %d: its black quarter is not at the %s", orientation, black)
		}
	}
}

// TestChroma takes the colours of a picture along with its turn, by the colours of ITU-R BT.601: blue 0000FF has Cb 0.5 and Cr −0.081; and none of one
// that is grey all over.
func TestChroma(t *testing.T) {
	img := image.NewRGBA(image.Rect(0, 0, 16, 8))
	for i := range 16 * 8 {
		img.Set(i%16, i/16, color.Gray{120})
		if i%16 < 8 && i/16 < 4 {
			img.Set(i%16, i/16, color.RGBA{0, 0, 255, 255})
		}
	}
	for orientation, at := range [][2]int{1: {0, 0}, 2: {15, 0}, 3: {15, 7}, 4: {0, 7}, 5: {0, 0}, 6: {7, 0}, 7: {7, 15}, 8: {0, 15}} {
		if orientation == 0 {
			continue
		}
		c := chroma(img, orientation)
		k := at[1]*c.W + at[0]
		other := len(c.Cb) - 1 - k
		if math.Abs(float64(c.Cb[k])-0.5) > 0.01 || math.Abs(float64(c.Cr[k])+0.081) > 0.01 || math.Abs(float64(c.Cb[other])) > 0.01 {
			t.Errorf("turned as %d, Cb and Cr at %v are %v and %v, and %v at the other corner", orientation, at, c.Cb[k], c.Cr[k], c.Cb[other])
		}
	}
	if c := chroma(sketch(), 1); c != nil {
		t.Errorf("a picture without colours has %v", c)
	}
}

// TestPNG reads pictures with colours, of a palette, and what is transparent in one as white.
func TestPNG(t *testing.T) {
	clear := sketch()
	for i := range 8 * 16 {
		if x, y := i%16, i/16; x >= 8 && y < 4 {
			clear.Set(x, y, color.RGBA{})
		}
	}
	paletted := image.NewPaletted(image.Rect(0, 0, 16, 8), color.Palette{color.Black, color.White, color.Gray{120}})
	for i := range 8 * 16 {
		paletted.Set(i%16, i/16, sketch().At(i%16, i/16))
	}
	for _, img := range []image.Image{sketch(), clear, paletted, paletted.SubImage(image.Rect(0, 0, 16, 8))} {
		var file bytes.Buffer
		png.Encode(&file, img)
		g, err := Read(file.Bytes())
		if err != nil || g.Pix[0] != 0 || g.Pix[15] != 1 || math.Abs(float64(g.Pix[7*16+15])-120.0/255) > 0.01 {
			t.Errorf("%T: %v, %v", img, err, g)
		}
	}
}

// TestRefused refuses what is no photograph, is damaged or too large, in words that say what would be right.
func TestRefused(t *testing.T) {
	var file bytes.Buffer
	png.Encode(&file, sketch())
	large := bytes.Clone(file.Bytes())
	binary.BigEndian.PutUint32(large[16:], 10_000) // the header's width and height, and its CRC (ISO/IEC 15948, §11.2.2)
	binary.BigEndian.PutUint32(large[20:], 6_000)
	binary.BigEndian.PutUint32(large[29:], crc32.ChecksumIEEE(large[12:29]))
	for want, data := range map[string][]byte{
		"expected a JPEG or PNG": []byte("GIF89a"),
		"is damaged":             file.Bytes()[:60],
		"50 million":             large,
	} {
		if _, err := Read(data); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q says %v; expected %q in it", data[:min(8, len(data))], err, want)
		}
	}
}

// FuzzRead reads anything: within bounds, and without a panic.
func FuzzRead(f *testing.F) {
	var file bytes.Buffer
	png.Encode(&file, sketch())
	f.Add(file.Bytes())
	for _, o := range []uint16{1, 6, 9} {
		f.Add(held(o))
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		if len(data) > 1<<16 {
			return
		}
		if size, _, err := image.DecodeConfig(bytes.NewReader(data)); err == nil && size.Width*size.Height > 1<<20 {
			return // lawful, and slow
		}
		if g, err := Read(data); err == nil && len(g.Pix) != g.W*g.H {
			t.Errorf("%d values for %d × %d pixels", len(g.Pix), g.W, g.H)
		}
	})
}
