package module

import (
	"testing"

	"periph.io/x/conn/v3/physic"
)

// TestHeader checks the pins of the trade's headers (common practice): pin 11 of 16 is
// D4, the 6th from the other end; 14 pins on a VFD; data first on two controllers.
func TestHeader(t *testing.T) {
	of := func(geometry string, tech Technology) []HeaderPin {
		g, err := ParseGeometry(geometry)
		if err != nil {
			t.Fatal(err)
		}
		m := Module{Geometry: g, Technology: tech}
		return m.Header()
	}
	for _, c := range []struct {
		geometry string
		tech     Technology
		count    int
		pins     map[int]string
	}{
		{"16x2", LCD, 16, map[int]string{1: "VSS", 2: "VDD", 3: "VO", 4: "RS", 5: "R/W", 6: "E", 7: "D0", 11: "D4", 14: "D7", 15: "A", 16: "K"}},
		{"20x2", VFD, 14, map[int]string{1: "VSS", 3: "NC", 4: "RS", 14: "D7"}},
		{"40x4", LCD, 18, map[int]string{1: "D7", 8: "D0", 9: "E", 11: "RS", 13: "VSS", 15: "E2", 17: "A"}},
		{"40x4", VFD, 15, map[int]string{12: "NC", 15: "E2"}},
	} {
		list := of(c.geometry, c.tech)
		if len(list) != c.count {
			t.Errorf("%s %s has %d pins, want %d", c.geometry, c.tech, len(list), c.count)
		}
		for n, name := range c.pins {
			if p := list[n-1]; p.Name != name || p.Number != n || p.For == "" || p.Level == "" || p.Open == "" {
				t.Errorf("%s %s pin %d: %+v, want %s", c.geometry, c.tech, n, p, name)
			}
		}
	}
}

// TestBacklight works the resistor out by hand: white, 3.1 V and 10 Ω of its own, fed
// 5 V: 20 mA take 1.9 V / 20 mA − 10 Ω = 85 Ω; 220 Ω give 8.26 mA and 15 mW of heat.
func TestBacklight(t *testing.T) {
	b := UsualBacklight("blue")
	if r := b.Resistor(5*physic.Volt, 20*physic.MilliAmpere); r != 85*physic.Ohm {
		t.Errorf("%s for 20 mA", r)
	}
	i := b.Current(5*physic.Volt, 220*physic.Ohm)
	if i < 8260*physic.MicroAmpere || i > 8262*physic.MicroAmpere || Heat(i, 220*physic.Ohm)/physic.MilliWatt != 15 {
		t.Errorf("220 Ω give %s, %s", i, Heat(i, 220*physic.Ohm))
	}
	b.Carried = 100 * physic.Ohm
	if r := b.Resistor(5*physic.Volt, 20*physic.MilliAmpere); r != 0 {
		t.Errorf("%s beside the 100 Ω that it carries", r)
	}
	green := UsualBacklight("green")
	if green.Current(3300*physic.MilliVolt, 0) != 0 || green.Resistor(5*physic.Volt, 0) != 0 {
		t.Error("a supply below V_F lights nothing")
	}
}

// TestWindow holds the range of VO in which text reads well against common practice:
// around 0.5 V at 5 V, below ground at 3.3 V, and higher when it is warm.
func TestWindow(t *testing.T) {
	g, _ := ParseGeometry("16x2")
	m := Module{Geometry: g, Technology: LCD}
	low, high, ok := m.Window(25)
	if !ok || low >= 500*physic.MilliVolt || high <= 500*physic.MilliVolt || high > 1500*physic.MilliVolt {
		t.Errorf("at 5 V between %s and %s", low, high)
	}
	coldLow, coldHigh, _ := m.Window(0)
	warmLow, warmHigh, _ := m.Window(40)
	if coldLow >= low || coldHigh >= high || warmLow <= low || warmHigh <= high {
		t.Errorf("0 °C %s–%s, 25 °C %s–%s, 40 °C %s–%s", coldLow, coldHigh, low, high, warmLow, warmHigh)
	}
	m.Supply = 3300 * physic.MilliVolt
	if _, high, ok := m.Window(25); !ok || high >= 0 {
		t.Errorf("at 3.3 V up to %s", high)
	}
}
