package link

import (
	"fmt"
	"math/bits"
	"strings"

	"slatebell/core/part/hd44780"
)

// Hardware is what stands between a program and the header pins. The zero value
// is sound hardware.
type Hardware struct {
	Lost   int     // word of the program that never reaches the pins, counted from 1; 0 for none
	NoAck  bool    // nothing acknowledges the program's address, so that no pin moves
	Dead   bool    // the module is not fed
	Header *Header // what drives the header's pins; nil: each line drives its own
}

// Arrives reports whether a word of the program, counted from 0, reaches the pins.
func (h *Hardware) Arrives(word int) bool { return !h.NoAck && !h.Dead && word+1 != h.Lost }

// Behind returns the levels of the header's pins while the lines stand at some
// levels.
func (h *Hardware) Behind(lines Pins) Pins {
	if h.Header == nil {
		return lines
	}
	return h.Header.Pins(lines)
}

// Back returns the data lines as the host reads them while the header's data pins
// stand at some levels.
func (h *Hardware) Back(bus byte) byte {
	if h.Header == nil {
		return bus
	}
	back := h.Header.back
	for low := ^bus; low != 0; low &= low - 1 {
		back &^= h.Header.pulls[bits.TrailingZeros8(low)]
	}
	return back
}

// Register returns the wiring of a 74HC595's inputs where it is not the plain one,
// or nil.
func (h *Hardware) Register() *Register {
	if h.Header == nil {
		return nil
	}
	return h.Header.register
}

// What drives a pin beside lines, in a Joined.
const (
	Ground = "low"    // joined to ground
	Supply = "high"   // joined to the supply
	Pulled = "pulled" // joined to nothing but another pin's pull-up
)

// Joined says what drives each pin of a module's header: for the pin's name the
// lines that reach it, low, high or pulled, several joined by +, of which low wins;
// a pin that is left out is open. BL is the backlight: lit while it is high. Of a
// 74HC595, Register says the same of its inputs SER, SRCLK, RCLK, OE and SRCLR, for
// the lines data, clock and latch; nil: as they ought to be. The rest is what reaches the module
// beside its lines.
type Joined struct {
	Pins     map[string]string `json:"pins,omitempty" doc:"what drives each pin of the header"`
	Register map[string]string `json:"register,omitempty" doc:"what drives each input of its 74HC595"`
	NoAck    string            `json:"deaf,omitempty" maxLength:"400" doc:"backpack: why nothing on the bus reaches it"`
	Dead     string            `json:"dead,omitempty" maxLength:"400" doc:"why the module is not fed"`
	SupplyMV int               `json:"supplyMV,omitempty" minimum:"0" maximum:"6000" doc:"VDD against VSS; absent: as the module says"`
	VOMV     *int              `json:"voMV,omitempty" minimum:"-6000" maximum:"6000" doc:"VO against VSS; absent: as the module says"`
	LightMA  float64           `json:"lightMA,omitempty" minimum:"0" maximum:"10000" doc:"current of the backlight while it is lit"`
}

// Straight is the wiring in which each line that a link drives reaches its own pin
// and R/W is at ground where the link does not drive it.
func Straight(l *Link) Joined {
	w := Joined{Pins: map[string]string{}}
	for i, name := range lineNames {
		if !Line(i).Data() || i >= 8-l.Width() {
			w.Pins[name] = name
		}
	}
	return w
}

// Swapped returns the wiring with what drives two pins exchanged.
func (w Joined) Swapped(a, b string) Joined {
	pins := map[string]string{}
	for pin, from := range w.Pins {
		pins[pin] = from
	}
	pins[a], pins[b] = w.Pins[b], w.Pins[a]
	w.Pins = pins
	return w
}

// Drives is what drives each pin of a header by bits, as plain numbers: two of them
// are equal where no level of any line tells them apart. The zero value is a header
// that nothing is joined to.
type Drives struct {
	From         [Lines]Pins // lines that reach each pin, by the pin's bit
	Ground, High Pins        // pins that are tied to ground, or to the supply or another pull-up
}

