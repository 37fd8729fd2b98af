package table

import (
	"fmt"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/i2cbus"
	"slatebell/core/table/breadboard"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/server/api/facts"
)

// PlanResult is what a bench as a whole comes to.
type PlanResult struct {
	Host     HostFacts         `json:"host"`
	Nodes    []NodeFacts       `json:"nodes" nullable:"false" doc:"what is on the bus"`
	Segments []SegmentFacts    `json:"segments" nullable:"false" doc:"electrics of the bus"`
	Levels   []LevelFacts      `json:"levels" nullable:"false"`
	Rails    []RailFacts       `json:"rails" nullable:"false"`
	Pins     PinLoadFacts      `json:"pins" doc:"currents of the host's pins"`
	Findings []finding.Finding `json:"findings" nullable:"false" doc:"worst first"`
}

// HostFacts is the host with what its pins serve.
type HostFacts struct {
	Part    string    `json:"part"`
	Title   string    `json:"title"`
	LogicMV int       `json:"logicMV"`
	BearsMV int       `json:"bearsMV"`
	SDA     string    `json:"sda"`
	SCL     string    `json:"scl"`
	Pins    []PinFact `json:"pins" nullable:"false"`
	Free    int       `json:"free" doc:"pins that can drive a line and serve nothing"`
}

// PinFact is one pin of the host.
type PinFact struct {
	Label string   `json:"label"`
	Board int      `json:"board,omitempty" doc:"its number on a board that counts its pins"`
	Marks []string `json:"marks,omitempty" nullable:"false" doc:"what is special about it, such as upload or strap"`
	Uses  []string `json:"uses,omitempty" nullable:"false" doc:"what it serves, such as RS of Boat hall"`
	Plain bool     `json:"plain,omitempty" doc:"it can drive a line and is nothing else"`
}

// NodeFacts is one thing on the bus.
type NodeFacts struct {
	Path      string        `json:"path" doc:"RFC 6901 pointer"`
	ID        string        `json:"id"`
	Name      string        `json:"name"`
	Part      string        `json:"part"`
	What      string        `json:"what"`
	Known     bool          `json:"known" doc:"its part is in the table"`
	Fixed     bool          `json:"fixed,omitempty" doc:"it stays at its address"`
	Module    *int          `json:"module,omitempty" doc:"index of the module whose backpack it is"`
	Address   facts.Forms   `json:"address"`
	Channel   int           `json:"channel,omitempty"`
	FedMV     int           `json:"fedMV"`
	PullUpOhm int           `json:"pullUpOhm,omitempty"`
	Clashes   bool          `json:"clashes,omitempty"`
	Pads      []bool        `json:"pads,omitempty" nullable:"false" doc:"of a backpack: whether A0, A1 and A2 are closed"`
	Flips     []finding.Op  `json:"flips,omitempty" nullable:"false" doc:"of a backpack: the change that A0, A1 and A2 make, each"`
	Choices   []AddressFact `json:"choices" nullable:"false" doc:"addresses that it can have"`
}

// AddressFact is an address that a part can have.
type AddressFact struct {
	Address int        `json:"address"`
	Hex     string     `json:"hex"`
	Pads    string     `json:"pads,omitempty" doc:"of a backpack: those to close"`
	Taken   string     `json:"taken,omitempty" doc:"who has it"`
	Op      finding.Op `json:"op" doc:"the change that gives it"`
}

// SegmentFacts is a part of the bus that is one conductor a line.
type SegmentFacts struct {
	Name          string       `json:"name"`
	Channel       int          `json:"channel,omitempty"`
	Far           bool         `json:"far,omitempty" doc:"behind the level converter"`
	HighMV        int          `json:"highMV" doc:"level at rest; 0 where nothing pulls up"`
	Ohm           int          `json:"ohm" doc:"all pull-ups together; 0 for none"`
	MinOhm        int          `json:"minOhm" doc:"R_p(min)"`
	MaxOhm        int          `json:"maxOhm" doc:"R_p(max)"`
	CapacitancePF int          `json:"capacitancePF"`
	Measured      bool         `json:"measured,omitempty" doc:"the capacitance was measured"`
	RiseNS        int          `json:"riseNs"`
	MaxRiseNS     int          `json:"maxRiseNs"`
	Mode          string       `json:"mode"`
	PullUps       []PullUpFact `json:"pullUps" nullable:"false"`
}

