package setup_test

import (
	"fmt"
	"math/rand/v2"
	"slatebell/core/prove/fault"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/core/table/tabletest"
	"slices"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/host"
	"slatebell/core/part/i2cbus"
	"slatebell/core/wire/link"
)

// TestJetty takes a 3.3 V host with three backpacks and a port expander, all at
// 0x27, from its findings to a clean scan by remedies alone.
func TestJetty(t *testing.T) {
	b := tabletest.Boards(3, "RP2040")
	b.Devices = []bench.Device{{ID: "lamps", Name: "Lamps", Part: "MCP23017", Address: 0x27}}
	if got := tabletest.Codes(setup.Check(&b)); got != "bus.clash bus.over-voltage" {
		t.Fatalf("found %s", got)
	}
	clash := tabletest.At(setup.Check(&b), "bus.clash")
	if !strings.Contains(clash.What, "Board 1, Board 2, Board 3 and Lamps all answer at 0x27") || len(clash.Remedies) < 3 {
		t.Errorf("%+v", clash)
	}
	tabletest.Apply(t, &b, setup.Check(&b), "bus.clash", 0)
	var where []string
	pads := 0
	for _, n := range bus.Nodes(&b) {
		where = append(where, n.At.String())
		if n.Part.Padded() {
			pads += i2cbus.PadsFor(n.At).Count()
		}
	}
	if pads != 2 || len(slices.Compact(slices.Sorted(slices.Values(where)))) != 4 {
		t.Errorf("%v after the remedy, %d pads", where, pads)
	}
	tabletest.Apply(t, &b, setup.Check(&b), "bus.over-voltage", 0)
	tabletest.Apply(t, &b, setup.Check(&b), "bus.pull-ups-strong", 0) // three sets and the converter's
	if got := tabletest.Codes(setup.Check(&b)); got != "" {
		t.Errorf("left: %s", got)
	}
	s, err := fault.ScanBus(&b, 0, fault.AsPlanned, 0)
	if err != nil || len(s.Found) != 4 {
		t.Fatalf("%+v, %v", s, err)
	}
	for _, m := range i2cbus.Compare(bus.Expected(&b, 0), s.Found) {
		if m.Verdict != i2cbus.AsExpected {
			t.Errorf("%+v", m)
		}
	}
	// a part of the maker's own moves within its addresses
	own := tabletest.Boards(1, "ATmega328P")
	own.Devices = []bench.Device{{ID: "gauge", Name: "Gauge", Part: "Harbour gauge", Address: 0x27, Addresses: "27 30-31"}}
	if ways := bus.Resolve(bus.Nodes(&own), 2); ways[0].Label() != "Gauge to 0x30" || !strings.Contains(ways[1].Label(), "Board 1 to 0x26 (close A0)") {
		t.Errorf("%s, %s", ways[0].Label(), ways[1].Label())
	}
	own.Devices[0].Addresses = "27-"
	if err := own.Validate(); err == nil || !strings.Contains(err.Error(), "/devices/0/addresses: address") {
		t.Errorf("addresses that cannot be read: %v", err)
	}
	// what people do in place of a converter is outside of the expander's limits
	other, none := tabletest.Boards(2, "ESP32"), 0
	other.Modules[0].Link.Outputs.Address, other.Modules[0].Link.Outputs.PullUpOhm = 0x26, &none
	tabletest.Apply(t, &other, setup.Check(&other), "bus.over-voltage", 1)
	if got := tabletest.Codes(setup.Check(&other)); got != "bus.level" {
		t.Errorf("pull-ups to 3.3 V: %s", got)
	}
	if f := tabletest.At(setup.Check(&other), "bus.level"); !strings.Contains(f.What, "rise to 3.3 V; Board 1 and Board 2 must") || !strings.Contains(f.What, "see 3.5 V") || !strings.Contains(f.Why, "0.2 V") {
		t.Errorf("%+v", f)
	}
	tabletest.Apply(t, &other, setup.Check(&other), "bus.level", 0)
	if got := tabletest.Codes(setup.Check(&other)); got != "" {
		t.Errorf("with a converter: %s", got)
	}
	// both sides of the converter are reckoned, though nothing but the host is on its own
	if s := bus.Segments(&other); len(s) != 2 || s[0].Far || len(s[0].Nodes) != 0 || s[0].High != 3300*physic.MilliVolt || !s[1].Far || len(s[1].Nodes) != 2 || s[1].High != 5*physic.Volt {
		t.Errorf("%+v", s)
	}
}

