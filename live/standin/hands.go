package standin

import (
	"slices"
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/live/device"
	"slatebell/live/protocol"
)

// hands carry records out on the simulated modules.
type hands struct{ h *Host }

// perRecord is what a host takes for a record beside what the record asks for (measured of the ATmega328P's bridge: more).
const perRecord = 10 * time.Microsecond

// begin takes hold of the host for one record.
func (a hands) begin() (done func()) {
	a.h.mu.Lock()
	a.h.catchUp()
	a.h.now += perRecord
	return a.h.mu.Unlock
}

func (a hands) Wait(micros uint16) {
	defer a.begin()()
	a.h.now += time.Duration(micros) * time.Microsecond
}

// of returns a module by its place in the bridge.
func (a hands) of(module byte, kinds ...link.Kind) (*simulated, protocol.Status) {
	if int(module) >= len(a.h.modules) || !slices.Contains(kinds, a.h.modules[module].Link.Kind) {
		return nil, protocol.NotOurs
	}
	return a.h.modules[module], protocol.OK
}

func (a hands) Pulse(module byte, word uint16) (read byte, reads bool, status protocol.Status) {
	defer a.begin()()
	s, status := a.of(module, link.Parallel4, link.Parallel8)
	if status != protocol.OK {
		return 0, false, status
	}
	if reads = s.Link.Reads(link.Word(word)); reads && !s.Reads {
		return 0, false, protocol.NotOurs
	}
	if s.hardware.Dead {
		a.h.now += 3 * link.UsualPinTime
		return 0xFF, reads, protocol.OK
	}
	w := link.Word(word) &^ link.Marks
	if reads && s.Link.Width() == 4 { // the host has let go of D4–D7, which the controller's pull-ups hold high
		w |= 0x0F
	} else if reads {
		w |= 0xFF
	}
	s.rig.Feed(a.h.now-s.began, w)
	a.h.now += 3 * link.UsualPinTime
	read = s.rig.ReadBack()
	if s.Link.Width() == 4 {
		read = read << 4
	}
	return read, reads, protocol.OK
}

func (a hands) Latch(module byte, b byte) protocol.Status {
	defer a.begin()()
	s, status := a.of(module, link.ShiftReg)
	if status != protocol.OK {
		return status
	}
	a.h.now += 9 * s.Link.Speed.Period()
	if !s.hardware.Dead {
		s.rig.Feed(a.h.now-s.began, link.Word(b))
	}
	return protocol.OK
}

func (a hands) LetGo(module byte) protocol.Status {
	defer a.begin()()
	_, status := a.of(module, link.Parallel4, link.Parallel8, link.ShiftReg)
	return status // what the pins of a link rest at, no simulated module tells apart
}

// start begins a transaction, and reports whether anybody acknowledges the address.
func (a hands) start(address byte) bool {
	h := a.h
	if h.open { // a repeated START
		h.now += link.TimesAt(h.speed()).Low + link.TimesAt(h.speed()).SetupStart
	}
	h.open, h.chosen = true, nil
	h.now += link.TimesAt(h.speed()).HoldStart + 9*h.speed().Period()
	for _, s := range h.modules {
		if s.Link.Kind == link.Backpack && s.wired.Address == address && !s.hardware.NoAck && !s.hardware.Dead {
			h.chosen = append(h.chosen, s)
		}
	}
	return len(h.chosen) > 0 || slices.Contains(h.others, address)
}

func (a hands) stop() {
	t := link.TimesAt(a.h.speed())
	a.h.now += t.Low + t.SetupStop + t.Free
	a.h.open, a.h.chosen = false, nil
}

func (a hands) Write(address byte, data []byte, held bool) protocol.Status {
	defer a.begin()()
	if !a.start(address) {
		a.stop()
		return protocol.NoAnswer
	}
	for _, b := range data {
		a.h.now += 9 * a.h.speed().Period()
		for _, s := range a.h.chosen {
			s.rig.Feed(a.h.now-s.began, link.Word(b))
		}
	}
	if !held {
		a.stop()
	}
	return protocol.OK
}

func (a hands) Read(address byte, into []byte) protocol.Status {
	defer a.begin()()
	if !a.start(address) {
		a.stop()
		return protocol.NoAnswer
	}
	for i := range into {
		a.h.now += 9 * a.h.speed().Period()
		into[i] = 0xFF
		for _, s := range a.h.chosen {
			into[i] &= s.outputs(a.h.now - s.began)
		}
	}
	a.stop()
	return protocol.OK
}

// outputs is what an expander's pins read as: what was written to it, and of the data lines what stands on them.
func (s *simulated) outputs(now time.Duration) byte {
	s.rig.Feed(now, link.Read)
	lines := s.rig.Pins()&^hd44780.DataPins | link.Pins(s.rig.ReadBack()<<4)
	return s.wired.Mapping.Byte(lines)
}

func (a hands) Level(pin byte, pullUp bool) (bool, protocol.Status) {
	defer a.begin()()
	if a.driven(pin) {
		return false, protocol.NotOurs
	}
	high, said := a.h.levels[pin]
	return high || !said && pullUp, protocol.OK
}

func (a hands) Measure(pin byte) (uint16, protocol.Status) {
	defer a.begin()()
	return a.h.volts[pin], protocol.OK
}

// Clock is the simulated time.
func (a hands) Clock() uint16 {
	defer a.begin()()
	return uint16(a.h.now / protocol.ClockStep)
}

func (a hands) Turns(pin, pinB byte, pullUp, high bool) (byte, protocol.Status) {
	defer a.begin()()
	if a.driven(pin) || a.driven(pinB) {
		return 0, protocol.NotOurs
	}
	for _, e := range a.h.turned {
		if e.a == pin && e.b == pinB {
			return e.Notches, protocol.OK
		}
	}
	e := &encoder{device.Encoder{High: high}, pin, pinB}
	a.h.turned = append(a.h.turned, e)
	a.h.look(e)
	return e.Notches, protocol.OK
}

func (a hands) Heard(line byte, most int) ([]byte, protocol.Status) {
	defer a.begin()()
	said := a.h.said[line]
	n := min(most, len(said))
	a.h.said[line] = said[n:]
	return slices.Clone(said[:n]), protocol.OK
}

func (a hands) Begin() {
	a.h.mu.Lock()
	defer a.h.mu.Unlock()
	a.h.turned = nil
	clear(a.h.said)
}

// driven reports whether a pin belongs to a link.
func (a hands) driven(pin byte) bool {
	for _, s := range a.h.modules {
		for _, l := range s.Lines {
			if l.N == int(pin) {
				return true
			}
		}
	}
	return false
}

// Rest changes nothing: E is low between records, and inputs that float keep their levels.
func (a hands) Rest(protocol.AtRest) {}
