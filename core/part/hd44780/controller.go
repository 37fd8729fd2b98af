package hd44780

import (
	"time"

	"periph.io/x/conn/v3/physic"
)

// Family tells apart the controllers that share this instruction set.
type Family uint8

const (
	// LCD is the HD44780 itself.
	LCD Family = iota
	// VFDFunctionSet takes its brightness from bits 1–0 of the function set
	// (PT6314 family: 00 = 100 %, 01 = 75 %, 10 = 50 %, 11 = 25 %).
	VFDFunctionSet
	// VFDDataByte takes the same two bits from a data byte written directly
	// after a function set.
	VFDDataByte
)

// Pins is the level of the controller's pins: D7–D0 in the low byte, then RS,
// R/W and E.
type Pins uint16

// Pins above the data byte.
const (
	DataPins Pins = 0x00FF
	RS       Pins = 1 << 8
	RW       Pins = 1 << 9
	E        Pins = 1 << 10
)

// Config says how a controller is built and fed. The zero value is an HD44780
// at 270 kHz and 5 V.
type Config struct {
	Family     Family
	Oscillator physic.Frequency         // 190–350 kHz; 0 means 270 kHz
	Supply     physic.ElectricPotential // 0 means 5 V
}

// State is everything the controller remembers. It holds no pointer, so that a
// copy is a snapshot.
type State struct {
	DDRAM [80]byte // by Index, not by address
	CGRAM [64]byte

	AC         uint8 // address counter: in range for the memory it points into
	InCGRAM    bool  // AC points into CGRAM
	Decrement  bool  // entry mode I/D = 0
	AutoShift  bool  // entry mode S
	DisplayOn  bool
	CursorOn   bool
	BlinkOn    bool
	FourBit    bool  // DL = 0
	TwoLine    bool  // N
	Tall       bool  // F: 5×10, honoured in one-line mode only
	Offset     uint8 // display shift: leftmost window column's place in its line
	Brightness uint8 // VFD: quarters below full, 0–3

	Low       bool // 4-bit: the next nibble is a low one
	High      byte // the high nibble kept meanwhile, in bits 7–4
	BusyUntil time.Duration
	Prefetch  byte // data register: what the next data read returns
	Fetched   bool // Prefetch was loaded by an address set, cursor move or read
}

// Lines is the number of lines the controller is set to, 1 or 2.
func (s *State) Lines() int {
	if s.TwoLine {
		return 2
	}
	return 1
}

// Columns is how many characters DDRAM holds in each line: 80 or 40.
func (s *State) Columns() int {
	if s.TwoLine {
		return 40
	}
	return 80
}

// LineOf is how many characters of DDRAM a line has, with one line or two.
func LineOf(twoLine bool) int {
	s := State{TwoLine: twoLine}
	return s.Columns()
}

// Index returns where in DDRAM an address lies, and whether the memory has that
// address. One-line mode has 0x00–0x4F; two-line mode 0x00–0x27 and 0x40–0x67.
func (s *State) Index(addr uint8) (int, bool) {
	if !s.TwoLine {
		if addr < 80 {
			return int(addr), true
		}
		return int(addr) % 80, false
	}
	i, col := int(addr&0x3F), addr&0x3F
	if col >= 40 {
		i %= 40
	}
	if addr&0x40 != 0 {
		i += 40
	}
	return i, addr < 0x80 && col < 40
}

// Address is the inverse of Index, for 0 ≤ i < 80.
func (s *State) Address(i int) uint8 {
	if s.TwoLine && i >= 40 {
		return uint8(0x40 + i - 40)
	}
	return uint8(i)
}

// Shown returns the DDRAM index of the character that stands where, unshifted,
// the character of address addr would stand.
func (s *State) Shown(addr uint8) int {
	i, _ := s.Index(addr)
	n := s.Columns()
	return i/n*n + (i%n+int(s.Offset))%n
}

