// Package pinout looks at the pins of a bench's host: what each serves, what it can do, which are free.
// It allots pins to links and inputs, reckons the ladders and dividers of inputs, and finds pins that
// cannot do what they are planned for.
//
// It stands above bus, whose pins are taken first, and below power.
package pinout

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/table/bus"
	"slatebell/core/wire/link"
)

// Use is one line that a pin of the host serves.
type Use struct {
	Path string // of the module; the bus's is /bus
	Name string
	Line string // RS, E, data, SDA …
	At   string // of an input, or of a pin of a part of the maker's own: its own path
	Rung bool   // of an input: a button of a ladder, whose pin others share

	Module, Input int // indices of what it is of; -1: of none
	Part, Pin     int // of a part of the maker's own; -1: of none
}

// Uses lists what each pin of the host serves, by the label that its board gives it.
func Uses(b *bench.Bench) map[string][]Use {
	board := b.Host.Board()
	uses := map[string][]Use{}
	note := func(label string, u Use) {
		label = board.Canonical(label)
		uses[label] = append(uses[label], u)
	}
	if len(bus.Nodes(b)) > 0 {
		sda, scl, _ := bus.Pins(b)
		if sda != "" {
			note(sda, Use{Path: "/bus", Name: "the bus", Line: "SDA", Module: -1, Input: -1, Part: -1, Pin: -1})
		}
		if scl != "" {
			note(scl, Use{Path: "/bus", Name: "the bus", Line: "SCL", Module: -1, Input: -1, Part: -1, Pin: -1})
		}
	}
	for i := range b.Modules {
		m := &b.Modules[i]
		if m.Link.Kind == string(link.Backpack) {
			continue
		}
		for _, line := range Lines(b, m) {
			if label := m.Link.Pins[line]; label != "" {
				note(label, Use{Path: fmt.Sprintf("/modules/%d", i), Name: cmp.Or(m.Name, m.ID), Line: line, Module: i, Input: -1, Part: -1, Pin: -1})
			}
		}
	}
	for i := range b.Modules {
		for k := range b.Modules[i].Show.Inputs {
			in := &b.Modules[i].Show.Inputs[k]
			u := Use{Path: fmt.Sprintf("/modules/%d", i), Name: cmp.Or(in.Name, in.ID), Line: inputLine, At: edit.InputPath(i, k), Rung: onRung(in), Module: i, Input: k, Part: -1, Pin: -1}
			if in.Pin != "" {
				note(in.Pin, u)
			}
			if in.PinB != "" {
				note(in.PinB, u)
			}
			if tx, taken := takesTX(&board, in, in.Pin); taken {
				u.Line = "serial TX"
				note(tx, u)
			}
		}
	}
	ownUses(b, &board, note)
	return uses
}

// takesBoth reports whether a program that listens on a serial line takes the line's other pin too, as
// MicroPython does where a line can be on several pins (from memory).
func takesBoth(board *host.Board) bool {
	return board.Chip == "RP2040" || board.Chip == "RP2350" || board.Chip == "ESP32"
}

// takesTX returns the other pin of the serial line that an input is listened to on at a pin, where it is
// taken too: by the program, or as it is joined to the part.
func takesTX(board *host.Board, in *bench.Input, pin string) (label string, taken bool) {
	line, ok := board.Line(pin)
	return line.TX, ok && in.Kind == string(show.Serial) && line.TX != "" && line.TX != line.RX && (takesBoth(board) || in.Serial.Sends)
}

// inputLine is the line of what a show listens to.
const inputLine = "input"

// Lines lists the lines between the host and a module over its link.
func Lines(b *bench.Bench, m *bench.Module) []string {
	g, err := module.ParseGeometry(m.Display.Geometry)
	if err != nil {
		return nil
	}
	l := m.Link.Build(&g, &b.Bus)
	return l.HostPins()
}

// Free lists the pins that can drive a line and are neither taken nor read or
// used at start: those that serve nothing else first, then the bus's own where
// nothing is on it.
func Free(b *bench.Bench) []host.Pin {
	board := b.Host.Board()
	uses := Uses(b)
	var first, last []host.Pin
	for _, p := range board.Pins {
		switch {
		case !p.Plain() || len(uses[p.Label]) > 0:
		case p.Label == board.SDA || p.Label == board.SCL || p.Has(host.LED):
			last = append(last, p)
		default:
			first = append(first, p)
		}
	}
	return append(first, last...)
}

