// Package circuit is the small electrics of a bench: resistors in parallel, the
// pull-ups of an I²C bus, levels that one part gives and another asks for.
//
// It knows no part and no bench; host and i2cbus state the figures, plan puts
// them together.
package circuit

import (
	"math"
	"time"

	"periph.io/x/conn/v3/physic"
)

// Parallel returns what resistors in parallel make; 0 stands for one that is not
// there, and is the answer where none is.
func Parallel(resistors ...physic.ElectricResistance) physic.ElectricResistance {
	var siemens float64
	for _, r := range resistors {
		if r > 0 {
			siemens += float64(physic.Ohm) / float64(r)
		}
	}
	if siemens == 0 {
		return 0
	}
	return physic.ElectricResistance(math.Round(float64(physic.Ohm) / siemens))
}

// What drivers of an I²C bus in standard and fast mode must sink, and at what
// level (UM10204 rev. 7, table 9, from memory: V_OL1 0.4 V at 3 mA).
const (
	BusSink = 3 * physic.MilliAmpere
	BusLow  = 400 * physic.MilliVolt
)

// Mode is a speed class of the I²C bus.
type Mode struct {
	Name string
	Max  physic.Frequency
	Rise time.Duration // t_r, at most
}

// The modes, and the most that a bus line may have in capacitance (UM10204
// rev. 7, table 10, from memory).
var (
	Standard = Mode{"standard mode", 100 * physic.KiloHertz, 1000 * time.Nanosecond}
	Fast     = Mode{"fast mode", 400 * physic.KiloHertz, 300 * time.Nanosecond}
)

// MaxCapacitance is the most that a bus line may have.
const MaxCapacitance = 400 * physic.PicoFarad

// ModeAt returns the mode that a clock belongs to.
func ModeAt(f physic.Frequency) Mode {
	if f > Standard.Max {
		return Fast
	}
	return Standard
}

// MinPullUp returns R_p(min) = (V − V_OL) / I_OL: less resistance asks drivers to
// sink more than they must (UM10204 rev. 7, §7.1).
func MinPullUp(v physic.ElectricPotential) physic.ElectricResistance {
	ohms := float64(v-BusLow) / float64(physic.Volt) / (float64(BusSink) / float64(physic.Ampere))
	return physic.ElectricResistance(math.Round(max(ohms, 0) * float64(physic.Ohm)))
}

// riseFactor is ln(0.7/0.3): an RC charge from 30 % to 70 % takes so many time
// constants (UM10204 rev. 7, §7.1, which writes it 0.8473).
var riseFactor = math.Log(0.7 / 0.3)

// MaxPullUp returns R_p(max) = t_r / (0.8473 × C_b): more resistance lets the
// lines rise too slowly. It is 0 for no capacitance.
func MaxPullUp(rise time.Duration, c physic.ElectricalCapacitance) physic.ElectricResistance {
	if c <= 0 {
		return 0
	}
	return physic.ElectricResistance(math.Round(rise.Seconds() / (riseFactor * farads(c)) * float64(physic.Ohm)))
}

// RiseTime returns how long a line takes from 30 % to 70 %.
func RiseTime(r physic.ElectricResistance, c physic.ElectricalCapacitance) time.Duration {
	return time.Duration(math.Round(riseFactor * float64(r) / float64(physic.Ohm) * farads(c) * 1e9))
}

func farads(c physic.ElectricalCapacitance) float64 { return float64(c) / float64(physic.Farad) }

// Output is what a part gives at a level.
type Output struct {
	Low, High physic.ElectricPotential // V_OL at most, V_OH at least
}

// Input is what a part asks for at a level, and what it bears.
type Input struct {
	Low, High     physic.ElectricPotential // V_IL at most, V_IH at least
	MaxPinVoltage physic.ElectricPotential // highest voltage on the pin; 0 where it is not limited here
}

// Margins returns how far an output stands inside what an input asks for; a
// negative one is outside of the limit.
func Margins(from Output, to Input) (low, high physic.ElectricPotential) {
	return to.Low - from.Low, from.High - to.High
}

// MilliVolts is a voltage of so many millivolts, as documents state it.
func MilliVolts(mV int) physic.ElectricPotential {
	return physic.ElectricPotential(mV) * physic.MilliVolt
}
