package pinout

import (
	"math"
	"math/rand/v2"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/table/bus"
)

// row is a bench with a ladder of so many buttons on A0.
// found is the finding of a code; a zero one where there is none.
func found(list []finding.Finding, code string) finding.Finding {
	for _, f := range list {
		if f.Code == code {
			return f
		}
	}
	return finding.Finding{}
}

func row(n int) *bench.Bench {
	b := bench.New("row")
	for k := range n {
		b.Modules[0].Show.Inputs = append(b.Modules[0].Show.Inputs, bench.Input{ID: string(rune('a' + k)), Kind: "button", Pin: "A0", Button: bench.Button{Ladder: true}})
	}
	return &b
}

// TestLadders solves the networks of ladders of every length while each button, or none, is pressed, with
// resistors up to 5 % off: the voltage lies where that button counts, by its margin at least, as long as
// it is told apart at all.
func TestLadders(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 1))
	for n := 1; n <= MostRungs; n++ {
		list := Ladders(row(n))
		if len(list) != 1 || len(list[0].Rungs) != n || list[0].Pin != "A0" {
			t.Fatalf("%d buttons: %+v", n, list)
		}
		rungs := list[0].Rungs
		narrow := math.Inf(1)
		for _, rung := range rungs {
			narrow = min(narrow, rung.Margin)
		}
		if narrow < 0.03 {
			t.Errorf("%d buttons: margin %.3f of the supply", n, narrow)
		}
		for range 200 {
			off := func(of physic.ElectricResistance, by float64) physic.ElectricResistance {
				return physic.ElectricResistance(float64(of) * (1 + by*(2*r.Float64()-1)))
			}
			by := []float64{0, tolerance}[r.IntN(2)]
			for pressed := 0; pressed <= n; pressed++ {
				var net circuit.Network
				net.Hold(0, 0)
				net.Hold(1, 5*physic.Volt)
				net.Resistor(1, 2, off(LadderTop, by))
				for k := range rungs {
					if k > 0 {
						net.Resistor(1+k, 2+k, off(rungs[k].Below, by))
					}
					if k == pressed {
						net.Resistor(2+k, 0, physic.MilliOhm)
					}
				}
				s := net.Solve()
				v, _ := s.Voltage(2)
				level := float64(v) / float64(5*physic.Volt)
				for k, rung := range rungs {
					counts := level >= rung.From && level < rung.To
					if counts != (k == pressed) {
						t.Fatalf("%d buttons, %d pressed: %.3f of the supply counts as %d: %+v", n, pressed, level, k, rungs)
					}
				}
				if by == 0 && pressed < n && math.Abs(level-rungs[pressed].Level) > 1e-5 {
					t.Fatalf("%d buttons, %d pressed: %.4f of the supply, said to be %.4f", n, pressed, level, rungs[pressed].Level)
				}
			}
		}
	}
	long := row(MostRungs + 1)
	if f := found(judgeInputs(long), "input.ladder-long"); f.Path != edit.InputPath(0, MostRungs) {
		t.Errorf("one too many: %+v", judgeInputs(long))
	}
	// a further button of a ladder comes to its pin, and a voltage does not
	b := row(2)
	b.Modules[0].Show.Inputs = append(b.Modules[0].Show.Inputs, bench.Input{ID: "c", Kind: "button", Button: bench.Button{Ladder: true}}, bench.Input{ID: "tide", Kind: "signal"})
	joined, left := JoinInputs(b)
	if len(left) > 0 || len(joined) != 2 || joined[1].Pin != "A0" || joined[0].Pin == "A0" {
		t.Errorf("%+v, left %v", joined, left)
	}
	b.Modules[0].Show.Inputs[3].Pin = "A0"
	if f := found(judgePins(b, bus.Nodes(b), Uses(b)), "host.pin-twice"); f.What == "" {
		t.Error("a voltage on a ladder's pin is not found")
	}
}

// TestPressToGround finds the press of a stick whose pin is held low, and mends it.
func TestPressToGround(t *testing.T) {
	b := bench.New("stick")
	b.Modules[0].Show.Inputs = []bench.Input{{ID: "x", Kind: "signal", Pin: "A0", Part: "Tiller"}, {ID: "go", Kind: "button", Pin: "D4", Part: "Tiller", Pull: "down"}}
	if f := found(judgeInputs(&b), "input.press-to-ground"); len(f.Remedies) != 1 {
		t.Errorf("%+v", judgeInputs(&b))
	}
	b.Modules[0].Show.Inputs[1].Part = ""
	if f := found(judgeInputs(&b), "input.press-to-ground"); f.What != "" {
		t.Errorf("a button of its own: %s", f.What)
	}
}