// sortAlong puts pins into the order in which their leads leave the board.
func sortAlong(board *host.Board, pins []host.Pin) {
	along := board.Along()
	slices.SortStableFunc(pins, func(a, b host.Pin) int {
		return cmp.Compare(slices.Index(along, a.Label), slices.Index(along, b.Label))
	})
}

// AllotFor gives lines the pins of a bench's host that are free, the first of them, in
// the order in which their leads leave the board. It returns the lines for which none
// is left.
func AllotFor(b *bench.Bench, lines []string) (pins map[string]string, missing []string) {
	board := b.Host.Board()
	free := Free(b)
	chosen := slices.Clone(free[:min(len(free), len(lines))])
	sortAlong(&board, chosen)
	pins = map[string]string{}
	for i, line := range lines {
		if i >= len(chosen) {
			missing = append(missing, line)
			continue
		}
		pins[line] = chosen[i].Label
	}
	return pins, missing
}

// Allot returns the edits that give pins to every module whose pins are not
// chosen, in the order of the board, as far as there are free ones.
func Allot(b *bench.Bench) (edits edit.List) {
	other := *b
	for i := range b.Modules {
		m := &other.Modules[i]
		if m.Link.Kind == string(link.Backpack) || len(m.Link.Pins) > 0 {
			continue
		}
		if pins, missing := AllotFor(&other, Lines(&other, m)); len(missing) == 0 {
			e := edit.SetPins{Module: i, Pins: pins}
			e.Apply(&other)
			edits = append(edits, e)
		}
	}
	return edits
}

// Pinned returns a bench in which every module has pins, as far as there are free ones.
func Pinned(b *bench.Bench) bench.Bench { return edit.Applied(b, Allot(b)...) }

// pinRule is what a pin that drives a line of a module should not be.
type pinRule struct {
	code           string
	severity       finding.Severity
	what, why, fix string
	broken         func(p *host.Pin, there bool) bool
}

// pinRules are ordered by what they mean; of a pin the first that is broken is
// said.
var pinRules = []pinRule{
	{"host.no-such-pin", finding.Error, "pins which this host does not have", "", "Choose other pins.",
		func(_ *host.Pin, there bool) bool { return !there }},
	{"host.pin-unfit", finding.Error, "pins which cannot drive them", "They are inputs only, or belong to the host’s flash memory.", "Choose other pins.",
		func(p *host.Pin, _ bool) bool { return !p.Drives() }},
	{"host.pin-upload", finding.Warning, "pins which the loader uses", "Uploads and serial output reach the module, and the module may disturb an upload.", "Choose other pins, or unplug both wires for every upload.",
		func(p *host.Pin, _ bool) bool { return p.Has(host.Upload) }},
	{"host.pin-strap", finding.Warning, "pins which are read when the host starts", "The module’s pull-ups may make it start otherwise, or not at all.", "Choose other pins.",
		func(p *host.Pin, _ bool) bool { return p.Has(host.Strap) }},
}

