package breadboard

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/part/host"
	"slatebell/core/table/wiring"
)

// planner makes one plan.
type planner struct {
	b        *bench.Bench
	net      *wiring.Netlist
	board    host.Board
	doc      bench.Wiring
	t        *Table
	landings map[string]Hole // a hole of the strip that a loose pin is brought to
	vias     map[string]Hole // a hole of the spare strip that a net takes
	covered  map[Hole]bool   // rail holes under a module's body
	lines    []segment       // of what is laid already
	pairs    []pair          // kept between tries, so that little is allocated
}

// allocate gives every bay its columns; false where they do not fit.
func (p *planner) allocate(boards []bench.Breadboard, bays []bay) bool {
	p.doc.Boards = boards
	p.landings, p.vias, p.covered = map[string]Hole{}, map[string]Hole{}, map[Hole]bool{}
	board, next := 0, firstColumn
	clear := 0.0 // column from which bodies may lie
	row := flat(boards)
	for _, d := range bays {
		start := max(next, int(math.Ceil(clear+d.left)))
		for board < len(row) && start+d.cols-1 > row[board].Columns {
			board++
			if board < len(row) {
				clear -= float64(row[board-1].Columns) + apart
				start = max(firstColumn, int(math.Ceil(clear+d.left)))
			}
		}
		if board == len(row) {
			return false
		}
		for _, s := range d.spots {
			p.doc.Placements = append(p.doc.Placements, bench.Placement{Part: s.part, Board: row[board].ID, Hole: fmt.Sprintf("%s%d", s.row, start+s.col), Turn: s.turn})
		}
		for pin, s := range d.landings {
			p.landings[pin] = Hole{board, s.row, start + s.col}
		}
		for net, s := range d.vias {
			p.vias[net] = Hole{board, s.row, start + s.col}
		}
		next, clear = start+d.cols+1, float64(start)+d.right+1
	}
	other := *p.b
	other.Wiring = bench.Wiring{Boards: boards, Placements: p.doc.Placements}
	p.t = lay(&other, *p.net)
	p.cover()
	return len(p.t.trouble) == 0
}

// cover notes the rail holes that lie under the bodies of modules.
func (p *planner) cover() {
	a := &arranger{t: p.t, pins: map[string]Point{}}
	a.placed()
	for _, th := range a.out.Things {
		if th.Part.Kind != wiring.Host {
			continue
		}
		for i := range p.t.Boards { // between its two rows of pins
			for _, row := range Rows() {
				for n := 1; n <= p.t.Boards[i].Columns; n++ {
					h := Hole{i, row, n}
					if !p.t.Boards[i].Has(h) {
						continue
					}
					if at := p.t.point(h); at.X > th.X && at.X < th.X+th.W && at.Y > th.Y+1 && at.Y < th.Y+th.H-1 {
						p.covered[h] = true
					}
				}
			}
		}
	}
	for i := range p.t.Boards {
		for _, row := range []Row{BottomMinus, BottomPlus} {
			for n := 1; n <= railHoles(p.t.Boards[i].Columns); n++ {
				h := Hole{i, row, n}
				for _, th := range a.out.Things {
					x := p.t.point(h).X
					if th.Part.Kind == wiring.Module && x > th.X-0.5 && x < th.X+th.W+0.5 {
						p.covered[h] = true
					}
				}
			}
		}
	}
}

// firstColumn is where the first part of a board may lie, so that rails have holes
// above it.
const firstColumn = 3

// add lays a wire.
func (p *planner) add(from, to End, net *wiring.Net) {
	for _, e := range []End{from, to} {
		if e.Pin == "" {
			p.t.in[e.Hole] = "wire"
		}
	}
	w := bench.Wire{From: p.t.EndName(from), To: p.t.EndName(to), Colour: net.Colour}
	wire := Wire{Index: len(p.doc.Wires), From: from, To: to, OK: true}
	p.doc.Wires = append(p.doc.Wires, w)
	p.t.Wires = append(p.t.Wires, wire)
	p.t.merge(p.t.endIndex(from), p.t.endIndex(to))
	p.lines = append(p.lines, p.segmentOf(from, to))
}

