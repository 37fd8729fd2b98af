package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/charrom"
	"slatebell/core/glyph"
	"slatebell/core/run"
	"slatebell/internal/golden"
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
		var got bytes.Buffer
		if err := json.Indent(&got, []byte(text), "", " "); err != nil {
			t.Fatalf("%s: %v in %s", name, err, text)
		}
		golden.Check(t, filepath.Join("testdata", name+".json"), got.Bytes())
		return []byte(text)
	}
	hold("catalog", "GET", "/api/catalog", nil)
	for _, family := range []string{"lcd", "vfd-function-set", "vfd-data-byte"} {
		hold("instructions-"+family, "GET", "/api/instructions?family="+family, nil)
	}
	hold("mapping", "POST", "/api/mapping", map[string]string{"text": "RS=4,RW=5,E=6,!BL=7,D4=0,D5=1,D6=2,D7=3"})

	backpack := gate("\uE002b~", "", "over")
	backpack.Display.Geometry = "8x2"
	backpack.Glyphs = glyph.Bank{glyph.New(2, "oar", charrom.Dots{1, 2, 4, 8, 16, 8, 4, 31})}
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
	for name, setup := range map[string]run.Setup{"backpack": backpack, "parallel4": parallel, "shift": shift, "tube": tube, "dimmed": dimmed} {
		req := RunRequest{Setup: setup}
		if setup.Display.Technology == "lcd" {
			req.Live = []LiveOperation{{Value: 0x0F}, {RS: true, Value: 0x41}, {Value: 0x18}}
		}
		if name == "parallel4" {
			req.Live = append(req.Live, LiveOperation{RW: true, Enable: "E"})
		}
		var result RunResult
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
	for name, b := range map[string]bench.Bench{"demo": demo.Bench(), "crowded": crowded} {
		hold("plan-"+name, "POST", "/api/plan", b)
		hold("plan-links-"+name, "POST", "/api/plan/links", map[string]any{"bench": b, "module": 0})
		hold("plan-like-"+name, "POST", "/api/plan/like", map[string]any{"bench": b, "module": 1, "count": 2})
		hold("plan-host-"+name, "POST", "/api/plan/host", map[string]any{"bench": b, "host": bench.Host{Part: "ESP32"}})
		hold("plan-scan-"+name, "POST", "/api/plan/scan", map[string]any{"bench": b, "mistake": "wrong-pads"})
		hold("plan-printout-"+name, "POST", "/api/plan/printout", map[string]any{"bench": b, "text": "found 38 and 104"})
	}
	for _, fault := range []run.Fault{run.NoInit, run.WrongAddress, run.LostNibble, run.NoWaits, run.CrossedWires} {
		small := backpack
		small.Rows = []string{"Tide"}
		var result RunResult
		if err := json.Unmarshal(hold("fault-"+string(fault), "POST", "/api/runs", RunRequest{Setup: small, Fault: string(fault)}), &result); err != nil {
			t.Fatal(err)
		}
		hold("fault-waves-"+string(fault), "GET", "/api/runs/"+result.ID+"/waves?from=2&to=2", nil)
	}
}
