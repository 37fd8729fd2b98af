// Package samplecsv reads recordings that are comma-separated values (RFC 4180, and with semicolons or tabs): a line a sample or a change, with a
// column of time, or at a rate that is stated.
package samplecsv

import (
	"bufio"
	"fmt"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"slatebell/core/prove/capture"
	"slatebell/formats/rawsamples"
)

// Reader reads lines as a recording. Use NewReader.
type Reader struct {
	in       *bufio.Scanner
	line     int
	names    []string
	told     []string // names that a remark states
	comma    string
	timeAt   int     // the column of time; −1: there is none
	unit     float64 // of it, in nanoseconds
	step     float64 // nanoseconds from one line to the next, where there is no time
	sample   int64
	first    []string // a line that was read ahead
	base     float64  // of times, where they begin below 0: what was recorded before a trigger
	before   float64
	levels   uint64
	returned bool
	apart    float64 // two lines, as long as all are alike; 0: the first two are not read yet, −1: they differ
}

// maxLine is how long a line may be.
const maxLine = 1 << 16

// timeName is what a column of time is called, with its unit.
var timeName = regexp.MustCompile(`(?i)^\s*"?(?:time(?:stamp)?|t|zeit|temps|tiempo)\b?[\s_]*[\[(]?\s*(s|sec|seconds|ms|us|µs|μs|ns)?\s*[\])]?"?\s*$`)

// units are those of time, in nanoseconds.
var units = map[string]float64{"": 1e9, "s": 1e9, "sec": 1e9, "seconds": 1e9, "ms": 1e6, "us": 1e3, "µs": 1e3, "μs": 1e3, "ns": 1}

// NewReader reads the head of a file; rate is that of samples in hertz, for files without a column of time, 0 where nobody states one.
func NewReader(r io.Reader, rate float64) (*Reader, error) {
	c := &Reader{in: bufio.NewScanner(r), timeAt: -1, before: math.Inf(-1)}
	c.in.Buffer(make([]byte, maxLine), maxLine)
	row, err := c.row(&rate)
	if err == io.EOF {
		return nil, fmt.Errorf("the file has no line of values")
	} else if err != nil {
		return nil, err
	}
	if _, _, ok := c.values(row, -2); !ok { // names
		for i, name := range row {
			name = strings.Trim(strings.TrimSpace(name), `"`)
			if m := timeName.FindStringSubmatch(name); m != nil && c.timeAt < 0 {
				c.timeAt, c.unit = i, units[strings.ToLower(m[1])]
				continue
			}
			c.names = append(c.names, name)
		}
	} else { // no names: a first column that is no level is the time
		c.first = row
		if len(row) > 1 && !level(row[0]) {
			c.timeAt, c.unit = 0, units["s"]
		}
		for i := range row {
			if i != c.timeAt {
				c.names = append(c.names, "D"+strconv.Itoa(len(c.names)))
			}
		}
	}
	if len(c.told) == len(c.names) {
		c.names = c.told
	}
	if c.timeAt < 0 {
		if rate <= 0 {
			return nil, fmt.Errorf("line %d: no column is called time; state the rate of the samples, or name the column such as time_us or Time [s]", c.line)
		}
		c.step = 1e9 / rate
	}
	if len(c.names) == 0 || len(c.names) > capture.MaxChannels {
		return nil, fmt.Errorf("line %d: %d channels; expected 1 to %d", c.line, len(c.names), capture.MaxChannels)
	}
	return c, nil
}

// Channels are the names of the columns, without that of time.
func (c *Reader) Channels() []string { return c.names }

// Step is how far apart samples are; 0 where lines come at their own times.
func (c *Reader) Step() time.Duration {
	if c.timeAt < 0 {
		return max(1, time.Duration(c.step))
	}
	return max(0, time.Duration(c.apart+0.5))
}

// row reads the next line that is no remark; what one states is kept: names, and a rate where nobody
// stated one.
func (c *Reader) row(rate *float64) ([]string, error) {
	for c.in.Scan() {
		c.line++
		text := strings.TrimRight(strings.TrimPrefix(c.in.Text(), "\ufeff"), "\r")
		if text == "" || text[0] == ';' || text[0] == '#' {
			if _, list, ok := strings.Cut(text, "Channels ("); ok {
				_, list, _ = strings.Cut(list, "): ")
				c.told = strings.Split(list, ", ")
			}
			if _, value, ok := strings.Cut(strings.ToLower(text), "samplerate:"); ok && rate != nil && *rate <= 0 {
				if v, err := rawsamples.Rate(value); err == nil {
					*rate = v
				}
			}
			continue
		}
		if c.comma == "" {
			c.comma = ","
			for _, s := range []string{";", "\t"} {
				if strings.Contains(text, s) {
					c.comma = s
				}
			}
		}
		return strings.Split(text, c.comma), nil
	}
	if err := c.in.Err(); err != nil {
		return nil, fmt.Errorf("line %d: %w", c.line+1, err)
	}
	return nil, io.EOF
}

// level reports whether a text is a level.
func level(text string) bool {
	_, ok := levels[strings.ToLower(strings.Trim(strings.TrimSpace(text), `"`))]
	return ok
}

var levels = map[string]bool{"0": false, "1": true, "l": false, "h": true, "low": false, "high": true, "false": false, "true": true, "z": true, "0.0": false, "1.0": true}

// values takes the levels of a line, and its time where a column has it; at −2 any column that is a number may be one.
func (c *Reader) values(row []string, timeAt int) (at float64, out uint64, ok bool) {
	n := 0
	for i, text := range row {
		text = strings.ToLower(strings.Trim(strings.TrimSpace(text), `"`))
		if high, is := levels[text]; is && i != timeAt {
			if high {
				out |= 1 << n
			}
			n++
			continue
		}
		if c.comma == ";" {
			text = strings.Replace(text, ",", ".", 1)
		}
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || i != timeAt && !(timeAt == -2 && i == 0) {
			return 0, 0, false
		}
		at = v
	}
	return at, out, true
}

// Next returns the levels from the next time on at which one changes. Its error names the line.
func (c *Reader) Next() (out capture.Change, err error) {
	for {
		row := c.first
		if c.first = nil; row == nil {
			if row, err = c.row(nil); err != nil {
				return out, err
			}
		}
		want := len(c.names)
		if c.timeAt >= 0 {
			want++
		}
		at, levels, ok := c.values(row, c.timeAt)
		switch {
		case len(row) != want:
			return out, fmt.Errorf("line %d: %d values; expected %d, as in the first line", c.line, len(row), want)
		case !ok:
			return out, fmt.Errorf("line %d: %.60q; expected levels, 0 or 1, and a number for the time", c.line, strings.Join(row, c.comma))
		}
		if at *= c.unit; c.timeAt < 0 {
			at = float64(c.sample) * c.step
		}
		if c.sample == 0 {
			c.base = math.Min(0, at)
		}
		at -= c.base
		if gap := at - c.before; c.sample == 1 {
			c.apart = gap
		} else if c.sample > 1 && math.Abs(gap-c.apart) > 1 {
			c.apart = -1
		}
		c.sample++
		if at < c.before || at > 1<<62 {
			return out, fmt.Errorf("line %d: its time lies before that of the line above; expected times in their order", c.line)
		}
		if c.before = at; c.returned && levels == c.levels {
			continue
		}
		c.levels, c.returned = levels, true
		return capture.Change{At: time.Duration(at + 0.5), Levels: levels}, nil
	}
}
