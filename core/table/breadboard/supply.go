package breadboard

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"slatebell/core/table/wiring"
)

// supplies lays rails, what is fed from them, and what feeds them.
func (p *planner) supplies() {
	second := ""
	main := p.mainRail()
	for i := range p.net.Nets {
		if n := &p.net.Nets[i]; supplyNet(n.Name) && n.Name != "GND" && n.Name != main {
			second = n.Name
		}
	}
	for i := range p.net.Nets {
		n := &p.net.Nets[i]
		if !supplyNet(n.Name) {
			continue
		}
		var rails []Row
		switch {
		case n.Name == "GND":
			rails = []Row{TopMinus, BottomMinus}
		case n.Name == main && second != "":
			rails = []Row{TopPlus}
		case n.Name == main:
			rails = []Row{TopPlus, BottomPlus}
		default:
			rails = []Row{BottomPlus}
		}
		if len(p.stripsOf(n)) == 0 { // only leads from below: one rail serves them all
			rails = rails[len(rails)-1:]
		}
		p.feed(n, rails)
	}
}

// mainRail is the supply that most parts take.
func (p *planner) mainRail() string {
	most, count := "5V", 0
	for _, n := range p.net.Nets {
		if (n.Name == "5V" || n.Name == "3V3") && len(n.Pins) > count {
			most, count = n.Name, len(n.Pins)
		}
	}
	return most
}

// feed joins all of a supply net: each strip to a rail or to a strip beside it, each
// loose pin to a rail, the host's pin to the end of a rail, and the rails to each
// other.
func (p *planner) feed(n *wiring.Net, rails []Row) {
	used := map[int]Hole{} // rails in use, by their conductor
	use := func(h Hole) { used[p.t.stripOf(h)] = h }
	var hosts []string
	for _, pin := range n.Pins {
		if _, lies := p.t.Legs[pin]; lies {
			continue
		}
		if p.land(pin, n) {
			continue
		}
		if part, _, _ := p.net.PinOf(pin); part.Kind == wiring.Host || part.Kind == wiring.Supply {
			hosts = append(hosts, pin)
			continue
		}
		at := p.below(pin)
		for i := len(rails) - 1; i >= 0; i-- { // the upper one where modules cover the lower
			if hole, ok := p.rail(rails[i], at); ok {
				p.add(End{Pin: pin}, End{Hole: hole}, n)
				use(hole)
				break
			}
		}
	}
	var done []strip
	for _, s := range p.stripsOf(n) {
		var c chooser
		for _, o := range done {
			if o.hole.Board == s.hole.Board && math.Abs(p.t.point(o.hole).X-p.t.point(s.hole).X) <= 5 {
				p.try(&c, p.open(o.hole), p.open(s.hole))
			}
		}
		p.try(&c, p.openRail(s.hole.Board, rails[0]), p.open(s.hole))
		if p.t.top() < 0 { // a host over two edges covers the upper rails, and its lines lie before them
			p.try(&c, p.openRail(s.hole.Board, rails[len(rails)-1]), p.open(s.hole))
		}
		for i := 0; i < len(p.t.Boards) && !c.found; i++ { // covered by a module: by a rail or strip further off
			p.try(&c, p.openRail(i, rails[0]), p.open(s.hole))
			for _, o := range done {
				p.try(&c, p.open(o.hole), p.open(s.hole))
			}
		}
		if c.found {
			p.add(End{Hole: c.from}, End{Hole: c.to}, n)
			if c.from.Row.Rail() {
				use(c.from)
			}
		}
		done = append(done, s)
	}
	p.power(n, rails, hosts, used)
}

// openRail lists a rail's free holes on a board.
func (p *planner) openRail(board int, row Row) []Hole {
	var out []Hole
	if !p.t.Boards[board].HasRow(row) {
		return nil
	}
	for n := 1; n <= railHoles(p.t.Boards[board].Columns); n++ {
		h := Hole{board, row, n}
		if _, taken := p.t.in[h]; !taken && !p.covered[h] {
			out = append(out, h)
		}
	}
	return out
}

