package bus

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/i2cbus"
	"slatebell/core/say"
)

// Resolution is one way to give every node its own address.
type Resolution struct {
	Moves []Move
	Cost  i2cbus.Cost
	Left  []string // names of nodes that do not fit
	left  []int
}

// Move is a node that gets another address.
type Move struct {
	Node  Node
	To    i2cbus.Address
	Close []string // pads of a backpack to close
	Open  []string // and to open
}

// String says what is done: Gate board to 0x26 (close A0).
func (m Move) String() string {
	s := fmt.Sprintf("%s to %s", m.Node.Name, m.To)
	var pads []string
	if len(m.Close) > 0 {
		pads = append(pads, "close "+strings.Join(m.Close, " "))
	}
	if len(m.Open) > 0 {
		pads = append(pads, "open "+strings.Join(m.Open, " "))
	}
	if len(pads) > 0 {
		s += " (" + strings.Join(pads, ", ") + ")"
	}
	return s
}

// Edits are the change of the bench.
func (r *Resolution) Edits() (out edit.List) {
	for _, m := range r.Moves {
		out = append(out, m.Node.Move(m.To))
	}
	return out
}

// Remedy returns the resolution as a ready change of the bench.
func (r *Resolution) Remedy(b *bench.Bench) finding.Remedy {
	return edit.Remedy(b, r.Label(), r.Edits()...)
}

// Label says what the whole resolution does.
func (r *Resolution) Label() string {
	parts := make([]string, len(r.Moves))
	for i, m := range r.Moves {
		parts[i] = m.String()
	}
	s := strings.Join(parts, "; ")
	if len(r.Left) > 0 {
		s += "; no room for " + strings.Join(r.Left, ", ")
	}
	return s
}

func resolution(nodes []Node, a i2cbus.Assignment) Resolution {
	r := Resolution{Cost: a.Cost, left: a.Left}
	for _, i := range a.Left {
		r.Left = append(r.Left, nodes[i].Name)
	}
	for i, n := range nodes {
		if a.At[i] == 0 || a.At[i] == n.At {
			continue
		}
		m := Move{Node: n, To: a.At[i]}
		if n.Part.Padded() {
			before, after := i2cbus.PadsFor(n.At), i2cbus.PadsFor(m.To)
			m.Close, m.Open = (after &^ before).Closed(), (before &^ after).Closed()
		}
		r.Moves = append(r.Moves, m)
	}
	return r
}

// Resolve returns the cheapest way to give every node its own address, and up to
// n others. The first has no moves where nothing clashes.
func Resolve(nodes []Node, n int) []Resolution {
	w := wishes(nodes)
	best := i2cbus.Assign(w)
	out := []Resolution{resolution(nodes, best)}
	if len(out[0].Moves) == 0 {
		return out
	}
	for _, a := range i2cbus.Alternatives(w, best, n) {
		out = append(out, resolution(nodes, a))
	}
	return out
}

// Clashes lists groups of nodes that answer at the same address and hear each
// other.
func Clashes(nodes []Node) [][]int {
	var out [][]int
	done := make([]bool, len(nodes))
	for i := range nodes {
		if done[i] {
			continue
		}
		group := []int{i}
		for j := i + 1; j < len(nodes); j++ {
			if !done[j] && nodes[i].At == nodes[j].At && Meets(&nodes[i], &nodes[j]) {
				group = append(group, j)
			}
		}
		if len(group) > 1 {
			for _, j := range group {
				done[j] = true
			}
			out = append(out, group)
		}
	}
	return out
}

// MakesRoom says what would make room for wishes that an assignment leaves out.
// What it names as the other expander, or as free for a held part, has been tried.
func MakesRoom(wishes []i2cbus.Wish, a i2cbus.Assignment) []string {
	var out []string
	swapped := slices.Clone(wishes)
	swaps, free := map[string]int{}, slices.Clone(wishes)
	var held []string
	for _, i := range a.Left {
		w := &wishes[i]
		if w.Part.Padded() {
			name := map[string]string{"PCF8574": "PCF8574A", "PCF8574A": "PCF8574"}[w.Part.Name]
			part, _ := i2cbus.ByName(name)
			swapped[i] = i2cbus.Wish{Part: part, On: w.On}
			swaps[name]++
		}
		if w.Held {
			free[i] = i2cbus.Wish{Part: w.Part, On: w.On}
			held = append(held, w.Part.Name)
		}
	}
	if len(held) > 0 && len(i2cbus.Assign(free).Left) < len(a.Left) {
		out = append(out, fmt.Sprintf("%s at another address", say.List(held)))
	}
	if len(i2cbus.Assign(swapped).Left) < len(a.Left) {
		for _, part := range i2cbus.Expanders() {
			if n := swaps[part.Name]; n > 0 {
				out = append(out, fmt.Sprintf("%d of the backpacks as a %s, which has other addresses", n, part.Name))
			}
		}
	}
	return append(out, fmt.Sprintf("a multiplexer (TCA9548A), and %d on its channels, each a bus of its own", len(a.Left)))
}

