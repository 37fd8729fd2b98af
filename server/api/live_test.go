package api

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/live/ports"
	"slatebell/server/api/facts"
	"slatebell/server/api/faults"
	"slatebell/server/api/live"
	"slatebell/server/demo"
)

// TestRealTable connects to the stand-in as a page does, shows screens on it, scans its bus and reads its memory; another page
// watches until it takes over.
func TestRealTable(t *testing.T) {
	s := New(Options{})
	defer s.Close()
	b := demo.Bench()
	ask := func(path string, body any, status int, into any) {
		t.Helper()
		code, text := post(s, "/api/table/"+path, body)
		if code != status {
			t.Fatalf("%s answers %d: %s", path, code, text)
		}
		if into != nil {
			if err := json.Unmarshal([]byte(text), into); err != nil {
				t.Fatal(err)
			}
		}
	}
	state := func() (now live.RealTable) {
		t.Helper()
		if _, text := fetch(s, http.MethodGet, "/api/table", nil); json.Unmarshal([]byte(text), &now) != nil {
			t.Fatal(text)
		}
		return now
	}
	if now := state(); now.Connected || len(now.Modules) != 0 {
		t.Errorf("before: %+v", now)
	}
	ask("scan", map[string]any{}, 422, nil)
	var list []ports.Port
	if _, text := fetch(s, http.MethodGet, "/api/table/ports", nil); json.Unmarshal([]byte(text), &list) != nil || list[len(list)-1].Name != ports.StandIn {
		t.Errorf("the stand-in is not the last port: %s", text)
	}
	ask("connect", map[string]any{"port": ports.StandIn, "by": "desk", "stored": 1, "bench": b}, 200, nil)
	for i := range b.Modules {
		setup, err := testbed.Of(&b, testbed.At{Module: i})
		if err != nil {
			t.Fatal(err)
		}
		ask("show", map[string]any{"by": "desk", "setup": setup}, 200, nil)
		ask("show", map[string]any{"by": "telephone", "setup": setup}, 422, nil)
	}
	for end := time.Now().Add(10 * time.Second); ; time.Sleep(5 * time.Millisecond) {
		now := state()
		if len(now.Modules) == 3 && now.Phase == "here" && now.Modules[0].Holds && now.Modules[1].Holds && now.Modules[2].Holds {
			break
		}
		if time.Now().After(end) {
			t.Fatalf("not all is shown: %+v", now)
		}
	}
	var g facts.Glass
	if code, text := fetch(s, http.MethodGet, "/api/table/glass/0", nil); code != 200 || json.Unmarshal([]byte(text), &g) != nil || !strings.Contains(strings.Join(g.Text, ""), "QUILLFISH") {
		t.Errorf("the gate's glass: %d %s", code, text)
	}
	var scanned live.Scanned
	if ask("scan", map[string]any{}, 200, &scanned); !strings.Contains(scanned.Text, "0x27 (decimal 39)") {
		t.Errorf("a scan prints %q", scanned.Text)
	}
	var recalled live.Recall
	if ask("memory", map[string]any{"module": 0}, 200, &recalled); len(recalled.Differ) > 0 || !strings.Contains(recalled.Text[0], "QUILLFISH") {
		t.Errorf("the gate's memory: %+v", recalled)
	}
	ask("memory", map[string]any{"module": 1}, 422, nil) // R/W is at ground
	var lines live.DataLines
	if ask("lines", map[string]any{"by": "desk", "module": 0}, 200, &lines); lines.Differ != 0 || len(lines.Wrong) != 0 {
		t.Errorf("the gate's data lines: %+v", lines)
	}
	var speed live.Oscillator
	if ask("oscillator", map[string]any{"by": "desk", "module": 0}, 200, &speed); speed.KHz < 265 || speed.KHz > 275 {
		t.Errorf("the gate's oscillator: %+v; expected 270 kHz", speed)
	}
	ask("lines", map[string]any{"by": "telephone", "module": 0}, 422, nil)
	ask("measure", map[string]any{"pin": "A0", "module": 0}, 422, nil) // all of them are taken
	var now live.RealTable
	if ask("drive", map[string]any{"by": "telephone"}, 200, &now); now.By != "telephone" {
		t.Errorf("%q drives", now.By)
	}
	ask("bench", map[string]any{"by": "desk", "bench": b}, 422, nil)
	ask("bench", map[string]any{"by": "telephone", "bench": b}, 200, nil)
	if ask("disconnect", map[string]any{}, 200, &now); now.Connected {
		t.Error("it is connected still")
	}
	free := bench.New("quay")
	ask("connect", map[string]any{"port": ports.StandIn, "by": "desk", "stored": 1, "bench": free}, 200, nil)
	var volts live.Voltage
	if ask("measure", map[string]any{"pin": "A0", "module": 0}, 200, &volts); volts.OfMV != 5000 || volts.MV != 0 {
		t.Errorf("a pin that nothing is at measures %+v", volts)
	}
	ask("measure", map[string]any{"pin": "D13", "module": 0}, 422, nil)
	free.Host.Part = "RP2040" // bears 3.3 V, and the module is fed with 5 V
	ask("connect", map[string]any{"port": ports.StandIn, "by": "desk", "stored": 1, "bench": free}, 200, nil)
	if _, text := post(s, "/api/table/measure", map[string]any{"pin": "GP26", "module": 0}); !strings.Contains(text, "with a meter") || state().Modules[0].Bears {
		t.Errorf("5 V at a pin that bears 3.3 V: %s", text)
	}
	ask("connect", map[string]any{"port": "/dev/none-such", "by": "desk", "stored": 1, "bench": b}, 200, nil)
	for end := time.Now().Add(5 * time.Second); state().Phase != "gone" || !strings.Contains(state().Why, "there is no port"); time.Sleep(5 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("of a port that is not there it says %+v", state())
		}
	}
}

