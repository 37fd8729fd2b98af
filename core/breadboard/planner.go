package breadboard

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/host"
	"slatebell/core/module"
	"slatebell/core/wiring"
)

// MaxPlanned is how many modules a plan is made for.
const MaxPlanned = 16

// Plan lays the parts of a bench into holes and joins them by wires: no hole used
// twice, short wires, none crossing where none has to. Boards that lie on the table
// are kept, and more are added where they do not suffice. Colours and what is ticked
// off of wires that stay are kept. Its error says what does not fit.
func Plan(b *bench.Bench) (bench.Wiring, error) {
	if len(b.Modules) > MaxPlanned {
		return bench.Wiring{}, fmt.Errorf("%d modules; a plan is made for %d at most: wire them as several benches", len(b.Modules), MaxPlanned)
	}
	net := wiring.Of(b)
	if w, ok := direct(b, &net); ok {
		return w, nil
	}
	if i := slices.IndexFunc(b.Wiring.Boards, func(w bench.Board) bool { return w.Joined }); i >= 0 && supplies(&net) > 1 {
		return bench.Wiring{}, fmt.Errorf("the rails of %s are joined from side to side, and this bench has two supplies, 5 V and 3.3 V; use a board whose sides are not joined", b.Wiring.Boards[i].ID)
	}
	if _, fits := hostBay(b); b.Host.Plugged && !fits {
		return bench.Wiring{}, unpluggable(b)
	}
	bays := bays(b, &net)
	for _, boards := range sizes(b.Wiring.Boards) {
		p := &planner{b: b, net: &net, board: b.Host.Board()}
		if !p.allocate(boards, bays) {
			continue
		}
		p.wire()
		if b.Host.Plugged && !p.sound() {
			continue
		}
		p.doc.Colours = b.Wiring.Colours
		p.doc.Done = kept(b.Wiring, p.doc)
		measure(b, &net, &p.doc)
		return p.doc, nil
	}
	if b.Host.Plugged {
		return bench.Wiring{}, unpluggable(b)
	}
	return bench.Wiring{}, fmt.Errorf("the parts do not fit on %d boards; wire them as several benches", maxBoards)
}

func unpluggable(b *bench.Bench) error {
	return fmt.Errorf("the %s does not go into a breadboard so that holes beside its pins are free; let it lie beside", b.Host.Board().Title)
}

// sound reports whether the plan joins all that it should.
func (p *planner) sound() bool {
	other := *p.b
	other.Wiring = p.doc
	t := lay(&other, *p.net)
	return len(t.trouble) == 0 && len(t.faults()) == 0
}

// Apply is the change that takes a plan over.
func Apply(b *bench.Bench, w bench.Wiring) finding.Patch {
	return finding.Patch{finding.Add("/wiring", w)}
}

// measure puts the wires into the order of the work and gives them their lengths.
func measure(b *bench.Bench, net *wiring.Netlist, w *bench.Wiring) {
	other := *b
	other.Wiring = *w
	nets := map[string]string{}
	for _, i := range lay(&other, *net).List() {
		nets[i.ID] = i.Net
	}
	inOrder(w.Wires, nets)
	t := lay(&other, *net)
	for i, r := range t.Arrange().Routes {
		w.Wires[i].LengthMM = Length(t.Wires[i], r)
	}
}

// kept returns what was ticked off and is still on the list.
func kept(before, after bench.Wiring) []string {
	var out []string
	for _, id := range before.Done {
		if strings.HasPrefix(id, "wire ") && !slices.ContainsFunc(after.Wires, func(w bench.Wire) bool { return wireID(w) == id }) {
			continue
		}
		out = append(out, id)
	}
	return out
}

// wireID names a wire in the list of what is done.
func wireID(w bench.Wire) string { return "wire " + w.From + " " + w.To }

