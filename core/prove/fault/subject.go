package fault

import (
	"cmp"
	"math/bits"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/text/screen"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Subject is one module of a bench with its link, what it is wired up with and the
// program that is sent to it, as all of it ought to be.
type Subject struct {
	Module  module.Module
	Link    link.Link
	Text    screen.Text      // the screen that is sent
	Others  []screen.Text    // what the module may have shown before
	Options sequence.Options // of the program; Init and Glyphs are filled in
	Fitting Fitting
	Answers []i2cbus.Address // of the other parts on the bus
	Apart   bool             // the module has a supply of its own, beside the host's
	Inputs  []Input          // that its show listens to, mostInputs at most
}

// Fitting is what gives a module contrast and light.
type Fitting struct {
	Contrast float64                   // VDD − VO as a part of VDD, as it ought to be
	Pot      physic.ElectricResistance // 0: VO is at ground
	Light    physic.ElectricResistance // in series with A; 0 for none
	Lamp     module.Backlight
}

// feed is what comes to one hole of the header's strip.
type feed struct {
	lines   link.Pins // lines of the host, or of an expander's or register's outputs
	ground  bool
	supply  bool
	lamp    bool // the supply, through the backlight's resistor
	wiper   bool // of the potentiometer
	sink    bool // ground, while the backlight's line is high
	pulling bool // another pin of the header, which the controller pulls up
}

func (f feed) nothing() bool { return f == feed{} }

// with is what comes where two conductors are joined.
func (f feed) with(o feed) feed {
	return feed{f.lines | o.lines, f.ground || o.ground, f.supply || o.supply, f.lamp || o.lamp, f.wiper || o.wiper, f.sink || o.sink, f.pulling || o.pulling}
}

// maxPins is how many pins the longest header has.
const maxPins = 18

// pot is how a potentiometer lies; ends say what each end is joined to.
type pot struct {
	turn      float64 // of the knob, 0 with the wiper at the end that ought to be at ground
	ohm       physic.ElectricResistance
	low, high end
}

// end is what an end of the potentiometer is joined to.
type end uint8

const (
	atGround end = iota
	atSupply
)

// busState is what can be wrong between a host and a backpack; the zero value is a
// bus that works.
type busState struct {
	SDA, SCL, VCC, GND bool // open
	swapped            bool
	unpulled, strong   bool
	address            i2cbus.Address // of the hardware; 0: the program's
	mapping            int8           // of the hardware: one more than its index in Mappings; 0: the program's
	inverted           bool           // the backlight's polarity
	jumper             bool           // off
}

// state is a module with its wires and its program, after faults were made.
type state struct {
	s      *Subject
	holes  [maxPins]feed // by the pin that belongs there
	shorts uint32        // bit i: pins i and i+1 are joined
	offset int8          // by how many holes the header is plugged in too far towards the last pin
	turned bool

	groundRail, supplyRail bool // not joined to the host
	apart                  bool // no common ground
	supplyMV               int32
	pot                    pot
	bus                    busState
	inputs                 register
	serial                 bool // VFD: the solder link selects the serial interface
	slow                   bool // oscillator at its slowest
	rom                    int8 // one more than the index of the other ROM; 0: the module's own
	lost                   int32
	touched                [mostInputs]uint8 // of each input, how it is read: 0 as it ought to be
	program                program
}

// register is how the inputs of a shift register are wired: for each of SER, SRCLK
// and RCLK which line comes, counted from 1 (data, clock, latch); 0 for none.
type register struct{ ser, clock, latch uint8 }

var soundRegister = register{1, 2, 3}

// header is the pins of a module's header, once for a subject.
type header struct {
	names []string
	lines [maxPins]int8 // bit of each pin in link.Pins; 16 for pins that are none
	index map[string]int
}

func newHeader(m *module.Module) header {
	h := header{index: map[string]int{}}
	for i, p := range m.Header() {
		h.names = append(h.names, p.Name)
		h.lines[i] = int8(bits.TrailingZeros16(uint16(lineAt(p.Name)))) // 16 for none
		if p.Name != "NC" {
			h.index[p.Name] = i
		}
	}
	return h
}

// lineAt is the bit of the line that ends at a pin of the header; 0 for pins that are none's.
func lineAt(pin string) link.Pins {
	if l, ok := link.LineAt(pin); ok {
		return l.Bit()
	}
	return 0
}

// driven are the lines that the link drives.
func (s *Subject) driven() link.Pins {
	p := link.LineRS.Bit() | link.LineE.Bit()
	m := &s.Link.Mapping
	for d := 8 - s.Link.Width(); d < 8; d++ {
		p |= 1 << d
	}
	if s.Module.Geometry.Controllers == 2 {
		p |= link.E2
	}
	if s.Link.ReadWrite || s.Link.Expander() && m.RW != link.Open {
		p |= link.LineRW.Bit()
	}
	if s.Link.Expander() && m.Backlight != link.Open {
		p |= link.Backlight
	}
	return p
}

// sound is the state without a fault.
func (s *Subject) sound(h *header) state {
	st := state{s: s, supplyMV: int32(s.Module.Fed() / physic.MilliVolt), inputs: soundRegister}
	driven := s.driven()
	for i, name := range h.names {
		f := &st.holes[i]
		switch name {
		case "VSS":
			f.ground = true
		case "VDD":
			f.supply = true
		case "VO":
			f.wiper, f.ground = s.Fitting.Pot != 0, s.Fitting.Pot == 0
		case "A":
			f.lamp, f.supply = s.Fitting.Light != 0, s.Fitting.Light == 0
		case "K":
			f.sink, f.ground = driven&link.Backlight != 0, driven&link.Backlight == 0
		case "R/W":
			f.ground = driven&link.LineRW.Bit() == 0
			fallthrough
		default:
			f.lines = lineAt(name) & driven
		}
	}
	st.pot = pot{ohm: cmp.Or(s.Fitting.Pot, 10_000*physic.Ohm), low: atGround, high: atSupply}
	st.pot.turn = st.divider().TurnFor(s.Module.VO(s.Fitting.Contrast))
	return st
}