// Controller is the chip: it takes the levels of its pins over time, and keeps
// State. Use New; a Controller may be copied to keep a snapshot.
type Controller struct {
	State
	cfg    Config
	limits BusTimes
	times  [len(Instructions)]time.Duration // of execution, by Kind
	settle time.Duration                    // t_ADD
	report func(Violation)

	pins       Pins
	everRose   bool          // E has risen since power-up
	risen      time.Duration // last rise of E
	fallen     time.Duration // last fall of E
	selectAt   time.Duration // last change of RS or R/W
	dataAt     time.Duration // last change of a data pin
	reading    bool          // a read cycle is under way
	out        byte          // what it puts on the bus
	status     byte          // whole byte of a 4-bit read, taken at its first nibble
	functionAt time.Duration // last function set that was executed
	afterFunc  bool          // VFDDataByte: the last operation was a function set
	acBefore   uint8         // AC before its last delayed change
	acUntil    time.Duration // and until when a status read still shows it
	start      starting
}

// New returns a controller that was powered up at time 0 and is running its
// internal reset. Violations go to report, which may be nil.
func New(cfg Config, report func(Violation)) Controller {
	c := Controller{cfg: cfg, limits: BusLimits(cfg.Supply), report: report, settle: Scale(addressDelay, cfg.Oscillator)}
	for _, e := range Instructions {
		c.times[e.Kind] = Scale(e.Execute, cfg.Oscillator)
	}
	c.powerUp()
	return c
}

// powerUp is the reset state, data sheet "Reset function".
func (c *Controller) powerUp() {
	c.State = State{BusyUntil: ResetBusy}
	for i := range c.DDRAM {
		c.DDRAM[i] = 0x20
	}
}

// Observe replaces the function that violations go to; nil drops them.
func (c *Controller) Observe(report func(Violation)) { c.report = report }

// HoldEnable tells the controller that E is high from power-up on, as behind an
// expander whose outputs start high. No cycle begins by it.
func (c *Controller) HoldEnable(p Pins) { c.pins = p }

// Busy reports the busy flag at a time.
func (c *Controller) Busy(at time.Duration) bool { return at < c.BusyUntil }

// Bus returns what the controller drives onto D7–D0, and whether it drives them.
func (c *Controller) Bus() (b byte, driven bool) { return c.out, c.reading }

// Drive applies new levels to the pins at a time, which must not go back. All
// pins change together; a pin that changes with E's edge has no set-up time.
func (c *Controller) Drive(at time.Duration, p Pins) {
	was := c.pins
	changed := was ^ p
	if changed == 0 {
		return
	}
	c.pins = p
	if changed&E == 0 {
		c.change(at, was, changed)
		return
	}
	if p&E != 0 {
		c.change(at, was, changed)
		c.rise(at, p)
		return
	}
	c.fall(at, was, changed)
	c.note(at, changed)
}

// Pulse raises and drops E, which must be low, with the other pins as they are:
// two calls of Drive in one.
func (c *Controller) Pulse(rise, fall time.Duration) {
	high := c.pins | E
	c.rise(rise, high)
	c.fall(fall, high, E)
}

// note keeps when the select and data pins last changed.
func (c *Controller) note(at time.Duration, changed Pins) {
	if changed&(RS|RW) != 0 {
		c.selectAt = at
	}
	if changed&DataPins != 0 {
		c.dataAt = at
	}
}

// change notes changes that come without a fall of E, and checks the hold times
// after the last one.
func (c *Controller) change(at time.Duration, was, changed Pins) {
	if c.everRose && was&E == 0 && c.report != nil {
		if held := at - c.fallen; changed&(RS|RW) != 0 && held < c.limits.AddressHold {
			c.violate(Violation{Kind: AddressHold, At: at, Measured: held, Limit: c.limits.AddressHold})
		} else if changed&DataPins != 0 && held < c.limits.DataHold {
			c.violate(Violation{Kind: DataHold, At: at, Measured: held, Limit: c.limits.DataHold})
		}
	}
	if was&E != 0 && changed&(RS|RW) != 0 {
		c.violate(Violation{Kind: SelectMoved, At: at, Limit: c.limits.AddressHold})
	}
	c.note(at, changed)
}

