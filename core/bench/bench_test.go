package bench

import (
	"fmt"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/part/host"
	"slatebell/core/part/module"
	"slatebell/core/text/glyph"
	"slatebell/core/wire/link"
)

func TestValidate(t *testing.T) {
	for want, spoil := range map[string]func(b *Bench, m *Module){
		"/modules/0/link/outputs: address 0x28":                        func(_ *Bench, m *Module) { m.Link.Outputs.Address = 0x28 },
		"/modules/0/link: pin time 2ms":                                func(_ *Bench, m *Module) { m.Link.Kind, m.Link.PinNS = "parallel4", 2_000_000 },
		"/modules/0/link/waits: waits \"poll\"":                        func(_ *Bench, m *Module) { m.Link.Kind, m.Link.Waits = "parallel4", "poll" },
		"/modules/0/link/outputs: I²C speed 500kHz":                    func(b *Bench, _ *Module) { b.Bus.SpeedHz = 500_000 },
		"/modules/0/display/geometry: geometry \"17x2\"":               func(_ *Bench, m *Module) { m.Display.Geometry = "17x2" },
		"/modules/0/display/technology: \"oled\"":                      func(_ *Bench, m *Module) { m.Display.Technology = "oled" },
		"/modules/0/display/controller/rom: ROM \"Z9\"":                func(_ *Bench, m *Module) { m.Display.Controller.ROM = "Z9" },
		"/modules/0/display/controller/chart: ROM chart, line 0":       func(_ *Bench, m *Module) { m.Display.Controller.ROM = OwnROM },
		"/modules/0/display/controller/oscillatorKHz: 100 kHz":         func(_ *Bench, m *Module) { m.Display.Controller.OscillatorKHz = 100 },
		"/modules/0/display/controller/family: \"tube\"":               func(_ *Bench, m *Module) { m.Display.Controller.Family = "tube" },
		"/modules/0/display/controller/family: \"vfd-data-byte\" does": func(_ *Bench, m *Module) { m.Display.Controller.Family = "vfd-data-byte" },
		"/modules/0/display/controller/font: \"6x9\"":                  func(_ *Bench, m *Module) { m.Display.Controller.Font = "6x9" },
		"/modules/0/display/controller/font: 5x10 dots on a VFD": func(_ *Bench, m *Module) {
			m.Display.Geometry, m.Display.Technology, m.Display.Controller.Font = "8x1", "vfd", "5x10"
		},
		"/modules/0/display/supply/mV: 2699 mV":                      func(_ *Bench, m *Module) { m.Display.Supply.MilliVolts = 2699 },
		"/modules/0/display/supply/mV: 5501 mV":                      func(_ *Bench, m *Module) { m.Display.Supply.MilliVolts = 5501 },
		"/modules/0/display/controller/oscillatorKHz: 189 kHz":       func(_ *Bench, m *Module) { m.Display.Controller.OscillatorKHz = 189 },
		"/modules/0/display/controller/oscillatorKHz: 351 kHz":       func(_ *Bench, m *Module) { m.Display.Controller.OscillatorKHz = 351 },
		"/modules/0/display/supply/mV: 2000 mV":                      func(_ *Bench, m *Module) { m.Display.Supply.MilliVolts = 2000 },
		"/modules/0/display/measured/oscillatorKHz: 180 kHz":         func(_ *Bench, m *Module) { m.Display.Measured.OscillatorKHz = 180 },
		"/modules/0/display/measured/supplyMV: 5600 mV":              func(_ *Bench, m *Module) { m.Display.Measured.SupplyMV = 5600 },
		"/modules/0/glyphs: glyph 1 is in slot 8":                    func(_ *Bench, m *Module) { m.Glyphs = glyph.Bank{glyph.New(8, "", glyph.Pattern{})} },
		"/modules/1/id: \"module-1\" is another":                     func(b *Bench, _ *Module) { b.Modules = append(b.Modules, b.Modules[0]) },
		"/devices/1/id: \"clock\" is another":                        func(b *Bench, _ *Module) { b.Devices = []Device{{ID: "clock"}, {ID: "clock"}} },
		"/wiring/boards/0/beyond: \"a\"; expected the id of another": func(b *Bench, _ *Module) { b.Wiring.Boards = []Breadboard{{ID: "a", Beyond: "a"}} },
		"/wiring/boards/2/beyond: a board lies beyond a already": func(b *Bench, _ *Module) {
			b.Wiring.Boards = []Breadboard{{ID: "a"}, {ID: "b", Beyond: "a"}, {ID: "c", Beyond: "a"}}
		},
		"/wiring/boards/1/id: \"a\" is another":                  func(b *Bench, _ *Module) { b.Wiring.Boards = []Breadboard{{ID: "a"}, {ID: "a"}} },
		"/host/facts/serial: serial line \"1=RX\"":               func(b *Bench, _ *Module) { b.Host.Facts.Serial = "1=RX" },
		"/modules: 0 modules":                                    func(b *Bench, _ *Module) { b.Modules = nil },
		"/modules: 65 modules":                                   func(b *Bench, m *Module) { b.Modules = make([]Module, 65) },
		"/format: \"x\"":                                         func(b *Bench, _ *Module) { b.Format = "x" },
		"/modules/0/screens: none":                               func(_ *Bench, m *Module) { m.Screens = nil },
		"/modules/0/screens/0/rows/1: 401 characters":            func(_ *Bench, m *Module) { m.Screens[0].Rows = []string{"", strings.Repeat("x", 401)} },
		"/modules/0/screens/0/rows/0: there is a line end in it": func(_ *Bench, m *Module) { m.Screens[0].Rows = []string{"a\nb"} },
		"/modules/0/screens/1/id: \"screen-1\"":                  func(_ *Bench, m *Module) { m.Screens = append(m.Screens, m.Screens[0]) },
		"/modules/0/show/start: there is no scene \"x\"": func(_ *Bench, m *Module) {
			m.Show.Start = "x"
		},
		"/modules/0/show/scenes/0/screen: there is no screen \"x\"": func(_ *Bench, m *Module) {
			m.Show.Scenes = []Scene{{ID: "a", Screen: "x"}}
		},
		"/modules/0/show/scenes/0/ends/1/next: there is no scene \"b\"": func(_ *Bench, m *Module) {
			m.Show.Scenes = []Scene{{ID: "a", Screen: "screen-1", Ends: []End{{AfterMs: 5, Next: "a"}, {Next: "b"}}}}
		},
		"/modules/0/show/scenes/0/ends/0/input: there is no input \"bell\"": func(_ *Bench, m *Module) {
			m.Show.Scenes = []Scene{{ID: "a", Screen: "screen-1", Ends: []End{{Input: "bell", Next: "a"}}}}
		},
	} {
		b := New("bench")
		if err := b.Validate(); err != nil {
			t.Fatalf("a new bench: %v", err)
		}
		spoil(&b, &b.Modules[0])
		if err := b.Validate(); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("error %v, want %q in it", err, want)
		}
	}
}

