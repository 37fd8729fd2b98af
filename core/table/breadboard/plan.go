package breadboard

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/table/wiring"
)

// MaxPlanned is how many modules a plan is made for.
const MaxPlanned = 16

// Plan lays the parts of a bench into holes and joins them by wires: no hole used
// twice, short wires, none crossing where none has to. Boards that lie on the table
// are kept, and more are added where they do not suffice. Colours and what is ticked
// off of wires that stay are kept. Its error says what does not fit.
func Plan(b *bench.Bench) (bench.Wiring, error) {
	if len(b.Modules) > MaxPlanned {
		return bench.Wiring{}, fmt.Errorf("%d modules; a plan is made for %d at most: wire them as several benches", len(b.Modules), MaxPlanned)
	}
	net := wiring.Of(b)
	if w, ok := direct(b, &net); ok {
		return w, nil
	}
	if i := slices.IndexFunc(b.Wiring.Boards, func(w bench.Breadboard) bool { return w.Joined }); i >= 0 && supplies(&net) > 1 {
		return bench.Wiring{}, fmt.Errorf("the rails of %s are joined from side to side, and this bench has two supplies, 5 V and 3.3 V; use a board whose sides are not joined", b.Wiring.Boards[i].ID)
	}
	if _, _, fits := hostBay(b); b.Host.Plugged && !fits {
		return bench.Wiring{}, unpluggable(b)
	}
	bus := trunkOf(b, &net)
	var first *planner // that has room for all parts, though not for all wires
	for _, boards := range sizes(flat(b.Wiring.Boards)) {
		bus.choose(boards)
		if boards = withEdge(b, boards); len(boards) > maxBoards {
			break
		}
		p := planned(b, &net, boards, &bus)
		if p == nil {
			continue
		}
		if !p.sound() {
			if first == nil && !b.Host.Plugged {
				first = p
			}
			continue
		}
		return p.finish(), nil
	}
	switch {
	case b.Host.Plugged:
		return bench.Wiring{}, unpluggable(b)
	case first != nil: // what it cannot join, the check says
		return first.finish(), nil
	}
	return bench.Wiring{}, fmt.Errorf("the parts do not fit on %d boards; wire them as several benches", maxBoards)
}

// finish is the plan in the order of the work, with what is kept of what lay there.
func (p *planner) finish() bench.Wiring {
	p.doc.Colours, p.doc.EachLine = p.b.Wiring.Colours, p.b.Wiring.EachLine
	earth(p.b, p.net, &p.doc)
	p.doc.Done = kept(p.b.Wiring, p.doc)
	measure(p.b, p.net, &p.doc)
	return p.doc
}

// planned makes the plan for a set of boards; nil where the parts do not fit.
func planned(b *bench.Bench, net *wiring.Netlist, boards []bench.Breadboard, bus *trunk) *planner {
	p := &planner{b: b, net: net, board: b.Host.Board()}
	if !p.allocate(boards, bays(b, net, bus)) {
		return nil
	}
	if bus.rails {
		p.onRails(bus)
	}
	p.wire()
	return p
}

func unpluggable(b *bench.Bench) error {
	return fmt.Errorf("the %s does not go into a breadboard so that holes beside its pins are free; let it lie beside", b.Host.Board().Title)
}

// sound reports whether the plan joins all that it should.
func (p *planner) sound() bool {
	other := *p.b
	other.Wiring = p.doc
	t := lay(&other, *p.net)
	return len(t.trouble) == 0 && len(t.faults()) == 0
}

// measure puts the wires into the order of the work and gives them their lengths.
func measure(b *bench.Bench, net *wiring.Netlist, w *bench.Wiring) {
	other := *b
	other.Wiring = *w
	nets := map[string]string{}
	t := lay(&other, *net)
	for _, wire := range t.Wires {
		nets[wireID(w.Wires[wire.Index])] = t.netAt(wire)
	}
	inOrder(w.Wires, nets)
	t = lay(&other, *net)
	for i, r := range t.Arrange().Routes {
		w.Wires[i].LengthMM = Length(t.Wires[i], r)
	}
}

// kept returns what was ticked off and is still on the list.
func kept(before, after bench.Wiring) []string {
	var out []string
	for _, id := range before.Done {
		if strings.HasPrefix(id, "wire ") && !slices.ContainsFunc(after.Wires, func(w bench.Wire) bool { return wireID(w) == id }) {
			continue
		}
		out = append(out, id)
	}
	return out
}

// wireID names a wire in the list of what is done.
func wireID(w bench.Wire) string { return "wire " + w.From + " " + w.To }

// direct joins a bench that needs no board: every net has two pins, and no part has
// to lie in holes.
func direct(b *bench.Bench, net *wiring.Netlist) (bench.Wiring, bool) {
	for _, n := range net.Nets {
		if len(n.Pins) != 2 {
			return bench.Wiring{}, false
		}
		for _, pin := range n.Pins {
			part, _, _ := net.PinOf(pin)
			if part.Kind != wiring.Host && part.Kind != wiring.Backpack && part.Kind != wiring.Device {
				return bench.Wiring{}, false
			}
		}
	}
	w := bench.Wiring{Colours: b.Wiring.Colours, EachLine: b.Wiring.EachLine}
	for _, n := range net.Nets {
		wire := bench.Wire{From: n.Pins[0], To: n.Pins[1], Colour: n.Colour}
		w.Wires = append(w.Wires, wire)
	}
	earth(b, net, &w)
	w.Done = kept(b.Wiring, w)
	measure(b, net, &w)
	return w, true
}

// maxBoards is how many boards a plan takes; halfSize and fullSize are their columns.
const maxBoards, halfSize, fullSize = 8, 30, 63

// sizes lists the sets of boards to try, the smallest first: those on the table, and
// as many more as it takes.
func sizes(have []bench.Breadboard) [][]bench.Breadboard {
	var out [][]bench.Breadboard
	add := func(more ...int) {
		boards := slices.Clone(have)
		for _, columns := range more {
			boards = append(boards, bench.Breadboard{ID: unused(boards), Columns: columns})
		}
		if len(boards) > 0 && len(boards) <= maxBoards {
			out = append(out, boards)
		}
	}
	add()
	full := []int{}
	for len(full) <= maxBoards {
		add(append(slices.Clone(full), halfSize)...)
		full = append(full, fullSize)
		add(full...)
	}
	return out
}
