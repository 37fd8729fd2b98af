// Package bridge is what a bridge holds of a bench: the host it runs on, its bus, for each module the pins of its link,
// which are all that it ever drives, and the serial lines of shows. A bridge is a program for the host that carries out
// what a computer sends it over a serial line; docs/live.md has the protocol.
//
// It stands beside firmware: a firmware knows what modules show, a bridge only how they are joined.
package bridge

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/ship/firmware"
	"slatebell/core/table/pinout"
	"slatebell/core/wire/link"
)

// Plan is a bridge before it is written as a program.
type Plan struct {
	Name     string // of the bench
	Host     host.Board
	BusHz    int    // clock of the bus, no faster than the slowest backpack's
	SDA, SCL string // labels of the host's pins of the bus
	Modules  []Module
	Bus      bool     // a module is on the bus
	Heard    []Serial // serial lines that it listens on
	Inputs   []string // labels of pins at which something of a show stands
}

// Serial is a serial line that the bridge listens on for shows. The one to the computer is never among them.
type Serial struct {
	Number int    // as the host counts its lines
	Pin    string // label of RX
	Baud   int
}

// Module is one module as a bridge knows it.
type Module struct {
	At      int // in the bench
	Name    string
	Display module.Module
	Link    link.Link
	Lines   []Line // of parallel links and shift registers
	Reads   bool   // R/W is joined, and the host bears what the module answers with
	Why     string // where it cannot be read: why; "" where it can
}

// Line is a line of a link on a pin of the host.
type Line struct {
	Name string // as link.HostPins has it: RS, E, D4, data, …
	Pin  string // label
	N    int    // what programs call the pin
}

// New plans the bridge of a bench. Modules whose pins are not chosen get the next free ones, as programs do. Its error is a
// bench.Problem where a module cannot be joined.
func New(b *bench.Bench) (*Plan, error) {
	pinned := pinout.Pinned(b)
	bare := firmware.Bare(&pinned)
	p := &Plan{Name: bare.Name, Host: bare.Host, BusHz: bare.BusHz, SDA: bare.SDA, SCL: bare.SCL}
	for i := range pinned.Modules {
		m, err := p.module(&pinned, i)
		if err != nil {
			return nil, err
		}
		p.Modules = append(p.Modules, *m)
		p.hears(pinned.Modules[i].Show.Inputs)
	}
	return p, nil
}

// hears takes the pins of a show's inputs, and its serial lines: two inputs on one line hear the same.
func (p *Plan) hears(inputs []bench.Input) {
	for i := range inputs {
		in := &inputs[i]
		for _, label := range []string{in.Pin, in.PinB} {
			if pin, there := p.Host.Find(label); there {
				p.Inputs = append(p.Inputs, pin.Label)
			}
		}
		pin, there := p.Host.Find(in.Pin)
		line, listens := p.Host.Line(pin.Label)
		if in.Kind != string(show.Serial) || !there || !listens || pin.Has(host.Upload) || pinout.Cannot(&p.Host, &pin, in) != "" || p.Hears(line.Number) {
			continue
		}
		p.Heard = append(p.Heard, Serial{line.Number, pin.Label, cmp.Or(in.Serial.Baud, show.UsualBaud)})
	}
}

// Hears reports whether the bridge listens on a serial line, by its number.
func (p *Plan) Hears(line int) bool {
	return slices.ContainsFunc(p.Heard, func(s Serial) bool { return s.Number == line })
}

func (p *Plan) module(b *bench.Bench, at int) (*Module, error) {
	doc := &b.Modules[at]
	mod, err := doc.Display.Module()
	if err != nil {
		return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/display", at), err)
	}
	if err := doc.Link.Check(&mod.Geometry, &b.Bus); err != nil {
		return nil, bench.ProblemOf(fmt.Sprintf("/modules/%d/link", at), err)
	}
	m := &Module{At: at, Name: cmp.Or(doc.Name, doc.ID), Display: mod, Link: doc.Link.Build(&mod.Geometry, &b.Bus)}
	m.Link.Enables = mod.Geometry.Controllers
	if m.Link.Kind == link.Backpack {
		p.Bus = true
		p.BusHz = min(p.BusHz, int(m.Link.Speed/1e6))
	} else {
		for _, name := range m.Link.HostPins() {
			label := doc.Link.Pins[name]
			n, ok := p.Host.Number(label)
			if !ok {
				return nil, bench.Problem{Path: fmt.Sprintf("/modules/%d/link/pins", at), What: fmt.Sprintf("%s has no pin of the host, and too few are free; choose one in the wiring", name)}
			}
			m.Lines = append(m.Lines, Line{name, label, n})
		}
	}
	m.Why = p.unreadable(m)
	m.Reads = m.Why == ""
	return m, nil
}

