package breadboard

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/say"
	"slatebell/core/table/wiring"
)

// Check holds what the holes join against the netlist: pins that are not joined,
// joined to another net, or to each other when they ought not to be, each with its
// hole, worst first. It is empty where nothing lies on the table.
func Check(b *bench.Bench) []finding.Finding {
	if !Laid(b) {
		return nil
	}
	return Lay(b).Check()
}

// fault is one net that is not as it ought to be.
type fault struct {
	net    *wiring.Net
	group  []string // pins that are apart from the rest
	foes   []string // pins of other nets, or of none, that they are joined to
	shorts bool     // two whole nets meet
}

// faults lists what differs from the netlist.
func (t *Table) faults() []fault {
	var out []fault
	main := map[string]int{} // conductor of each net's main part
	groups := map[string]map[int][]string{}
	for i := range t.Net.Nets {
		n := &t.Net.Nets[i]
		g := t.groups(n)
		groups[n.Name] = g
		if len(g) > 0 {
			main[n.Name] = t.nodeOf(t.heart(n, g))
		}
	}
	for i := range t.Net.Nets {
		n := &t.Net.Nets[i]
		g := groups[n.Name]
		nodes := make([]int, 0, len(g))
		for node := range g {
			nodes = append(nodes, node)
		}
		slices.SortFunc(nodes, func(a, b int) int { return strings.Compare(g[a][0], g[b][0]) })
		for _, node := range nodes {
			var foes []string
			for _, pin := range t.on(node) {
				if !slices.Contains(n.Pins, pin) {
					foes = append(foes, pin)
				}
			}
			switch {
			case node != main[n.Name]:
				out = append(out, fault{net: n, group: g[node], foes: foes})
			case len(foes) > 0:
				for j := range t.Net.Nets[:i] { // two whole nets that meet are said once
					if other := &t.Net.Nets[j]; main[other.Name] == node {
						out = append(out, fault{net: n, group: other.Pins, shorts: true})
					}
				}
				var stray []string
				for _, pin := range foes {
					if _, has := t.Net.NetOf(pin); !has && !spare(pin) {
						stray = append(stray, pin)
					}
				}
				if len(stray) > 0 {
					out = append(out, fault{net: n, foes: stray, shorts: true})
				}
			}
		}
	}
	return out
}

// groups returns the pins of a net by the conductors that they are on, but for those
// of modules of which nothing lies there yet, and of nets that only such ask for.
func (t *Table) groups(n *wiring.Net) map[int][]string {
	g := map[int][]string{}
	asked := false
	for _, pin := range n.Pins {
		id, _, _ := strings.Cut(pin, "/")
		if t.idle[id] {
			continue
		}
		asked = asked || id != "host" && id != "supply"
		g[t.nodeOf(pin)] = append(g[t.nodeOf(pin)], pin)
	}
	if !asked {
		return nil
	}
	return g
}

// spare reports whether a pin that belongs to no net is one with another inside its
// part: a further ground of the host.
func spare(pin string) bool {
	return strings.HasPrefix(pin, "host/GND") || strings.HasPrefix(pin, "host/3V3") || strings.HasPrefix(pin, "converter/GND")
}

// heart returns the pin of a net that the others ought to reach: the host's or the
// supply's, or one of its largest part.
func (t *Table) heart(n *wiring.Net, groups map[int][]string) string {
	for _, pin := range n.Pins {
		if strings.HasPrefix(pin, "host/") {
			return pin
		}
	}
	best := n.Pins[0]
	for _, pin := range n.Pins {
		if len(groups[t.nodeOf(pin)]) > len(groups[t.nodeOf(best)]) {
			best = pin
		}
	}
	return best
}

