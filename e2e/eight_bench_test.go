package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"slices"
	"sync"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/internal/quantile"
	"slatebell/server/demo"
)

// BenchmarkEight lets eight clients plan, wire, compile, play and look for faults, each on a bench of its own that it changes as it goes on:
// how long every answer takes, and what the program holds.
func BenchmarkEight(b *testing.B) {
	server := serve(b)
	sizes := []string{"16x2", "20x4", "16x4", "20x2"}
	var mu sync.Mutex
	took := map[string][]time.Duration{}
	var whole []time.Duration
	ask := func(path string, body any) {
		data, err := json.Marshal(body)
		if err != nil {
			b.Error(err)
			return
		}
		begun := time.Now()
		res, err := http.Post(server.URL+path, "application/json", bytes.NewReader(data))
		if err != nil {
			b.Error(err)
			return
		}
		io.Copy(io.Discard, res.Body)
		res.Body.Close()
		d := time.Since(begun)
		if res.StatusCode != 200 {
			b.Errorf("%s is answered %s", path, res.Status)
		}
		mu.Lock()
		defer mu.Unlock()
		took[path], whole = append(took[path], d), append(whole, d)
	}
	round := 0
	for b.Loop() {
		round++
		var all sync.WaitGroup
		for client := range 8 {
			all.Go(func() {
				r := rand.New(rand.NewPCG(uint64(client), uint64(round)))
				own := demo.Bench()
				own.Modules = slices.Clone(own.Modules)
				m := &own.Modules[0]
				m.Display.Geometry, m.Show = sizes[client%len(sizes)], bench.Show{}
				own.Wiring = bench.Wiring{}
				for n := range 12 {
					m.Screens = []bench.Screen{{ID: "own", Rows: []string{fmt.Sprintf("Client %d of %d", client, round), fmt.Sprint("Tide ", r.IntN(100), n)}}}
					of := map[string]any{"bench": own, "module": 0}
					switch n % 6 {
					case 0:
						ask("/api/plan", own)
					case 1:
						ask("/api/wiring", own)
					case 2:
						ask("/api/code", of)
					case 3:
						ask("/api/plays", map[string]any{"bench": own, "modules": []int{1, 2}, "untilMs": 60_000})
					case 4:
						ask("/api/wiring/plan", own)
					case 5:
						if n == 5 {
							ask("/api/faults/find", map[string]any{"bench": own, "module": 0, "screen": 0, "class": "blank"})
						}
					}
				}
			})
		}
		all.Wait()
	}
	at := func(list []time.Duration, share float64) float64 {
		return quantile.Of(list, share).Seconds() * 1000
	}
	b.ReportMetric(at(whole, .5), "ms/p50")
	b.ReportMetric(at(whole, .99), "ms/p99")
	b.ReportMetric(server.Resident(), "MB/after")
	time.Sleep(time.Minute)
	b.ReportMetric(server.Resident(), "MB/rested")
	b.ReportMetric(server.Peak(), "MB/peak")
	for path, list := range took {
		b.Logf("%s: %.0f ms median, %.0f at most, %d", path, at(list, .5), at(list, 1), len(list))
	}
}
