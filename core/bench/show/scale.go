package show

import (
	"fmt"
	"math"

	"slatebell/core/bench"
)

// Scale turns readings of a pin into units of a signal, in whole numbers: programs of every
// language do the same. The value of a sum of readings is Start + (sum − Low) × Rise / Run, the
// halves rounded away from zero.
type Scale struct {
	Average     int64 // readings that are summed
	Low, Run    int64 // of sums; Run is above 0
	Start, Rise int64 // units
}

// ScaleOf returns the scale of a signal. Its error says what of its points is wrong.
func ScaleOf(s *bench.Sensor) (Scale, error) {
	n := max(int64(s.Average), 1)
	from, to := s.Scale.From, s.Scale.To
	if s.Scale == (bench.Scale{}) {
		to = bench.Point{Reading: 1, Value: 1}
	}
	if from.Reading == to.Reading {
		return Scale{}, fmt.Errorf("both points are at reading %d; expected two readings that differ", to.Reading)
	}
	if from.Reading > to.Reading {
		from, to = to, from
	}
	out := Scale{Average: n, Low: n * int64(from.Reading), Run: n * int64(to.Reading-from.Reading), Start: Units(from.Value, s.Decimals)}
	out.Rise = Units(to.Value, s.Decimals) - out.Start
	if by := gcd(out.Run, max(out.Rise, -out.Rise)); by > 1 {
		out.Run, out.Rise = out.Run/by, out.Rise/by
	}
	return out, nil
}

// Units is the value of a sum of readings.
func (s *Scale) Units(sum int64) int64 {
	moved, half := (sum-s.Low)*s.Rise, s.Run/2
	if moved < 0 {
		half = -half
	}
	return s.Start + (moved+half)/s.Run
}

// Wide reports whether sums up to the reading that a converter has at most need more than 32 bits
// on the way, as programs compute.
func (s *Scale) Wide(most int64) bool {
	way := math.Max(math.Abs(float64(s.Low)), math.Abs(float64(most*s.Average-s.Low)))
	return way*math.Abs(float64(s.Rise))+float64(s.Run) > math.MaxInt32
}

func gcd(a, b int64) int64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}
