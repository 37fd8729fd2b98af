// Package link is how a byte reaches the module's pins: 4 or 8 parallel lines,
// an I²C expander ("backpack") or a shift register. It turns operations into
// wire traffic, says what each word of it does to the header pins, and counts
// its time on the wire.
//
// It stands above hd44780 in the flow screen → cells → operations → wire
// traffic → rig → glass. The encoder and the pin map are separate halves: a
// sequence uses one, the rig the other, which may be wired differently.
package link

import (
	"fmt"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/i2cbus"
)

// Kind is the kind of link.
type Kind string

// The kinds.
const (
	Backpack  Kind = "backpack"  // I²C expander PCF8574 or PCF8574A
	Parallel4 Kind = "parallel4" // RS, E and D4–D7 on host pins
	Parallel8 Kind = "parallel8" // RS, E and D0–D7 on host pins
	ShiftReg  Kind = "shift"     // 74HC595: data, clock and latch on host pins
)

// Kinds lists the kinds in the order of their cost in host pins.
var Kinds = []Kind{Backpack, ShiftReg, Parallel4, Parallel8}

// Grouping says how the words for an expander are put into I²C transactions.
type Grouping string

// The groupings.
const (
	PerByte      Grouping = "byte"      // every byte its own transaction
	PerOperation Grouping = "operation" // one transaction an operation
	WholeScreen  Grouping = "screen"    // one transaction as long as no pause is needed
)

// Setup says how RS and data are set up before E rises on an expander or shift
// register, whose outputs change all together.
type Setup string

// The set-ups.
const (
	SetupLawful Setup = "lawful" // a word of its own before E whenever RS or R/W changes
	SetupBefore Setup = "before" // a word of its own before every E
	SetupWithE  Setup = "with-e" // together with E: breaks t_AS whenever RS changes
)

// Link is a link as the host drives it. Use New for the usual settings.
type Link struct {
	Kind      Kind
	Address   uint8            // backpack: 7-bit I²C address
	Mapping   Mapping          // backpack, shift register
	Backlight bool             // backpack, shift register: backlight on
	ReadWrite bool             // R/W is joined to the host, so that it can read
	Speed     physic.Frequency // I²C or shift clock
	Grouping  Grouping         // backpack
	Setup     Setup            // backpack, shift register
	Enables   int              // 1, or 2 for a module with two controllers
	PinTime   time.Duration    // parallel: between two changes of the host's pins; 0 means UsualPinTime
}

// UsualPinTime is what a host takes to write a pin through its library (common
// practice: about a microsecond or more). It keeps every limit of
// hd44780.BusAt3V; a fast host that writes its registers directly does not.
const UsualPinTime = time.Microsecond

// New returns a link of a kind with its usual settings: backpack at 0x27 and
// 100 kHz with the usual mapping, R/W to ground on the others.
func New(k Kind) Link {
	l := Link{Kind: k, Address: 0x27, Mapping: UsualMapping, Backlight: true, Grouping: WholeScreen, Setup: SetupLawful, Enables: 1}
	switch k {
	case Backpack:
		l.Speed, l.ReadWrite = 100*physic.KiloHertz, true
	case ShiftReg:
		l.Mapping, l.Speed = UsualShiftMapping, 500*physic.KiloHertz
	}
	return l
}

// Expander reports whether the link's words set eight outputs at once.
func (l *Link) Expander() bool { return l.Kind == Backpack || l.Kind == ShiftReg }

// SwitchesLight reports whether an output switches the backlight.
func (l *Link) SwitchesLight() bool { return l.Expander() && l.Mapping.Backlight != Open }

// Output names output n of an expander, P0 to P7, or of a shift register, QA to QH.
func (l *Link) Output(n int) string {
	if l.Kind == ShiftReg {
		return "Q" + string(rune('A'+n))
	}
	return fmt.Sprintf("P%d", n)
}

// Width is the number of data lines that reach the module: 4 or 8.
func (l *Link) Width() int {
	if l.Kind == Parallel8 {
		return 8
	}
	return 4
}

// Validate reports the first setting that cannot be, and what would be right.
func (l *Link) Validate() error {
	if l.Enables != 1 && l.Enables != 2 {
		return fmt.Errorf("%d enables; expected 1 or 2", l.Enables)
	}
	switch l.Kind {
	case Parallel4, Parallel8:
		if l.PinTime < 0 || l.PinTime > time.Millisecond {
			return fmt.Errorf("pin time %s; expected 0–1 ms, usually 1 µs", l.PinTime)
		}
		return nil
	case Backpack:
		if _, ok := i2cbus.Expander(i2cbus.Address(l.Address)); !ok {
			return fmt.Errorf("address 0x%02X (%d): an expander has 0x20–0x27 (PCF8574) or 0x38–0x3F (PCF8574A)", l.Address, l.Address)
		}
		if l.Speed < physic.KiloHertz || l.Speed > 400*physic.KiloHertz {
			return fmt.Errorf("I²C speed %s; expected 1–400 kHz (the expander's limit is 100 kHz)", l.Speed)
		}
	case ShiftReg:
		if l.Speed < physic.KiloHertz || l.Speed > 20*physic.MegaHertz {
			return fmt.Errorf("shift clock %s; expected 1 kHz–20 MHz", l.Speed)
		}
	default:
		return fmt.Errorf("link %q is not known; expected backpack, parallel4, parallel8 or shift", l.Kind)
	}
	switch l.Grouping {
	case PerByte, PerOperation, WholeScreen:
	default:
		return fmt.Errorf("transactions %q; expected byte, operation or screen", l.Grouping)
	}
	switch l.Setup {
	case SetupLawful, SetupBefore, SetupWithE:
	default:
		return fmt.Errorf("set-up %q; expected lawful, before or with-e", l.Setup)
	}
	return l.Mapping.Validate(l.Enables, l.Kind == Backpack && l.ReadWrite)
}

// HostPins lists the host's pins by their role.
func (l *Link) HostPins() []string {
	switch l.Kind {
	case Backpack:
		return []string{"SDA", "SCL"}
	case ShiftReg:
		return []string{"data", "clock", "latch"}
	}
	pins := []string{"RS", "E"}
	if l.Enables == 2 {
		pins = append(pins, "E2")
	}
	if l.ReadWrite {
		pins = append(pins, "R/W")
	}
	for d := 8 - l.Width(); d < 8; d++ {
		pins = append(pins, fmt.Sprintf("D%d", d))
	}
	return pins
}
