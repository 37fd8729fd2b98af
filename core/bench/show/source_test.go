package show

import (
	"math"
	"testing"

	"slatebell/core/bench"
)

// TestSource reads every curve: ends and middles where they are known, bounds everywhere,
// the same again for the same seed.
func TestSource(t *testing.T) {
	for _, c := range []struct {
		curve string
		at    []int64
		want  []float64
	}{
		{"constant", []int64{0, 777}, []float64{-2, -2}},
		{"ramp", []int64{0, 500, 999, 1000, 1250}, []float64{-2, 0, 1.996, -2, -1}},
		{"sine", []int64{0, 250, 500, 750, 1000}, []float64{0, 2, 0, -2, 0}},
		{"steps", []int64{0, 999, 1000, 2000, 3000}, []float64{1, 1, 5, -4, 1}},
		{"tide", []int64{0}, []float64{0}},
	} {
		s := sourceOf(&bench.Source{Curve: c.curve, Low: -2, High: 2, PeriodMs: 1000, Levels: []float64{1, 5, -4}})
		for i, at := range c.at {
			if got := s.At(at); math.Abs(got-c.want[i]) > 1e-9 {
				t.Errorf("%s at %d ms: %g, want %g", c.curve, at, got, c.want[i])
			}
		}
	}
	for _, curve := range []string{"ramp", "sine", "tide", "noise"} {
		s, least, most, sum := sourceOf(&bench.Source{Curve: curve, Low: 3, High: 7, PeriodMs: 997, SampleMs: 7, Seed: 5}), 9.0, 0.0, 0.0
		const n = 70_000
		for at := range int64(n) {
			v := s.At(at)
			least, most, sum = min(least, v), max(most, v), sum+v/n
		}
		if least < 3 || most > 7 || least > 3.1 || most < 6.9 || math.Abs(sum-5) > 0.05 {
			t.Errorf("%s goes from %g to %g, %g on average; want 3 to 7, and 5", curve, least, most, sum)
		}
	}
	a, b := sourceOf(&bench.Source{Curve: "noise", High: 1, Seed: 1}), sourceOf(&bench.Source{Curve: "noise", High: 1, Seed: 2})
	if a.At(99) != a.At(0) || a.At(100) == a.At(0) || a.At(0) == b.At(0) {
		t.Error("noise changes within a sample, does not with the next, or does not with its seed")
	}
	// a tide's springs and neaps: highest where both add up, lower half a beat later
	tide := sourceOf(&bench.Source{Curve: "tide", Low: -1, High: 1, PeriodMs: 12_420})
	beat := 12.42 * 12 / (12.42 - 12) * 1000 // ms
	high := func(from float64) (most float64) {
		for at := int64(from); at < int64(from)+13_000; at += 10 {
			most = max(most, tide.At(at))
		}
		return most
	}
	if spring, neap := high(0), high(beat/2); spring < 0.97 || neap > 0.53 {
		t.Errorf("spring tide %g, neap tide %g; want 1 and 0.5", spring, neap)
	}
}

// TestSample reads a source at its times, rounded to what the signal counts in.
func TestSample(t *testing.T) {
	s := &Show{Inputs: []Input{{Kind: Button}, {Kind: Signal, Source: sourceOf(&bench.Source{Curve: "ramp", High: 10, PeriodMs: 1000, SampleMs: 250})}}}
	if e, next, ok := s.Sample(1, 250); !ok || next != 500 || e != (Event{At: 250, Input: 1, Value: 3}) {
		t.Errorf("%+v, then at %d, %v", e, next, ok)
	}
	if _, _, ok := s.Sample(0, 0); ok {
		t.Error("a button has a source")
	}
}
