package breadboard

import (
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/table/wiring"
)

// End is one end of a wire: in a hole, or on a pin that lies in none.
type End struct {
	Hole Hole
	Pin  string // full name such as host/D4; "" for a hole
}

// Wire is a wire that lies on the table.
type Wire struct {
	Index    int // in the document
	From, To End
	Colour   string
	OK       bool // both ends are there
}

// bothWays returns each end of the wire with the other one.
func (w *Wire) bothWays() [2][2]End { return [2][2]End{{w.From, w.To}, {w.To, w.From}} }

// Table is what lies on the table: boards, parts in holes, and wires.
type Table struct {
	Bench  *bench.Bench
	Net    wiring.Netlist
	Boards []Board
	Places []bench.Placement // those that are lawful
	Legs   map[string]Hole   // of pins that lie in holes
	Wires  []Wire

	idle     map[string]bool   // parts of modules of which nothing lies there yet
	in       map[Hole]string   // what stands in a hole: a pin's name, or "wire 3"
	trouble  []finding.Finding // what could not be read, or does not fit
	bare     []int             // union-find over strips, then pins: without wires
	node     []int             // and with them
	firstOf  []int             // first strip of each board
	pinIndex map[string]int
	pins     []string // by their index
	members  map[int][]string
	drawn    *Arrangement // worked out once it is asked for
	listed   []Item       // likewise
}

// Lay reads what lies on the table. What cannot be read is left out, and said by
// Check.
func Lay(b *bench.Bench) *Table { return lay(b, wiring.Of(b)) }

func lay(b *bench.Bench, net wiring.Netlist) *Table {
	t := &Table{Bench: b, Net: net, Legs: map[string]Hole{}, in: map[Hole]string{}, pinIndex: map[string]int{}}
	t.Boards = layBoards(b)
	t.place()
	t.wire()
	t.union()
	t.rest()
	return t
}

// rest notes the parts of modules of which nothing lies there yet: no leg, and no
// wire on a pin.
func (t *Table) rest() {
	begun := map[int]bool{}
	note := func(pin string) {
		if p, _, ok := t.Net.PinOf(pin); ok && p.Module >= 0 {
			begun[p.Module] = true
		}
	}
	for pin := range t.Legs {
		note(pin)
	}
	for _, w := range t.Wires {
		note(w.From.Pin)
		note(w.To.Pin)
	}
	t.idle = map[string]bool{}
	for i := range t.Net.Parts {
		if p := &t.Net.Parts[i]; p.Module >= 0 && !begun[p.Module] {
			t.idle[p.ID] = true
		}
	}
}

// Begun reports whether anything of a module lies on the table.
func (t *Table) Begun(index int) bool {
	p, ok := t.Net.Of(index, wiring.Itself)
	return ok && !t.idle[p.ID]
}

// Laid reports whether anything lies on the table.
func Laid(b *bench.Bench) bool { return len(b.Wiring.Boards) > 0 || len(b.Wiring.Wires) > 0 }

// Shown lays what lies on the table, or as it is planned where nothing does; its
// error is Plan's.
func Shown(b *bench.Bench) (*Table, error) {
	if Laid(b) {
		return Lay(b), nil
	}
	planned, err := Plan(b)
	if err != nil {
		return nil, err
	}
	other := *b
	other.Wiring = planned
	return Lay(&other), nil
}

// say notes what is wrong with what lies there.
func (t *Table) say(code, path, what, fix string) {
	t.trouble = append(t.trouble, finding.Finding{Code: code, Severity: finding.Error, Path: path, What: what, Fix: fix})
}

// occupy puts something into a hole; what is there already is a finding.
func (t *Table) occupy(h Hole, who, path string) {
	if was, taken := t.in[h]; taken {
		t.say("wiring.hole-twice", path, fmt.Sprintf("%s is meant for hole %s, where %s stands already.", upper(t.Net.Called(who)), t.Name(h), t.Net.Called(was)), "Use another hole of the same strip.")
		return
	}
	t.in[h] = who
}

// upper begins a text with a capital.
func upper(s string) string {
	first, size := utf8.DecodeRuneInString(s)
	return string(unicode.ToUpper(first)) + s[size:]
}

// Name writes a hole as the document does.
func (t *Table) Name(h Hole) string { return name(t.Boards, h) }

