package wiring

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
)

func one(kind, technology string) bench.Bench {
	b := bench.New("one")
	b.Modules[0].ID = "hall"
	b.Modules[0].Link.Kind, b.Modules[0].Display.Technology = kind, technology
	return b
}

// nets writes the netlist as name: pins.
func nets(n *Netlist) map[string]string {
	out := map[string]string{}
	for _, net := range n.Nets {
		pins := slices.Clone(net.Pins)
		slices.Sort(pins)
		out[net.Name] = strings.Join(pins, " ")
	}
	return out
}

// TestWirings takes the wirings that people really use (common practice) and holds the
// netlist against them: the host's pins for RS, E, D4–D7; pins 1, 5 and 16 on ground;
// D0–D3 in no net.
func TestWirings(t *testing.T) {
	for pins, lines := range map[string][6]string{
		"12,11,5,4,3,2":  {"D12", "D11", "D5", "D4", "D3", "D2"},
		"12,11,10,9,8,7": {"D12", "D11", "D10", "D9", "D8", "D7"},
		"1,2,4,5,6,7":    {"D1", "D2", "D4", "D5", "D6", "D7"},
	} {
		b := one("parallel4", "lcd")
		b.Modules[0].Link.Pins = map[string]string{}
		for i, line := range []string{"RS", "E", "D4", "D5", "D6", "D7"} {
			b.Modules[0].Link.Pins[line] = lines[i]
		}
		n := Of(&b)
		got := nets(&n)
		for i, line := range []string{"RS", "E", "D4", "D5", "D6", "D7"} {
			if want := "hall/" + line + " host/" + lines[i]; got["hall/"+line] != want {
				t.Errorf("%s: %s is %q, want %q", pins, line, got["hall/"+line], want)
			}
		}
		if want := "hall-pot/3 hall/K hall/R/W hall/VSS host/GND"; got["GND"] != want {
			t.Errorf("%s: ground is %q, want %q", pins, got["GND"], want)
		}
		for _, d := range []string{"D0", "D1", "D2", "D3"} {
			if net, ok := n.NetOf("hall/" + d); ok {
				t.Errorf("%s: %s is in %s", pins, d, net.Name)
			}
		}
	}
}

// TestNets holds further links against what the trade joins.
func TestNets(t *testing.T) {
	vfd := one("parallel8", "vfd")
	vfd.Modules[0].Link.ReadWrite = true
	shift := one("shift", "lcd")
	none := 0.0
	plain := one("parallel4", "lcd")
	plain.Modules[0].Fitting = bench.Fitting{Contrast: "ground", LightOhm: &none}
	bus := one("backpack", "lcd")
	bus.Host.Part, bus.Bus.Converter, bus.Bus.PullUpOhm = "RP2040", true, 4700
	bus.Devices = []bench.Device{{ID: "clock", Part: "DS3231", Address: 0x68}}
	buttons := one("parallel4", "lcd")
	buttons.Modules[0].Show.Inputs = []bench.Input{{ID: "bell", Kind: "button", Pin: "A0"}, {ID: "up", Kind: "button", Pin: "A1", Pull: "down"}, {ID: "tide", Kind: "signal", Pin: "A2"}}
	for name, c := range map[string]struct {
		b    bench.Bench
		want map[string]string
	}{
		"vfd":   {vfd, map[string]string{"GND": "hall/VSS host/GND", "5V": "hall/VDD host/5V", "hall/R/W": "hall/R/W host/D4", "hall/D0": "hall/D0 host/D5", "hall/VO": ""}},
		"plain": {plain, map[string]string{"GND": "hall/K hall/R/W hall/VO hall/VSS host/GND", "5V": "hall/A hall/VDD host/5V"}},
		"shift": {shift, map[string]string{
			"hall-register/SER": "hall-register/SER host/D2", "hall-register/SRCLK": "hall-register/SRCLK host/D3", "hall-register/RCLK": "hall-register/RCLK host/D4", "hall/RS": "hall-register/QA hall/RS", "hall/E": "hall-register/QB hall/E",
			"hall/D7": "hall-register/QH hall/D7", "hall/light": "hall-base/1 hall-register/QC", "hall/base": "hall-base/2 hall-switch/B", "hall/K": "hall-switch/C hall/K",
			"GND": "hall-pot/3 hall-register/GND hall-register/OE hall-switch/E hall/R/W hall/VSS host/GND", "5V": "hall-light/2 hall-pot/1 hall-register/SRCLR hall-register/VCC hall/VDD host/5V",
		}},
		"bus": {bus, map[string]string{
			"SDA": "clock/SDA converter/LV1 host/GP0 pull-sda/1", "SDA far": "converter/HV1 hall/SDA", "3V3": "clock/VCC converter/LV host/3V3 pull-scl/2 pull-sda/2", "5V": "converter/HV hall/VCC host/VBUS",
		}},
		"buttons": {buttons, map[string]string{"hall-bell/1": "hall-bell/1 host/A0", "hall-up/1": "hall-up-pull/1 hall-up/1 host/A1", "hall-tide/OUT": "hall-tide/OUT host/A2"}},
	} {
		n := Of(&c.b)
		got := nets(&n)
		for net, want := range c.want {
			if got[net] != want {
				t.Errorf("%s: %s is %q, want %q", name, net, got[net], want)
			}
		}
		for i := range n.Parts {
			if p := &n.Parts[i]; p.Name == "" || p.For == "" || p.Look == "" || len(p.Pins) == 0 {
				t.Errorf("%s: %+v says too little", name, p)
			}
		}
	}
}