// direct joins a bench that needs no board: every net has two pins, and no part has
// to lie in holes.
func direct(b *bench.Bench, net *wiring.Netlist) (bench.Wiring, bool) {
	for _, n := range net.Nets {
		if len(n.Pins) != 2 {
			return bench.Wiring{}, false
		}
		for _, pin := range n.Pins {
			part, _, _ := net.PinOf(pin)
			if part.Kind != wiring.Host && part.Kind != wiring.Backpack && part.Kind != wiring.Device {
				return bench.Wiring{}, false
			}
		}
	}
	w := bench.Wiring{Colours: b.Wiring.Colours}
	for _, n := range net.Nets {
		wire := bench.Wire{From: n.Pins[0], To: n.Pins[1], Colour: n.Colour}
		w.Wires = append(w.Wires, wire)
	}
	w.Done = kept(b.Wiring, w)
	measure(b, net, &w)
	return w, true
}

// maxBoards is how many boards a plan takes.
const maxBoards = 8

// sizes lists the sets of boards to try, the smallest first: those on the table, and
// as many more as it takes.
func sizes(have []bench.Board) [][]bench.Board {
	var out [][]bench.Board
	add := func(more ...int) {
		boards := slices.Clone(have)
		for _, columns := range more {
			id := fmt.Sprintf("board-%d", len(boards)+1)
			for n := len(boards) + 1; slices.ContainsFunc(boards, func(b bench.Board) bool { return b.ID == id }); n++ {
				id = fmt.Sprintf("board-%d", n+1)
			}
			boards = append(boards, bench.Board{ID: id, Columns: columns})
		}
		if len(boards) > 0 && len(boards) <= maxBoards {
			out = append(out, boards)
		}
	}
	add()
	full := []int{}
	for len(full) <= maxBoards {
		add(append(slices.Clone(full), 30)...)
		full = append(full, 63)
		add(full...)
	}
	return out
}

// spot is where a part lies in its bay: row and column from its first.
type spot struct {
	part string
	row  Row
	col  int // from 0
	turn int
}

// bay is a run of columns for one module or thing on the bus, with the space that
// bodies below the board take.
type bay struct {
	spots       []spot
	landings    map[string]spot // of pins that lie beside the board: the strip that a wire brings them to
	vias        map[string]spot // of nets: a spare strip that their wires take on the way
	cols        int
	left, right float64 // bodies reach from −left to right, counted from the first column
}

// headerInset is how far a module's first pin lies from the edge of its board
// (common practice: about 8 mm).
const headerInset = 8 / Pitch

// bodyOf returns how wide and high a module's or device's board is, in pitches.
func bodyOf(b *bench.Bench, p *wiring.Part) (w, h float64) {
	if p.Kind == wiring.Module || p.Kind == wiring.Backpack {
		board := b.Modules[p.Module].Display.Board()
		w, h = module.Millimetres(board.Outline.W)/Pitch, module.Millimetres(board.Outline.H)/Pitch
		if w == 0 {
			g, _ := module.ParseGeometry(b.Modules[p.Module].Display.Geometry)
			w, h = (float64(g.Cols)*3.6+20)/Pitch, (float64(g.Rows)*6+24)/Pitch
		}
		return w, h
	}
	return float64(max(len(p.Pins), 4)) + 3, 8
}

// bays makes a bay for each module, each thing on the bus, and the rest.
func bays(b *bench.Bench, net *wiring.Netlist) []bay {
	var out, below []bay
	rest := bay{}
	for i := range net.Parts {
		p := &net.Parts[i]
		switch p.Kind {
		case wiring.Host:
			if d, ok := hostBay(b); ok {
				out = append(out, d)
			}
		case wiring.Module:
			out = append(out, moduleBay(b, net, p))
		case wiring.Backpack, wiring.Device:
			w, _ := bodyOf(b, p)
			inset := 1.5
			if p.Kind == wiring.Backpack {
				inset = headerInset
			}
			d := bay{landings: map[string]spot{}, cols: len(p.Pins), left: inset, right: w - inset}
			for j, pin := range p.Pins {
				if full := p.Pin(pin.Name); pin.Name != "GND" && pin.Name != "VCC" {
					if _, used := net.NetOf(full); used {
						d.landings[full] = spot{row: A, col: j}
					}
				}
			}
			below = append(below, d)
		case wiring.Button, wiring.Stick, wiring.Converter:
			shape := map[wiring.Kind]int{wiring.Button: 3, wiring.Stick: 3, wiring.Converter: 4}[p.Kind]
			rest.spots = append(rest.spots, spot{part: p.ID, row: D, col: rest.cols})
			rest.cols += shape + 1
		case wiring.Resistor:
			if strings.HasSuffix(p.ID, "-pull") || strings.HasPrefix(p.ID, "pull-") {
				rest.spots = append(rest.spots, spot{part: p.ID, row: B, col: rest.cols})
				rest.cols += resistorSpan + 2
			}
		}
	}
	out = append(out, below...)
	if rest.cols > 0 {
		rest.right = float64(rest.cols)
		out = append(out, rest)
	}
	return out
}