// judgePins finds pins that serve two lines, or cannot serve theirs.
func judgePins(b *bench.Bench, nodes []bus.Node, uses map[string][]Use) []finding.Finding {
	board := b.Host.Board()
	var out []finding.Finding
	if len(nodes) > 0 {
		if sda, scl, right := bus.Pins(b); !right {
			to := b.Bus
			to.SDA, to.SCL = board.SDA, board.SCL
			f := finding.Finding{
				Code: "bus.pins", Severity: finding.Error, Path: "/bus",
				What: bus.NoPair(sda, scl) + ".",
				Why:  "Nothing answers there.", Fix: "Join SDA and SCL to the host’s own bus pins.", Source: board.Source,
			}
			if board.SDA != "" {
				f.Remedies = []finding.Remedy{edit.Remedy(b, fmt.Sprintf("Use %s and %s", board.SDA, board.SCL), edit.SetBus{Bus: to})}
			}
			out = append(out, f)
		}
	}
	// What is broken is said once a module, not once a line.
	type breach struct {
		rule *pinRule
		use  Use
		pins []string
	}
	var broken []breach
	for _, label := range slices.Sorted(maps.Keys(uses)) {
		list := uses[label]
		if len(list) > 1 && !shared(list) {
			names := make([]string, len(list))
			for i, u := range list {
				names[i] = u.Line + " of " + u.Name
			}
			f := finding.Finding{
				Code: "host.pin-twice", Severity: finding.Error, Path: lastPath(list),
				What: fmt.Sprintf("Pin %s serves %s.", label, say.List(names)),
				Why:  "What is meant for one reaches the other.", Fix: "Give each a pin of its own.",
			}
			switch u := list[len(list)-1]; {
			case u.Part >= 0:
				f.Path, f.Remedies = u.At, onAnother(b, u.Part, u.Pin)
			case u.Input >= 0:
				f.Path, f.Remedies = u.At, elsewhere(b, u.Module, u.Input, label)
			case u.Module >= 0:
				f.Remedies = again(b, u.Module)
			}
			out = append(out, f)
		}
		p, ok := board.Find(label)
		if list[0].Path == "/bus" || list[0].At != "" || len(board.Pins) == 0 {
			continue
		}
		for i := range pinRules {
			rule := &pinRules[i]
			if !rule.broken(&p, ok) {
				continue
			}
			at := slices.IndexFunc(broken, func(o breach) bool { return o.rule == rule && o.use.Path == list[0].Path })
			if at < 0 {
				at = len(broken)
				broken = append(broken, breach{rule: rule, use: list[0]})
			}
			broken[at].pins = append(broken[at].pins, list[0].Line+" on "+label)
			break // one rule a pin: the gravest
		}
	}
	for _, br := range broken {
		slices.Sort(br.pins)
		out = append(out, finding.Finding{
			Code: br.rule.code, Severity: br.rule.severity, Path: br.use.Path,
			What: fmt.Sprintf("%s has lines on %s: %s.", br.use.Name, br.rule.what, strings.Join(br.pins, ", ")),
			Why:  br.rule.why, Fix: br.rule.fix, Source: board.Source, Remedies: again(b, br.use.Module),
		})
	}
	return out
}

// lastPath returns the path of the last use of a pin that is a module's: the bus and
// what was there before keep theirs.
func lastPath(list []Use) string { return list[len(list)-1].Path }

// shared reports whether lines on one pin may share it: the same lines of
// modules that have an enable each, the buttons of a ladder, or what several shows listen to.
func shared(list []Use) bool {
	for _, u := range list {
		if u.Path == "/bus" || u.Line != list[0].Line || u.Rung != list[0].Rung || strings.HasPrefix(u.Line, "E") || u.Line == "latch" {
			return false
		}
	}
	return true
}

// again returns the remedy that allots a module's pins afresh; nil where too few are free.
func again(b *bench.Bench, module int) []finding.Remedy {
	other := edit.Applied(b, edit.SetPins{Module: module})
	lines := Lines(b, &b.Modules[module])
	pins, missing := AllotFor(&other, lines)
	if len(missing) > 0 {
		return nil
	}
	return []finding.Remedy{edit.Remedy(b, "Give it free pins: "+pinText(lines, pins), edit.SetPins{Module: module, Pins: pins})}
}

// pinText writes pins in the order of their lines: RS D2, E D3.
func pinText(lines []string, pins map[string]string) string {
	parts := make([]string, 0, len(lines))
	for _, l := range lines {
		if pins[l] != "" {
			parts = append(parts, l+" "+pins[l])
		}
	}
	return strings.Join(parts, ", ")
}

// PinLoad is what the lines of a bench ask of the host's pins.
type PinLoad struct {
	Most   physic.ElectricCurrent // on one pin
	MostOf string                 // which line that is
	Limit  physic.ElectricCurrent // what a pin usually gives; 0: not known
	Total  physic.ElectricCurrent // over all lines at once
	All    physic.ElectricCurrent // what all pins together bear; 0: not known
}

// linePull is the most that a line of a module gives while the host holds it low:
// the controller's pull-ups at 5 V (HD44780U data sheet, ADE-207-272(Z), −I_p, from
// memory).
const linePull = 250 * physic.MicroAmpere

