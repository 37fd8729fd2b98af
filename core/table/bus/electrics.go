package bus

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/say"
)

// Figures of a bus that nobody measured.
const (
	// pinCapacitance is a part's on SDA or SCL, at most (UM10204 rev. 7, table 10,
	// C_i, from memory).
	pinCapacitance = 10 * physic.PicoFarad
	// wireCapacitance is that of a centimetre of jumper (common practice).
	wireCapacitance = physic.PicoFarad
	// converterPullUp stands on both sides of a level converter's board (common
	// practice).
	converterPullUp = 10_000 * physic.Ohm
	// SupplyApart is how far two supplies may lie apart and still be taken for one.
	SupplyApart = 400 * physic.MilliVolt
)

// PullUp is a pair of pull-ups on a segment.
type PullUp struct {
	Path string // what carries it: a node, /bus or /bus/converter
	Name string
	R    physic.ElectricResistance
	To   physic.ElectricPotential
}

// Segment is a part of the bus that is one conductor a line: the host's side of a
// level converter or the other, and a channel of a multiplexer with what the bus
// itself adds while the channel is open.
type Segment struct {
	Name        string
	Channel     int
	Far         bool // behind the level converter
	Nodes       []Node
	PullUps     []PullUp
	High        physic.ElectricPotential // at rest; 0 where nothing pulls up
	Total       physic.ElectricResistance
	Min, Max    physic.ElectricResistance // what Total may be
	Capacitance physic.ElectricalCapacitance
	Measured    bool // the capacitance
	Rise        time.Duration
	Mode        circuit.Mode
}

// Segments works out the electrics of a bench's bus. It is empty where nothing is
// on the bus.
func Segments(b *bench.Bench) []Segment {
	nodes := Nodes(b)
	if len(nodes) == 0 {
		return nil
	}
	board := b.Host.Board()
	speed := physic.Frequency(cmp.Or(b.Bus.SpeedHz, bench.UsualBusHz)) * physic.Hertz
	var out []Segment
	for _, channel := range channels(nodes) {
		for _, far := range []bool{false, true} {
			s := Segment{Name: "the bus", Channel: channel, Far: far, Mode: circuit.ModeAt(speed)}
			if b.Bus.Converter {
				s.Name = map[bool]string{false: "the host’s side of the level converter", true: "the far side of the level converter"}[far]
			}
			if channel > 0 {
				s.Name = fmt.Sprintf("channel %d", channel)
			}
			own := 0
			for _, n := range nodes {
				if IsFar(b, &n) == far && n.HeardOn(channel) {
					s.Nodes = append(s.Nodes, n)
					if n.Channel == channel {
						own++
					}
				}
			}
			if own == 0 && (far || channel > 0) {
				continue
			}
			s.pull(b, board.Logic)
			s.capacitance(b)
			s.figures()
			out = append(out, s)
		}
	}
	return out
}

// IsFar reports whether a node stands behind the level converter: what is fed
// more than the host's logic does.
func IsFar(b *bench.Bench, n *Node) bool {
	return b.Bus.Converter && n.Fed > b.Host.Board().Logic+SupplyApart
}

// pull gathers a segment's pull-ups.
func (s *Segment) pull(b *bench.Bench, logic physic.ElectricPotential) {
	if r := b.Bus.PullUpOhm; r > 0 && !s.Far {
		s.PullUps = append(s.PullUps, PullUp{"/bus", "the bus", ohms(r), logic})
	}
	if b.Bus.Converter {
		to := logic
		for _, n := range s.Nodes {
			to = max(to, n.Fed)
		}
		s.PullUps = append(s.PullUps, PullUp{"/bus/converter", "the level converter", converterPullUp, to})
	}
	for _, n := range s.Nodes {
		if n.PullUp > 0 {
			s.PullUps = append(s.PullUps, PullUp{n.Path, n.Name, n.PullUp, n.Fed})
		}
	}
}

// capacitance adds what parts and wires have, or takes what was measured.
func (s *Segment) capacitance(b *bench.Bench) {
	if c := b.Bus.CapacitancePF; c > 0 && !s.Far && s.Channel == 0 {
		s.Capacitance, s.Measured = physic.ElectricalCapacitance(c)*physic.PicoFarad, true
		return
	}
	ends := len(s.Nodes) + 1 // and the host, or the converter
	cm := cmp.Or(b.Bus.WireCM, len(s.Nodes)*bench.UsualWireCM)
	s.Capacitance = physic.ElectricalCapacitance(ends)*pinCapacitance + physic.ElectricalCapacitance(cm)*wireCapacitance
}

// figures works out what follows from pull-ups and capacitance.
func (s *Segment) figures() {
	list := make([]physic.ElectricResistance, len(s.PullUps))
	var amps, siemens float64
	for i, p := range s.PullUps {
		list[i] = p.R
		siemens += 1 / float64(p.R)
		amps += float64(p.To) / float64(p.R)
	}
	s.Total = circuit.Parallel(list...)
	if siemens > 0 {
		s.High = physic.ElectricPotential(amps/siemens + 0.5)
		s.Rise = circuit.RiseTime(s.Total, s.Capacitance)
	}
	high := s.High
	for _, n := range s.Nodes {
		if s.High == 0 {
			high = max(high, n.Fed)
		}
	}
	s.Min, s.Max = circuit.MinPullUp(high), circuit.MaxPullUp(s.Mode.Rise, s.Capacitance)
}