// segmentOf is a wire as far as it lies over the boards: straight, and from the host
// down its column.
func (p *planner) segmentOf(from, to End) segment {
	place := func(e, other End) Point {
		if e.Pin == "" {
			return p.t.point(e.Hole)
		}
		if other.Pin != "" {
			return Point{}
		}
		at := p.t.point(other.Hole)
		if strings.HasPrefix(e.Pin, "host/") {
			return Point{at.X, p.t.top() - 2}
		}
		return Point{at.X, height + 2}
	}
	return segment{place(from, to), place(to, from)}
}

func (t *Table) point(h Hole) Point { return t.Boards[h.Board].At(h) }

// strip is one of the strips in which pins of a net lie.
type strip struct {
	hole Hole // one of its holes
}

// stripsOf lists the strips of a net, from left to right: those of its placed pins,
// and those that its loose pins are brought to.
func (p *planner) stripsOf(n *wiring.Net) []strip {
	var out []strip
	seen := map[int]bool{}
	for _, pin := range n.Pins {
		h, ok := p.t.Legs[pin]
		if !ok {
			h, ok = p.landings[pin]
		}
		if ok && !seen[p.t.stripOf(h)] {
			seen[p.t.stripOf(h)] = true
			out = append(out, strip{h})
		}
	}
	if h, ok := p.vias[n.Name]; ok {
		out = append(out, strip{hole: h})
	}
	slices.SortStableFunc(out, func(a, b strip) int { return cmp.Compare(p.t.point(a.hole).X, p.t.point(b.hole).X) })
	return out
}

// supplies counts the supplies beside ground.
func supplies(net *wiring.Netlist) (n int) {
	for _, one := range net.Nets {
		if supplyNet(one.Name) && one.Name != "GND" {
			n++
		}
	}
	return n
}

// supplyNet reports whether a net lies on rails.
func supplyNet(name string) bool { return name == "GND" || name == "5V" || name == "3V3" }

// wire lays all wires: the host's leads first, whose columns are given, then what
// goes from strip to strip, then the supply.
func (p *planner) wire() {
	nets := p.net.Nets
	for i := range nets {
		if n := &nets[i]; !supplyNet(n.Name) {
			p.leads(n)
		}
	}
	for i := range nets {
		if n := &nets[i]; !supplyNet(n.Name) {
			all := p.stripsOf(n)
			for j := 1; j < len(all); j++ {
				p.bridge(n, all[:j], all[j])
			}
		}
	}
	p.supplies()
	p.improve()
}

// leads brings a net's loose pins to strips: the host's pin to the first from above,
// the others from below, each to its own.
func (p *planner) leads(n *wiring.Net) {
	if loose := looseOf(p.net, n); paired(n, loose) {
		p.add(End{Pin: loose[0]}, End{Pin: loose[1]}, n)
		return
	}
	all := p.stripsOf(n)
	for _, pin := range n.Pins {
		if _, lies := p.t.Legs[pin]; lies {
			continue
		}
		if p.land(pin, n) {
			continue
		}
		if len(all) == 0 {
			continue
		}
		if hole, ok := p.t.free(all[0].hole, Point{p.t.point(all[0].hole).X, -1}); ok {
			p.add(End{Pin: pin}, End{Hole: hole}, n)
		}
	}
}

// land brings a loose pin to the strip that is its own; it reports whether it has one.
func (p *planner) land(pin string, n *wiring.Net) bool {
	h, own := p.landings[pin]
	if !own {
		return false
	}
	if hole, ok := p.t.free(h, Point{p.t.point(h).X, height}); ok {
		p.add(End{Pin: pin}, End{Hole: hole}, n)
	}
	return true
}