// HasBus reports whether a bridge has a bus: a module is on it, or no link takes its pins.
func (p *Plan) HasBus() bool {
	return p.Bus || p.SDA != "" && p.SCL != "" && !p.lined(p.SDA) && !p.lined(p.SCL)
}

// lined reports whether a pin is a link's.
func (p *Plan) lined(label string) bool {
	return slices.ContainsFunc(p.Modules, func(m Module) bool {
		return slices.ContainsFunc(m.Lines, func(l Line) bool { return l.Pin == label })
	})
}

// taken reports whether a pin is a link's, the bus's, or a serial line's.
func (p *Plan) taken(label string) bool {
	return p.HasBus() && (label == p.SDA || label == p.SCL) || p.lined(label) || slices.ContainsFunc(p.Heard, func(s Serial) bool { return s.Pin == label })
}

// Free are the labels of the pins that may be read as levels.
func (p *Plan) Free() []string {
	return p.pins(func(pin *host.Pin) bool { return pin.Listens() && !pin.Has(host.Upload) })
}

// Analogue are the labels of the pins whose voltage may be measured.
func (p *Plan) Analogue() []string {
	return p.pins(func(pin *host.Pin) bool { return pin.Has(host.Analog) })
}

// Spare are those of Analogue at which nothing of a show stands.
func (p *Plan) Spare() []string {
	return slices.DeleteFunc(p.Analogue(), func(label string) bool { return slices.Contains(p.Inputs, label) })
}

func (p *Plan) pins(want func(*host.Pin) bool) (out []string) {
	for i := range p.Host.Pins {
		if pin := &p.Host.Pins[i]; want(pin) && !p.taken(pin.Label) {
			out = append(out, pin.Label)
		}
	}
	return out
}

// unreadable says why a module cannot be read.
func (p *Plan) unreadable(m *Module) string {
	switch {
	case m.Link.Kind == link.ShiftReg:
		return "a shift register carries nothing back"
	case !m.Link.ReadWrite:
		return "its R/W is joined to ground"
	case m.Link.Kind != link.Backpack && !p.Bears(m):
		return fmt.Sprintf("it answers with %s, and the host’s pins bear %s", say.Volts(m.Display.Fed()), say.Volts(p.Host.MaxPinVoltage))
	}
	return ""
}

// Bears reports whether the host's pins bear what a module is fed with, so that its voltages may be measured at one.
func (p *Plan) Bears(m *Module) bool { return m.Display.Fed() <= p.Host.MaxPinVoltage }

// Line returns the line of a name.
func (m *Module) Line(name string) (Line, bool) {
	i := slices.IndexFunc(m.Lines, func(l Line) bool { return l.Name == name })
	if i < 0 {
		return Line{}, false
	}
	return m.Lines[i], true
}

// Text is all that a bridge was made for, a line each: two benches with the same text take the same bridge. What is sent
// over the bus, addresses and mappings among it, is not part of it.
func (p *Plan) Text() string {
	var out strings.Builder
	fmt.Fprintf(&out, "%s %d\n", p.Host.Chip, p.BusHz)
	if p.Bus {
		fmt.Fprintf(&out, "bus %s %s\n", p.SDA, p.SCL)
	}
	for i := range p.Modules {
		m := &p.Modules[i]
		fmt.Fprintf(&out, "%d %s %d", i, m.Link.Kind, m.Link.Enables)
		for _, l := range m.Lines {
			fmt.Fprintf(&out, " %s=%d", l.Name, l.N)
		}
		if m.Reads {
			out.WriteString(" reads")
		}
		out.WriteByte('\n')
	}
	for _, s := range p.Heard {
		fmt.Fprintf(&out, "hears %d %s %d\n", s.Number, s.Pin, s.Baud)
	}
	return out.String()
}
