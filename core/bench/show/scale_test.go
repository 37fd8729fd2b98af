package show

import (
	"math/rand/v2"
	"testing"

	"slatebell/core/bench"
)

// TestScale brings readings to units: by the line through two points in floating point, halves away from
// zero; and says of each scale truly whether 32 bits hold what programs come by on the way.
func TestScale(t *testing.T) {
	sensor := func(decimals, average, r0 int, v0 float64, r1 int, v1 float64) *bench.Sensor {
		return &bench.Sensor{Decimals: decimals, Average: average, Scale: bench.Scale{From: bench.Point{Reading: r0, Value: v0}, To: bench.Point{Reading: r1, Value: v1}}}
	}
	for _, c := range []struct {
		of        *bench.Sensor
		sum, want int64
	}{
		{&bench.Sensor{}, 675, 675}, // the value is the reading
		{&bench.Sensor{Decimals: 1}, 675, 6750},
		{&bench.Sensor{Average: 4}, 2, 1}, // a half goes away from zero
		{sensor(1, 1, 0, 0, 1023, 5), 512, 25},
		{sensor(1, 1, 1023, 5, 0, 0), 512, 25}, // the points in any order
		{sensor(0, 1, 100, 50, 900, -50), 500, 0},
		{sensor(0, 2, 100, 50, 900, -50), 203, 50}, // 1.5 readings beyond, 0.1875 of a unit
		{sensor(0, 1, 100, 0, 200, 10), 0, -10},    // on beyond the points
		{sensor(0, 1, 0, 0, 2, -1), 1, -1},
	} {
		s, err := ScaleOf(c.of)
		if err != nil {
			t.Fatal(err)
		}
		if got := s.Units(c.sum); got != c.want {
			t.Errorf("%+v: a sum of %d is %d, want %d", c.of, c.sum, got, c.want)
		}
	}
	if _, err := ScaleOf(sensor(0, 1, 7, 1, 7, 2)); err == nil {
		t.Error("two points at one reading are no scale")
	}
	r := rand.New(rand.NewPCG(1, 1))
	wide := 0
	for range 2000 {
		s, err := ScaleOf(sensor(r.IntN(5), 1+r.IntN(64), r.IntN(4000), float64(r.IntN(2000)-1000), 4000+r.IntN(96), float64(r.IntN(200_000)-1000)))
		if err != nil {
			t.Fatal(err)
		}
		beyond := false
		for _, reading := range []int64{0, 4095} {
			moved := (reading*s.Average - s.Low) * s.Rise
			beyond = beyond || moved+s.Run/2 > 1<<31-1 || moved-s.Run/2 < -1<<31
		}
		if beyond && !s.Wide(4095) {
			t.Errorf("%+v does not fit 32 bits", s)
		}
		if s.Wide(4095) {
			wide++
		}
	}
	if wide == 0 || wide == 2000 {
		t.Errorf("%d of 2000 scales are wide", wide)
	}
}
