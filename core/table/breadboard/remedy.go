package breadboard

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/table/wiring"
)

// mostTried bounds how many changes are tried out for a finding.
const mostTried = 80

// remedy offers, for each fault, the move of a wire or two that settles most, or a
// wire to add. Each is tried out on a copy of the table.
func (t *Table) remedy(list []finding.Finding, faults []fault) {
	first := len(t.trouble)
	before := len(t.trouble) + len(faults)
	for i := range faults {
		f := &faults[i]
		out := &list[first+i]
		if best, label, left := t.bestMove(f); left < before {
			out.Remedies = append(out.Remedies, finding.Remedy{Label: label, Patch: t.wiresPatch(best)})
		}
		if r, ok := t.repin(f); ok {
			out.Remedies = append(out.Remedies, r)
		}
		if f.shorts || len(f.foes) > 0 {
			continue
		}
		if w, ok := t.bridge(f); ok {
			grown := append(slices.Clone(t.Bench.Wiring.Wires), w)
			label := fmt.Sprintf("Add a wire from %s to %s", t.Net.Called(w.From), t.Net.Called(w.To))
			out.Remedies = append(out.Remedies, finding.Remedy{Label: label, Patch: t.wiresPatch(grown)})
		}
	}
}

// repin offers to let the program drive a line by the host's pin that its wire is on,
// where that pin is free and can.
func (t *Table) repin(f *fault) (finding.Remedy, bool) {
	if f.shorts || len(f.foes) != 1 {
		return finding.Remedy{}, false
	}
	label, own := strings.CutPrefix(f.foes[0], "host/")
	board := t.Bench.Host.Board()
	pin, known := board.Find(label)
	label = board.Canonical(label)
	_, taken := t.Net.Lines[label]
	if !own || !known || taken || !pin.Drives() {
		return finding.Remedy{}, false
	}
	for was, l := range t.Net.Lines {
		if n, ok := t.Net.NetOf("host/" + was); !ok || n != f.net || len(l.Modules) != 1 {
			continue
		}
		m := &t.Bench.Modules[l.Modules[0]]
		pins := map[string]string{}
		for line, at := range m.Link.Pins {
			pins[line] = at
		}
		if len(pins) == 0 {
			return finding.Remedy{}, false // they are not chosen yet: a plan chooses them
		}
		pins[l.Name] = label
		path := fmt.Sprintf("/modules/%d/link", l.Modules[0])
		return finding.Remedy{
			Label: fmt.Sprintf("Let the program drive %s by %s", l.Name, label),
			Patch: finding.Patch{finding.Test(path, m.Link), finding.Replace(path+"/pins", pins)},
		}, true
	}
	return finding.Remedy{}, false
}

// wiresPatch is the change that lays other wires.
func (t *Table) wiresPatch(wires []bench.Wire) finding.Patch {
	return finding.Patch{finding.Test("/wiring/wires", t.Bench.Wiring.Wires), finding.Replace("/wiring/wires", wires)}
}

// left counts what is found with other wires.
func (t *Table) left(wires []Wire) int {
	other := *t
	other.Wires = wires
	other.connect()
	return len(t.trouble) + len(other.faults())
}

// change is other wires that may settle a fault.
type change struct {
	wires []Wire
	label string
	left  int // findings with them
}

// bestMove tries to move wires' ends: into the strip that a fault's pins lie in, or
// two wires' ends against each other. It returns the wires as the document has them.
func (t *Table) bestMove(f *fault) (doc []bench.Wire, label string, least int) {
	best := change{left: 1 << 30}
	tried := 0
	try := func(wires []Wire, says string) {
		if tried++; tried > mostTried || best.left == len(t.trouble) { // nothing is better than all settled
			return
		}
		if n := t.left(wires); n < best.left {
			best = change{wires, says, n}
		}
	}
	var pins []string
	if len(f.group) > 0 {
		pins = append(pins, f.group[0])
	}
	pins = append(append(pins, f.net.Pins[0], t.heartOf(f.net)), f.foes...)
	touching := t.touching(pins...)
	for _, w := range touching {
		t.homeward(w, f, try)
	}
	for i, a := range touching {
		for _, b := range touching[i+1:] {
			wires := slices.Clone(t.Wires)
			wires[a.Index].To, wires[b.Index].To = b.To, a.To
			try(wires, fmt.Sprintf("Exchange %s and %s", t.called(a.To), t.called(b.To)))
		}
	}
	if best.wires == nil {
		return nil, "", best.left
	}
	doc = slices.Clone(t.Bench.Wiring.Wires)
	for i, w := range best.wires {
		if w.OK {
			doc[i].From, doc[i].To = t.EndName(w.From), t.EndName(w.To)
		}
	}
	return doc, best.label, best.left
}

