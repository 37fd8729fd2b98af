package run

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"slatebell/core/part/hd44780"
	"slatebell/core/part/module"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// named maps the words for an operation to it.
var named = map[string]hd44780.Operation{
	"clear": hd44780.Command(0x01), "home": hd44780.Command(0x02),
	"count down": hd44780.Command(0x04), "count up": hd44780.Command(0x06), "autoshift": hd44780.Command(0x07),
	"display off": hd44780.Command(0x08), "display on": hd44780.Command(0x0C), "cursor on": hd44780.Command(0x0E), "blink on": hd44780.Command(0x0D),
	"cursor off": hd44780.Command(0x0C), "blink off": hd44780.Command(0x0C), "blink": hd44780.Command(0x0D), "cursor": hd44780.Command(0x0E),
	"cursor left": hd44780.Command(0x10), "cursor right": hd44780.Command(0x14), "shift left": hd44780.Command(0x18), "shift right": hd44780.Command(0x1C),
	"read status": {RW: true}, "read data": {RS: true, RW: true},
}

// ParseLive reads operations given by hand for the controllers behind an
// enable: one by name ("clear", "shift left", "read status"; "backspace" is three), an instruction by
// number (0x0E, 0b00001110 or eight bits), "row 2" or "row 2, col 5" (for the
// controller that has the row), "address 40" or "glyph 3" for an address, "data 0x41" for a byte
// of data, "A5" or "raw 14" for a byte onto the outputs of an expander, or text in quotes for
// characters of the module's ROM. first is the number of the first row and of the first column, 1
// or 0.
func ParseLive(s *testbed.Setup, text string, en link.Enable, first int) ([]sequence.Aimed, error) {
	mod, _, err := s.Build()
	if err != nil {
		return nil, err
	}
	t := strings.TrimSpace(text)
	if len(t) >= 2 && (t[0] == '\'' || t[0] == '"') && t[len(t)-1] == t[0] {
		return liveText(t[1:len(t)-1], &mod, en)
	}
	word := strings.ToLower(strings.Join(strings.Fields(t), " "))
	if word == "backspace" {
		left := sequence.Aimed{Op: named["cursor left"], Enable: en}
		return []sequence.Aimed{left, {Op: hd44780.Data(' '), Enable: en}, left}, nil
	}
	if op, ok := named[word]; ok {
		return []sequence.Aimed{{Op: op, Enable: en}}, nil
	}
	if verb, rest, more := strings.Cut(word, " "); more && verb == "row" {
		row, col, ok := livePlace(rest, first)
		controller, a, found := mod.Geometry.Locate(row-first, col-first)
		if !ok || !found {
			return nil, fmt.Errorf("row %q; this module has rows %d–%d of columns %d–%d, as in row %d, or row %d, col %d", rest, first, mod.Geometry.Rows-1+first, first, mod.Geometry.Cols-1+first, first, first, first+4)
		}
		return []sequence.Aimed{{Op: hd44780.Command(hd44780.DDRAMBase | a), Enable: link.Enable(controller)}}, nil
	}
	if b, ok := rawByte(word); ok {
		return []sequence.Aimed{{Op: hd44780.Operation{Byte: b}, Enable: en, Raw: true}}, nil
	}
	if op, ok := liveByte(word); ok {
		return []sequence.Aimed{{Op: op, Enable: en}}, nil
	}
	names := append(slices.Sorted(maps.Keys(named)), "backspace")
	return nil, fmt.Errorf("%q is no instruction; expected a name (%s), a number such as 0x0E or 00001110, row 2, or row 2, col 5, address 40, glyph 3, data 0x41, A5 or raw 14 for a byte onto the outputs of the expander, or characters in quotes such as 'Tide'", text, strings.Join(names, ", "))
}

// livePlace reads what follows "row": a number, or "2, col 5", where the comma may be missing
// and column may be written out.
func livePlace(text string, first int) (row, col int, ok bool) {
	word, rest, more := strings.Cut(strings.ReplaceAll(text, ",", " "), " ")
	row, err := strconv.Atoi(word)
	if !more || err != nil {
		return row, first, err == nil
	}
	parts := strings.Fields(rest)
	if len(parts) != 2 || parts[0] != "col" && parts[0] != "column" {
		return 0, 0, false
	}
	col, err = strconv.Atoi(parts[1])
	return row, col, err == nil
}

// rawByte reads a byte for the outputs of an expander: two hexadecimal digits behind "raw", or by
// themselves where one of them is a letter, so that no number is taken for it.
func rawByte(word string) (byte, bool) {
	digits, said := strings.CutPrefix(word, "raw ")
	digits = strings.TrimPrefix(digits, "0x")
	if !said && (digits != word || !strings.ContainsAny(word, "abcdef")) || len(digits) != 2 {
		return 0, false
	}
	b, err := strconv.ParseUint(digits, 16, 8)
	return byte(b), err == nil
}

// liveByte reads an operation that is given by a number, alone or behind
// "data", "address" or "glyph".
func liveByte(word string) (hd44780.Operation, bool) {
	verb, rest, _ := strings.Cut(word, " ")
	switch verb {
	case "data":
		b, err := number(rest)
		return hd44780.Data(b), err == nil
	case "address":
		n, err := strconv.ParseUint(strings.TrimPrefix(rest, "0x"), 16, 7)
		return hd44780.Command(hd44780.DDRAMBase | byte(n)), err == nil
	case "glyph":
		n, err := strconv.ParseUint(rest, 10, 3)
		return hd44780.Command(hd44780.CGRAMBase | byte(n*8)), err == nil
	}
	b, err := number(strings.ReplaceAll(word, " ", ""))
	return hd44780.Command(b), err == nil
}

// number reads a byte as 0x0E, 0b1110 or eight bits.
func number(s string) (byte, error) {
	base := 0
	if len(s) == 8 && strings.Trim(s, "01") == "" {
		base = 2
	} else if !strings.HasPrefix(s, "0x") && !strings.HasPrefix(s, "0b") {
		return 0, fmt.Errorf("%q carries no base", s)
	}
	n, err := strconv.ParseUint(s, base, 8)
	return byte(n), err
}

func liveText(text string, m *module.Module, en link.Enable) ([]sequence.Aimed, error) {
	var ops []sequence.Aimed
	for _, ch := range text {
		code, ok := m.ROM.Code(ch)
		if !ok {
			return nil, fmt.Errorf("ROM %s has no '%c' (U+%04X)", m.ROM.Name, ch, ch)
		}
		ops = append(ops, sequence.Aimed{Op: hd44780.Data(code), Enable: en})
	}
	return ops, nil
}
