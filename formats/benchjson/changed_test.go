package benchjson

import (
	"strings"
	"testing"

	"slatebell/core/bench"
)

// TestChanged words every kind of change.
func TestChanged(t *testing.T) {
	for want, change := range map[string]func(b *bench.Bench, m *bench.Module){
		"":                     func(*bench.Bench, *bench.Module) {},
		"screen Tides of Gate": func(_ *bench.Bench, m *bench.Module) { m.Screens[1].Rows = []string{"High"} },
		"screen Bell of Gate came": func(_ *bench.Bench, m *bench.Module) {
			m.Screens = append(m.Screens, bench.Screen{ID: "bell", Name: "Bell"})
		},
		"screen Tides of Gate went":  func(_ *bench.Bench, m *bench.Module) { m.Screens = m.Screens[:1] },
		"Gate":                       func(_ *bench.Bench, m *bench.Module) { m.Screens[0], m.Screens[1] = m.Screens[1], m.Screens[0] },
		"the link of Gate":           func(_ *bench.Bench, m *bench.Module) { m.Link.Kind = "shift" },
		"inputs of Gate":             func(_ *bench.Bench, m *bench.Module) { m.Show.Inputs = []bench.Input{{ID: "bell"}} },
		"the host, the bench’s name": func(b *bench.Bench, _ *bench.Module) { b.Host.Part, b.Name = "RP2040", "New" },
		"Clock came":                 func(b *bench.Bench, _ *bench.Module) { b.Devices = []bench.Device{{ID: "clock", Name: "Clock"}} },
		"2 wires, where a part lies": func(b *bench.Bench, _ *bench.Module) {
			b.Wiring.Wires, b.Wiring.Placements = []bench.Wire{{From: "a"}, {From: "b"}}, []bench.Placement{{Part: "gate"}}
		},
		"the name of Slip": func(_ *bench.Bench, m *bench.Module) { m.Name = "Slip" },
		"Gate 2 came":      func(b *bench.Bench, _ *bench.Module) { b.Modules = append(b.Modules, bench.NewModule("m2", "Gate 2")) },
		"the display of Gate, what it is wired up with of Gate": func(_ *bench.Bench, m *bench.Module) { m.Display.Tint, m.Fitting.PotOhm = "blue", 1000 },
	} {
		made := func() bench.Bench {
			b := bench.New("Bench")
			b.Modules[0].Name = "Gate"
			b.Modules[0].Screens = append(b.Modules[0].Screens, bench.Screen{ID: "tides", Name: "Tides"})
			return b
		}
		before, after := made(), made()
		change(&after, &after.Modules[0])
		if got := strings.Join(Changed(&before, &after), ", "); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
	if got := Summary([]string{"a", "b", "c"}, 2); got != "a, b, 1 more" {
		t.Errorf("%q", got)
	}
}
