package runs

import (
	"fmt"
	"runtime"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
)

// gate returns the set-up of a 16×2 on a backpack, with rows on its screen.
func gate(rows ...string) testbed.Setup {
	m := bench.NewModule("gate", "Gate")
	return testbed.Setup{Display: m.Display, Link: m.Link, Rows: append([]string{}, rows...)}
}

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
	s := New()
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

// TestRunCache checks that the cache stays within its bytes and keeps the newest
// run, that a run that was dropped is computed again, and that resting leaves
// little.
func TestRunCache(t *testing.T) {
	s := New()
	m := gate("Tide")
	var ids []string
	for i := range 1500 {
		m.Rows[0] = fmt.Sprintf("Tide %d", i)
		id, _, err := s.run(RunRequest{Setup: m})
		if err != nil {
			t.Fatal(err)
		}
		ids = append(ids, id)
	}
	if _, ok := s.runs.Get(ids[len(ids)-1]); !ok || s.runs.Weight() > 8<<20 || s.runs.Weight() < 7<<20 || s.requests.Weight() > 2<<20 || len(s.runs.Values()) < 10 {
		t.Errorf("%d runs of %d bytes, requests of %d, newest kept %v", len(s.runs.Values()), s.runs.Weight(), s.requests.Weight(), ok)
	}
	old := ids[len(ids)-1000]
	if _, ok := s.runs.Get(old); ok {
		t.Fatal("no run was dropped")
	}
	if r, err := s.find(old); err != nil || r.Layout.Cells[7].Char != "0" || r.Layout.Cells[5].Char != "5" {
		t.Errorf("a dropped run: %v", err)
	}
	s.Rest()
	if s.runs.Weight() > 1<<20 || s.runs.Weight() < 1<<19 {
		t.Errorf("at rest: %d bytes", s.runs.Weight())
	}
}

// TestSizes holds what the cache counts for runs against what the heap grows by:
// it may count half as much, or twice.
func TestSizes(t *testing.T) {
	var runs []*run.Run
	counted := 0
	heap := func() int {
		runtime.GC()
		var m runtime.MemStats
		runtime.ReadMemStats(&m)
		return int(m.HeapAlloc)
	}
	before := heap()
	for i := range 200 {
		setup := gate(fmt.Sprintf("Tide %d at the landing", i), "", "too many rows")
		r, err := run.Do(&setup, run.Options{})
		if err != nil {
			t.Fatal(err)
		}
		runs, counted = append(runs, r), counted+sizeOf(r)
	}
	if grown := heap() - before; counted < grown/2 || counted > grown*2 {
		t.Errorf("%d runs count as %d bytes, and take %d", len(runs), counted, grown)
	}
	runtime.KeepAlive(runs)
}
