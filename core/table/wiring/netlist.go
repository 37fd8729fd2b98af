// Package wiring says what must be joined to what: from the modules, links, host
// and devices of a bench it makes the parts with their pins, and the nets, each of
// which must be one conductor. It says what each pin and part is for and how to know
// it, and which colour its wires have.
//
// It stands above plan, which allots pins and addresses, and below breadboard, which
// lays parts and wires into holes and holds what they join against the netlist.
package wiring

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/table/pinout"
)

// PartKind is what a part is.
type PartKind string

// The kinds.
const (
	Host       PartKind = "host"
	Supply     PartKind = "supply"
	Module     PartKind = "module"   // by its own header
	Backpack   PartKind = "backpack" // a module by the four pins of its backpack
	Pot        PartKind = "pot"
	Resistor   PartKind = "resistor"
	Register   PartKind = "register" // 74HC595 or 74HCT595
	Transistor PartKind = "transistor"
	Converter  PartKind = "converter"
	Device     PartKind = "device"
	Button     PartKind = "button"
	Stick      PartKind = "stick"   // or a knob, or any part of three pins that gives a voltage
	Encoder    PartKind = "encoder" // rotary, of two contacts
	Talker     PartKind = "talker"  // gives characters over a serial line
	Knob       PartKind = "knob"    // a potentiometer for a signal's level
	Sensor     PartKind = "sensor"  // a resistor that changes
	Source     PartKind = "source"  // of an alternating voltage
	Diode      PartKind = "diode"
	Capacitor  PartKind = "capacitor"
	Own        PartKind = "own" // a part that its maker describes
)

// Pin is one pin of a part.
type Pin struct {
	Name   string
	Number int // from 1; 0 where it has none
	Board  int // its number on a host that counts its pins; 0 where it does not
	Of     int // pins of its row, so that it can be counted from the other end; 0 where it is in none
	For    string
	Level  string
	Open   string // what happens when nothing is joined to it
}

// Part is one thing on the table.
type Part struct {
	ID     string // host, a module's id, or such as hall-pot; no two parts share one
	Kind   PartKind
	Role   Role   // of a module's part that stands once beside it
	Name   string // for people
	For    string
	Look   string // how to know it, and which way round it goes
	Path   string // RFC 6901 pointer to what of the bench asks for it
	Module int    // index of the module that it serves; -1 for none
	Pins   []Pin

	Ohm   physic.ElectricResistance // of a resistor or potentiometer
	Low   bool                      // transistor: conducts while its base is low (PNP)
	Light module.Backlight          // module: what lights it
}

// Role is what a part is to the module that it serves.
type Role string

// The roles, of which a module has each once.
const (
	Itself   Role = "itself" // its header, or its backpack
	Contrast Role = "pot"
	Light    Role = "light"
	Fixed    Role = "vo"     // resistor from VO to ground
	Switch   Role = "switch" // transistor of its backlight
	Base     Role = "base"   // resistor of the transistor
	Chip     Role = "register"
	Pull     Role = "pull" // resistor that holds a line; there may be several
)

// Pin returns the full name of a pin, as nets and wires name it.
func (p *Part) Pin(name string) string { return p.ID + "/" + name }

// Called is how lists and findings call the part: host, supply, or its name, which no other has.
func (p *Part) Called() string {
	if p.Kind == Host || p.Kind == Supply {
		return string(p.Kind)
	}
	return p.Name
}

// Net is what must be one conductor.
type Net struct {
	Name   string   // GND, 5V, 3V3, SDA, SCL, or such as hall/RS
	What   string   // its last part, by which colours are chosen: GND, RS, data …
	Line   string   // of data: D0–D7
	Pins   []string // such as host/D4 and hall/RS
	Colour string
}

// Netlist is all parts and nets of a bench.
type Netlist struct {
	Parts  []Part
	Nets   []Net
	Lines  map[string]Line // what the host drives, by the label of its pin, not of a socket
	Open   []Open          // lines for which the host has no pin
	Acts   []Act           // what parts do when inputs are used
	netOf  map[string]int
	partOf map[string]int
	roles  map[served]int
	twins  map[string][]string // labels of the host that are one conductor with a label
}

// served is what a module has once.
type served struct {
	module int
	role   Role
}

// Line is a line of a link, as a host's pin drives it.
type Line struct {
	Modules []int // that it serves; none for a button
	Name    string
}

// Open is a line of a module for which no pin of the host is chosen, or one that it
// does not have.
type Open struct {
	Module int
	Line   string
}

// Part returns a part by its id.
func (n *Netlist) Part(id string) (*Part, bool) {
	i, ok := n.partOf[id]
	if !ok {
		return nil, false
	}
	return &n.Parts[i], true
}

// Of returns the part of a module that has a role; false where it has none.
func (n *Netlist) Of(module int, role Role) (*Part, bool) {
	i, ok := n.roles[served{module, role}]
	if !ok {
		return nil, false
	}
	return &n.Parts[i], true
}

