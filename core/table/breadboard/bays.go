package breadboard

import (
	"math"
	"slices"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/table/wiring"
)

// spot is where a part lies in its bay: row and column from its first.
type spot struct {
	part string
	row  Row
	col  int // from 0
	turn int
}

// bay is a run of columns for one module, the bus or the rest, with the space that
// bodies below the board take.
type bay struct {
	spots       []spot
	landings    map[string]spot // of pins that lie beside the board: the strip that a wire brings them to
	vias        map[string]spot // of nets: a spare strip that their wires take on the way
	cols        int
	left, right float64 // bodies reach from −left to right, counted from the first column
}

// headerInset is how far a module's first pin lies from the edge of its board
// (common practice: about 8 mm).
const headerInset = 8 / Pitch

// bodyOf returns how wide and high a module's or device's board is, in pitches.
func bodyOf(b *bench.Bench, p *wiring.Part) (w, h float64) {
	if p.Kind == wiring.Module || p.Kind == wiring.Backpack {
		board := b.Modules[p.Module].Display.Board()
		w, h = module.Millimetres(board.Outline.W)/Pitch, module.Millimetres(board.Outline.H)/Pitch
		if w == 0 {
			g, _ := module.ParseGeometry(b.Modules[p.Module].Display.Geometry)
			w, h = (float64(g.Cols)*3.6+20)/Pitch, (float64(g.Rows)*6+24)/Pitch
		}
		return w, h
	}
	return float64(max(len(p.Pins), 4)) + 3, 8
}

// bays makes a bay for each module that lies in holes, for the bus, and for the rest.
func bays(b *bench.Bench, net *wiring.Netlist, bus *trunk) []bay {
	var out []bay
	var loose []bay // parts that are no module's own, as many as a half-size board takes
	put := func(part string, row Row, cols int) {
		if n := len(loose); n == 0 || loose[n-1].cols+cols > 28 {
			loose = append(loose, bay{})
		}
		rest := &loose[len(loose)-1]
		rest.spots = append(rest.spots, spot{part: part, row: row, col: rest.cols})
		rest.cols += cols
		rest.right = float64(rest.cols)
	}
	for i := range net.Parts {
		p := &net.Parts[i]
		switch p.Kind {
		case wiring.Host:
			if d, _, ok := hostBay(b); ok {
				out = append(out, d)
			}
		case wiring.Module:
			out = append(out, moduleBay(b, net, p))
		case wiring.Button, wiring.Stick, wiring.Encoder, wiring.Talker, wiring.Own, wiring.Converter, wiring.Knob, wiring.Source, wiring.Sensor, wiring.Diode, wiring.Capacitor:
			shape := 3
			for _, l := range footprint(p, nil) {
				shape = max(shape, l.cols+1)
			}
			put(p.ID, D, shape+1)
		case wiring.Resistor:
			if p.Role == wiring.Pull {
				put(p.ID, B, resistorSpan+2)
			}
		}
	}
	return append(append(out, bus.bays()...), loose...)
}

// hostBay is a host that is plugged in: over the gap of a board, with a hole beside each pin, or else
// over the edges of two, in row j of the lower one; not ok where it goes into neither.
func hostBay(b *bench.Bench) (d bay, edges, ok bool) {
	board := b.Host.Board()
	apart := across(&board)
	if !b.Host.Plugged {
		return bay{}, false, false
	}
	cols := max(len(board.Edges[0]), len(board.Edges[1]))
	at := func(row Row) bay {
		return bay{spots: []spot{{part: "host", row: row}}, cols: cols, right: float64(cols)}
	}
	for row := B; row >= E; row-- { // as near to the middle as it goes
		if far, ok := rowBelow(row, -apart); ok && far > J && far <= F && abs(int(A-row)-int(far-J)) <= 1 {
			return at(row), false, true
		}
	}
	if apart < narrowest || apart > widest || math.Abs(apart-math.Round(apart)) >= 0.3 {
		return bay{}, false, false
	}
	return at(J), true, true
}

func abs(n int) int { return max(n, -n) }

// moduleBay lays out a module with its parts: a 74HC595 at the left, then the
// potentiometer, the header in row a, and the backlight's parts at the right.
func moduleBay(b *bench.Bench, net *wiring.Netlist, p *wiring.Part) bay {
	d := bay{landings: map[string]spot{}, vias: map[string]spot{}}
	if chip, ok := net.Of(p.Module, wiring.Chip); ok {
		d.spots = append(d.spots, spot{part: chip.ID, row: E, col: 0})
		if n, ok := net.NetOf(chip.Pin("QA")); ok { // QA is on the far side: its wire comes over the chip first
			d.vias[n.Name] = spot{row: C, col: 8}
		}
		d.cols = 10
	}
	if transistor, ok := net.Of(p.Module, wiring.Switch); ok {
		if base, ok := net.Of(p.Module, wiring.Base); ok {
			d.spots = append(d.spots, spot{part: base.ID, row: C, col: d.cols})
		}
		d.spots = append(d.spots, spot{part: transistor.ID, row: C, col: d.cols + resistorSpan + 2})
		d.cols += resistorSpan + 6
	}
	if pot, ok := net.Of(p.Module, wiring.Contrast); ok {
		d.spots = append(d.spots, spot{part: pot.ID, row: C, col: d.cols})
		d.cols += 4
	}
	if fixed, ok := net.Of(p.Module, wiring.Fixed); ok {
		d.spots = append(d.spots, spot{part: fixed.ID, row: C, col: d.cols})
		d.cols += resistorSpan + 2
	}
	header := d.cols
	if b.Modules[p.Module].Fitting.Beside {
		for i, pin := range p.Pins {
			if _, used := net.NetOf(p.Pin(pin.Name)); used {
				d.landings[p.Pin(pin.Name)] = spot{row: A, col: header + i}
			}
		}
	} else {
		d.spots = append(d.spots, spot{part: p.ID, row: A, col: header})
	}
	d.cols += len(p.Pins)
	if light, ok := net.Of(p.Module, wiring.Light); ok {
		d.spots = append(d.spots, spot{part: light.ID, row: D, col: header + indexOf(p, "A")})
		d.cols = max(d.cols, header+indexOf(p, "A")+resistorSpan+1)
	}
	w, _ := bodyOf(b, p)
	d.left, d.right = headerInset-float64(header), float64(header)+w-headerInset
	return d
}

func indexOf(p *wiring.Part, pin string) int {
	return slices.IndexFunc(p.Pins, func(q wiring.Pin) bool { return q.Name == pin })
}
