package wiring

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/circuit"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/table/bus"
	"slatebell/core/table/power"
	"slatebell/core/wire/link"
)

// numberPins gives pins the numbers of their row.
func numberPins(pins []Pin) []Pin {
	for i := range pins {
		pins[i].Number, pins[i].Of = i+1, len(pins)
	}
	return pins
}

func named(names ...string) []Pin {
	pins := make([]Pin, len(names))
	for i, n := range names {
		pins[i].Name = n
	}
	return pins
}

func (k *builder) host() {
	board := k.b.Host.Board()
	p := Part{ID: "host", Kind: Host, Name: board.Title, For: "Drives everything.", Look: board.Look, Path: "/host", Module: -1}
	for _, edge := range board.Edges {
		for _, label := range edge {
			if label != "" && label != "NC" {
				p.Pins = append(p.Pins, Pin{Name: label})
			}
		}
	}
	for i := range p.Pins {
		p.Pins[i].Board = board.Place(p.Pins[i].Name)
		switch pin := &p.Pins[i]; {
		case strings.HasPrefix(pin.Name, "GND"):
			pin.For, pin.Level = "Ground.", "0 V"
		case pin.Name == board.Rail5:
			pin.For, pin.Level = "5 V of the supply that feeds the host.", "5 V"
		case pin.Name == board.Rail3:
			pin.For, pin.Level = "3.3 V of the host’s regulator.", "3.3 V"
		default:
			if _, ok := board.Find(pin.Name); ok {
				pin.Level = fmt.Sprintf("%s logic; bears %s", say.Volts(board.Logic), say.Volts(board.MaxPinVoltage))
			}
		}
	}
	k.add(p)
	k.out.twins = map[string][]string{}
	grounds := board.Grounds()
	same := map[string][]string{} // pins of one conductor, by one of them
	conductor := func(name string) string {
		if slices.Contains(grounds, name) {
			return "GND"
		}
		return board.Canonical(name)
	}
	for _, pin := range p.Pins {
		one := conductor(pin.Name)
		same[one] = append(same[one], pin.Name)
	}
	for _, names := range same {
		for _, name := range names {
			for _, other := range names {
				if name != other {
					k.out.twins[name] = append(k.out.twins[name], other)
				}
			}
		}
	}
	k.join("GND", "GND", "host/GND")
	k.join("5V", "5V", "host/"+board.Rail5)
	if board.Rail3 != "" {
		k.join("3V3", "3V3", "host/"+board.Rail3)
	}
	if from := k.b.Host.Supply.From; from == "supply" || from == "battery" {
		k.add(Part{ID: "supply", Kind: Supply, Name: map[string]string{"supply": "5 V supply", "battery": "Battery, 5 V"}[from], For: "Feeds host and modules.", Look: "Two leads: red is +, black is −. Measure it before you join it.", Path: "/host/supply", Module: -1,
			Pins: []Pin{{Name: "+", For: "+5 V.", Level: "5 V"}, {Name: "-", For: "Ground.", Level: "0 V"}}})
		k.join("5V", "5V", "supply/+")
		k.join("GND", "GND", "supply/-")
	}
}

