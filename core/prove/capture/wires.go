package capture

import (
	"time"

	"slatebell/core/wire/link"
)

// Wires are the levels of a header by those of the channels of a recording. Make them with NewWires.
type Wires struct {
	found *Found
	coder *link.Coder
	take  func(Change) (Byte, bool) // of a bus or a register; nil: the channels are the header's lines
	shift *shiftReader              // of a register

	address uint8 // of the transaction, 0 where its beginning was not recorded
	reads   bool
	Last    Byte // that which came last on the bus or into the register, of whatever device
	Came    int  // how many came
}

// NewWires begins to read a recording whose first changes are known. The coder is that of the link that was found.
func NewWires(f *Found, c *link.Coder, first []Change) Wires {
	w := Wires{found: f, coder: c}
	switch f.Kind {
	case link.Backpack:
		bus := busAt(inverted(first, f.Invert), f.Lines[SDA], f.Lines[SCL])
		w.take = bus.take
	case link.ShiftReg:
		w.shift = &shiftReader{data: f.Lines[Data], clock: f.Lines[Clock], latch: f.Lines[Latch]}
		w.take = w.shift.take
	}
	return w
}

// Rest is what stands on the header's pins at the end of a recording where a register's last byte came whole and its latch lies between two samples, and
// since when; ok is false elsewhere.
func (w *Wires) Rest() (at time.Duration, p link.Pins, ok bool) {
	if w.shift == nil || w.shift.bits != 8 || w.shift.missed == 0 {
		return 0, 0, false
	}
	w.shift.bits = 0
	w.shift.missed++
	return w.shift.clocked, w.coder.Levels(link.Word(w.shift.value)), true
}

// Missed is how many rises of a register's latch lie between two samples, by the clocks that came.
func (w *Wires) Missed() int {
	if w.shift == nil {
		return 0
	}
	return w.shift.missed
}

// Bare reports whether the channels are the header's lines themselves, so that what is between their edges is what the module sees.
func (w *Wires) Bare() bool { return w.take == nil }

// Header is what stands on the header's pins after a change; ok where they may have changed. came says that a byte for the module came by it, which is
// Last; one that is not acknowledged changes nothing.
func (w *Wires) Header(c Change) (p link.Pins, came, ok bool) {
	c.Levels ^= w.found.Invert
	if w.take == nil {
		return w.found.Lines.pins(c.Levels), false, true
	}
	got, ok := w.take(c)
	if !ok {
		return 0, false, false
	}
	w.Last = got
	w.Came++
	switch {
	case got.First:
		w.address, w.reads = got.Value>>1, got.Value&1 == 1
		return 0, false, false
	case w.address != 0 && w.address != w.found.Address || w.reads:
		return 0, false, false
	}
	return w.coder.Levels(link.Word(got.Value)), true, got.Ack
}

// Evidence is how much likelier, as a logarithm, a byte is in the traffic of a program on so many data lines, 4 or 8, than among all bytes alike.
func Evidence(width int, rs bool, b byte) float64 {
	of := evidence[width]
	if rs {
		return of[0x100|int(b)]
	}
	return of[b]
}
