package faults

import (
	"fmt"
	"slices"
	"sync"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/internal/quantile"
	"slatebell/server/api/progress"
	"slatebell/server/demo"
)

// BenchmarkCrowd lets eight clients look for faults at a time, each with a screen of its own, as a
// room full of makers does: none of their catalogues is known before.
func BenchmarkCrowd(b *testing.B) {
	doc := demo.Bench()
	doc.Wiring = bench.Wiring{}
	round := 0
	var took []time.Duration
	for b.Loop() {
		s := New(&progress.Watches{})
		round++
		var mu sync.Mutex
		var all sync.WaitGroup
		for client := range 8 {
			all.Go(func() {
				own := doc
				own.Modules = slices.Clone(doc.Modules)
				own.Modules[1].Show = bench.Show{}
				own.Modules[1].Screens = []bench.Screen{{ID: "own", Rows: []string{fmt.Sprintf("Client %d of %d", client, round)}}}
				begun := time.Now()
				k, done, err := s.finder(&FaultyModule{Bench: own, Module: 1}, nil)
				if err != nil {
					b.Error(err)
					return
				}
				defer done()
				if _, err := k.find(&FindRequest{FaultyModule: FaultyModule{Bench: own, Module: 1}, Class: "blank"}); err != nil {
					b.Error(err)
				}
				mu.Lock()
				defer mu.Unlock()
				took = append(took, time.Since(begun))
			})
		}
		all.Wait()
	}
	if b.Failed() {
		return
	}
	b.ReportMetric(quantile.Of(took, .5).Seconds(), "s/median")
	b.ReportMetric(quantile.Of(took, 1).Seconds(), "s/longest")
}
