package store

import (
	"fmt"
	"testing"

	"slatebell/core/bench"
)

// crowdBench is a bench of eight modules with five screens each, as a room full of people has it open.
func crowdBench() bench.Bench {
	b := bench.New("Crowd")
	m := b.Modules[0]
	b.Modules = nil
	for i := range 8 {
		m.ID, m.Screens = fmt.Sprint("module-", i+1), nil
		m.Link.Outputs.Address = 0x20 + i
		for s := range 5 {
			m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprint("screen-", s+1), Rows: []string{"Tide"}})
		}
		b.Modules = append(b.Modules, m)
	}
	return b
}

// BenchmarkPatch stores a keystroke that was made against the state of eight changes ago, while others hear of it.
func BenchmarkPatch(b *testing.B) {
	s, err := Open(b.TempDir())
	if err != nil {
		b.Fatal(err)
	}
	defer s.Close()
	r, err := s.Create(crowdBench())
	if err != nil {
		b.Fatal(err)
	}
	s.Listen(func(Notice) {})
	revision := r.Revision
	n := 0
	for b.Loop() {
		patch := fmt.Sprintf(`[{"op": "replace", "path": "/modules/%d/screens/%d/rows/0", "value": "Tide %d"}]`, n%8, n/8%5, n)
		p, err := s.Patch(r.ID, max(revision-8, 1), []byte(patch), Writer{})
		if err != nil {
			b.Fatal(err)
		}
		revision = p.Revision
		n++
	}
}
