// Package host knows the boards that drive modules, by the designation of their
// controller: which pins there are, what each can be, which levels they give,
// ask for and bear, and what currents they have to give. The table is embedded;
// a host that is not in it is described by its user (Generic).
//
// It stands near the ground of core: bench builds a Board from what the document
// says of its host, pinout allots its pins, and power judges its levels and currents.
package host

import (
	"cmp"
	_ "embed"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/circuit"
)

// Trait is what is special about a pin.
type Trait string

// The marks.
const (
	SDA         Trait = "sda"           // a data line of the I²C hardware
	SCL         Trait = "scl"           // a clock line of the I²C hardware
	Upload      Trait = "upload"        // serial line of the loader
	Strap       Trait = "strap"         // its level at power-up chooses how the host starts
	Flash       Trait = "flash"         // joined to the host's flash memory
	InputOnly   Trait = "input"         // has no driver
	AnalogOnly  Trait = "analog"        // has no digital part
	LED         Trait = "led"           // carries a light on the board
	NoOpenDrain Trait = "no-open-drain" // cannot serve a bus
	Analog      Trait = "adc"           // a voltage on it can be read
	NoPull      Trait = "no-pull"       // has no pull-up of its own
)

// Pin is one pin of a board.
type Pin struct {
	Label  string // as printed on the board
	Number int    // counted along the board's edge from 1; 0 where it is not counted
	Marks  []Trait
}

// Has reports whether a pin has a mark.
func (p *Pin) Has(m Trait) bool { return slices.Contains(p.Marks, m) }

// Listens reports whether a level on a pin can be read.
func (p *Pin) Listens() bool { return !p.Has(Flash) && !p.Has(AnalogOnly) }

// Drives reports whether a pin can drive a line of a module without harm.
func (p *Pin) Drives() bool { return !p.Has(Flash) && !p.Has(InputOnly) && !p.Has(AnalogOnly) }

// Plain reports whether a pin drives a line and is nothing else: neither used by
// the loader nor read at power-up.
func (p *Pin) Plain() bool { return p.Drives() && !p.Has(Upload) && !p.Has(Strap) }

// Board is a host board.
type Board struct {
	Part, Title   string
	Chip          string // its microcontroller; several boards may carry one
	Look          string // how to know it
	Logic         physic.ElectricPotential
	MaxPinVoltage physic.ElectricPotential // highest voltage on a pin
	Out           circuit.Output           // a pin that drives
	In            circuit.Input            // a pin that listens
	BusHigh       physic.ElectricPotential // V_IH of SDA and SCL
	Pin, PinMax   physic.ElectricCurrent   // a pin's usual current, and its absolute limit; 0: not known
	All           physic.ElectricCurrent   // over all pins; 0: not known
	Own           physic.ElectricCurrent   // what the board itself draws
	Bits          int                      // of its analogue-to-digital converter; 0: not known
	Straight      [2]int                   // voltages between which its converter's readings lie on a straight line, in millivolts; zero: all of them
	References    []int                    // voltages of its own that its converter can compare with, in millivolts (data sheets, from memory)
	Regulator     physic.ElectricCurrent   // what its 3.3 V rail gives to others; 0: not known
	Rail5         string                   // label of its 5 V
	Rail3         string                   // label of its 3.3 V; "" where it has none
	SDA, SCL      string                   // labels of the usual bus pins
	Serial        []Serial                 // serial lines of its hardware
	AnySerial     bool                     // whose lines can be brought to any pin
	AnyBus        bool                     // any pin that drives can be SDA or SCL
	Pins          []Pin
	Sockets       map[string]string // sockets that are the same conductor as a pin, by their labels
	Edges         [2][]string       // labels along its two long sides, from the left where the socket is left; "" for a gap (from memory)
	Apart         physic.Distance   // between the two rows
	Source        string
}

// Serial is a serial line of a host's hardware: its number, and the labels of the pins that it
// can listen and send on, in pairs.
type Serial struct {
	Number int
	RX, TX string
}

// Line returns the serial line that listens on a pin. It is false where none does.
func (b *Board) Line(label string) (Serial, bool) {
	p, ok := b.Find(label)
	if !ok || len(b.Serial) == 0 {
		return Serial{}, false
	}
	for _, s := range b.Serial {
		if s.RX == p.Label {
			return s, true
		}
	}
	s := b.Serial[0]
	s.RX = p.Label
	return s, b.AnySerial && p.Listens()
}

// Resolution is how many bits its analogue-to-digital converter gives: 10 where nobody said
// (common practice).
func (b *Board) Resolution() int { return cmp.Or(b.Bits, 10) }