// Loads works out the currents of the host's pins: a line of the bus held low
// sinks what all pull-ups give, a line of a module the controller's own.
func Loads(b *bench.Bench, uses map[string][]Use, segments []bus.Segment) PinLoad {
	board := b.Host.Board()
	l := PinLoad{Limit: board.Pin, All: board.All}
	for _, list := range uses {
		for _, u := range list {
			if u.Path != "/bus" {
				l.Total += linePull
				l.Most, l.MostOf = linePull, "a line of a module"
			}
		}
	}
	for _, s := range segments {
		if s.Far || s.Channel > 0 || s.Total == 0 {
			continue
		}
		sink := physic.ElectricCurrent(float64(s.High) / float64(s.Total) * float64(physic.Ampere))
		l.Total += 2 * sink
		if sink > l.Most {
			l.Most, l.MostOf = sink, "SDA or SCL held low"
		}
	}
	return l
}

// JudgeLoads finds currents beyond what the host's pins give.
func JudgeLoads(b *bench.Bench, l PinLoad) []finding.Finding {
	var out []finding.Finding
	if l.Limit > 0 && l.Most > l.Limit {
		out = append(out, finding.Finding{
			Code: "host.pin-current", Severity: finding.Error, Path: "/bus",
			What: fmt.Sprintf("A pin of the host sinks %s (%s); it usually gives %s.", say.Amperes(l.Most), l.MostOf, say.Amperes(l.Limit)),
			Why:  "The level is not reached, and the pin may be destroyed.", Fix: "Remove pull-ups.", Source: b.Host.Board().Source,
		})
	}
	if l.All > 0 && l.Total > l.All {
		out = append(out, finding.Finding{
			Code: "host.all-current", Severity: finding.Error, Path: "/host",
			What: fmt.Sprintf("All pins of the host together sink %s; it bears %s.", say.Amperes(l.Total), say.Amperes(l.All)),
			Fix:  "Remove pull-ups, or join fewer modules.", Source: b.Host.Board().Source,
		})
	}
	return out
}

// Parse reads the host's pins for the lines of a module's link in their order,
// such as 12, 11, 5, 4, 3, 2: labels, or their numbers alone; … leaves a line as it
// is. It returns them by line.
func Parse(b *bench.Bench, index int, text string) (map[string]string, error) {
	if index < 0 || index >= len(b.Modules) {
		return nil, fmt.Errorf("module %d; this bench has modules 0–%d", index, len(b.Modules)-1)
	}
	m := &b.Modules[index]
	if m.Link.Kind == string(link.Backpack) {
		return nil, fmt.Errorf("a backpack has no pins of its own; it is on the host's SDA and SCL")
	}
	lines := Lines(b, m)
	words := strings.FieldsFunc(text, func(c rune) bool { return strings.ContainsRune(" ,;\t\n", c) })
	if len(words) != len(lines) {
		return nil, fmt.Errorf("pins given: %d; expected %d, for %s", len(words), len(lines), strings.Join(lines, ", "))
	}
	board := b.Host.Board()
	out := map[string]string{}
	for i, line := range lines {
		if words[i] == "…" || words[i] == "..." {
			if was := m.Link.Pins[line]; was != "" {
				out[line] = was
			}
			continue
		}
		label, ok := findPin(&board, words[i])
		if !ok {
			return nil, fmt.Errorf("pin %q for %s; expected a label of this host, such as %s", words[i], line, board.Pins[len(board.Pins)/2].Label)
		}
		out[line] = label
	}
	return out, nil
}

// findPin returns the label that a word means on a board: itself, or the number
// behind its letters. A board whose pins nobody stated has any.
func findPin(board *host.Board, word string) (string, bool) {
	if len(board.Pins) == 0 {
		return word, len(word) <= 12
	}
	if p, ok := board.Find(word); ok {
		return p.Label, true
	}
	for _, prefix := range []string{"D", "GPIO", "GP"} {
		if p, ok := board.Find(prefix + word); ok {
			return p.Label, true
		}
	}
	return "", false
}

// Judge finds pins that serve two lines, or cannot serve theirs, of links, inputs and parts of the
// maker's own. The nodes and uses are those of the bench.
func Judge(b *bench.Bench, nodes []bus.Node, uses map[string][]Use) []finding.Finding {
	return slices.Concat(judgePins(b, nodes, uses), judgeInputs(b), judgeParts(b))
}
