package capture

import "time"

// Byte is one on an I²C bus, or one that a shift register was given.
type Byte struct {
	At    time.Duration // its end: the acknowledge's clock goes low, or the latch rises
	Value byte
	Ack   bool
	First bool // the address after a START
}

// counts is how often each byte came.
type counts [256]int

// framing is how much likelier a bus or a register is by bytes that are whole than without, as a logarithm, where some are not; what comes again and
// again says less each time.
func (c *counts) framing(whole, badly int) (sum float64) {
	for _, n := range c {
		if n > 0 {
			sum += framed * oftenCounts(n)
		}
	}
	return sum * (1 - brokenCounts*float64(badly)/float64(whole))
}

// inBus is a reader of a bus that begins within a transaction, so many bits before the end of a byte.
func inBus(sda, scl, bits int) busReader {
	return busReader{sda: sda, scl: scl, in: true, bits: -bits}
}

// amid is which of the nine bits of a byte a recording begins with that begins within a transaction: that by which most bytes are acknowledged; −1
// where it begins between two.
func amid(list []Change, sda, scl int) (bits int) {
	bits, most := -1, 0
	for k := range 9 {
		r, acks := inBus(sda, scl, k), 0
		for _, c := range list {
			b, ok := r.take(c)
			if !r.in || r.first || b.First {
				break // from here on its bits are counted
			}
			if ok && b.Ack {
				acks++
			} else if ok {
				acks--
			}
		}
		if acks > most && r.badly == 0 { // its end is that of a byte
			bits, most = k, acks
		}
	}
	return bits
}

// busAt is a reader of a recording of a bus, from wherever it begins.
func busAt(list []Change, sda, scl int) busReader {
	if bits := amid(list, sda, scl); bits >= 0 {
		return inBus(sda, scl, bits)
	}
	return busReader{sda: sda, scl: scl}
}

// busReader finds bytes on SDA and SCL (UM10204 rev. 7, §3.1).
type busReader struct {
	sda, scl int
	was      uint64
	begun    bool // levels are known
	in       bool // a transaction: after START, before STOP
	first    bool
	bits     int
	value    byte
	ack      bool
	badly    int // bytes that a START or STOP cuts off
	whole    int
	values   counts // of those that are whole
}

// take follows the bus to new levels and returns the byte that ends there.
func (b *busReader) take(c Change) (out Byte, ok bool) {
	was := b.was
	b.was = c.Levels
	if !b.begun {
		b.begun = true
		return out, false
	}
	sda, scl := c.Levels>>b.sda&1 == 1, c.Levels>>b.scl&1 == 1
	sdaWas, sclWas := was>>b.sda&1 == 1, was>>b.scl&1 == 1
	switch {
	case scl && sclWas && sda != sdaWas: // START, or STOP
		if b.in && b.bits > 1 { // the first rise of the clock comes before a repeated START too
			b.badly++
		}
		b.in, b.first, b.bits, b.value = !sda, !sda, 0, 0
	case scl && !sclWas && b.in && b.bits < 0: // the rest of a byte whose beginning was not recorded
		b.bits++
	case scl && !sclWas && b.in:
		if b.bits < 8 {
			b.value <<= 1
			if sda {
				b.value |= 1
			}
		} else {
			b.ack = !sda
		}
		b.bits++
	case !scl && sclWas && b.in && b.bits == 9:
		out = Byte{c.At, b.value, b.ack, b.first}
		b.first, b.bits, b.value = false, 0, 0
		b.whole++
		b.values[out.Value]++
		return out, true
	}
	return out, false
}

// shiftReader finds the bytes that a 74HC595 is given: the last eight bits, the highest first, when the latch rises.
type shiftReader struct {
	data, clock, latch int
	was                uint64
	begun              bool
	value              byte
	bits               int
	whole, badly       int // latches after eight clocks, and after another number
	missed             int // that must have been between two samples: more clocks came after eight
	clocked            time.Duration
	values             counts
}

func (s *shiftReader) take(c Change) (out Byte, ok bool) {
	was := s.was
	s.was = c.Levels
	if !s.begun {
		s.begun = true
		return out, false
	}
	rises := func(channel int) bool { return c.Levels&^was>>channel&1 == 1 }
	if rises(s.latch) { // in the same sample as a clock's rise, before it: the last clock's lies half a bit back
		if s.bits == 8 {
			s.whole++
			s.values[s.value]++
		} else {
			s.badly++
		}
		out, ok, s.bits = Byte{At: c.At, Value: s.value, Ack: true}, true, 0
	}
	if rises(s.clock) {
		if s.bits == 8 && !ok {
			out, ok, s.bits = Byte{At: s.clocked, Value: s.value, Ack: true}, true, 0
			s.missed++
		}
		s.clocked = c.At
		s.value <<= 1
		if c.Levels>>s.data&1 == 1 { // set before, in the same sample at the latest
			s.value |= 1
		}
		s.bits++
	}
	return out, ok
}
