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
