package circuit

import (
	"math"
	"time"

	"periph.io/x/conn/v3/physic"
)

// UsualOther is the resistor beside one that changes, where nobody said how far it does (common
// practice).
const UsualOther = 10 * physic.KiloOhm

// Other returns the resistor of a series that stands in a divider with one that changes from least to
// most, and gives the widest spread of voltages: the nearest of the two to √(least·most), where
// the spread has its one maximum.
func (s Series) Other(least, most physic.ElectricResistance) physic.ElectricResistance {
	if least <= 0 || most < least {
		return UsualOther
	}
	ideal := physic.ElectricResistance(math.Sqrt(float64(least)) * math.Sqrt(float64(most)))
	below, above := s.UpTo(ideal), s.From(ideal)
	if Spread(below, least, most) > Spread(above, least, most) {
		return below
	}
	return above
}

// Spread is which part of the supply a divider's voltage changes by: 0 to 1.
func Spread(other, least, most physic.ElectricResistance) float64 {
	if other <= 0 {
		return 0
	}
	at := func(r physic.ElectricResistance) float64 { return float64(r) / (float64(r) + float64(other)) }
	return at(most) - at(least)
}

// Fall is how long a capacitor that a resistor empties takes from all to a tenth: RC·ln 10.
func Fall(r physic.ElectricResistance, c physic.ElectricalCapacitance) time.Duration {
	return time.Duration(math.Ln10 * float64(r) / float64(physic.Ohm) * farads(c) * float64(time.Second))
}
