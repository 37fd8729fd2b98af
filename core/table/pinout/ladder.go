package pinout

import (
	"fmt"
	"math"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/circuit"
	"slatebell/core/say"
)

// LadderTop is the resistor that holds a ladder's pin up while no button is pressed.
const LadderTop = 10 * physic.KiloOhm

// MostRungs is how many buttons a ladder takes: as many as resistors of 5 % tell apart by 3 % of the supply.
const MostRungs = 8

// tolerance of the resistors of a ladder, either way (common practice: 5 %, gold).
const tolerance = 0.05

// Rung is a button of a ladder: it joins the ladder to ground behind its resistor.
type Rung struct {
	Module, Input int
	Below         physic.ElectricResistance // to the rung before it, or to the pin; 0 of the first
	Level         float64                   // of the supply, while it is pressed
	From, To      float64                   // levels between which it counts
	Margin        float64                   // of the supply, that is left with the worst resistors
}

// Ladder is a row of buttons on one pin, the one next to the pin first.
type Ladder struct {
	Pin   string // as the board labels it
	Rungs []Rung
}

// Ladders finds the ladders of a bench, and chooses their resistors: of the E12 series, so that the levels
// lie as far apart as they can.
func Ladders(b *bench.Bench) (out []Ladder) {
	board := b.Host.Board()
	at := map[string]int{}
	for i := range b.Modules {
		for k := range b.Modules[i].Show.Inputs {
			in := &b.Modules[i].Show.Inputs[k]
			if !onRung(in) || in.Pin == "" {
				continue
			}
			pin := board.Canonical(in.Pin)
			if _, known := at[pin]; !known {
				at[pin] = len(out)
				out = append(out, Ladder{Pin: pin})
			}
			l := &out[at[pin]]
			l.Rungs = append(l.Rungs, Rung{Module: i, Input: k})
		}
	}
	for i := range out {
		out[i].choose()
	}
	return out
}

// choose works out resistors and levels.
func (l *Ladder) choose() {
	n := len(l.Rungs)
	sum := physic.ElectricResistance(0)
	level := func(r, top float64) float64 { return r / (r + top) }
	low, high := make([]float64, n+1), make([]float64, n+1) // with the worst resistors
	for k := range l.Rungs {
		if k > 0 {
			share := float64(k) / float64(n)
			ideal := physic.ElectricResistance(float64(LadderTop)*share/(1-share)) - sum
			below, above := circuit.E12.UpTo(ideal), circuit.E12.From(ideal)
			if l.Rungs[k].Below = above; ideal-below < above-ideal {
				l.Rungs[k].Below = below
			}
		}
		sum += l.Rungs[k].Below
		l.Rungs[k].Level = level(float64(sum), float64(LadderTop))
		low[k] = level(float64(sum)*(1-tolerance), float64(LadderTop)*(1+tolerance))
		high[k] = level(float64(sum)*(1+tolerance), float64(LadderTop)*(1-tolerance))
	}
	low[n], high[n] = 1, 1 // none is pressed
	for k := range l.Rungs {
		next := 1.0
		if k+1 < n {
			next = l.Rungs[k+1].Level
		}
		l.Rungs[k].To = (l.Rungs[k].Level + next) / 2
		if k > 0 {
			l.Rungs[k].From = l.Rungs[k-1].To
		}
	}
	for k := range l.Rungs {
		r := &l.Rungs[k]
		r.Margin = math.Min(r.To-high[k], low[k+1]-r.To)
		if k > 0 {
			r.Margin = math.Min(r.Margin, low[k]-r.From)
		}
	}
}

// Reading is the reading of a converter at a level; its most is that of the whole supply.
func Reading(level float64, most int) int { return int(math.Ceil(level * float64(most))) }

// RungOf finds the rung of a button; false where it stands in no ladder.
func RungOf(ladders []Ladder, module, input int) (l *Ladder, rung int, ok bool) {
	for i := range ladders {
		for k, r := range ladders[i].Rungs {
			if r.Module == module && r.Input == input {
				return &ladders[i], k, true
			}
		}
	}
	return nil, 0, false
}

// Says tells at which voltage a button of a ladder is read, and by how much it is told apart.
func (r *Rung) Says(logic physic.ElectricPotential) string {
	at := func(share float64) string {
		return say.Volts(physic.ElectricPotential(math.Round(float64(logic) * share)))
	}
	return fmt.Sprintf("Pressed, its pin is at %s; with resistors of 5 %% it is told from the others by %s at least.", at(r.Level), at(r.Margin))
}