// Check states the table's findings; see the function.
func (t *Table) Check() []finding.Finding {
	out := slices.Clone(t.trouble)
	faults := t.faults()
	for i := range faults {
		f := t.state(&faults[i])
		f.Pins = slices.Concat(faults[i].group, faults[i].foes)
		f.Pins = f.Pins[:min(len(f.Pins), mostPins)]
		out = append(out, f)
	}
	t.remedy(out, faults)
	for i := range t.Net.Parts {
		out = append(out, t.judgePot(&t.Net.Parts[i])...)
	}
	out = append(out, t.judgeOpen()...)
	out = append(out, t.judgeIdle()...)
	slices.SortStableFunc(out, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return out
}

// mostPins is how many pins a finding points at.
const mostPins = 8

// state words one fault.
func (t *Table) state(f *fault) finding.Finding {
	out := finding.Finding{Code: "wiring.open", Severity: finding.Error, Path: "/wiring"}
	names := t.places(f.group)
	switch {
	case f.shorts && f.group == nil:
		out.Code, out.Severity = "wiring.stray", finding.Warning
		out.What = fmt.Sprintf("%s, to be left open, is joined to %s.", t.places(f.foes), t.Net.Called(f.net.Name))
		out.Fix = "Move the wire to the hole that it is meant for."
		return out
	case f.shorts:
		other, _ := t.Net.NetOf(f.group[0])
		out.Code = "wiring.short"
		out.What = fmt.Sprintf("%s and %s are joined to each other.", t.Net.Called(other.Name), t.Net.Called(f.net.Name))
		out.Why = "What is meant for one reaches the other."
		if supplyNet(f.net.Name) && supplyNet(other.Name) {
			out.Why = "A short between supply and ground: the port switches off, or something burns. Do not switch on."
			if f.net.Name != "GND" && other.Name != "GND" {
				out.Why = "Two supplies meet: the weaker one is fed backwards, and what bears 3.3 V gets 5 V. Do not switch on."
			}
		}
		out.Fix = "Take away what joins them."
		return out
	case len(f.foes) > 0:
		out.Code = "wiring.wrong"
		with := t.places(f.foes)
		for _, pin := range f.foes {
			if foe, ok := t.Net.NetOf(pin); ok {
				with = t.Net.Called(foe.Name)
				break
			}
		}
		out.What = fmt.Sprintf("%s belongs to %s and is joined to %s.", names, t.Net.Called(f.net.Name), with)
	default:
		out.What = fmt.Sprintf("%s is not joined to %s.", names, t.Net.Called(f.net.Name))
	}
	_, pin, _ := t.Net.PinOf(f.group[0])
	if pin != nil {
		out.Why = pin.Open
	}
	out.Fix = "Join it as the list says."
	if out.Code != "wiring.open" {
		return out
	}
	switch {
	case f.net.Name == "GND" && pin != nil && (pin.Name == "VSS" || pin.Name == "GND" || strings.HasSuffix(f.group[0], "supply/-")):
		out.Code, out.Why = "wiring.no-ground", "Without a common ground no level means anything to the other side."
	case pin != nil && pin.Name == "R/W":
		out.Code = "wiring.rw-open"
	case f.net.What == "VO":
		out.Code, out.Why = "wiring.vo-open", "The module’s own ladder pulls VO to VDD: nothing is seen."
	}
	if rail, ok := t.deadRail(f.group); ok && len(f.foes) == 0 {
		out.Code = cmp.Or(map[string]string{"wiring.no-ground": "wiring.no-ground"}[out.Code], "wiring.rail-open")
		out.What = fmt.Sprintf("The rail %s is not joined to %s, and %s is on it.", rail, t.Net.Called(f.net.Name), names)
		out.Fix = "Join the rail to the one that is fed; rails of two sides, and halves of a split rail, are not joined inside the board."
	}
	return out
}

// places names pins with where they lie: Hall/RS (board-1/e9).
func (t *Table) places(pins []string) string {
	parts := make([]string, 0, len(pins))
	for i, pin := range pins {
		if i == 3 && len(pins) > 4 {
			parts = append(parts, fmt.Sprintf("%d more", len(pins)-3))
			break
		}
		text := t.Net.Called(pin)
		if h, ok := t.Legs[pin]; ok {
			text += " (" + t.Name(h) + ")"
		}
		parts = append(parts, text)
	}
	return say.List(parts)
}

// deadRail names a rail that belongs to the conductor of some pins.
func (t *Table) deadRail(group []string) (string, bool) {
	node := t.nodeOf(group[0])
	for i := range t.Boards {
		for _, row := range []Row{TopPlus, TopMinus, BottomMinus, BottomPlus} {
			for _, n := range []int{1, railHoles(t.Boards[i].Columns)} {
				h := Hole{i, row, n}
				if t.root(t.stripOf(h)) == node {
					return fmt.Sprintf("%s of %s", row, t.Boards[i].ID), true
				}
			}
		}
	}
	return "", false
}

// judgePot finds a potentiometer whose ends are on one rail: it gives that rail's
// voltage at every turn.
func (t *Table) judgePot(p *wiring.Part) []finding.Finding {
	if p.Kind != wiring.Pot || t.nodeOf(p.Pin("1")) != t.nodeOf(p.Pin("3")) {
		return nil
	}
	if t.idle[p.ID] {
		return nil
	}
	return []finding.Finding{{
		Code: "wiring.pot-ends", Severity: finding.Error, Path: "/wiring",
		What: fmt.Sprintf("Both ends of %s are joined to each other: %s.", p.Name, t.places([]string{p.Pin("1"), p.Pin("3")})),
		Pins: []string{p.Pin("1"), p.Pin("3")},
		Why:  "Its wiper then has their voltage at every turn of the knob.", Fix: "One end belongs to VDD, the other to ground.",
	}}
}

// judgeIdle notes modules of which nothing lies there yet, beside others that are
// wired up.
func (t *Table) judgeIdle() []finding.Finding {
	var names []string
	for i := range t.Bench.Modules {
		if !t.Begun(i) {
			names = append(names, t.moduleName(i))
		}
	}
	if len(names) == 0 {
		return nil
	}
	f := finding.Finding{
		Code: "wiring.not-begun", Severity: finding.Note, Path: "/wiring",
		What: fmt.Sprintf("Not wired up yet: %s.", strings.Join(names, ", ")), Why: "The glass shows what it ought to, not what wires make of it.", Fix: "Plan the wiring afresh, or lay the wires by hand.",
	}
	if planned, err := Plan(t.Bench); err == nil {
		f.Remedies = []finding.Remedy{{Label: "Lay all afresh, as planned", Patch: finding.Patch{finding.Test("/wiring", t.Bench.Wiring), finding.Replace("/wiring", planned)}}}
	}
	return []finding.Finding{f}
}

// judgeOpen finds lines for which no pin of the host is chosen.
func (t *Table) judgeOpen() []finding.Finding {
	var out []finding.Finding
	lines := map[int][]string{}
	for _, o := range t.Net.Open {
		lines[o.Module] = append(lines[o.Module], o.Line)
	}
	for i := range t.Bench.Modules {
		if len(lines[i]) == 0 || !t.Begun(i) {
			continue
		}
		out = append(out, finding.Finding{
			Code: "wiring.no-pin", Severity: finding.Error, Path: fmt.Sprintf("/modules/%d/link/pins", i),
			What: fmt.Sprintf("No pin of the host drives %s of %s.", strings.Join(lines[i], ", "), t.moduleName(i)),
			Why:  "There is nothing to wire them to.", Fix: "Choose pins in the Bench view, in the order of the lines; a host of your own needs its pins named first.",
		})
	}
	return out
}
