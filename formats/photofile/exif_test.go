package photofile

import (
	"bytes"
	"encoding/binary"
	"hash/crc32"
	"image/jpeg"
	"image/png"
	"math/rand/v2"
	"testing"

	"github.com/bep/imagemeta"
)

// written is a picture in which a camera wrote some tags, of which it may be that none says how it was held.
func written(r *rand.Rand, kind string, order binary.AppendByteOrder) []byte {
	mark := map[binary.AppendByteOrder]string{binary.BigEndian: "MM", binary.LittleEndian: "II"}[order]
	first := 8 + 2*r.IntN(3)
	tiff := order.AppendUint32(order.AppendUint16([]byte(mark), 42), uint32(first))
	tiff = append(tiff, make([]byte, first-len(tiff))...)
	tags := []uint16{0x0100, 0x0112, 0x0128}[r.IntN(2):][:1+r.IntN(2)]
	tiff = order.AppendUint16(tiff, uint16(len(tags)))
	for _, tag := range tags {
		tiff = order.AppendUint32(order.AppendUint16(order.AppendUint16(tiff, tag), 3), 1)
		tiff = order.AppendUint16(order.AppendUint16(tiff, uint16(r.IntN(10))), 0)
	}
	tiff = append(tiff, 0, 0, 0, 0)
	var file bytes.Buffer
	if kind == "png" {
		png.Encode(&file, sketch())
		begin := 8 + 12 + 13 // signature and header
		chunk := append([]byte("eXIf"), tiff...)
		out := binary.BigEndian.AppendUint32(bytes.Clone(file.Bytes()[:begin]), uint32(len(tiff)))
		out = binary.BigEndian.AppendUint32(append(out, chunk...), crc32.ChecksumIEEE(chunk))
		return append(out, file.Bytes()[begin:]...)
	}
	jpeg.Encode(&file, sketch(), nil)
	segment := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte("\xff\xd8"), "\xff\xfe\x00\x06tide"...) // a comment goes before
	out = binary.BigEndian.AppendUint16(append(out, 0xFF, 0xE1), uint16(len(segment)+2))
	return append(append(out, segment...), file.Bytes()[2:]...)
}

// TestOrientation reads how cameras were held from files by chance, of both kinds and both orders of bytes, as a general library does; of a file that is
// cut off somewhere it reads that, or nothing.
func TestOrientation(t *testing.T) {
	r := rand.New(rand.NewPCG(2, 32))
	seen := map[int]int{}
	for range 400 {
		for kind, format := range map[string]imagemeta.ImageFormat{"jpeg": imagemeta.JPEG, "png": imagemeta.PNG} {
			for _, order := range []binary.AppendByteOrder{binary.BigEndian, binary.LittleEndian} {
				data := written(r, kind, order)
				want := 1
				_, err := imagemeta.Decode(imagemeta.Options{R: bytes.NewReader(data), ImageFormat: format, Sources: imagemeta.EXIF, HandleTag: func(tag imagemeta.TagInfo) error {
					if v, ok := tag.Value.(uint16); ok && tag.Tag == "Orientation" && v >= 1 && v <= 8 {
						want = int(v)
					}
					return nil
				}})
				if err != nil {
					t.Fatal(err)
				}
				if got := orientation(data); got != want {
					t.Fatalf("%s, %v: held as %d, want %d: %x", kind, order, got, want, data[:120])
				}
				seen[want]++
				if cut := orientation(data[:len("\x89PNG\r\n\x1a\n")+r.IntN(100)]); cut != 1 && cut != want {
					t.Errorf("%s, %v: cut off it is held as %d, otherwise as %d", kind, order, cut, want)
				}
			}
		}
	}
	if len(seen) < 8 {
		t.Errorf("%d ways of holding were read: %v", len(seen), seen)
	}
}