// TestFindings makes one mistake at a time, and settles those that a remedy
// settles.
func TestFindings(t *testing.T) {
	none := 0
	for _, c := range []struct {
		what   string
		make   func(*bench.Bench)
		codes  string
		says   string
		settle bool
	}{
		{"a plain bench", func(*bench.Bench) {}, "", "", false},
		{"no pull-ups", func(b *bench.Bench) { b.Modules[0].Link.Outputs.PullUpOhm = &none }, "bus.no-pull-ups", "Nothing pulls", true},
		{"a reserved address", func(b *bench.Bench) {
			b.Devices = []bench.Device{{ID: "d", Name: "Clock", Part: "DS3231", Address: 0x7C}}
		}, "bus.reserved", "device ID", true},
		{"two reserved addresses", func(b *bench.Bench) {
			b.Devices = []bench.Device{{ID: "d", Name: "Clock", Part: "DS3231", Address: 0x7C}, {ID: "e", Name: "Light", Part: "BH1750", Address: 0x02}}
		}, "bus.reserved bus.reserved", "device ID", false},
		{"an address that its part cannot have", func(b *bench.Bench) {
			b.Devices = []bench.Device{{ID: "d", Name: "Clock", Part: "DS3231", Address: 0x51}}
		}, "bus.impossible", "can have 0x68", true},
		{"all-call", func(b *bench.Bench) {
			b.Devices = []bench.Device{{ID: "d", Part: "PCA9685", Address: 0x40}, {ID: "e", Part: "HT16K33", Address: 0x70}}
		}, "bus.all-call", "answers too", true},
		{"four sets of pull-ups", func(b *bench.Bench) {
			b.Devices = []bench.Device{{ID: "d", Part: "DS3231", Address: 0x68, PullUpOhm: 4700}, {ID: "e", Part: "BME280", Address: 0x76, PullUpOhm: 4700}, {ID: "f", Part: "SHT31", Address: 0x44, PullUpOhm: 4700}}
		}, "bus.pull-ups-strong", "together are 1.18 kΩ; the least is 1.53 kΩ", true},
		{"long wires", func(b *bench.Bench) { b.Bus.WireCM = 300 }, "bus.slow-rise", "320 pF", true},
		{"longer wires", func(b *bench.Bench) { b.Bus.CapacitancePF = 401; b.Bus.PullUpOhm = 3900 }, "bus.capacitance", "401 pF", false},
		{"pins that are no bus", func(b *bench.Bench) { b.Bus.SDA, b.Bus.SCL = "A5", "A4" }, "bus.pins", "A5 and A4", true},
		{"pins of another host", func(b *bench.Bench) { b.Host.Part, b.Bus.SDA = "RP2040", "A4"; b.Bus.Converter = true }, "bus.pins", "A4", true},
		{"a port that gives less", func(b *bench.Bench) { b.Host.Supply.LimitMA = 60 }, "supply.port", "gives 60.0 mA", false},
		{"two lines on a pin", func(b *bench.Bench) {
			b.Modules[0].Link = bench.Link{Kind: "parallel4", Pins: map[string]string{"RS": "D2", "E": "D2", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}}
		}, "host.pin-twice", "RS of Board 1 and E of Board 1", true},
		{"a bus pin", func(b *bench.Bench) {
			b.Modules = append(b.Modules, bench.NewModule("two", "Two"))
			b.Modules[1].Link = bench.Link{Kind: "shift", Pins: map[string]string{"data": "A4", "clock": "D4", "latch": "D5"}}
		}, "host.pin-twice", "SDA of the bus and data of Two", true},
		{"a pin that is not there", func(b *bench.Bench) {
			b.Modules[0].Link = bench.Link{Kind: "shift", Pins: map[string]string{"data": "D99", "clock": "D4", "latch": "D5"}}
		}, "host.no-such-pin", "D99", true},
		{"a pin that is an input", func(b *bench.Bench) {
			b.Host.Part = "ESP32"
			b.Modules[0].Link = bench.Link{Kind: "parallel4", Pins: map[string]string{"RS": "GPIO34", "E": "GPIO4", "D4": "GPIO13", "D5": "GPIO14", "D6": "GPIO16", "D7": "GPIO17"}}
		}, "host.pin-unfit", "GPIO34", true},
		{"a shift register at 5 V on 3.3 V", func(b *bench.Bench) { b.Host.Part = "ESP32"; b.Modules[0].Link = bench.Link{Kind: "shift"} }, "link.level", "3.5 V", false},
		{"parallel lines on 3.3 V", func(b *bench.Bench) { b.Host.Part = "ESP32"; b.Modules[0].Link = bench.Link{Kind: "parallel8"} }, "", "", false},
		{"a pull-up that is a short", func(b *bench.Bench) { b.Bus.PullUpOhm = 200 }, "host.pin-current bus.pull-ups-strong", "sinks 26.1 mA (SDA or SCL held low)", false},
		{"modules beyond a regulator", func(b *bench.Bench) {
			b.Host.Part = "ATmega328P"
			b.Modules[0].Display.Supply.MilliVolts, b.Modules[0].Display.Measured.CurrentMA = 3300, 51
			b.Modules[0].Link = bench.Link{Kind: "parallel4"}
		}, "link.over-voltage supply.regulator", "brought to 5 V; it bears 3.6 V", false},
		{"a module for 3.3 V on a host that has none", func(b *bench.Bench) {
			b.Host.Part = "ATtiny85"
			b.Modules[0].Display.Supply.MilliVolts = 3300
			b.Devices, b.Bus.PullUpOhm = nil, 4700
		}, "link.over-voltage supply.no-rail", "brought to 4.15 V", false},
		{"a backpack at 3.3 V on a bus at 5 V", func(b *bench.Bench) { b.Modules[0].Display.Supply.MilliVolts, b.Bus.PullUpOhm = 3300, 2200 }, "link.over-voltage", "brought to 4.46 V; it bears 3.8 V", false},
	} {
		b := tabletest.Boards(1, "ATmega328P")
		c.make(&b)
		found := setup.Check(&b)
		if tabletest.Codes(found) != c.codes {
			t.Errorf("%s: %s, want %s", c.what, tabletest.Codes(found), c.codes)
			continue
		}
		if c.codes == "" {
			continue
		}
		f := tabletest.At(found, strings.Fields(c.codes)[0])
		if !strings.Contains(f.What+f.Why, c.says) || f.Fix == "" || f.Path == "" {
			t.Errorf("%s: %+v", c.what, f)
		}
		if c.settle {
			tabletest.Apply(t, &b, setup.Check(&b), c.codes, 0)
			if left := tabletest.Codes(setup.Check(&b)); left != "" {
				t.Errorf("%s, settled: %s", c.what, left)
			}
		} else if len(f.Remedies) > 0 && !strings.HasPrefix(c.codes, "bus.reserved") {
			t.Errorf("%s has a remedy: %+v", c.what, f.Remedies)
		}
	}
}

