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

// InstructionKind names what an operation makes the controller do.
type InstructionKind uint8

// The instruction set, data sheet table 6.
const (
	Nothing InstructionKind = iota // instruction byte 0x00: no bit set
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
	Name    string   // as in the data sheet: "I/D", "DL", "ACG"
	High    uint8    // number of its highest bit, 7–0
	Width   uint8    // bits
	Clear   string   // what 0 means; empty for a number
	Set     string   // what 1 means; empty for a number
	Numeric bool     // the field is a number (an address or a data byte)
	Values  []string // what each value of a wider field means; nil for other fields
}

// Entry is a row of the instruction table.
type Entry struct {
	Kind    InstructionKind
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
		[]BitField{{Name: "DL", High: 4, Width: 1, Clear: "4-bit interface", Set: "8-bit interface"}, {Name: "N", High: 3, Width: 1, Clear: "one line", Set: "two lines"}, {Name: "F", High: 2, Width: 1, Clear: "5×8 dots", Set: "5×10 dots"}}},
	{Shift, "Cursor or display shift", "Moves the cursor or the whole display one place, memory unchanged.", 0xF0, 0x10, false, false, 37 * time.Microsecond,
		[]BitField{{Name: "S/C", High: 3, Width: 1, Clear: "cursor moves", Set: "display shifts"}, {Name: "R/L", High: 2, Width: 1, Clear: "to the left", Set: "to the right"}}},
	{DisplayControl, "Display on/off", "Turns the display, the underline cursor and the blinking block on or off.", 0xF8, 0x08, false, false, 37 * time.Microsecond,
		[]BitField{{Name: "D", High: 2, Width: 1, Clear: "display off", Set: "display on"}, {Name: "C", High: 1, Width: 1, Clear: "cursor off", Set: "cursor on"}, {Name: "B", High: 0, Width: 1, Clear: "blink off", Set: "blink on"}}},
	{EntryMode, "Entry mode set", "Chooses which way the address counter steps and whether the display shifts with it.", 0xFC, 0x04, false, false, 37 * time.Microsecond,
		[]BitField{{Name: "I/D", High: 1, Width: 1, Clear: "address counts down", Set: "address counts up"}, {Name: "S", High: 0, Width: 1, Clear: "display stays", Set: "display shifts"}}},
	{Home, "Return home", "Address counter to 0 and the display unshifted; memory kept.", 0xFE, 0x02, false, false, 1520 * time.Microsecond, nil},
	{Clear, "Clear display", "Fills DDRAM with spaces, address counter to 0, display unshifted, counting up.", 0xFF, 0x01, false, false, 1520 * time.Microsecond, nil},
	{Nothing, "No instruction", "No bit is set; the controller does nothing.", 0xFF, 0x00, false, false, 0, nil},
	{ReadStatus, "Read busy flag and address", "Reads the busy flag (bit 7) and the address counter.", 0, 0, false, true, 0,
		[]BitField{{Name: "BF", High: 7, Width: 1, Clear: "ready", Set: "busy"}, {Name: "AC", High: 6, Width: 7, Numeric: true}}},
	{WriteData, "Write data", "Writes a byte to DDRAM or CGRAM at the address counter, then steps it.", 0, 0, true, false, 37 * time.Microsecond,
		[]BitField{{Name: "data", High: 7, Width: 8, Numeric: true}}},
	{ReadData, "Read data", "Reads a byte from DDRAM or CGRAM at the address counter, then steps it.", 0, 0, true, true, 37 * time.Microsecond,
		[]BitField{{Name: "data", High: 7, Width: 8, Numeric: true}}},
}

// dimmable is the function set of controllers that take their brightness from
// its lowest bits (PT6314 family, from memory); it has no font bit.
var dimmable = func() Entry {
	e := *Command(FuncBase).Lookup()
	e.Summary = "Chooses interface width, number of lines and brightness. Belongs at the head of a program."
	e.Fields = append(e.Fields[:2:2], BitField{Name: "BR", High: 1, Width: 2, Values: []string{"brightness 100 %", "brightness 75 %", "brightness 50 %", "brightness 25 %"}})
	return e
}()

// Entry returns a row of the instruction table as the family has it.
func (f Family) Entry(e *Entry) *Entry {
	if e.Kind == FunctionSet && f == VFDFunctionSet {
		return &dimmable
	}
	return e
}

// decoded maps Operation.index to an index into Instructions.
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

// index is RS<<9 | R/W<<8 | byte.
func (op Operation) index() int {
	i := int(op.Byte)
	if op.RS {
		i |= 1 << 9
	}
	if op.RW {
		i |= 1 << 8
	}
	return i
}

// Lookup returns the row of the instruction table that op matches.
func (op Operation) Lookup() *Entry { return &Instructions[decoded[op.index()]] }

// Kind returns what op makes the controller do.
func (op Operation) Kind() InstructionKind { return kinds[op.index()] }

// kinds is the Kind of each row that decoded names: the rig asks for it with
// every byte.
var kinds = func() (t [1024]InstructionKind) {
	for i := range t {
		t[i] = Instructions[decoded[i]].Kind
	}
	return t
}()

// Explain says in words what op does to an LCD controller; see Family.Explain.
func (op Operation) Explain() string { return LCD.Explain(op) }

// Explain says in words what op does, bits included, as "Function set: 4-bit
// interface, two lines, 5×8 dots".
func (f Family) Explain(op Operation) string {
	e := f.Entry(op.Lookup())
	text := e.Name
	sep := ": "
	for i := range e.Fields {
		text += sep + e.Fields[i].Explain(op.Byte)
		sep = ", "
	}
	return text
}

// Explain says what a field of an instruction byte means.
func (f *BitField) Explain(b byte) string {
	v := b >> (f.High + 1 - f.Width) & byte(1<<f.Width-1)
	switch {
	case f.Values != nil:
		return f.Values[v]
	case f.Numeric:
		return fmt.Sprintf("0x%02X", v)
	case v == 0:
		return f.Clear
	}
	return f.Set
}
