package sequence

import "slatebell/core/part/hd44780"

// The strategies are the ways in which programs commonly change a screen (common
// practice). None of them knows where the address counters stand: each run of
// cells begins with an address.

// Reprint clears the module and writes each row of the new screen up to its last
// character.
func (b *Builder) Reprint(cells []byte) {
	b.setting(hd44780.ClearByte)
	b.Pad(nil, cells)
}

// Pad writes each row of the new screen, with spaces up to the old row's length. A row that lies in two
// runs of the memory, as on a split 16×1, is one text all the same: spaces before the second run are written.
func (b *Builder) Pad(before, after []byte) {
	g := &b.module.Geometry
	for _, seg := range g.Segments {
		row := seg.Row * g.Cols
		base := row + seg.Col
		long := length(after[row : row+g.Cols])
		if before != nil {
			long = max(long, length(before[row:row+g.Cols]))
		}
		for i := range min(max(long-seg.Col, 0), seg.Len) {
			if i == 0 {
				b.address(seg, 0)
			}
			b.character(seg, i, after[base+i])
		}
	}
}

// length is how many cells lie before the spaces at the end.
func length(cells []byte) int {
	for n := len(cells); n > 0; n-- {
		if cells[n-1] != ' ' {
			return n
		}
	}
	return 0
}

// Changed writes the cells that differ, each run of them from its address on.
func (b *Builder) Changed(before, after []byte) {
	g := &b.module.Geometry
	for _, seg := range g.Segments {
		base := seg.Row*g.Cols + seg.Col
		for i := range seg.Len {
			if before[base+i] == after[base+i] {
				continue
			}
			if i == 0 || before[base+i-1] == after[base+i-1] {
				b.address(seg, i)
			}
			b.character(seg, i, after[base+i])
		}
	}
}
