package module

import "periph.io/x/conn/v3/physic"

// Backlight is the light behind a liquid crystal.
type Backlight struct {
	Name    string
	Forward physic.ElectricPotential  // V_F
	Rated   physic.ElectricCurrent    // at full light
	Own     physic.ElectricResistance // slope beyond V_F
	Carried physic.ElectricResistance // resistor that the module carries; 0 for none
}

// UsualBacklight returns what lights glass of a colour (common practice): behind
// green and amber an array of yellow-green diodes, two in series; behind blue and
// grey a white one at the edge.
func UsualBacklight(tint string) Backlight {
	if tint == "blue" || tint == "grey" {
		return Backlight{Name: "white, at the edge", Forward: 3100 * physic.MilliVolt, Rated: 20 * physic.MilliAmpere, Own: 10 * physic.Ohm}
	}
	return Backlight{Name: "yellow-green array", Forward: 4150 * physic.MilliVolt, Rated: 100 * physic.MilliAmpere, Own: 2 * physic.Ohm}
}

// ladderStep is one resistor of the ladder between VDD and VO that makes the
// voltages of the liquid crystal (common practice: a few kilohms).
const ladderStep = 2200 * physic.Ohm

// Ladder is the resistance between VDD and VO inside the module, which loads the
// contrast input.
func (m *Module) Ladder() physic.ElectricResistance {
	return physic.ElectricResistance(m.bias()) * ladderStep
}

// Current is what the backlight draws from a supply through a resistor, at room
// temperature.
func (b *Backlight) Current(supply physic.ElectricPotential, r physic.ElectricResistance) physic.ElectricCurrent {
	volts := float64(supply-b.Forward) / float64(physic.Volt)
	ohms := float64(r+b.Own+b.Carried) / float64(physic.Ohm)
	if volts <= 0 {
		return 0
	}
	return physic.ElectricCurrent(volts / max(ohms, 1e-3) * float64(physic.Ampere))
}

// Resistor is what gives the backlight a current; 0 where none is needed, or the
// supply is too low for that current.
func (b *Backlight) Resistor(supply physic.ElectricPotential, i physic.ElectricCurrent) physic.ElectricResistance {
	if i <= 0 {
		return 0
	}
	ohms := float64(supply-b.Forward) / float64(physic.Volt) / (float64(i) / float64(physic.Ampere))
	return max(physic.ElectricResistance(ohms*float64(physic.Ohm))-b.Own-b.Carried, 0)
}

// Heat is what a resistor turns into heat at a current.
func Heat(i physic.ElectricCurrent, r physic.ElectricResistance) physic.Power {
	amps := float64(i) / float64(physic.Ampere)
	return physic.Power(amps * amps * float64(r) / float64(physic.Ohm) * float64(physic.Watt))
}

// UsualRating is what a usual resistor bears (common practice: 0.25 W).
const UsualRating = 250 * physic.MilliWatt
