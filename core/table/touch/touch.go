// Package touch is what a host's pins read of hands and sensors, as its inputs are wired: a button
// closes a contact between two conductors, a knob divides what feeds it, and nodal analysis says what comes
// to the pin. The same circuit with a wire cut or a contact stuck is what a fault of an input is.
//
// It stands above wiring, whose netlist says what an input's parts do, and below breadboard, which knows
// the conductors as they lie, fault, which makes faults in it, and play, which hands on what a program is told.
package touch

import (
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/circuit"
	"slatebell/core/part/host"
	"slatebell/core/table/pinout"
	"slatebell/core/table/wiring"
)

// Wires says which conductor a pin is on, by its full name as wiring.Part.Pin gives it; false for a pin
// that is on none.
type Wires func(pin string) (conductor int, ok bool)

// Planned is the conductors that a netlist asks for.
func Planned(net *wiring.Netlist) Wires {
	at := map[string]int{}
	for i := range net.Nets {
		for _, pin := range net.Nets[i].Pins {
			at[pin] = i
		}
	}
	return func(pin string) (int, bool) {
		i, ok := at[pin]
		return i, ok
	}
}

// Circuit is what a host's inputs are made of, on the conductors of a table.
type Circuit struct {
	bench   *bench.Bench
	net     *wiring.Netlist
	board   host.Board
	wires   Wires
	ladders []pinout.Ladder
	rails   map[string]physic.ElectricPotential // pins that are held at a voltage
	change  Change
}

// New returns the circuit of a bench's inputs on some conductors.
func New(b *bench.Bench, net *wiring.Netlist, wires Wires) *Circuit {
	board := b.Host.Board()
	return &Circuit{bench: b, net: net, board: board, wires: wires, ladders: pinout.Ladders(b), rails: railsOf(&board)}
}

// Change is what is otherwise in a circuit.
type Change struct {
	Cut   []string          // pins from which nothing goes on
	Moved map[string]string // pins that are on another's conductor
	Stuck []wiring.Act      // contacts that are always closed
}

// Changed returns the circuit with changes made in it.
func (c *Circuit) Changed(ch Change) *Circuit {
	out := *c
	out.change = ch
	return &out
}

// Acts lists what an input's parts do in the circuit.
func (c *Circuit) Acts(module, input int) (out []wiring.Act) {
	for _, a := range c.net.Acts {
		if a.Module == module && a.Input == input {
			out = append(out, a)
		}
	}
	return out
}

// OnWires reports whether a wire has come to any pin of an input's parts but those of the host: whether
// it is joined up, if wrongly.
func (c *Circuit) OnWires(module, input int, wired func(pin string) bool) bool {
	return slices.ContainsFunc(c.Acts(module, input), func(a wiring.Act) bool { return slices.ContainsFunc(a.Pins, wired) })
}

// hand is what is done: contacts that are closed, and how far a signal is, 0 to 1 of what its pin reads at most.
type hand struct {
	closed []wiring.Act
	signal *wiring.Act
	share  float64
}

// usualPullUp is a host's own (20 to 50 kΩ, data sheets of the ATmega328P and 2560, from memory).
const usualPullUp = 35 * physic.KiloOhm

// touching is the resistance of a contact that is closed.
const touching = 50 * physic.MilliOhm

// nodes gives conductors, and pins that are on none, their numbers in a network.
type nodes struct {
	c     *Circuit
	loose map[string]int
}

func (n *nodes) of(pin string) int {
	if to, moved := n.c.change.Moved[pin]; moved {
		pin = to
	}
	if !slices.Contains(n.c.change.Cut, pin) {
		if at, ok := n.c.wires(pin); ok {
			return at
		}
	}
	at, known := n.loose[pin]
	if !known {
		at = -1 - len(n.loose)
		n.loose[pin] = at
	}
	return at
}

// solve works out what comes to every conductor while something is done. It is false where supply and
// ground are joined.
func (c *Circuit) solve(h *hand) (circuit.Solution, *nodes, bool) {
	n := &nodes{c, map[string]int{}}
	var net circuit.Network
	held := map[int]physic.ElectricPotential{}
	for pin, v := range c.rails {
		at := n.of(pin)
		if was, twice := held[at]; twice && was != v {
			return circuit.Solution{}, n, false
		}
		held[at] = v
	}
	hold := func(pin string, v physic.ElectricPotential) {
		if _, fed := held[n.of(pin)]; !fed {
			held[n.of(pin)] = v
		}
	}
	if h.signal != nil {
		c.signal(&net, n, h, hold)
	}
	for at, v := range held {
		net.Hold(at, v)
	}
	for i := range c.net.Parts {
		if p := &c.net.Parts[i]; p.Kind == wiring.Resistor && p.Role == wiring.Pull {
			net.Resistor(n.of(p.Pin("1")), n.of(p.Pin("2")), p.Ohm)
		}
	}
	c.pullUps(&net, n)
	for _, a := range append(slices.Clone(h.closed), c.change.Stuck...) {
		net.Resistor(n.of(a.Pins[0]), n.of(a.Pins[1]), touching)
	}
	return net.Solve(), n, true
}

