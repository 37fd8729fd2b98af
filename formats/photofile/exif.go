package photofile

import (
	"bytes"
	"encoding/binary"
)

// orientation is how the camera was held, 1–8, as the tag Orientation says (Exif 2.32, 4.6.5); 1 where the file does not say, or what it says
// cannot be read. The library that reads all that cameras write would be a hundredth of the whole program.
func orientation(data []byte) int {
	tiff := exifOf(data)
	if len(tiff) < 8 {
		return 1
	}
	var order binary.ByteOrder = binary.BigEndian
	if tiff[0] == 'I' {
		order = binary.LittleEndian
	}
	const (
		entry = 12     // bytes: tag, type, count, value
		tag   = 0x0112 // Orientation
		short = 3      // a type: 16 bits
	)
	first := int64(order.Uint32(tiff[4:]))
	if first+2 > int64(len(tiff)) {
		return 1
	}
	list := tiff[first+2:]
	for n := order.Uint16(tiff[first:]); n > 0 && len(list) >= entry; n, list = n-1, list[entry:] {
		if order.Uint16(list) == tag && order.Uint16(list[2:]) == short {
			if v := int(order.Uint16(list[8:])); v >= 1 && v <= 8 {
				return v
			}
		}
	}
	return 1
}

// exifOf is the TIFF structure that a camera wrote: behind "Exif" in a segment APP1 of a JPEG, or in a chunk eXIf of a PNG; nil where there is none.
func exifOf(data []byte) []byte {
	if Type(data) == "image/png" {
		for rest := data[8:]; len(rest) >= 12; {
			n := int64(binary.BigEndian.Uint32(rest))
			if n > int64(len(rest)-12) {
				return nil
			}
			if string(rest[4:8]) == "eXIf" {
				return rest[8 : 8+n]
			}
			rest = rest[12+n:]
		}
		return nil
	}
	const (
		app1 = 0xE1
		scan = 0xDA // what follows it are no segments
	)
	for rest := data[2:]; len(rest) >= 4 && rest[0] == 0xFF && rest[1] != scan; {
		if rest[1] == 0xFF { // a marker may be filled up before
			rest = rest[1:]
			continue
		}
		n := int(binary.BigEndian.Uint16(rest[2:]))
		if n < 2 || 2+n > len(rest) {
			return nil
		}
		if body, ok := bytes.CutPrefix(rest[4:2+n], []byte("Exif\x00\x00")); ok && rest[1] == app1 {
			return body
		}
		rest = rest[2+n:]
	}
	return nil
}