func (c *Controller) rise(at time.Duration, p Pins) {
	if set := at - c.selectAt; set < c.limits.AddressSetup && c.selectAt > 0 {
		c.violate(Violation{Kind: AddressSetup, At: at, Measured: set, Limit: c.limits.AddressSetup})
	}
	if cycle := at - c.risen; c.everRose && cycle < c.limits.Cycle {
		c.violate(Violation{Kind: Cycle, At: at, Measured: cycle, Limit: c.limits.Cycle})
	}
	c.everRose, c.risen = true, at
	if p&RW != 0 {
		c.beginRead(at, p&RS != 0)
	}
}

func (c *Controller) fall(at time.Duration, was, changed Pins) {
	c.fallen = at
	if !c.everRose { // E was high since power-up
		return
	}
	if width := at - c.risen; width < c.limits.PulseWidth {
		c.violate(Violation{Kind: PulseWidth, At: at, Measured: width, Limit: c.limits.PulseWidth})
	}
	if changed&(RS|RW) != 0 {
		c.violate(Violation{Kind: AddressHold, At: at, Limit: c.limits.AddressHold})
	}
	if was&RW != 0 {
		c.endRead(at, was&RS != 0)
		return
	}
	if changed&DataPins != 0 {
		c.violate(Violation{Kind: DataHold, At: at, Limit: c.limits.DataHold})
	}
	if set := at - c.dataAt; set < c.limits.DataSetup && c.dataAt > 0 {
		c.violate(Violation{Kind: DataSetup, At: at, Measured: set, Limit: c.limits.DataSetup})
	}
	c.latch(at, was&RS != 0, byte(was))
}

// latch takes a byte, or in 4-bit mode a nibble, from the data pins.
func (c *Controller) latch(at time.Duration, rs bool, b byte) {
	if c.FourBit {
		if !c.Low {
			c.High, c.Low = b&0xF0, true
			if c.Busy(at) {
				c.tooEarly(at)
			}
			return
		}
		b = c.High | b>>4
		c.Low = false
	}
	if c.Busy(at) { // the byte is lost
		c.tooEarly(at)
		return
	}
	c.Execute(at, Operation{RS: rs, Byte: b})
}

func (c *Controller) tooEarly(at time.Duration) {
	c.violate(Violation{Kind: WhileBusy, At: at, Limit: c.BusyUntil - at})
}

func (c *Controller) beginRead(at time.Duration, rs bool) {
	c.reading = true
	if !c.FourBit || !c.Low {
		c.status = c.Prefetch
		if !rs {
			c.status = c.Status(at)
		} else if c.Busy(at) {
			c.tooEarly(at)
		} else if !c.Fetched {
			c.violate(Violation{Kind: ReadUnset, At: at})
		}
	}
	c.out = c.status
	if c.FourBit && c.Low {
		c.out = c.status << 4
	}
}

func (c *Controller) endRead(at time.Duration, rs bool) {
	c.reading = false
	if c.FourBit {
		c.Low = !c.Low
		if c.Low {
			return
		}
	}
	if rs && !c.Busy(at) {
		c.step(at, c.times[ReadData])
		c.fetch()
	}
}

// Status is the byte a status read returns: busy flag in bit 7, address counter
// below it.
func (c *Controller) Status(at time.Duration) byte {
	b := c.AC
	if at < c.acUntil {
		b = c.acBefore
	}
	if c.Busy(at) {
		b |= 0x80
	}
	return b
}

// Execute carries out a written operation, as if its last falling edge of E
// came at the given time and the controller were free.
func (c *Controller) Execute(at time.Duration, op Operation) {
	b, kind := op.Byte, op.Kind()
	busy := c.times[kind]
	c.BusyUntil = at + busy
	afterFunc := c.afterFunc
	c.afterFunc = false
	if kind == FunctionSet || !c.start.begun {
		c.checkStart(at, kind, b)
	}
	switch kind {
	case WriteData:
		if afterFunc && c.cfg.Family == VFDDataByte {
			c.Brightness = b & 3
			return
		}
		c.write(at, b, busy)
	case SetDDRAM:
		c.setDDRAM(at, b&0x7F)
	case SetCGRAM:
		c.AC, c.InCGRAM = b&0x3F, true
		c.fetch()
	case FunctionSet:
		c.function(at, b)
	case Shift:
		if b&ShiftGlass == 0 {
			c.move(b&ShiftRight != 0)
			c.fetch()
		} else {
			c.shift(b&ShiftRight == 0)
		}
	case DisplayControl:
		c.DisplayOn, c.CursorOn, c.BlinkOn = b&DisplayOn != 0, b&CursorOn != 0, b&BlinkOn != 0
	case EntryMode:
		c.Decrement, c.AutoShift = b&Increment == 0, b&AutoShift != 0
	case Clear:
		for i := range c.DDRAM {
			c.DDRAM[i] = 0x20
		}
		c.Decrement = false
		c.home()
	case Home:
		c.home()
	}
}

