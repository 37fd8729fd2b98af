package link

import (
	"fmt"
	"slices"

	"slatebell/core/part/hd44780"
)

// Line is a line between a program and the pins of a header: the number of its bit in Pins.
type Line uint8

// The lines; D0 to D7 are 0 to 7.
const (
	LineD0 Line = iota
	LineD1
	LineD2
	LineD3
	LineD4
	LineD5
	LineD6
	LineD7
	LineRS
	LineRW
	LineE
	LineE2 // E of a second controller
	LineBL // the backlight's switch: a line of the link that ends at no pin of the header

	Lines // how many there are
)

// lineNames are the lines as documents and mappings call them.
var lineNames = [Lines]string{"D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7", "RS", "RW", "E", "E2", "BL"}

// String is the line's name in documents and mappings: RW for read or write.
func (l Line) String() string {
	if l >= Lines {
		return fmt.Sprintf("line %d", uint8(l))
	}
	return lineNames[l]
}

// Pin is what a header prints at the line's pin: R/W of RW, the rest alike.
func (l Line) Pin() string {
	if l == LineRW {
		return "R/W"
	}
	return l.String()
}

// Bit is the line's level among those of all pins.
func (l Line) Bit() Pins { return 1 << l }

// Data reports whether the line carries data: D0 to D7.
func (l Line) Data() bool { return l <= LineD7 }

// ParseLine reads a line's name in documents; false for what is none.
func ParseLine(name string) (Line, bool) {
	at := slices.Index(lineNames[:], name)
	return Line(max(at, 0)), at >= 0
}

// LineAt returns the line that ends at a pin of the header, by what is printed there; false for
// pins that are no line's, as VDD.
func LineAt(pin string) (Line, bool) {
	for l := range Lines {
		if l != LineBL && l.Pin() == pin {
			return l, true
		}
	}
	return 0, false
}

// Pins is the level of the module's header pins: the controller's own in the
// low bits, then the second enable and the backlight.
type Pins = hd44780.Pins

// Pins beside the controller's own.
const (
	E2        Pins = 1 << LineE2
	Backlight Pins = 1 << LineBL
)