// Room says what would make room on the bus of a bench.
func Room(b *bench.Bench) []string {
	w := wishes(Nodes(b))
	a := i2cbus.Assign(w)
	var out []string
	if len(a.Left) > 0 {
		out = MakesRoom(w, a)
	} else {
		for _, part := range i2cbus.Expanders() {
			if more := i2cbus.Assign(append(w, i2cbus.Wish{Part: part})); len(more.Left) == 0 {
				out = append(out, "a backpack with a "+part.Name)
			}
		}
		out = append(out, "a multiplexer (TCA9548A) with its channels, each a bus of its own")
	}
	return append(out, "a shift register in place of a backpack: it takes three pins of the host and no address")
}

// judgeAddresses finds clashes, reserved addresses and those that a part cannot
// have.
func judgeAddresses(b *bench.Bench, nodes []Node) []finding.Finding {
	var out []finding.Finding
	for i := range nodes {
		n := &nodes[i]
		if why := n.At.Reserved(); why != "" {
			f := finding.Finding{
				Code: "bus.reserved", Severity: finding.Error, Path: n.Path,
				What: fmt.Sprintf("%s is planned at %s, which is reserved for %s.", n.Name, n.At, why),
				Fix:  "Use an address from 0x08 to 0x77.", Source: "UM10204 rev. 7, §3.1.12",
			}
			f.Remedies = moveAlone(b, nodes, i)
			out = append(out, f)
			continue
		}
		if n.Known && !n.Part.Can(n.At) {
			out = append(out, finding.Finding{
				Code: "bus.impossible", Severity: finding.Error, Path: n.Path,
				What: fmt.Sprintf("%s is planned at %s; a %s can have %s.", n.Name, n.At, n.Part.Name, Span(n.Part.Addresses)),
				Fix:  "Read what is printed on its chip, and scan the bus.", Source: n.Part.Name + " data sheet", Remedies: moveAlone(b, nodes, i),
			})
		}
		for j := range nodes {
			if o := &nodes[j]; i != j && Meets(n, o) && slices.Contains(o.Part.Takes, n.At) {
				out = append(out, finding.Finding{
					Code: "bus.all-call", Severity: finding.Error, Path: n.Path,
					What: fmt.Sprintf("%s is at %s, where %s (%s) answers too until its program switches that off.", n.Name, n.At, o.Name, o.Part.Name),
					Fix:  "Give it another address.", Source: o.Part.Name + " data sheet", Remedies: moveAlone(b, nodes, i),
				})
			}
		}
	}
	clashes := Clashes(nodes)
	if len(clashes) == 0 {
		return out
	}
	ways := Resolve(nodes, 3)
	var remedies []finding.Remedy
	for i := range ways {
		if len(ways[i].Moves) > 0 {
			remedies = append(remedies, ways[i].Remedy(b))
		}
	}
	for _, group := range clashes {
		names := make([]string, len(group))
		for i, g := range group {
			names[i] = nodes[g].Name
		}
		out = append(out, finding.Finding{
			Code: "bus.clash", Severity: finding.Error, Path: nodes[group[0]].Path,
			What:   fmt.Sprintf("%s %s answer at %s.", say.List(names), map[bool]string{true: "both", false: "all"}[len(group) == 2], nodes[group[0]].At),
			Why:    "A scan shows one address; all do what any of them is told, and reads mix.",
			Fix:    "Give each an address of its own: close or open pads, or plan another part.",
			Source: "UM10204 rev. 7, §3.1.10", Remedies: remedies,
		})
	}
	if left := ways[0].Left; len(left) > 0 {
		out = append(out, finding.Finding{
			Code: "bus.no-room", Severity: finding.Error, Path: "/bus",
			What: fmt.Sprintf("%d of %d parts fit on this bus; there is no address for %s.", len(nodes)-len(left), len(nodes), say.List(left)),
			Fix:  "What would make room: " + strings.Join(Room(b), "; ") + ".", Source: "UM10204 rev. 7, §3.1.10", Remedies: makeRoom(b, nodes, ways[0]),
		})
	}
	return out
}

