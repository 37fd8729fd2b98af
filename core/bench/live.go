package bench

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"slatebell/core/hd44780"
	"slatebell/core/module"
)

// named maps the words for an instruction to its byte.
var named = map[string]byte{
	"clear": 0x01, "home": 0x02,
	"count down": 0x04, "count up": 0x06, "autoshift": 0x07,
	"display off": 0x08, "display on": 0x0C, "cursor on": 0x0E, "blink on": 0x0D,
	"cursor left": 0x10, "cursor right": 0x14, "shift left": 0x18, "shift right": 0x1C,
}

// ParseLive reads operations given by hand: an instruction by name ("clear",
// "shift left"), by number (0x0E, 0b00001110 or eight bits), "row 2", "address
// 40" or "glyph 3" for an address, "data 0x41" for a byte of data, or text in
// quotes for characters of the module's ROM.
func ParseLive(text string, m *module.Module) ([]hd44780.Operation, error) {
	t := strings.TrimSpace(text)
	if len(t) >= 2 && (t[0] == '\'' || t[0] == '"') && t[len(t)-1] == t[0] {
		return liveText(t[1:len(t)-1], m)
	}
	word := strings.ToLower(strings.Join(strings.Fields(t), " "))
	if b, ok := named[word]; ok {
		return []hd44780.Operation{hd44780.Command(b)}, nil
	}
	if verb, rest, ok := strings.Cut(word, " "); ok {
		switch verb {
		case "data":
			if b, err := number(rest); err == nil {
				return []hd44780.Operation{hd44780.Data(b)}, nil
			}
		case "address":
			if n, err := strconv.ParseUint(strings.TrimPrefix(rest, "0x"), 16, 7); err == nil {
				return []hd44780.Operation{hd44780.Command(hd44780.DDRAMBase | byte(n))}, nil
			}
		case "row":
			if n, err := strconv.Atoi(rest); err == nil {
				if _, a, ok := m.Geometry.Locate(n-1, 0); ok {
					return []hd44780.Operation{hd44780.Command(hd44780.DDRAMBase | a)}, nil
				}
				return nil, fmt.Errorf("row %d; this module has rows 1–%d", n, m.Geometry.Rows)
			}
		case "glyph":
			if n, err := strconv.Atoi(rest); err == nil && n >= 0 && n < 8 {
				return []hd44780.Operation{hd44780.Command(hd44780.CGRAMBase | byte(n*8))}, nil
			}
		}
	}
	if b, err := number(strings.ReplaceAll(word, " ", "")); err == nil {
		return []hd44780.Operation{hd44780.Command(b)}, nil
	}
	names := make([]string, 0, len(named))
	for n := range named {
		names = append(names, n)
	}
	slices.Sort(names)
	return nil, fmt.Errorf("%q is no instruction; expected a name (%s), a number such as 0x0E or 00001110, row 2, address 40, glyph 3, data 0x41, or characters in quotes such as 'Tide'", text, strings.Join(names, ", "))
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

func liveText(text string, m *module.Module) ([]hd44780.Operation, error) {
	var ops []hd44780.Operation
	for _, ch := range text {
		code, ok := m.ROM.Code(ch)
		if !ok {
			return nil, fmt.Errorf("ROM %s has no '%c' (U+%04X)", m.ROM.Name, ch, ch)
		}
		ops = append(ops, hd44780.Data(code))
	}
	return ops, nil
}