// TestLike adds modules until nothing is free: each has an address or pins, an id
// and a name that nothing else has.
func TestLike(t *testing.T) {
	for _, c := range []struct {
		what  string
		part  string
		link  bench.Link
		ask   int
		fits  int
		would string
	}{
		{"eight like one", "ATmega328P", bench.Link{Kind: "backpack", Outputs: bench.Outputs{Address: 0x27, Backlight: true}}, 7, 7, ""},
		{"both expanders", "ATmega328P", bench.Link{Kind: "backpack", Outputs: bench.Outputs{Address: 0x3F}}, 15, 15, ""},
		{"seventeen", "ATmega328P", bench.Link{Kind: "backpack", Outputs: bench.Outputs{Address: 0x20}}, 16, 15, "multiplexer"},
		{"parallel, pins chosen", "ATmega328P", bench.Link{Kind: "parallel4", Pins: map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}}, 5, 2, "backpacks"},
		{"parallel, pins open", "ATmega328P", bench.Link{Kind: "parallel4"}, 5, 2, "shift registers"},
		{"shift registers", "ATmega328P", bench.Link{Kind: "shift", Pins: map[string]string{"data": "D2", "clock": "D3", "latch": "D4"}}, 5, 5, ""},
		{"a big host", "ATmega2560", bench.Link{Kind: "parallel8"}, 5, 5, ""},
		{"more than a bench holds", "ATmega328P", bench.Link{Kind: "backpack", Outputs: bench.Outputs{Address: 0x27, Channel: 1}}, 64, 15, "shift register"},
	} {
		b := tabletest.Boards(1, c.part)
		b.Modules[0].Link = c.link
		if c.link.Outputs.Channel > 0 {
			b.Bus.Multiplexer = &bench.Multiplexer{Part: "TCA9548A", Address: 0x70}
		}
		a, err := setup.Like(&b, 0, c.ask)
		if err != nil || len(a.Modules) != c.fits || len(a.IDs()) != c.fits || (a.Why == "") != (c.would == "") || !strings.Contains(strings.Join(a.Would, "; "), c.would) {
			t.Errorf("%s: %d fit, %q, %q, %v", c.what, len(a.Modules), a.Why, a.Would, err)
			continue
		}
		grown := edit.Applied(&b, a.Edits()...)
		if len(grown.Modules) != c.fits+1 || len(b.Modules) != 1 {
			t.Errorf("%s: %d modules, from %d", c.what, len(grown.Modules), len(b.Modules))
			continue
		}
		if found := tabletest.Codes(setup.Check(&grown)); strings.Contains(found, "clash") || strings.Contains(found, "twice") || strings.Contains(found, "no-room") {
			t.Errorf("%s: %s", c.what, found)
		}
		if last := grown.Modules[c.fits]; last.Name != fmt.Sprintf("Board %d", c.fits+1) || last.Screens[0].Rows[0] != last.Name || last.ID != fmt.Sprintf("board-%d", c.fits+1) {
			t.Errorf("%s: the last is %s, %s, %q", c.what, last.ID, last.Name, last.Screens[0].Rows)
		}
	}
	b := tabletest.Boards(1, "ATmega328P")
	for _, bad := range [][2]int{{-1, 1}, {1, 1}, {0, 0}, {0, 65}} {
		if _, err := setup.Like(&b, bad[0], bad[1]); err == nil {
			t.Errorf("%v was added", bad)
		}
	}
}

