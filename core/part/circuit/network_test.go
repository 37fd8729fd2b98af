package circuit

import (
	"math"
	"math/rand/v2"
	"slatebell/core/say"
	"testing"

	"gonum.org/v1/gonum/mat"
	"periph.io/x/conn/v3/physic"
)

// TestSeries holds the series against IEC 60063's rule: the values of a series of n
// a decade are 10^(i/n), rounded to two digits, but for those that the standard keeps
// from older practice (from memory: 27, 30, 33, 36, 39, 43 and 47, and 82).
func TestSeries(t *testing.T) {
	kept := map[int64]bool{27: true, 30: true, 33: true, 36: true, 39: true, 43: true, 47: true, 82: true}
	for _, s := range []Series{E6, E12, E24} {
		for i, v := range s {
			if want := int64(math.Round(10 * math.Pow(10, float64(i)/float64(len(s))))); v != want && !kept[v] {
				t.Errorf("E%d: %d, want %d", len(s), v, want)
			}
			if i > 0 && s[i-1] >= v || len(s) < 24 && E24[i*24/len(s)] != v {
				t.Errorf("E%d: %d is out of order, or no value of E24", len(s), v)
			}
		}
	}
	for r := physic.Ohm; r < 8*physic.MegaOhm; r = r * 13 / 12 {
		down, up := E12.UpTo(r), E12.From(r)
		if down > r || up < r || float64(up)/float64(down) > 1.26 || down != up && up == r {
			t.Errorf("%s lies between %s and %s", r, down, up)
		}
	}
}

// TestBands writes values by IEC 60062's colour code (from memory).
func TestBands(t *testing.T) {
	for r, want := range map[physic.ElectricResistance][4]string{
		220 * physic.Ohm:          {"red", "red", "brown", "gold"},
		4700 * physic.Ohm:         {"yellow", "violet", "red", "gold"},
		10 * physic.KiloOhm:       {"brown", "black", "orange", "gold"},
		1500 * physic.MilliOhm:    {"brown", "green", "gold", "gold"},
		470 * physic.MilliOhm:     {"yellow", "violet", "silver", "gold"},
		physic.MegaOhm:            {"brown", "black", "green", "gold"},
		82 * physic.Ohm:           {"grey", "red", "black", "gold"},
		3900000 * physic.MilliOhm: {"orange", "white", "red", "gold"},
	} {
		if got, err := Bands(r); got != want || err != nil {
			t.Errorf("%s has %v, %v; want %v", say.Ohms(r), got, err, want)
		}
	}
	for _, bad := range []physic.ElectricResistance{0, 123 * physic.Ohm, 5 * physic.MilliOhm} {
		if got, err := Bands(bad); err == nil {
			t.Errorf("%s has %v", bad, got)
		}
	}
	for r, want := range map[physic.ElectricResistance]string{220 * physic.Ohm: "220 Ω", 4700 * physic.Ohm: "4.7 kΩ", 1533 * physic.Ohm: "1.53 kΩ", physic.MegaOhm: "1 MΩ", 999600 * physic.MilliOhm: "1 kΩ", 47 * physic.Ohm: "47 Ω"} {
		if got := say.Ohms(r); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// TestNetwork solves random networks of resistors and holds them against
// gonum.org/v1/gonum/mat, a general solver of linear equations.
func TestNetwork(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 3))
	for range 400 {
		size := 2 + r.IntN(7)
		var n Network
		n.Hold(0, 0)
		n.Hold(1, 5*physic.Volt)
		a := mat.NewDense(size, size, nil)
		right := mat.NewVecDense(size, nil)
		join := func(i, j int, ohms int64) {
			n.Resistor(i, j, physic.ElectricResistance(ohms)*physic.Ohm)
			g := 1 / float64(ohms)
			a.Set(i, i, a.At(i, i)+g)
			a.Set(j, j, a.At(j, j)+g)
			a.Set(i, j, a.At(i, j)-g)
			a.Set(j, i, a.At(j, i)-g)
		}
		for i := 1; i < size; i++ { // joined to all before, so that there is one solution
			join(i, r.IntN(i), 10+r.Int64N(100_000))
		}
		for range r.IntN(10) {
			if i, j := r.IntN(size), r.IntN(size); i != j {
				join(i, j, 10+r.Int64N(100_000))
			}
		}
		for held, v := range map[int]float64{0: 0, 1: 5} {
			for j := range size {
				a.Set(held, j, 0)
			}
			a.Set(held, held, 1)
			right.SetVec(held, v)
		}
		var want mat.VecDense
		if err := want.SolveVec(a, right); err != nil {
			t.Fatal(err)
		}
		s := n.Solve()
		for i := range size {
			if got, ok := s.Voltage(i); !ok || math.Abs(float64(got)/float64(physic.Volt)-want.AtVec(i)) > 1e-8 {
				t.Fatalf("node %d at %s, want %.9f V", i, got, want.AtVec(i))
			}
		}
	}
}

