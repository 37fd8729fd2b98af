package breadboard

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"slatebell/core/table/wiring"
)

// beside draws what lies beside the boards: the supply at the left, modules, backpacks and
// devices below or at the right, each where the leads to it are shortest.
func (a *arranger) beside() {
	t := a.t
	var list []loose
	for i := range t.Net.Parts {
		p := &t.Net.Parts[i]
		if _, lies := t.Legs[p.Pin(p.Pins[0].Name)]; lies || p.Kind == wiring.Host {
			continue
		}
		if p.Kind == wiring.Supply {
			a.add(Thing{Part: p, X: -9, Y: -1, W: 6, H: 4, Pins: []Spot{a.spot(p, "+", Point{-3.4, 0}), a.spot(p, "-", Point{-3.4, 1})}})
			continue
		}
		list = append(list, a.loose(p))
	}
	slices.SortStableFunc(list, func(a, b loose) int { return cmp.Compare(a.want.X, b.want.X) })
	for _, l := range list {
		at := a.nearest(&l)
		l.X, l.Y = at.X, at.Y
		for j, pin := range l.Part.Pins {
			l.Pins = append(l.Pins, a.spot(l.Part, pin.Name, Point{at.X + l.inset + float64(j), at.Y + pinDown}))
		}
		a.add(l.Thing)
	}
}

// loose is a part beside the boards with where its first pin wants to be.
type loose struct {
	Thing
	inset float64 // of its first pin, from its left edge
	want  Point
}

// pinDown is how far the pins of a loose part lie below its upper edge, and aisle what stays free
// between two of them for leads.
const pinDown, aisle = 0.8, 2.0

// under is what it costs that a part's leads run below another one, in pitches.
const under = 15

func (a *arranger) loose(p *wiring.Part) loose {
	w, h := bodyOf(a.t.Bench, p)
	l := loose{Thing: Thing{Part: p, W: w, H: h}, inset: 1.5, want: a.wanted(p)}
	if p.Kind == wiring.Module || p.Kind == wiring.Backpack {
		l.inset = headerInset
	}
	return l
}

// wanted is where a loose part's first pin lies so that most of its wires go straight up: the
// median, so that one wire that is moved does not move the part.
func (a *arranger) wanted(p *wiring.Part) Point {
	var at, rails []Point
	for _, w := range a.t.Wires {
		for _, e := range w.bothWays() {
			if !w.OK || e[0].Pin == "" || e[1].Pin != "" {
				continue
			}
			if id, pin, _ := strings.Cut(e[0].Pin, "/"); id == p.ID {
				hole := a.t.point(e[1].Hole)
				hole.X -= float64(indexOf(p, pin))
				if rails = append(rails, hole); !e[1].Hole.Row.Rail() {
					at = append(at, hole)
				}
			}
		}
	}
	if len(at) == 0 {
		at = rails
	}
	if len(at) == 0 {
		return Point{0, height}
	}
	slices.SortFunc(at, func(a, b Point) int { return cmp.Or(cmp.Compare(a.X, b.X), cmp.Compare(a.Y, b.Y)) })
	return at[(len(at)-1)/2]
}

// nearest is the free place for a loose part's upper left corner that brings its first pin nearest
// to where it wants to be: in rows below the boards and what hangs from them, or at the right.
func (a *arranger) nearest(l *loose) Point {
	base := height + beyond - pinDown
	if len(a.t.Boards) == 0 {
		base = above
	}
	xs, ys := []float64{l.want.X - l.inset}, []float64{base}
	taken := a.taken()
	for _, r := range taken {
		xs = append(xs, r.X+r.W+1, r.X-l.W-1)
		if y := r.Y + r.H + aisle; y > base {
			ys = append(ys, y)
		}
	}
	right := math.Inf(1)
	if last := a.t.last(); last != nil {
		x, y, w, _ := last.Outline()
		right = x + w + aisle
		xs, ys = append(xs, right), append(ys, y)
	}
	best, least := Point{xs[0], base}, math.Inf(1)
	for _, y := range ys {
		for _, x := range xs {
			if y < base && x < right {
				continue
			}
			pin := Point{x + l.inset, y + pinDown}
			cost := pin.distance(l.want)
			if cost >= least || slices.ContainsFunc(taken, func(r Thing) bool {
				return x < r.X+r.W+0.9 && r.X < x+l.W+0.9 && y < r.Y+r.H+aisle-0.1 && r.Y < y+l.H+aisle-0.1
			}) {
				continue
			}
			for i := 0; i < len(taken) && cost < least; i++ {
				if (segment{pin, l.want}).through(&taken[i]) {
					cost += under
				}
			}
			if cost < least {
				best, least = Point{x, y}, cost
			}
		}
	}
	return best
}

// taken lists what no loose part may lie on, but for the boards, which lie above all rows.
func (a *arranger) taken() []Thing {
	return slices.DeleteFunc(slices.Clone(a.out.Things), func(th Thing) bool { return th.Y+th.H < 0 })
}