// Header is a Drives compiled to tables, so that no time is spent on it while a
// program plays.
type Header struct {
	high     Pins      // pins that are high while no line pulls them low
	low      [128]Pins // pins that the lines D0–D6 pull low, by their levels
	more     [64]Pins  // pins that D7, RS, R/W, E, E2 and BL pull low, by theirs
	back     byte      // data lines that are high for a host that reads while every data pin is high
	pulls    [8]byte   // data lines that each data pin pulls low
	released Pins      // levels while no line drives anything
	register *Register // nil: the plain one
}

// Compile builds the tables of a wiring.
func (w *Joined) Compile() (*Header, error) {
	d, err := w.drives()
	if err != nil {
		return nil, err
	}
	h := d.Compile()
	return h, h.Shift(w)
}

// Shift sets how the inputs of a 74HC595 before the header are wired, as a Joined
// says.
func (h *Header) Shift(w *Joined) error {
	if w.Register == nil {
		return nil
	}
	r, err := newRegister(w.Register)
	if err != nil {
		return err
	}
	if !r.plain() {
		h.register = r
	}
	return nil
}

// drives reads the words of a wiring.
func (w *Joined) drives() (d Drives, err error) {
	for name, text := range w.Pins {
		pin, ok := ParseLine(name)
		if !ok {
			return d, fmt.Errorf("wiring: pin %q; expected one of %s", name, strings.Join(lineNames[:], ", "))
		}
		bit := pin.Bit()
		for _, source := range sources(text) {
			switch line, known := ParseLine(source); {
			case known:
				d.From[pin] |= line.Bit()
			case source == Ground:
				d.Ground |= bit
			case source == Supply || source == Pulled:
				d.High |= bit
			case source == "data" || source == "clock" || source == "latch":
				d.Ground |= bit // of a 74HC595's host lines, low but for their short pulses
			default:
				return d, fmt.Errorf("wiring: %s is driven by %q; expected lines, %s, %s or %s", name, source, Ground, Supply, Pulled)
			}
		}
	}
	return d, nil
}

// Compile builds the tables. A pin without a driver reads high where the controller
// pulls it up (D0–D7, RS and R/W: HD44780U data sheet, ADE-207-272(Z), "Pull-up MOS
// current", from memory); an enable without one makes no edge, and stays low.
func (d *Drives) Compile() *Header {
	h := new(Header)
	d.CompileTo(h)
	return h
}

// CompileTo is Compile into a header that there is already, for one who needs a new one soon again.
func (d *Drives) CompileTo(h *Header) {
	*h = Header{high: d.High, released: d.High, back: 0xFF}
	var pulls [Lines]Pins // pins that each line pulls low
	for pin, lines := range d.From {
		bit := Pins(1) << pin
		pulled := bit&(hd44780.DataPins|hd44780.RS|hd44780.RW) != 0
		if pulled {
			h.released |= bit
		}
		if pulled || lines != 0 {
			h.high |= bit
		}
		for rest := lines; rest != 0; rest &= rest - 1 {
			pulls[bits.TrailingZeros16(uint16(rest))] |= bit
		}
	}
	h.high &^= d.Ground
	h.released &^= d.Ground
	// Each level is one with one line more up, and what that line pulls low.
	for levels := len(h.low) - 2; levels >= 0; levels-- {
		line := bits.TrailingZeros16(^uint16(levels))
		h.low[levels] = h.low[levels|1<<line] | pulls[line]
	}
	for levels := len(h.more) - 2; levels >= 0; levels-- {
		line := bits.TrailingZeros16(^uint16(levels))
		h.more[levels] = h.more[levels|1<<line] | pulls[7+line]
	}
	for pin := range h.pulls {
		h.pulls[pin] = byte(d.From[pin])
		if d.Ground>>pin&1 != 0 {
			h.back &^= h.pulls[pin]
		}
	}
}

// sources splits what drives a pin.
func sources(text string) []string {
	if text == "" {
		return nil
	}
	return strings.Split(text, "+")
}

// Pins returns the levels of the header's pins.
func (h *Header) Pins(lines Pins) Pins { return h.high &^ (h.low[lines&0x7F] | h.more[lines>>7&0x3F]) }

// Released returns the levels of the header's pins while no line is driven.
func (h *Header) Released() Pins { return h.released }
