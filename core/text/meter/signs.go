package meter

import "slatebell/core/text/glyph"

// Sign is a sequence of patterns for one cell: a sign that fills, or the frames
// of one that moves when its slot is drawn again and again.
type Sign struct {
	Name   string
	Frames []glyph.Pattern
}

// Signs lists the signs that can be made.
func Signs() []Sign {
	return []Sign{battery(), sweep(), orbit(), drip(), tide()}
}

// battery fills from the bottom, five steps and empty.
func battery() Sign {
	s := Sign{Name: "battery"}
	for level := range 6 {
		p := glyph.Pattern{0b01110, 0b11111, 0b10001, 0b10001, 0b10001, 0b10001, 0b10001, 0b11111}
		for i := range level {
			p[6-i] |= 0b01110
		}
		s.Frames = append(s.Frames, p)
	}
	return s
}

// sweep is a line that turns about the middle of its cell.
func sweep() Sign {
	return Sign{Name: "turning line", Frames: []glyph.Pattern{
		{0, 0, 0, 0b11111, 0, 0, 0},
		{0, 0b10000, 0b01000, 0b00100, 0b00010, 0b00001, 0},
		{0, 0b00100, 0b00100, 0b00100, 0b00100, 0b00100, 0},
		{0, 0b00001, 0b00010, 0b00100, 0b01000, 0b10000, 0},
	}}
}

// orbit is a pair of dots that runs round a ring.
func orbit() Sign {
	ring := [8][2]int{{0, 2}, {1, 3}, {2, 4}, {4, 4}, {5, 3}, {6, 2}, {4, 0}, {2, 0}} // row, column
	s := Sign{Name: "orbit"}
	for i := range ring {
		var p glyph.Pattern
		for back := range 3 {
			at := ring[(i+len(ring)-back)%len(ring)]
			p[at[0]] |= 1 << (glyph.Columns - 1 - at[1])
		}
		s.Frames = append(s.Frames, p)
	}
	return s
}

// drip is a drop that falls and spreads.
func drip() Sign {
	return Sign{Name: "drop", Frames: []glyph.Pattern{
		{0b00100, 0b01110, 0, 0, 0, 0, 0},
		{0, 0, 0b00100, 0b01110, 0, 0, 0},
		{0, 0, 0, 0, 0b00100, 0b01110, 0},
		{0, 0, 0, 0, 0, 0b01010, 0b10001},
	}}
}

// tide is a wave that moves to the left.
func tide() Sign {
	wave := [5]int{5, 3, 2, 3, 5} // row of the crest, by column
	s := Sign{Name: "running wave"}
	for i := range wave {
		var p glyph.Pattern
		for x := range glyph.Columns {
			top := wave[(x+i)%len(wave)]
			p[top] |= 1 << (glyph.Columns - 1 - x)
			p[6] |= 1 << (glyph.Columns - 1 - x)
		}
		s.Frames = append(s.Frames, p)
	}
	return s
}
