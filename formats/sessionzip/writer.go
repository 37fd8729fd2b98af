package sessionzip

import (
	"archive/zip"
	"bufio"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"slatebell/core/prove/capture"
)

// UsualRate is that of samples where the recording does not lie coarser, in hertz (common practice: what an analyser for little money takes).
const UsualRate = 24_000_000

// MaxSamples bounds what a session is written of.
const MaxSamples = 2_000_000_000

// chunkBytes is how much one chunk of samples holds, as the tools write them.
const chunkBytes = 4 << 20

// Write writes a recording as a zipped session, sampled at a rate in hertz, or at that of the recording where its own samples lie further apart. Its
// error says where a recording has too many samples.
func Write(w io.Writer, s capture.Source, rate int) error {
	if stepped, ok := s.(capture.Stepped); ok {
		if step := stepped.Step(); step > time.Second/time.Duration(rate) {
			rate = int(time.Second / step)
		}
	}
	names := s.Channels()
	unit := (len(names) + 7) / 8
	z := zip.NewWriter(w)
	put := func(name, text string) error {
		f, err := z.Create(name)
		if err == nil {
			_, err = io.WriteString(f, text)
		}
		return err
	}
	if err := put("version", "2"); err != nil {
		return err
	}
	var about strings.Builder
	fmt.Fprintf(&about, "[device 1]\ncapturefile=logic-1\ntotal probes=%d\nsamplerate=%s\ntotal analog=0\n", len(names), rateOf(rate))
	for i, name := range names {
		if name == "" {
			name = "D" + strconv.Itoa(i)
		}
		fmt.Fprintf(&about, "probe%d=%s\n", i+1, strings.NewReplacer("\n", " ", "=", " ").Replace(name))
	}
	fmt.Fprintf(&about, "unitsize=%d\n", unit)
	if err := put("metadata", about.String()); err != nil {
		return err
	}
	chunks := &chunked{zip: z}
	if err := samples(chunks, s, unit, rate); err != nil {
		return err
	}
	return z.Close()
}

// rateOf writes a rate with its unit.
func rateOf(hz int) string {
	switch {
	case hz%1_000_000 == 0:
		return fmt.Sprintf("%d MHz", hz/1_000_000)
	case hz%1_000 == 0:
		return fmt.Sprintf("%d kHz", hz/1_000)
	}
	return fmt.Sprintf("%d Hz", hz)
}

// samples writes each sample as so many bytes, the lowest first.
func samples(w io.Writer, s capture.Source, unit, rate int) error {
	out := bufio.NewWriterSize(w, 1<<16)
	at := func(t time.Duration) int64 { // the first sample that sees what stands from a time on
		whole, rest := int64(t/time.Second), int64(t%time.Second)
		return whole*int64(rate) + (rest*int64(rate)+int64(time.Second)-1)/int64(time.Second)
	}
	written := int64(0)
	last, begun := uint64(0), false
	until := func(n int64) error {
		for ; written < n; written++ {
			for i := range unit {
				if err := out.WriteByte(byte(last >> (8 * i))); err != nil {
					return err
				}
			}
		}
		return nil
	}
	for {
		c, err := s.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			return err
		}
		n := at(c.At)
		if n > MaxSamples {
			return fmt.Errorf("a session of more than %d samples; write it as a value change dump, or sample it at a lower rate", MaxSamples)
		}
		if !begun { // what stood before is what it begins with
			last = c.Levels
		}
		if err := until(n); err != nil {
			return err
		}
		last, begun = c.Levels, true
	}
	if begun {
		if err := until(written + 1); err != nil {
			return err
		}
	}
	return out.Flush()
}

// chunked writes into one file of a ZIP after the other.
type chunked struct {
	zip *zip.Writer
	now io.Writer
	n   int // of the file that is written
	len int
}

func (c *chunked) Write(p []byte) (written int, err error) {
	for len(p) > 0 {
		if c.now == nil || c.len == chunkBytes {
			c.n++
			if c.now, err = c.zip.Create("logic-1-" + strconv.Itoa(c.n)); err != nil {
				return written, err
			}
			c.len = 0
		}
		n, err := c.now.Write(p[:min(len(p), chunkBytes-c.len)])
		written, c.len = written+n, c.len+n
		if err != nil {
			return written, err
		}
		p = p[n:]
	}
	return written, nil
}