// bus joins what answers on the bus: on either side of a level converter, and on
// the channels of a multiplexer.
func (k *builder) bus() {
	b := k.b
	nodes := bus.Nodes(b)
	if len(nodes) == 0 {
		return
	}
	board := b.Host.Board()
	sda, scl, _ := bus.Pins(b)
	logic := rail(board.Logic)
	k.join("SDA", "SDA", "host/"+k.label(sda))
	k.join("SCL", "SCL", "host/"+k.label(scl))
	if b.Bus.Converter {
		k.add(Part{ID: "converter", Kind: Converter, Name: "Two-way level converter", For: "Lets a bus of one voltage drive parts of another.", Look: "A small board with a low side (LV) and a high side (HV).", Path: "/bus/converter", Module: -1,
			Pins: named("LV", "GND", "LV1", "LV2", "HV", "GND2", "HV1", "HV2")})
		k.join(logic, logic, "converter/LV")
		k.join("5V", "5V", "converter/HV")
		k.join("GND", "GND", "converter/GND") // its two grounds are one inside
		k.join("SDA", "SDA", "converter/LV1")
		k.join("SCL", "SCL", "converter/LV2")
		k.join("SDA far", "SDA", "converter/HV1")
		k.join("SCL far", "SCL", "converter/HV2")
	}
	if r := b.Bus.PullUpOhm; r > 0 {
		for _, line := range []string{"SDA", "SCL"} {
			id := "pull-" + strings.ToLower(line)
			k.resistor(id, Pull, "Pull-up of "+line, "Brings "+line+" up while nobody pulls it low.", "/bus/pullUpOhm", -1, physic.ElectricResistance(r)*physic.Ohm)
			k.join(line, line, id+"/1")
			k.join(logic, logic, id+"/2")
		}
	}
	for i := range nodes {
		n := &nodes[i]
		id := n.ID
		switch {
		case n.Module >= 0:
			id = k.own[n.Module]
		case n.Path != "/bus/multiplexer":
			id = k.other[n.ID]
		}
		if n.Module < 0 {
			p := Part{ID: id, Kind: Device, Name: n.Name, For: n.Part.Name + ": " + n.Part.What + ".", Look: "Read the part number on its chip; the labels stand beside its pins.", Path: n.Path, Module: -1, Pins: named("GND", "VCC", "SDA", "SCL")}
			if n.Path == "/bus/multiplexer" {
				for c := range 8 {
					p.Pins = append(p.Pins, named(fmt.Sprintf("SD%d", c), fmt.Sprintf("SC%d", c))...)
				}
			}
			k.add(p)
		}
		far := ""
		if b.Bus.Converter && bus.IsFar(b, n) {
			far = " far"
		}
		lineSDA, lineSCL := "SDA"+far, "SCL"+far
		if n.Channel > 0 {
			lineSDA, lineSCL = fmt.Sprintf("SDA channel %d", n.Channel), fmt.Sprintf("SCL channel %d", n.Channel)
			k.join(lineSDA, "SDA", fmt.Sprintf("multiplexer/SD%d", n.Channel-1))
			k.join(lineSCL, "SCL", fmt.Sprintf("multiplexer/SC%d", n.Channel-1))
		}
		k.join("GND", "GND", id+"/GND")
		feed := rail(n.Fed)
		k.join(feed, feed, id+"/VCC")
		k.join(lineSDA, "SDA", id+"/SDA")
		k.join(lineSCL, "SCL", id+"/SCL")
	}
}

func (k *builder) resistor(id string, role Role, name, use, path string, module int, r physic.ElectricResistance) {
	look := say.Ohms(r) + ". It has no right way round."
	if bands, err := circuit.Bands(r); err == nil {
		look = fmt.Sprintf("%s: bands %s, %s, %s, and %s. It has no right way round.", say.Ohms(r), bands[0], bands[1], bands[2], bands[3])
	}
	k.add(Part{ID: id, Kind: Resistor, Role: role, Name: name, For: use, Look: look, Path: path, Module: module, Ohm: r, Pins: named("1", "2")})
}

// module joins a module by its link.
func (k *builder) module(i int) {
	m := &k.b.Modules[i]
	mod, err := m.Display.Module()
	if err != nil {
		return
	}
	path := fmt.Sprintf("/modules/%d", i)
	name := cmp.Or(m.Name, m.ID)
	l := m.Link.Build(&mod.Geometry, &k.b.Bus)
	if l.Kind == link.Backpack {
		k.add(Part{ID: k.own[i], Kind: Backpack, Role: Itself, Name: name, For: "Shows text, behind a backpack.", Look: "Four pins at the backpack’s edge, with their names beside them. Read them: GND and VCC change places on some.", Path: path, Module: i,
			Pins: numberPins([]Pin{{Name: "GND", For: "Ground.", Level: "0 V"}, {Name: "VCC", For: "Supply.", Level: say.Volts(mod.Fed())},
				{Name: "SDA", For: "Data of the bus.", Level: "pulled up on the backpack", Open: "Nothing answers."}, {Name: "SCL", For: "Clock of the bus.", Level: "pulled up on the backpack", Open: "Nothing answers."}})})
		k.inputs(i, m)
		return
	}
	p := Part{ID: k.own[i], Kind: Module, Role: Itself, Name: name, For: "Shows text.", Look: "Pin 1 is marked 1, or has a square pad.", Path: path, Module: i, Light: m.Backlight()}
	for _, h := range mod.Header() {
		pin := h.Name
		if pin == "NC" {
			pin = fmt.Sprintf("NC%d", h.Number)
		}
		p.Pins = append(p.Pins, Pin{Name: pin, For: h.For, Level: h.Level, Open: h.Open})
	}
	numberPins(p.Pins)
	if mod.Technology == module.VFD {
		p.Look += " A solder link near the header chooses between parallel and serial: bridge it for parallel, or the module stays dark. It makes tens of volts on the board: touch nothing on it while it is fed."
	}
	k.add(p)
	feed := rail(mod.Fed())
	k.join("GND", "GND", p.Pin("VSS"))
	k.join(feed, feed, p.Pin("VDD"))
	if mod.Technology == module.LCD {
		k.contrast(m, &p, feed)
	}
	if l.Kind == link.ShiftReg {
		k.register(m, &p, &l, feed)
	} else {
		for _, line := range l.HostPins() {
			k.line(i, m.Link.Pins[line], line, p.Pin(line))
		}
		if !l.ReadWrite {
			k.join("GND", "GND", p.Pin("R/W"))
		}
		k.light(m, &p, feed, "")
	}
	k.inputs(i, m)
}