func (c *Controller) home() {
	c.AC, c.InCGRAM, c.Offset = 0, false, 0
	c.fetch()
}

func (c *Controller) function(at time.Duration, b byte) {
	c.functionAt = at
	c.FourBit, c.TwoLine, c.Tall = b&EightBit == 0, b&TwoLine != 0, b&Tall != 0
	c.Low = false
	c.afterFunc = true
	if c.cfg.Family == VFDFunctionSet {
		c.Brightness, c.Tall = b&3, false
	}
	if !c.InCGRAM {
		i, _ := c.Index(c.AC)
		c.AC = c.Address(i)
	}
	c.Offset %= uint8(c.Columns())
}

// setDDRAM moves the address counter. An address that the memory lacks is taken
// modulo its line (our choice: the data sheet leaves it undefined) and reported.
func (c *Controller) setDDRAM(at time.Duration, addr uint8) {
	i, ok := c.Index(addr)
	if !ok {
		c.violate(Violation{Kind: OutsideMemory, At: at, Value: addr})
	}
	c.AC, c.InCGRAM = c.Address(i), false
	c.fetch()
}

func (c *Controller) write(at time.Duration, b byte, busy time.Duration) {
	c.Prefetch, c.Fetched = b, false
	if c.InCGRAM {
		c.CGRAM[c.AC&63] = b
		c.step(at, busy)
		return
	}
	i, _ := c.Index(c.AC)
	c.DDRAM[i] = b
	c.step(at, busy)
	if c.AutoShift {
		c.shift(!c.Decrement)
	}
}

// step moves the address counter after a data operation; a status read shows
// it t_ADD after the busy flag clears.
func (c *Controller) step(at, busy time.Duration) {
	c.acBefore = c.AC
	c.BusyUntil = at + busy
	c.acUntil = c.BusyUntil + c.settle
	c.move(!c.Decrement)
}

// move steps the address counter by one, wrapping within its memory.
func (c *Controller) move(up bool) {
	// Nearly always it is the next address; lines end before 0x28 and 0x68, or 0x50.
	if next := c.AC + 1; up && !c.InCGRAM && next&0x3F != 0x28 && next != 0x50 {
		c.AC = next
		return
	}
	n := 80
	i, _ := c.Index(c.AC)
	if c.InCGRAM {
		n, i = 64, int(c.AC)
	}
	switch {
	case !up && i == 0:
		i = n - 1
	case !up:
		i--
	case i == n-1:
		i = 0
	default:
		i++
	}
	if c.InCGRAM {
		c.AC = uint8(i)
	} else {
		c.AC = c.Address(i)
	}
}

// shift turns every line one place, to the left or to the right.
func (c *Controller) shift(left bool) {
	n := uint8(c.Columns())
	if left {
		c.Offset = (c.Offset + 1) % n
	} else {
		c.Offset = (c.Offset + n - 1) % n
	}
}

// fetch loads the data register from the address counter's place.
func (c *Controller) fetch() {
	if c.InCGRAM {
		c.Prefetch = c.CGRAM[c.AC]
	} else {
		i, _ := c.Index(c.AC)
		c.Prefetch = c.DDRAM[i]
	}
	c.Fetched = true
}

// BlinkOut reports whether, at a time, the blinking block covers its character.
func (c *Controller) BlinkOut(at time.Duration) bool {
	return c.BlinkOn && at/BlinkPhase(c.cfg.Oscillator)%2 == 1
}
