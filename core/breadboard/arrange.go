package breadboard

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"slatebell/core/wiring"
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
	a := &arranger{t: t, pins: map[string]Point{}}
	a.placed()
	a.below()
	a.host()
	a.routes()
	a.bounds()
	return a.out
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
	_, used := a.t.Net.NetOf(p.Pin(name))
	return Spot{name, at, used}
}

// placed draws what lies in holes.
func (a *arranger) placed() {
	for _, place := range a.t.Places {
		p, _ := a.t.Net.Part(place.Part)
		th := Thing{Part: p, Placed: true}
		low, high := Point{math.Inf(1), math.Inf(1)}, Point{math.Inf(-1), math.Inf(-1)}
		for _, pin := range p.Pins {
			at := a.t.at2(a.t.Legs[p.Pin(pin.Name)])
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

// below draws what lies beside the boards: modules, backpacks and devices under the
// holes that most of their wires go to, the supply at the left.
func (a *arranger) below() {
	t := a.t
	var list []Thing
	for i := range t.Net.Parts {
		p := &t.Net.Parts[i]
		if _, lies := t.Legs[p.Pin(p.Pins[0].Name)]; lies || p.Kind == wiring.Host {
			continue
		}
		w, h := bodyOf(t.Bench, p)
		inset := 1.5
		if p.Kind == wiring.Module || p.Kind == wiring.Backpack {
			inset = headerInset
		}
		if p.Kind == wiring.Supply {
			a.add(Thing{Part: p, X: -9, Y: -1, W: 6, H: 4, Pins: []Spot{a.spot(p, "+", Point{-3.4, 0}), a.spot(p, "-", Point{-3.4, 1})}})
			continue
		}
		list = append(list, Thing{Part: p, X: a.offset(p) - inset, Y: height + beyond - 0.8, W: w, H: h})
		if len(t.Boards) == 0 {
			list[len(list)-1].Y = above
		}
		th := &list[len(list)-1]
		for j, pin := range p.Pins {
			th.Pins = append(th.Pins, a.spot(p, pin.Name, Point{inset + float64(j), 0.8}))
		}
	}
	slices.SortStableFunc(list, func(a, b Thing) int { return cmp.Compare(a.X, b.X) })
	right := math.Inf(-1)
	for _, th := range list {
		th.X = max(th.X, right+1)
		right = th.X + th.W
		for j := range th.Pins {
			th.Pins[j].At.X += th.X
			th.Pins[j].At.Y += th.Y
		}
		a.add(th)
	}
}

// offset is where a loose part's first pin lies so that most of its wires go straight
// up: the median, so that one wire that is moved does not move the part.
func (a *arranger) offset(p *wiring.Part) float64 {
	var at, rails []float64
	for _, w := range a.t.Wires {
		for _, e := range [][2]End{{w.From, w.To}, {w.To, w.From}} {
			if !w.OK || e[0].Pin == "" || e[1].Pin != "" {
				continue
			}
			if id, pin, _ := strings.Cut(e[0].Pin, "/"); id == p.ID {
				x := a.t.at2(e[1].Hole).X - float64(indexOf(p, pin))
				if rails = append(rails, x); !e[1].Hole.Row.Rail() {
					at = append(at, x)
				}
			}
		}
	}
	if len(at) == 0 {
		at = rails
	}
	if len(at) == 0 {
		return 0
	}
	slices.Sort(at)
	return at[(len(at)-1)/2]
}

// lead is a pin of the host with where its net wants to go.
type lead struct {
	label  string
	x      float64 // of the pin, from the host's left
	far    bool    // it is on the edge away from the boards
	round  int     // far: how many leads lie between it and the host's end
	from   float64 // where it comes down to the tracks
	target float64
}

// stance is how the host lies, and how its leads leave it.
type stance struct {
	turned bool
	shift  float64 // of its left end
	leads  []lead  // in the order in which they come down
}

// stand chooses how the host lies: which edge is towards the boards, and which of
// the far leads go round its left end, so that the leads cross least.
func (a *arranger) stand(edges [2][]string, width float64) (best stance) {
	fewest := 1 << 30
	for _, turned := range []bool{false, true} {
		leads := a.leads(edges, width, turned)
		shift := middle(leads)
		far := 0
		for _, l := range leads {
			if l.far {
				far++
			}
		}
		for cut := range far + 1 {
			tried := around(leads, cut, width, shift)
			if n := 2*inversions(tried)*len(leads) + far; n < fewest {
				best, fewest = stance{turned, shift, tried}, n
			}
		}
	}
	return best
}

// leads lists the host's pins that a net asks for, from left to right.
func (a *arranger) leads(edges [2][]string, width float64, turned bool) []lead {
	var out []lead
	for side, labels := range edges {
		for i, label := range labels {
			n, used := a.t.Net.NetOf("host/" + label)
			if label == "" || !used {
				continue
			}
			l := lead{label: label, x: float64(i), far: side == 0}
			if turned {
				l.x, l.far = width-1-l.x, !l.far
			}
			l.target = a.target("host/"+label, n)
			out = append(out, l)
		}
	}
	slices.SortFunc(out, func(a, b lead) int { return cmp.Compare(a.x, b.x) })
	return out
}

// target is where a lead wants to go: the leftmost of its net's other pins; of a
// supply, the rail that it ends in, or the last board's right end.
func (a *arranger) target(pin string, n *wiring.Net) float64 {
	if supplyNet(n.Name) && len(a.t.Boards) > 0 {
		for _, w := range a.t.Wires {
			for _, e := range [][2]End{{w.From, w.To}, {w.To, w.From}} {
				if w.OK && e[0].Pin == pin && e[1].Pin == "" {
					return a.t.at2(e[1].Hole).X
				}
			}
		}
		last := &a.t.Boards[len(a.t.Boards)-1]
		return last.X + float64(last.Columns)
	}
	x := math.Inf(1)
	for _, pin := range n.Pins {
		if at, ok := a.pins[pin]; ok {
			x = min(x, at.X)
		}
	}
	if math.IsInf(x, 1) {
		return 0
	}
	return x
}

// middle is how far the host is shifted so that its near leads go straight down.
func middle(leads []lead) float64 {
	var off []float64
	for _, l := range leads {
		if !l.far {
			off = append(off, l.target-l.x)
		}
	}
	if len(off) == 0 {
		return 0
	}
	slices.Sort(off)
	return max(off[len(off)/2], -2)
}

// around lets the first far leads, counted from the left, go round the host's left
// end and the others round its right, and returns all in the order in which they
// come down.
func around(leads []lead, cut int, width, shift float64) []lead {
	out := slices.Clone(leads)
	far := 0
	for _, l := range leads {
		if l.far {
			far++
		}
	}
	k := 0
	for i := range out {
		l := &out[i]
		switch {
		case !l.far:
			l.from = l.x + shift
			continue
		case k < cut:
			l.round = k
			l.from = shift - 2 - track*float64(k)
		default:
			l.round = far - 1 - k
			l.from = shift + width + 1 + track*float64(l.round)
		}
		k++
	}
	slices.SortFunc(out, func(a, b lead) int { return cmp.Compare(a.from, b.from) })
	return out
}

// inversions counts the pairs of leads that have to cross.
func inversions(leads []lead) (n int) {
	for i := range leads {
		for j := range leads[:i] {
			if leads[j].target > leads[i].target {
				n++
			}
		}
	}
	return n
}

// tracks gives each lead its track, 1 nearest to the host, so that those that need
// not cross do not.
func tracks(leads []lead) []int {
	level := make([]int, len(leads))
	for i := range level {
		level[i] = 1
	}
	over := func(i, j int) bool { // i has to lie above j
		a, b := &leads[i], &leads[j]
		if max(a.from, a.target) < min(b.from, b.target) || max(b.from, b.target) < min(a.from, a.target) {
			return false
		}
		if (a.from < b.from) != (a.target < b.target) {
			return a.from < b.from
		}
		if a.from > b.from { // both as they stand: the one that goes past the other's source lies below
			return b.target >= a.from || a.target > b.from
		}
		return b.target <= a.from
	}
	for range leads {
		for i := range leads {
			for j := range leads {
				if i != j && over(i, j) && level[j] <= level[i] && level[i] < len(leads) {
					level[j] = level[i] + 1
				}
			}
		}
	}
	return level
}

// host draws the host, if it is not plugged in, and its leads as far as they are
// above the boards.
func (a *arranger) host() {
	p, _ := a.t.Net.Part("host")
	a.down = map[string]Route{}
	if _, lies := a.t.Legs[p.Pin(p.Pins[0].Name)]; lies {
		return
	}
	board := a.t.Bench.Host.Board()
	width := float64(max(len(board.Edges[0]), len(board.Edges[1])))
	across := float64(board.Apart) / 1e6 / Pitch
	s := a.stand(board.Edges, width)
	levels := tracks(s.leads)
	deepest := 0
	for _, l := range levels {
		deepest = max(deepest, l)
	}
	near := -above - float64(deepest+1)*track
	th := Thing{Part: p, X: s.shift - 1.2, Y: near - across - 1.2, W: width + 1.4, H: across + 2.4, Turned: s.turned}
	for side, labels := range board.Edges {
		for i, label := range labels {
			if label == "" || label == "NC" {
				continue
			}
			x, far := float64(i), side == 0
			if s.turned {
				x, far = width-1-x, !far
			}
			at := Point{x + s.shift, near}
			if far {
				at.Y -= across
			}
			th.Pins = append(th.Pins, a.spot(p, label, at))
		}
	}
	a.add(th)
	for i, l := range s.leads {
		y := near + 1 + float64(levels[i])*track
		r := Route{a.pins["host/"+l.label]}
		if l.far {
			over := th.Y - 0.8 - track*float64(l.round)
			r = append(r, Point{r[0].X, over}, Point{l.from, over})
		}
		a.down["host/"+l.label] = append(r, Point{l.from, y})
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
		return a.t.at2(e.Hole)
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
		grow(b.X-edge, b.Y-edge)
		grow(b.X+float64(b.Columns-1)+edge, b.Y+height+edge)
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