// TestValid checks what may just be: bounds of voltages, oscillators and rows, and
// a show whose scenes, screens and inputs lead to each other.
func TestValid(t *testing.T) {
	for name, set := range map[string]func(b *Bench, m *Module){
		"lowest supply":      func(_ *Bench, m *Module) { m.Display.Supply.MilliVolts = 2700 },
		"highest supply":     func(_ *Bench, m *Module) { m.Display.Supply.MilliVolts = 5500 },
		"slowest oscillator": func(_ *Bench, m *Module) { m.Display.Controller.OscillatorKHz = 190 },
		"fastest oscillator": func(_ *Bench, m *Module) { m.Display.Controller.OscillatorKHz = 350 },
		"the longest row":    func(_ *Bench, m *Module) { m.Screens[0].Rows = []string{strings.Repeat("ü", 400)} },
		"64 modules":         func(b *Bench, m *Module) { fill(b, 64) },
		"5×10 dots":          func(_ *Bench, m *Module) { m.Display.Geometry, m.Display.Controller.Font = "8x1", "5x10" },
		"a VFD's own family": func(_ *Bench, m *Module) { m.Display.Technology, m.Display.Controller.Family = "vfd", "vfd-data-byte" },
		"a show": func(_ *Bench, m *Module) {
			m.Show = Show{Start: "b", Inputs: []Input{{ID: "bell"}}, Scenes: []Scene{{ID: "a", Screen: "screen-1", Ends: []End{{Input: "bell", Next: "b"}}}, {ID: "b", Screen: "screen-1", Ends: []End{{AfterMs: 1, Next: "a"}}}}}
		},
		"devices and boards": func(b *Bench, _ *Module) {
			b.Devices, b.Wiring.Boards = []Device{{ID: "a"}, {ID: "b"}}, []Breadboard{{ID: "a"}, {ID: "b"}}
		},
	} {
		b := New("bench")
		set(&b, &b.Modules[0])
		if err := b.Validate(); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// fill gives a bench n modules.
func fill(b *Bench, n int) {
	b.Modules = nil
	for i := range n {
		b.Modules = append(b.Modules, NewModule(fmt.Sprintf("module-%d", i), ""))
	}
}

// TestMeasuredCounts checks that a measured figure stands in for a planned one.
func TestMeasuredCounts(t *testing.T) {
	d := NewModule("gate", "Gate").Display
	vo, planned := 500, 0.2
	d.Supply.MilliVolts, d.Supply.Contrast = 3300, &planned
	d.Measured = Measured{SupplyMV: 4000, VOMV: &vo, OscillatorKHz: 243}
	m, err := d.Module()
	if err != nil || m.Fed().String() != "4V" || d.Contrast(&m) != 0.875 || m.Oscillator.String() != "243kHz" {
		t.Errorf("fed %s, contrast %v, oscillator %s, %v; want 4 V, (4 − 0.5)/4 and 243 kHz", m.Fed(), d.Contrast(&m), m.Oscillator, err)
	}
	d.Measured.VOMV = nil
	if got := d.Contrast(&m); got != planned {
		t.Errorf("contrast %v, planned %v", got, planned)
	}
	d.Supply.Contrast = nil
	if got := d.Contrast(&m); got != m.UsualContrast() {
		t.Errorf("contrast %v, usually %v", got, m.UsualContrast())
	}
	vo = -9000
	if d.Measured.VOMV = &vo; d.Contrast(&m) != 2 {
		t.Errorf("VO far below ground: contrast %v, at most 2", d.Contrast(&m))
	}
}

// TestBuild checks whose settings a link takes: its own, the bus's or the
// host's, and the usual ones.
func TestBuild(t *testing.T) {
	one, two := module.Geometry{Controllers: 1}, module.Geometry{Controllers: 2}
	l := NewModule("gate", "Gate").Link
	for _, c := range []struct {
		bus, own int
		want     string
	}{{0, 0, "100kHz"}, {50_000, 0, "50kHz"}, {50_000, 10_000, "10kHz"}} {
		l.Outputs.SpeedHz = c.own
		if got := l.Build(&one, &Bus{SpeedHz: c.bus}).Speed.String(); got != c.want {
			t.Errorf("bus %d Hz, own %d Hz: %s", c.bus, c.own, got)
		}
	}
	if built := l.Build(&two, &Bus{}); built.Enables != 2 || built.Mapping.E2 != link.UsualMapping.Backlight || built.Mapping.Backlight != link.Open {
		t.Errorf("two controllers: %+v", built)
	}
	shift := Link{Kind: "shift", ReadWrite: true}
	if built := shift.Build(&one, &Bus{SpeedHz: 50_000}); built.ReadWrite || built.Speed.String() != "500kHz" {
		t.Errorf("a shift register: reads %v, %s", built.ReadWrite, built.Speed)
	}
	for _, c := range []struct {
		host, own int
		want      string
	}{{0, 0, "5V"}, {3300, 0, "3.300V"}, {3300, 5000, "5V"}} {
		own := Link{HostMV: c.own}
		if got := own.MaxPinVoltage(&Host{BearsMV: c.host}).String(); got != c.want {
			t.Errorf("host %d mV, link %d mV: bears %s", c.host, c.own, got)
		}
	}
}

// TestOwnBoard makes the board that a maker describes: its pins with what they can, and the figures that are
// known.
func TestOwnBoard(t *testing.T) {
	h := Host{Part: "Quay board", BearsMV: 3300, Pins: []HostPin{{Label: "P1", Can: []string{"SDA"}}, {Label: "P2", Can: []string{"SCL"}}, {Label: "P3", Can: []string{"input", "adc", "no-pull"}}, {Label: "RX"}, {Label: "TX", Can: []string{"upload"}}},
		Facts: HostFigures{PinMA: 4, PinMaxMA: 10, AllMA: 60, OwnMA: 30, RegulatorMA: 200, Bits: 12, References: []int{1200}, Serial: "2=RX/TX"}}
	b := h.Board()
	p3, _ := b.Find("p3")
	line, listens := b.Line("RX")
	if p3.Drives() || !p3.Has(host.Analog) || !p3.Has(host.NoPull) || !listens || line.Number != 2 || line.TX != "TX" || b.Resolution() != 12 || len(b.References) != 1 || b.SDA != "P1" || b.SCL != "P2" || b.Logic != 3300*physic.MilliVolt {
		t.Errorf("%+v; line %+v", b, line)
	}
	if b.Pin != 4*physic.MilliAmpere || b.PinMax != 10*physic.MilliAmpere || b.All != 60*physic.MilliAmpere || b.Own != 30*physic.MilliAmpere || b.Regulator != 200*physic.MilliAmpere {
		t.Errorf("currents %s, %s, %s, %s, %s", b.Pin, b.PinMax, b.All, b.Own, b.Regulator)
	}
}
