package api

import (
	"encoding/json"
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/prove/transition"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/screen"
	"slatebell/internal/golden"
	"slatebell/server/api/runs"
	"slatebell/server/api/screens"
	"slatebell/server/api/wiring"
	"slatebell/server/demo"
)

// TestAnswers asks for what the interface draws, and holds the answers against
// testdata, which was looked through when it was written: a small module over
// each link with all that can be found on it, its moments, waves, stops and
// comparisons, and what modules and links can be made of. It keeps every member
// that no other test has a reason to state.
func TestAnswers(t *testing.T) {
	s := serve(t)
	hold := func(name, method, path string, body any) (answer []byte) {
		t.Helper()
		var text string
		ask(t, method, s.URL+path, body, &text)
		if lines := strings.Split(strings.TrimSpace(text), "\n"); len(lines) > 1 { // JSON lines
			slices.Sort(lines) // they come as they are worked out
			text = "[" + strings.Join(lines, ",") + "]"
		}
		got, err := golden.Compact([]byte(text))
		if err != nil {
			t.Fatalf("%s: %v in %s", name, err, text)
		}
		golden.Check(t, filepath.Join("testdata", name+".json"), got)
		return []byte(text)
	}
	hold("catalog", "GET", "/api/catalog", nil)
	for _, family := range []string{"lcd", "vfd-function-set", "vfd-data-byte"} {
		hold("instructions-"+family, "GET", "/api/instructions?family="+family, nil)
	}
	hold("mapping", "POST", "/api/mapping", map[string]string{"text": "RS=4,RW=5,E=6,!BL=7,D4=0,D5=1,D6=2,D7=3"})

	backpack := gate("\uE002b~", "", "over")
	backpack.Display.Geometry = "8x2"
	backpack.Glyphs = glyph.Bank{glyph.New(2, "oar", glyph.Pattern{1, 2, 4, 8, 16, 8, 4, 31})}
	parallel := gate("\uE003Tide")
	parallel.Link = bench.Link{Kind: "parallel4", ReadWrite: true, Waits: "poll"}
	parallel.Display.Geometry, parallel.Display.Controller.Font = "8x1", "5x10"
	shift := gate("Oar")
	shift.Link.Kind, shift.Link.Outputs.Backlight = "shift", false
	shift.Display.Geometry = "8x1"
	tube := gate("Ebb", "", "", "Flood")
	tube.Link.Kind, tube.Link.PinNS = "parallel8", 100
	tube.Display.Geometry, tube.Display.Technology, tube.Display.Supply.Brightness = "40x4", "vfd", 2
	dimmed := gate("Ebb")
	dimmed.Link.Kind, dimmed.Display.Geometry, dimmed.Display.Technology = "parallel8", "8x1", "vfd"
	dimmed.Display.Controller.Family, dimmed.Display.Supply.Brightness = "vfd-data-byte", 3
	for name, setup := range map[string]testbed.Setup{"backpack": backpack, "parallel4": parallel, "shift": shift, "tube": tube, "dimmed": dimmed} {
		req := runs.RunRequest{Setup: setup}
		if setup.Display.Technology == "lcd" {
			req.Live = []runs.LiveOperation{{Value: 0x0F}, {RS: true, Value: 0x41}, {Value: 0x18}}
		}
		if name == "parallel4" {
			req.Live = append(req.Live, runs.LiveOperation{RW: true, Enable: "E"})
		}
		var result runs.RunResult
		if err := json.Unmarshal(hold("run-"+name, "POST", "/api/runs", req), &result); err != nil {
			t.Fatal(err)
		}
		if setup.Display.Technology == "vfd" {
			continue
		}
		at := "/api/runs/" + result.ID
		last := len(result.Program.Steps)
		hold("moments-"+name, "GET", fmt.Sprintf("%s/moments?from=%d&count=2", at, last-2), nil)
		hold("waves-"+name, "GET", fmt.Sprintf("%s/waves?from=%d&to=%d", at, last-4, last-3), nil)
		hold("ways-"+name, "POST", "/api/ways", setup)
	}
	crowded := demo.Bench()
	crowded.Host.Part, crowded.Devices[1].Address = "RP2040", 0x27
	crowded.Modules[0].Display.Supply.MilliVolts = 0
	crowded.Devices[0].SupplyMV, crowded.Devices[1].CurrentMA, crowded.Modules[0].Display.Measured.CurrentMA = 5000, 0, 21.5
	alone := bench.New("One board") // nothing on the bus, a host that its maker describes
	alone.Host = bench.Host{Part: "Harbour board", BearsMV: 3300}
	alone.Modules[0].Link = bench.Link{Kind: "parallel4"}
	var text string
	if ask(t, "POST", s.URL+"/api/plan", alone, &text); strings.Contains(text, "null") {
		t.Errorf("lists that are null: %s", text)
	}
	hold("plan-expander", "POST", "/api/plan/expander", map[string]any{"pads": "A0 A2", "answers": "found 0x22 and 0x68"})
	hold("plan-expander-printed", "POST", "/api/plan/expander", map[string]any{"printed": "PCF8574A"})
	hold("plan-pins", "POST", "/api/plan/pins", map[string]any{"bench": alone, "module": 0, "text": "1 2 3 4 5 6"})
	for path, c := range map[string]struct {
		body map[string]any
		says string
	}{
		"/api/plan/expander": {map[string]any{"pads": "A3"}, "expected A0, A1 and A2"},
		"/api/plan/pins":     {map[string]any{"bench": alone, "module": 0, "text": "1"}, "pins given: 1; expected 6"},
		"/api/plan/like":     {map[string]any{"bench": alone, "module": 1, "count": 1}, "modules 0–0"},
		"/api/plan/scan":     {map[string]any{"bench": alone, "mistake": "gone"}, "nothing is on this bus"},
		"/api/plan/printout": {map[string]any{"bench": alone, "text": "hm"}, "no address can be read"},
		"/api/benches/begin": {map[string]any{"geometry": "3x3", "technology": "lcd"}, "expected one of 8x1"},
		"/api/plan":          {map[string]any{"format": "slatebell-bench", "version": 2, "name": "", "modules": alone.Modules, "devices": []bench.Device{{ID: "d", Address: 0x20, Addresses: "x"}}}, "7 bits in hexadecimal"},
	} {
		var refusal string
		if res := ask(t, "POST", s.URL+path, c.body, &refusal); res.StatusCode != 422 || !strings.Contains(refusal, c.says) {
			t.Errorf("%s: %d, %s", path, res.StatusCode, refusal)
		}
	}
	for name, b := range map[string]bench.Bench{"demo": demo.Bench(), "crowded": crowded, "channels": channels(), "loose": loose(), "full": full()} {
		hold("plan-"+name, "POST", "/api/plan", b)
		hold("plan-links-"+name, "POST", "/api/plan/links", map[string]any{"bench": b, "module": 0})
		hold("plan-like-"+name, "POST", "/api/plan/like", map[string]any{"bench": b, "module": 1, "count": 2})
		hold("plan-host-"+name, "POST", "/api/plan/host", map[string]any{"bench": b, "host": bench.Host{Part: "ESP32"}})
		hold("plan-scan-"+name, "POST", "/api/plan/scan", map[string]any{"bench": b, "mistake": "wrong-pads"})
		hold("plan-printout-"+name, "POST", "/api/plan/printout", map[string]any{"bench": b, "text": "found 38 and 104"})
	}
	bare := some(1, "ATmega328P", func(_ int, m *bench.Module) { m.Link.Kind, m.Display.Geometry = "parallel4", "8x1" })
	moved := bare
	moved.Wiring, _ = breadboard.Plan(&bare)
	moved.Wiring.Wires[1].To = "board-1/h20"
	hold("wiring", "POST", "/api/wiring", moved)
	hold("wiring-proposed", "POST", "/api/wiring", some(1, "RP2040", func(int, *bench.Module) {}))
	hold("wiring-plan", "POST", "/api/wiring/plan", bare)
	hold("wiring-first-light", "POST", "/api/wiring/first-light", map[string]any{"bench": moved, "module": 0})
	hold("wiring-figures", "POST", "/api/wiring/figures", bare.Modules[0])
	hold("wiring-cutout", "POST", "/api/wiring/cutout", wiring.CutoutRequest{Display: demo.Bench().Modules[0].Display, ClearanceMM: 0.5, UnitWidth: 8, UnitHeight: 9.6})
	hold("wiring-cutout-unknown", "POST", "/api/wiring/cutout", wiring.CutoutRequest{Display: bare.Modules[0].Display})
	for list, want := range map[string]string{"wires": "wire,from,from_hole,to,to_hole,net,colour,length_mm\r\n1,", "parts": "count,part,for,look\r\n1,"} {
		var text string
		if res := ask(t, "POST", s.URL+"/api/wiring/"+list+".csv", bare, &text); res.StatusCode != 200 || !strings.HasPrefix(text, want) {
			t.Errorf("%s: %d, %.200s", list, res.StatusCode, text)
		}
	}
	ebb := gate("Tide", "Low")
	ebb.Display.Geometry, ebb.Cursor = "8x2", screen.Cursor{Kind: "line", Col: 5}
	flood := ebb
	flood.Rows, flood.Cursor = []string{"Tide up", "High"}, screen.Cursor{}
	flood.Fields = []field.Field{{Name: "Metres", Row: 1, Col: 5, Width: 3, Kind: field.Number, Range: field.Range{Min: -1, Max: 9}, Digits: field.Digits{Decimals: 1}, Sample: "3.2"}}
	hold("screens-transition", "POST", "/api/screens/transition", screens.TransitionRequest{From: flood, To: ebb, Shift: true})
	hold("screens-fields", "POST", "/api/runs", runs.RunRequest{Setup: flood})
	moving := ebb
	moving.Scroll, moving.Rows = screen.Scroll{By: transition.ByRewrite, Gap: 1, EveryMs: 3}, []string{"Tide up 3"}
	hold("screens-scroll", "POST", "/api/screens/scroll", moving)
	two := some(1, "ATmega328P", func(_ int, m *bench.Module) {
		m.Screens = []bench.Screen{{ID: "up", Name: "Up", Rows: flood.Rows, Fields: flood.Fields}, {ID: "down", Rows: ebb.Rows}}
		m.Display.Geometry, m.Screens[0].Fields[0].PerSec = "8x2", 900
	})
	hold("screens-matrix", "POST", "/api/screens/matrix", screens.MatrixRequest{Bench: two})
	hold("screens-search", "POST", "/api/screens/search", screens.SearchRequest{Bench: two, Text: "ME"})
	for path, body := range map[string]any{"scroll": ebb, "matrix": screens.MatrixRequest{Bench: two, Module: 3}} {
		var refusal string
		if res := ask(t, "POST", s.URL+"/api/screens/"+path, body, &refusal); res.StatusCode != 422 || !strings.Contains(refusal, map[string]string{"scroll": "no row of the screen scrolls", "matrix": "module 3"}[path]) {
			t.Errorf("%s: %d, %s", path, res.StatusCode, refusal)
		}
	}
	crowd := some(17, "ATmega2560", func(i int, m *bench.Module) { m.Link.Outputs.Address = 0x20 + i%8 })
	var refusal string
	if res := ask(t, "POST", s.URL+"/api/wiring/plan", crowd, &refusal); res.StatusCode != 422 || !strings.Contains(refusal, "made for 16 at most") {
		t.Errorf("17 modules: %d, %s", res.StatusCode, refusal)
	}
	for _, fault := range []string{"start.none", "bus.address:0x3F", "nibble.lost:12.1", "wait.none", "wire.short:D4,D5"} {
		name, _, _ := strings.Cut(fault, ":")
		small := backpack
		small.Rows = []string{"Tide"}
		var result runs.RunResult
		if err := json.Unmarshal(hold("fault-"+name, "POST", "/api/runs", runs.RunRequest{Setup: small, Fault: fault}), &result); err != nil {
			t.Fatal(err)
		}
		hold("fault-waves-"+name, "GET", "/api/runs/"+result.ID+"/waves?from=2&to=2", nil)
	}
}