// TestPartsHaveIDsOfTheirOwn gives modules, devices and inputs the ids that parts have: each
// part is found by its role, none twice, and no net joins what it should not.
func TestPartsHaveIDsOfTheirOwn(t *testing.T) {
	b := one("shift", "lcd")
	b.Modules = append(b.Modules, one("parallel4", "lcd").Modules[0], one("backpack", "lcd").Modules[0])
	b.Modules[1].ID, b.Modules[2].ID = "hall-pot", "host"
	b.Host.Supply.From, b.Bus.Converter, b.Bus.PullUpOhm = "supply", true, 4700
	b.Devices = []bench.Device{{ID: "hall"}, {ID: "supply"}, {ID: "hall-light"}}
	for _, id := range []string{"light", "pot", "base", "switch", "register"} {
		b.Modules[0].Show.Inputs = append(b.Modules[0].Show.Inputs, bench.Input{ID: id, Kind: "button", Pin: "A" + string(rune('0'+len(id)%4)), Pull: "up"})
	}
	n := Of(&b)
	seen := map[string]bool{}
	for i := range n.Parts {
		p := &n.Parts[i]
		if seen[p.ID] {
			t.Errorf("two parts are called %s", p.ID)
		}
		seen[p.ID] = true
	}
	for module, roles := range [][]Role{{Itself, Contrast, Light, Switch, Base, Chip}, {Itself, Contrast, Light}, {Itself}} {
		for _, role := range roles {
			if p, ok := n.Of(module, role); !ok || p.Module != module || p.Role != role {
				t.Errorf("module %d has no %s: %+v", module, role, p)
			}
		}
	}
	light, _ := n.Of(0, Light)
	if a, ok := n.NetOf(light.Pin("1")); !ok || len(a.Pins) != 2 || a.Pins[0] != "hall/A" {
		t.Errorf("the backlight's resistor is in %+v", a)
	}
}

// TestUnlit wires modules without a backlight: of 14 pins, or of 16 whose last two are joined
// to nothing, on every link.
func TestUnlit(t *testing.T) {
	for light, pins := range map[string]int{"none": 14, "open": 16} {
		for _, kind := range []string{"parallel4", "parallel8", "shift"} {
			b := one(kind, "lcd")
			b.Modules[0].Display.Light = light
			n := Of(&b)
			p, _ := n.Of(0, Itself)
			if len(p.Pins) != pins {
				t.Errorf("%s %s: %d pins", light, kind, len(p.Pins))
			}
			for _, role := range []Role{Light, Switch, Base} {
				if part, ok := n.Of(0, role); ok {
					t.Errorf("%s %s: %s is there", light, kind, part.ID)
				}
			}
			for _, pin := range p.Pins[14:] {
				if net, ok := n.NetOf(p.Pin(pin.Name)); ok {
					t.Errorf("%s %s: %s is in %s", light, kind, pin.Name, net.Name)
				}
			}
		}
	}
}

// TestColours looks for a net's own colour first, then for that of what it is.
func TestColours(t *testing.T) {
	w := bench.Wiring{Colours: map[string]string{"hall/RS": "white", "data": "brown", "D6": "orange"}}
	for _, c := range []struct {
		net  Net
		want string // all alike, and with a colour each
		each string
	}{
		{Net{Name: "hall/RS", What: "RS"}, "white", "white"}, {Net{Name: "gate/RS", What: "RS"}, "yellow", "yellow"}, {Net{Name: "GND", What: "GND"}, "black", "black"}, {Net{Name: "x", What: "x"}, "grey", "grey"},
		{Net{Name: "hall/D4", What: "data", Line: "D4"}, "brown", "blue"}, {Net{Name: "hall/D6", What: "data", Line: "D6"}, "brown", "orange"},
	} {
		for _, w.EachLine = range []bool{false, true} {
			want := map[bool]string{false: c.want, true: c.each}[w.EachLine]
			if got := Colour(&w, &c.net); got != want || !slices.Contains(Palette, got) {
				t.Errorf("%s is %s, want %s", c.net.Name, got, want)
			}
		}
	}
	eight := one("parallel8", "lcd")
	eight.Wiring.EachLine = true
	seen := map[string]string{}
	for _, n := range Of(&eight).Nets {
		if n.What == "data" {
			if other, twice := seen[n.Colour]; twice || n.Line == "" {
				t.Errorf("%s is %s, as %s", n.Name, n.Colour, other)
			}
			seen[n.Colour] = n.Name
		}
	}
	if len(seen) != 8 {
		t.Errorf("data lines: %v", seen)
	}
	b := one("parallel4", "lcd")
	n := Of(&b)
	_, pin, _ := n.PinOf("hall/D4")
	if pin.Says() != "D4, pin 11, 6th from the other end" || ordinal(1) != "1st" || ordinal(12) != "12th" || ordinal(22) != "22nd" || ordinal(3) != "3rd" {
		t.Errorf("%s", pin.Says())
	}
}