// TestOptions compares links on three hosts: what is recommended fits, and what
// is applied is what was said.
func TestOptions(t *testing.T) {
	for _, c := range []struct {
		part string
		n    int
		want link.Kind
		says string
	}{
		{"ATmega328P", 1, link.Backpack, "Four wires"},
		{"ESP32", 1, link.Parallel4, "2.2 V"},
		{"ESP8266", 2, link.Parallel4, ""}, // six plain pins, of which two are the bus's
		{"ATmega328P", 17, link.ShiftReg, "No address"},
	} {
		b := tabletest.Boards(min(c.n, 16), c.part)
		if c.n == 17 {
			for i := range b.Modules {
				b.Modules[i].Link.Outputs.Address = 0x20 + i%8 + i/8*0x18
			}
			b.Modules = append(b.Modules, bench.NewModule("last", "Last"))
			b.Modules[16].Link = bench.Link{Kind: "shift"}
		}
		index := len(b.Modules) - 1
		options := setup.Options(&b, index)
		got := setup.Recommended(options)
		if c.part == "ESP8266" {
			c.want, c.says = link.Backpack, "short"
		}
		if got != c.want {
			t.Errorf("%s with %d: %s is recommended, want %s", c.part, c.n, got, c.want)
		}
		for _, o := range options {
			if o.Recommended && (!o.Fits || !strings.Contains(o.Reason, c.says)) {
				t.Errorf("%s: %+v", c.part, o)
			}
			if !o.Fits {
				if o.Why == "" {
					t.Errorf("%s: %s does not fit, and says nothing", c.part, o.Kind)
				}
				continue
			}
			chosen := edit.Applied(&b, edit.SetLink{Module: index, Link: o.Link})
			if chosen.Modules[index].Link.Kind != string(o.Kind) || strings.Contains(tabletest.Codes(setup.Check(&chosen)), "pin-twice") {
				t.Errorf("%s to %s: %+v", c.part, o.Kind, chosen.Modules[index].Link)
			}
			if len(pinout.Free(&chosen)) != o.Left && c.n == 1 {
				t.Errorf("%s to %s leaves %d pins, it says %d", c.part, o.Kind, len(pinout.Free(&chosen)), o.Left)
			}
		}
	}
	crowd := tabletest.Boards(3, "ATmega328P") // two modules whose pins are still open take 16 of 18
	crowd.Modules[0].Link, crowd.Modules[1].Link = bench.Link{Kind: "parallel8"}, bench.Link{Kind: "parallel4"}
	for _, o := range setup.Options(&crowd, 2) {
		want := map[link.Kind]string{link.ShiftReg: "2 pins of the host are free, 3 are needed", link.Parallel4: "2 pins of the host are free, 6 are needed"}[o.Kind]
		if want != "" && (o.Fits || o.Why != want) {
			t.Errorf("%s beside two others: %+v", o.Kind, o)
		}
	}
	for mV, ways := range map[int]int{3700: 0, 3701: 3} { // levels call for something from 0.4 V on, and nothing joins unasked
		b := tabletest.Boards(1, "ESP32")
		b.Modules[0].Display.Supply.MilliVolts = mV
		o := setup.Options(&b, 0)[0]
		if o.Kind != link.Backpack || len(o.Ways) != ways || len(o.Parts) != 1 {
			t.Errorf("a backpack at %d mV on 3.3 V: %+v", mV, o)
		}
		for _, w := range o.Ways {
			linked := edit.Applied(&b, edit.SetLink{Module: 0, Link: o.Link})
			joined := edit.Applied(&linked, w.Edits...)
			if found := tabletest.Codes(setup.Check(&joined)); strings.Contains(found, "bus.over-voltage") {
				t.Errorf("%s leaves %s", w.Title, found)
			}
		}
	}
	wires := map[link.Kind]int{}
	b := tabletest.Boards(1, "ATmega328P")
	for _, o := range setup.Options(&b, 0) {
		wires[o.Kind] = o.Wires
	}
	// common practice: 4 wires to a backpack, 5 to a shift register, 12 in 4 bits, all 16 in 8
	if fmt.Sprint(wires) != "map[backpack:4 parallel4:12 parallel8:16 shift:5]" {
		t.Errorf("wires: %v", wires)
	}
}