// PullUpFact is a pair of pull-ups.
type PullUpFact struct {
	Path string `json:"path"`
	Name string `json:"name"`
	Ohm  int    `json:"ohm"`
	ToMV int    `json:"toMV"`
}

// LevelFacts is an output on an input.
type LevelFacts struct {
	Lines  string `json:"lines"`
	From   string `json:"from"`
	To     string `json:"to"`
	HighMV int    `json:"highMV" doc:"what it gives when high"`
	NeedMV int    `json:"needMV" doc:"V_IH"`
	High   int    `json:"marginHighMV" doc:"margin when high; negative: outside of the limit"`
	LowMV  int    `json:"lowMV"`
	MostMV int    `json:"mostMV" doc:"V_IL"`
	Low    int    `json:"marginLowMV"`
	Source string `json:"source"`
}

// RailFacts is a supply with what draws from it.
type RailFacts struct {
	Name    string     `json:"name"`
	Label   string     `json:"label"`
	TotalMA float64    `json:"totalMA"`
	LimitMA float64    `json:"limitMA,omitempty" doc:"absent where it is not known"`
	LimitOf string     `json:"limitOf"`
	Loads   []LoadFact `json:"loads" nullable:"false"`
}

// PinLoadFacts is what lines ask of the host's pins.
type PinLoadFacts struct {
	MostMA  float64 `json:"mostMA" doc:"on one pin"`
	MostOf  string  `json:"mostOf,omitempty"`
	LimitMA float64 `json:"limitMA,omitempty" doc:"what a pin usually gives; absent where it is not known"`
	TotalMA float64 `json:"totalMA" doc:"over all pins at once"`
	AllMA   float64 `json:"allMA,omitempty" doc:"what all pins together bear; absent where it is not known"`
}

// LoadFact is what one thing draws.
type LoadFact struct {
	Path       string  `json:"path"`
	Name       string  `json:"name"`
	PlannedMA  float64 `json:"plannedMA,omitempty"`
	MeasuredMA float64 `json:"measuredMA,omitempty" doc:"counts in place of what is planned"`
	Source     string  `json:"source,omitempty"`
}

func newPlan(b *bench.Bench) PlanResult {
	p := setup.Of(b)
	out := PlanResult{
		Host: hostFacts(b, &p), Nodes: []NodeFacts{}, Segments: []SegmentFacts{}, Levels: []LevelFacts{}, Rails: []RailFacts{},
		Findings: append([]finding.Finding{}, p.Findings...),
	}
	out.Pins = PinLoadFacts{facts.MilliAmperes(p.Pins.Most), p.Pins.MostOf, facts.MilliAmperes(p.Pins.Limit), facts.MilliAmperes(p.Pins.Total), facts.MilliAmperes(p.Pins.All)}
	clashing := map[int]bool{}
	for _, group := range bus.Clashes(p.Nodes) {
		for _, i := range group {
			clashing[i] = true
		}
	}
	for i := range p.Nodes {
		facts := nodeFacts(p.Nodes, i)
		facts.Clashes = clashing[i]
		out.Nodes = append(out.Nodes, facts)
	}
	for _, s := range p.Segments {
		f := SegmentFacts{
			Name: s.Name, Channel: s.Channel, Far: s.Far, HighMV: facts.MilliVolts(s.High), Ohm: facts.Ohms(s.Total), MinOhm: facts.Ohms(s.Min), MaxOhm: facts.Ohms(s.Max),
			CapacitancePF: int(s.Capacitance / physic.PicoFarad), Measured: s.Measured, RiseNS: int(s.Rise.Nanoseconds()), MaxRiseNS: int(s.Mode.Rise.Nanoseconds()), Mode: s.Mode.Name,
		}
		f.PullUps = []PullUpFact{}
		for _, u := range s.PullUps {
			f.PullUps = append(f.PullUps, PullUpFact{u.Path, u.Name, facts.Ohms(u.R), facts.MilliVolts(u.To)})
		}
		out.Segments = append(out.Segments, f)
	}
	for _, l := range p.Levels {
		out.Levels = append(out.Levels, LevelFacts{l.Lines, l.From, l.To, facts.MilliVolts(l.Out.High), facts.MilliVolts(l.In.High), facts.MilliVolts(l.High), facts.MilliVolts(l.Out.Low), facts.MilliVolts(l.In.Low), facts.MilliVolts(l.Low), l.Source})
	}
	for _, r := range p.Rails {
		f := RailFacts{Name: r.Name, Label: r.Label, TotalMA: facts.MilliAmperes(r.Total), LimitMA: facts.MilliAmperes(r.Limit), LimitOf: r.LimitOf}
		for _, l := range r.Loads {
			f.Loads = append(f.Loads, LoadFact{l.Path, l.Name, facts.MilliAmperes(l.Planned), facts.MilliAmperes(l.Measured), l.Source})
		}
		out.Rails = append(out.Rails, f)
	}
	return out
}

