package photofile

import (
	"image"
	"image/color"

	"slatebell/core/prove/photo"
)

// chromaSide is how many places of a picture's longer side have a colour of their own, and chromaSamples from how many pixels across and down each
// is taken.
const chromaSide, chromaSamples = 320, 4

// coloured is from how far from grey a picture has colours, of −0.5 to 0.5 (ours).
const coloured = 0.02

// chroma takes the colours of a picture, turned upright; nil where it has none.
func chroma(img image.Image, orientation int) *photo.Chroma {
	if img.ColorModel() == color.GrayModel || img.ColorModel() == color.Gray16Model {
		return nil
	}
	at := func(x, y int) (cb, cr uint8) {
		r, g, b, _ := img.At(x, y).RGBA()
		_, cb, cr = color.RGBToYCbCr(uint8(r>>8), uint8(g>>8), uint8(b>>8))
		return cb, cr
	}
	if img, ok := img.(*image.YCbCr); ok {
		at = func(x, y int) (cb, cr uint8) { i := img.COffset(x, y); return img.Cb[i], img.Cr[i] }
	}
	b := img.Bounds()
	by := max(1, float64(max(b.Dx(), b.Dy()))/chromaSide)
	w, h := max(1, int(float64(b.Dx())/by)), max(1, int(float64(b.Dy())/by))
	c := &photo.Chroma{W: w, H: h, Cb: make([]float32, w*h), Cr: make([]float32, w*h)}
	if orientation >= 5 {
		c.W, c.H = h, w
	}
	start, across, down := turned(w, h, orientation)
	most := float32(0)
	for j := range h {
		for i := range w {
			var cb, cr float32
			for k := range chromaSamples * chromaSamples {
				x := b.Min.X + min(b.Dx()-1, int((float64(i)+(float64(k%chromaSamples)+0.5)/chromaSamples)*by))
				y := b.Min.Y + min(b.Dy()-1, int((float64(j)+(float64(k/chromaSamples)+0.5)/chromaSamples)*by))
				one, other := at(x, y)
				cb, cr = cb+float32(one), cr+float32(other)
			}
			const each = chromaSamples * chromaSamples * 255
			to := start + i*across + j*down
			c.Cb[to], c.Cr[to] = cb/each-128.0/255, cr/each-128.0/255
			most = max(most, c.Cb[to], -c.Cb[to], c.Cr[to], -c.Cr[to])
		}
	}
	if most < coloured {
		return nil
	}
	return c
}