// Canonical returns the label of the pin that a label means, as the board writes it: SDA
// and SCL beside AREF of an ATmega board are sockets of the pins that carry the bus (from
// memory). A label that the board has not is returned as it is.
func (b *Board) Canonical(label string) string {
	if p, ok := b.Find(label); ok {
		return p.Label
	}
	return label
}

// Place is the number of a pin on a board that counts its pins, as people count them: 1 at the left
// of the near edge, on to its right, and back along the far edge. It is 0 on other boards, and for a
// label that the board has not.
func (b *Board) Place(label string) int {
	if !slices.ContainsFunc(b.Pins, func(p Pin) bool { return p.Number > 0 }) {
		return 0
	}
	if i := slices.Index(b.Edges[1], label); i >= 0 {
		return i + 1
	}
	if i := slices.Index(b.Edges[0], label); i >= 0 {
		return len(b.Edges[0]) + len(b.Edges[1]) - i
	}
	return 0
}

// Grounds lists the labels of its ground pins, GND first, all of them one conductor: GND and those
// that are numbered where a board has several.
func (b *Board) Grounds() []string {
	out := []string{"GND"}
	for _, labels := range b.Edges {
		for _, label := range labels {
			if n, numbered := strings.CutPrefix(label, "GND"); numbered && n != "" && strings.Trim(n, "0123456789") == "" {
				out = append(out, label)
			}
		}
	}
	return out
}

// Find returns the pin of a label, or the one that a socket of that label is joined to.
func (b *Board) Find(label string) (Pin, bool) {
	for socket, pin := range b.Sockets {
		if strings.EqualFold(socket, label) {
			label = pin
		}
	}
	for _, p := range b.Pins {
		if strings.EqualFold(p.Label, label) {
			return p, true
		}
	}
	return Pin{}, false
}

// Along lists the labels as leads leave the board to one side without crossing: the
// edge with more plain pins from left to right, then the other edge, round its end.
// It is nil for a board whose edges nobody stated.
func (b *Board) Along() []string {
	plain := [2]int{}
	for side, labels := range b.Edges {
		for _, label := range labels {
			if p, ok := b.Find(label); ok && p.Plain() {
				plain[side]++
			}
		}
	}
	near, far := slices.Clone(b.Edges[1]), slices.Clone(b.Edges[0])
	slices.Reverse(far)
	if plain[0] > plain[1] { // turned upside down
		near, far = far, slices.Clone(b.Edges[1])
	}
	return append(near, far...)
}

// Bus reports whether a pin can be a line of the bus.
func (b *Board) Bus(p *Pin, line Trait) bool {
	if p.Has(line) {
		return true
	}
	return b.AnyBus && p.Drives() && !p.Has(NoOpenDrain)
}

// Usual is the part that a bench means that names no host.
const Usual = "ATmega328P"

//go:embed hosts.json
var table []byte

// Boards returns the boards of the embedded table.
var Boards = sync.OnceValue(func() []Board {
	boards, err := parse(table)
	if err != nil {
		return nil // the tests read it too
	}
	return boards
})

// ByPart returns the board of a designation.
func ByPart(part string) (Board, bool) {
	for _, b := range Boards() {
		if strings.EqualFold(b.Part, part) {
			return b, true
		}
	}
	return Board{}, false
}

// Generic returns a board that its user describes: its logic voltage and its
// pins, of which the first that can be SDA and SCL are its bus. Levels are those
// of CMOS logic (0.3 and 0.7 of the supply; outputs at a tenth from the rails),
// common practice.
func Generic(part string, logic physic.ElectricPotential, pins []Pin) Board {
	b := Board{
		Part: part, Chip: part, Title: part, Logic: logic, MaxPinVoltage: logic, BusHigh: logic * 7 / 10, Pins: pins, Rail5: "5V", Rail3: "3V3",
		Out:    circuit.Output{Low: logic / 10, High: logic * 9 / 10},
		In:     circuit.Input{Low: logic * 3 / 10, High: logic * 7 / 10},
		Source: "common practice",
	}
	b.In.MaxPinVoltage = b.MaxPinVoltage
	b.Edges[1], b.Apart = []string{"GND", "5V", "3V3"}, 20*physic.MilliMetre
	for i := range pins {
		b.Edges[1] = append(b.Edges[1], pins[i].Label)
		if p := &pins[i]; p.Has(SDA) && b.SDA == "" {
			b.SDA = p.Label
		} else if p.Has(SCL) && b.SCL == "" {
			b.SCL = p.Label
		}
	}
	return b
}