// TestActs does on the stand-in what a host does by itself of tests, and sees it on the glass; then plays a show, whose picture is what its
// memory is held against; then hides there what a round of practice hides, and takes it out with the answer.
func TestActs(t *testing.T) {
	s := New(Options{})
	defer s.Close()
	b := demo.Bench()
	setup, err := testbed.Of(&b, testbed.At{})
	if err != nil {
		t.Fatal(err)
	}
	ask := func(path string, body any, into any) {
		t.Helper()
		code, text := post(s, path, body)
		if code/100 != 2 {
			t.Fatalf("%s answers %d: %s", path, code, text)
		}
		if into != nil && json.Unmarshal([]byte(text), into) != nil {
			t.Fatal(text)
		}
	}
	var g facts.Glass
	shows := func(what string, holds func() bool) {
		t.Helper()
		for end := time.Now().Add(10 * time.Second); ; time.Sleep(5 * time.Millisecond) {
			g = facts.Glass{}
			if _, text := fetch(s, http.MethodGet, "/api/table/glass/0", nil); json.Unmarshal([]byte(text), &g) == nil && holds() {
				return
			}
			if time.Now().After(end) {
				t.Fatalf("%s: it shows %+v", what, g.Text)
			}
		}
	}
	text := func() string { return strings.Join(g.Text, "") }
	ask("/api/table/connect", map[string]any{"port": ports.StandIn, "by": "desk", "stored": 1, "bench": b}, nil)
	act := func(what string) {
		t.Helper()
		ask("/api/table/act", map[string]any{"by": "desk", "act": what, "setup": setup}, nil)
	}
	for _, what := range []string{"send", "slow"} {
		act(what)
		shows(what, func() bool { return strings.HasPrefix(text(), "QUILLFISH") })
	}
	act("chart")
	shows("chart", func() bool { return strings.HasPrefix(text(), " ｡｢｣") || strings.Contains(text(), "ｱｲｳ") })
	act("blink")
	shows("blink", func() bool { return len(g.Dots) > 8 && bytes.Equal(g.Dots[:8], bytes.Repeat([]byte{0x1F}, 8)) })
	act("send")
	shows("send", func() bool { return strings.HasPrefix(text(), "QUILLFISH") && g.Light })
	lit := make(chan struct{})
	go func() { act("light"); close(lit) }()
	shows("light off", func() bool { return !g.Light })
	shows("light on", func() bool { return g.Light })
	<-lit
	act("begin")
	shows("begin", func() bool { return strings.HasPrefix(text(), "QUILLFISH") })

	var recalled live.Recall
	composed := text()
	ask("/api/table/play", map[string]any{"by": "desk", "bench": b, "module": 0}, nil)
	shows("a show", func() bool { return g.On && text() != composed })
	ask("/api/table/play", map[string]any{"by": "desk", "bench": b, "module": 0, "stop": true}, nil)
	ask("/api/table/memory", map[string]any{"module": 0}, &recalled)
	shows("what was played last", func() bool { return true })
	if len(recalled.Differ)+recalled.Hidden+len(recalled.Glyphs) > 0 || strings.Join(recalled.Text, "") == composed || strings.Join(recalled.Text, "") != text() {
		t.Errorf("after a show its memory is held against something else: %+v", recalled)
	}
	act("send")

	var round faults.RoundState
	ask("/api/practice", map[string]any{"bench": b, "module": 0, "screen": 0, "level": 1, "built": true}, &round)
	ask("/api/table/practice", map[string]any{"by": "desk", "round": round.ID}, nil)
	shows("a hidden fault", func() bool { return !strings.HasPrefix(text(), "QUILLFISH") })
	var catalogue []faults.FaultChoice
	ask("/api/faults/catalogue", map[string]any{"bench": b, "module": 0, "screen": 0}, &catalogue)
	ask("/api/practice/"+round.ID+"/answer", map[string]any{"faults": []string{catalogue[0].ID}}, &round)
	if topic := round.Verdict.Hidden[0].Topic; topic == "program" || topic == "inputs" {
		t.Errorf("%s was hidden, which no hardware can be built with", round.Verdict.Hidden[0].ID)
	}
	ask("/api/table/practice", map[string]any{"by": "desk", "round": round.ID}, nil)
	shows("all is well", func() bool { return strings.HasPrefix(text(), "QUILLFISH") })
}

