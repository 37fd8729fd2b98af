package pinout

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/bench/show"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/part/host"
	"slatebell/core/say"
)

// PinChoice is a pin of the host as a place to join an input to.
type PinChoice struct {
	Label   string
	Place   int    // counted along the board; 0 where it is not counted
	Edge    int    // 0: the far one, 1: the near one
	Col     int    // along that edge
	Can     string // what it can do
	Not     string // why it cannot read the input; "" where it can
	Careful string // what is to be minded all the same
	Taken   string // what else it serves
}

// needsPin reports whether an input is read at a pin: timers are not, nor counters that others step.
func needsPin(in *bench.Input) bool {
	switch show.Kind(in.Kind) {
	case show.Timer:
		return false
	case show.Counter:
		return in.Pin != "" || in.Counter.Up == "" && in.Counter.Down == ""
	}
	return true
}

// onRung reports whether an input is a button of a ladder.
func onRung(in *bench.Input) bool { return in.Kind == string(show.Button) && in.Button.Ladder }

// readsVoltage reports whether an input is read as a voltage.
func readsVoltage(in *bench.Input) bool { return in.Kind == string(show.Signal) || onRung(in) }

// Cannot says why a pin cannot read an input; "" where it can.
func Cannot(board *host.Board, p *host.Pin, in *bench.Input) string {
	switch {
	case readsVoltage(in):
		if !p.Has(host.Analog) {
			return "it reads no voltage"
		}
	case in.Kind == string(show.Serial):
		if _, ok := board.Line(p.Label); !ok {
			return "no serial line listens on it"
		}
	default:
		if p.Has(host.AnalogOnly) {
			return "it reads voltages only"
		}
	}
	if p.Has(host.Flash) {
		return "it belongs to the host’s flash memory"
	}
	return ""
}

// careful says what is to be minded of a pin that reads an input; "" for nothing.
func careful(p *host.Pin, in *bench.Input) string {
	switch {
	case p.Has(host.Upload):
		return "the loader uses it: unplug it for every upload"
	case p.Has(host.Strap):
		return "it is read when the host starts, which may then start otherwise"
	case p.Has(host.NoPull) && heldByHost(in):
		return "it has no pull-up: take a resistor"
	}
	return ""
}

// heldByHost reports whether an input's contact relies on the host's own pull-up.
func heldByHost(in *bench.Input) bool {
	return (in.Kind == "button" && !onRung(in) || in.Kind == "counter") && (in.Pull == "" || in.Pull == "host")
}

// abilities are what a pin can do beside reading and driving a level.
func abilities(board *host.Board, p *host.Pin) string {
	var out []string
	if p.Has(host.Analog) {
		out = append(out, "voltage")
	}
	if p.Listens() && !p.Has(host.NoPull) {
		out = append(out, "pull-up")
	}
	if _, ok := board.Line(p.Label); ok {
		out = append(out, "serial RX")
	}
	for _, s := range board.Serial {
		if s.TX == p.Label && !board.AnySerial {
			out = append(out, "serial TX")
		}
	}
	return strings.Join(slices.Compact(out), ", ")
}

// ForInput lists the host's pins along its edges as places for an input. Its error says that there is
// no such input.
func ForInput(b *bench.Bench, module, input int) ([]PinChoice, error) {
	if module < 0 || module >= len(b.Modules) || input < 0 || input >= len(b.Modules[module].Show.Inputs) {
		return nil, fmt.Errorf("module %d has no input %d", module, input)
	}
	board, in := b.Host.Board(), &b.Modules[module].Show.Inputs[input]
	uses := Uses(b)
	at := edit.InputPath(module, input)
	var out []PinChoice
	for edge, labels := range board.Edges {
		for col, label := range labels {
			p, ok := board.Find(label)
			if !ok || p.Label != label {
				continue
			}
			c := PinChoice{Label: label, Place: board.Place(label), Edge: edge, Col: col, Can: abilities(&board, &p), Not: Cannot(&board, &p, in), Careful: careful(&p, in)}
			for _, u := range uses[label] {
				if u.At != at && !(u.Rung && onRung(in)) {
					c.Taken = u.Line + " of " + u.Name
				}
			}
			out = append(out, c)
		}
	}
	return out, nil
}