// TestBegin begins benches of random answers: every one is valid, has no clash,
// and keeps what was said.
func TestBegin(t *testing.T) {
	random := rand.New(rand.NewPCG(5, 7))
	pick := func(words ...string) string { return words[random.IntN(len(words))] }
	for range 300 {
		s := setup.Beginning{
			Geometry: pick("16x2", "20x4", "8x1", "40x4", "16x1split"), Technology: pick("lcd", "vfd"), Backpack: random.IntN(2) == 0, Expander: pick("", "PCF8574", "PCF8574A"),
			Host: pick("", "ATmega328P", "ATmega2560", "ESP32", "ESP8266", "RP2040"), Link: pick("", "", "backpack", "shift"), Count: random.IntN(3),
		}
		b, err := setup.Begin(&s)
		if err != nil {
			t.Errorf("%+v: %v", s, err)
			continue
		}
		for _, f := range setup.Check(&b) {
			if f.Code == "bus.over-voltage" { // its levels call for something, and the maker chooses what
				if b.Bus.Converter || b.Modules[0].Link.Kind != "backpack" || len(f.Remedies) < 2 {
					t.Errorf("%+v: %s, %d remedies", s, f.What, len(f.Remedies))
				}
			} else if f.Severity == finding.Error && f.Code != "supply.port" { // a large VFD draws more than a port gives
				t.Errorf("%+v: %s %s", s, f.Code, f.What)
			}
		}
		if tint := b.Modules[0].Display.Tint; tint != map[string]string{"vfd": "teal"}[s.Technology] {
			t.Errorf("%+v: tint %q", s, tint)
		}
		if kind := b.Modules[0].Link.Kind; s.Link == "" && (s.Backpack != (kind == "backpack") && s.Host != "ESP8266" && s.Count < 2 && s.Geometry != "40x4" || !s.Backpack && s.Count < 2 && kind == "shift" && s.Host == "ATmega328P") {
			t.Errorf("%+v: recommended %s, which is not on the table", s, kind)
		}
		if len(b.Modules) != max(s.Count, 1) || b.Modules[0].Display.Geometry != s.Geometry || s.Link != "" && b.Modules[0].Link.Kind != s.Link {
			t.Errorf("%+v: %+v", s, b.Modules)
		}
	}
	for _, bad := range []setup.Beginning{{Geometry: "3", Technology: "lcd"}, {Geometry: "16x2", Technology: "lcd", Host: "ESP8266", Link: "parallel8", Count: 3}} {
		if b, err := setup.Begin(&bad); err == nil {
			t.Errorf("%+v began %+v", bad, b)
		}
	}
}

