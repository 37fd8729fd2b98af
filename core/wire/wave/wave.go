// Package wave draws the levels of a program over time: the header pins of the
// module and the lines of the wire.
//
// It stands above link and sequence; a value change dump and the pictures of
// waveforms are made from it.
package wave

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/core/wire/sequence"
)

// Change is a signal taking a level at a time.
type Change struct {
	At     time.Duration
	Signal int // index into Trace.Signals
	High   bool
}

// Trace is some signals over a span of time. Changes are in time order; those of
// one moment in the order of Signals.
type Trace struct {
	Signals []string
	Initial []bool // levels at Begin, by signal
	Begin   time.Duration
	End     time.Duration
	Changes []Change
}

// pin is a header pin that is drawn.
type pin struct {
	name  string
	level link.Pins
}

// drawer collects changes, and leaves out those that change nothing.
type drawer struct {
	trace Trace
	level []bool
	wire  int // index of the first signal of the wire
	outs  int // index of output 0 of the expander or shift register; -1 where they are not drawn
	pins  []pin
	coder *link.Coder
	h     link.Hardware
	l     link.Link
	bit   time.Duration

	register link.RegisterState
}

// Draw draws the steps first to last (0-based, both included) of a program, as
// they are seen behind some hardware.
func Draw(p *sequence.Program, first, last int, h link.Hardware) Trace {
	return draw(p, first, last, h, false)
}

// DrawOutputs is Draw with the eight outputs of an expander or shift register beside, P0 to P7 or QA
// to QH, whether a line of the header hangs on them or not.
func DrawOutputs(p *sequence.Program, first, last int, h link.Hardware) Trace {
	return draw(p, first, last, h, true)
}

func draw(p *sequence.Program, first, last int, h link.Hardware, outputs bool) Trace {
	l := p.Coder.Link()
	d := &drawer{coder: p.Coder, h: h, l: l, pins: headerPins(l, &h), outs: -1}
	for _, pin := range d.pins {
		d.trace.Signals = append(d.trace.Signals, pin.name)
	}
	d.wire = len(d.pins)
	switch l.Kind {
	case link.Backpack:
		d.trace.Signals = append(d.trace.Signals, "SDA", "SCL")
		d.bit = l.Speed.Period()
	case link.ShiftReg:
		d.trace.Signals = append(d.trace.Signals, "DATA", "CLOCK", "LATCH")
		d.bit = l.Speed.Period()
	}
	if outputs && l.Expander() {
		d.outs = len(d.trace.Signals)
		for bit := range 8 {
			d.trace.Signals = append(d.trace.Signals, l.Output(bit))
		}
	}
	d.level = make([]bool, len(d.trace.Signals))
	d.rest(p, first)
	d.trace.Initial = slices.Clone(d.level)
	for i := first; i <= last && i < len(p.Steps); i++ {
		s := &p.Steps[i]
		if i == first {
			d.trace.Begin = s.Start
		}
		d.trace.End = s.End()
		for w := s.First; w < s.First+s.Count; w++ {
			d.word(p.Words[w], p.At[w], h.Arrives(w))
		}
	}
	slices.SortStableFunc(d.trace.Changes, func(a, b Change) int {
		return cmp.Compare(a.At, b.At)
	})
	return d.trace
}

// headerPins lists the pins that the link drives, and R/W where it is not held low.
func headerPins(l link.Link, h *link.Hardware) []pin {
	pins := []pin{{"E", hd44780.E}}
	if l.Enables == 2 {
		pins = append(pins, pin{"E2", link.E2})
	}
	pins = append(pins, pin{"RS", hd44780.RS})
	if l.ReadWrite || h.Behind(0)&hd44780.RW != 0 {
		pins = append(pins, pin{"RW", hd44780.RW})
	}
	for i := 7; i >= 8-l.Width(); i-- {
		pins = append(pins, pin{fmt.Sprintf("D%d", i), 1 << i})
	}
	if l.Expander() {
		pins = append(pins, pin{"BL", link.Backlight})
	}
	return pins
}

// rest sets the levels before a step: those that the word before it left.
func (d *drawer) rest(p *sequence.Program, first int) {
	levels := d.h.Behind(d.coder.PowerUp())
	sent := 0
	if first < len(p.Steps) {
		sent = p.Steps[first].First
	}
	for before := sent - 1; before >= 0; before-- {
		if d.h.Arrives(before) {
			levels = d.h.Behind(d.coder.Levels(p.Words[before]))
			break
		}
	}
	if reg := d.h.Register(); reg != nil {
		levels = d.h.Behind(d.coder.Levels(0))
		for before := range sent {
			if d.h.Arrives(before) {
				for _, edge := range link.ShiftEdges(nil, byte(p.Words[before]), d.bit) {
					levels = d.shifted(reg, edge)
				}
			}
		}
	}
	for i, pin := range d.pins {
		d.level[i] = levels&pin.level != 0
	}
	if d.outs >= 0 {
		stands := d.standing(p, sent)
		for bit := range 8 {
			d.level[d.outs+bit] = stands>>bit&1 != 0
		}
	}
	switch d.l.Kind {
	case link.Backpack:
		d.level[d.wire], d.level[d.wire+1] = true, true
		if sent > 0 && p.Words[sent-1]&link.Finish == 0 { // the transaction is open, at its last acknowledge
			d.level[d.wire], d.level[d.wire+1] = d.unanswered(p.Words[sent-1]), false
		}
	case link.ShiftReg:
		d.level[d.wire] = sent > 0 && p.Words[sent-1]&1 != 0 // the bit that was shifted last
	}
}

