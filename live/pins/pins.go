// Package pins lets a computer drive modules by its own pins, in place of a host with a bridge: an I²C bus and, for parallel
// links and shift registers, GPIO lines by the labels that the bench has for them. It speaks the bridge's protocol within the
// program, so that all above it is the same.
package pins

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"strings"
	"time"

	"periph.io/x/conn/v3/gpio"
	"periph.io/x/conn/v3/gpio/gpioreg"
	"periph.io/x/conn/v3/i2c"
	"periph.io/x/conn/v3/i2c/i2creg"
	"periph.io/x/conn/v3/physic"
	"periph.io/x/host/v3"

	"slatebell/core/bench"
	"slatebell/core/part/hd44780"
	"slatebell/core/ship/bridge"
	"slatebell/core/wire/link"
	"slatebell/live/device"
	"slatebell/live/protocol"
	"slatebell/live/standin"
)

// Is reports whether a port is a bus of the computer's own, such as /dev/i2c-1.
func Is(port string) bool { return strings.HasPrefix(port, "/dev/i2c-") }

// Opener returns what opens a bus of the computer for a bench, as a serial port is opened. Its error is a bench.Problem.
func Opener(b *bench.Bench, port string) (func(context.Context) (io.ReadWriteCloser, error), error) {
	plan, err := bridge.New(b)
	if err != nil {
		return nil, err
	}
	return func(context.Context) (io.ReadWriteCloser, error) {
		if _, err := host.Init(); err != nil {
			return nil, fmt.Errorf("looking for this computer's pins: %w", err)
		}
		bus, err := i2creg.Open(port)
		if err != nil {
			return nil, fmt.Errorf("opening %s (is I²C switched on, and may this user open it?): %w", port, err)
		}
		if err := bus.SetSpeed(physic.Frequency(plan.BusHz) * physic.Hertz); err != nil && !strings.Contains(err.Error(), "not supported") {
			bus.Close()
			return nil, fmt.Errorf("setting the speed of %s: %w", port, err)
		}
		h, err := New(plan, bus, gpioreg.ByName)
		if err != nil {
			bus.Close()
			return nil, err
		}
		return h.Line(bus.Close), nil
	}, nil
}

// Standing returns what opens simulated pins: those of a stand-in.
func Standing(b *bench.Bench, s *standin.Host) (func(context.Context) (io.ReadWriteCloser, error), error) {
	plan, err := bridge.New(b)
	if err != nil {
		return nil, err
	}
	return func(context.Context) (io.ReadWriteCloser, error) {
		h, err := New(plan, s.Bus(), s.Pin)
		if err != nil {
			return nil, err
		}
		return h.Line(func() error { return nil }), nil
	}, nil
}

// Host is a computer whose own pins are joined to modules.
type Host struct {
	plan   *bridge.Plan
	bus    i2c.Bus
	lines  []map[string]gpio.PinIO // of each module, by the line's name
	coders []*link.Coder
	awake  []bool
	begun  time.Time
}

// New returns a host of a bus, and of lines that are found by their labels. Its error names a line that is not there.
func New(p *bridge.Plan, bus i2c.Bus, byName func(label string) gpio.PinIO) (*Host, error) {
	h := &Host{plan: p, bus: bus, lines: make([]map[string]gpio.PinIO, len(p.Modules)), awake: make([]bool, len(p.Modules)), coders: make([]*link.Coder, len(p.Modules)), begun: time.Now()}
	for i := range p.Modules {
		var err error
		if h.coders[i], err = link.NewCoder(p.Modules[i].Link); err != nil {
			return nil, err
		}
		h.lines[i] = map[string]gpio.PinIO{}
		for _, l := range p.Modules[i].Lines {
			pin := byName(l.Pin)
			if pin == nil {
				return nil, fmt.Errorf("this computer has no pin %s, which the bench gives to %s of %s", l.Pin, l.Name, p.Modules[i].Name)
			}
			h.lines[i][l.Name] = pin
		}
	}
	return h, nil
}

// results is how many bytes of results there is room for.
const results = 200

// Line returns a line to the host, as that of a bridge. end is called once it is closed.
func (h *Host) Line(end func() error) io.ReadWriteCloser {
	i := protocol.Identity{
		Version: protocol.Version, Can: protocol.CanBus | protocol.CanPins | protocol.CanClock, Credits: 2, Body: protocol.MaxBody, Results: results,
		Modules: byte(len(h.plan.Modules)), Bench: protocol.CRC([]byte(h.plan.Text())), Part: "this computer",
	}
	here, there := net.Pipe()
	go func() {
		device.New(i, h).Serve(there) // ends with the line
		there.Close()
		end()
	}()
	return here
}

// Wait passes at least so many microseconds: short ones by looking at the clock, as sleep is coarser.
func (h *Host) Wait(micros uint16) {
	d := time.Duration(micros) * time.Microsecond
	begun := time.Now()
	if d > 2*time.Millisecond {
		time.Sleep(d - time.Millisecond)
	}
	for time.Since(begun) < d {
	}
}

func (h *Host) module(module byte, kinds ...link.Kind) (*bridge.Module, map[string]gpio.PinIO, bool) {
	if int(module) >= len(h.plan.Modules) {
		return nil, nil, false
	}
	m := &h.plan.Modules[module]
	for _, k := range kinds {
		if m.Link.Kind == k {
			return m, h.lines[module], true
		}
	}
	return nil, nil, false
}

