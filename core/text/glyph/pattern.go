package glyph

import (
	"math/bits"

	"slatebell/core/part/charrom"
)

// Columns is how many dots a row of a cell has.
const Columns = 5

// Rows of dots of a cell, the cursor's line last: of the 5×8 font, and of the
// 5×10 font.
const (
	Rows    = 8
	MaxRows = 11
)

// Pattern is the dots of a cell in either font, a byte a row, top row first;
// bit 4 is the leftmost dot and bits 7–5 are dark. Rows that a font lacks are
// dark. Patterns can be compared and be keys of maps.
type Pattern [MaxRows]byte

// Of returns a ROM's dots as a pattern, with up to three rows below them.
func Of(d charrom.Dots, below ...byte) (p Pattern) {
	copy(p[:], d[:])
	copy(p[Rows:], below)
	for i := range p {
		p[i] &= 0x1F
	}
	return p
}

// Full returns the pattern that lights every dot of so many rows.
func Full(rows int) (p Pattern) {
	for i := range min(rows, MaxRows) {
		p[i] = 0x1F
	}
	return p
}

// Dots returns the rows of the 5×8 font.
func (p Pattern) Dots() charrom.Dots { return charrom.Dots(p[:Rows]) }

// Lit reports whether the dot in a row (0–10) and column (0–4) is on.
func (p Pattern) Lit(row, col int) bool { return p[row]>>(Columns-1-col)&1 != 0 }

// Count returns how many dots are lit.
func (p Pattern) Count() int { return p.Distance(Pattern{}) }

// Distance returns in how many dots two patterns differ, 0–55.
func (p Pattern) Distance(q Pattern) (n int) {
	for i := range p {
		n += bits.OnesCount8(p[i] ^ q[i])
	}
	return n
}

// Equal returns the lowest code of a ROM whose character has just a pattern's
// dots: the ROM shows it without a slot. tall asks for the 5×10 font, in which
// the cursor's line has no dots. It returns false where there is none.
func Equal(rom *charrom.ROM, p Pattern, tall bool) (code byte, ok bool) {
	for c := range 256 {
		if code := byte(c); rom.Known(code) && ROMPattern(rom, code, tall) == p {
			return code, true
		}
	}
	return 0, false
}

// ROMPattern returns what a code of a ROM shows in a font.
func ROMPattern(rom *charrom.ROM, code byte, tall bool) Pattern {
	if !tall {
		return Of(rom.Dots(code))
	}
	below := rom.Below(code)
	return Of(rom.Dots(code), below[:]...)
}
