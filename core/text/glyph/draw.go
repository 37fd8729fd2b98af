package glyph

import (
	"golang.org/x/text/unicode/norm"

	"slatebell/core/part/charrom"
)

// mark is how a combining mark is drawn: in two rows above a small letter, in
// one row above a capital that is moved down a row, or below the letter.
type mark struct {
	small [2]byte
	tall  byte
	below byte
}

// marks lists the combining marks of Latin letters, by Unicode code point.
var marks = map[rune]mark{
	0x0300: {small: [2]byte{0b01000, 0b00100}, tall: 0b01000},                                              // grave
	0x0301: {small: [2]byte{0b00010, 0b00100}, tall: 0b00010},                                              // acute
	0x0302: {small: [2]byte{0b00100, 0b01010}, tall: 0b00100},                                              // circumflex
	0x0303: {small: [2]byte{0b01101, 0b10110}, tall: 0b01101},                                              // tilde
	0x0304: {small: [2]byte{0b01110, 0b00000}, tall: 0b01110},                                              // macron
	0x0306: {small: [2]byte{0b10001, 0b01110}, tall: 0b11011},                                              // breve
	0x0307: {small: [2]byte{0b00100, 0b00000}, tall: 0b00100},                                              // dot above
	0x0308: {small: [2]byte{0b01010, 0b00000}, tall: 0b01010},                                              // diaeresis
	0x030A: {small: [2]byte{0b01100, 0b01100}, tall: 0b01100},                                              // ring
	0x030B: {small: [2]byte{0b01001, 0b10010}, tall: 0b01001},                                              // double acute
	0x030C: {small: [2]byte{0b01010, 0b00100}, tall: 0b10001},                                              // caron
	0x0323: {below: 0b00100}, 0x0326: {below: 0b01000}, 0x0327: {below: 0b00100}, 0x0328: {below: 0b00011}, // dot, comma, cedilla, ogonek below
}

// Draw returns a pattern for a character that a ROM lacks: the dots that another
// built-in ROM has for it or, for a letter with a mark, the letter's own dots
// with the mark drawn in. It returns false where it knows neither.
func Draw(rom *charrom.ROM, ch rune) (charrom.Dots, bool) {
	for _, name := range charrom.Names() {
		other, _ := charrom.ByName(name)
		if code, ok := other.Code(ch); ok && other.Known(code) {
			return other.Dots(code), true
		}
	}
	parts := []rune(norm.NFD.String(string(ch)))
	if len(parts) != 2 {
		return charrom.Dots{}, false
	}
	m, known := marks[parts[1]]
	code, have := rom.Code(parts[0])
	if !known || !have {
		return charrom.Dots{}, false
	}
	return m.onto(rom.Dots(code), parts[0])
}

// onto draws the mark onto a letter; false where there is no room for it.
func (m mark) onto(d charrom.Dots, letter rune) (charrom.Dots, bool) {
	if m.below != 0 {
		free := d[7] == 0
		d[7] |= m.below
		return d, free
	}
	if letter == 'i' || letter == 'j' { // the mark takes the dot's place
		d[0], d[1] = 0, 0
	}
	if d[0] == 0 && d[1] == 0 {
		d[0], d[1] = m.small[0], m.small[1]
		return d, true
	}
	if d[7] != 0 {
		return d, false
	}
	copy(d[1:], d[:7])
	d[0] = m.tall
	return d, true
}