// hostBay is a host that is plugged in, over the gap.
func hostBay(b *bench.Bench) (bay, bool) {
	board := b.Host.Board()
	across := float64(board.Apart) / 1e6 / Pitch
	if !b.Host.Plugged {
		return bay{}, false
	}
	for row := A; row >= E; row-- { // as near to the middle as it goes
		if far, ok := rowBelow(row, -across); ok && far <= F && abs(int(A-row)-int(far-J)) <= 1 {
			cols := max(len(board.Edges[0]), len(board.Edges[1]))
			return bay{spots: []spot{{part: "host", row: row}}, cols: cols, right: float64(cols)}, true
		}
	}
	return bay{}, false
}

func abs(n int) int { return max(n, -n) }

// moduleBay lays out a module with its parts: a 74HC595 at the left, then the
// potentiometer, the header in row a, and the backlight's parts at the right.
func moduleBay(b *bench.Bench, net *wiring.Netlist, p *wiring.Part) bay {
	d := bay{landings: map[string]spot{}, vias: map[string]spot{}}
	has := func(suffix string) bool { _, ok := net.Part(p.ID + suffix); return ok }
	if has("-register") {
		d.spots = append(d.spots, spot{part: p.ID + "-register", row: E, col: 0})
		if n, ok := net.NetOf(p.ID + "-register/QA"); ok { // QA is on the far side: its wire comes over the chip first
			d.vias[n.Name] = spot{row: C, col: 8}
		}
		d.cols = 10
	}
	if has("-switch") {
		d.spots = append(d.spots, spot{part: p.ID + "-base", row: C, col: d.cols}, spot{part: p.ID + "-switch", row: C, col: d.cols + resistorSpan + 2})
		d.cols += resistorSpan + 6
	}
	if has("-pot") {
		d.spots = append(d.spots, spot{part: p.ID + "-pot", row: C, col: d.cols})
		d.cols += 4
	}
	header := d.cols
	if b.Modules[p.Module].Fitting.Beside {
		for i, pin := range p.Pins {
			if _, used := net.NetOf(p.Pin(pin.Name)); used {
				d.landings[p.Pin(pin.Name)] = spot{row: A, col: header + i}
			}
		}
	} else {
		d.spots = append(d.spots, spot{part: p.ID, row: A, col: header})
	}
	d.cols += len(p.Pins)
	if has("-light") {
		d.spots = append(d.spots, spot{part: p.ID + "-light", row: D, col: header + indexOf(p, "A")})
		d.cols = max(d.cols, header+indexOf(p, "A")+resistorSpan+1)
	}
	w, _ := bodyOf(b, p)
	d.left, d.right = headerInset-float64(header), float64(header)+w-headerInset
	return d
}

