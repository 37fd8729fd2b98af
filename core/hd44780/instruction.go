package hd44780

import (
	"fmt"
	"time"
)

// Operation is one byte exchanged with the controller: the levels of RS and R/W
// and the byte on D7–D0. The zero value writes the byte 0x00 to the instruction
// register, which the controller ignores.
type Operation struct {
	RS   bool // register select: high for data, low for instructions
	RW   bool // read/write: high for a read
	Byte byte
}

// Command returns the operation that writes b to the instruction register.
func Command(b byte) Operation { return Operation{Byte: b} }

// Data returns the operation that writes b to DDRAM or CGRAM.
func Data(b byte) Operation { return Operation{RS: true, Byte: b} }

// Kind names what an operation makes the controller do.
type Kind uint8

// The instruction set, data sheet table 6.
const (
	Nothing Kind = iota // instruction byte 0x00: no bit set
	Clear
	Home
	EntryMode
	DisplayControl
	Shift
	FunctionSet
	SetCGRAM
	SetDDRAM
	ReadStatus
	WriteData
	ReadData
)

// Bits of the instruction bytes.
const (
	ClearByte  byte = 0x01
	HomeByte   byte = 0x02
	EntryBase  byte = 0x04
	Increment  byte = 0x02 // entry mode I/D: address counter counts up
	AutoShift  byte = 0x01 // entry mode S: display shifts on a DDRAM write
	DisplayOff byte = 0x08 // display control with D, C and B clear
	DisplayOn  byte = 0x04 // D
	CursorOn   byte = 0x02 // C
	BlinkOn    byte = 0x01 // B
	ShiftBase  byte = 0x10
	ShiftGlass byte = 0x08 // S/C: the display moves, not the cursor
	ShiftRight byte = 0x04 // R/L
	FuncBase   byte = 0x20
	EightBit   byte = 0x10 // DL
	TwoLine    byte = 0x08 // N
	Tall       byte = 0x04 // F: 5×10 dots
	CGRAMBase  byte = 0x40
	DDRAMBase  byte = 0x80
)

// BitField is one named bit, or run of bits, of an instruction byte.
type BitField struct {
	Name    string // as in the data sheet: "I/D", "DL", "ACG"
	High    uint8  // number of its highest bit, 7–0
	Width   uint8  // bits
	Clear   string // what 0 means; empty for a number
	Set     string // what 1 means; empty for a number
	Numeric bool   // the field is a number (an address or a data byte)
}

// Entry is a row of the instruction table.
type Entry struct {
	Kind    Kind
	Name    string
	Summary string
	Mask    byte // of the instruction byte: the bits that decide
	Value   byte
	RS, RW  bool
	Execute time.Duration // at 270 kHz
	Fields  []BitField
}