// contrast joins VO: to a potentiometer's wiper, or to ground.
func (k *builder) contrast(m *bench.Module, p *Part, feed string) {
	r := m.Fitting.Pot()
	if fixed := m.Fitting.Fixed(); fixed > 0 {
		id := k.id(p.ID + "-vo")
		k.resistor(id, Fixed, "Contrast resistor of "+p.Name, "Gives VO its voltage, against the module’s own ladder.", p.Path+"/fitting", p.Module, fixed)
		k.join(p.ID+"/VO", "VO", p.Pin("VO"), id+"/1")
		k.join("GND", "GND", id+"/2")
		return
	}
	if r == 0 {
		k.join("GND", "GND", p.Pin("VO"))
		return
	}
	pot := Part{ID: k.id(p.ID + "-pot"), Kind: Pot, Role: Contrast, Name: "Contrast of " + p.Name, For: "Sets VO between ground and VDD; every module needs its own setting.", Path: p.Path + "/fitting", Module: p.Module, Ohm: r,
		Look: say.Ohms(r) + " potentiometer: the middle pin is the wiper. The outer two may change places; the knob then turns the other way.",
		Pins: []Pin{{Name: "1", For: "End at VDD."}, {Name: "wiper", For: "Gives VO its voltage."}, {Name: "3", For: "End at ground."}}}
	k.add(pot)
	k.join(p.ID+"/VO", "VO", p.Pin("VO"), pot.Pin("wiper"))
	k.join(feed, feed, pot.Pin("1"))
	k.join("GND", "GND", pot.Pin("3"))
}

// light joins the backlight: from the supply through its resistor to ground, or
// through a transistor that a line of a shift register switches.
func (k *builder) light(m *bench.Module, p *Part, feed, line string) {
	if _, ok := pinNamed(p, "A"); !ok {
		return
	}
	anode, cathode := p.Pin("A"), p.Pin("K")
	top, topWhat, bottom, bottomWhat := feed, feed, "GND", "GND"
	low := m.Link.Outputs.Mapping != nil && m.Link.Outputs.Mapping.BacklightLow
	if line != "" {
		q := Part{ID: k.id(p.ID + "-switch"), Kind: Transistor, Role: Switch, Name: "Switch of " + p.Name + "’s backlight", For: "Carries the backlight’s current, which is more than a 74HC595 gives.", Path: p.Path + "/link/outputs", Module: p.Module, Low: low,
			Look: "A small transistor in a TO-92 case, NPN: flat side towards you, the legs are emitter, base, collector on many types; look it up for yours.", Pins: named("E", "B", "C")}
		if low {
			q.Look = strings.Replace(q.Look, "NPN", "PNP", 1)
		}
		k.add(q)
		base := k.id(p.ID + "-base")
		k.resistor(base, Base, "Base resistor of "+p.Name, "Limits the current into the transistor’s base.", p.Path+"/link/outputs", p.Module, physic.KiloOhm)
		k.join(line, "light", base+"/1")
		k.join(p.ID+"/base", "light", base+"/2", q.Pin("B"))
		if low {
			k.join(feed, feed, q.Pin("E"))
			top, topWhat = p.ID+"/fed", "light"
			k.join(top, topWhat, q.Pin("C"))
		} else {
			k.join("GND", "GND", q.Pin("E"))
			bottom, bottomWhat = p.ID+"/K", "K"
			k.join(bottom, bottomWhat, q.Pin("C"))
		}
	}
	k.join(bottom, bottomWhat, cathode)
	r := m.Fitting.Light()
	if r == 0 {
		k.join(top, topWhat, anode)
		return
	}
	id := k.id(p.ID + "-light")
	k.resistor(id, Light, "Backlight resistor of "+p.Name, "Limits the backlight’s current.", p.Path+"/fitting", p.Module, r)
	k.join(p.ID+"/A", "A", anode, id+"/1")
	k.join(top, topWhat, id+"/2")
}

