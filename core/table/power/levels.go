package power

import (
	"fmt"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/circuit"
	"slatebell/core/say"
	"slatebell/core/table/bus"
	"slatebell/core/wire/link"
)

// Level is an output on an input: what one gives, what the other asks for.
type Level struct {
	Lines     string // such as SDA, SCL
	From, To  string
	Path      string // of the module or device; the host's is /host
	Out       circuit.Output
	In        circuit.Input
	Low, High physic.ElectricPotential // margins; negative ones are outside of the limits
	Peak      physic.ElectricPotential // the highest that is given
	Source    string
}

func level(lines, from, to, path, source string, peak physic.ElectricPotential, out circuit.Output, in circuit.Input) Level {
	l := Level{Lines: lines, From: from, To: to, Path: path, Peak: peak, Out: out, In: in, Source: source}
	l.Low, l.High = circuit.Margins(out, in)
	return l
}

// header returns what the controller of a module asks for, and bears: 0.3 V beyond
// its supply (HD44780U data sheet, ADE-207-272(Z), DC characteristics and absolute
// maximum ratings, from memory).
func header(fed physic.ElectricPotential) circuit.Input {
	if fed < 4500*physic.MilliVolt {
		return circuit.Input{Low: 550 * physic.MilliVolt, High: fed * 7 / 10, MaxPinVoltage: fed + 300*physic.MilliVolt}
	}
	return circuit.Input{Low: 600 * physic.MilliVolt, High: 2200 * physic.MilliVolt, MaxPinVoltage: fed + 300*physic.MilliVolt}
}

// CMOS returns what an expander, a 74HC595 or another part of the bus asks for:
// 0.3 and 0.7 of its supply (PCF8574 and 74HC595 data sheets; UM10204 rev. 7,
// table 9; from memory). It bears 0.5 V beyond its supply.
func CMOS(fed physic.ElectricPotential) circuit.Input {
	return circuit.Input{Low: fed * 3 / 10, High: fed * 7 / 10, MaxPinVoltage: fed + 500*physic.MilliVolt}
}

// CMOSHigh is what a 74HC595 of a module asks for when high.
func CMOSHigh(m *bench.Module) physic.ElectricPotential { return CMOS(m.Fed()).High }

// Levels lists every output of a bench with the input it drives.
func Levels(b *bench.Bench, segments []bus.Segment) []Level {
	board := b.Host.Board()
	var out []Level
	for _, s := range segments {
		if s.Total == 0 {
			continue
		}
		lines := circuit.Output{Low: circuit.BusLow, High: s.High}
		if !s.Far && s.Channel == 0 {
			in := circuit.Input{Low: board.Logic * 3 / 10, High: board.BusHigh, MaxPinVoltage: board.MaxPinVoltage}
			out = append(out, level("SDA, SCL", s.Name, "host", "/host", board.Source, s.High, lines, in))
		}
		for _, n := range s.Nodes {
			if n.Channel == s.Channel {
				out = append(out, level("SDA, SCL", s.Name, n.Name, n.Path, n.Part.Name+" data sheet, V_IH 0.7 VDD", s.High, lines, CMOS(n.Fed)))
			}
		}
	}
	for i := range b.Modules {
		m := &b.Modules[i]
		path, name, v := fmt.Sprintf("/modules/%d", i), m.Name, m.Fed()
		switch link.Kind(m.Link.Kind) {
		case link.ShiftReg:
			out = append(out, level("data, clock, latch", "host", name, path, "74HC595 data sheet, V_IH 0.7 VCC", board.Logic, board.Out, CMOS(v)))
		case link.Parallel4, link.Parallel8:
			out = append(out, level("RS, E, data", "host", name, path, "HD44780U data sheet, ADE-207-272(Z), V_IH", board.Logic, board.Out, header(v)))
		}
	}
	return out
}

