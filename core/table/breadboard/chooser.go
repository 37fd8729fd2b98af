package breadboard

import (
	"cmp"
	"math"
	"slices"

	"slatebell/core/table/wiring"
)

// bridge joins a strip to one of those that are joined already, by the wire that
// crosses least and is shortest.
func (p *planner) bridge(n *wiring.Net, from []strip, to strip) {
	if p.t.root(p.t.stripOf(to.hole)) == p.t.root(p.t.stripOf(from[0].hole)) {
		return
	}
	var c chooser
	for _, s := range from {
		p.try(&c, p.open(s.hole), p.open(to.hole))
	}
	if c.found {
		p.add(End{Hole: c.from}, End{Hole: c.to}, n)
	}
}

// open lists the free holes of a strip; of a rail, those that no module covers.
func (p *planner) open(h Hole) []Hole {
	var out []Hole
	for _, o := range p.t.Boards[h.Board].inStrip(h) {
		if _, taken := p.t.in[o]; !taken && !p.covered[o] {
			out = append(out, o)
		}
	}
	return out
}

// chooser keeps the best wire of those that were tried.
type chooser struct {
	from, to Hole
	cost     float64
	found    bool
}

// crossing is what a crossing costs beside a wire's length, in pitches, and near
// what it costs to pass over a hole that is in use.
const crossing, near = 200, 3

// pair is two holes with the length of the wire between them.
type pair struct {
	from, to Hole
	line     segment
	cost     float64
}

// try tries the wires between two sets of holes, the shortest first, as long as one
// can be better than the best.
func (p *planner) try(c *chooser, from, to []Hole) {
	pairs := p.pairs[:0]
	for _, a := range from {
		for _, b := range to {
			s := segment{p.t.point(a), p.t.point(b)}
			cost := s.a.distance(s.b)
			if s.a.X != s.b.X && s.a.Y != s.b.Y {
				cost += 0.5 // straight along the holes is easier to read
			}
			if a.Row == E && b.Row == E || a.Row == J && b.Row == J {
				cost++ // leave the way up to the rails free
			}
			if !c.found || cost < c.cost {
				pairs = append(pairs, pair{a, b, s, cost})
			}
		}
	}
	p.pairs = pairs
	slices.SortFunc(pairs, func(a, b pair) int { return cmp.Compare(a.cost, b.cost) })
	for i := range pairs {
		w := &pairs[i]
		if c.found && w.cost >= c.cost {
			return
		}
		most := math.Inf(1)
		if c.found {
			most = c.cost - w.cost
		}
		if cost := w.cost + p.burden(w.line, most); !c.found || cost < c.cost {
			*c = chooser{w.from, w.to, cost, true}
		}
	}
}

// burden is what a wire costs beside its length; from a limit on it is not worked
// out to the end.
func (p *planner) burden(s segment, most float64) (cost float64) {
	low, high := Point{min(s.a.X, s.b.X) - 1, min(s.a.Y, s.b.Y) - 1}, Point{max(s.a.X, s.b.X) + 1, max(s.a.Y, s.b.Y) + 1}
	for _, other := range p.lines {
		if max(other.a.X, other.b.X) < low.X || min(other.a.X, other.b.X) > high.X || max(other.a.Y, other.b.Y) < low.Y || min(other.a.Y, other.b.Y) > high.Y {
			continue
		}
		if cost >= most {
			return cost
		}
		if s.meets(other) {
			cost += crossing
		}
		for _, end := range []Point{other.a, other.b} {
			if s.passes(end) {
				cost += near
			}
		}
		cost += near * s.beside(other)
	}
	return cost
}

// improve lays wires again that cross others, now that all lie there, as long as
// that makes it better.
func (p *planner) improve() {
	for range 4 {
		better := false
		for i := range p.doc.Wires {
			w := &p.t.Wires[i]
			if w.From.Pin != "" || w.To.Pin != "" {
				continue
			}
			was := p.lines[i]
			p.lines[i] = segment{Point{-99, -99}, Point{-99, -99}}
			cost := was.a.distance(was.b) + p.burden(was, math.Inf(1))
			if cost < crossing {
				p.lines[i] = was
				continue
			}
			delete(p.t.in, w.From.Hole)
			delete(p.t.in, w.To.Hole)
			var c chooser
			p.try(&c, p.open(w.From.Hole), p.open(w.To.Hole))
			if c.found && c.cost < cost-1e-6 {
				w.From.Hole, w.To.Hole = c.from, c.to
				p.doc.Wires[i].From, p.doc.Wires[i].To = p.t.Name(c.from), p.t.Name(c.to)
				better = true
			}
			p.t.in[w.From.Hole], p.t.in[w.To.Hole] = "wire", "wire"
			p.lines[i] = p.segmentOf(w.From, w.To)
		}
		if !better {
			return
		}
	}
}
