package show

import "math"

// Reading is what a converter of so many bits reads of a voltage, in millivolts, against its
// reference: 3300 of 5000 mV with ten bits is 675 of 1023.
func Reading(milliVolts, reference, bits int) int {
	most := 1<<bits - 1
	return min(max(int(float64(most)*float64(milliVolts)/float64(reference)), 0), most)
}

// Stick is at which readings an axis of a stick counts as tilted.
type Stick struct{ Low, High, Hysteresis int }

// StickOf places the levels half-way between the middle and either end, with a tenth of the
// shorter way as hysteresis.
func StickOf(least, middle, greatest int) Stick {
	half := func(a, b int) int { return int(math.Round(float64(a+b) / 2)) }
	return Stick{half(least, middle), half(middle, greatest), max(min(middle-least, greatest-middle)/10, 1)}
}
