package plan

import (
	"fmt"
	"slices"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/circuit"
	"slatebell/core/finding"
	"slatebell/core/host"
	"slatebell/core/show"
)

// Group is several inputs that come as one.
type Group string

// The groups.
const (
	StickGroup   Group = "stick"   // two ways and a press
	EncoderGroup Group = "encoder" // a turn and a press
	RowGroup     Group = "row"     // three buttons of a ladder
)

// AddInputs returns the change that adds a group to what a module's show listens to, on free pins as far
// as there are some. Its error says what would be right.
func AddInputs(b *bench.Bench, module int, group Group) (finding.Patch, error) {
	if module < 0 || module >= len(b.Modules) {
		return nil, fmt.Errorf("there is no module %d; expected 0 to %d", module, len(b.Modules)-1)
	}
	board := b.Host.Board()
	taken := b.Modules[module].Show.Inputs
	free := func(wish string) string {
		id := wish
		for n := 2; slices.ContainsFunc(taken, func(in bench.Input) bool { return in.ID == id || in.Part == id }); n++ {
			id = fmt.Sprintf("%s-%d", wish, n)
		}
		return id
	}
	var fresh []bench.Input
	switch group {
	case StickGroup:
		id := free("stick")
		fresh = []bench.Input{wayOf(&board, id+"-x", "Stick left and right"), wayOf(&board, id+"-y", "Stick up and down"), {ID: id + "-press", Name: "Stick pressed", Kind: string(show.Button)}}
		for i := range fresh {
			fresh[i].Part = id
		}
	case EncoderGroup:
		id := free("wheel")
		fresh = []bench.Input{{ID: id + "-turn", Name: "Wheel turned", Kind: string(show.Counter), Part: id, Counter: bench.Counter{Count: 100, Stops: true}}, {ID: id + "-press", Name: "Wheel pressed", Kind: string(show.Button), Part: id}}
	case RowGroup:
		for n := range 3 {
			fresh = append(fresh, bench.Input{ID: free(fmt.Sprintf("row-%d", n+1)), Name: fmt.Sprintf("Button %d of the row", n+1), Kind: string(show.Button), Button: bench.Button{Ladder: true}})
		}
	default:
		return nil, fmt.Errorf("%q is no group of inputs; expected stick, encoder or row", group)
	}
	if len(taken)+len(fresh) > MostInputs {
		return nil, fmt.Errorf("a show listens to %d inputs at most, and this one has %d", MostInputs, len(taken))
	}
	other := *b
	other.Modules = slices.Clone(b.Modules)
	for i := range fresh {
		other.Modules[module].Show.Inputs = slices.Concat(taken, fresh[:i+1])
		in := &other.Modules[module].Show.Inputs[len(taken)+i]
		in.Pin, _ = bestPin(&other, in)
		if in.Kind == string(show.Counter) && in.Pin != "" {
			in.PinB, _ = bestPin(&other, in)
		}
		fresh[i] = *in
	}
	at := fmt.Sprintf("/modules/%d", module)
	patch := finding.Patch{finding.Test(at+"/id", b.Modules[module].ID)}
	if len(taken) > 0 {
		return append(patch, finding.Test(at+"/show/inputs", taken), finding.Replace(at+"/show/inputs", slices.Concat(taken, fresh))), nil
	}
	s := b.Modules[module].Show
	s.Inputs = fresh
	return append(patch, finding.Add(at+"/show", s)), nil
}

// MostInputs is how many inputs a show listens to.
const MostInputs = 64

// wayOf is a way of a stick, which rests half-way.
func wayOf(board *host.Board, id, name string) bench.Input {
	in := bench.Input{ID: id, Name: name, Kind: string(show.Signal)}
	most := 1<<board.Resolution() - 1
	s := show.StickOf(0, most/2, most)
	in.Signal.Start, in.Signal.Hysteresis = float64(most/2), float64(s.Hysteresis)
	return in
}