func pinNamed(p *Part, name string) (*Pin, bool) {
	for i := range p.Pins {
		if p.Pins[i].Name == name {
			return &p.Pins[i], true
		}
	}
	return nil, false
}

// registerPins are a 74HC595's, pin 1 first (its data sheet, from memory).
var registerPins = []Pin{
	{Name: "QB", For: "Output of bit 1."}, {Name: "QC", For: "Output of bit 2."}, {Name: "QD", For: "Output of bit 3."}, {Name: "QE", For: "Output of bit 4."},
	{Name: "QF", For: "Output of bit 5."}, {Name: "QG", For: "Output of bit 6."}, {Name: "QH", For: "Output of bit 7."}, {Name: "GND", For: "Ground.", Level: "0 V"},
	{Name: "QH2", For: "What is shifted out, for a second chip (QH′)."}, {Name: "SRCLR", For: "Clears while low.", Level: "supply", Open: "It may clear at any time."},
	{Name: "SRCLK", For: "Clock: its rise shifts one bit in.", Open: "Nothing is shifted."}, {Name: "RCLK", For: "Latch: its rise shows what was shifted.", Open: "The outputs stay as they are."},
	{Name: "OE", For: "Outputs drive while low.", Level: "ground", Open: "The outputs may be off."}, {Name: "SER", For: "Data.", Open: "Only zeros, or noise."},
	{Name: "QA", For: "Output of bit 0."}, {Name: "VCC", For: "Supply.", Level: "as the module’s"},
}

// Output returns the name of a register's output by its bit.
func Output(bit int8) string { return "Q" + string(rune('A'+bit)) }

// register joins a module through a 74HC595.
func (k *builder) register(m *bench.Module, p *Part, l *link.Link, feed string) {
	i := p.Module
	chip := "74HC595"
	if k.b.Host.Board().Out.High < power.CMOSHigh(m) {
		chip = "74HCT595"
	}
	r := Part{ID: k.id(p.ID + "-register"), Kind: Register, Role: Chip, Name: chip + " of " + p.Name, For: "Makes eight outputs of three lines.", Path: p.Path + "/link", Module: i,
		Look: "16 pins; a notch or a dot marks one end. With the notch at the left, pin 1 is the lower left, and counting goes anticlockwise."}
	r.Pins = append(r.Pins, registerPins...)
	numberPins(r.Pins)
	for j := range r.Pins {
		r.Pins[j].Of = 0 // nobody counts a chip's pins from the other end
	}
	k.add(r)
	k.join("GND", "GND", r.Pin("GND"), r.Pin("OE"))
	k.join(feed, feed, r.Pin("VCC"), r.Pin("SRCLR"))
	for _, line := range []struct{ name, pin string }{{"data", "SER"}, {"clock", "SRCLK"}, {"latch", "RCLK"}} {
		k.line(i, m.Link.Pins[line.name], line.name, r.Pin(line.pin))
	}
	light := ""
	_, lit := pinNamed(p, "A")
	for _, o := range l.Mapping.Outputs() {
		out := r.Pin(Output(o.Output))
		switch o.Line {
		case link.LineBL:
			if !lit {
				continue
			}
			light = p.ID + "/light"
			k.join(light, "light", out)
		default:
			name := o.Line.Pin()
			what := name
			if o.Line.Data() {
				what = "data"
			}
			k.join(p.ID+"/"+name, what, out, p.Pin(name))
		}
	}
	if l.Mapping.RW == link.Open {
		k.join("GND", "GND", p.Pin("R/W"))
	}
	k.light(m, p, feed, light)
}
