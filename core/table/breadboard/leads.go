package breadboard

import (
	"cmp"
	"math"
	"slices"

	"slatebell/core/table/wiring"
)

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
			if label == "" || !used || !a.t.leads(label, n) {
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

// leads reports whether a lead leaves a pin of the host, rather than a socket that is one
// with it: the net names it, or a wire lies there.
func (t *Table) leads(label string, n *wiring.Net) bool {
	full := "host/" + label
	return slices.Contains(n.Pins, full) || slices.ContainsFunc(t.Wires, func(w Wire) bool { return w.From.Pin == full || w.To.Pin == full })
}

// target is where a lead wants to go: the leftmost of its net's other pins; of a
// supply, the rail that it ends in, or the last board's right end.
func (a *arranger) target(pin string, n *wiring.Net) float64 {
	if supplyNet(n.Name) && len(a.t.Boards) > 0 {
		for _, w := range a.t.Wires {
			for _, e := range w.bothWays() {
				if w.OK && e[0].Pin == pin && e[1].Pin == "" {
					return a.t.point(e[1].Hole).X
				}
			}
		}
		last := a.t.last()
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
	apart := across(&board)
	s := a.stand(board.Edges, width)
	levels := tracks(s.leads)
	deepest := 0
	for _, l := range levels {
		deepest = max(deepest, l)
	}
	near := a.t.top() - above - float64(deepest+1)*track
	th := Thing{Part: p, X: s.shift - 1.2, Y: near - apart - 1.2, W: width + 1.4, H: apart + 2.4, Turned: s.turned}
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
				at.Y -= apart
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
