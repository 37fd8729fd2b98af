package power_test

import (
	"slatebell/core/table/power"
	"slatebell/core/table/setup"
	"slatebell/core/table/tabletest"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"
)

// TestSupply reckons the demo's currents (USB 2.0 specification, §7.2.1, from
// memory; currents of modules: common practice): a measured one counts.
func TestSupply(t *testing.T) {
	b := tabletest.Landing()
	total := func() physic.ElectricCurrent { return power.Rails(&b)[0].Total }
	if total() <= 100*physic.MilliAmpere || total() > 500*physic.MilliAmpere {
		t.Errorf("the demo draws %s", total())
	}
	before := total()
	b.Modules[0].Display.Measured.CurrentMA = 100
	if gained := total() - before; gained < 70*physic.MilliAmpere || gained > 80*physic.MilliAmpere {
		t.Errorf("a measured 100 mA in place of about 23 mA adds %s", gained)
	}
	b.Modules[0].Display.Measured.CurrentMA = 0
	b.Modules[0].Link.Outputs.Backlight = false
	if lost := before - total(); lost < 20*physic.MilliAmpere {
		t.Errorf("the backlight draws %s", lost)
	}
	b.Modules[0].Display.Supply.MilliVolts = 3300
	if rails := power.Rails(&b); len(rails) != 2 || rails[1].Name != "3.3 V" || rails[1].Total != rails[1].Loads[0].Planned || rails[0].Total < rails[1].Total {
		t.Errorf("%+v", rails)
	}
	b.Devices[0].CurrentMA = 0
	if f := tabletest.At(setup.Check(&b), "supply.unknown"); !strings.Contains(f.What, "Boathouse clock") {
		t.Errorf("%+v", f)
	}
}

// TestLevels holds what inputs ask for at several supplies (HD44780U data sheet,
// ADE-207-272(Z), DC characteristics: 2.2 V and 0.6 V from 4.5 V on, 0.7 VCC and
// 0.55 V below; PCF8574 and 74HC595 data sheets: 0.7 and 0.3 of the supply; all
// from memory), and which rail feeds them.
func TestLevels(t *testing.T) {
	for _, c := range []struct {
		kind         string
		fed          int
		high, low    physic.ElectricPotential // asked for
		given        physic.ElectricPotential
		rail, source string
	}{
		{"parallel4", 5000, 2200, 600, 4200, "5 V", "HD44780U"},
		{"parallel8", 4500, 2200, 600, 4200, "5 V", "HD44780U"},
		{"parallel8", 4499, 3149, 550, 4200, "5 V", "HD44780U"},
		{"parallel4", 3601, 2520, 550, 4200, "5 V", "HD44780U"},
		{"parallel4", 3600, 2520, 550, 4200, "3.3 V", "HD44780U"},
		{"shift", 5000, 3500, 1500, 4200, "5 V", "74HC595"},
		{"backpack", 5000, 3500, 1500, 5000, "5 V", "PCF8574"},
		{"backpack", 3300, 2310, 990, 3300, "3.3 V", "PCF8574"},
	} {
		b := tabletest.Boards(1, "ATmega328P")
		b.Modules[0].Link.Kind = c.kind
		b.Modules[0].Display.Supply.MilliVolts = c.fed
		levels := setup.Of(&b).Levels
		l := levels[len(levels)-1]
		mV := func(v physic.ElectricPotential) physic.ElectricPotential { return v / physic.MilliVolt }
		if mV(l.In.High) != c.high || mV(l.In.Low) != c.low || mV(l.Out.High) != c.given || l.High != l.Out.High-l.In.High || l.Low != l.In.Low-l.Out.Low || !strings.Contains(l.Source, c.source) {
			t.Errorf("%s at %d mV: %+v", c.kind, c.fed, l)
		}
		rails := power.Rails(&b)
		if fedBy := rails[len(rails)-1].Name; fedBy != c.rail {
			t.Errorf("%s at %d mV is fed by %s", c.kind, c.fed, fedBy)
		}
	}
}
