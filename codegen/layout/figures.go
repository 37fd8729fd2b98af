package layout

import (
	"fmt"

	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
)

// Nibbles are the outputs of each nibble.
func Nibbles(mp *link.Mapping) (table []byte) {
	for n := range 16 {
		b := byte(0)
		for k, output := range []int8{mp.D4, mp.D5, mp.D6, mp.D7} {
			b |= byte(n>>k&1) << output
		}
		table = append(table, b)
	}
	return table
}

// Cursors lists where each screen has its cursor, with two controllers which of them has it,
// and the display control that gives it its looks.
func Cursors(m *firmware.Module, two bool) (out []byte) {
	for _, s := range m.Screens {
		at, enable := byte(0xFF), byte(0)
		if s.Cursor.Line || s.Cursor.Block {
			controller, address, ok := m.Display.Geometry.Locate(s.Cursor.Row, s.Cursor.Col)
			if ok {
				at, enable = address, byte(controller)
			}
		}
		out = append(out, at)
		if two {
			out = append(out, enable)
		}
		out = append(out, s.Cursor.Control())
	}
	return out
}

// FreeText are the figures of a part of a free text: cells before it, of all parts, a step, and
// what becomes of one that is too long.
func FreeText(p *firmware.Place) string {
	rule := map[string]int{"page": 1, "scroll": 2}[p.Spec.TooLong()]
	return fmt.Sprintf("%d, %d, %d, %d", p.Skip, p.Area, p.Step, rule)
}