// judgeLevels finds levels outside of the limits.
func judgeLevels(b *bench.Bench, levels []Level) []finding.Finding {
	var out []finding.Finding
	bus := b.Bus
	bus.Converter = true
	converter := edit.Remedy(b, "Put a two-way level converter between", edit.SetBus{Bus: bus})
	over := false
	var low []Level
	for _, l := range levels {
		switch {
		case l.Path == "/host" && l.Out.High > l.In.MaxPinVoltage:
			over = true
			f := finding.Finding{
				Code: "bus.over-voltage", Severity: finding.Error, Path: "/bus",
				What: fmt.Sprintf("The pull-ups bring SDA and SCL to %s; the host’s pins bear %s.", say.Volts(l.Out.High), say.Volts(l.In.MaxPinVoltage)),
				Why:  "The host’s pins can be destroyed, slowly or at once.",
				Fix:  "Put a level converter between, or remove the pull-ups to 5 V and put some to the host’s voltage.", Source: l.Source,
				Remedies: []finding.Remedy{converter},
			}
			if names, lower := LowerPullUps(b); len(lower) > 0 {
				f.Remedies = append(f.Remedies, edit.Remedy(b, "Remove the pull-ups of "+say.List(names)+", and put 4.7 kΩ to the host’s voltage (outside of an expander’s limits)", lower...))
			}
			out = append(out, f)
		case l.Path != "/host" && l.Peak > l.In.MaxPinVoltage && !(over && l.Lines == "SDA, SCL"): // what settles the host settles it too
			out = append(out, finding.Finding{
				Code: "link.over-voltage", Severity: finding.Error, Path: l.Path,
				What: fmt.Sprintf("%s of %s are brought to %s; it bears %s.", l.Lines, l.To, say.Volts(l.Peak), say.Volts(l.In.MaxPinVoltage)),
				Why:  "What is beyond its supply flows into it through its protection, and can destroy it.",
				Fix:  "Feed it as the lines are, or put a level converter between.", Source: strings.Replace(l.Source, "V_IH", "absolute maximum ratings", 1),
			})
		case l.High < 0 && l.Lines == "SDA, SCL" && l.Path != "/host":
			low = append(low, l)
		case l.High < 0 || l.Low < 0:
			f := finding.Finding{
				Code: "link.level", Severity: finding.Warning, Path: l.Path,
				What: fmt.Sprintf("On %s of %s %s gives %s when high and %s when low; %s and %s are asked for.", l.Lines, l.To, l.From, say.Volts(l.Out.High), say.Volts(l.Out.Low), say.Volts(l.In.High), say.Volts(l.In.Low)),
				Why:  "Many work all the same; none has to.", Fix: "Put a level converter between; a 74HCT595 in place of a 74HC595 asks for 2 V.", Source: l.Source,
			}
			if l.Path == "/host" {
				f.Path, f.Remedies = "/bus", []finding.Remedy{converter}
			}
			out = append(out, f)
		}
	}
	if len(low) == 0 || over {
		return out // a converter settles both
	}
	names := make([]string, len(low))
	for i, l := range low {
		names[i] = l.To
	}
	f := finding.Finding{
		Code: "bus.level", Severity: finding.Warning, Path: low[0].Path,
		What: fmt.Sprintf("SDA and SCL rise to %s; %s must see %s.", say.Volts(low[0].Out.High), say.List(names), say.Volts(low[0].In.High)),
		Why:  fmt.Sprintf("The level lacks %s. Many work all the same, warm or cold, until one does not.", say.Volts(-low[0].High)),
		Fix:  "Put a level converter between.", Source: low[0].Source,
	}
	if !b.Bus.Converter {
		f.Remedies = []finding.Remedy{converter}
	}
	return append(out, f)
}

// LowerPullUps is what people do in place of a converter: pull-ups to a higher
// voltage go, and the bus gets some to the host's. It returns whose they are; no edits where there are none.
func LowerPullUps(b *bench.Bench) (names []string, edits edit.List) {
	logic := b.Host.Board().Logic
	for _, n := range bus.Nodes(b) {
		if n.PullUp == 0 || n.Fed <= logic+bus.SupplyApart {
			continue
		}
		names = append(names, n.Name)
		edits = append(edits, edit.RemovePullUps{Of: n.Of})
	}
	if len(edits) == 0 {
		return nil, nil
	}
	if b.Bus.PullUpOhm == 0 {
		edits = append(edits, bus.PullUpsOf(b, bench.UsualPullUpOhm))
	}
	return names, edits
}
