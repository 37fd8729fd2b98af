package circuit

import (
	"fmt"
	"math"
	"slatebell/core/say"

	"periph.io/x/conn/v3/physic"
)

// Series is a series of preferred values within a decade, as multiples of a tenth
// of its first.
type Series []int64

// The series of IEC 60063 (from memory), with the tolerance that each is made for:
// 20, 10 and 5 %.
var (
	E6  = Series{10, 15, 22, 33, 47, 68}
	E12 = Series{10, 12, 15, 18, 22, 27, 33, 39, 47, 56, 68, 82}
	E24 = Series{10, 11, 12, 13, 15, 16, 18, 20, 22, 24, 27, 30, 33, 36, 39, 43, 47, 51, 56, 62, 68, 75, 82, 91}
)

// AllSeries lists the series by name, the coarsest first.
var AllSeries = []struct {
	Name   string
	Values Series
}{{"E6", E6}, {"E12", E12}, {"E24", E24}}

// Has reports whether a resistance is a value of the series.
func (s Series) Has(r physic.ElectricResistance) bool { return r > 0 && s.From(r) == r }

// walk calls visit with the values of the series from 1 Ω to 10 MΩ, ascending, as
// long as it returns true.
func (s Series) walk(visit func(physic.ElectricResistance) bool) {
	for decade := physic.Ohm / 10; decade <= physic.MegaOhm/10; decade *= 10 {
		for _, step := range s {
			if !visit(physic.ElectricResistance(step) * decade) {
				return
			}
		}
	}
}

// UpTo returns the largest value that is not above r, 1 Ω at least.
func (s Series) UpTo(r physic.ElectricResistance) (best physic.ElectricResistance) {
	best = physic.Ohm
	s.walk(func(v physic.ElectricResistance) bool {
		if v <= r {
			best = v
		}
		return v <= r
	})
	return best
}

// From returns the smallest value that is not below r, 9.1 MΩ or less at most: the
// series ends there.
func (s Series) From(r physic.ElectricResistance) (best physic.ElectricResistance) {
	s.walk(func(v physic.ElectricResistance) bool {
		best = v
		return v < r
	})
	return best
}

// bandColours are the digits' colours of IEC 60062 (from memory).
var bandColours = [10]string{"black", "brown", "red", "orange", "yellow", "green", "blue", "violet", "grey", "white"}

// Bands returns the colours of a resistor's bands by IEC 60062 (from memory): two
// digits, the multiplier, and the tolerance, gold for 5 %. Its error says which
// values two digits can write.
func Bands(r physic.ElectricResistance) ([4]string, error) {
	milli := int64(math.Round(float64(r) / float64(physic.Ohm) * 1000))
	power := -3 // milli = digits × 10^(power+3)
	for milli >= 100 && milli%10 == 0 {
		milli, power = milli/10, power+1
	}
	if milli < 10 || milli > 99 || power < -2 || power > 9 {
		return [4]string{}, fmt.Errorf("%s has no four bands; expected two digits and zeros, 0.1 Ω to 99 GΩ", say.Ohms(r))
	}
	multiplier := "silver"
	if power == -1 {
		multiplier = "gold"
	} else if power >= 0 {
		multiplier = bandColours[power]
	}
	return [4]string{bandColours[milli/10], bandColours[milli%10], multiplier, "gold"}, nil
}
