package breadboard

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"slatebell/core/part/i2cbus"
	"slatebell/core/part/module"
	"slatebell/core/say"
	"slatebell/core/table/wiring"
)

// Task is one thing to do, in the order of the work.
type Task struct {
	ID      string // by which the document keeps what is done
	Section string // solder, place, wire, check, power
	Says    string
	Caution string
	Wire    int // number of the wire, from 1; 0 for none
	Done    bool
}

// The sections of the work, in their order.
const (
	Solder = "solder"
	Place  = "place"
	WireUp = "wire"
	Verify = "check"
	Power  = "power"
)

// Cautions of the work. They defer to local codes and licensed practice where more
// than extra-low voltage is about.
const (
	hot      = "A soldering iron burns, and its fumes need air: open a window, wear glasses, wash your hands afterwards."
	unplug   = "Unplug everything before you change a wire."
	tube     = "A VFD makes tens of volts on its board: touch nothing on it while it is fed, nor a minute after."
	mains    = "Anything at mains voltage, a built-in supply among it, is work for local codes and licensed people."
	knife    = "Cut the tape below the rails away from your hand."
	reversed = "Reversed supply destroys a module at once: read the labels, not the order of the pins."
)

// Work lists all there is to do: soldering first, then parts, wires, what to check,
// and the supply last.
func (t *Table) Work() []Task {
	var out []Task
	add := func(section, id, says, caution string, wire int) {
		out = append(out, Task{ID: id, Section: section, Says: says, Caution: caution, Wire: wire, Done: slices.Contains(t.Bench.Wiring.Done, id)})
	}
	for i := range t.Net.Parts {
		t.soldering(&t.Net.Parts[i], add)
	}
	for i := range t.Boards {
		if b := &t.Boards[i]; b.Beyond != "" {
			add(Place, "lay "+b.ID, t.layText(b), knife, 0)
		}
	}
	for _, p := range t.Places {
		part, _ := t.Net.Part(p.Part)
		says := fmt.Sprintf("%s into %s: pin %s in %s", upper(part.Name), p.Board, part.Pins[0].Name, p.Hole)
		if last := part.Pins[len(part.Pins)-1]; len(part.Pins) > 1 {
			says += fmt.Sprintf(", pin %s in %s", last.Name, strings.TrimPrefix(t.Where(part.Pin(last.Name)), p.Board+"/"))
		}
		add(Place, "place "+p.Part, says+".", "", 0)
	}
	var power []Item
	for _, i := range t.List() {
		if slices.Contains([]string{"5V", "3V3"}, i.Net) && (isHost(i.From) || isHost(i.To)) {
			power = append(power, i)
			continue
		}
		add(WireUp, i.ID, t.wireText(&i), "", i.Number)
	}
	add(Verify, "check list", "Go over the list once more, against the board: every wire, both ends.", unplug, 0)
	add(Verify, "check short", "Measure between 5 V and ground with nothing plugged in: more than 100 Ω. Less is a short.", "", 0)
	for i := range t.Net.Parts {
		if p := &t.Net.Parts[i]; p.Kind == wiring.Module || p.Kind == wiring.Backpack {
			low, high := "VSS", "VDD"
			if p.Kind == wiring.Backpack {
				low, high = "GND", "VCC"
			}
			add(Verify, "check "+p.ID, fmt.Sprintf("%s: %s to ground, %s to the supply, not the other way round.", p.Name, low, high), reversed, 0)
		}
	}
	for _, i := range power {
		add(Power, i.ID, t.wireText(&i), "", i.Number)
	}
	add(Power, "plug in", "Plug the host in last, and go through first light.", mains, 0)
	return out
}

// layText says how a board lies beyond the edge of another.
func (t *Table) layText(b *Board) string {
	board := t.Bench.Host.Board()
	return fmt.Sprintf("Take the lower rails off %s, and lay it above %s so far off that the host stands over both: one row of its pins in row a of %s, the other in row j of %s, %.1f mm apart.",
		b.ID, b.Beyond, b.ID, b.Beyond, across(&board)*Pitch)
}

// soldering lists what of a part is soldered before it is used.
func (t *Table) soldering(p *wiring.Part, add func(section, id, says, caution string, wire int)) {
	if p.Kind != wiring.Module && p.Kind != wiring.Backpack {
		return
	}
	m := &t.Bench.Modules[p.Module]
	mod, err := m.Display.Module()
	if err != nil {
		return
	}
	pins := len(mod.Header())
	caution := hot
	if mod.Technology == module.VFD {
		caution += " " + tube
	}
	if p.Kind == wiring.Module && !m.Fitting.Soldered {
		add(Solder, "solder "+p.ID, fmt.Sprintf("A row of %d header pins to %s. Plug the pins into a breadboard, lay the module on them, and solder one pin at either end first: so they stand straight.", pins, p.Name), caution, 0)
	} else if p.Kind == wiring.Backpack {
		at := i2cbus.Address(m.Link.Outputs.Address)
		if !m.Fitting.Soldered {
			add(Solder, "solder "+p.ID, fmt.Sprintf("The backpack to %s: its 16 pins through the module’s from behind, pin 1 to pin 1 (VSS), chip outwards. The wrong way round it destroys both.", p.Name), caution, 0)
		}
		says := fmt.Sprintf("Leave the pads of %s’s backpack open: its address is %s.", p.Name, at)
		if pads := i2cbus.PadsFor(at); pads != 0 {
			says = fmt.Sprintf("Bridge %s on %s’s backpack: its address becomes %s.", pads, p.Name, at)
		}
		add(Solder, "pads "+p.ID, says, "", 0)
	}
	if mod.Technology == module.VFD {
		add(Solder, "link "+p.ID, fmt.Sprintf("The solder link on %s that chooses between parallel and serial: bridge parallel.", p.Name), tube, 0)
	}
}

// wireText words a wire for someone who reads it aloud.
func (t *Table) wireText(i *Item) string {
	end := func(pin, hole, says string) string {
		switch {
		case hole == "":
			return says
		case says == "" || strings.HasPrefix(hole, pin) && strings.ContainsAny(pin, "+-"):
			return hole
		}
		return fmt.Sprintf("%s (%s)", hole, says)
	}
	return fmt.Sprintf("%s, %s: %s to %s.", upper(cmp.Or(i.Colour, "any colour")), lengthText(i), end(i.From, i.FromHole, i.FromSays), end(i.To, i.ToHole, i.ToSays))
}

func lengthText(i *Item) string {
	if i.FromHole != "" && i.ToHole != "" {
		return fmt.Sprintf("%d mm", i.LengthMM)
	}
	return fmt.Sprintf("%d cm", (i.LengthMM+9)/10)
}

// PartTitle names a part as it is bought, such as resistor 220 Ω, 0.25 W.
func (t *Table) PartTitle(p *wiring.Part) string { return t.title(p) }

// OhmText writes a part's resistance, or "".
func OhmText(p *wiring.Part) string {
	if p.Ohm == 0 {
		return ""
	}
	return say.Ohms(p.Ohm)
}
