package wiring

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/say"
	"slatebell/core/table/pinout"
)

// inputs joins what a module's show listens to.
func (k *builder) inputs(i int, m *bench.Module) {
	whole := map[string]bool{} // parts of several lines
	for j := range m.Show.Inputs {
		in := &m.Show.Inputs[j]
		if in.Pin == "" {
			continue
		}
		p := Part{ID: k.id(k.own[i] + "-" + in.ID), Name: cmp.Or(in.Name, in.ID), Path: edit.InputPath(i, j), Module: i}
		lines := linesOf(m, in)
		switch {
		case len(lines) > 1 && whole[in.Part]:
			continue
		case len(lines) > 1:
			whole[in.Part] = true
			p.Name = in.Part
			k.several(&p, lines)
			continue
		}
		switch in.Kind {
		case "button":
			k.button(&p, in, i, j)
		case "counter":
			if in.PinB == "" {
				k.button(&p, in, i, j)
			} else {
				k.encoder(&p, in)
			}
		case "signal":
			switch in.Signal.Circuit.Kind {
			case "resistor":
				k.divider(&p, in)
			case "follower":
				k.follower(&p, in)
			default:
				k.voltage(&p, in)
			}
		case "serial":
			k.talker(&p, in)
		}
	}
}

// linesOf lists the inputs that one part gives with an input, which is among them: the ways of a stick,
// the turn of an encoder, and a press. It is the input alone where it is a part of its own.
func linesOf(m *bench.Module, in *bench.Input) []*bench.Input {
	var out []*bench.Input
	ways, turns := 0, 0
	for i := range m.Show.Inputs {
		o := &m.Show.Inputs[i]
		if o.Part == "" || o.Part != in.Part || o.Pin == "" {
			continue
		}
		switch {
		case o.Kind == "signal" && o.Signal.Circuit.Kind == "" && turns == 0:
			ways++
		case o.Kind == "counter" && o.PinB != "" && ways == 0 && turns == 0:
			turns++
		case o.Kind == "button" && !o.Button.Ladder:
		default:
			continue
		}
		out = append(out, o)
	}
	if ways+turns == 0 || !slices.Contains(out, in) {
		return []*bench.Input{in}
	}
	return out
}

// several joins a part that gives several inputs: a stick, or an encoder with a press.
func (k *builder) several(p *Part, lines []*bench.Input) {
	board := k.b.Host.Board()
	ways, presses := 0, 0
	for _, in := range lines {
		if in.Kind == "counter" {
			k.encoder(p, in, "S1", "S2")
			k.join("GND", "GND", p.Pin("S2"))
		}
	}
	if p.Kind == "" {
		p.Kind, p.For = Stick, "A stick whose ways and press the program reads."
		p.Look = "Five pins in a row, with their names beside them: read them, the order differs."
		p.Pins = named("GND", "VCC")
		for _, in := range lines {
			if in.Kind == "signal" {
				p.Pins = append(p.Pins, Pin{Name: wayName(ways), For: "Way of “" + cmp.Or(in.Name, in.ID) + "”.", Level: "half of its supply at rest"})
				ways++
			} else {
				p.Pins = append(p.Pins, Pin{Name: pressName(presses), For: "Press of “" + cmp.Or(in.Name, in.ID) + "”; closes to GND."})
				presses++
			}
		}
		k.add(*p)
		k.join("GND", "GND", p.Pin("GND"))
		feed := rail(lines[slices.IndexFunc(lines, func(in *bench.Input) bool { return in.Kind == "signal" })].Fed(&board))
		k.join(feed, feed, p.Pin("VCC"))
	}
	ways, presses = 0, 0
	for _, in := range lines {
		switch {
		case in.Kind == "signal":
			k.line(-1, in.Pin, p.Name+" "+wayName(ways), p.Pin(wayName(ways)))
			k.act(p, in, Gives, p.Pin("GND"), p.Pin("VCC"), p.Pin(wayName(ways)))
			ways++
		case in.Kind == "button" && p.Kind == Encoder:
			k.pressed(p, in, "S1", "S2")
		case in.Kind == "button":
			k.pressed(p, in, pressName(presses), "GND")
			presses++
		}
	}
}

// wayName is what boards of sticks call their ways, and pressName their press (common practice).
func wayName(n int) string { return []string{"X", "Y", "Z"}[min(n, 2)] }

func pressName(n int) string {
	if n == 0 {
		return "SW"
	}
	return fmt.Sprintf("SW%d", n+1)
}

