package pinout

import (
	"cmp"
	"fmt"
	"time"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/part/circuit"
	"slatebell/core/part/host"
	"slatebell/core/say"
)

// UsualPot is a potentiometer that nobody chose (common practice).
const UsualPot = 10 * physic.KiloOhm

// OtherOf is the resistor beside one that changes: the one that was chosen, or the one of the E12 series
// with the widest spread.
func OtherOf(c *bench.Circuit) physic.ElectricResistance {
	if c.Ohm > 0 {
		return physic.ElectricResistance(c.Ohm) * physic.Ohm
	}
	return circuit.E12.Other(physic.ElectricResistance(c.LeastOhm)*physic.Ohm, physic.ElectricResistance(c.MostOhm)*physic.Ohm)
}

// EmptiesOf is the resistor that empties a follower’s capacitor.
func EmptiesOf(c *bench.Circuit) physic.ElectricResistance {
	return cmp.Or(physic.ElectricResistance(c.Ohm)*physic.Ohm, 10*physic.KiloOhm)
}

// KeepsOf is a follower's capacitor; 10 µF where nothing is said.
func KeepsOf(c *bench.Circuit) physic.ElectricalCapacitance {
	return physic.ElectricalCapacitance(cmp.Or(c.NanoF, 10_000)) * physic.NanoFarad
}

// Says lists what is known of an input's electrics: values of its parts, voltages, readings, times.
func Says(b *bench.Bench, module, input int) (out []string) {
	in := &b.Modules[module].Show.Inputs[input]
	board := b.Host.Board()
	most := 1<<board.Resolution() - 1
	fed := float64(in.Fed(&board)) / float64(in.Reference(&board))
	reads := func(share float64) int { return min(int(share*fed*float64(most)), most) }
	if l, rung, ok := RungOf(Ladders(b), module, input); ok && rung < MostRungs {
		r := &l.Rungs[rung]
		out = append(out, ladderText(r, rung), r.Says(board.Logic))
	}
	if in.Kind != string(show.Signal) {
		return append(out, talks(in, &board)...)
	}
	c := &in.Signal.Circuit
	if low, high := board.Straight[0], board.Straight[1]; high > 0 {
		out = append(out, fmt.Sprintf("This host’s converter is straight from %s to %s only: choose the two points of the scale between them.", say.Volts(circuit.MilliVolts(low)), say.Volts(circuit.MilliVolts(high))))
	}
	if in.Signal.ReferenceMV > 0 {
		out = append(out, fmt.Sprintf("%s and above read %d.", say.Volts(in.Reference(&board)), most))
	}
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
		return fmt.Sprintf("The first of its row: from the pin to ground; the pin is held up by %s.", say.Ohms(LadderTop))
	}
	return fmt.Sprintf("Behind %s from the button before it, to ground.", say.Ohms(r.Below))
}

func dividerText(c *bench.Circuit, reads func(float64) int) []string {
	other := OtherOf(c)
	out := []string{fmt.Sprintf("From the pin to ground; %s from the pin to the supply.", say.Ohms(other))}
	if c.LeastOhm <= 0 || c.MostOhm < c.LeastOhm {
		return append(out, "With the least and the most that it has, the other resistor is chosen for the widest spread.")
	}
	share := func(r int) float64 {
		ohm := float64(r) * float64(physic.Ohm)
		return ohm / (ohm + float64(other))
	}
	return append(out, fmt.Sprintf("It reads %d at %s and %d at %s: %.0f %% of the supply lie between.", reads(share(c.LeastOhm)), say.Ohms(physic.ElectricResistance(c.LeastOhm)*physic.Ohm), reads(share(c.MostOhm)), say.Ohms(physic.ElectricResistance(c.MostOhm)*physic.Ohm), 100*(share(c.MostOhm)-share(c.LeastOhm))))
}

func followerText(c *bench.Circuit) string {
	return fmt.Sprintf("%s and %s let it fall from all to a tenth in %d ms; a larger capacitor makes it slower.", say.Ohms(EmptiesOf(c)), say.Farads(KeepsOf(c)), FallOf(c).Milliseconds())
}

// FallOf is how long a follower takes from all to a tenth.
func FallOf(c *bench.Circuit) time.Duration {
	return circuit.Fall(EmptiesOf(c), KeepsOf(c)).Round(time.Millisecond)
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
