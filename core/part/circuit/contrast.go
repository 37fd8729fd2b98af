package circuit

import "periph.io/x/conn/v3/physic"

// Divider is a potentiometer between a supply and ground whose wiper feeds an input
// that a resistance pulls to the supply, as a module's ladder pulls VO.
type Divider struct {
	Supply physic.ElectricPotential
	Pot    physic.ElectricResistance
	Load   physic.ElectricResistance // from the wiper to the supply; 0 for none
}

// At returns the wiper's voltage at a turn of the knob, 0 at ground to 1 at the
// supply.
func (d *Divider) At(turn float64) physic.ElectricPotential {
	turn = min(max(turn, 0), 1)
	if turn == 0 {
		return 0
	}
	r := float64(d.Pot)
	down := 1 / (turn * r)
	up := 0.0
	if turn < 1 {
		up = 1 / ((1 - turn) * r)
	} else {
		return d.Supply
	}
	if d.Load > 0 {
		up += 1 / float64(d.Load)
	}
	return physic.ElectricPotential(float64(d.Supply) * up / (up + down))
}

// TurnFor returns the turn of the knob that gives a voltage, to a millionth; the
// nearer end where none does.
func (d *Divider) TurnFor(v physic.ElectricPotential) float64 {
	low, high := 0.0, 1.0
	for high-low > 1e-6 {
		if mid := (low + high) / 2; d.At(mid) < v {
			low = mid
		} else {
			high = mid
		}
	}
	if v <= 0 {
		return 0
	}
	return (low + high) / 2
}

// Wasted is the current through the potentiometer from end to end, which does
// nothing for the contrast.
func (d *Divider) Wasted() physic.ElectricCurrent {
	if d.Pot <= 0 {
		return 0
	}
	return physic.ElectricCurrent(float64(d.Supply) / float64(d.Pot) * float64(physic.Ampere))
}
