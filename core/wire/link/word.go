package link

import (
	"fmt"
	"slices"
	"time"

	"slatebell/core/part/hd44780"
)

// Word is one unit of wire traffic. On an expander or shift register it is the
// byte on its outputs. On parallel links it is one pulse of E: the nibble or
// byte on the data pins, then RS, R/W and which enable is pulsed, as laid out
// below. The marks in the top bits belong to every kind.
type Word uint16

// Layout of parallel words: 4 data bits on Parallel4, 8 on Parallel8, then RS,
// R/W and two bits for the enable, counted from the width of the data.
const (
	wordRS = 1 << iota
	wordRW
	wordE2   // the second enable
	wordBoth // both enables
)

// Marks.
const (
	Begin  Word = 1 << 12 // START and the address byte come before it
	Finish Word = 1 << 13 // STOP comes after it
	Read   Word = 1 << 14 // the host reads the expander's pins instead of writing them
	Marks       = Begin | Finish | Read
)

// Reads reports whether R/W is high in a parallel word of the link.
func (l *Link) Reads(w Word) bool { return w>>l.Width()&wordRW != 0 }

// Enable chooses the controllers an operation is for.
type Enable uint8

// The enables.
const (
	First  Enable = iota // E
	Second               // E2
	Both
)

// enables names the enables, by their number.
var enables = [...]string{"E", "E2", "both"}

// String returns "E", "E2" or "both".
func (e Enable) String() string { return enables[e%3] }

// ParseEnable reads what String writes; false for any other text.
func ParseEnable(s string) (Enable, bool) {
	i := slices.Index(enables[:], s)
	return Enable(max(i, 0)), i >= 0
}

// Pins returns which enable pins are pulsed.
func (e Enable) Pins() Pins {
	return [...]Pins{hd44780.E, E2, hd44780.E | E2}[e%3]
}

// Coder turns operations into words for one link, and words into pin levels.
// It remembers the last levels of RS and R/W, as the outputs keep them. Its
// methods do not fail; make it with NewCoder, which checks the link.
type Coder struct {
	link   Link
	outs   bool // link.Expander()
	width  int  // link.Width()
	table  [256]Pins
	pin    time.Duration // link.PinTime, the usual one filled in
	levels Pins          // RS and R/W as last put on the outputs
	known  bool          // levels holds
}

// NewCoder checks a link and returns its coder.
func NewCoder(l Link) (*Coder, error) {
	if err := l.Validate(); err != nil {
		return nil, fmt.Errorf("link: %w", err)
	}
	c := &Coder{link: l, outs: l.Expander(), width: l.Width(), pin: l.PinTime}
	if c.pin == 0 {
		c.pin = UsualPinTime
	}
	if c.outs {
		c.table = l.Mapping.pinTable()
	}
	return c, nil
}

// Fresh returns a coder for the same link that has put nothing on the outputs yet.
func (c *Coder) Fresh() *Coder {
	fresh := *c
	fresh.levels, fresh.known = 0, false
	return &fresh
}

// Link returns the link it codes for.
func (c *Coder) Link() Link { return c.link }

// Pulse is how a host moves parallel pins: data and RS are set, E rises after
// the first time, falls after the second, and the third passes before the next
// change.
func (c *Coder) Pulse() (setup, high, low time.Duration) { return c.pin, c.pin, c.pin }

// Bit is the period of the clock of a backpack or shift register; 0 for others.
func (c *Coder) Bit() time.Duration {
	if !c.outs {
		return 0
	}
	return c.link.Speed.Period()
}

// Width is the number of data lines that reach the module: 4 or 8.
func (c *Coder) Width() int { return c.width }

// Expanded reports whether words set eight outputs at once.
func (c *Coder) Expanded() bool { return c.outs }

// Levels returns the header pins while a word stands on the outputs. For
// parallel links that is without E, which Pulsed adds.
func (c *Coder) Levels(w Word) Pins {
	if c.outs {
		return c.table[byte(w)]
	}
	p, flags := Pins(w)&0xFF, w>>8
	if c.width == 4 {
		p, flags = p&0x0F<<4|0x0F, w>>4
	}
	if flags&wordRS != 0 {
		p |= hd44780.RS
	}
	if flags&wordRW != 0 {
		p |= hd44780.RW
	}
	return p | Backlight
}

