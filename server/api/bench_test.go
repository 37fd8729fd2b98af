package api

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/prove/run"
)

// long is a request for a run of 2,000 steps.
func long() RunRequest {
	req := RunRequest{Setup: gate(slices.Repeat([]string{strings.Repeat("Tide", 10)}, 4)...)}
	req.Display.Geometry = "40x4"
	for range 1825 {
		req.Live = append(req.Live, LiveOperation{Value: 0x18})
	}
	return req
}

// BenchmarkScrub reads one moment of a kept run of 2,000 steps: nothing is
// simulated again.
func BenchmarkScrub(b *testing.B) {
	s := &Server{}
	_, r, err := s.run(long())
	if err != nil {
		b.Fatal(err)
	}
	b.ReportMetric(float64(len(r.Program.Steps)), "steps")
	for i := 0; b.Loop(); i++ {
		newMoment(r, i*997%len(r.Moments))
	}
}

// BenchmarkRunResult composes, compiles, simulates and describes a full 40×4
// screen, as the API does for a keystroke.
func BenchmarkRunResult(b *testing.B) {
	req := long()
	req.Live = nil
	for i := 0; b.Loop(); i++ {
		req.Rows = []string{strings.Repeat(string(rune('a'+i%26)), 40), "Tide", "Wind", "Boats"}
		r, err := run.Do(&req.Setup, run.Options{})
		if err != nil {
			b.Fatal(err)
		}
		newRunResult("", r)
	}
}