// row is a board as the table writes it: millivolts, milliamperes, and pins as
// one line.
type row struct {
	Part, Chip, Title, Look, Rail5, Rail3, SDA, SCL, Pins, Source string
	LogicMV, BearsMV, OutLowMV, OutHighMV, InLowMV                physic.ElectricPotential
	InHighMV, BusHighMV                                           physic.ElectricPotential
	PinMA, PinMaxMA, AllMA, OwnMA, RegulatorMA                    physic.ElectricCurrent
	AnyBus, AnySerial                                             bool
	Serial                                                        string
	Bits                                                          int
	ReferencesMV                                                  []int
	StraightMV                                                    [2]int
	Edges                                                         [2]string
	Sockets                                                       map[string]string
	ApartMM                                                       float64
}

func parse(data []byte) ([]Board, error) {
	var rows []row
	if err := json.Unmarshal(data, &rows); err != nil {
		return nil, err
	}
	const mV, mA = physic.MilliVolt, physic.MilliAmpere
	boards := make([]Board, len(rows))
	for i, r := range rows {
		pins, err := parsePins(r.Pins)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", r.Part, err)
		}
		lines, err := ParseSerial(r.Serial)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", r.Part, err)
		}
		boards[i] = Board{
			Serial: lines, AnySerial: r.AnySerial,
			Part: r.Part, Chip: cmp.Or(r.Chip, r.Part), Title: r.Title, Look: r.Look, Logic: r.LogicMV * mV, MaxPinVoltage: r.BearsMV * mV,
			Out: circuit.Output{Low: r.OutLowMV * mV, High: r.OutHighMV * mV}, In: circuit.Input{Low: r.InLowMV * mV, High: r.InHighMV * mV, MaxPinVoltage: r.BearsMV * mV},
			BusHigh: r.BusHighMV * mV, Pin: r.PinMA * mA, PinMax: r.PinMaxMA * mA, All: r.AllMA * mA, Own: r.OwnMA * mA, Regulator: r.RegulatorMA * mA,
			Rail5: r.Rail5, Rail3: r.Rail3, SDA: r.SDA, SCL: r.SCL, AnyBus: r.AnyBus, Bits: r.Bits, References: r.ReferencesMV, Straight: r.StraightMV, Pins: pins, Sockets: r.Sockets, Source: r.Source,
			Edges: [2][]string{edge(r.Edges[0]), edge(r.Edges[1])}, Apart: physic.Distance(r.ApartMM*1000) * physic.MicroMetre,
		}
	}
	return boards, nil
}

// ParseSerial reads serial lines such as "0=D0/D1 1=D19/D18": number, RX, TX.
func ParseSerial(text string) (out []Serial, err error) {
	for _, word := range strings.Fields(text) {
		number, pins, _ := strings.Cut(word, "=")
		rx, tx, ok := strings.Cut(pins, "/")
		n, err := strconv.Atoi(number)
		if err != nil || !ok {
			return nil, fmt.Errorf("serial line %q; expected one such as 1=D19/D18", word)
		}
		out = append(out, Serial{n, rx, tx})
	}
	return out, nil
}

// edge reads the labels along a side.
func edge(line string) []string {
	labels := strings.Fields(line)
	for i, l := range labels {
		if l == "_" {
			labels[i] = ""
		}
	}
	return labels
}

// parsePins reads pins such as "D0:upload D2-D12 GP0@1:sda": labels or ranges of
// them, each with its place on the edge behind @ and its marks behind colons.
func parsePins(line string) ([]Pin, error) {
	var pins []Pin
	for _, word := range strings.Fields(line) {
		parts := strings.Split(word, ":")
		var marks []Trait
		for _, m := range parts[1:] {
			marks = append(marks, Trait(m))
		}
		label, at, placed := strings.Cut(parts[0], "@")
		number, err := strconv.Atoi(at)
		if placed && err != nil {
			return nil, fmt.Errorf("pin %q: %w", word, err)
		}
		first, last, ranged := strings.Cut(label, "-")
		if !ranged {
			pins = append(pins, Pin{label, number, marks})
			continue
		}
		name := strings.TrimRight(first, "0123456789")
		from, err := strconv.Atoi(first[len(name):])
		if err != nil {
			return nil, fmt.Errorf("pin %q: %w", word, err)
		}
		to, err := strconv.Atoi(strings.TrimPrefix(last, name))
		if err != nil || to < from {
			return nil, fmt.Errorf("pins %q; expected a range such as D2-D12", word)
		}
		for n := from; n <= to; n++ {
			pins = append(pins, Pin{name + strconv.Itoa(n), 0, marks})
		}
	}
	return pins, nil
}