// out drives a line, where there is one.
func out(lines map[string]gpio.PinIO, name string, high bool) error {
	pin, ok := lines[name]
	if !ok {
		return nil
	}
	return pin.Out(gpio.Level(high))
}

// wake brings E low before anything else of a module is driven.
func (h *Host) wake(module byte, lines map[string]gpio.PinIO, names ...string) error {
	if h.awake[module] {
		return nil
	}
	h.awake[module] = true
	for _, name := range names {
		if err := out(lines, name, false); err != nil {
			return err
		}
	}
	return nil
}

// Pulse puts a word on a module's lines; see device.Hands.
func (h *Host) Pulse(module byte, word uint16) (read byte, reads bool, s protocol.Status) {
	m, lines, ok := h.module(module, link.Parallel4, link.Parallel8)
	if !ok {
		return 0, false, protocol.NotOurs
	}
	coder := h.coders[module]
	w := link.Word(word) &^ link.Marks
	levels, pulsed := coder.Levels(w), coder.Pulsed(w)
	if reads = levels&hd44780.RW != 0; reads && !m.Reads {
		return 0, false, protocol.NotOurs
	}
	errs := []error{h.wake(module, lines, "E", "E2")}
	do := func(name string, high bool) { errs = append(errs, out(lines, name, high)) }
	data := func(each func(d int, name string)) {
		for d := 8 - m.Link.Width(); d < 8; d++ {
			each(d, fmt.Sprintf("D%d", d))
		}
	}
	if reads {
		data(func(_ int, name string) { errs = append(errs, lines[name].In(gpio.PullNoChange, gpio.NoEdge)) })
	}
	do("R/W", reads)
	do("RS", levels&hd44780.RS != 0)
	if !reads {
		data(func(d int, name string) { do(name, levels>>d&1 != 0) })
	}
	h.Wait(1)
	if pulsed&hd44780.E != 0 {
		do("E", true)
	}
	if pulsed&link.E2 != 0 {
		do("E2", true)
	}
	h.Wait(1)
	if reads {
		data(func(d int, name string) {
			if lines[name].Read() {
				read |= 1 << d
			}
		})
	}
	do("E", false)
	do("E2", false)
	h.Wait(1)
	if errors.Join(errs...) != nil {
		return 0, reads, protocol.Stuck
	}
	return read, reads, protocol.OK
}

// Latch puts a byte through a module's shift register.
func (h *Host) Latch(module byte, b byte) protocol.Status {
	_, lines, ok := h.module(module, link.ShiftReg)
	if !ok {
		return protocol.NotOurs
	}
	errs := []error{h.wake(module, lines, "latch", "clock")}
	for i := 7; i >= 0; i-- {
		errs = append(errs, out(lines, "data", b>>i&1 != 0), out(lines, "clock", true), out(lines, "clock", false))
	}
	errs = append(errs, out(lines, "latch", true), out(lines, "latch", false))
	if errors.Join(errs...) != nil {
		return protocol.Stuck
	}
	return protocol.OK
}

// LetGo makes all lines of a module inputs.
func (h *Host) LetGo(module byte) protocol.Status {
	_, lines, ok := h.module(module, link.Parallel4, link.Parallel8, link.ShiftReg)
	if !ok {
		return protocol.NotOurs
	}
	h.awake[module] = false
	for _, pin := range lines {
		if pin.In(gpio.PullNoChange, gpio.NoEdge) != nil {
			return protocol.Stuck
		}
	}
	return protocol.OK
}

// Write is a transaction that ends with a STOP: an expander does not mind one more.
func (h *Host) Write(address byte, data []byte, _ bool) protocol.Status {
	return answered(h.bus.Tx(uint16(address), data, nil))
}

// Read is a transaction that reads.
func (h *Host) Read(address byte, into []byte) protocol.Status {
	return answered(h.bus.Tx(uint16(address), nil, into))
}

// answered says what became of a transaction: the system does not tell apart who did not answer from who refused a byte.
func answered(err error) protocol.Status {
	if err != nil {
		return protocol.NoAnswer
	}
	return protocol.OK
}

// Level cannot be asked for: the inputs of a show are a host's.
func (h *Host) Level(byte, bool) (bool, protocol.Status) { return false, protocol.NotOurs }

// Measure cannot be asked for: such a computer has no converter.
func (h *Host) Measure(byte) (uint16, protocol.Status) { return 0, protocol.NotOurs }

// Clock is the computer's.
func (h *Host) Clock() uint16 { return uint16(time.Since(h.begun) / protocol.ClockStep) }

// Turns cannot be asked for.
func (h *Host) Turns(_, _ byte, _, _ bool) (byte, protocol.Status) { return 0, protocol.NotOurs }

// Heard cannot be asked for.
func (h *Host) Heard(byte, int) ([]byte, protocol.Status) { return nil, protocol.NotOurs }

// Begin has nothing to forget.
func (h *Host) Begin() {}

// Rest lets the lines of all modules rest.
func (h *Host) Rest(how protocol.AtRest) {
	for i := range h.plan.Modules {
		if how == protocol.Inputs {
			h.LetGo(byte(i))
		}
	}
}
