package web

import (
	"math/rand/v2"
	"reflect"
	"testing"
)

// TestPatched applies patches that a general library makes between documents changed at random: each document comes out as it is, the one before stays as
// it was, and only what holds something changed is another object.
func TestPatched(t *testing.T) {
	r := rand.New(rand.NewPCG(6, 902))
	var pairs [][2]any
	for range 300 {
		before := table()
		for range r.IntN(6) {
			s, text := randomSpot(r, before, "before")
			before = s.put(before, text)
		}
		after := before
		for range r.IntN(4) {
			s, text := randomSpot(r, after, "after")
			after = s.put(after, text)
		}
		pairs = append(pairs, [2]any{before, after})
	}
	var got []struct {
		Is, Was        any
		Other, Changes int
	}
	startPages(t).ask(msg{"do": "patched", "pairs": pairs}, &got)
	const deep = 5 // objects and lists stand in one another, a row's with itself
	for i, g := range got {
		if !reflect.DeepEqual(g.Is, pairs[i][1]) || !reflect.DeepEqual(g.Was, pairs[i][0]) {
			t.Errorf("%v became %v, want %v, and is itself %v", pairs[i][0], g.Is, pairs[i][1], g.Was)
		}
		if g.Other > (deep+1)*g.Changes {
			t.Errorf("%d changes of %v made %d other objects", g.Changes, pairs[i][0], g.Other)
		}
	}
}
