package module

import "fmt"

// HeaderPin is one pin of a module's header.
type HeaderPin struct {
	Number int    // from 1
	Name   string // VSS, VDD, VO, RS, R/W, E, D0–D7, A, K; NC where nothing is joined inside
	For    string // what it is for
	Level  string // which levels it takes or gives
	Open   string // what happens when nothing is joined to it
}

// pinFacts are the pins by their names (HD44780U data sheet, ADE-207-272(Z), pin
// functions and DC characteristics, from memory; A and K: common practice).
var pinFacts = map[string]HeaderPin{
	"VSS": {For: "Ground.", Level: "0 V, one with the host’s ground", Open: "The module is not fed: nothing is seen."},
	"VDD": {For: "Supply.", Level: "4.7–5.3 V, or 2.7–3.6 V on a module made for it", Open: "The module is not fed: nothing is seen."},
	"VO":  {For: "Contrast: the glass is driven by VDD − VO.", Level: "about 0.5 V on a module fed 5 V; a potentiometer’s wiper, or ground", Open: "The module’s own ladder pulls it to VDD: nothing is seen."},
	"RS":  {For: "Register select: high for text, low for instructions.", Level: "high from 2.2 V at 5 V", Open: "Pulled high by the controller: instructions are taken for text."},
	"R/W": {For: "Read or write: low to write.", Level: "ground, or a pin of the host for reading the busy flag", Open: "Pulled high by the controller: the module drives D0–D7, and nothing is written."},
	"E":   {For: "Enable: its fall makes the controller take what stands on the other lines.", Level: "high from 2.2 V at 5 V, for 230 ns at least", Open: "It has no pull-up: no edge comes, and nothing is written."},
	"E2":  {For: "Enable of the second controller, which drives rows 3 and 4.", Level: "high from 2.2 V at 5 V", Open: "Rows 3 and 4 stay as they were at power-up."},
	"A":   {For: "Backlight, anode.", Level: "the supply, through a resistor unless the module carries one", Open: "The backlight stays dark."},
	"K":   {For: "Backlight, cathode.", Level: "ground", Open: "The backlight stays dark."},
	"NC":  {For: "Joined to nothing inside.", Level: "none", Open: "It may stay open."},
}

// Header lists the pins of a module's header, pin 1 first (common practice): 16 for
// an LCD of one controller; 18 for one of two, whose data lines come first; 14 for a
// VFD, which has neither contrast nor backlight. An LCD without a backlight has no A and K, or
// joins them to nothing.
func (m *Module) Header() []HeaderPin {
	names := []string{"VSS", "VDD", "VO", "RS", "R/W", "E", "D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7", "A", "K"}
	switch {
	case m.Technology == VFD && m.Geometry.Controllers < 2:
		names = append([]string{"VSS", "VDD", "NC"}, names[3:14]...)
	case m.Geometry.Controllers == 2:
		names = []string{"D7", "D6", "D5", "D4", "D3", "D2", "D1", "D0", "E", "R/W", "RS", "VO", "VSS", "VDD", "E2", "NC", "A", "K"}
		if m.Technology == VFD {
			names[11] = "NC"
			names = names[:15]
		}
	}
	if n := len(names); m.Unlit && m.Technology == LCD {
		if names = names[:n-2]; !m.Short {
			names = append(names, "NC", "NC")
		}
	}
	pins := make([]HeaderPin, len(names))
	for i, name := range names {
		p, known := pinFacts[name]
		if !known {
			p = HeaderPin{For: fmt.Sprintf("Data, bit %s.", name[1:]), Level: "high from 2.2 V at 5 V; a read drives it to the module’s supply", Open: "Pulled high by the controller: this bit always reads 1."}
			if name < "D4" {
				p.Open = "Pulled high by the controller; with four lines it may stay open."
			}
		}
		p.Number, p.Name = i+1, name
		pins[i] = p
	}
	return pins
}