// judgeElectrics finds what is wrong with pull-ups and capacitance.
func judgeElectrics(b *bench.Bench, segments []Segment) []finding.Finding {
	const source = "UM10204 rev. 7, §7.1 and table 10"
	var out []finding.Finding
	for i := range segments {
		s := &segments[i]
		switch {
		case s.Total == 0:
			f := finding.Finding{
				Code: "bus.no-pull-ups", Severity: finding.Error, Path: "/bus", Source: source,
				What: fmt.Sprintf("Nothing pulls SDA and SCL up on %s.", s.Name),
				Why:  "Parts only pull the lines down: without pull-ups no line is ever high, and nothing answers.",
				Fix:  fmt.Sprintf("Put %s to %s on each of the two lines.", say.Ohms(s.Min), say.Ohms(s.Max)),
			}
			if !s.Far && s.Channel == 0 {
				r := int(circuit.E12.UpTo(min(max(s.Max, s.Min), bench.UsualPullUpOhm*physic.Ohm)) / physic.Ohm)
				f.Remedies = []finding.Remedy{edit.Remedy(b, fmt.Sprintf("Put two resistors of %s on the bus", say.Ohms(ohms(r))), PullUpsOf(b, r))}
			}
			out = append(out, f)
		case s.Total < s.Min:
			out = append(out, finding.Finding{
				Code: "bus.pull-ups-strong", Severity: finding.Warning, Path: "/bus", Source: source,
				What:     fmt.Sprintf("All pull-ups of %s together are %s; the least is %s.", s.Name, say.Ohms(s.Total), say.Ohms(s.Min)),
				Why:      fmt.Sprintf("A part would have to sink %s to make a low level; it must sink 3 mA.", say.Amperes(physic.ElectricCurrent(float64(s.High-circuit.BusLow)/float64(s.Total)*float64(physic.Ampere)))),
				Fix:      "Remove the pull-ups of some boards: unsolder the two resistors, or cut their jumper.",
				Remedies: s.weaken(b),
			})
		case s.Rise > s.Mode.Rise:
			f := finding.Finding{
				Code: "bus.slow-rise", Severity: finding.Warning, Path: "/bus", Source: source,
				What: fmt.Sprintf("With %s and %s the lines of %s take %d ns to rise; %s allows %d ns.", say.Ohms(s.Total), say.Farads(s.Capacitance), s.Name, s.Rise.Nanoseconds(), s.Mode.Name, s.Mode.Rise.Nanoseconds()),
				Why:  "A high level may not be reached before it is read.", Fix: fmt.Sprintf("Bring all pull-ups together to %s or less, shorten the wires, or slow the clock.", say.Ohms(s.Max)),
			}
			f.Remedies = s.strengthen(b)
			out = append(out, f)
		}
		if s.Capacitance > circuit.MaxCapacitance {
			out = append(out, finding.Finding{
				Code: "bus.capacitance", Severity: finding.Warning, Path: "/bus", Source: source,
				What: fmt.Sprintf("A line of %s has %s; the most is %s.", s.Name, say.Farads(s.Capacitance), say.Farads(circuit.MaxCapacitance)),
				Fix:  "Shorten the wires, or put parts behind a multiplexer.",
			})
		}
	}
	return out
}

// PullUpsOf is the edit that gives the bus pull-ups of so many ohms; 0: none.
func PullUpsOf(b *bench.Bench, ohm int) edit.Edit {
	bus := b.Bus
	bus.PullUpOhm = ohm
	return edit.SetBus{Bus: bus}
}

// weaken returns the remedy that removes the fewest pull-ups so that the rest are
// within the limit: the strongest first, which no other choice of as many beats.
func (s *Segment) weaken(b *bench.Bench) []finding.Remedy {
	order := slices.Clone(s.PullUps) // a converter's are part of it
	order = slices.DeleteFunc(order, func(p PullUp) bool { return p.Path == "/bus/converter" })
	slices.SortStableFunc(order, func(a, b PullUp) int { return cmp.Compare(a.R, b.R) })
	var names []string
	var edits edit.List
	rest := make([]physic.ElectricResistance, len(order))
	for i := range order {
		rest[i] = order[i].R
	}
	if len(order) < len(s.PullUps) {
		rest = append(rest, converterPullUp)
	}
	for i := 0; i < len(order) && circuit.Parallel(rest...) != 0 && circuit.Parallel(rest...) < s.Min; i++ {
		if order[i].Path == "/bus" {
			edits = append(edits, PullUpsOf(b, 0))
		} else {
			n := slices.IndexFunc(s.Nodes, func(n Node) bool { return n.Path == order[i].Path })
			edits = append(edits, edit.RemovePullUps{Of: s.Nodes[n].Of})
		}
		rest[i] = 0
		names = append(names, order[i].Name)
	}
	if total := circuit.Parallel(rest...); total < s.Min {
		return nil
	}
	return []finding.Remedy{edit.Remedy(b, "Remove the pull-ups of "+say.List(names), edits...)}
}

// strengthen returns the remedy that adds pull-ups to the bus.
func (s *Segment) strengthen(b *bench.Bench) []finding.Remedy {
	if s.Far || s.Channel > 0 || s.Max < s.Min {
		return nil
	}
	rest := make([]physic.ElectricResistance, 0, len(s.PullUps))
	for _, p := range s.PullUps {
		if p.Path != "/bus" {
			rest = append(rest, p.R)
		}
	}
	need := s.Max
	if others := circuit.Parallel(rest...); others > 0 {
		need = physic.ElectricResistance(float64(s.Max) * float64(others) / float64(others-s.Max))
	}
	r := circuit.E12.UpTo(need)
	if circuit.Parallel(append(rest, r)...) < s.Min {
		return nil
	}
	return []finding.Remedy{edit.Remedy(b, fmt.Sprintf("Put two resistors of %s on the bus", say.Ohms(r)), PullUpsOf(b, int(r/physic.Ohm)))}
}
