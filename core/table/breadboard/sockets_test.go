package breadboard

import (
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/table/setup"
)

// TestSockets puts a bus onto SDA and SCL beside AREF, in the document, on the board and in
// both: they are the pins that carry the bus (REFERENCE: hosts' pins, from memory), so that
// nothing is found, the module is reached, and a line on such a pin meets the bus.
func TestSockets(t *testing.T) {
	for part, pins := range map[string][2]string{"ATmega328P": {"A4", "A5"}, "ATmega2560": {"D20", "D21"}} {
		for _, c := range []struct{ sda, scl, wireSDA, wireSCL string }{
			{"", "", "SDA", "SCL"}, {"SDA", "SCL", "SDA", "SCL"}, {"SDA", "SCL", pins[0], pins[1]}, {"sda", "scl", "SDA", pins[1]}, {pins[0], "SCL", "SDA", "SCL"},
		} {
			b := bench.New("sockets")
			b.Modules = append(b.Modules, bench.NewModule("gate", "Gate"))
			b.Modules[1].Link.Outputs.Address = 0x26
			b.Host.Part, b.Bus.SDA, b.Bus.SCL = part, c.sda, c.scl
			doc, err := Plan(&b)
			if err != nil {
				t.Fatal(err)
			}
			b.Wiring = doc
			b.Wiring.Wires = append([]bench.Wire{}, doc.Wires...)
			moved := 0
			for i, w := range doc.Wires {
				for from, to := range map[string]string{"SDA": c.wireSDA, pins[0]: c.wireSDA, "SCL": c.wireSCL, pins[1]: c.wireSCL} {
					if w.From == "host/"+from {
						b.Wiring.Wires[i].From = "host/" + to
						moved++
					}
					if w.To == "host/"+from {
						b.Wiring.Wires[i].To = "host/" + to
						moved++
					}
				}
			}
			table := Lay(&b)
			if moved != 2 {
				t.Errorf("%s %+v: %d ends on the bus's pins", part, c, moved)
			}
			for _, f := range table.Check() {
				t.Errorf("%s %+v: %s %s", part, c, f.Code, f.What)
			}
			for i := range b.Modules {
				if j := table.Joined(i); j == nil || j.Dead != "" || j.NoAck != "" {
					t.Errorf("%s %+v: module %d is not reached: %+v", part, c, i, j)
				}
			}
			p := setup.Of(&b)
			if len(p.Uses[pins[0]]) != 1 || len(p.Uses[pins[1]]) != 1 || len(p.Uses["SDA"]) != 0 {
				t.Errorf("%s %+v: the pins serve %v", part, c, p.Uses)
			}
			for _, f := range p.Findings {
				if strings.HasPrefix(f.Code, "bus.pins") || strings.HasPrefix(f.Code, "host.") {
					t.Errorf("%s %+v: %s %s", part, c, f.Code, f.What)
				}
			}
			b.Modules[0].Link.Kind, b.Modules[0].Link.Pins = "parallel4", map[string]string{"RS": pins[0], "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}
			met := false
			for _, f := range setup.Of(&b).Findings {
				met = met || f.Code == "host.pin-twice"
			}
			if !met {
				t.Errorf("%s %+v: RS on %s does not meet the bus", part, c, pins[0])
			}
		}
	}
}
