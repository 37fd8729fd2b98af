package host

import (
	"strconv"
	"strings"
)

// megaPorts are the ports and bits behind the labels of an ATmega2560 board (from memory),
// D0 to D53, then A0 to A15.
const megaPorts = "E0 E1 E4 E5 G5 E3 H3 H4 H5 H6 B4 B5 B6 B7 J1 J0 H1 H0 D3 D2 D1 D0 A0 A1 A2 A3 A4 A5 A6 A7 " +
	"C7 C6 C5 C4 C3 C2 C1 C0 D7 G2 G1 G0 L7 L6 L5 L4 L3 L2 L1 L0 B3 B2 B1 B0 " +
	"F0 F1 F2 F3 F4 F5 F6 F7 K0 K1 K2 K3 K4 K5 K6 K7"

// gpio8266 are the numbers behind the labels of an ESP8266 board (from memory).
var gpio8266 = map[string]int{"D0": 16, "D1": 5, "D2": 4, "D3": 0, "D4": 2, "D5": 14, "D6": 12, "D7": 13, "D8": 15, "TX": 1, "RX": 3, "A0": 17}

// editorAnalog are the numbers that the widespread editor has for A0, on boards whose other pins it
// calls by their labels' numbers (its boards' packages, from memory); 99 where there is no A0.
var editorAnalog = map[string]int{"ATmega32U4": 18, "SAMD21": 14, "ATtiny85": 99}

// letters are the ports of an ATmega in the order of their registers; there is no I.
const letters = "ABCDEFGHJKL"

// Number is what programs call the pin of a label: the number of its port (A 0, B 1, …,
// the letter I left out) times eight and its bit on an ATmega, the GPIO number on others, the
// number that the widespread editor has where only it is used, or
// the pin's place in the list of a host that its user describes. It is false for a label
// that the board has not.
func (b *Board) Number(label string) (n int, ok bool) {
	p, ok := b.Find(label)
	if !ok {
		return 0, false
	}
	label = strings.ToUpper(p.Label)
	kind := strings.TrimRight(label, "0123456789")
	n, err := strconv.Atoi(label[len(kind):])
	switch {
	case b.Chip == "ESP8266":
		n, ok = gpio8266[label]
		return n, ok
	case err == nil && b.Chip == "ATmega328P":
		switch {
		case kind == "A":
			return 2*8 + n, true // port C
		case n < 8:
			return 3*8 + n, true // port D
		}
		return 1*8 + n - 8, true // port B
	case err == nil && b.Chip == "ATmega2560":
		if kind == "A" {
			n += 54
		}
		port := strings.Fields(megaPorts)[n]
		return strings.IndexByte(letters, port[0])*8 + int(port[1]-'0'), true
	case err == nil && (kind == "GP" || kind == "GPIO"):
		return n, true
	case err == nil && editorAnalog[b.Chip] > 0:
		if kind == "A" {
			n += editorAnalog[b.Chip]
		}
		return n, true
	}
	for i, p := range b.Pins {
		if strings.EqualFold(p.Label, label) {
			return i, true
		}
	}
	return 0, false
}
