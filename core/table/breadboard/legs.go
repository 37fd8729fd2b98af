package breadboard

import (
	"slatebell/core/part/host"
	"slatebell/core/table/wiring"
)

// leg is where a pin lies from a part's first: columns to the right, rows down, and
// whether it reaches over the gap to the other half.
type leg struct {
	cols int
	down float64 // pitches
}

// resistorSpan is how many pitches a resistor's legs stand apart (common practice:
// 10 mm for a quarter of a watt).
const resistorSpan = 4

// footprint returns where the legs of a part stand from its first, in the order of
// its pins; nil for a part that is not put into holes.
func footprint(p *wiring.Part, board *host.Board) []leg {
	row := func(n, step int) []leg {
		out := make([]leg, n)
		for i := range out {
			out[i].cols = i * step
		}
		return out
	}
	switch p.Kind {
	case wiring.Pot, wiring.Transistor, wiring.Module, wiring.Backpack, wiring.Device, wiring.Stick, wiring.Encoder, wiring.Talker, wiring.Own, wiring.Knob, wiring.Source:
		return row(len(p.Pins), 1)
	case wiring.Resistor, wiring.Sensor, wiring.Diode:
		return row(2, resistorSpan)
	case wiring.Button, wiring.Capacitor:
		return row(2, 2)
	case wiring.Register: // pin 1 at the lower left, counted anticlockwise
		out := row(16, 1)
		for i := 8; i < 16; i++ {
			out[i] = leg{15 - i, -3}
		}
		return out
	case wiring.Converter: // the low side below, the high side above
		out := row(8, 1)
		for i := 4; i < 8; i++ {
			out[i] = leg{i - 4, -5}
		}
		return out
	case wiring.Host:
		apart := across(board)
		out := make([]leg, 0, len(p.Pins))
		for side, labels := range board.Edges {
			for col, label := range labels {
				if label != "" && label != "NC" {
					out = append(out, leg{col, -apart * float64(1-side)})
				}
			}
		}
		return out
	}
	return nil
}

// legs returns the holes of a placed part's pins, in their order; false for one
// whose legs do not all meet a hole. Those that its own board has no hole for are looked for on
// the others.
func (t *Table) legs(first Hole, turn int, shape []leg) ([]Hole, bool) {
	b := &t.Boards[first.Board]
	out := make([]Hole, len(shape))
	for i, l := range shape {
		cols, down := l.cols, l.down
		switch turn {
		case 90:
			cols, down = 0, float64(l.cols)
		case 180:
			cols, down = -l.cols, -l.down
		case 270:
			cols, down = 0, -float64(l.cols)
		}
		row, ok := rowBelow(first.Row, down)
		h := Hole{first.Board, row, first.N + cols}
		if !ok || !b.Has(h) {
			at := b.At(first)
			if h, ok = t.beyondEdge(first.Board, Point{at.X + float64(cols), at.Y + down}); !ok {
				return nil, false
			}
		}
		out[i] = h
	}
	return out, true
}

// rowBelow returns the row so many pitches below another; false where none lies
// there, or one of the two is a rail.
func rowBelow(r Row, down float64) (Row, bool) {
	if down == 0 {
		return r, true
	}
	for other := J; other <= A; other++ {
		if d := other.Y() - r.Y() - down; d > -0.3 && d < 0.3 && !r.Rail() {
			return other, true
		}
	}
	return 0, false
}