func hostFacts(b *bench.Bench, p *setup.Plan) HostFacts {
	board := b.Host.Board()
	sda, scl, _ := bus.Pins(b)
	out := HostFacts{Part: board.Part, Title: board.Title, LogicMV: facts.MilliVolts(board.Logic), BearsMV: facts.MilliVolts(board.MaxPinVoltage), SDA: sda, SCL: scl, Pins: []PinFact{}, Free: len(pinout.Free(b))}
	for _, pin := range board.Pins {
		f := PinFact{Label: pin.Label, Board: pin.Number, Plain: pin.Plain()}
		for _, m := range pin.Marks {
			f.Marks = append(f.Marks, string(m))
		}
		for _, u := range p.Uses[pin.Label] {
			f.Uses = append(f.Uses, u.Line+" of "+u.Name)
		}
		out.Pins = append(out.Pins, f)
	}
	return out
}

func nodeFacts(nodes []bus.Node, i int) NodeFacts {
	n := &nodes[i]
	out := NodeFacts{
		Path: n.Path, ID: n.ID, Name: n.Name, Part: n.Part.Name, What: n.Part.What, Known: n.Known, Fixed: n.Fixed, Address: facts.Address(n.At), Channel: n.Channel,
		FedMV: facts.MilliVolts(n.Fed), PullUpOhm: facts.Ohms(n.PullUp),
	}
	if n.Module >= 0 {
		out.Module = &n.Module
	}
	set := func(a i2cbus.Address) finding.Op { return finding.Replace(n.Of.AddressPath(), int(a)) }
	if n.Part.Padded() {
		pads := i2cbus.PadsFor(n.At)
		for k := range 3 {
			out.Pads = append(out.Pads, pads>>k&1 == 1)
			out.Flips = append(out.Flips, set(i2cbus.Address(int(n.At)^1<<k)))
		}
	}
	choices := n.Part.Addresses
	if n.Module >= 0 { // a backpack can carry either expander
		choices = nil
		for _, part := range i2cbus.Expanders() {
			choices = append(choices, part.Addresses...)
		}
	}
	for _, a := range choices {
		f := AddressFact{Address: int(a), Hex: a.String(), Op: set(a)}
		if n.Module >= 0 {
			f.Pads = i2cbus.PadsFor(a).String()
		}
		var who []string
		for j := range nodes {
			if j != i && nodes[j].At == a && bus.Meets(n, &nodes[j]) {
				who = append(who, nodes[j].Name)
			}
		}
		f.Taken = strings.Join(who, ", ")
		out.Choices = append(out.Choices, f)
	}
	return out
}

// LinkChoice is one way to join a module to the host.
type LinkChoice struct {
	Kind        string            `json:"kind" enum:"backpack,parallel4,parallel8,shift"`
	Now         bool              `json:"now,omitempty" doc:"the module has it"`
	Fits        bool              `json:"fits"`
	Why         string            `json:"why,omitempty" doc:"where it does not fit: why"`
	Recommended bool              `json:"recommended,omitempty"`
	Reason      string            `json:"reason,omitempty" doc:"why it is recommended"`
	Lines       []string          `json:"lines" nullable:"false" doc:"between host and module"`
	Pins        map[string]string `json:"pins" doc:"of the host, by line"`
	Taken       int               `json:"taken" doc:"pins of the host that it takes"`
	Left        int               `json:"left" doc:"free pins of the host that are left then"`
	Wires       int               `json:"wires"`
	Parts       []string          `json:"parts" nullable:"false" doc:"to have besides"`
	For         []string          `json:"for" nullable:"false"`
	Against     []string          `json:"against" nullable:"false"`
	WireWords   int               `json:"wireWords" doc:"bytes on an expander's outputs, or pulses of E"`
	WireUs      float64           `json:"wireUs" doc:"µs the wire is in use for the module's screen"`
	FinishUs    float64           `json:"finishUs" doc:"µs from power-up until the screen stands"`
	UpdateUs    float64           `json:"updateUs" doc:"µs to write the whole screen again; 0 for an empty one"`
	Patch       finding.Patch     `json:"patch" nullable:"false"`
	Ways        []LinkWay         `json:"ways,omitempty" nullable:"false" doc:"where its levels are no match: what may be done about it"`
}

