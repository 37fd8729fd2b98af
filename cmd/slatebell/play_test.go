package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/text/field"
	"slatebell/core/text/screen"
	"slatebell/formats/benchjson"
)

// TestPlay plays a toggle, a blink and a counter from a file of events, in every format.
func TestPlay(t *testing.T) {
	b := bench.New("play")
	m := &b.Modules[0]
	m.ID = "gate"
	m.Screens = []bench.Screen{
		{ID: "open", Rows: []string{"Open"}, Fields: []field.Field{{Name: "Boats", Row: 1, Width: 2, Kind: field.Number, Range: field.Range{Max: 11}}}},
		{ID: "shut", Rows: []string{"Shut"}, Cursor: screen.Cursor{Kind: "line", Row: 1, Col: 3}},
	}
	m.Show = bench.Show{
		Scenes: []bench.Scene{
			{ID: "open", Screen: "open", Ends: []bench.End{{Input: "key", Next: "shut"}}},
			{ID: "shut", Screen: "shut", Ends: []bench.End{{AfterMs: 500, Next: "dark"}}},
			{ID: "dark", Screen: "shut", Off: true, Ends: []bench.End{{AfterMs: 250, Next: "open"}}},
		},
		Inputs: []bench.Input{{ID: "key", Kind: "button"}, {ID: "boats", Kind: "counter", Counter: bench.Counter{Count: 3}}},
		Feeds:  []bench.Feed{{Field: "Boats", Input: "boats"}},
	}
	dir := t.TempDir()
	doc, events := filepath.Join(dir, "bench.json"), filepath.Join(dir, "events.csv")
	f, err := os.Create(doc)
	if err != nil {
		t.Fatal(err)
	}
	if err := benchjson.Write(f, &b); err != nil {
		t.Fatal(err)
	}
	f.Close()
	if err := os.WriteFile(events, []byte("time_ms,input,value\n100,boats,+1\n200,boats,-2\n1000,key,press\n1050,key,release\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	out, errs, code := try("", "play", doc, "--module", "gate", "--events", events, "--until", "3000")
	var rows []string
	for _, line := range strings.Split(out, "\n") {
		if strings.HasPrefix(line, "|") {
			rows = append(rows, strings.TrimRight(strings.Trim(line, "|"), " "))
		} else if strings.HasSuffix(line, ", off") {
			rows = append(rows, "(off)")
		}
	}
	if got := strings.Join(rows, "/"); code != 0 || got != "Open/ 0/Open/ 1/Open/ 2/Shut//(off)/Open/ 2" {
		t.Errorf("exit %d, %q, %s", code, got, errs)
	}
	if n := strings.Count(out, "cursor: underline at row 2, column 4\n"); n != 1 || strings.Count(out, "cursor: ") != 1 || !strings.Contains(out, "|Shut            |\n|                |\ncursor: ") {
		t.Errorf("the cursor stands on the shut screen alone:\n%s", out)
	}
	for _, want := range []string{"101.", "1024.", "1520.", "1774."} { // debounced, then on the wire
		if !strings.Contains(out, "\n"+want) && !strings.HasPrefix(out, want) {
			t.Errorf("nothing is done at %s ms:\n%s", want, out)
		}
	}
	for format, begins := range map[string]string{"csv": "step,", "vcd": "$"} {
		if out, errs, code := try("100,boats,1\n", "play", doc, "--events", "-", "--format", format); code != 0 || !strings.HasPrefix(out, begins) {
			t.Errorf("%s: exit %d, %.60q, %s", format, code, out, errs)
		}
	}
	for _, c := range [][]string{{"0,none,1", `no input "none"`}, {"0,key,2", "press or release"}} {
		if _, errs, code := try(c[0], "play", doc, "--events", "-"); code != 2 || !strings.Contains(errs, c[1]) {
			t.Errorf("%s: exit %d, %s", c[0], code, errs)
		}
	}
}

// TestPlaySerial plays a message and a reading: what arrives, what a slow line loses, and what would
// help, on standard error.
func TestPlaySerial(t *testing.T) {
	b := bench.New("radio")
	m := &b.Modules[0]
	b.Bus.SpeedHz = 20_000
	m.Screens[0].Fields = []field.Field{
		{Name: "Tide", Kind: field.Number, Width: 4, Range: field.Range{Max: 9.9}, Digits: field.Digits{Decimals: 1}},
		{Name: "Message", Kind: field.Free, Row: 1, Width: 16, Look: field.Look{TooLong: "scroll"}},
	}
	m.Show = bench.Show{
		Scenes: []bench.Scene{{ID: "a", Screen: "screen-1"}},
		Inputs: []bench.Input{{ID: "radio", Kind: "serial", Serial: bench.Serial{Baud: 115200, AsItComes: true, Buffer: 4}}, {ID: "tide", Kind: "signal", Signal: bench.Sensor{Decimals: 1}}},
		Feeds:  []bench.Feed{{Field: "Message", Input: "radio"}, {Field: "Tide", Input: "tide"}},
	}
	doc := filepath.Join(t.TempDir(), "bench.json")
	f, err := os.Create(doc)
	if err != nil {
		t.Fatal(err)
	}
	if err := benchjson.Write(f, &b); err != nil {
		t.Fatal(err)
	}
	f.Close()
	out, errs, code := try("10,radio,\"Otter, Teal and Heron are out\\n\"\n500,tide,3.25\n", "play", doc, "--events", "-")
	if code != 0 || !strings.Contains(out, "| 3.3            |") || !strings.Contains(out, "|Otte            |") || strings.Contains(out, "Heron are out") {
		t.Errorf("exit %d, %s", code, out)
	}
	for _, want := range []string{"play.lost", "characters of a serial line were lost"} {
		if !strings.Contains(errs, want) {
			t.Errorf("no %q in %s", want, errs)
		}
	}
	b.Modules[0].Show.Inputs[0].Serial = bench.Serial{}
	if f, err = os.Create(doc); err != nil {
		t.Fatal(err)
	}
	if err := benchjson.Write(f, &b); err != nil {
		t.Fatal(err)
	}
	f.Close()
	if out, errs, code := try("10,radio,\"Otter, Teal and Heron are out\\n\"\n", "play", doc, "--events", "-"); code != 0 || !strings.Contains(out, "Heron are out|") || strings.Contains(errs, "play.lost") {
		t.Errorf("exit %d, %s%s", code, out, errs)
	}
}
