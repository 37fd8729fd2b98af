package breadboard

import (
	"cmp"
	"fmt"
	"strings"

	"slatebell/core/say"
	"slatebell/core/table/wiring"
)

// title names a part as it is bought.
func (t *Table) title(p *wiring.Part) string {
	switch p.Kind {
	case wiring.Host, wiring.Supply, wiring.Converter:
		return p.Name
	case wiring.Module, wiring.Backpack:
		m := &t.Bench.Modules[p.Module]
		mod, err := m.Display.Module()
		if err != nil {
			return p.Name
		}
		kind := map[string]string{"lcd": "LCD", "vfd": "VFD"}[string(mod.Technology)]
		if p.Kind == wiring.Backpack {
			return fmt.Sprintf("%s %s with backpack", mod.Geometry.Title, kind)
		}
		return fmt.Sprintf("%s %s", mod.Geometry.Title, kind)
	case wiring.Pot, wiring.Knob:
		return "potentiometer " + say.Ohms(p.Ohm)
	case wiring.Resistor:
		return "resistor " + say.Ohms(p.Ohm) + ", 0.25 W"
	case wiring.Register:
		chip, _, _ := strings.Cut(p.Name, " of ")
		return chip
	case wiring.Transistor:
		if p.Low {
			return "PNP transistor, 100 mA"
		}
		return "NPN transistor, 100 mA"
	case wiring.Button:
		return "button"
	case wiring.Stick:
		return "stick, knob or sensor"
	case wiring.Encoder:
		return "rotary encoder"
	case wiring.Talker:
		return "part with a serial line"
	case wiring.Sensor:
		return "resistor that changes"
	case wiring.Source:
		return "source of a signal"
	case wiring.Diode:
		return "signal diode"
	case wiring.Capacitor:
		return "capacitor"
	}
	return p.Name
}

// moduleName returns how lists and findings call a module.
func (t *Table) moduleName(index int) string {
	if p, ok := t.Net.Of(index, wiring.Itself); ok {
		return p.Called()
	}
	m := &t.Bench.Modules[index]
	return cmp.Or(m.Name, m.ID)
}

func boardTitle(columns int) string {
	switch columns {
	case 30:
		return "half-size breadboard"
	case 63:
		return "full-size breadboard"
	}
	return fmt.Sprintf("breadboard of %d columns", columns)
}

// lengthOf writes a jumper's length; wires that are cut come from one reel.
func lengthOf(kind string, mm int) string {
	if kind == "jumper" {
		return fmt.Sprintf(", %d cm", (mm+9)/10)
	}
	return ""
}