// below is where a loose pin lies below the boards: beside the strips that its
// part's other pins are brought to.
func (p *planner) below(pin string) Point {
	part, own, _ := p.net.PinOf(pin)
	for i, other := range part.Pins {
		if h, ok := p.landings[part.Pin(other.Name)]; ok {
			at := p.t.point(h)
			return Point{at.X + float64(indexOf(part, own.Name)-i), height}
		}
	}
	return Point{0, height}
}

// rail returns the free hole of a rail that is nearest to a place, and leaves it two for the host's
// lead and for what joins it to other rails.
func (p *planner) rail(row Row, at Point) (best Hole, found bool) {
	for i := range p.t.Boards {
		for _, h := range p.openRail(i, row) {
			if (!found || p.t.point(h).distance(at) < p.t.point(best).distance(at)) && len(p.open(h)) > 2 {
				best, found = h, true
			}
		}
	}
	return best, found
}

// power joins the rails that are in use to each other, and the host's and the
// supply's pins to the ends of the last and the first.
func (p *planner) power(n *wiring.Net, rails []Row, hosts []string, used map[int]Hole) {
	for _, pin := range hosts {
		var starts, ends []Hole
		for i := range p.t.Boards {
			if open := p.openRail(i, rails[0]); len(open) > 0 {
				if ends = open; starts == nil {
					starts = open
				}
			}
		}
		if len(ends) == 0 { // modules cover the rail: a strip that it feeds will do
			for _, h := range used {
				starts = append(starts, p.fedBy(n, h)...)
			}
			ends = starts
		}
		if len(ends) == 0 {
			continue // every hole of the rail is taken or covered; the check says so
		}
		hole := starts[0]
		if label, own := strings.CutPrefix(pin, "host/"); own {
			hole = ends[max(len(ends)-p.fromEnd(label), 0)]
		}
		p.add(End{Pin: pin}, End{Hole: hole}, n)
		used[p.t.stripOf(hole)] = hole
	}
	var list []Hole
	for _, h := range used {
		list = append(list, h)
	}
	slices.SortFunc(list, func(a, b Hole) int {
		return cmp.Or(cmp.Compare(a.Board, b.Board), cmp.Compare(a.Row, b.Row), cmp.Compare(a.N, b.N))
	})
	for i := 1; i < len(list); i++ {
		if p.t.root(p.t.stripOf(list[i-1])) == p.t.root(p.t.stripOf(list[i])) {
			continue
		}
		var c chooser
		for j := range i {
			from, to := p.ends(list[j], list[i]), p.ends(list[i], list[j])
			if len(from) == 0 {
				from = p.fedBy(n, list[j])
			}
			if len(to) == 0 {
				to = p.fedBy(n, list[i])
			}
			p.try(&c, from, to)
		}
		if c.found {
			p.add(End{Hole: c.from}, End{Hole: c.to}, n)
		}
	}
}

// fedBy lists the free holes of the strips of a net that a rail feeds.
func (p *planner) fedBy(n *wiring.Net, rail Hole) (out []Hole) {
	root := p.t.root(p.t.stripOf(rail))
	for _, s := range p.stripsOf(n) {
		if p.t.root(p.t.stripOf(s.hole)) == root {
			out = append(out, p.open(s.hole)...)
		}
	}
	return out
}

// ends lists the free holes of a rail by which it can be joined to another: on one
// board all of them, to another board the few at that end.
func (p *planner) ends(h, other Hole) []Hole {
	open := p.open(h)
	const few = 4
	switch {
	case p.t.Boards[h.Board].Beyond != p.t.Boards[other.Board].Beyond: // one lies above the other
	case h.Board < other.Board:
		return open[max(len(open)-few, 0):]
	case h.Board > other.Board:
		return open[:min(len(open), few)]
	}
	return open
}

// fromEnd is which hole of the last rail, counted from its end, a supply pin of the
// host takes, so that such pins come down in the order in which they leave the host.
func (p *planner) fromEnd(label string) int {
	a := &arranger{t: p.t, pins: map[string]Point{}}
	a.placed()
	width := float64(max(len(p.board.Edges[0]), len(p.board.Edges[1])))
	var order []string
	for _, l := range a.stand(p.board.Edges, width).leads {
		if n, _ := p.net.NetOf("host/" + l.label); supplyNet(n.Name) {
			order = append(order, l.label)
		}
	}
	return len(order) - slices.Index(order, label)
}
