package firmware

import (
	"slices"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/host"
	"slatebell/core/table/pinout"
)

// Joint is where an input is joined to the host, and how a program reads it there.
type Joint struct {
	Pin, PinB       string // labels as the board gives them; "" where it is not joined
	Number, NumberB int    // what programs call the pins
	PullUp          bool   // by the host
	High            bool   // closed while the pin is high
	Line            int    // serial: number of the host's serial line
	Rung            Rung   // of a button of a ladder
	ReferenceMV     int    // signal: what the converter compares with; 0: the supply
}

// Rung is the readings of a pin at which a button of a ladder counts as pressed: from From up to, and
// without, To. A zero Rung is a button of its own.
type Rung struct{ From, To int }

// Joined reports whether a program can read the input at a pin.
func (j *Joint) Joined() bool { return j.Pin != "" }

// Unread lists the inputs that a program would read at a pin and does not: indexes.
func (m *Module) Unread() (out []int) {
	for i := range m.Show.Inputs {
		in := &m.Show.Inputs[i]
		if in.Kind != show.Timer && !m.Joints[i].Joined() && (in.Kind != show.Counter || in.Up < 0 && in.Down < 0) {
			out = append(out, i)
		}
	}
	return out
}

// joints finds out where the inputs of a show are joined; those that are on no pin, or on one
// that cannot read them, are left out: plan says so.
func joints(b *bench.Bench, module int, board *host.Board) []Joint {
	doc := &b.Modules[module]
	out := make([]Joint, len(doc.Show.Inputs))
	ladders := pinout.Ladders(b)
	for i := range doc.Show.Inputs {
		in := &doc.Show.Inputs[i]
		p, there := board.Find(in.Pin)
		number, numbered := board.Number(p.Label)
		if in.Pin == "" || !there || !numbered {
			continue
		}
		j := Joint{Pin: p.Label, Number: number, PullUp: in.Pull == "" || in.Pull == "host", High: in.Pull == "down"}
		ok := in.Kind != string(show.Timer) && pinout.Cannot(board, &p, in) == ""
		switch show.Kind(in.Kind) {
		case show.Counter:
			if in.PinB != "" {
				b, there := board.Find(in.PinB)
				j.NumberB, numbered = board.Number(b.Label)
				j.PinB = b.Label
				ok = ok && there && numbered && pinout.Cannot(board, &b, in) == ""
			}
		case show.Signal:
			if slices.Contains(board.References, in.Signal.ReferenceMV) {
				j.ReferenceMV = in.Signal.ReferenceMV
			}
		case show.Serial:
			line, _ := board.Line(p.Label)
			j.Line = line.Number
		case show.Button:
			if l, rung, stands := pinout.RungOf(ladders, module, i); stands {
				most := 1<<board.Resolution() - 1
				r := &l.Rungs[rung]
				j.Rung, j.PullUp = Rung{pinout.Reading(r.From, most), pinout.Reading(r.To, most)}, false
				ok = ok && rung < pinout.MostRungs
			}
		}
		if ok {
			out[i] = j
		}
	}
	return out
}
