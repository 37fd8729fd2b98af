package screen

import (
	"golang.org/x/text/unicode/norm"

	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
)

// PatternCode returns the code that shows a pattern: of the ROM, or of the slot that
// holds it; false where nothing shows it.
func PatternCode(m *module.Module, bank glyph.Bank, p glyph.Pattern) (code byte, ok bool) {
	if code, ok := glyph.Equal(m.ROM, p, m.Tall); ok {
		return code, true
	}
	slot, ok := bank.Holds(p, m.SlotStep())
	return CodeOf(m, slot), ok
}

// Encode returns the codes of a text, one a character, as a screen has them whose
// glyphs stand in a bank; what nothing shows becomes a space.
func Encode(m *module.Module, bank glyph.Bank, library glyph.Library, text string) []byte {
	var codes []byte
	for _, ch := range norm.NFC.String(text) {
		code, ok := codeOf(ch)
		if d, drawn := library.Keyed(keyOf(ch)); drawn && !ok {
			code, ok = PatternCode(m, bank, d.Pattern())
		} else if !ok {
			code, ok = m.ROM.Code(ch)
		}
		if !ok {
			code = ' '
		}
		codes = append(codes, code)
	}
	return codes
}

// Drawings returns the patterns of the drawings that a text names, in its order.
func Drawings(library glyph.Library, text string) (out []glyph.Pattern) {
	for _, ch := range text {
		if d, ok := library.Keyed(keyOf(ch)); ok {
			out = append(out, d.Pattern())
		}
	}
	return out
}

// Slots returns the slots that a text shows by number.
func Slots(m *module.Module, text string) (out []int) {
	for _, ch := range text {
		if code, ok := codeOf(ch); ok {
			if slot, ok := m.Slot(code); ok {
				out = append(out, slot)
			}
		}
	}
	return out
}
