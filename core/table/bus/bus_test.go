package bus_test

import (
	"slatebell/core/prove/fault"
	"slatebell/core/table/bus"
	"slatebell/core/table/setup"
	"slatebell/core/table/tabletest"
	"strings"
	"testing"

	"slatebell/core/bench"
)

// TestFixed holds a device at its address: what clashes with it moves in its place, and where two are
// fixed to one address nothing is offered for them.
func TestFixed(t *testing.T) {
	b := tabletest.Boards(1, "RP2040")
	b.Devices = []bench.Device{{ID: "lamps", Name: "Lamps", Part: "MCP23017", Address: 0x27}}
	for _, fixed := range []bool{false, true} {
		b.Devices[0].Fixed = fixed
		want := map[bool]string{false: "Lamps to", true: "Board 1 to"}[fixed]
		if r := tabletest.At(setup.Check(&b), "bus.clash").Remedies; len(r) == 0 || !strings.HasPrefix(r[0].Label, want) {
			t.Errorf("fixed %v: %+v, want %s", fixed, r, want)
		}
	}
	b.Devices = append(b.Devices, bench.Device{ID: "bell", Name: "Bell", Part: "MCP23017", Address: 0x27, Fixed: true})
	for _, r := range tabletest.At(setup.Check(&b), "bus.clash").Remedies {
		if strings.Contains(r.Label, "Lamps to") || strings.Contains(r.Label, "Bell to") {
			t.Errorf("two that are fixed: %s", r.Label)
		}
	}
}

// TestMeets says who hears whom: channels hear the bus, and not each other.
func TestMeets(t *testing.T) {
	for _, c := range []struct {
		a, b int
		want bool
	}{{0, 0, true}, {0, 1, true}, {1, 0, true}, {1, 1, true}, {1, 2, false}, {2, 1, false}} {
		if got := bus.Meets(&bus.Node{Channel: c.a}, &bus.Node{Channel: c.b}); got != c.want {
			t.Errorf("channels %d and %d: %t", c.a, c.b, got)
		}
	}
}

// TestNoRoom puts nine backpacks of one family on a bus: the remedy is a
// multiplexer, behind which all have their own.
func TestNoRoom(t *testing.T) {
	b := tabletest.Boards(9, "ATmega328P")
	f := tabletest.At(setup.Check(&b), "bus.no-room")
	if !strings.Contains(f.What, "8 of 9 parts fit") || !strings.Contains(f.Fix, "1 of the backpacks as a PCF8574A") || !strings.Contains(f.Fix, "multiplexer") {
		t.Fatalf("%+v", f)
	}
	two := tabletest.Boards(9, "ATmega328P") // clocks of one address find no room behind it either
	two.Devices = []bench.Device{{ID: "a", Part: "DS3231", Address: 0x68}, {ID: "b", Part: "DS1307", Address: 0x68}}
	if f := tabletest.At(setup.Check(&two), "bus.no-room"); len(f.Remedies) != 0 || !strings.Contains(f.What, "9 of 11") {
		t.Errorf("two clocks: %+v", f)
	}
	tabletest.Apply(t, &b, setup.Check(&b), "bus.no-room", 0)
	for _, code := range []string{"bus.clash", "bus.no-room", "bus.impossible"} {
		if f := tabletest.At(setup.Check(&b), code); f.Code != "" {
			t.Errorf("behind the multiplexer: %+v", f)
		}
	}
	answers := 0
	for channel := range 3 {
		s, err := fault.ScanBus(&b, channel, fault.AsPlanned, 0)
		if err != nil {
			t.Fatal(err)
		}
		answers += len(s.Found)
	}
	if answers != 9+3 { // the multiplexer is heard on each
		t.Errorf("%d answers on the bus and two channels", answers)
	}
}