// railsOf are the pins that a host, and a supply, hold at a voltage.
func railsOf(board *host.Board) map[string]physic.ElectricPotential {
	out := map[string]physic.ElectricPotential{"supply/-": 0, "supply/+": 5 * physic.Volt, "host/" + board.Rail5: 5 * physic.Volt, "host/" + board.Rail3: 3300 * physic.MilliVolt}
	for _, label := range board.Grounds() {
		out["host/"+label] = 0
	}
	delete(out, "host/")
	return out
}

// pullUps adds those of the host that the program switches on.
func (c *Circuit) pullUps(net *circuit.Network, n *nodes) {
	logic := 1 << 30 // a node of its own
	net.Hold(logic, c.board.Logic)
	pulled := map[int]bool{}
	for i := range c.bench.Modules {
		for k := range c.bench.Modules[i].Show.Inputs {
			in := &c.bench.Modules[i].Show.Inputs[k]
			if in.Kind != "button" && in.Kind != "counter" || in.Button.Ladder || in.Pull != "" && in.Pull != "host" {
				continue
			}
			for _, label := range []string{in.Pin, in.PinB} {
				p, there := c.board.Find(label)
				at := n.of("host/" + p.Label)
				if there && !p.Has(host.NoPull) && !pulled[at] {
					pulled[at] = true
					net.Resistor(at, logic, usualPullUp)
				}
			}
		}
	}
}

// signal adds what a signal is at a share of what its pin reads at most.
func (c *Circuit) signal(net *circuit.Network, n *nodes, h *hand, hold func(string, physic.ElectricPotential)) {
	a := h.signal
	in := &c.bench.Modules[a.Module].Show.Inputs[a.Input]
	v := physic.ElectricPotential(h.share * float64(in.Reference(&c.board)))
	switch a.Does {
	case wiring.Gives: // a potentiometer, or as good as one
		pot, turn := pinout.UsualPot, min(float64(v)/float64(in.Fed(&c.board)), 1)
		low := physic.ElectricResistance(turn * float64(pot))
		net.Resistor(n.of(a.Pins[0]), n.of(a.Pins[2]), max(low, physic.MilliOhm))
		net.Resistor(n.of(a.Pins[2]), n.of(a.Pins[1]), max(pot-low, physic.MilliOhm))
	case wiring.Changes: // below the other one, which gives this share
		other := float64(pinout.OtherOf(&in.Signal.Circuit))
		part := min(float64(v)/float64(in.Fed(&c.board)), 0.999_999)
		net.Resistor(n.of(a.Pins[0]), n.of(a.Pins[1]), physic.ElectricResistance(min(max(other*part/(1-part), float64(physic.MilliOhm)), float64(physic.GigaOhm))))
	case wiring.Sounds: // its greatest voltage, behind the level at its loudest and the diode
		hold(a.Pins[0], v)
		net.Resistor(n.of(a.Pins[1]), n.of(a.Pins[2]), physic.Ohm)
		net.Diode(n.of(a.Pins[3]), n.of(a.Pins[4]), 0, physic.Ohm)
	case wiring.Sends:
		hold(a.Pins[2], physic.ElectricPotential(h.share*float64(in.FedBy(&c.board))))
	}
}

// volts is what comes to a pin of the host while something is done; false where nothing does.
func (c *Circuit) volts(label string, h *hand) (physic.ElectricPotential, bool) {
	s, n, ok := c.solve(h)
	if !ok {
		return 0, false
	}
	return s.Voltage(n.of("host/" + c.board.Canonical(label)))
}

// OtherRail is a pin of the host on the rail that a conductor is not: on its supply where the pin is on
// ground, else on ground.
func (c *Circuit) OtherRail(pin string) string {
	s, n, ok := c.solve(&hand{})
	if v, held := s.Voltage(n.of(pin)); ok && held && v > 0 {
		return "host/GND"
	}
	return "host/" + c.logicRail()
}

// logicRail is the label of the rail that carries the host's logic voltage.
func (c *Circuit) logicRail() string {
	if c.board.Logic < 4*physic.Volt && c.board.Rail3 != "" {
		return c.board.Rail3
	}
	return c.board.Rail5
}

// Held lists a leg of each resistor that holds an input's pin or divides what feeds it.
func (c *Circuit) Held(module, input int) (out []string) {
	in := &c.bench.Modules[module].Show.Inputs[input]
	for _, label := range []string{in.Pin, in.PinB} {
		at, ok := c.wires("host/" + c.board.Canonical(label))
		for i := range c.net.Parts {
			p := &c.net.Parts[i]
			if !ok || label == "" || p.Kind != wiring.Resistor || p.Role != wiring.Pull {
				continue
			}
			if end, there := c.wires(p.Pin("1")); there && end == at {
				out = append(out, p.Pin("1"))
			}
		}
	}
	return out
}
