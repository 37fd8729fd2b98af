package api

import (
	"encoding/json"
	"net/http"
	"strings"
	"testing"
	"time"

	"slatebell/core/prove/testbed"
	"slatebell/live/ports"
	"slatebell/server/api/facts"
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
	ask("memory", map[string]any{"module": 9}, 422, nil)
	var now live.RealTable
	if ask("drive", map[string]any{"by": "telephone"}, 200, &now); now.By != "telephone" {
		t.Errorf("%q drives", now.By)
	}
	ask("bench", map[string]any{"by": "desk", "bench": b}, 422, nil)
	ask("bench", map[string]any{"by": "telephone", "bench": b}, 200, nil)
	if ask("disconnect", map[string]any{}, 200, &now); now.Connected {
		t.Error("it is connected still")
	}
	ask("connect", map[string]any{"port": "/dev/none-such", "by": "desk", "stored": 1, "bench": b}, 200, nil)
	for end := time.Now().Add(5 * time.Second); state().Phase != "gone" || !strings.Contains(state().Why, "there is no port"); time.Sleep(5 * time.Millisecond) {
		if time.Now().After(end) {
			t.Fatalf("of a port that is not there it says %+v", state())
		}
	}
}
