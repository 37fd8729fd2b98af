package circuit

import (
	"math"
	"math/rand/v2"
	"slatebell/core/say"
	"testing"
	"time"

	"periph.io/x/conn/v3/physic"
)

// TestOther holds the resistor beside one that changes against every value of its series: none gives a
// wider spread, as a network of the two says.
func TestOther(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 5))
	for range 200 {
		least := physic.ElectricResistance(math.Exp(r.Float64()*14)) * physic.Ohm
		most := least * physic.ElectricResistance(2+r.IntN(200))
		spread := func(other physic.ElectricResistance) float64 {
			var ends [2]float64
			for i, sensor := range []physic.ElectricResistance{least, most} {
				var n Network
				n.Hold(0, 0)
				n.Hold(1, 5*physic.Volt)
				n.Resistor(2, 0, sensor)
				n.Resistor(1, 2, other)
				s := n.Solve()
				v, _ := s.Voltage(2)
				ends[i] = float64(v) / float64(5*physic.Volt)
			}
			return ends[1] - ends[0]
		}
		for _, s := range []Series{E6, E12, E24} {
			got := s.Other(least, most)
			best := 0.0
			s.walk(func(v physic.ElectricResistance) bool {
				best = max(best, spread(v))
				return true
			})
			if !s.Has(got) || spread(got) < best-1e-6 || math.Abs(spread(got)-Spread(got, least, most)) > 1e-6 {
				t.Fatalf("E%d, %s to %s: %s spreads by %.4f, best %.4f", len(s), say.Ohms(least), say.Ohms(most), say.Ohms(got), spread(got), best)
			}
		}
	}
	if got := E12.Other(0, 0); got != 10*physic.KiloOhm {
		t.Errorf("beside what nobody knows: %s", say.Ohms(got))
	}
	// RC envelope: from all to a tenth in 2.303 RC
	if got := Fall(10*physic.KiloOhm, 10*physic.MicroFarad).Round(time.Millisecond); got != 230*time.Millisecond {
		t.Errorf("10 kΩ and 10 µF fall in %s, want 0.230 s", got)
	}
}
