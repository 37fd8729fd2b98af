package breadboard

import (
	"slices"
	"strings"

	"slatebell/core/bench"
)

// Item is one wire of the list to work from.
type Item struct {
	Number           int    // of the wire, from 1
	From, FromHole   string // pin that it meets, and hole; a rail is named as its board and row
	To, ToHole       string
	Net, Colour      string // "" for a wire of no net, or of any colour
	LengthMM         int
	ID               string // by which the document keeps what is done
	FromSays, ToSays string // the pins by name and by count, for people
	Called           Called // the same ends and net as the bench calls them
	Done             bool
}

// Called is what a wire joins, by the names of the bench: Gate/RS.
type Called struct{ From, To, Net string }

// List returns the wires in the order of the work: signals, then ground, the supply
// last. It is the document's order, as Plan has it.
func (t *Table) List() []Item {
	if t.listed == nil {
		t.listed = t.list()
	}
	return slices.Clone(t.listed)
}

func (t *Table) list() []Item {
	out := make([]Item, 0, len(t.Wires))
	legs := map[int]string{} // the first pin in each strip
	for _, p := range t.pins {
		if h, ok := t.Legs[p]; ok && legs[t.stripOf(h)] == "" {
			legs[t.stripOf(h)] = p
		}
	}
	routes := t.Arrange().Routes
	for _, w := range t.Wires {
		doc := t.Bench.Wiring.Wires[w.Index]
		i := Item{Number: w.Index + 1, Colour: t.colour(w), LengthMM: doc.LengthMM, ID: wireID(doc)}
		if i.LengthMM == 0 && w.OK {
			i.LengthMM = Length(w, routes[w.Index])
		}
		i.Done = slices.Contains(t.Bench.Wiring.Done, i.ID)
		if !w.OK {
			i.FromHole, i.ToHole = doc.From, doc.To
			out = append(out, i)
			continue
		}
		i.From, i.FromHole, i.FromSays = t.ending(w.From, w.Index, legs)
		i.To, i.ToHole, i.ToSays = t.ending(w.To, w.Index, legs)
		i.Net = t.netAt(w)
		i.Called = Called{t.Net.Called(i.From), t.Net.Called(i.To), t.Net.Called(i.Net)}
		out = append(out, i)
	}
	return out
}

// colour is what the document says of a wire's colour, or the colour of the net that it
// carries; "" where it carries none.
func (t *Table) colour(w Wire) string {
	if w.Colour != "" || !w.OK {
		return w.Colour
	}
	n, _ := t.Net.Named(t.netAt(w))
	return n.Colour
}

// ending names an end of a wire by pin, by hole, and for people; legs has the first pin in each strip.
func (t *Table) ending(e End, wire int, legs map[int]string) (pin, hole, says string) {
	if e.Pin == "" {
		hole = t.Name(e.Hole)
		if e.Hole.Row.Rail() {
			rail := t.Boards[e.Hole.Board].ID + "/" + e.Hole.Row.String()
			return rail, hole, rail
		}
		pin = legs[t.stripOf(e.Hole)]
		if pin == "" {
			pin = t.brought(e, wire)
		}
	} else {
		pin = e.Pin
	}
	if part, p, ok := t.Net.PinOf(pin); ok {
		says = part.Called() + " " + p.Says()
	}
	return pin, hole, says
}

// brought returns the loose pin that another wire brings to the strip of an end, or
// "".
func (t *Table) brought(e End, wire int) string {
	for _, w := range t.Wires {
		if w.Index == wire {
			continue
		}
		for _, o := range w.bothWays() {
			if w.OK && o[0].Pin == "" && o[1].Pin != "" && t.stripOf(o[0].Hole) == t.stripOf(e.Hole) {
				return o[1].Pin
			}
		}
	}
	return ""
}

// netAt returns the net that a wire carries: that of the pins that it reaches, of
// most of them where it joins several.
func (t *Table) netAt(w Wire) string { return t.carried(t.root(t.endIndex(w.From))) }

// carried returns the net of most of the pins on a conductor, "" where it carries none.
func (t *Table) carried(node int) string {
	count := map[string]int{}
	best := ""
	for _, pin := range t.on(node) {
		if n, ok := t.Net.NetOf(pin); ok {
			if count[n.Name]++; count[n.Name] > count[best] {
				best = n.Name
			}
		}
	}
	return best
}

// inOrder puts wires into the order of the work: what carries signals first, ground
// next, and the supply last, the host's own lead at the very end.
func inOrder(wires []bench.Wire, nets map[string]string) {
	rank := func(w bench.Wire) int {
		lead := 0
		if isHost(w.From) || isHost(w.To) {
			lead = 1
		}
		switch nets[wireID(w)] {
		case "GND":
			return 2 + lead
		case "5V", "3V3":
			return 4 + lead
		}
		return lead
	}
	slices.SortStableFunc(wires, func(a, b bench.Wire) int { return rank(a) - rank(b) })
}

func isHost(end string) bool { return len(end) > 5 && (end[:5] == "host/" || end[:5] == "suppl") }

// Purchase is a line of the list of parts.
type Purchase struct {
	Count int
	What  string
	Look  string
	For   []string // parts of the bench that it is
}

// Parts lists what the bench takes: boards, parts and wires, alike ones together.
func (t *Table) Parts() []Purchase {
	var out []Purchase
	add := func(what, look, use string) {
		for i := range out {
			if out[i].What == what {
				out[i].Count++
				if use != "" {
					out[i].For = append(out[i].For, use)
				}
				return
			}
		}
		p := Purchase{Count: 1, What: what, Look: look}
		if use != "" {
			p.For = []string{use}
		}
		out = append(out, p)
	}
	for i := range t.Net.Parts {
		p := &t.Net.Parts[i]
		add(t.title(p), p.Look, p.Called())
	}
	for _, b := range t.Boards {
		add(boardTitle(b.Columns), "", b.ID)
	}
	for _, i := range t.List() {
		kind := "jumper"
		if i.FromHole != "" && i.ToHole != "" {
			kind = "wire, cut to length"
		}
		add(strings.TrimSpace(i.Colour+" "+kind)+lengthOf(kind, i.LengthMM), "", "")
	}
	return out
}
