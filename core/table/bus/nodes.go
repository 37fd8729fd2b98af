// Package bus looks at a bench's I²C bus as a whole: who answers at which address, what clashes and
// the cheapest way to resolve it, what pull-ups and wires come to, and what a scan would find.
//
// It stands above the document in bench, at the ground of the table, and plays nothing: what it says
// holds before any program is written.
package bus

import (
	"cmp"
	"fmt"
	"slices"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/host"
	"slatebell/core/part/i2cbus"
	"slatebell/core/wire/link"
)

// Node is one thing that answers on the bus.
type Node struct {
	Path    string // RFC 6901 pointer to what it is in the bench
	ID      string
	Name    string
	Part    i2cbus.Part
	Known   bool // its part is in the table
	Fixed   bool // it stays at its address
	At      i2cbus.Address
	Channel int                      // 0 on the bus itself, n on channel n of its multiplexer
	Fed     physic.ElectricPotential // its supply
	PullUp  physic.ElectricResistance
	Module  int           // index of the module whose backpack it is; -1 otherwise
	Of      edit.Answerer // what of the bench it is, for edits
}

// Move returns the edit that plans the node at another address.
func (n *Node) Move(to i2cbus.Address) edit.Edit { return edit.SetAddress{Of: n.Of, At: int(to)} }

// Nodes lists what is on the bus of a bench: backpacks first, then devices, then
// the multiplexer.
func Nodes(b *bench.Bench) []Node {
	board := b.Host.Board()
	var out []Node
	for i := range b.Modules {
		m := &b.Modules[i]
		if m.Link.Kind != string(link.Backpack) {
			continue
		}
		at := i2cbus.Address(m.Link.Outputs.Address)
		part, known := i2cbus.Expander(at)
		if !known {
			part = i2cbus.Unknown("expander")
		}
		pull := bench.UsualPullUpOhm
		if m.Link.Outputs.PullUpOhm != nil {
			pull = *m.Link.Outputs.PullUpOhm
		}
		of := edit.Answerer{Kind: edit.Backpack, Index: i}
		out = append(out, Node{
			Of: of, Path: of.Path(), ID: m.ID, Name: cmp.Or(m.Name, m.ID), Part: part, Known: known, At: at, Channel: m.Link.Outputs.Channel,
			Fed: m.Fed(), PullUp: ohms(pull), Module: i,
		})
	}
	for i := range b.Devices {
		d := &b.Devices[i]
		part, known, _ := d.BusPart() // Validate has said what cannot be read
		of := edit.Answerer{Kind: edit.Device, Index: i}
		out = append(out, Node{
			Of: of, Path: of.Path(), ID: d.ID, Name: cmp.Or(d.Name, d.Part, d.ID), Part: part, Known: known, Fixed: d.Fixed, At: i2cbus.Address(d.Address), Channel: d.Channel,
			Fed: d.Fed(&board), PullUp: ohms(d.PullUpOhm), Module: -1,
		})
	}
	if x := b.Bus.Multiplexer; x != nil {
		part, known := i2cbus.ByName(x.Part)
		if !known {
			part = i2cbus.Unknown(x.Part)
		}
		of := edit.Answerer{Kind: edit.Multiplexer}
		return append(out, Node{Of: of, Path: of.Path(), ID: "multiplexer", Name: x.Part, Part: part, Known: known, At: i2cbus.Address(x.Address), Fed: board.Logic, Module: -1})
	}
	for i := range out {
		out[i].Channel = 0 // there are none without a multiplexer
	}
	return out
}

// HeardOn reports whether a node answers to a scan of the bus itself, 0, or of one
// of its channels, which hears the bus too.
func (n *Node) HeardOn(channel int) bool { return n.Channel == channel || n.Channel == 0 }

// Heard lists the nodes that answer to a scan of the bus or of one of its channels.
func Heard(b *bench.Bench, channel int) []Node {
	return slices.DeleteFunc(Nodes(b), func(n Node) bool { return !n.HeardOn(channel) })
}

// Meets reports whether two nodes hear each other's address: on the same bus or
// channel, or one of them on the bus that all channels hear.
func Meets(a, b *Node) bool { return a.HeardOn(b.Channel) || b.HeardOn(a.Channel) }

// wishes returns nodes as what is to be assigned; a part that is not in the table
// stays where it is, as nothing says where else it could be.
func wishes(nodes []Node) []i2cbus.Wish {
	out := make([]i2cbus.Wish, len(nodes))
	for i, n := range nodes {
		out[i] = i2cbus.Wish{Part: n.Part, Now: n.At, Held: n.Fixed || !n.Known && n.Module < 0, On: n.Channel}
	}
	return out
}

func ohms(r int) physic.ElectricResistance { return physic.ElectricResistance(r) * physic.Ohm }

// Pins returns the labels of the host's bus pins, and whether they are a pair on
// its board; of a board whose pins nobody stated, any two labels are.
func Pins(b *bench.Bench) (sda, scl string, right bool) {
	board := b.Host.Board()
	sda, scl = cmp.Or(b.Bus.SDA, board.SDA), cmp.Or(b.Bus.SCL, board.SCL)
	if len(board.Pins) == 0 {
		return sda, scl, sda != scl
	}
	d, okD := board.Find(sda)
	c, okC := board.Find(scl)
	return sda, scl, okD && okC && d.Label != c.Label && board.Bus(&d, host.SDA) && board.Bus(&c, host.SCL)
}

// channels lists the channels that anything is on, the bus itself first.
func channels(nodes []Node) []int {
	list := []int{0}
	for _, n := range nodes {
		list = append(list, n.Channel)
	}
	slices.Sort(list)
	return slices.Compact(list)
}

// NoPair says that a bus is on pins that cannot carry it, or on none.
func NoPair(sda, scl string) string {
	switch {
	case sda == "" && scl == "":
		return "No pins are chosen for SDA and SCL, and nobody said which of this host’s can carry a bus"
	case sda == "" || scl == "":
		line := map[bool]string{true: "SDA", false: "SCL"}[sda == ""]
		return fmt.Sprintf("No pin is chosen for %s; the other line is planned on %s", line, cmp.Or(sda, scl))
	}
	return fmt.Sprintf("SDA and SCL are planned on %s and %s, which are no pair of bus pins of this host", sda, scl)
}

// Judge finds what clashes on the bus, and pull-ups and lines outside of the limits. The nodes and
// segments are those of the bench.
func Judge(b *bench.Bench, nodes []Node, segments []Segment) []finding.Finding {
	return append(judgeAddresses(b, nodes), judgeElectrics(b, segments)...)
}

// Expected lists what ought to answer to a scan, as Heard does.
func Expected(b *bench.Bench, channel int) []i2cbus.Expected {
	var out []i2cbus.Expected
	for _, n := range Heard(b, channel) {
		out = append(out, i2cbus.Expected{Name: n.Name, Part: n.Part, At: n.At})
	}
	return out
}
