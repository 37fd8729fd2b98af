package recall

import (
	"context"
	"fmt"
	"slices"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
	"slatebell/live/drive"
	"slatebell/live/session"
)

// Line is what is wrong with a data line, by what is read over it.
type Line struct {
	Name  string // D0–D7
	Level string // "high" or "low" where it is the same always; "" where it goes with another
	With  string // the other line that is the same as this one always
}

// String says it for people.
func (l *Line) String() string {
	if l.With != "" {
		return fmt.Sprintf("%s and %s are read alike always: they touch", l.Name, l.With)
	}
	return fmt.Sprintf("%s is read %s always: its wire, or its joint", l.Name, l.Level)
}

// pattern is written and read: every line alone, all but one, and neighbours apart.
var pattern = []byte{0x00, 0xFF, 0x55, 0xAA, 0x01, 0x02, 0x04, 0x08, 0x10, 0x20, 0x40, 0x80, 0xFE, 0xFD, 0xFB, 0xF7}

// addresses are set and read back, a bit each.
var addresses = []byte{0x00, 0x01, 0x02, 0x04, 0x08, 0x10, 0x20}

// Lines writes a pattern to the beginning of the first controller's DDRAM, and reads it back, and the address counter: what is wrong with
// data lines, and how many bytes came back otherwise. What stood there is to be shown again afterwards.
func Lines(ctx context.Context, line *session.Session, m *drive.Module) (wrong []Line, differ int, err error) {
	to := func(op hd44780.Operation) sequence.Aimed { return sequence.Aimed{Op: op, Enable: link.First} }
	var ops []sequence.Aimed
	for _, a := range addresses {
		ops = append(ops, to(hd44780.Command(hd44780.DDRAMBase|a)), to(hd44780.Operation{RW: true}))
	}
	ops = append(ops, to(hd44780.Command(hd44780.DDRAMBase)))
	for _, b := range pattern {
		ops = append(ops, to(hd44780.Data(b)))
	}
	ops = append(ops, to(hd44780.Command(hd44780.DDRAMBase)))
	ops = append(ops, slices.Repeat([]sequence.Aimed{readData(link.First)}, len(pattern))...)
	got, err := m.Exchange(ctx, line, ops)
	if err != nil {
		return nil, 0, err
	}
	if want := len(addresses) + len(pattern); len(got) != want {
		return nil, 0, fmt.Errorf("%d bytes came back of %d", len(got), want)
	}
	for i, want := range slices.Concat(addresses, pattern) {
		if got[i] != want {
			differ++
		}
	}
	if differ > 0 {
		wrong = judge(got, m.Link.Width())
	}
	return wrong, differ, nil
}

// judge finds the lines that are the same in all that was read, or as another. On four lines each carries two bits of a byte.
func judge(got []byte, width int) (out []Line) {
	var columns [8]string // the levels of each line, one after the other
	for d := 8 - width; d < 8; d++ {
		for _, b := range got {
			for bit := d; bit >= 0; bit -= width {
				columns[d] += string(rune('0' + b>>bit&1))
			}
		}
	}
	data := got[len(addresses):]
	alike := func(list []byte) bool { return len(slices.Compact(slices.Clone(list))) == 1 }
	unwritten, deaf := alike(data), alike(got) // nothing that was written arrived; nothing at all did
	if deaf && got[0] == 0xFF {
		return nil // nothing answers
	}
	for d := 8 - width; d < 8; d++ {
		name := fmt.Sprintf("D%d", d)
		if alike([]byte(columns[d])) {
			level := map[byte]string{'0': "low", '1': "high"}[columns[d][0]]
			if level == "high" || !deaf && (d < 7 || !unwritten) { // the busy flag, on D7, is low where all is well
				out = append(out, Line{Name: name, Level: level})
			}
			continue
		}
		for o := d + 1; o < 8; o++ {
			if columns[d] == columns[o] {
				out = append(out, Line{Name: name, With: fmt.Sprintf("D%d", o)})
			}
		}
	}
	return out
}