func indexOf(p *wiring.Part, pin string) int {
	return slices.IndexFunc(p.Pins, func(q wiring.Pin) bool { return q.Name == pin })
}

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
func (p *planner) allocate(boards []bench.Board, bays []bay) bool {
	p.doc.Boards = boards
	p.landings, p.vias, p.covered = map[string]Hole{}, map[string]Hole{}, map[Hole]bool{}
	board, next := 0, firstColumn
	clear := 0.0 // column from which bodies may lie
	for _, d := range bays {
		start := max(next, int(math.Ceil(clear+d.left)))
		for board < len(boards) && start+d.cols-1 > boards[board].Columns {
			board++
			if board < len(boards) {
				clear -= float64(boards[board-1].Columns) + apart
				start = max(firstColumn, int(math.Ceil(clear+d.left)))
			}
		}
		if board == len(boards) {
			return false
		}
		for _, s := range d.spots {
			p.doc.Placements = append(p.doc.Placements, bench.Placement{Part: s.part, Board: boards[board].ID, Hole: fmt.Sprintf("%s%d", s.row, start+s.col), Turn: s.turn})
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
			for _, row := range Rows()[J : A+1] {
				for n := 1; n <= p.t.Boards[i].Columns; n++ {
					h := Hole{i, row, n}
					if at := p.t.at2(h); at.X > th.X && at.X < th.X+th.W && at.Y > th.Y+1 && at.Y < th.Y+th.H-1 {
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
					x := p.t.at2(h).X
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
			return p.t.at2(e.Hole)
		}
		if other.Pin != "" {
			return Point{}
		}
		at := p.t.at2(other.Hole)
		if strings.HasPrefix(e.Pin, "host/") {
			return Point{at.X, -2}
		}
		return Point{at.X, height + 2}
	}
	return segment{place(from, to), place(to, from)}
}

func (t *Table) at2(h Hole) Point { return t.Boards[h.Board].At(h) }

// strip is one of the strips in which pins of a net lie.
type strip struct {
	hole Hole // one of its holes
	pin  string
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
			out = append(out, strip{h, pin})
		}
	}
	if h, ok := p.vias[n.Name]; ok {
		out = append(out, strip{hole: h})
	}
	slices.SortStableFunc(out, func(a, b strip) int { return cmp.Compare(p.t.at2(a.hole).X, p.t.at2(b.hole).X) })
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
	all := p.stripsOf(n)
	for _, pin := range n.Pins {
		if _, lies := p.t.Legs[pin]; lies {
			continue
		}
		if h, own := p.landings[pin]; own {
			if hole, ok := p.t.free(h, Point{p.t.at2(h).X, height}); ok {
				p.add(End{Pin: pin}, End{Hole: hole}, n)
			}
			continue
		}
		if len(all) == 0 {
			continue
		}
		if hole, ok := p.t.free(all[0].hole, Point{p.t.at2(all[0].hole).X, -1}); ok {
			p.add(End{Pin: pin}, End{Hole: hole}, n)
		}
	}
}

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
			s := segment{p.t.at2(a), p.t.at2(b)}
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
	slices.SortStableFunc(pairs, func(a, b pair) int { return cmp.Compare(a.cost, b.cost) })
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
		if h, own := p.landings[pin]; own {
			if hole, ok := p.t.free(h, Point{p.t.at2(h).X, height}); ok {
				p.add(End{Pin: pin}, End{Hole: hole}, n)
			}
			continue
		}
		if part, _, _ := p.net.PinOf(pin); part.Kind == wiring.Host || part.Kind == wiring.Supply {
			hosts = append(hosts, pin)
			continue
		}
		at := p.below(pin)
		if hole, ok := p.rail(rails[len(rails)-1], at); ok {
			p.add(End{Pin: pin}, End{Hole: hole}, n)
			use(hole)
		}
	}
	var done []strip
	for _, s := range p.stripsOf(n) {
		var c chooser
		for _, o := range done {
			if o.hole.Board == s.hole.Board && math.Abs(p.t.at2(o.hole).X-p.t.at2(s.hole).X) <= 5 {
				p.try(&c, p.open(o.hole), p.open(s.hole))
			}
		}
		p.try(&c, p.openRail(s.hole.Board, rails[0]), p.open(s.hole))
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
			at := p.t.at2(h)
			return Point{at.X + float64(indexOf(part, own.Name)-i), height}
		}
	}
	return Point{0, height}
}

// rail returns the free hole of a rail that is nearest to a place.
func (p *planner) rail(row Row, at Point) (best Hole, found bool) {
	for i := range p.t.Boards {
		for _, h := range p.openRail(i, row) {
			if !found || p.t.at2(h).distance(at) < p.t.at2(best).distance(at) {
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
			p.try(&c, p.ends(list[j], list[i]), p.ends(list[i], list[j]))
		}
		if c.found {
			p.add(End{Hole: c.from}, End{Hole: c.to}, n)
		}
	}
}

// ends lists the free holes of a rail by which it can be joined to another: on one
// board all of them, to another board the few at that end.
func (p *planner) ends(h, other Hole) []Hole {
	open := p.open(h)
	const few = 4
	switch {
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
