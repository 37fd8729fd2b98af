// Package say writes amounts with their units, counts and lists of names, so that a figure reads the
// same in every finding, list and file. It stands at the ground of core, beside place.
package say

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"periph.io/x/conn/v3/physic"
)

// List joins names: "A", "A and B", "A, B and C"; "" of none.
func List(names []string) string {
	n := len(names)
	if n < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:n-1], ", ") + " and " + names[n-1]
}

// Plural returns a word as so many ask for it: "row" of one, "rows" of any other number.
func Plural(n int, word string) string {
	if n == 1 {
		return word
	}
	return word + "s"
}

// Volts writes a voltage to hundredths of a volt: "3.3 V", "4.46 V".
func Volts(v physic.ElectricPotential) string {
	return strconv.FormatFloat(math.Round(float64(v)/float64(physic.Volt)*100)/100, 'f', -1, 64) + " V"
}

// Ohms writes a resistance as the trade does, to three digits: "220 Ω", "4.7 kΩ", "1.53 MΩ".
func Ohms(r physic.ElectricResistance) string {
	ohms := float64(r) / float64(physic.Ohm)
	unit := "Ω"
	switch {
	case ohms >= 999_500:
		ohms, unit = ohms/1e6, "MΩ"
	case ohms >= 999.5:
		ohms, unit = ohms/1e3, "kΩ"
	}
	digits := 3 - 1 - int(math.Floor(math.Log10(max(ohms, 1))))
	scale := math.Pow(10, float64(max(digits, 0)))
	return strconv.FormatFloat(math.Round(ohms*scale)/scale, 'f', -1, 64) + " " + unit
}

// Amperes writes a current in milliamperes: to tenths, and to whole ones from 100 mA on; what is less
// than 1 mA to hundredths.
func Amperes(i physic.ElectricCurrent) string {
	v := float64(i) / float64(physic.MilliAmpere)
	switch {
	case v >= 99.95:
		return fmt.Sprintf("%.0f mA", v)
	case v < 1:
		return fmt.Sprintf("%.3g mA", math.Round(v*100)/100)
	}
	return fmt.Sprintf("%.1f mA", v)
}

// Farads writes a capacitance in the unit that keeps it between 1 and 1000: "200 pF", "100 nF", "10 µF".
func Farads(c physic.ElectricalCapacitance) string {
	switch {
	case c >= physic.MicroFarad:
		return fmt.Sprintf("%g µF", float64(c/physic.NanoFarad)/1000)
	case c >= physic.NanoFarad && c%physic.NanoFarad == 0:
		return fmt.Sprintf("%d nF", c/physic.NanoFarad)
	}
	return fmt.Sprintf("%d pF", c/physic.PicoFarad)
}

// Milliseconds writes a time to tenths of a millisecond: "1.6 ms".
func Milliseconds(d time.Duration) string {
	return fmt.Sprintf("%.1f ms", float64(d)/float64(time.Millisecond))
}