// TestRehost puts the demo on every other host and back: buses and pins are the
// new host's own, and what was listened to is, on pins that can read it, as far as there are some.
func TestRehost(t *testing.T) {
	for _, board := range host.Boards() {
		part := board.Part
		if part == "ATtiny85" { // which has not the pins for three modules
			continue
		}
		b := tabletest.Landing()
		joined := 0
		moved := edit.Applied(&b, setup.Rehost(&b, bench.Host{Part: part, Supply: b.Host.Supply})...)
		for _, f := range setup.Check(&moved) {
			if strings.HasPrefix(f.Code, "host.") || strings.HasPrefix(f.Code, "input.") || f.Code == "bus.pins" {
				t.Errorf("%s: %+v", part, f)
			}
		}
		for i := range moved.Modules {
			for _, in := range moved.Modules[i].Show.Inputs {
				if _, there := board.Find(in.Pin); in.Pin != "" && !there {
					t.Errorf("%s: %s is on %s", part, in.ID, in.Pin)
				}
				if in.Pin != "" {
					joined++
				}
			}
		}
		if want := map[string]int{"ATmega2560": 2, "SAMD21": 2}[part]; joined < want {
			t.Errorf("%s: %d inputs are joined, want %d", part, joined, want)
		}
		if _, _, right := bus.Pins(&moved); !right || moved.Modules[1].Link.HostMV != 0 {
			t.Errorf("%s: %+v", part, moved.Bus)
		}
	}
}

func BenchmarkCheck16(b *testing.B) {
	doc := tabletest.Boards(16, "ATmega328P")
	for b.Loop() {
		if len(setup.Check(&doc)) == 0 {
			b.Fatal("sixteen on one address, and nothing is found")
		}
	}
}

// BenchmarkCheckCrowd checks more than fits: 64 backpacks and 40 devices over the
// channels of a multiplexer, whose search ends before it went through.
func BenchmarkCheckCrowd(b *testing.B) {
	doc := tabletest.Boards(64, "ATmega328P")
	doc.Bus.Multiplexer = &bench.Multiplexer{Part: "TCA9548A", Address: 0x70}
	for i := range doc.Modules {
		doc.Modules[i].Link.Outputs.Channel = i % 9
	}
	for i := range 40 {
		doc.Devices = append(doc.Devices, bench.Device{ID: fmt.Sprintf("device-%d", i), Part: []string{"MCP23017", "LM75", "PCA9685", "INA219"}[i%4], Address: 0x40, Channel: i % 3})
	}
	for b.Loop() {
		if tabletest.At(setup.Check(&doc), "bus.no-room").Code == "" {
			b.Fatal("all fit")
		}
	}
}