// PinOf splits the full name of a pin, and reports whether there is such a pin.
func (n *Netlist) PinOf(full string) (*Part, *Pin, bool) {
	id, name, _ := strings.Cut(full, "/")
	p, ok := n.Part(id)
	if !ok {
		return nil, nil, false
	}
	i := slices.IndexFunc(p.Pins, func(pin Pin) bool { return pin.Name == name })
	if i < 0 {
		return p, nil, false
	}
	return p, &p.Pins[i], true
}

// NetOf returns the net that a pin belongs to, by its full name; false for a pin
// that stays open.
func (n *Netlist) NetOf(full string) (*Net, bool) {
	i, ok := n.netOf[full]
	if !ok {
		return nil, false
	}
	return &n.Nets[i], true
}

// Called says a pin or a net for people: by what the bench calls its part, such as Gate/RS.
func (n *Netlist) Called(name string) string {
	id, rest, _ := strings.Cut(name, "/")
	if p, ok := n.Part(id); ok && rest != "" {
		return p.Called() + "/" + rest
	}
	return name
}

// Named returns a net by its name; a net of nothing where there is none.
func (n *Netlist) Named(name string) (Net, bool) {
	for i := range n.Nets {
		if n.Nets[i].Name == name {
			return n.Nets[i], true
		}
	}
	return Net{}, false
}

// sockets notes that the sockets of a host's pin, and its own place, are in a net too.
func (n *Netlist) sockets(pin string, net int) {
	label, own := strings.CutPrefix(pin, "host/")
	if !own {
		return
	}
	for _, same := range n.twins[label] {
		n.netOf["host/"+same] = net
	}
}

// builder gathers a netlist.
type builder struct {
	b     *bench.Bench
	out   Netlist
	index map[string]int    // of a net, by its name
	ids   map[string]bool   // that are taken
	own   []string          // ids of the modules' parts, by their index
	other map[string]string // ids of the devices' parts, by the device's

	ladders []pinout.Ladder   // of buttons
	taps    map[string]string // of each ladder, by its pin: where the next button's resistor begins
}

// reserved are ids of parts that are no module's and no device's.
var reserved = []string{"host", "supply", "converter", "multiplexer", "pull-sda", "pull-scl"}

// claim gives the ids of modules and devices to their parts. What the document calls by a
// name that a part has already gets another, which no document can hold: parts have a name
// space of their own.
func (k *builder) claim() {
	k.ids, k.other = map[string]bool{}, map[string]string{}
	for _, id := range reserved {
		k.ids[id] = true
	}
	for i := range k.b.Modules {
		k.own = append(k.own, k.id(k.b.Modules[i].ID))
	}
	for i := range k.b.Devices {
		k.other[k.b.Devices[i].ID] = k.id(k.b.Devices[i].ID)
	}
}

// id returns a free id: the one that is wished for, or that with a number.
func (k *builder) id(wish string) string {
	id := wish
	for n := 2; k.ids[id]; n++ {
		id = fmt.Sprintf("%s~%d", wish, n)
	}
	k.ids[id] = true
	return id
}

// join puts pins into a net.
func (k *builder) join(net, what string, pins ...string) {
	i, ok := k.index[net]
	if !ok {
		i = len(k.out.Nets)
		k.index[net] = i
		k.out.Nets = append(k.out.Nets, Net{Name: net, What: what, Line: dataLine(net, what)})
	}
	for _, pin := range pins {
		if label, own := strings.CutPrefix(pin, "host/"); own && k.label(label) == "" {
			continue
		}
		if _, there := k.out.netOf[pin]; !there {
			k.out.netOf[pin] = i
			k.out.Nets[i].Pins = append(k.out.Nets[i].Pins, pin)
			k.out.sockets(pin, i)
		}
	}
}

// dataLine is the line of a net of data, by its name.
func dataLine(net, what string) string {
	if what != "data" {
		return ""
	}
	return net[strings.LastIndex(net, "/")+1:]
}

// label returns the label of the host's pin that a document means, or "" where the
// host has no such pin.
func (k *builder) label(text string) string {
	host := &k.out.Parts[k.out.partOf["host"]]
	for _, pin := range host.Pins {
		if strings.EqualFold(pin.Name, text) {
			return pin.Name
		}
	}
	return ""
}

// line joins a pin of a part to the host's pin that drives it; a pin that two lines
// share is one net.
func (k *builder) line(module int, label, name, pin string) {
	if label = k.label(label); label == "" {
		if module >= 0 {
			k.out.Open = append(k.out.Open, Open{module, name})
		}
		return
	}
	full := "host/" + label
	net, what := pin, name
	if strings.HasPrefix(name, "D") && len(name) == 2 {
		what = "data"
	}
	if i, shared := k.out.netOf[full]; shared {
		net, what = k.out.Nets[i].Name, k.out.Nets[i].What
	}
	k.join(net, what, full, pin)
	board := k.b.Host.Board()
	label = board.Canonical(label)
	l := k.out.Lines[label]
	l.Name = cmp.Or(l.Name, name)
	if module >= 0 {
		l.Modules = append(l.Modules, module)
	}
	k.out.Lines[label] = l
}

