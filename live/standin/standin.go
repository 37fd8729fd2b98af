// Package standin is a host with modules that are not there: the bridge's end of the protocol over simulated modules, wired
// as a bench says, with faults that can be put in. Whatever speaks to a real bridge speaks to it in the same way.
package standin

import (
	"fmt"
	"sync"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/live/device"
	"slatebell/live/protocol"
)

// Host is a simulated host with the modules of a bench. Its methods may be called by several at once.
type Host struct {
	mu      sync.Mutex
	bench   *bench.Bench
	plan    *bridge.Plan
	modules []*simulated
	others  []byte               // addresses of devices that are no modules
	clock   func() time.Duration // of the wall; simulated time goes on with it where the wire is still
	now     time.Duration        // simulated
	chosen  []*simulated         // who takes part in the transaction that is open
	open    bool                 // a transaction is
	levels  map[byte]bool        // of pins that others drive
	volts   map[byte]uint16      // of pins, in steps of the converter
	turned  []*encoder
	said    map[byte][]byte // over serial lines, and not asked for yet
}

// encoder is one that was asked for, on two pins.
type encoder struct {
	device.Encoder
	a, b byte
}

// simulated is one module.
type simulated struct {
	*bridge.Module
	rig      *rig.Rig
	hardware link.Hardware
	contrast float64
	made     *fault.Made // what was put in; nil for nothing
	setup    testbed.Setup
	wired    link.Link     // as the hardware is made
	began    time.Duration // of the host's time, when it was switched on

	driven  map[string]bool // lines that a computer's own pins drive, by name
	shifted byte            // in the shift register, not latched yet
}

// New returns the host of a bench. Its error is a bench.Problem where a module cannot be simulated.
func New(b *bench.Bench) (*Host, error) {
	plan, err := bridge.New(b)
	if err != nil {
		return nil, err
	}
	begun := time.Now()
	h := &Host{bench: b, plan: plan, clock: func() time.Duration { return time.Since(begun) }, levels: map[byte]bool{}, volts: map[byte]uint16{}, said: map[byte][]byte{}}
	for i := range plan.Modules {
		s, err := simulate(b, &plan.Modules[i])
		if err != nil {
			return nil, err
		}
		h.modules = append(h.modules, s)
	}
	for i := range b.Devices {
		h.others = append(h.others, byte(b.Devices[i].Address))
	}
	if m := b.Bus.Multiplexer; m != nil {
		h.others = append(h.others, byte(m.Address))
	}
	return h, nil
}

func simulate(b *bench.Bench, m *bridge.Module) (*simulated, error) {
	setup, err := testbed.Of(b, testbed.At{Module: m.At})
	if err != nil {
		return nil, err
	}
	mod, wired, err := setup.Build()
	if err != nil {
		return nil, err
	}
	s := &simulated{Module: m, contrast: setup.Contrast(&mod), setup: setup, wired: wired}
	if s.rig, err = rig.New(mod, wired); err != nil {
		return nil, err
	}
	if j := setup.Joined; j != nil {
		s.hardware = link.Hardware{NoAck: j.NoAck != "", Dead: j.Dead != ""}
		if j.Pins != nil || j.Register != nil {
			if s.hardware.Header, err = j.Compile(); err != nil {
				return nil, err
			}
		}
		s.rig.Wire(s.hardware)
	}
	return s, nil
}

// results is how many bytes of results the stand-in has room for.
const results = 64

// Identity is what the stand-in says of itself.
func (h *Host) Identity() protocol.Identity {
	can := protocol.CanPins | protocol.CanLevel | protocol.CanMeasure | protocol.CanClock | protocol.CanTurn | protocol.CanHear
	if h.plan.Bus || len(h.others) > 0 {
		can |= protocol.CanBus
	}
	return protocol.Identity{
		Version: protocol.Version, Can: can, Credits: 2, Body: protocol.MaxBody, Results: results,
		Modules: byte(len(h.modules)), Bench: protocol.CRC([]byte(h.plan.Text())), Part: h.plan.Host.Chip,
	}
}

// Bridge returns a bridge whose hands are the host's.
func (h *Host) Bridge() *device.Bridge { return device.New(h.Identity(), hands{h}) }

// PutIn makes one or two faults of the catalogue in a module, by their ids, and switches the module off and on; none takes out what was
// made before. Faults of the program are not the stand-in's to make.
func (h *Host) PutIn(module int, ids ...string) error {
	h.mu.Lock()
	defer h.mu.Unlock()
	if module < 0 || module >= len(h.modules) {
		return fmt.Errorf("module %d; the stand-in has modules 0–%d", module, len(h.modules)-1)
	}
	was := h.modules[module]
	next, err := simulate(h.bench, was.Module)
	if err != nil {
		return err
	}
	if len(ids) > 0 {
		subject, err := run.Subject(&next.setup)
		if err != nil {
			return err
		}
		made, err := fault.Make(subject, ids...)
		if err != nil {
			return err
		}
		if next.rig, err = rig.New(made.Module, made.Wired); err != nil {
			return err
		}
		next.made, next.hardware, next.wired = made, made.Hardware, made.Wired
		next.rig.Wire(next.hardware)
	}
	// The module's own time goes on: what it is sent from now on comes after its power-up.
	next.began = h.now
	h.modules[module] = next
	return nil
}

// Glass is what a module shows now.
func (h *Host) Glass(module int) rig.Glass {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.catchUp()
	s := h.modules[module]
	moment := s.rig.Moment()
	moment = moment.BlinkAt(h.now - s.began)
	if s.made != nil {
		return s.made.Glass(&moment)
	}
	return moment.Glass(&s.Display, s.contrast)
}

// Violations states the limits that were broken, and what the hardware shows beside.
func (h *Host) Violations(module int) []finding.Finding {
	h.mu.Lock()
	defer h.mu.Unlock()
	r := h.modules[module].rig
	return append(rig.Findings(r.Violations()), r.Judge()...)
}

// Touch gives a pin a level from outside, as a button does.
func (h *Host) Touch(pin byte, high bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.levels[pin] = high
	for _, e := range h.turned {
		if e.a == pin || e.b == pin {
			h.look(e)
		}
	}
}

// look lets an encoder see its pins, which are pulled to where an open contact leaves them.
func (h *Host) look(e *encoder) {
	level := func(pin byte) bool {
		high, touched := h.levels[pin]
		return high || !touched && !e.High
	}
	e.Look(level(e.a), level(e.b))
}

// Say lets characters come over a serial line of the host. What has no room is lost, as it is there.
func (h *Host) Say(line byte, text string) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.said[line] = append(h.said[line], text...)
	h.said[line] = h.said[line][:min(len(h.said[line]), serialRoom)]
}

// serialRoom is how many characters wait.
const serialRoom = 64

// Turn gives a pin a voltage, in steps of the host's converter, as a knob does.
func (h *Host) Turn(pin byte, steps uint16) {
	h.mu.Lock()
	defer h.mu.Unlock()
	h.volts[pin] = steps
}

// catchUp lets simulated time go on to that of the wall.
func (h *Host) catchUp() { h.now = max(h.now, h.clock()) }

// speed is the clock of the bus.
func (h *Host) speed() physic.Frequency { return physic.Frequency(h.plan.BusHz) * physic.Hertz }
