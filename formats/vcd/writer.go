// Package vcd writes waveforms as a value change dump, IEEE 1364-2005 §18.
package vcd

import (
	"bufio"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"slatebell/core/prove/capture"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/core/wire/wave"
)

// Write writes a whole program as sound hardware shows it; see WriteBehind.
func Write(w io.Writer, p *sequence.Program) error { return WriteBehind(w, p, link.Hardware{}) }

// WriteBehind writes the header pins, as they are behind some hardware, and the
// wire of a whole program in two scopes, header and wire. A time is in
// nanoseconds since power-up.
func WriteBehind(w io.Writer, p *sequence.Program, h link.Hardware) error {
	t := wave.Draw(p, 0, len(p.Steps), h)
	out := bufio.NewWriter(w)
	fmt.Fprint(out, opening)
	for i, name := range t.Signals {
		if wire(name) && (i == 0 || !wire(t.Signals[i-1])) {
			fmt.Fprint(out, "$upscope $end\n$scope module wire $end\n")
		}
		declare(out, i, name)
	}
	fmt.Fprint(out, "$upscope $end\n$enddefinitions $end\n#0\n$dumpvars\n")
	for i, high := range t.Initial {
		value(out, i, high)
	}
	fmt.Fprint(out, "$end\n")
	at := t.Begin
	for _, c := range t.Changes {
		if c.At != at {
			at = c.At
			fmt.Fprintf(out, "#%d\n", at.Nanoseconds())
		}
		value(out, c.Signal, c.High)
	}
	if p.Finish > at {
		fmt.Fprintf(out, "#%d\n", p.Finish.Nanoseconds())
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("writing value change dump: %w", err)
	}
	return nil
}

// opening is what a dump begins with, up to the wires of the header.
const opening = "$version Slate Bell $end\n$timescale 1 ns $end\n$scope module header $end\n"

// declare declares a signal by its number.
func declare(out *bufio.Writer, i int, name string) {
	fmt.Fprintf(out, "$var wire 1 %c %s $end\n", identifier(i), name)
}

func wire(name string) bool {
	switch name {
	case "SDA", "SCL", "DATA", "CLOCK", "LATCH":
		return true
	}
	return false
}

// identifier is a signal's code: one printable character from '!' on.
func identifier(i int) rune { return '!' + rune(i) }

func value(out *bufio.Writer, i int, high bool) {
	level := '0'
	if high {
		level = '1'
	}
	fmt.Fprintf(out, "%c%c\n", level, identifier(i))
}

// WriteLevels writes some lines over time: play is given what takes their levels, bit n being that of names[n], from time to time, in the order of
// these.
func WriteLevels(w io.Writer, names []string, play func(level func(at time.Duration, levels uint64)) error) error {
	out := bufio.NewWriter(w)
	fmt.Fprint(out, opening)
	for i, name := range names {
		declare(out, i, name)
	}
	fmt.Fprint(out, "$upscope $end\n$enddefinitions $end\n")
	was, last := uint64(0), time.Duration(-1)
	err := play(func(at time.Duration, levels uint64) {
		if at != last {
			fmt.Fprintf(out, "#%d\n", at.Nanoseconds())
		}
		for i := range names {
			if last < 0 || (was^levels)>>i&1 == 1 {
				value(out, i, levels>>i&1 == 1)
			}
		}
		was, last = levels, at
	})
	if err != nil {
		return err
	}
	if err := out.Flush(); err != nil {
		return fmt.Errorf("writing value change dump: %w", err)
	}
	return nil
}

// WriteSource writes a recording.
func WriteSource(w io.Writer, s capture.Source) error {
	names := slices.Clone(s.Channels())
	for i, name := range names {
		if name = strings.Join(strings.Fields(name), "_"); name == "" {
			name = fmt.Sprintf("D%d", i)
		}
		names[i] = name
	}
	return WriteLevels(w, names, func(level func(time.Duration, uint64)) error {
		for {
			c, err := s.Next()
			if err == io.EOF {
				return nil
			}
			if err != nil {
				return fmt.Errorf("writing value change dump: %w", err)
			}
			level(c.At, c.Levels)
		}
	})
}