// LinkWay is one way to join levels that do not match; its patch follows that of the link.
type LinkWay struct {
	Title   string        `json:"title"`
	Against string        `json:"against,omitempty"`
	Wires   int           `json:"wires" doc:"of the module with it, as they are planned"`
	Parts   []string      `json:"parts" nullable:"false"`
	Patch   finding.Patch `json:"patch" nullable:"false"`
}

// waysOf counts what each way takes: the wires of a table on which nothing else lies.
func waysOf(b *bench.Bench, index int, o *setup.Option) []LinkWay {
	var out []LinkWay
	for _, w := range o.Ways {
		linked := edit.Applied(b, edit.SetLink{Module: index, Link: o.Link})
		l := LinkWay{Title: w.Title, Against: w.Against, Parts: append([]string{}, w.Parts...), Patch: w.Edits.Patch(&linked)}
		joined := edit.Applied(&linked, w.Edits...)
		joined.Modules = joined.Modules[index : index+1]
		joined.Devices, joined.Wiring = nil, bench.Wiring{}
		if planned, err := breadboard.Plan(&joined); err == nil {
			l.Wires = len(planned.Wires)
		}
		out = append(out, l)
	}
	return out
}

// AdditionResult is a change that puts modules on a bench.
type AdditionResult struct {
	Patch finding.Patch `json:"patch" nullable:"false"`
	IDs   []string      `json:"ids" nullable:"false" doc:"of the new modules"`
	Why   string        `json:"why,omitempty" doc:"of what does not fit"`
	Would []string      `json:"would,omitempty" nullable:"false" doc:"what would make it fit"`
}

// ScanResult is a scan held against what ought to answer.
type ScanResult struct {
	Found   []facts.Forms `json:"found" nullable:"false"`
	Print   []string      `json:"print,omitempty" nullable:"false" doc:"what the simulated scanner prints"`
	Why     string        `json:"why,omitempty" doc:"where nothing answers: why"`
	Notes   []string      `json:"notes,omitempty" nullable:"false" doc:"how a print-out was read"`
	Matches []MatchFacts  `json:"matches" nullable:"false"`
}

// MatchFacts is one address of a scan.
type MatchFacts struct {
	Hex     string `json:"hex"`
	Verdict string `json:"verdict" enum:"expected,unexpected,missing,moved" doc:"moved: what is missing elsewhere seems to be here"`
	Says    string `json:"says"`
	Adopt   *Adopt `json:"adopt,omitempty" doc:"of a moved one: the change that plans it where it answers"`
}

// Adopt is a change that takes a scan for the plan.
type Adopt = finding.Remedy

func newMatches(b *bench.Bench, channel int, found []i2cbus.Address) []MatchFacts {
	nodes := bus.Heard(b, channel)
	out := []MatchFacts{}
	for _, m := range i2cbus.Compare(bus.Expected(b, channel), found) {
		f := MatchFacts{Hex: m.At.String(), Verdict: string(m.Verdict), Says: m.Says}
		if m.Verdict == i2cbus.Unexpected && m.Moved != 0 {
			n := &nodes[m.Which[0]]
			f.Verdict = "moved"
			adopt := edit.Remedy(b, fmt.Sprintf("Plan %s at %s", n.Name, m.At), n.Move(m.At))
			f.Adopt = &adopt
		}
		out = append(out, f)
	}
	return out
}

// ExpanderAdvice is what is known of a backpack's expander.
type ExpanderAdvice struct {
	Says string `json:"says" doc:"what it can be"`
	Next string `json:"next" doc:"what to look at next"`
}