// TestWatch is told at once of what changes, and ends with the program.
func TestWatch(t *testing.T) {
	app := New(Options{})
	s := httptest.NewServer(app)
	defer s.Close()
	r, err := http.Get(s.URL + "/api/table/watch")
	if err != nil {
		t.Fatal(err)
	}
	defer r.Body.Close()
	told := bufio.NewScanner(r.Body)
	next := func() (now live.RealTable, more bool) {
		for told.Scan() {
			if data, is := strings.CutPrefix(told.Text(), "data: "); is {
				return now, json.Unmarshal([]byte(data), &now) == nil
			}
		}
		return now, false
	}
	if now, _ := next(); now.Connected {
		t.Error("it begins with a connection")
	}
	b := demo.Bench()
	if code, text := post(app, "/api/table/connect", map[string]any{"port": ports.StandIn, "by": "desk", "stored": 1, "bench": b}); code != 200 {
		t.Fatal(text)
	}
	for now, more := next(); now.Phase != "here"; now, more = next() {
		if !more {
			t.Fatal("it ends before the bridge is there")
		}
	}
	app.Close()
	app.EndWatches()
	for _, more := next(); more; _, more = next() {
	}
}

// TestUpload builds the bridge with this machine's tools and hands it to a stand-in of avrdude, as `make upload` does; what is no port is
// refused before anything is run, and what avrdude says is told.
func TestUpload(t *testing.T) {
	dir := t.TempDir()
	stub := filepath.Join(dir, "avrdude")
	script := func(text string) {
		if err := os.WriteFile(stub, []byte("#!/bin/sh\n"+text), 0o755); err != nil {
			t.Fatal(err)
		}
	}
	script(fmt.Sprintf("echo \"$@\" > %[1]s/sent\ncp bridge.hex %[1]s/\necho bytes verified >&2\n", dir))
	s := New(Options{})
	b := demo.Bench()
	t.Setenv("PATH", "/nowhere")
	var loader live.Loader
	if _, text := post(s, "/api/table/loader", map[string]any{"bench": b}); json.Unmarshal([]byte(text), &loader) != nil || loader.Can || !strings.Contains(loader.Why, "avrdude") {
		t.Errorf("without tools: %+v", loader)
	}
	t.Setenv("PATH", dir+":/usr/bin:/bin")
	if _, text := post(s, "/api/table/loader", map[string]any{"bench": b}); json.Unmarshal([]byte(text), &loader) != nil || !loader.Can || loader.Bauds[1] != 57600 {
		t.Errorf("with tools: %+v", loader)
	}
	upload := func(port string) (int, live.Uploaded) {
		var out live.Uploaded
		code, text := post(s, "/api/table/upload", map[string]any{"port": port, "baud": 57600, "bench": b})
		json.Unmarshal([]byte(text), &out)
		return code, out
	}
	for _, port := range []string{"-F", "usb", "net:somewhere:23", "/dev/none-such", stub} {
		if code, _ := upload(port); code != 422 {
			t.Errorf("port %q answers %d", port, code)
		}
	}
	if code, out := upload("/dev/null"); code != 200 || !out.Done || out.Size < 1000 || !strings.Contains(out.Said, "verified") {
		t.Errorf("an upload answers %d, %+v", code, out)
	}
	sent, _ := os.ReadFile(filepath.Join(dir, "sent"))
	if want := "-p m328p -c arduino -P /dev/null -b 57600 -D -U flash:w:bridge.hex:i"; strings.TrimSpace(string(sent)) != want {
		t.Errorf("avrdude %s; expected %s", sent, want)
	}
	if hex, err := os.ReadFile(filepath.Join(dir, "bridge.hex")); err != nil || !strings.HasPrefix(string(hex), ":10000000") {
		t.Errorf("what is sent is no program that begins at 0: %v", err)
	}
	script("echo 'programmer is not responding' >&2; exit 1\n")
	if code, out := upload("/dev/null"); code != 200 || out.Done || !strings.Contains(out.Said, "not responding") {
		t.Errorf("one that fails answers %d, %+v", code, out)
	}
}
