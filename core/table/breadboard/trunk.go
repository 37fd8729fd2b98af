package breadboard

import (
	"slatebell/core/bench"
	"slatebell/core/table/wiring"
)

// trunk is where the leads of the bus come together: a strip or more for each of its lines, or
// where nothing else wants them, the two rails that carry no supply.
type trunk struct {
	lines []trunkLine
	alone bool // nothing but the bus lies there, so that two rails are free for it
	rails bool // and they are taken
}

// trunkLine is one line of the bus with the loose pins on it.
type trunkLine struct {
	loose []string // pins of backpacks and devices
	cols  []int    // for each loose pin, which strip of the line it is brought to
	wide  int      // strips
}

// stripHoles is how many holes a strip has.
const stripHoles = 5

// trunkOf gathers the lines of the bus. A net between two loose pins alone is none: one lead joins
// them.
func trunkOf(b *bench.Bench, net *wiring.Netlist) trunk {
	var out trunk
	onlyLoose, single := true, true
	for i := range net.Parts {
		switch p := &net.Parts[i]; p.Kind {
		case wiring.Backpack, wiring.Device, wiring.Supply:
		case wiring.Host:
			onlyLoose = onlyLoose && !b.Host.Plugged
		default:
			onlyLoose = false
		}
	}
	for i := range net.Nets {
		n := &net.Nets[i]
		if supplyNet(n.Name) {
			continue
		}
		loose, others := looseOf(net, n), 0
		if len(loose) == 0 || paired(n, loose) {
			continue
		}
		for _, pin := range n.Pins {
			if part, _, _ := net.PinOf(pin); part.Kind != wiring.Host || b.Host.Plugged {
				others++
			}
		}
		others -= len(loose)
		l := trunkLine{loose: loose}
		l.share(others)
		single = single && l.wide == 1
		out.lines = append(out.lines, l)
	}
	out.alone = onlyLoose && !single && len(out.lines) == 2 && supplies(net) == 1
	return out
}

// looseOf lists a net's pins of what lies beside the boards on leads of its own.
func looseOf(net *wiring.Netlist, n *wiring.Net) []string {
	var out []string
	for _, pin := range n.Pins {
		if part, _, _ := net.PinOf(pin); part.Kind == wiring.Backpack || part.Kind == wiring.Device {
			out = append(out, pin)
		}
	}
	return out
}

// paired reports whether a net joins two loose pins and nothing else.
func paired(n *wiring.Net, loose []string) bool { return len(n.Pins) == 2 && len(loose) == 2 }

// share spreads the loose pins over as few strips as hold them beside the host's lead, what joins
// the strips, and the wires to others of the net.
func (l *trunkLine) share(others int) {
	for l.wide = 1; ; l.wide++ {
		l.cols = l.cols[:0]
		for i := range l.wide {
			room := stripHoles - 1 // the host's lead, or what joins it to the strip before
			if i < l.wide-1 {
				room--
			} else {
				room -= min(others, 2)
			}
			for ; room > 0 && len(l.cols) < len(l.loose); room-- {
				l.cols = append(l.cols, i)
			}
		}
		if len(l.cols) == len(l.loose) {
			return
		}
	}
}

// choose takes the rails of the first board where they are of one piece, each by itself, and have
// room for all leads.
func (t *trunk) choose(boards []bench.Breadboard) {
	t.rails = t.alone && !boards[0].SplitRails && !boards[0].Joined && railHoles(boards[0].Columns) > len(t.lines[0].loose)
}

// bays are the runs of columns that a trunk of strips takes, one for each line.
func (t *trunk) bays() (out []bay) {
	if t.rails {
		return nil
	}
	for _, l := range t.lines {
		d := bay{landings: map[string]spot{}, cols: l.wide, right: float64(l.wide)}
		for i, pin := range l.loose {
			d.landings[pin] = spot{row: A, col: l.cols[i]}
		}
		out = append(out, d)
	}
	return out
}

// onRails brings the two lines to the upper rails, spread over their length so that the leads of
// one part lie side by side.
func (p *planner) onRails(t *trunk) {
	holes := railHoles(p.t.Boards[0].Columns)
	for i, row := range []Row{TopMinus, TopPlus} {
		l := &t.lines[i]
		for k, pin := range l.loose {
			p.landings[pin] = Hole{0, row, 2 + k*(holes-2)/len(l.loose)}
		}
	}
}
