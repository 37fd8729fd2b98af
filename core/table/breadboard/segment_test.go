package breadboard

import (
	"math"
	"testing"
)

// TestSegments holds what is said of two pieces of wire at the borders: that touch at their ends, lie in
// one line, or miss each other by little; either way round, and mirrored.
func TestSegments(t *testing.T) {
	for _, c := range []struct {
		what           string
		a, b           segment
		meets, crosses bool
	}{
		{"a cross", segment{Point{0, 0}, Point{4, 4}}, segment{Point{0, 4}, Point{4, 0}}, true, true},
		{"a T", segment{Point{0, 0}, Point{4, 0}}, segment{Point{2, 0}, Point{2, 3}}, true, false},
		{"a corner", segment{Point{0, 0}, Point{4, 0}}, segment{Point{4, 0}, Point{4, 3}}, true, false},
		{"one behind the other", segment{Point{0, 0}, Point{2, 0}}, segment{Point{2, 0}, Point{4, 0}}, true, false},
		{"in one line, apart", segment{Point{0, 0}, Point{2, 0}}, segment{Point{3, 0}, Point{4, 0}}, false, false},
		{"on each other", segment{Point{0, 0}, Point{4, 0}}, segment{Point{1, 0}, Point{2, 0}}, true, false},
		{"beside each other", segment{Point{0, 0}, Point{4, 0}}, segment{Point{0, 1}, Point{4, 1}}, false, false},
		{"short of each other", segment{Point{0, 0}, Point{4, 0}}, segment{Point{2, 0.1}, Point{2, 3}}, false, false},
		{"in each other's corner", segment{Point{0, 0}, Point{4, 4}}, segment{Point{3, 0}, Point{4, 1}}, false, false},
	} {
		for _, a := range []segment{c.a, {c.a.b, c.a.a}, {Point{-c.a.a.X, c.a.a.Y}, Point{-c.a.b.X, c.a.b.Y}}, {Point{c.a.a.X, -c.a.a.Y}, Point{c.a.b.X, -c.a.b.Y}}} {
			b := c.b
			if a.a.X < 0 || a.b.X < 0 {
				b = segment{Point{-b.a.X, b.a.Y}, Point{-b.b.X, b.b.Y}}
			}
			if a.a.Y < 0 || a.b.Y < 0 {
				b = segment{Point{b.a.X, -b.a.Y}, Point{b.b.X, -b.b.Y}}
			}
			for _, two := range [][2]segment{{a, b}, {b, a}, {a, {b.b, b.a}}} {
				if got := two[0].meets(two[1]); got != c.meets {
					t.Errorf("%s, %v: meets %v", c.what, two, got)
				}
				at, got := two[0].crosses(two[1])
				if got != c.crosses || got && math.Hypot(math.Abs(at.X)-2, math.Abs(at.Y)-2) > 1e-9 {
					t.Errorf("%s, %v: crosses %v at %v", c.what, two, got, at)
				}
			}
		}
	}
	wire := segment{Point{0, 0}, Point{4, 0}}
	for p, want := range map[Point]bool{{2, 0}: true, {2, 0.34}: true, {2, 0.35}: false, {2, -0.34}: true, {0, 0}: false, {4, 0}: false, {0, 0.3}: true, {4, 0.3}: true, {-0.01, 0}: false, {4.01, 0}: false} {
		if got := wire.passes(p); got != want {
			t.Errorf("it passes %v: %v", p, got)
		}
	}
	if (segment{Point{1, 1}, Point{1, 1}}).passes(Point{1, 1.1}) {
		t.Error("a wire without a length passes a place")
	}
	for by, want := range map[float64]float64{0: 1, 0.3: 1, 0.5: 0} {
		if got := (segment{Point{0, by}, Point{4, by}}).beside(wire); got != want {
			t.Errorf("%g beside: %g, want %g", by, got, want)
		}
	}
}
