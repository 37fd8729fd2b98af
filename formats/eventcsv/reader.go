// Package eventcsv reads what happens to a show's inputs: comma-separated values, RFC 4180,
// of a time in milliseconds, an input and a value. The value of a serial line is the text
// that begins to come then, with the escapes \n, \r, \f, \\ and \xHH.
package eventcsv

import (
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
)

// MaxEvents bounds how many events are read.
const MaxEvents = 1_000_000

// words are values that have a word.
var words = map[string]float64{"press": 1, "release": 0, "down": 1, "up": 0}

// Row is what happens to an input: a record of a file.
type Row struct {
	At    int64 // ms
	Input int
	Value float64
	Text  string // of a serial line, with its escapes
}

// Read reads events for inputs; see ReadRows. A text of a serial line is spread over the
// times at which its characters are there; one that begins while another still comes follows
// it.
func Read(r io.Reader, inputs []bench.Input) ([]show.Event, error) {
	rows, err := ReadRows(r, inputs)
	if err != nil {
		return nil, err
	}
	var out []show.Event
	lines := make([]time.Duration, len(inputs)) // until when each serial line is taken
	for _, row := range rows {
		in := &inputs[row.Input]
		if in.Kind != string(show.Serial) {
			out = append(out, show.Event{At: row.At, Input: row.Input, Value: show.Units(row.Value, in.Signal.Decimals)})
			continue
		}
		text, err := Unescape(row.Text)
		if err != nil {
			return nil, err
		}
		typed := show.Typed(in, row.Input, max(time.Duration(row.At)*time.Millisecond, lines[row.Input]), text)
		if n := len(typed); n > 0 {
			lines[row.Input] = typed[n-1].Moment()
		}
		if out = append(out, typed...); len(out) > MaxEvents {
			return nil, fmt.Errorf("more than %d events", MaxEvents)
		}
	}
	slices.SortStableFunc(out, func(a, b show.Event) int { return cmp.Compare(a.Moment(), b.Moment()) })
	return out, nil
}

// ReadRows reads what happens to inputs, as it stands in a file. A first record
// time_ms,input,value is a heading. An error names its line, what was wrong and what would be
// right.
func ReadRows(r io.Reader, inputs []bench.Input) ([]Row, error) {
	in := csv.NewReader(r)
	in.FieldsPerRecord, in.TrimLeadingSpace, in.Comment = -1, true, '#'
	var out []Row
	for records := 0; ; records++ {
		record, err := in.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		line, _ := in.FieldPos(0)
		if records == 0 && len(record) == 3 && strings.TrimSpace(record[0]) == "time_ms" {
			continue
		}
		row, err := read(record, inputs)
		if err != nil {
			return nil, fmt.Errorf("line %d: %w", line, err)
		}
		if n := len(out); n > 0 && row.At < out[n-1].At {
			return nil, fmt.Errorf("line %d: %d ms comes after %d ms; expected the order of their times", line, row.At, out[n-1].At)
		}
		if len(out) == MaxEvents {
			return nil, fmt.Errorf("line %d: more than %d events", line, MaxEvents)
		}
		out = append(out, row)
	}
}

// Unescape reads the escapes of a text of a serial line; a character beyond ASCII is sent as
// its bytes of UTF-8.
func Unescape(text string) ([]byte, error) {
	var out []byte
	for i := 0; i < len(text); i++ {
		if text[i] != '\\' {
			out = append(out, text[i])
			continue
		}
		rest := text[i+1:]
		i++
		if known := map[byte]byte{'n': '\n', 'r': '\r', 'f': '\f', 't': '\t', '\\': '\\'}; rest != "" && known[rest[0]] != 0 {
			out = append(out, known[rest[0]])
			continue
		}
		code, err := strconv.ParseUint(strings.TrimPrefix(rest[:min(3, len(rest))], "x"), 16, 8)
		if err != nil || !strings.HasPrefix(rest, "x") || len(rest) < 3 {
			return nil, fmt.Errorf(`value %q: %q is no escape; expected \n, \r, \f, \t, \\ or \xHH`, text, `\`+rest[:min(1, len(rest))])
		}
		out = append(out, byte(code))
		i += 2
	}
	return out, nil
}

// read reads a record.
func read(record []string, inputs []bench.Input) (e Row, err error) {
	if len(record) != 3 {
		return e, fmt.Errorf("%d values; expected time_ms,input,value", len(record))
	}
	for i := range record[:2] {
		record[i] = strings.TrimSpace(record[i])
	}
	if e.At, err = strconv.ParseInt(record[0], 10, 64); err != nil || e.At < 0 || e.At > math.MaxInt32 {
		return e, fmt.Errorf("time %q; expected whole milliseconds from 0 on", record[0])
	}
	var names []string
	e.Input = -1
	for i := range inputs {
		names = append(names, inputs[i].ID)
		if inputs[i].ID == record[1] {
			e.Input = i
		}
	}
	if e.Input < 0 {
		return e, fmt.Errorf("there is no input %q; expected one of %s", record[1], strings.Join(names, ", "))
	}
	if inputs[e.Input].Kind == string(show.Serial) {
		e.Text = record[2]
		_, err = Unescape(e.Text)
		return e, err
	}
	record[2] = strings.TrimSpace(record[2])
	value, worded := words[record[2]]
	if !worded {
		if value, err = strconv.ParseFloat(record[2], 64); err != nil || math.IsNaN(value) || math.IsInf(value, 0) {
			return e, fmt.Errorf("value %q; expected a number, press or release", record[2])
		}
	}
	e.Value = value
	switch kind := inputs[e.Input].Kind; {
	case kind == "button" && value != 0 && value != 1:
		return e, fmt.Errorf("value %q of the button %q; expected press or release, 1 or 0", record[2], record[1])
	case kind == "counter" && (value != math.Trunc(value) || math.Abs(value) > 1000 || worded):
		return e, fmt.Errorf("value %q of the counter %q; expected whole steps such as +1 or -1", record[2], record[1])
	case kind == "timer":
		return e, fmt.Errorf("%q is a timer; nothing happens to it from outside", record[1])
	}
	return e, nil
}