func (t *Table) heartOf(n *wiring.Net) string {
	return t.heart(n, t.groups(n))
}

// touching lists the wires with an end on the conductor of one of some pins, in the
// order of the pins.
func (t *Table) touching(pins ...string) []Wire {
	var out []Wire
	listed := map[int]bool{}
	for _, p := range pins {
		n := t.nodeOf(p)
		for _, w := range t.Wires {
			if w.OK && !listed[w.Index] && (t.root(t.endIndex(w.From)) == n || t.root(t.endIndex(w.To)) == n) {
				listed[w.Index] = true
				out = append(out, w)
			}
		}
	}
	return out
}

// homes lists the pins to which a wire may be moved to settle a fault: those that are
// apart, and the net's heart; of a short, the first few of the net.
func (t *Table) homes(f *fault) []string {
	if len(f.group) == 0 || f.shorts {
		return f.net.Pins[:min(len(f.net.Pins), 6)]
	}
	return append(slices.Clone(f.group[:min(len(f.group), 2)]), t.heartOf(f.net))
}

// homeward tries each end of a wire at each strip or pin that the fault's net has.
func (t *Table) homeward(w Wire, f *fault, try func([]Wire, string)) {
	for _, pin := range t.homes(f) {
		to, ok := t.at(pin, Point{})
		if !ok {
			continue
		}
		wires := slices.Clone(t.Wires)
		wires[w.Index].From = to
		try(wires, fmt.Sprintf("Move the wire’s end from %s to %s", t.called(w.From), t.called(to)))
		wires = slices.Clone(t.Wires)
		wires[w.Index].To = to
		try(wires, fmt.Sprintf("Move the wire’s end from %s to %s", t.called(w.To), t.called(to)))
	}
}

// at returns where a wire can meet a pin: a free hole of its strip, or the pin
// itself where it lies in no hole.
func (t *Table) at(pin string, near Point) (End, bool) {
	h, lies := t.Legs[pin]
	if !lies {
		for _, w := range t.Wires {
			if w.From.Pin == pin || w.To.Pin == pin {
				return End{}, false
			}
		}
		return End{Pin: pin}, true
	}
	free, ok := t.free(h, near)
	return End{Hole: free}, ok
}

// bridge returns a wire that joins a fault's pins to the rest of their net.
func (t *Table) bridge(f *fault) (bench.Wire, bool) {
	from, ok := t.reach(t.nodeOf(f.group[0]), f.group)
	if !ok {
		return bench.Wire{}, false
	}
	heart := t.heartOf(f.net)
	to, ok := t.reach(t.nodeOf(heart), []string{heart})
	if !ok {
		return bench.Wire{}, false
	}
	return bench.Wire{From: t.EndName(from), To: t.EndName(to), Colour: f.net.Colour}, true
}

// reach returns a free end on a conductor: beside its pins, or at any wire's end.
func (t *Table) reach(node int, pins []string) (End, bool) {
	for _, pin := range append(slices.Clone(pins), t.on(node)...) {
		if to, ok := t.at(pin, Point{}); ok {
			return to, true
		}
	}
	for _, w := range t.Wires {
		for _, e := range []End{w.From, w.To} {
			if w.OK && e.Pin == "" && t.root(t.endIndex(e)) == node {
				if h, ok := t.free(e.Hole, Point{}); ok {
					return End{Hole: h}, true
				}
			}
		}
	}
	return End{}, false
}
