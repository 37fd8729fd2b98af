package breadboard

import (
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/table/wiring"
)

// earth takes the host's earth lead from the ground pin that is nearest to what it serves: of all
// its ground pins the one with which the leads cross least, and among those are shortest. The hole
// of the rail goes along, beside the pin.
func earth(b *bench.Bench, net *wiring.Netlist, w *bench.Wiring) {
	i := slices.IndexFunc(w.Wires, func(wire bench.Wire) bool { return wire.From == "host/GND" || wire.To == "host/GND" })
	if i < 0 {
		return
	}
	board := b.Host.Board()
	best, least := w.Wires[i], -1.0
	for _, label := range board.Grounds() {
		for _, beside := range []bool{false, true} {
			tried := *w
			tried.Wires = slices.Clone(w.Wires)
			wire := &tried.Wires[i]
			pin := &wire.From
			if wire.To == "host/GND" {
				pin = &wire.To
			}
			*pin = "host/" + label
			other := *b
			other.Wiring = tried
			t := lay(&other, *net)
			if beside && !t.besidePin(wire, "host/"+label) {
				continue
			}
			if beside {
				t = lay(&other, *net)
			}
			a := t.Arrange()
			cost := crossing * float64(a.Crossings())
			for _, r := range a.Routes {
				cost += r.length()
			}
			if least < 0 || cost < least-1e-6 {
				best, least = *wire, cost
			}
		}
	}
	w.Wires[i] = best
}

// besidePin moves the end of a wire that lies on a rail to the rail's free hole that is nearest to
// the column in which the pin's lead comes down; false where it lies on none.
func (t *Table) besidePin(wire *bench.Wire, pin string) bool {
	hole := &wire.To
	if wire.To == pin {
		hole = &wire.From
	}
	board, name, _ := strings.Cut(*hole, "/")
	h, err := t.hole(board, name)
	if err != nil || !h.Row.Rail() {
		return false
	}
	at, ok := t.pinAt(pin)
	if !ok {
		return false
	}
	delete(t.in, h)
	to, ok := t.free(h, Point{at.X, t.point(h).Y})
	*hole = t.Name(to)
	return ok
}

// pinAt is where a pin of the host lies.
func (t *Table) pinAt(pin string) (Point, bool) {
	a := t.Arrange()
	for i := range a.Things {
		for _, s := range a.Things[i].Pins {
			if a.Things[i].Part.Pin(s.Name) == pin {
				return s.At, true
			}
		}
	}
	return Point{}, false
}