// Instructions is the instruction table, data sheet table 6, in the order in
// which an instruction byte is matched: the first set bit decides.
var Instructions = [...]Entry{
	{SetDDRAM, "Set DDRAM address", "Moves the address counter to a place in display memory.", 0x80, 0x80, false, false, 37 * time.Microsecond,
		[]BitField{{Name: "ADD", High: 6, Width: 7, Numeric: true}}},
	{SetCGRAM, "Set CGRAM address", "Moves the address counter to a row of a glyph in character-generator memory.", 0xC0, 0x40, false, false, 37 * time.Microsecond,
		[]BitField{{Name: "ACG", High: 5, Width: 6, Numeric: true}}},
	{FunctionSet, "Function set", "Chooses interface width, number of lines and font. Belongs at the head of a program.", 0xE0, 0x20, false, false, 37 * time.Microsecond,
		[]BitField{{"DL", 4, 1, "4-bit interface", "8-bit interface", false}, {"N", 3, 1, "one line", "two lines", false}, {"F", 2, 1, "5×8 dots", "5×10 dots", false}}},
	{Shift, "Cursor or display shift", "Moves the cursor or the whole display one place, memory unchanged.", 0xF0, 0x10, false, false, 37 * time.Microsecond,
		[]BitField{{"S/C", 3, 1, "cursor moves", "display shifts", false}, {"R/L", 2, 1, "to the left", "to the right", false}}},
	{DisplayControl, "Display on/off", "Turns the display, the underline cursor and the blinking block on or off.", 0xF8, 0x08, false, false, 37 * time.Microsecond,
		[]BitField{{"D", 2, 1, "display off", "display on", false}, {"C", 1, 1, "cursor off", "cursor on", false}, {"B", 0, 1, "blink off", "blink on", false}}},
	{EntryMode, "Entry mode set", "Chooses which way the address counter steps and whether the display shifts with it.", 0xFC, 0x04, false, false, 37 * time.Microsecond,
		[]BitField{{"I/D", 1, 1, "address counts down", "address counts up", false}, {"S", 0, 1, "display stays", "display shifts", false}}},
	{Home, "Return home", "Address counter to 0 and the display unshifted; memory kept.", 0xFE, 0x02, false, false, 1520 * time.Microsecond, nil},
	{Clear, "Clear display", "Fills DDRAM with spaces, address counter to 0, display unshifted, counting up.", 0xFF, 0x01, false, false, 1520 * time.Microsecond, nil},
	{Nothing, "No instruction", "No bit is set; the controller does nothing.", 0xFF, 0x00, false, false, 0, nil},
	{ReadStatus, "Read busy flag and address", "Reads the busy flag (bit 7) and the address counter.", 0, 0, false, true, 0,
		[]BitField{{"BF", 7, 1, "ready", "busy", false}, {Name: "AC", High: 6, Width: 7, Numeric: true}}},
	{WriteData, "Write data", "Writes a byte to DDRAM or CGRAM at the address counter, then steps it.", 0, 0, true, false, 37 * time.Microsecond,
		[]BitField{{Name: "data", High: 7, Width: 8, Numeric: true}}},
	{ReadData, "Read data", "Reads a byte from DDRAM or CGRAM at the address counter, then steps it.", 0, 0, true, true, 37 * time.Microsecond,
		[]BitField{{Name: "data", High: 7, Width: 8, Numeric: true}}},
}

// decoded maps RS<<9 | R/W<<8 | byte to an index into Instructions.
var decoded = func() (t [1024]uint8) {
	for i := range t {
		for j, e := range Instructions {
			if e.RS == (i>>9 != 0) && e.RW == (i>>8&1 != 0) && byte(i)&e.Mask == e.Value {
				t[i] = uint8(j)
				break
			}
		}
	}
	return t
}()

// Lookup returns the row of the instruction table that op matches.
func (op Operation) Lookup() *Entry {
	i := int(op.Byte)
	if op.RS {
		i |= 1 << 9
	}
	if op.RW {
		i |= 1 << 8
	}
	return &Instructions[decoded[i]]
}

// Kind returns what op makes the controller do.
func (op Operation) Kind() Kind {
	switch { // the rig asks this for every byte
	case !op.RS && !op.RW:
		return written[op.Byte]
	case !op.RW:
		return WriteData
	case op.RS:
		return ReadData
	}
	return ReadStatus
}

// written maps an instruction byte to its kind.
var written = func() (t [256]Kind) {
	for i := range t {
		t[i] = Command(byte(i)).Lookup().Kind
	}
	return t
}()

// Explain says in words what op does, bits included, as "Function set: 4-bit
// interface, two lines, 5×8 dots".
func (op Operation) Explain() string {
	e := op.Lookup()
	text := e.Name
	sep := ": "
	for _, f := range e.Fields {
		v := op.Byte >> (f.High + 1 - f.Width) & byte(1<<f.Width-1)
		switch {
		case f.Numeric:
			text += fmt.Sprintf("%s0x%02X", sep, v)
		case v == 0:
			text += sep + f.Clear
		default:
			text += sep + f.Set
		}
		sep = ", "
	}
	return text
}
