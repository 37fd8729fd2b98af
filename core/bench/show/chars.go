package show

import (
	"maps"
	"slices"
	"unicode/utf8"

	"slatebell/core/bench"
	"slatebell/core/part/charrom"
	"slatebell/core/text/glyph"
)

// Chars is which codes show which characters, in the order of the characters: those of the
// basic multilingual plane, as no module shows others.
type Chars []Run

// Run is characters that follow each other as their codes do.
type Run struct {
	First rune
	Count int // 1 to 255
	Code  byte
}

// plane is the last character of the basic multilingual plane.
const plane = 0xFFFF

// Code is the code that shows a character, if one does.
func (c Chars) Code(ch rune) (code byte, ok bool) {
	for _, r := range c {
		if ch >= r.First && ch < r.First+rune(r.Count) {
			return r.Code + byte(ch-r.First), true
		}
	}
	return 0, false
}

// Spelled are the slots of the glyphs that are named after a character which the module's ROM
// lacks: a message shows them for it.
func Spelled(bank glyph.Bank, rom *charrom.ROM) map[rune]int {
	out := map[rune]int{}
	for _, g := range bank {
		if ch, n := utf8.DecodeRuneInString(g.Name); n == len(g.Name) && ch != utf8.RuneError {
			if _, has := rom.Code(ch); !has {
				out[ch] = g.Slot
			}
		}
	}
	return out
}

// charsOf is what of Unicode a module shows: the characters of its ROM, and those of glyphs
// that are named after one.
func charsOf(m *bench.Module, rom *charrom.ROM) (out Chars) {
	codes := map[rune]byte{}
	for _, ch := range rom.Characters() {
		codes[ch], _ = rom.Code(ch)
	}
	for ch, slot := range Spelled(m.Glyphs, rom) {
		codes[ch] = byte(slot)
	}
	for _, ch := range slices.Sorted(maps.Keys(codes)) {
		if ch < ' ' || ch > plane {
			continue
		}
		if n := len(out) - 1; n >= 0 && ch == out[n].First+rune(out[n].Count) && int(codes[ch]) == int(out[n].Code)+out[n].Count && out[n].Count < 255 {
			out[n].Count++
			continue
		}
		out = append(out, Run{ch, 1, codes[ch]})
	}
	return out
}

// code is the code of a character of a message.
func (m *Message) code(ch rune) byte {
	if code, ok := m.Chars.Code(ch); ok {
		return code
	}
	return m.Missing
}

// utf8 takes a byte of a character that has more than one, and reports whether it was one
// (The Unicode Standard, table 3-7); of what is none, each longest beginning of a character
// shows as one that is missing.
func (l *Line) utf8(m *Message, c byte) bool {
	if l.More > 0 {
		least, most := byte(0x80), byte(0xBF)
		switch {
		case l.More == 2 && l.Rune == 0: // what has a shorter form
			least = 0xA0
		case l.More == 3 && l.Rune == 0:
			least = 0x90
		case l.More == 2 && l.Rune == 0xD: // surrogates
			most = 0x9F
		case l.More == 3 && l.Rune == 4: // beyond U+10FFFF
			most = 0x8F
		}
		if c >= least && c <= most {
			l.Rune = l.Rune<<6 | rune(c&0x3F)
			if l.More--; l.More == 0 {
				l.put(m, m.code(l.Rune))
			}
			return true
		}
		l.cutOff(m)
	}
	switch {
	case c < 0x80:
		return false
	case c >= 0xC2 && c < 0xE0:
		l.Rune, l.More = rune(c&0x1F), 1
	case c >= 0xE0 && c < 0xF0:
		l.Rune, l.More = rune(c&0x0F), 2
	case c >= 0xF0 && c < 0xF5:
		l.Rune, l.More = rune(c&0x07), 3
	default:
		l.put(m, m.Missing)
	}
	return true
}

// cutOff is what becomes of a character whose further bytes do not come.
func (l *Line) cutOff(m *Message) {
	if l.More > 0 {
		l.More = 0
		l.put(m, m.Missing)
	}
}