// moveAlone returns the remedy that moves one node, all others held.
func moveAlone(b *bench.Bench, nodes []Node, i int) []finding.Remedy {
	to, ok := Vacant(nodes, i)
	if !ok {
		return nil
	}
	only := make([]i2cbus.Address, len(nodes))
	only[i] = to
	r := resolution(nodes, i2cbus.Assignment{At: only})
	return []finding.Remedy{r.Remedy(b)}
}

// makeRoom returns the remedy that puts a multiplexer on the bus and what does
// not fit on its channels, each where it fits.
func makeRoom(b *bench.Bench, nodes []Node, way Resolution) []finding.Remedy {
	if b.Bus.Multiplexer != nil {
		return nil
	}
	part, _ := i2cbus.ByName("TCA9548A")
	more := append(append([]Node{}, nodes...), Node{Path: "/bus/multiplexer", Name: part.Name, Part: part, Known: true, Module: -1})
	w := wishes(more)
	w[len(nodes)].Now = part.Addresses[0]
	// Backpacks of the family that has no room go to channels, eight to each; so
	// none of them is heard beside another.
	channel, on := 1, 0
	for i := range nodes {
		crowded := func(j int) bool { return nodes[j].Part.Name == nodes[i].Part.Name }
		if !nodes[i].Part.Padded() || !slices.ContainsFunc(way.left, crowded) {
			continue
		}
		if on == 8 {
			channel, on = channel+1, 0
		}
		if channel > 8 {
			return nil
		}
		w[i].On = channel
		on++
	}
	a := i2cbus.Assign(w)
	if len(a.Left) > 0 {
		return nil
	}
	edits := edit.List{edit.SetBus{Bus: withMultiplexer(b.Bus, part.Name, a.At[len(nodes)])}}
	for i, n := range nodes {
		if a.At[i] != n.At {
			edits = append(edits, n.Move(a.At[i]))
		}
		if w[i].On != n.Channel {
			edits = append(edits, edit.SetChannel{Of: n.Of, Channel: w[i].On})
		}
	}
	return []finding.Remedy{edit.Remedy(b, fmt.Sprintf("Put a TCA9548A at %s, and backpacks on %d of its channels", a.At[len(nodes)], channel), edits...)}
}

func withMultiplexer(bus bench.Bus, part string, at i2cbus.Address) bench.Bus {
	bus.Multiplexer = &bench.Multiplexer{Part: part, Address: int(at)}
	if bus.PullUpOhm == 0 {
		bus.PullUpOhm = bench.UsualPullUpOhm // those of the backpacks are behind it now
	}
	return bus
}

// Span writes addresses as ranges: 0x20–0x27, 0x5C.
func Span(list []i2cbus.Address) string {
	var parts []string
	for i := 0; i < len(list); {
		j := i
		for j+1 < len(list) && list[j+1] == list[j]+1 {
			j++
		}
		part := list[i].String()
		if j > i {
			part += "–" + list[j].String()
		}
		parts = append(parts, part)
		i = j + 1
	}
	return strings.Join(parts, ", ")
}

// Vacant returns an address for one node beside all others as they are: of a
// backpack the one with the fewest pads closed, of another part the first.
func Vacant(nodes []Node, i int) (i2cbus.Address, bool) {
	n := &nodes[i]
	best := i2cbus.Address(0)
	for _, a := range slices.Backward(n.Part.Addresses) {
		taken := slices.ContainsFunc(nodes, func(o Node) bool {
			return o.Path != n.Path && Meets(n, &o) && (o.At == a || slices.Contains(o.Part.Takes, a))
		})
		if !taken && (best == 0 || !n.Part.Padded() || i2cbus.PadsFor(a).Count() < i2cbus.PadsFor(best).Count()) {
			best = a
		}
	}
	return best, best != 0
}
