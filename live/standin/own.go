package standin

import (
	"fmt"
	"time"

	"periph.io/x/conn/v3/gpio"
	"periph.io/x/conn/v3/i2c"
	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/live/protocol"
)

// Bus is the simulated bus as package i2c of periph has one, for who drives modules by a computer's own pins.
func (h *Host) Bus() i2c.Bus { return bus{hands{h}} }

type bus struct{ hands hands }

func (b bus) String() string                  { return "the stand-in’s bus" }
func (b bus) SetSpeed(physic.Frequency) error { return nil }

// Tx carries a transaction out, and takes the time that it takes: else the next one would come too soon.
func (b bus) Tx(address uint16, out, in []byte) error {
	defer b.hands.h.follow()
	status := protocol.OK
	if len(out) > 0 || len(in) == 0 {
		status = b.hands.Write(byte(address), out, len(in) > 0)
	}
	if status == protocol.OK && len(in) > 0 {
		status = b.hands.Read(byte(address), in)
	}
	if status != protocol.OK {
		return fmt.Errorf("0x%02X: %s", address, status)
	}
	return nil
}

// follow waits until the wall's time has come to the simulated one.
func (h *Host) follow() {
	h.mu.Lock()
	ahead := h.now - h.clock()
	h.mu.Unlock()
	time.Sleep(ahead)
}

// Pin is the simulated pin of a label as package gpio of periph has one; nil where no link has it.
func (h *Host) Pin(label string) gpio.PinIO {
	for i := range h.modules {
		for _, l := range h.modules[i].Lines {
			if l.Pin == label {
				return &ownPin{gpio.INVALID, h, i, l.Name, label}
			}
		}
	}
	return nil
}

// ownPin is a pin that a link has. What no link does with one is not there.
type ownPin struct {
	gpio.PinIO
	h      *Host
	module int
	line   string // as link.HostPins has it
	label  string
}

func (p *ownPin) String() string { return p.label }
func (p *ownPin) Name() string   { return p.label }

// perLevel is what a pin takes to change (a single-board computer's: more).
const perLevel = time.Microsecond

// Out gives the pin a level.
func (p *ownPin) Out(level gpio.Level) error {
	p.h.mu.Lock()
	defer p.h.mu.Unlock()
	s := p.h.modules[p.module]
	if s.driven == nil {
		s.driven = map[string]bool{}
	}
	rises := bool(level) && !s.driven[p.line]
	s.driven[p.line] = bool(level)
	p.h.changed(s, p.line, rises)
	return nil
}

// In lets go of the pin.
func (p *ownPin) In(gpio.Pull, gpio.Edge) error {
	p.h.mu.Lock()
	defer p.h.mu.Unlock()
	s := p.h.modules[p.module]
	delete(s.driven, p.line)
	p.h.changed(s, p.line, false)
	return nil
}

// Read is the level of the pin.
func (p *ownPin) Read() gpio.Level {
	p.h.mu.Lock()
	defer p.h.mu.Unlock()
	s := p.h.modules[p.module]
	if high, driven := s.driven[p.line]; driven {
		return gpio.Level(high)
	}
	at, ok := link.LineAt(p.line)
	return gpio.Level(ok && !s.hardware.Dead && link.Pins(s.hardware.Back(s.rig.Lines()))&at.Bit() != 0)
}

// changed lets a module feel what has become of one of its lines. mu is held.
func (h *Host) changed(s *simulated, line string, rises bool) {
	h.catchUp()
	h.now += perLevel
	switch {
	case s.hardware.Dead:
	case s.Link.Kind != link.ShiftReg:
		s.rig.Drive(h.now-s.began, s.hardware.Behind(s.header()))
	case line == "clock" && rises:
		s.shifted = s.shifted<<1 | bit(s.driven["data"])
	case line == "latch" && rises:
		s.rig.Feed(h.now-s.began, link.Word(s.shifted))
	}
}

func bit(high bool) byte {
	if high {
		return 1
	}
	return 0
}

// header is what the lines of a parallel link are at: data lines that nobody drives are pulled high, others stay low.
func (s *simulated) header() link.Pins {
	p := link.Backlight | hd44780.DataPins
	for _, l := range s.Lines {
		if at, ok := link.LineAt(l.Name); ok {
			if high, driven := s.driven[l.Name]; driven || p&at.Bit() == 0 {
				p &^= at.Bit()
				if high {
					p |= at.Bit()
				}
			}
		}
	}
	return p
}