// standing is the byte that stands on the outputs before a word: an expander's are high as it is
// powered, a register's low.
func (d *drawer) standing(p *sequence.Program, word int) byte {
	for before := word - 1; before >= 0; before-- {
		if d.h.Arrives(before) && p.Words[before]&link.Read == 0 {
			return byte(p.Words[before])
		}
	}
	if d.l.Kind == link.Backpack {
		return 0xFF
	}
	return 0
}

// unanswered reports whether nobody pulls SDA low behind a word: the host ends a
// read so, and a write where no expander is.
func (d *drawer) unanswered(w link.Word) bool { return w&link.Read != 0 || d.h.NoAck }

// set notes a level at a time.
func (d *drawer) set(at time.Duration, signal int, high bool) {
	if d.level[signal] != high {
		d.level[signal] = high
		d.trace.Changes = append(d.trace.Changes, Change{at, signal, high})
	}
}

// header puts levels on the pins.
func (d *drawer) header(at time.Duration, p link.Pins) {
	for i, pin := range d.pins {
		d.set(at, i, p&pin.level != 0)
	}
}

// outputs puts a byte onto the outputs, where they are drawn.
func (d *drawer) outputs(at time.Duration, b byte) {
	if d.outs < 0 {
		return
	}
	for bit := range 8 {
		d.set(at, d.outs+bit, b>>bit&1 != 0)
	}
}

// word draws one word whose effect on the pins, if it has one, comes at a time.
func (d *drawer) word(w link.Word, at time.Duration, arrives bool) {
	p := d.h.Behind(d.coder.Levels(w))
	switch d.l.Kind {
	case link.Backpack:
		d.i2c(w, at)
		if w&link.Read == 0 && arrives {
			d.header(at, p)
			d.outputs(at, byte(w))
		}
	case link.ShiftReg:
		d.shift(w, at, arrives)
		if arrives {
			d.outputs(at, byte(w))
		}
		if arrives && d.h.Register() == nil {
			d.header(at, p)
		}
	default:
		if !arrives {
			return
		}
		d.header(at, p)
		setup, high, _ := d.coder.Pulse()
		d.header(at+setup, d.h.Behind(d.coder.Levels(w)|d.coder.Pulsed(w)))
		d.header(at+setup+high, p)
	}
}

// i2c draws a byte that ends at a time, with START, address and STOP as its
// marks say. Within a bit SCL is low for 53 %, so that both of UM10204's
// minima, t_LOW and t_HIGH, are kept at 100 and at 400 kHz.
func (d *drawer) i2c(w link.Word, end time.Duration) {
	sda, scl := d.wire, d.wire+1
	begin := end - 9*d.bit
	t := link.TimesAt(d.l.Speed)
	if w&link.Begin != 0 {
		begin -= 9 * d.bit
		start := begin - t.HoldStart
		if !d.level[scl] { // repeated START: let both lines rise first
			d.set(start-t.SetupStart-t.Low/2, sda, true)
			d.set(start-t.SetupStart, scl, true)
		}
		d.set(start, sda, false)
		address := d.l.Address << 1
		if w&link.Read != 0 {
			address |= 1
		}
		d.byte(begin, address, d.h.NoAck)
	}
	d.byte(end-9*d.bit, byte(w), d.unanswered(w))
	d.set(end, scl, false)
	if w&link.Finish != 0 {
		d.set(end+t.Low/8, sda, false)
		d.set(end+t.Low, scl, true)
		d.set(end+t.Low+t.SetupStop, sda, true)
	}
}

// byte draws eight bits and the acknowledge: low by the receiver, or high where
// the host ends a read or nobody is there.
func (d *drawer) byte(begin time.Duration, b byte, high bool) {
	sda, scl := d.wire, d.wire+1
	for i := range 9 {
		at := begin + time.Duration(i)*d.bit
		level := high
		if i < 8 {
			level = b>>(7-i)&1 != 0
		}
		d.set(at, scl, false)
		d.set(at+d.bit/10, sda, level)
		d.set(at+d.bit*53/100, scl, true)
	}
}

// shift draws eight bits, D7's output last in its register first on the wire,
// and the latch whose rise changes the outputs; behind inputs that are not wired as
// they ought to be, the outputs change with whichever edge moves them.
func (d *drawer) shift(w link.Word, latch time.Duration, arrives bool) {
	reg := d.h.Register()
	for _, edge := range link.ShiftEdges(nil, byte(w), d.bit) {
		at := latch + edge.At
		d.set(at, d.wire+1, edge.Clock)
		d.set(at, d.wire, edge.Data)
		d.set(at, d.wire+2, edge.Latch)
		if reg != nil && arrives {
			d.header(at, d.shifted(reg, edge))
		}
	}
}

// shifted moves a register by one edge of its lines and returns the header's pins.
func (d *drawer) shifted(reg *link.Register, edge link.Shift) link.Pins {
	out, driven := reg.Step(&d.register, edge)
	if !driven {
		return d.h.Header.Released()
	}
	return d.h.Behind(d.coder.Levels(link.Word(out)))
}
