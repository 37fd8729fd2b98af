package breadboard

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/host"
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

// TestPlugged plugs hosts into the board where they leave holes free, and says so
// where they do not (common practice: an ESP32 board of 2 × 19 pins covers its
// strips, and an ATmega328P board has its rows at no multiple of the pitch).
func TestPlugged(t *testing.T) {
	for part, fits := range map[string]bool{"RP2040": true, "RP2350": true, "ESP8266": true, "ATmega328P small": true, "STM32F103": true, "ESP32 small": false, "ESP32": false, "ATmega328P": false, "ATmega2560": false} {
		b := oneModule(part, "parallel4", "16x2", "lcd")
		b.Host.Plugged = true
		w, err := Plan(&b)
		if (err == nil) != fits {
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