// pressed joins the press of a part to its pin; it closes to another.
func (k *builder) pressed(p *Part, in *bench.Input, pin, to string) {
	k.act(p, in, Closes, p.Pin(pin), p.Pin(to))
	k.line(-1, in.Pin, cmp.Or(in.Name, in.ID), p.Pin(pin))
	k.pull(p, in, p.Pin(pin), p.ID+"-pull-"+in.ID, "Pull resistor of "+cmp.Or(in.Name, in.ID))
}

// button joins a contact, and what holds its pin while it is open.
func (k *builder) button(p *Part, in *bench.Input, module, input int) {
	logic := rail(k.b.Host.Board().Logic)
	p.Kind, p.For, p.Look, p.Pins = Button, "A button that the program reads.", "Two of its four legs are joined at all times: use two that lie across from each other.", named("1", "2")
	k.act(p, in, Closes, p.Pin("1"), p.Pin("2"))
	if l, rung, ok := pinout.RungOf(k.ladders, module, input); ok {
		k.rung(p, in, l, rung)
		return
	}
	k.add(*p)
	k.line(-1, in.Pin, p.Name, p.Pin("1"))
	if in.Pull == "down" {
		k.join(logic, logic, p.Pin("2"))
	} else {
		k.join("GND", "GND", p.Pin("2"))
	}
	k.pull(p, in, p.Pin("1"), p.ID+"-pull", "Pull resistor of "+p.Name)
}

// rung joins a button of a ladder: the first to the pin itself, the others behind a resistor each.
func (k *builder) rung(p *Part, in *bench.Input, l *pinout.Ladder, rung int) {
	logic := rail(k.b.Host.Board().Logic)
	k.add(*p)
	k.join("GND", "GND", p.Pin("2"))
	if rung == 0 {
		k.line(-1, in.Pin, p.Name, p.Pin("1"))
		id := k.id(p.ID + "-top")
		k.resistor(id, Pull, "Top resistor of the ladder on "+l.Pin, "Holds the pin up while no button is pressed.", p.Path, p.Module, pinout.LadderTop)
		k.join(k.netOf(p.Pin("1")), p.Name, id+"/1")
		k.join(logic, logic, id+"/2")
		k.taps[l.Pin] = p.Pin("1")
		return
	}
	id := k.id(p.ID + "-rung")
	k.resistor(id, Pull, "Resistor before "+p.Name, "Makes a voltage of its own for this button.", p.Path, p.Module, l.Rungs[rung].Below)
	k.join(k.netOf(k.taps[l.Pin]), p.Name, id+"/1")
	k.join(p.Pin("1"), p.Name, id+"/2", p.Pin("1"))
	k.taps[l.Pin] = p.Pin("1")
}

// netOf is the name of the net that a pin is on: its own where it is on none yet.
func (k *builder) netOf(pin string) string {
	if i, joined := k.out.netOf[pin]; joined {
		return k.out.Nets[i].Name
	}
	return pin
}

// pull holds a pin by a resistor, unless the host does.
func (k *builder) pull(p *Part, in *bench.Input, pin, id, name string) {
	if in.Pull == "" || in.Pull == "host" {
		return
	}
	logic := rail(k.b.Host.Board().Logic)
	id = k.id(id)
	k.resistor(id, Pull, name, "Holds the pin while the contact is open.", p.Path, p.Module, 10*physic.KiloOhm)
	k.join(k.netOf(pin), p.Name, id+"/1")
	to := map[string]string{"up": logic, "down": "GND"}[in.Pull]
	k.join(to, to, id+"/2")
}

// encoder joins a rotary encoder's two contacts; more pins are its press.
func (k *builder) encoder(p *Part, in *bench.Input, more ...string) {
	p.Kind, p.For = Encoder, "A rotary encoder whose notches the program counts."
	p.Look = "Three pins in a row: the middle one is common. A and B may change places; it then counts the other way. The two on its other side are its press, a button of its own."
	p.Pins = []Pin{{Name: "A", For: "First contact."}, {Name: "C", For: "Common."}, {Name: "B", For: "Second contact."}}
	for _, name := range more {
		p.Pins = append(p.Pins, Pin{Name: name, For: "Its press."})
	}
	k.add(*p)
	k.act(p, in, Closes, p.Pin("A"), p.Pin("C"))
	k.act(p, in, Closes, p.Pin("B"), p.Pin("C"))
	k.line(-1, in.Pin, p.Name+" A", p.Pin("A"))
	k.line(-1, in.PinB, p.Name+" B", p.Pin("B"))
	if in.Pull == "down" {
		logic := rail(k.b.Host.Board().Logic)
		k.join(logic, logic, p.Pin("C"))
	} else {
		k.join("GND", "GND", p.Pin("C"))
	}
	k.pull(p, in, p.Pin("A"), p.ID+"-pull-a", "Pull resistor of A of "+p.Name)
	k.pull(p, in, p.Pin("B"), p.ID+"-pull-b", "Pull resistor of B of "+p.Name)
}

