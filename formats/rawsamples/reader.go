// Package rawsamples reads recordings that are samples and nothing else: a byte each for eight channels, or two, the lower first, for sixteen.
package rawsamples

import (
	"bufio"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"slatebell/core/prove/capture"
)

// MaxRate is the highest rate of samples, in hertz: a sample a nanosecond.
const MaxRate = 1_000_000_000

// Reader reads samples as a recording, whose channels are called D0 and on. Use NewReader.
type Reader struct {
	in       *bufio.Reader
	names    []string
	unit     int
	rate     float64
	sample   int64
	last     uint64
	returned bool
	buffer   []byte
	left     []byte
}

// NewReader reads samples of so many bytes, 1 to 8, at a rate in hertz; names are those of the channels, nil for D0 and on.
func NewReader(r io.Reader, unit int, rate float64, names []string) (*Reader, error) {
	if rate <= 0 || rate > MaxRate {
		return nil, fmt.Errorf("a rate of %g Hz; expected one of more than 0, and at most %d", rate, MaxRate)
	}
	if unit < 1 || unit > 8 {
		return nil, fmt.Errorf("samples of %d bytes; expected 1 to 8", unit)
	}
	for i := len(names); i < 8*unit; i++ {
		names = append(names, "D"+strconv.Itoa(i))
	}
	return &Reader{in: bufio.NewReaderSize(r, 1<<20), names: names[:min(len(names), 8*unit)], unit: unit, rate: rate, buffer: make([]byte, unit<<16)}, nil
}

// Channels are the names of the channels.
func (s *Reader) Channels() []string { return s.names }

// Step is how far apart samples are.
func (s *Reader) Step() time.Duration { return max(1, time.Duration(1e9/s.rate)) }

// Next returns the next sample that differs from the one before; and the last one, for its time.
func (s *Reader) Next() (c capture.Change, err error) {
	for {
		for len(s.left) >= s.unit {
			var v uint64
			for i := s.unit - 1; i >= 0; i-- {
				v = v<<8 | uint64(s.left[i])
			}
			s.left = s.left[s.unit:]
			s.sample++
			if v != s.last || !s.returned {
				s.last, s.returned = v, true
				return capture.Change{At: s.at(s.sample - 1), Levels: v}, nil
			}
		}
		if len(s.left) > 0 { // the file was cut within a sample
			return c, io.EOF
		}
		n, err := io.ReadFull(s.in, s.buffer)
		if n == 0 || err != nil && err != io.EOF && err != io.ErrUnexpectedEOF {
			if err == nil || err == io.ErrUnexpectedEOF {
				err = io.EOF
			}
			return c, err
		}
		s.left = s.buffer[:n]
	}
}

// at is the time of a sample.
func (s *Reader) at(sample int64) time.Duration { return time.Duration(float64(sample) * 1e9 / s.rate) }

// Rate reads one such as "1 MHz", in hertz.
func Rate(text string) (float64, error) {
	value, unit := strings.TrimSpace(text), ""
	if i := strings.IndexFunc(value, func(r rune) bool { return r != '.' && (r < '0' || r > '9') }); i >= 0 {
		value, unit = value[:i], strings.TrimSpace(value[i:])
	}
	by, known := map[string]float64{"": 1, "hz": 1, "khz": 1e3, "mhz": 1e6, "ghz": 1e9, "k": 1e3, "m": 1e6, "g": 1e9}[strings.ToLower(unit)]
	v, err := strconv.ParseFloat(value, 64)
	if err != nil || !known || v <= 0 {
		return 0, fmt.Errorf("a rate of %q; expected one such as 1000000, 24 MHz or 500k", text)
	}
	return v * by, nil
}
