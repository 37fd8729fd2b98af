package breadboard

import (
	"math"
	"slices"

	"slatebell/core/table/wiring"
)

// Thing is a part as it lies on the table.
type Thing struct {
	Part   *wiring.Part
	X, Y   float64 // of its top left corner
	W, H   float64
	Placed bool // its legs stand in holes
	Turned bool // host: upside down
	Pins   []Spot
}

// Spot is where a pin lies.
type Spot struct {
	Name string // of the pin alone
	At   Point
	Used bool // a net asks for it
}

// Route is how a wire runs: from its first end to its second.
type Route []Point

// length is how long a route is, in pitches.
func (r Route) length() (l float64) {
	for i := 1; i < len(r); i++ {
		l += r[i-1].distance(r[i])
	}
	return l
}

// Arrangement is the table as it is drawn.
type Arrangement struct {
	Things   []Thing
	Routes   []Route // by wire
	Min, Max Point
}

// Distances of the drawing, in pitches.
const (
	above  = 2.5 // from the topmost holes to the lowest lead
	apart  = 4.0 // between boards
	track  = 0.7 // between leads
	beyond = 5.0 // from the lowest holes to what lies below the boards
)

// Arrange works out where everything lies: the host above the boards, turned so that
// its leads cross least, what is not plugged in below them, and the supply at the
// left. Leads of the host run in tracks, one above the other where they have to, and
// come down over the column that they end in.
func (t *Table) Arrange() Arrangement {
	if t.drawn == nil {
		t.drawn = t.arrange()
	}
	return *t.drawn
}

func (t *Table) arrange() *Arrangement {
	a := &arranger{t: t, pins: map[string]Point{}}
	a.placed()
	a.beside()
	a.host()
	a.routes()
	a.bounds()
	return &a.out
}

type arranger struct {
	t    *Table
	out  Arrangement
	pins map[string]Point
	down map[string]Route // of the host's leads: from the pin to its track
}

// add notes a thing and where its pins lie.
func (a *arranger) add(th Thing) {
	for _, s := range th.Pins {
		a.pins[th.Part.Pin(s.Name)] = s.At
	}
	a.out.Things = append(a.out.Things, th)
}

func (a *arranger) spot(p *wiring.Part, name string, at Point) Spot {
	n, used := a.t.Net.NetOf(p.Pin(name))
	if used && p.Kind == wiring.Host {
		used = a.t.leads(name, n)
	}
	return Spot{name, at, used}
}

// placed draws what lies in holes.
func (a *arranger) placed() {
	for _, place := range a.t.Places {
		p, _ := a.t.Net.Part(place.Part)
		th := Thing{Part: p, Placed: true}
		low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
		for _, pin := range p.Pins {
			at := a.t.point(a.t.Legs[p.Pin(pin.Name)])
			th.Pins = append(th.Pins, a.spot(p, pin.Name, at))
			low, high = Point{min(low.X, at.X), min(low.Y, at.Y)}, Point{max(high.X, at.X), max(high.Y, at.Y)}
		}
		const rim = 0.6
		th.X, th.Y, th.W, th.H = low.X-rim, low.Y-rim, high.X-low.X+2*rim, high.Y-low.Y+2*rim
		if p.Kind == wiring.Module {
			w, h := bodyOf(a.t.Bench, p)
			th.X, th.Y, th.W, th.H = th.Pins[0].At.X-headerInset, th.Pins[0].At.Y-0.8, w, h
			if place.Turn == 180 {
				th.X, th.Y = th.Pins[0].At.X+headerInset-w, th.Pins[0].At.Y+0.8-h
			}
		}
		a.add(th)
	}
}

// routes draws the wires: straight from hole to hole, and the host's leads along
// their tracks.
func (a *arranger) routes() {
	for _, w := range a.t.Wires {
		a.out.Routes = append(a.out.Routes, a.route(w))
	}
}

func (a *arranger) route(w Wire) Route {
	if !w.OK {
		return nil
	}
	from, to := a.place(w.From), a.place(w.To)
	if down, ok := a.down[w.From.Pin]; ok {
		return joinLead(down, to)
	}
	if down, ok := a.down[w.To.Pin]; ok {
		r := joinLead(down, from)
		slices.Reverse(r)
		return r
	}
	return Route{from, to}
}

// joinLead leads from the host's pin along its track to the column of its end.
func joinLead(down Route, to Point) Route {
	last := down[len(down)-1]
	return append(slices.Clone(down), Point{to.X, last.Y}, to)
}

// place is where an end of a wire lies.
func (a *arranger) place(e End) Point {
	if e.Pin == "" {
		return a.t.point(e.Hole)
	}
	if at, ok := a.pins[e.Pin]; ok {
		return at
	}
	return Point{}
}

// bounds works out what the drawing takes.
func (a *arranger) bounds() {
	low, high := Point{-edge, -edge}, Point{edge, edge}
	grow := func(x, y float64) {
		low, high = Point{min(low.X, x), min(low.Y, y)}, Point{max(high.X, x), max(high.Y, y)}
	}
	for _, b := range a.t.Boards {
		left, top, width, tall := b.Outline()
		grow(left, top)
		grow(left+width, top+tall)
	}
	for _, th := range a.out.Things {
		grow(th.X, th.Y)
		grow(th.X+th.W, th.Y+th.H)
	}
	for _, r := range a.out.Routes {
		for _, p := range r {
			grow(p.X, p.Y)
		}
	}
	a.out.Min, a.out.Max = Point{low.X - 1, low.Y - 1}, Point{high.X + 1, high.Y + 1}
}

// jumpers are the lengths of jumper sets, in mm (common practice); spare is what a
// wire takes beyond its route: stripped ends on a board, a little slack for a lead.
var jumpers = []float64{100, 150, 200}

// Length returns how long a wire has to be, in mm: cut to length with 6 mm stripped
// at either end where it lies on the boards, the next jumper of a set for a lead.
func Length(w Wire, r Route) int {
	mm := r.length() * Pitch
	if w.From.Pin == "" && w.To.Pin == "" {
		return int(math.Ceil(mm + 12))
	}
	mm += 20
	for _, l := range jumpers {
		if mm <= l {
			return int(l)
		}
	}
	return int(math.Ceil(mm/50) * 50)
}

// Under returns, for each wire, the places at which a wire that was laid later crosses over
// it.
func (a *Arrangement) Under() [][]Point {
	out := make([][]Point, len(a.Routes))
	for i, r := range a.Routes {
		for _, o := range a.Routes[i+1:] {
			for k := 1; k < len(r); k++ {
				for m := 1; m < len(o); m++ {
					if at, ok := (segment{r[k-1], r[k]}).crosses(segment{o[m-1], o[m]}); ok {
						out[i] = append(out[i], at)
					}
				}
			}
		}
	}
	return out
}

// Crossings counts the places in which the wires of an arrangement cross.
func (a *Arrangement) Crossings() (n int) {
	for i, r := range a.Routes {
		for _, o := range a.Routes[:i] {
			for k := 1; k < len(r); k++ {
				for m := 1; m < len(o); m++ {
					if (segment{r[k-1], r[k]}).meets(segment{o[m-1], o[m]}) {
						n++
					}
				}
			}
		}
	}
	return n
}