// voltage joins a part of three pins that gives a voltage.
func (k *builder) voltage(p *Part, in *bench.Input) {
	board := k.b.Host.Board()
	p.Kind, p.For, p.Look, p.Pins = Stick, "A stick, knob or sensor whose voltage the program reads.", "Three pins or more: ground, supply, and one output an axis.", named("GND", "VCC", "OUT")
	if c := &in.Signal.Circuit; c.Kind == "knob" {
		p.For = "A potentiometer whose place the program reads."
		p.Look = say.Ohms(ohms(c.Ohm, pinout.UsualPot)) + ", linear. Its middle leg gives the voltage; the outer two may change places, and it then turns the other way."
		p.Pins = named("GND", "OUT", "VCC")
	}
	k.add(*p)
	k.join("GND", "GND", p.Pin("GND"))
	feed := rail(in.Fed(&board))
	k.join(feed, feed, p.Pin("VCC"))
	k.line(-1, in.Pin, p.Name, p.Pin("OUT"))
	k.act(p, in, Gives, p.Pin("GND"), p.Pin("VCC"), p.Pin("OUT"))
}

func ohms(r int, usual physic.ElectricResistance) physic.ElectricResistance {
	return cmp.Or(physic.ElectricResistance(r)*physic.Ohm, usual)
}

// divider joins a resistor that changes, to ground, below one to its supply.
func (k *builder) divider(p *Part, in *bench.Input) {
	board := k.b.Host.Board()
	p.Kind, p.For, p.Look, p.Pins = Sensor, "A resistor that changes, whose voltage the program reads.", "Two legs, and no right way round.", named("1", "2")
	k.add(*p)
	k.line(-1, in.Pin, p.Name, p.Pin("1"))
	k.act(p, in, Changes, p.Pin("1"), p.Pin("2"))
	k.join("GND", "GND", p.Pin("2"))
	id := k.id(p.ID + "-other")
	k.resistor(id, Pull, "Other resistor of "+p.Name, "Makes a voltage of what the sensor has.", p.Path, p.Module, pinout.OtherOf(&in.Signal.Circuit))
	feed := rail(in.Fed(&board))
	k.join(k.netOf(p.Pin("1")), p.Name, id+"/1")
	k.join(feed, feed, id+"/2")
}