// BestPin is the free pin that suits an input best: one that needs no care, unless it is the only
// serial line's, and that other inputs need least. It is false where none is left.
func BestPin(b *bench.Bench, in *bench.Input) (string, bool) {
	if onRung(in) {
		for _, l := range Ladders(b) {
			if len(l.Rungs) < MostRungs {
				return l.Pin, true
			}
		}
	}
	board, uses := b.Host.Board(), Uses(b)
	best, most := "", 0
	for i := range board.Pins {
		p := &board.Pins[i]
		if len(uses[p.Label]) > 0 || Cannot(&board, p, in) != "" || p.Has(host.NoPull) && heldByHost(in) || (p.Has(host.Upload) || p.Has(host.Strap)) && in.Kind != "serial" {
			continue
		}
		if tx, taken := takesTX(&board, in, p.Label); taken && len(uses[board.Canonical(tx)]) > 0 {
			continue // its other pin serves something else
		}
		cost := 1
		for _, dear := range []struct {
			is   bool
			cost int
		}{{p.Has(host.Upload), 64}, {p.Has(host.Strap), 32}, {p.Label == board.SDA || p.Label == board.SCL, 16}, {p.Has(host.LED), 8}, {p.Has(host.Analog) && !readsVoltage(in), 4}, {p.Drives(), 1}} {
			if dear.is {
				cost += dear.cost
			}
		}
		if best == "" || cost < most {
			best, most = p.Label, cost
		}
	}
	return best, best != ""
}

// dearest are the kinds of inputs that pins are given to, those that fewest pins can read first.
var dearest = []show.Kind{show.Signal, show.Serial, show.Counter, show.Button}

// JoinInputs returns the edits that give a pin to every input that has none, voltages first, then
// serial lines, which few pins can read. It names those for which none is left.
func JoinInputs(b *bench.Bench) (joined []edit.SetInputPin, left []string) {
	other := *b
	for _, kind := range dearest {
		for i := range other.Modules {
			for k := range other.Modules[i].Show.Inputs {
				in := &other.Modules[i].Show.Inputs[k]
				if show.Kind(in.Kind) != kind || in.Pin != "" || !needsPin(in) {
					continue
				}
				pin, ok := BestPin(&other, in)
				if !ok {
					if name := cmp.Or(in.Name, in.ID); !slices.Contains(left, name) {
						left = append(left, name)
					}
					continue
				}
				e := edit.SetInputPin{Module: i, Input: k, Contact: edit.First, Pin: pin}
				e.Apply(&other)
				joined = append(joined, e)
			}
		}
	}
	return joined, left
}

// Rejoin returns the edits that join the inputs of a bench to other pins, since its host became
// another; those for which none is left are on none. Other is the bench on its new host, whose links have
// their pins.
func Rejoin(b, other *bench.Bench) (edits edit.List) {
	freed := *other
	each := func(do func(module, input int, was *bench.Input)) {
		for _, kind := range dearest {
			for i := range b.Modules {
				for k := range b.Modules[i].Show.Inputs {
					if was := &b.Modules[i].Show.Inputs[k]; show.Kind(was.Kind) == kind {
						do(i, k, was)
					}
				}
			}
		}
	}
	each(func(i, k int, _ *bench.Input) {
		edit.SetInputPin{Module: i, Input: k, Contact: edit.First}.Apply(&freed)
		edit.SetInputPin{Module: i, Input: k, Contact: edit.Second}.Apply(&freed)
	})
	each(func(i, k int, was *bench.Input) {
		for _, one := range []struct {
			contact edit.Contact
			had     string
		}{{edit.First, was.Pin}, {edit.Second, was.PinB}} {
			if one.had == "" {
				continue
			}
			pin, _ := BestPin(&freed, &freed.Modules[i].Show.Inputs[k])
			e := edit.SetInputPin{Module: i, Input: k, Contact: one.contact, Pin: pin}
			e.Apply(&freed)
			edits = append(edits, e)
		}
	})
	return edits
}

// PartHasPress reports whether a button is the press of a part that is more: of a stick, or of a rotary
// encoder, which joins it to the part's own ground.
func PartHasPress(m *bench.Module, in *bench.Input) bool {
	return in.Part != "" && in.Kind == "button" && slices.ContainsFunc(m.Show.Inputs, func(o bench.Input) bool {
		return o.Part == in.Part && (o.Kind == "signal" || o.Kind == "counter")
	})
}

