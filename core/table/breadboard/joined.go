package breadboard

import (
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/table/wiring"
	"slatebell/core/wire/link"
)

// Joined returns how a module is joined up on the table, for link.Hardware; nil
// where nothing of the module lies on the table, or it cannot be built.
func (t *Table) Joined(index int) *link.Joined {
	if !Laid(t.Bench) || !t.Begun(index) {
		return nil
	}
	m := &t.Bench.Modules[index]
	mod, err := m.Display.Module()
	part, ok := t.Net.Of(index, wiring.Itself)
	if err != nil || !ok {
		return nil
	}
	j := &joiner{t: t, index: index, m: m, mod: &mod, part: part, link: m.Link.Build(&mod.Geometry, &t.Bench.Bus)}
	return j.joined()
}

// Joined returns how a module of a bench is joined up; see Table.Joined.
func Joined(b *bench.Bench, index int) *link.Joined {
	if !Laid(b) {
		return nil
	}
	return Lay(b).Joined(index)
}

// joiner works out what reaches one module.
type joiner struct {
	t     *Table
	index int
	m     *bench.Module
	mod   *module.Module
	part  *wiring.Part
	link  link.Link
}

func (j *joiner) joined() *link.Joined {
	out := &link.Joined{}
	if j.part.Kind == wiring.Backpack {
		out.Dead = j.starved("GND", "VCC")
		if out.Dead == "" {
			out.NoAck = j.deaf()
		}
		return out
	}
	out.Pins = map[string]string{}
	for _, pin := range j.part.Pins {
		line, is := link.LineAt(pin.Name)
		if source := j.source(j.part.Pin(pin.Name), false); source != "" && is {
			out.Pins[line.String()] = source
		}
	}
	out.Dead = j.starved("VSS", "VDD")
	if j.link.Kind == link.ShiftReg {
		j.register(out)
	}
	if rail := j.railOf(j.part.Pin("VDD")); rail != "" && rail != j.wanted() {
		out.SupplyMV = int(j.volts(rail) / physic.MilliVolt)
	}
	if j.mod.Technology == module.VFD {
		out.Pins["BL"] = link.Supply // it shines by itself
		return out
	}
	if j.mod.Unlit {
		j.analogue(out)
		out.Pins["BL"] = link.Supply // it is seen by the light of the room
		return out
	}
	j.analogue(out)
	return out
}

// railOf returns which supply a pin is joined to: GND, 5V, 3V3, or "".
func (j *joiner) railOf(pin string) string {
	t := j.t
	board := t.Bench.Host.Board()
	node := t.nodeOf(pin)
	for _, rail := range []struct{ name, pin string }{{"GND", "host/GND"}, {"5V", "host/" + board.Rail5}, {"5V", "supply/+"}, {"3V3", "host/" + board.Rail3}} {
		if _, there := t.pinIndex[rail.pin]; there && t.nodeOf(rail.pin) == node {
			return rail.name
		}
	}
	return ""
}

// wanted is the supply that the module ought to have.
func (j *joiner) wanted() string {
	if j.mod.Fed() <= 3600*physic.MilliVolt {
		return "3V3"
	}
	return "5V"
}

// volts is a supply's voltage: what the module says of the one that it ought to
// have.
func (j *joiner) volts(rail string) physic.ElectricPotential {
	switch {
	case rail == "GND":
		return 0
	case rail == j.wanted():
		return j.mod.Fed()
	case rail == "3V3":
		return 3300 * physic.MilliVolt
	}
	return 5 * physic.Volt
}

// starved says why a module is not fed, or "".
func (j *joiner) starved(ground, supply string) string {
	low, high := j.railOf(j.part.Pin(ground)), j.railOf(j.part.Pin(supply))
	switch short := j.t.shorted(); {
	case short != "":
		return short + " and ground are joined to each other: nothing is fed"
	case low == "GND" && (high == "5V" || high == "3V3"):
		return ""
	case high == "GND" && low != "" && low != "GND":
		return fmt.Sprintf("supply and ground are exchanged at %s and %s", ground, supply)
	case low == "" && j.onSupply(ground):
		return fmt.Sprintf("%s is on the supply’s ground, which is not joined to the host’s", ground)
	case low != "GND":
		return fmt.Sprintf("%s (%s) is not joined to ground", ground, j.t.whereCalled(j.part.Pin(ground)))
	}
	return fmt.Sprintf("%s (%s) is not joined to a supply", supply, j.t.whereCalled(j.part.Pin(supply)))
}