// hole reads a hole of a named board.
func (t *Table) hole(board, text string) (Hole, error) {
	i := slices.IndexFunc(t.Boards, func(b Board) bool { return b.ID == board })
	if i < 0 {
		return Hole{}, fmt.Errorf("there is no board %q", board)
	}
	return parseHole(&t.Boards[i], i, text)
}

// place puts the parts into their holes.
func (t *Table) place() {
	board := t.Bench.Host.Board()
	for i, p := range t.Bench.Wiring.Placements {
		path := fmt.Sprintf("/wiring/placements/%d", i)
		part, ok := t.Net.Part(p.Part)
		if ok && part.Kind == wiring.Backpack {
			continue // it lay there by its header before it had a backpack
		}
		if !ok {
			t.say("wiring.no-such-part", path, fmt.Sprintf("%q lies on the table, and this bench has no such part.", p.Part), "Take it away, or plan the wiring afresh.")
			continue
		}
		first, err := t.hole(p.Board, p.Hole)
		if err != nil {
			t.say("wiring.no-such-hole", path, fmt.Sprintf("%s is placed in %q of %q: %v.", part.Name, p.Hole, p.Board, err), "Move it to a hole that is there.")
			continue
		}
		holes, ok := t.legs(first, p.Turn, footprint(part, &board))
		if !ok || len(holes) == 0 {
			t.say("wiring.off-board", path, fmt.Sprintf("%s does not lie in holes with all its legs at %s.", part.Name, t.Name(first)), "Move it until every leg has a hole.")
			continue
		}
		t.Places = append(t.Places, p)
		for j, h := range holes {
			pin := part.Pin(part.Pins[j].Name)
			t.Legs[pin] = h
			t.occupy(h, pin, path)
		}
	}
}

// end reads one end of a wire.
func (t *Table) end(text string) (End, error) {
	before, after, _ := strings.Cut(text, "/")
	_, _, pin := t.Net.PinOf(text)
	if slices.ContainsFunc(t.Boards, func(b Board) bool { return b.ID == before }) {
		h, err := t.hole(before, after)
		if err == nil || !pin { // a part may have the board's name
			return End{Hole: h}, err
		}
	}
	if !pin {
		return End{}, fmt.Errorf("%q is neither a hole nor a pin of this bench", text)
	}
	return End{Pin: text}, nil
}

// EndName writes an end as the document does.
func (t *Table) EndName(e End) string {
	if e.Pin != "" {
		return e.Pin
	}
	return t.Name(e.Hole)
}

// called writes an end for people.
func (t *Table) called(e End) string { return t.Net.Called(t.EndName(e)) }

// wire reads the wires, and puts their ends into holes and onto pins.
func (t *Table) wire() {
	taken := map[string]int{}
	for i, w := range t.Bench.Wiring.Wires {
		path := fmt.Sprintf("/wiring/wires/%d", i)
		from, err1 := t.end(w.From)
		to, err2 := t.end(w.To)
		wire := Wire{Index: i, From: from, To: to, Colour: w.Colour, OK: err1 == nil && err2 == nil}
		t.Wires = append(t.Wires, wire)
		for _, err := range []error{err1, err2} {
			if err != nil {
				t.say("wiring.no-such-end", path, fmt.Sprintf("Wire %d: %v.", i+1, err), "Move its end to a hole, or take it away.")
			}
		}
		if !wire.OK {
			continue
		}
		for _, e := range []End{from, to} {
			if e.Pin == "" {
				t.occupy(e.Hole, fmt.Sprintf("wire %d", i+1), path)
				continue
			}
			if _, lies := t.Legs[e.Pin]; lies {
				t.say("wiring.no-such-end", path, fmt.Sprintf("Wire %d ends on %s, which lies in hole %s.", i+1, t.called(e), t.Name(t.Legs[e.Pin])), "Move its end to a free hole of the same strip.")
			}
			if other, twice := taken[e.Pin]; twice {
				t.say("wiring.pin-twice", path, fmt.Sprintf("Wires %d and %d both end on %s, which holds one.", other, i+1, t.called(e)), "Put one of them into a hole of the strip that the other goes to.")
			}
			taken[e.Pin] = i + 1
		}
	}
}