// Says lists what is known of an input's electrics: values of its parts, voltages, readings, times.
func Says(b *bench.Bench, module, input int) (out []string) {
	in := &b.Modules[module].Show.Inputs[input]
	board := b.Host.Board()
	most := 1<<board.Resolution() - 1
	fed := float64(in.Fed(&board)) / float64(board.Logic)
	reads := func(share float64) int { return min(int(share*fed*float64(most)), most) }
	if l, rung, ok := RungOf(Ladders(b), module, input); ok && rung < MostRungs {
		r := &l.Rungs[rung]
		out = append(out, ladderText(r, rung), r.Says(board.Logic))
	}
	if in.Kind != string(show.Signal) {
		return append(out, talks(in, &board)...)
	}
	c := &in.Signal.Circuit
	switch {
	case c.Kind == "resistor":
		out = append(out, dividerText(c, reads)...)
	case c.Kind == "follower":
		out = append(out, followerText(c))
	case in.Part != "":
		s := show.StickOf(0, reads(0.5), reads(1))
		out = append(out, fmt.Sprintf("It rests at about %d; below %d it is tilted to one side, above %d to the other.", reads(0.5), s.Low, s.High))
	}
	return out
}

func ladderText(r *Rung, rung int) string {
	if rung == 0 {
		return fmt.Sprintf("The first of its row: from the pin to ground; the pin is held up by %s.", circuit.Ohms(LadderTop))
	}
	return fmt.Sprintf("Behind %s from the button before it, to ground.", circuit.Ohms(r.Below))
}

func dividerText(c *bench.Circuit, reads func(float64) int) []string {
	other := OtherOf(c)
	out := []string{fmt.Sprintf("From the pin to ground; %s from the pin to the supply.", circuit.Ohms(other))}
	if c.LeastOhm <= 0 || c.MostOhm < c.LeastOhm {
		return append(out, "With the least and the most that it has, the other resistor is chosen for the widest spread.")
	}
	share := func(r int) float64 {
		ohm := float64(r) * float64(physic.Ohm)
		return ohm / (ohm + float64(other))
	}
	return append(out, fmt.Sprintf("It reads %d at %s and %d at %s: %.0f %% of the supply lie between.", reads(share(c.LeastOhm)), circuit.Ohms(physic.ElectricResistance(c.LeastOhm)*physic.Ohm), reads(share(c.MostOhm)), circuit.Ohms(physic.ElectricResistance(c.MostOhm)*physic.Ohm), 100*(share(c.MostOhm)-share(c.LeastOhm))))
}

func followerText(c *bench.Circuit) string {
	return fmt.Sprintf("%s and %s let it fall from all to a tenth in %d ms; a larger capacitor makes it slower.", circuit.Ohms(EmptiesOf(c)), Farads(KeepsOf(c)), FallOf(c).Milliseconds())
}

// FallOf is how long a follower takes from all to a tenth.
func FallOf(c *bench.Circuit) time.Duration {
	return circuit.Fall(EmptiesOf(c), physic.ElectricalCapacitance(KeepsOf(c))*physic.NanoFarad).Round(time.Millisecond)
}

// Farads writes a capacitance of so many nanofarads as the trade does: 100 nF, 10 µF.
func Farads(nF int) string {
	if nF >= 1000 {
		return fmt.Sprintf("%g µF", float64(nF)/1000)
	}
	return fmt.Sprintf("%d nF", nF)
}

// talks tells how the levels of a serial line are brought together.
func talks(in *bench.Input, board *host.Board) (out []string) {
	if in.Kind != string(show.Serial) {
		return nil
	}
	switch fed := in.FedBy(board); {
	case fed > board.Logic:
		out = append(out, "1 kΩ and 2 kΩ divide what it sends before it reaches the pin.")
	case fed < board.Logic && in.Serial.Sends:
		out = append(out, "1 kΩ and 2 kΩ divide what it hears; what it sends is high enough for the host as a rule.")
	}
	if p, ok := board.Find(in.Pin); ok && p.Has(host.Upload) {
		out = append(out, "Unplug its wires for every upload: the loader uses them.")
	}
	return out
}