// judgeInputs finds inputs on pins that cannot read them, or that need care.
func judgeInputs(b *bench.Bench) (out []finding.Finding) {
	board := b.Host.Board()
	if len(board.Pins) == 0 {
		return nil
	}
	ladders := Ladders(b)
	for i := range b.Modules {
		for k := range b.Modules[i].Show.Inputs {
			in := &b.Modules[i].Show.Inputs[k]
			name, at := cmp.Or(in.Name, in.ID), edit.InputPath(i, k)
			state := func(code string, severity finding.Severity, what, why, fix string, remedies ...finding.Remedy) {
				out = append(out, finding.Finding{Code: code, Severity: severity, Path: at, What: what, Why: why, Fix: fix, Source: board.Source, Remedies: remedies})
			}
			for _, line := range []struct {
				contact edit.Contact
				label   string
			}{{edit.First, in.Pin}, {edit.Second, in.PinB}} {
				if line.label == "" {
					continue
				}
				move := func() []finding.Remedy { return moved(b, i, k, line.contact) }
				p, there := board.Find(line.label)
				if !there {
					state("input.no-such-pin", finding.Error, fmt.Sprintf("“%s” is read on pin %s, which this host does not have.", name, line.label), "", "Choose another pin.", move()...)
					continue
				}
				if why := Cannot(&board, &p, in); why != "" {
					state("input.pin-unfit", finding.Error, fmt.Sprintf("“%s” cannot be read on pin %s: %s.", name, p.Label, why), "The program leaves it out.", "Choose another pin.", move()...)
					continue
				}
				if p.Has(host.NoPull) && heldByHost(in) {
					held := *in
					held.Pull = "up"
					state("input.no-pull", finding.Error, fmt.Sprintf("Nothing holds pin %s while the contact of “%s” is open: this pin has no pull-up of its own.", p.Label, name), "Its level is then what happens to be near.", "Take a resistor of 10 kΩ to the supply, or another pin.",
						append([]finding.Remedy{edit.Remedy(b, "Hold it by 10 kΩ to the supply", edit.SetInput{Module: i, Index: k, Input: held})}, move()...)...)
				} else if what := careful(&p, in); what != "" {
					code := map[bool]string{true: "input.pin-upload", false: "input.pin-strap"}[p.Has(host.Upload)]
					state(code, finding.Warning, fmt.Sprintf("“%s” is read on pin %s: %s.", name, p.Label, what), "", "Choose another pin, or mind it.", move()...)
				}
			}
			if l, rung, ok := RungOf(ladders, i, k); ok && rung >= MostRungs {
				state("input.ladder-long", finding.Error, fmt.Sprintf("“%s” is button %d of the ladder on pin %s; one tells %d apart.", name, rung+1, l.Pin, MostRungs), "", "Take another pin for it.")
			}
			if in.Kind == "button" && in.Pin != "" && in.Pull == "down" && PartHasPress(&b.Modules[i], in) {
				held := *in
				held.Pull = ""
				state("input.press-to-ground", finding.Error, fmt.Sprintf("The press of “%s” closes to its ground, and pin %s is held low while it is open.", in.Part, in.Pin), "It is never read as pressed.", "Hold it by the host’s pull-up.",
					edit.Remedy(b, "Hold it by the host’s pull-up", edit.SetInput{Module: i, Index: k, Input: held}))
			}
			if in.Kind == "signal" && in.Signal.ReferenceMV > 0 && !slices.Contains(board.References, in.Signal.ReferenceMV) {
				compared := *in
				compared.Signal.ReferenceMV = 0
				state("input.no-reference", finding.Error, fmt.Sprintf("The converter of this host cannot compare “%s” with %s.", name, say.Volts(in.Reference(&board))), "The program compares it with the supply.", "Compare it with the supply"+orOf(board.References)+".",
					edit.Remedy(b, "Compare it with the supply", edit.SetInput{Module: i, Index: k, Input: compared}))
			}
			if in.Kind == "signal" && in.Pin != "" && in.Fed(&board) > board.MaxPinVoltage {
				fed := *in
				fed.Signal.SupplyMV = 0
				state("input.too-high", finding.Error, fmt.Sprintf("“%s” is fed %s, and the host’s pins bear %s.", name, say.Volts(in.Fed(&board)), say.Volts(board.MaxPinVoltage)), "What it gives may reach its supply, which kills the pin.", "Feed it from the host’s logic voltage.",
					edit.Remedy(b, "Feed it "+say.Volts(board.Logic), edit.SetInput{Module: i, Index: k, Input: fed}))
			}
		}
	}
	return out
}

// orOf lists references as another choice.
func orOf(references []int) string {
	out := ""
	for _, v := range references {
		out += " or " + say.Volts(circuit.MilliVolts(v))
	}
	return out
}

// moved returns the remedy that reads an input's line on the pin that suits it best; nil where none is left.
func moved(b *bench.Bench, module, input int, contact edit.Contact) []finding.Remedy {
	in := &b.Modules[module].Show.Inputs[input]
	pin, ok := BestPin(b, in)
	if !ok {
		return nil
	}
	return []finding.Remedy{edit.Remedy(b, "Read it on "+pin, edit.SetInputPin{Module: module, Input: input, Contact: contact, Pin: pin})}
}

// elsewhere returns the remedy that takes an input's line away from a pin.
func elsewhere(b *bench.Bench, module, input int, label string) []finding.Remedy {
	board := b.Host.Board()
	if board.Canonical(b.Modules[module].Show.Inputs[input].PinB) == label {
		return moved(b, module, input, edit.Second)
	}
	return moved(b, module, input, edit.First)
}
