// Package recording opens a recording of any format that is read: a value change dump, a zipped session, comma-separated values, a list of
// decoded bytes, or samples and nothing else. Which it is, its first bytes say.
package recording

import (
	"bytes"
	"errors"
	"fmt"
	"io"

	"slatebell/core/prove/capture"
	"slatebell/formats/i2ctext"
	"slatebell/formats/rawsamples"
	"slatebell/formats/samplecsv"
	"slatebell/formats/sessionzip"
	"slatebell/formats/vcd"
)

// Options are what some formats leave open.
type Options struct {
	Rate     float64 // of samples, in hertz; 0: nobody states one
	Channels int     // of samples and nothing else: 8 or 16; 0: 8
}

// headBytes is how much is looked at to tell a format.
const headBytes = 4096

// Open begins to read a file of so many bytes. Its error says what was wrong with it, and what would be right.
func Open(r io.ReaderAt, size int64, o Options) (capture.Source, error) {
	head := make([]byte, min(size, headBytes))
	if _, err := r.ReadAt(head, 0); err != nil && err != io.EOF {
		return nil, fmt.Errorf("the recording cannot be read: %w", err)
	}
	all := io.NewSectionReader(r, 0, size)
	text := bytes.TrimLeft(bytes.TrimPrefix(head, []byte("\ufeff")), " \t\r\n")
	switch {
	case size == 0:
		return nil, errors.New("the file is empty; expected a recording")
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return sessionzip.NewReader(r, size)
	case bytes.HasPrefix(text, []byte("$")):
		return vcd.NewReader(all)
	case isText(head) && i2ctext.Looks(head):
		return i2ctext.NewReader(all), nil
	case isText(head):
		return samplecsv.NewReader(all, o.Rate)
	}
	if o.Rate <= 0 {
		return nil, errors.New("the file is neither a value change dump, a session nor text; for samples and nothing else, state their rate")
	}
	unit := 1
	switch o.Channels {
	case 0, 8:
	case 16:
		unit = 2
	default:
		return nil, fmt.Errorf("samples of %d channels; expected 8 or 16", o.Channels)
	}
	return rawsamples.NewReader(all, unit, o.Rate, nil)
}

// isText reports whether the beginning of a file is text of more than one value: no control characters but those that part lines and columns.
func isText(head []byte) bool {
	parts := false
	for _, b := range head {
		switch {
		case b == '\n' || b == ',' || b == ';' || b == '\t':
			parts = true
		case b < ' ' && b != '\r':
			return false
		}
	}
	return parts
}
