package breadboard

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/host"
)

func oneModule(part, kind, geometry, technology string) bench.Bench {
	b := bench.New("one")
	b.Host.Part = part
	m := &b.Modules[0]
	m.Link.Kind, m.Display.Geometry, m.Display.Technology = kind, geometry, technology
	return b
}

// turned are boards on whose edge the pins of the bus stand the other way round than on a backpack,
// with the crossings that this takes: SCL before SDA, on one of them both before supply and ground.
var turned = map[string]int{"ATmega2560": 1, "ATmega328P small": 1, "SAMD21": 1, "STM32F103": 2}

// TestUncrossed plans one module on its host's own choice of pins: parallel lines
// need not cross, and do not; of a 74HC595 the clock and the latch stand the other
// way round on the chip than the host's pins, which is one crossing.
func TestUncrossed(t *testing.T) {
	for _, h := range host.Boards() {
		for _, kind := range []string{"parallel4", "parallel8", "backpack", "shift"} {
			for _, what := range [][2]string{{"16x2", "lcd"}, {"20x4", "lcd"}, {"20x2", "vfd"}} {
				for _, beside := range []bool{false, true} {
					b := oneModule(h.Part, kind, what[0], what[1])
					b.Modules[0].Fitting.Beside = beside
					w, err := Plan(&b)
					if err != nil {
						t.Fatal(err)
					}
					b.Wiring = w
					table := Lay(&b)
					a := table.Arrange()
					most := 0
					if kind == "shift" {
						most = 1
					} else if kind == "backpack" {
						most = turned[h.Part]
					}
					if n := a.Crossings(); n > most {
						t.Errorf("%s, %s, %v, beside %v: %d wires, %d crossings, %d", h.Part, kind, what, beside, len(w.Wires), n, most)
					}
				}
			}
		}
	}
}

// TestPlugged plugs hosts into the board where they leave holes free, over the edges of two where
// they cover the strips of one, and says so where they do neither (common practice: an ESP32
// board, 25.4 mm from row to row, covers its strips, and an ATmega328P board has its rows at no
// multiple of the pitch).
func TestPlugged(t *testing.T) {
	for part, takes := range map[string]int{"RP2040": 1, "RP2350": 1, "ESP8266": 1, "ATmega328P small": 1, "STM32F103": 1, "ESP32 small": 2, "ESP32": 2, "ATmega328P": 0, "ATmega2560": 0} {
		b := oneModule(part, "parallel4", "16x2", "lcd")
		b.Host.Plugged = true
		w, err := Plan(&b)
		if (err == nil) != (takes > 0) {
			t.Errorf("%s plugged in: %v", part, err)
		}
		if err != nil {
			continue
		}
		b.Wiring = w
		table := Lay(&b)
		if f := table.Check(); len(f) > 0 {
			t.Errorf("%s plugged in: %+v", part, f[0])
		}
		for _, wire := range w.Wires {
			if strings.HasPrefix(wire.From, "host/") || strings.HasPrefix(wire.To, "host/") {
				t.Errorf("%s is plugged in, and wire %+v ends on it", part, wire)
			}
		}
		if h := table.Legs["host/GND"]; h.Row == 0 {
			t.Errorf("%s: no leg of the host's ground", part)
		}
		over := map[string]bool{}
		host, _ := table.Net.Part("host")
		for _, pin := range host.Pins {
			if h, ok := table.Legs["host/"+pin.Name]; !ok || len(table.Boards[h.Board].inStrip(h)) != 5 {
				t.Errorf("%s: %s lies in no strip", part, pin.Name)
			} else if takes == 2 {
				over[fmt.Sprintf("%s %s", h.Row, table.Boards[h.Board].Beyond)] = true
			}
		}
		if takes == 2 && (len(over) != 2 || !over["a board-1"] || !over["j "]) {
			t.Errorf("%s lies in %v", part, over)
		}
		for i := range 2 { // more takes more boards, of which each has a name of its own
			m := bench.NewModule(fmt.Sprintf("more-%d", i), "More")
			m.Link.Kind, m.Display.Geometry = "parallel4", "20x4"
			b.Modules = append(b.Modules, m)
		}
		if b.Wiring, err = Plan(&b); err != nil {
			t.Errorf("%s with three modules: %v", part, err)
		} else if p := b.Validate(); p != nil || takes == 2 && len(b.Wiring.Boards) < 3 {
			t.Errorf("%s with three modules: %v, %+v", part, p, b.Wiring.Boards)
		}
	}
}

func BenchmarkPlan(b *testing.B) {
	doc := bench.New("four")
	doc.Host.Part = "ATmega2560"
	doc.Modules = nil
	for i, kind := range []string{"parallel4", "parallel8", "shift", "backpack"} {
		m := bench.NewModule(fmt.Sprintf("m%d", i), "")
		m.Link.Kind = kind
		doc.Modules = append(doc.Modules, m)
	}
	for b.Loop() {
		if _, err := Plan(&doc); err != nil {
			b.Fatal(err)
		}
	}
}