// Pulsed returns the enables that a parallel word pulses; 0 for other links.
func (c *Coder) Pulsed(w Word) Pins {
	if c.outs {
		return 0
	}
	switch flags := w >> c.width; {
	case flags&wordBoth != 0:
		return Both.Pins()
	case flags&wordE2 != 0:
		return Second.Pins()
	}
	return First.Pins()
}

// Raises reports whether a word puts an enable high.
func (c *Coder) Raises(w Word) bool {
	return !c.outs || c.Levels(w)&(hd44780.E|E2) != 0
}

// Append appends the words of an operation. With half, only the high nibble is
// sent, as to an interface that is still eight bits wide behind four lines.
func (c *Coder) Append(dst []Word, op hd44780.Operation, en Enable, half bool) []Word {
	if c.width == 8 {
		return c.pulse(dst, op, op.Byte, en)
	}
	dst = c.pulse(dst, op, op.Byte>>4, en)
	if !half {
		dst = c.pulse(dst, op, op.Byte&0x0F, en)
	}
	return dst
}

// pulse appends one pulse of E with a nibble or, on eight lines, a byte.
func (c *Coder) pulse(dst []Word, op hd44780.Operation, data byte, en Enable) []Word {
	if !c.outs {
		var flags Word
		if op.RS {
			flags |= wordRS
		}
		if op.RW {
			flags |= wordRW
		}
		flags |= [...]Word{0, wordE2, wordBoth}[en%3]
		return append(dst, Word(data)|flags<<c.width)
	}
	sel := selectPins(op)
	p := Pins(data)<<4 | sel | c.light()
	if op.RW { // the expander's outputs must be high to be read
		p |= 0xF0
	}
	idle := Word(c.link.Mapping.Byte(p))
	if c.link.Setup == SetupBefore || c.link.Setup == SetupLawful && (!c.known || sel != c.levels) {
		dst = append(dst, idle)
	}
	c.levels, c.known = sel, true
	dst = append(dst, Word(c.link.Mapping.Byte(p|en.Pins())))
	if op.RW {
		dst = append(dst, Read|Word(c.link.Mapping.Byte(p|en.Pins())))
	}
	return append(dst, idle)
}

// selectPins returns RS and R/W for an operation.
func selectPins(op hd44780.Operation) (p Pins) {
	if op.RS {
		p |= hd44780.RS
	}
	if op.RW {
		p |= hd44780.RW
	}
	return p
}

func (c *Coder) light() Pins {
	if c.link.Backlight {
		return Backlight
	}
	return 0
}

// Raw appends the word that puts a byte onto the outputs as it is.
func (c *Coder) Raw(dst []Word, data byte) []Word {
	c.known = false // what RS and R/W were set to before does not count any more
	return append(dst, Word(data))
}

// Park appends the words that bring a freshly powered expander, whose outputs
// all start high, to rest: E falls first while RS and R/W hold, then the rest
// goes low. Other links need none.
func (c *Coder) Park(dst []Word) []Word {
	if !c.outs {
		return dst
	}
	high := hd44780.RS | hd44780.RW | 0xF0 | c.light()
	c.levels, c.known = 0, true
	return append(dst, Word(c.link.Mapping.Byte(high)), Word(c.link.Mapping.Byte(c.light())))
}

// PowerUp returns the header pins before the host has driven any: an expander's
// outputs are high (PCF8574 data sheet); a shift register and a parallel host
// are taken to start low.
func (c *Coder) PowerUp() Pins {
	switch {
	case c.link.Kind == Backpack:
		return c.table[0xFF]
	case c.link.Kind == ShiftReg:
		return c.table[0]
	}
	return Backlight
}

// Format writes a word as hexadecimal without its marks: two digits for
// outputs and bytes, one for a nibble. RS and R/W of a parallel word are left
// out; FormatFull keeps them.
func (c *Coder) Format(w Word) string {
	if c.link.Kind == Parallel4 {
		return fmt.Sprintf("%X", w&0x0F)
	}
	return fmt.Sprintf("%02X", byte(w))
}

// FormatFull is Format with RS, R/W and the enable of a parallel word in the
// digits above its data, as Levels reads them: "4" or "14" on four lines.
func (c *Coder) FormatFull(w Word) string {
	if c.outs {
		return c.Format(w)
	}
	return fmt.Sprintf("%0*X", c.width/4, w&^Marks)
}