// union joins strips, legs and wires to nodes.
func (t *Table) union() {
	count := 0
	t.firstOf = make([]int, len(t.Boards))
	for i, b := range t.Boards {
		t.firstOf[i] = count
		count += strips(b.Columns)
	}
	for i := range t.Net.Parts {
		p := &t.Net.Parts[i]
		for _, pin := range p.Pins {
			full := p.Pin(pin.Name)
			t.pinIndex[full] = count + len(t.pins)
			t.pins = append(t.pins, full)
		}
	}
	t.node = make([]int, count+len(t.pins))
	for i := range t.node {
		t.node[i] = i
	}
	for pin, h := range t.Legs {
		t.merge(t.pinIndex[pin], t.stripOf(h))
	}
	for i, b := range t.Boards {
		if !b.Joined || !b.HasRow(BottomPlus) {
			continue
		}
		for _, pair := range [][2]Row{{TopPlus, BottomPlus}, {TopMinus, BottomMinus}} {
			for _, n := range []int{1, railHoles(b.Columns)} {
				t.merge(t.stripOf(Hole{i, pair[0], n}), t.stripOf(Hole{i, pair[1], n}))
			}
		}
	}
	t.inside()
	t.bare = t.node
	t.connect()
}

// connect joins what the wires join, to what is joined without them.
func (t *Table) connect() {
	t.node = slices.Clone(t.bare)
	for _, w := range t.Wires {
		if w.OK {
			t.merge(t.endIndex(w.From), t.endIndex(w.To))
		}
	}
	t.members = map[int][]string{}
	first := len(t.node) - len(t.pins)
	for i, pin := range t.pins {
		root := t.root(first + i)
		t.members[root] = append(t.members[root], pin)
	}
}

// inside joins what parts join inside: the grounds of the host, its rails, and sockets that
// are one with a pin.
func (t *Table) inside() {
	board := t.Bench.Host.Board()
	for socket, pin := range board.Sockets {
		a, ok := t.pinIndex["host/"+socket]
		b, there := t.pinIndex["host/"+pin]
		if ok && there {
			t.merge(a, b)
		}
	}
	for i := range t.Net.Parts {
		p := &t.Net.Parts[i]
		if p.Kind != wiring.Host && p.Kind != wiring.Converter {
			continue
		}
		for _, rail := range []string{"GND", "3V3"} {
			first, ok := t.pinIndex[p.Pin(rail)]
			for _, pin := range p.Pins {
				if rest, same := strings.CutPrefix(pin.Name, rail); ok && same && strings.Trim(rest, "23456789") == "" {
					t.merge(first, t.pinIndex[p.Pin(pin.Name)])
				}
			}
		}
	}
}

func (t *Table) stripOf(h Hole) int { return t.firstOf[h.Board] + t.Boards[h.Board].strip(h) }

func (t *Table) endIndex(e End) int {
	if e.Pin != "" {
		return t.pinIndex[e.Pin]
	}
	return t.stripOf(e.Hole)
}

func (t *Table) root(i int) int {
	for t.node[i] != i {
		t.node[i] = t.node[t.node[i]]
		i = t.node[i]
	}
	return i
}

func (t *Table) merge(a, b int) { t.node[t.root(a)] = t.root(b) }

// nodeOf returns the conductor that a pin is part of, by its full name.
func (t *Table) nodeOf(pin string) int { return t.root(t.pinIndex[pin]) }

// on lists the pins of a conductor.
func (t *Table) on(node int) []string { return t.members[node] }

// Where says where a pin lies: its hole, or itself where it lies in none.
func (t *Table) Where(pin string) string {
	if h, ok := t.Legs[pin]; ok {
		return t.Name(h)
	}
	return pin
}

// whereCalled is Where for people.
func (t *Table) whereCalled(pin string) string { return t.Net.Called(t.Where(pin)) }

// free returns a free hole of the strip of another, the nearest to a place; false
// where all are taken.
func (t *Table) free(h Hole, near Point) (Hole, bool) {
	best, found := Hole{}, false
	b := &t.Boards[h.Board]
	for _, other := range b.inStrip(h) {
		if _, taken := t.in[other]; taken {
			continue
		}
		if !found || b.At(other).distance(near) < b.At(best).distance(near) {
			best, found = other, true
		}
	}
	return best, found
}
