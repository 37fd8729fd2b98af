package breadboard

import (
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/part/circuit"
	"slatebell/core/table/wiring"
	"slatebell/core/wire/link"
)

// lit is the current from which a backlight is seen.
const lit = 200 * physic.MicroAmpere

// analogue solves the module's contrast and backlight: resistors, potentiometers,
// the module's own ladder and its diode between the rails.
func (j *joiner) analogue(out *link.Joined) {
	off, on := j.solve(false), j.solve(true)
	switch {
	case off.light >= lit && on.light >= lit:
		out.Pins["BL"] = link.Supply
	case on.light >= lit:
		out.Pins["BL"] = "BL"
	}
	out.LightMA = float64(on.light/physic.MicroAmpere) / 1000
	if vo, fed := on.vo, out.Dead == ""; fed {
		mv := int(vo / physic.MilliVolt)
		out.VOMV = &mv
	}
}

// solved is what matters of a solution.
type solved struct {
	vo    physic.ElectricPotential
	light physic.ElectricCurrent
}

// solve solves the network while the transistor of the backlight's line is cut, or
// conducts.
func (j *joiner) solve(switched bool) solved {
	t := j.t
	var n circuit.Network
	for _, rail := range []struct{ pin, name string }{{"host/" + t.Bench.Host.Board().Rail3, "3V3"}, {"host/" + t.Bench.Host.Board().Rail5, "5V"}, {"supply/+", "5V"}, {"supply/-", "GND"}, {"host/GND", "GND"}} {
		if _, there := t.pinIndex[rail.pin]; there {
			n.Hold(t.nodeOf(rail.pin), j.volts(rail.name))
		}
	}
	for i := range t.Net.Parts {
		p := &t.Net.Parts[i]
		switch p.Kind {
		case wiring.Resistor:
			n.Resistor(t.nodeOf(p.Pin("1")), t.nodeOf(p.Pin("2")), p.Ohm)
		case wiring.Pot:
			turn := Turn(&t.Bench.Modules[p.Module])
			n.Resistor(t.nodeOf(p.Pin("1")), t.nodeOf(p.Pin("wiper")), scaled(p.Ohm, 1-turn))
			n.Resistor(t.nodeOf(p.Pin("wiper")), t.nodeOf(p.Pin("3")), scaled(p.Ohm, turn))
		case wiring.Transistor:
			if p.Module == j.index && switched && j.baseDriven(p) {
				n.Resistor(t.nodeOf(p.Pin("C")), t.nodeOf(p.Pin("E")), physic.Ohm)
			}
		}
	}
	vo, vdd := t.nodeOf(j.part.Pin("VO")), t.nodeOf(j.part.Pin("VDD"))
	if vo != vdd {
		n.Resistor(vo, vdd, j.mod.Ladder())
	}
	if j.mod.Unlit {
		s := n.Solve()
		v, _ := s.Voltage(vo)
		return solved{vo: v}
	}
	b := j.part.Light
	diode := n.Diode(t.nodeOf(j.part.Pin("A")), t.nodeOf(j.part.Pin("K")), b.Forward, b.Own+b.Carried)
	s := n.Solve()
	v, _ := s.Voltage(vo)
	return solved{v, s.Through(diode)}
}

// baseDriven reports whether the backlight's line reaches a transistor's base
// through its resistor.
func (j *joiner) baseDriven(p *wiring.Part) bool {
	if base, ok := j.t.Net.Of(j.index, wiring.Base); ok {
		for _, ends := range [][2]string{{"1", "2"}, {"2", "1"}} {
			if j.t.nodeOf(base.Pin(ends[0])) == j.t.nodeOf(p.Pin("B")) && strings.Contains(j.source(base.Pin(ends[1]), false), "BL") {
				return true
			}
		}
	}
	return strings.Contains(j.source(p.Pin("B"), false), "BL")
}

func scaled(r physic.ElectricResistance, by float64) physic.ElectricResistance {
	return physic.ElectricResistance(float64(r) * by)
}

// Divide returns the divider that a module's potentiometer makes with the module's
// own ladder.
func Divide(m *bench.Module) (circuit.Divider, error) {
	mod, err := m.Display.Module()
	if err != nil {
		return circuit.Divider{}, err
	}
	return circuit.Divider{Supply: mod.Fed(), Pot: m.Fitting.Pot(), Load: mod.Ladder()}, nil
}

// Turn returns where the knob of a module's potentiometer stands: where the document
// says, or where it gives the contrast that the document or the module asks for.
func Turn(m *bench.Module) float64 {
	if m.Fitting.Turn != nil {
		return *m.Fitting.Turn
	}
	d, err := Divide(m)
	mod, err2 := m.Display.Module()
	if err != nil || err2 != nil || d.Pot == 0 {
		return 0
	}
	return d.TurnFor(mod.VO(m.Display.Contrast(&mod)))
}