// TestDiodes checks a diode behind a resistor: (5 V − 3.1 V) / (220 + 10) Ω, no
// current backwards or below its voltage, and nodes that nothing reaches.
func TestDiodes(t *testing.T) {
	build := func(high, low int, v physic.ElectricPotential) Solution {
		var n Network
		n.Hold(0, 0)
		n.Hold(1, v)
		n.Resistor(high, 2, 220*physic.Ohm)
		n.Diode(2, low, 3100*physic.MilliVolt, 10*physic.Ohm)
		n.Resistor(7, 8, physic.Ohm)
		return n.Solve()
	}
	s := build(1, 0, 5*physic.Volt)
	if got := s.Through(0); got < 8260*physic.MicroAmpere || got > 8262*physic.MicroAmpere {
		t.Errorf("%s flow, want 1.9 V / 230 Ω", got)
	}
	if _, ok := s.Voltage(7); ok {
		t.Error("what nothing reaches has a voltage")
	}
	for _, s := range []Solution{build(0, 1, 5*physic.Volt), build(1, 0, 3*physic.Volt)} {
		if s.Through(0) != 0 {
			t.Errorf("%s flow", s.Through(0))
		}
	}
}

// TestDivider holds a potentiometer with a load against worked figures and against
// the network solver.
func TestDivider(t *testing.T) {
	bare := Divider{Supply: 5 * physic.Volt, Pot: 10 * physic.KiloOhm}
	if v := bare.At(0.5); v != 2500*physic.MilliVolt || bare.Wasted() != 500*physic.MicroAmpere {
		t.Errorf("half a turn gives %s, end to end %s flow", v, bare.Wasted())
	}
	// 250 kΩ, 1 % of the turn from ground: 2.5 kΩ below, 247.5 kΩ beside 11 kΩ above.
	wide := Divider{Supply: 5 * physic.Volt, Pot: 250 * physic.KiloOhm, Load: 11 * physic.KiloOhm}
	if v := wide.At(0.01); v < 958*physic.MilliVolt || v > 960*physic.MilliVolt {
		t.Errorf("1 %% of 250 kΩ gives %s, want 0.959 V", v)
	}
	for turn := 0.0; turn <= 1; turn += 0.05 {
		var n Network
		n.Hold(0, 0)
		n.Hold(1, 5*physic.Volt)
		n.Resistor(1, 2, physic.ElectricResistance(float64(wide.Pot)*(1-turn)))
		n.Resistor(2, 0, physic.ElectricResistance(float64(wide.Pot)*turn))
		n.Resistor(1, 2, wide.Load)
		s := n.Solve()
		want, _ := s.Voltage(2)
		if got := wide.At(turn); got-want > physic.MilliVolt || want-got > physic.MilliVolt {
			t.Errorf("turn %.2f: %s, solved %s", turn, got, want)
		}
		if back := wide.TurnFor(wide.At(turn)); math.Abs(back-turn) > 1e-4 {
			t.Errorf("turn %.2f comes back as %.4f", turn, back)
		}
	}
	if wide.TurnFor(-physic.Volt) != 0 || wide.TurnFor(9*physic.Volt) < 0.999 {
		t.Error("a voltage out of reach is at an end of the turn")
	}
}