// follower joins what follows the size of an alternating voltage: a potentiometer for its level, a diode,
// and a capacitor that a resistor empties.
func (k *builder) follower(p *Part, in *bench.Input) {
	c := &in.Signal.Circuit
	r, keeps := pinout.EmptiesOf(c), pinout.KeepsOf(c)
	p.Kind, p.For, p.Pins = Source, "An alternating voltage whose size the program reads.", []Pin{{Name: "GND", For: "Its ground."}, {Name: "SIG", For: "The signal: of headphones or a line, never of a loudspeaker’s amplifier or of mains."}}
	p.Look = "A plug’s tip is one channel, its ring the other, its long sleeve the ground."
	k.add(*p)
	pot := Part{ID: k.id(p.ID + "-level"), Kind: Knob, Name: "Level of " + p.Name, For: "Sets which part of the signal is let through.", Look: "10 kΩ. Turn it so that the loudest shows the greatest value.", Path: p.Path, Module: p.Module, Ohm: pinout.UsualPot, Pins: named("1", "wiper", "3")}
	k.add(pot)
	diode := Part{ID: k.id(p.ID + "-diode"), Kind: Diode, Name: "Diode of " + p.Name, For: "Lets the upper half of the signal through.", Look: "A signal diode; its ring is the cathode, and goes to the host’s pin. Germanium or Schottky diodes lose less than silicon’s 0.6 V.", Path: p.Path, Module: p.Module, Pins: []Pin{{Name: "A", For: "Anode."}, {Name: "K", For: "Cathode, the ring."}}}
	k.add(diode)
	kept := Part{ID: k.id(p.ID + "-keeps"), Kind: Capacitor, Name: "Capacitor of " + p.Name, For: "Keeps the size of the signal.", Look: fmt.Sprintf("%s. Of an electrolytic one the longer leg is +, and the stripe marks −.", say.Farads(keeps)), Path: p.Path, Module: p.Module, Pins: []Pin{{Name: "+", For: "To the host’s pin."}, {Name: "-", For: "Ground."}}}
	k.add(kept)
	k.join("GND", "GND", p.Pin("GND"), pot.Pin("3"), kept.Pin("-"))
	k.join(p.Pin("SIG"), p.Name, p.Pin("SIG"), pot.Pin("1"))
	k.join(pot.Pin("wiper"), p.Name, pot.Pin("wiper"), diode.Pin("A"))
	k.line(-1, in.Pin, p.Name, diode.Pin("K"))
	k.act(p, in, Sounds, p.Pin("SIG"), pot.Pin("1"), pot.Pin("wiper"), diode.Pin("A"), diode.Pin("K"))
	k.join(k.netOf(diode.Pin("K")), p.Name, kept.Pin("+"))
	id := k.id(p.ID + "-empties")
	k.resistor(id, Pull, "Resistor of "+p.Name, fmt.Sprintf("Empties the capacitor: from all to a tenth in %d ms.", pinout.FallOf(c).Milliseconds()), p.Path, p.Module, r)
	k.join(k.netOf(diode.Pin("K")), p.Name, id+"/1")
	k.join("GND", "GND", id+"/2")
}

// talker joins a part that sends characters: its output to the pin that the host listens on, and the
// host's to its input where that is wanted. Where their voltages differ, the higher is divided.
func (k *builder) talker(p *Part, in *bench.Input) {
	board := k.b.Host.Board()
	fed := in.FedBy(&board)
	p.Kind, p.For = Talker, "A part that sends characters over a serial line."
	p.Look = "Read the labels: its TX, also TXD, goes to the host’s pin that listens. Its RX stays open where the program only listens."
	p.Pins = []Pin{{Name: "GND", For: "Ground.", Level: "0 V"}, {Name: "VCC", For: "Supply, as the part asks for it."}, {Name: "TX", For: "What it sends.", Open: "Nothing comes, or noise does."}}
	if in.Serial.Sends {
		p.Pins = append(p.Pins, Pin{Name: "RX", For: "What it hears."})
	}
	k.add(*p)
	k.join("GND", "GND", p.Pin("GND"))
	k.join(rail(fed), rail(fed), p.Pin("VCC"))
	k.act(p, in, Sends, p.Pin("GND"), p.Pin("VCC"), p.Pin("TX"))
	if fed > board.Logic {
		middle := k.divided(p, "tx", "what it sends", p.Pin("TX"))
		k.line(-1, in.Pin, p.Name, middle)
	} else {
		k.line(-1, in.Pin, p.Name, p.Pin("TX"))
	}
	line, ok := board.Line(in.Pin)
	switch {
	case !in.Serial.Sends || !ok || line.TX == "":
	case fed < board.Logic:
		middle := k.divided(p, "rx", "what it hears", "")
		k.line(-1, line.TX, p.Name+" RX", strings.TrimSuffix(middle, "2")+"1")
		k.join(middle, p.Name, p.Pin("RX"))
	default:
		k.line(-1, line.TX, p.Name+" RX", p.Pin("RX"))
	}
}

// divided stands a divider of 1 kΩ and 2 kΩ on a line (common practice: 5 V become 3.3 V), and returns its
// middle; its top is joined to from, where that is named.
func (k *builder) divided(p *Part, id, what, from string) string {
	top, foot := k.id(p.ID+"-"+id+"-1"), k.id(p.ID+"-"+id+"-2")
	k.resistor(top, Pull, "Upper resistor of "+what+", "+p.Name, "Divides the higher voltage.", p.Path, p.Module, physic.KiloOhm)
	k.resistor(foot, Pull, "Lower resistor of "+what+", "+p.Name, "Divides the higher voltage.", p.Path, p.Module, 2*physic.KiloOhm)
	if from != "" {
		k.join(from, p.Name, from, top+"/1")
	}
	k.join(top+"/2", p.Name, top+"/2", foot+"/1")
	k.join("GND", "GND", foot+"/2")
	return top + "/2"
}
