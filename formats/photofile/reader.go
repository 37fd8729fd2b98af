// Package photofile reads photographs, JPEG (ITU-T T.81) and PNG (ISO/IEC 15948), as grey values, turned as the camera says (Exif 2.32, tag
// Orientation). It stands before package photo, which reads the glass from them.
package photofile

import (
	"bytes"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/jpeg"
	"image/png"

	"slatebell/core/prove/photo"
)

// MaxBytes and MaxPixels bound a photograph that is read.
const (
	MaxBytes  = 64 << 20
	MaxPixels = 50_000_000
)

// Type is the media type of a photograph by its first bytes, "" where it is none that Read reads.
func Type(data []byte) string {
	switch {
	case bytes.HasPrefix(data, []byte("\x89PNG\r\n\x1a\n")):
		return "image/png"
	case bytes.HasPrefix(data, []byte("\xff\xd8\xff")):
		return "image/jpeg"
	}
	return ""
}

// Read reads a photograph. Its error says what is wrong with the file, and what would be right.
func Read(data []byte) (*photo.Grey, error) {
	kind := Type(data)
	decode, config := jpeg.Decode, jpeg.DecodeConfig
	switch {
	case kind == "":
		return nil, errors.New("this is no photograph that can be read; expected a JPEG or PNG file")
	case len(data) > MaxBytes:
		return nil, fmt.Errorf("%d MiB; a photograph of at most %d MiB is read", len(data)>>20, MaxBytes>>20)
	case kind == "image/png":
		decode, config = png.Decode, png.DecodeConfig
	}
	size, err := config(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the photograph is damaged: %w", err)
	}
	if size.Width*size.Height > MaxPixels || size.Width < 1 || size.Height < 1 {
		return nil, fmt.Errorf("%d × %d pixels; a photograph of at most %d million is read", size.Width, size.Height, MaxPixels/1_000_000)
	}
	img, err := decode(bytes.NewReader(data))
	if err != nil {
		return nil, fmt.Errorf("the photograph is damaged: %w", err)
	}
	return grey(img, orientation(data)), nil
}

// grey takes the grey values of a picture, turned upright: those of its luma where it has one. What is transparent is white.
func grey(img image.Image, orientation int) *photo.Grey {
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	g := &photo.Grey{W: w, H: h, Pix: make([]float32, w*h), Chroma: chroma(img, orientation)}
	if orientation >= 5 {
		g.W, g.H = h, w
	}
	start, across, down := turned(w, h, orientation)
	var value func(j int) []uint8 // of a row
	switch img := img.(type) {
	case *image.YCbCr:
		value = func(j int) []uint8 { return img.Y[j*img.YStride : j*img.YStride+w] }
	case *image.Gray:
		value = func(j int) []uint8 { return img.Pix[j*img.Stride : j*img.Stride+w] }
	default:
		strip := image.NewGray(image.Rect(0, 0, w, 1))
		over := image.NewRGBA(strip.Bounds())
		line := strip.Pix
		value = func(j int) []uint8 {
			draw.Draw(over, over.Bounds(), image.White, image.Point{}, draw.Src)
			draw.Draw(over, over.Bounds(), img, image.Pt(b.Min.X, b.Min.Y+j), draw.Over)
			for i := range line {
				line[i] = color.GrayModel.Convert(over.RGBAAt(i, 0)).(color.Gray).Y
			}
			return line
		}
	}
	for j := range h {
		to := start + j*down
		for i, v := range value(j) {
			g.Pix[to+i*across] = float32(v) / 255
		}
	}
	return g
}

// turned is where a pixel of the file at column i and row j goes: to start + i·across + j·down.
func turned(w, h, orientation int) (start, across, down int) {
	switch orientation {
	case 2: // mirrored
		return w - 1, -1, w
	case 3: // upside down
		return w*h - 1, -1, -w
	case 4:
		return (h - 1) * w, 1, -w
	case 5: // mirrored and on its side
		return 0, h, 1
	case 6: // to be turned clockwise
		return h - 1, h, -1
	case 7:
		return w*h - 1, -h, -1
	case 8:
		return (w - 1) * h, -h, 1
	}
	return 0, 1, w
}
