// Package stepcsv writes the steps of a program, and operations that were
// recorded, as comma-separated values, RFC 4180.
package stepcsv

import (
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/prove/replay"
	"slatebell/core/quoting"
	"slatebell/core/wire/sequence"
)

// Header names the columns. Times are in microseconds; value is two hexadecimal
// digits; wire is space-separated hexadecimal without the I²C address byte, and
// is empty for a pure wait, as are rs and value.
var Header = []string{"step", "start_us", "rs", "value", "wire", "wait_us", "meaning"}

// Write writes a header and a record for each step, steps counted from 1. Lines
// end with CR LF, as the RFC has it.
func Write(w io.Writer, p *sequence.Program) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	out.Write(Header) // Flush keeps its error
	var words []string
	for i := range p.Steps {
		s := &p.Steps[i]
		rs, value := "", ""
		if s.Sends() {
			rs, value = level(s.Op.RS), fmt.Sprintf("%02X", s.Op.Byte)
		}
		if s.Kind == sequence.Raw {
			value = fmt.Sprintf("%02X", s.Op.Byte)
		}
		words = words[:0]
		for _, word := range p.Words[s.First : s.First+s.Count] {
			words = append(words, p.Coder.Format(word))
		}
		out.Write([]string{strconv.Itoa(i + 1), micro(s.Start), rs, value, strings.Join(words, " "), micro(s.Wait), quoting.Cell(s.Meaning)})
	}
	out.Flush()
	if err := out.Error(); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}

// RecordedHeader names the columns of operations that were recorded: as Header has them, and R/W and the enable beside.
var RecordedHeader = []string{"time_us", "rs", "rw", "value", "enable", "meaning"}

// WriteRecorded writes a header and a record for each operation, with what it means to a family of controllers.
func WriteRecorded(w io.Writer, list []replay.Operation, family hd44780.Family) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	out.Write(RecordedHeader) // Flush keeps its error
	for i := range list {
		op := &list[i]
		out.Write([]string{micro(op.At), level(op.RS), level(op.RW), fmt.Sprintf("%02X", op.Byte), op.Enable.String(), quoting.Cell(family.Explain(op.Operation))})
	}
	out.Flush()
	if err := out.Error(); err != nil {
		return fmt.Errorf("writing CSV: %w", err)
	}
	return nil
}

// level writes one as 0 or 1.
func level(high bool) string {
	if high {
		return "1"
	}
	return "0"
}

// micro writes a time in microseconds, exact to the nanosecond.
func micro(d time.Duration) string {
	return strconv.FormatFloat(float64(d)/1e3, 'f', -1, 64)
}
