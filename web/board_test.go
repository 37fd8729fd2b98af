package web

import (
	"math"
	"math/rand/v2"
	"testing"
)

type point struct {
	X float64 `json:"x"`
	Y float64 `json:"y"`
}

// apart is how far a point is from the nearest place, or from the nearest of a way's lines.
func apart(p point, places []point, line bool) float64 {
	near := math.Inf(1)
	for i, a := range places {
		if !line {
			near = min(near, math.Hypot(p.X-a.X, p.Y-a.Y))
			continue
		}
		if i == 0 {
			continue
		}
		b := places[i-1]
		l := math.Hypot(b.X-a.X, b.Y-a.Y)
		t := min(max(((p.X-a.X)*(b.X-a.X)+(p.Y-a.Y)*(b.Y-a.Y))/(l*l), 0), 1)
		near = min(near, math.Hypot(p.X-a.X-t*(b.X-a.X), p.Y-a.Y-t*(b.Y-a.Y)))
	}
	return near
}

// TestCut cuts ways by chance: whatever is drawn keeps away from each place, and all that is away from them is drawn.
func TestCut(t *testing.T) {
	type way struct {
		Way    []point `json:"way"`
		Places []point `json:"places"`
		Reach  float64 `json:"reach"`
	}
	r := rand.New(rand.NewPCG(5, 18))
	var ways []way
	for range 300 {
		w := way{Way: []point{{}}, Places: []point{}, Reach: 0.7}
		for range 1 + r.IntN(4) {
			w.Way = append(w.Way, point{w.Way[len(w.Way)-1].X + 1 + 5*r.Float64(), 8 * r.Float64()})
		}
		for range r.IntN(6) { // on it, in its corners, and beside it
			a, b, f := w.Way[0], w.Way[1], r.Float64()
			if at := r.IntN(len(w.Way)); at > 0 {
				a, b = w.Way[at-1], w.Way[at]
			}
			w.Places = append(w.Places, point{a.X + f*(b.X-a.X), a.Y + f*(b.Y-a.Y)}, w.Way[r.IntN(len(w.Way))], point{20 * r.Float64(), 8 * r.Float64()})
		}
		ways = append(ways, w)
	}
	var cut [][][]point
	startPages(t).ask(msg{"do": "cut", "ways": ways}, &cut)
	each := func(line []point, do func(p point)) {
		for i := 1; i < len(line); i++ {
			a, b := line[i-1], line[i]
			for f := 0.0; f <= 1; f += 0.05 {
				do(point{a.X + f*(b.X-a.X), a.Y + f*(b.Y-a.Y)})
			}
		}
	}
	const rounded = 1e-6
	for i, w := range ways {
		for _, piece := range cut[i] {
			each(piece, func(p point) {
				if apart(p, w.Places, false) < w.Reach-rounded || apart(p, w.Way, true) > rounded {
					t.Errorf("of %v without %v %v is drawn", w.Way, w.Places, p)
				}
			})
		}
		each(w.Way, func(p point) {
			if apart(p, w.Places, false) < w.Reach+rounded {
				return
			}
			for _, piece := range cut[i] {
				if apart(p, piece, true) < rounded {
					return
				}
			}
			t.Errorf("of %v without %v %v is not drawn", w.Way, w.Places, p)
		})
	}
}
