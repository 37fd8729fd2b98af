package fault

import (
	"fmt"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/table/bus"
)

// Mistake is one that can be made on a bus, to see what a scan shows then.
type Mistake string

// The mistakes.
const (
	AsPlanned Mistake = ""
	Swapped   Mistake = "swapped"     // SDA and SCL
	NoGround  Mistake = "no-ground"   // host and parts have no common ground
	NoPullUps Mistake = "no-pull-ups" // none, whatever is planned
	WrongPads Mistake = "wrong-pads"  // pad A0 of a backpack is the other way; another part has its other address
	Gone      Mistake = "gone"        // a part is not there
	Twins     Mistake = "twins"       // two parts have one address
)

// MistakeKind is a mistake with what it is called.
type MistakeKind struct {
	Mistake Mistake
	Title   string
	OfOne   bool // it is made on one part
}

// Mistakes lists them.
var Mistakes = []MistakeKind{
	{AsPlanned, "as planned", false},
	{Swapped, "SDA and SCL swapped", false},
	{NoGround, "no common ground", false},
	{NoPullUps, "no pull-ups", false},
	{WrongPads, "pads set otherwise", true},
	{Gone, "a part is missing", true},
	{Twins, "two parts on one address", true},
}

// Scan is what a scan of a bench's simulated bus gives.
type Scan struct {
	Found []i2cbus.Address
	Why   string   // where nothing answers: why
	Print []string // what a scanner prints
}

// ScanBus scans the simulated bus of a bench, or one of its channels, with a
// mistake made; of is the node that it is made on, as an index into Nodes.
func ScanBus(b *bench.Bench, channel int, mistake Mistake, of int) (Scan, error) {
	at := slices.IndexFunc(Mistakes, func(k MistakeKind) bool { return k.Mistake == mistake })
	if at < 0 {
		return Scan{}, fmt.Errorf("mistake %q is not known", mistake)
	}
	nodes := bus.Nodes(b)
	if Mistakes[at].OfOne && len(nodes) == 0 {
		return Scan{}, fmt.Errorf("nothing is on this bus; a part of it cannot be mistaken")
	}
	if Mistakes[at].OfOne && (of < 0 || of >= len(nodes)) {
		return Scan{}, fmt.Errorf("part %d; this bus has parts 0–%d", of, len(nodes)-1)
	}
	sda, scl, right := bus.Pins(b)
	simulated := i2cbus.Simulated{Lines: i2cbus.Lines{Swapped: mistake == Swapped, NoGround: mistake == NoGround, NoPullUp: mistake == NoPullUps || !pulledUp(b)}}
	for i, n := range nodes {
		at := n.At
		if i == of {
			switch mistake {
			case Gone:
				continue
			case WrongPads:
				at = otherAddress(&n)
			case Twins:
				at = nodes[(i+1)%len(nodes)].At
			}
		}
		if right && n.HeardOn(channel) {
			simulated.Answers = append(simulated.Answers, at)
			simulated.Answers = append(simulated.Answers, n.Part.Takes...)
		}
	}
	s := Scan{Found: i2cbus.Scan(&simulated), Why: simulated.Lines.Dead()}
	if !right {
		s.Why = bus.NoPair(sda, scl)
	}
	for _, a := range s.Found {
		s.Print = append(s.Print, fmt.Sprintf("%s (%d) answers", a, a))
	}
	if len(s.Found) == 0 {
		s.Print = []string{"no address answers"}
	}
	return s, nil
}

// pulledUp reports whether every segment of the bus is pulled up.
func pulledUp(b *bench.Bench) bool {
	for _, s := range bus.Segments(b) {
		if s.Total == 0 {
			return false
		}
	}
	return true
}

// otherAddress returns where a node answers with its first pad or pin the other
// way; its own address where it has but one.
func otherAddress(n *bus.Node) i2cbus.Address {
	if n.Part.Padded() {
		return n.At ^ 1
	}
	for _, a := range n.Part.Addresses {
		if a != n.At {
			return a
		}
	}
	return n.At
}