// some returns a bench of n modules that set changes.
func some(n int, part string, set func(i int, m *bench.Module)) bench.Bench {
	b := bench.New("Boathouse")
	b.Host.Part = part
	b.Modules = nil
	for i := range n {
		m := bench.NewModule(fmt.Sprintf("board-%d", i+1), fmt.Sprintf("Board %d", i+1))
		m.Screens[0].Rows = []string{"Tide"}
		set(i, &m)
		b.Modules = append(b.Modules, m)
	}
	return b
}

// channels is a bench behind a multiplexer, fast, with long wires and no pull-ups
// before it.
func channels() bench.Bench {
	b := some(3, "RP2040", func(i int, m *bench.Module) {
		m.Link.Outputs.Channel = 1 + i/2
		m.Display.Measured.CurrentMA = float64(30 + i)
	})
	b.Bus = bench.Bus{SpeedHz: 400_000, WireCM: 250, Multiplexer: &bench.Multiplexer{Part: "TCA9548A", Address: 0x70}}
	b.Devices = []bench.Device{
		{ID: "gauge", Name: "Harbour gauge", Part: "Gauge", Address: 0x27, Addresses: "26-27", Channel: 2, SupplyMV: 5000},
		{ID: "light", Part: "BH1750", Address: 0x02, CurrentMA: 0.2}, {ID: "thing", Part: "Thing", Address: 0x33},
	}
	return b
}