func (k *builder) add(p Part) *Part {
	k.out.partOf[p.ID] = len(k.out.Parts)
	if p.Role != "" && p.Role != Pull {
		k.out.roles[served{p.Module, p.Role}] = len(k.out.Parts)
	}
	k.out.Parts = append(k.out.Parts, p)
	return &k.out.Parts[len(k.out.Parts)-1]
}

// rail returns the net that feeds something.
func rail(v physic.ElectricPotential) string {
	if v <= 3600*physic.MilliVolt {
		return "3V3"
	}
	return "5V"
}

// Of returns the netlist of a bench. A module whose pins are not chosen gets those
// that are free, as plan allots them; where there are none its lines stay open.
func Of(doc *bench.Bench) Netlist {
	b := pinout.Pinned(doc)
	k := &builder{b: &b, index: map[string]int{}, ladders: pinout.Ladders(&b), taps: map[string]string{}}
	k.out = Netlist{Lines: map[string]Line{}, netOf: map[string]int{}, partOf: map[string]int{}, roles: map[served]int{}}
	k.claim()
	k.host()
	k.bus()
	for i := range b.Modules {
		k.module(i)
	}
	k.ownParts()
	k.trim()
	k.tellApart()
	for i := range k.out.Nets {
		n := &k.out.Nets[i]
		n.Colour = Colour(&b.Wiring, n)
	}
	return k.out
}

// tellApart adds their ids to parts that are called alike.
func (k *builder) tellApart() {
	count := map[string]int{}
	for i := range k.out.Parts {
		count[k.out.Parts[i].Called()]++
	}
	for i := range k.out.Parts {
		if p := &k.out.Parts[i]; count[p.Called()] > 1 {
			p.Name = fmt.Sprintf("%s (%s)", p.Name, p.ID)
		}
	}
}

// trim leaves out nets that join nothing, such as a supply that nobody uses, and the
// host's line of one.
func (k *builder) trim() {
	kept := k.out.Nets[:0]
	for _, n := range k.out.Nets {
		if len(n.Pins) > 1 {
			kept = append(kept, n)
		}
	}
	k.out.Nets = kept
	k.out.netOf = map[string]int{}
	for i, n := range kept {
		for _, p := range n.Pins {
			k.out.netOf[p] = i
			k.out.sockets(p, i)
		}
	}
}

// Colours of wires, and which nets have them where nothing else is said (common
// practice for ground and supply; the rest is ours).
var (
	Palette = []string{"black", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white", "brown", "turquoise"}
	usual   = map[string]string{
		"GND": "black", "5V": "red", "3V3": "orange", "VO": "white", "A": "brown", "K": "grey", "RS": "yellow", "R/W": "grey", "E": "green", "E2": "violet", "data": "blue",
		"SDA": "blue", "SCL": "yellow", "clock": "green", "latch": "yellow", "light": "violet",
	}
	each = map[string]string{"D0": "white", "D1": "brown", "D2": "yellow", "D3": "green", "D4": "blue", "D5": "violet", "D6": "grey", "D7": "turquoise"}
)

// Colour returns the colour of a net's wires: what was chosen for the net, its data line or what
// it is, or the usual. Data lines are blue, or have a colour each where the bench wants it so.
func Colour(w *bench.Wiring, n *Net) string {
	line := ""
	if w.EachLine {
		line = cmp.Or(w.Colours[n.Line], each[n.Line])
	}
	return cmp.Or(w.Colours[n.Name], line, w.Colours[n.What], usual[n.What], "grey")
}

// Other returns the count of a pin from the other end of its row: "6th from the
// right" where pin 1 is at the left.
func (p *Pin) Other() int {
	if p.Of == 0 {
		return 0
	}
	return p.Of - p.Number + 1
}

// fewPins is a row so short that nobody counts in it.
const fewPins = 8

// Says names a pin in every way that people count it.
func (p *Pin) Says() string {
	if p.Board > 0 {
		return fmt.Sprintf("%s, board pin %d", p.Name, p.Board)
	}
	if p.Of < fewPins {
		return p.Name
	}
	return fmt.Sprintf("%s, pin %d, %s from the other end", p.Name, p.Number, ordinal(p.Other()))
}

func ordinal(n int) string {
	suffix := "th"
	switch {
	case n%100/10 == 1:
	case n%10 == 1:
		suffix = "st"
	case n%10 == 2:
		suffix = "nd"
	case n%10 == 3:
		suffix = "rd"
	}
	return fmt.Sprint(n) + suffix
}