// shorted names a supply that is joined to ground, or "".
func (t *Table) shorted() string {
	board := t.Bench.Host.Board()
	for _, rail := range []string{"host/" + board.Rail5, "host/" + board.Rail3, "supply/+"} {
		if _, there := t.pinIndex[rail]; there && t.nodeOf(rail) == t.nodeOf("host/GND") {
			return rail
		}
	}
	return ""
}

// onSupply reports whether a pin is on the ground of a supply of its own.
func (j *joiner) onSupply(pin string) bool {
	_, there := j.t.pinIndex["supply/-"]
	return there && j.t.nodeOf("supply/-") == j.t.nodeOf(j.part.Pin(pin))
}

// source says what drives a conductor, as link.Joined writes it. Of a register's
// inputs, lines are those of the register.
func (j *joiner) source(pin string, input bool) string {
	t := j.t
	node := t.nodeOf(pin)
	var from []string
	add := func(s string) {
		if s != "" && !slices.Contains(from, s) {
			from = append(from, s)
		}
	}
	pulled := false
	for _, other := range t.on(node) {
		id, name, _ := strings.Cut(other, "/")
		p, _ := t.Net.Part(id)
		switch {
		case other == "supply/-":
			add(link.Ground)
		case id == "host":
			if l, driven := t.Net.Lines[name]; driven {
				add(j.line(l))
			}
		case p.Kind == wiring.Register && strings.HasPrefix(name, "Q") && name != "QH2" && t.fedPart(p):
			if p.Module == j.index && !input {
				add(j.output(name))
			} else {
				add(link.Ground)
			}
		case p.Kind == wiring.Module && other != pin && (name == "RS" || name == "R/W" || name[0] == 'D'):
			pulled = true
		}
	}
	switch j.railOf(pin) {
	case "GND":
		add(link.Ground)
	case "5V", "3V3":
		add(link.Supply)
	default:
		pulled = pulled || j.pulledUp(node)
	}
	if len(from) == 0 && pulled {
		return link.Pulled
	}
	slices.Sort(from)
	return strings.Join(from, "+")
}

// line returns what a host's line is to this module: its name, or low where it
// serves another.
func (j *joiner) line(l wiring.Line) string {
	switch {
	case len(l.Modules) == 0:
		return "" // a button's pin listens
	case !slices.Contains(l.Modules, j.index):
		return link.Ground
	}
	return strings.Replace(l.Name, "/", "", 1)
}

// output returns the line that an output of the module's register drives; an output
// without one stays low.
func (j *joiner) output(name string) string {
	for _, o := range j.link.Mapping.Outputs() {
		if wiring.Output(o.Output) == name {
			return o.Line.String()
		}
	}
	return link.Ground
}

// pulledUp reports whether a resistor joins a conductor to a supply.
func (j *joiner) pulledUp(node int) bool {
	for i := range j.t.Net.Parts {
		p := &j.t.Net.Parts[i]
		if p.Kind != wiring.Resistor {
			continue
		}
		for k, end := range []string{"1", "2"} {
			other := p.Pin([]string{"2", "1"}[k])
			if j.t.nodeOf(p.Pin(end)) == node {
				if r := j.railOf(other); r == "5V" || r == "3V3" {
					return true
				}
			}
		}
	}
	return false
}

// fedPart reports whether a chip has ground and supply.
func (t *Table) fedPart(p *wiring.Part) bool {
	g, v := t.nodeOf(p.Pin("GND")), t.nodeOf(p.Pin("VCC"))
	board := t.Bench.Host.Board()
	fed := v == t.nodeOf("host/"+board.Rail5) || v == t.nodeOf("host/"+board.Rail3)
	if i, there := t.pinIndex["supply/+"]; there {
		fed = fed || v == t.root(i)
	}
	return fed && g == t.nodeOf("host/GND") && g != v
}

// register says what drives the inputs of the module's 74HC595. One that is not fed
// drives nothing.
func (j *joiner) register(out *link.Joined) {
	p, ok := j.t.Net.Of(j.index, wiring.Chip)
	if !ok {
		return
	}
	out.Register = map[string]string{}
	for _, name := range []string{"SER", "SRCLK", "RCLK", "OE", "SRCLR"} {
		if source := j.source(p.Pin(name), true); source != "" {
			out.Register[name] = source
		}
	}
}