// loose is a bench whose pins are not chosen yet, with modules at 3.3 V and no
// pull-up on any board.
func loose() bench.Bench {
	none := 0
	return some(4, "ATmega328P", func(i int, m *bench.Module) {
		m.Link = bench.Link{Kind: []string{"shift", "parallel8", "parallel4", "backpack"}[i]}
		m.Display.Geometry = []string{"16x2", "40x4", "20x2", "8x2"}[i]
		switch i {
		case 1:
			m.Link.ReadWrite = true
		case 2:
			m.Display.Technology, m.Display.Supply.Brightness = "vfd", 3
		case 3:
			m.Link.Outputs = bench.Outputs{Address: 0x3A, PullUpOhm: &none}
			m.Display.Supply.MilliVolts = 3300
		}
	})
}

// full is a bench on whose bus nothing more fits, with parts that answer at more
// than their own address.
func full() bench.Bench {
	b := some(17, "ATmega2560", func(i int, m *bench.Module) { m.Link.Outputs.Address = 0x20 + i%8 + i/8%2*0x18 })
	b.Bus.Converter, b.Bus.CapacitancePF = true, 450
	b.Devices = []bench.Device{{ID: "lights", Part: "PCA9685", Address: 0x41}, {ID: "matrix", Part: "HT16K33", Address: 0x70}, {ID: "clock", Part: "DS3231", Address: 0x51}}
	b.Host.Supply = bench.HostFeed{From: "usb3"}
	return b
}
