package api

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/finding"
	"slatebell/core/prove/testbed"
	"slatebell/server/api/runs"
	"slatebell/server/api/wiring"
	"slatebell/server/demo"
)

// TestGlasses asks for several glasses at once: each is that of its run, one with a fault is another, and of one that cannot be run is said why.
func TestGlasses(t *testing.T) {
	s := serve(t)
	sound, wrong := gate("Tide 3.2 m", "High"), gate("Tide")
	wrong.Display.Geometry = "16x9"
	asked := runs.GlassesRequest{Screens: []runs.GlassRequest{{Setup: sound}, {Setup: sound, Fault: "bus.address:0x3F"}, {Setup: wrong}}}
	var drawn []runs.Drawn
	if res := ask(t, "POST", s.URL+"/api/glasses", asked, &drawn); res.StatusCode != 200 || len(drawn) != 3 {
		t.Fatalf("%s: %+v", res.Status, drawn)
	}
	for i, fault := range []string{"", "bus.address:0x3F"} {
		var run runs.RunResult
		ask(t, "POST", s.URL+"/api/runs", runs.RunRequest{Setup: sound, Fault: fault}, &run)
		open := 0
		for _, f := range run.Findings {
			if f.Severity != finding.Note {
				open++
			}
		}
		if drawn[i].Glass == nil || !reflect.DeepEqual(*drawn[i].Glass, run.Glass) || drawn[i].Open != open {
			t.Errorf("%q: another glass than that of its run, with %d findings, want %d", fault, drawn[i].Open, open)
		}
	}
	if drawn[2].Glass != nil || !strings.Contains(drawn[2].Problem, "16x9") {
		t.Errorf("of one that cannot be: %+v", drawn[2])
	}
}

// TestTableWithGlass asks for the table with a screen of it: the run is the one that is asked for with what drives its header there.
func TestTableWithGlass(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	setup, err := testbed.Of(&b, testbed.At{Module: 1})
	if err != nil {
		t.Fatal(err)
	}
	setup.Joined = nil
	var laid, alone wiring.WiringResult
	ask(t, "POST", s.URL+"/api/wiring", wiring.WiringRequest{Bench: b, Shown: &setup}, &laid)
	ask(t, "POST", s.URL+"/api/wiring", b, &alone)
	if laid.Run == nil || alone.Run != nil || len(laid.Joined) != 3 {
		t.Fatalf("runs %v and %v, %d modules joined", laid.Run != nil, alone.Run != nil, len(laid.Joined))
	}
	setup.Joined = laid.Joined[1]
	var run runs.RunResult
	ask(t, "POST", s.URL+"/api/runs", runs.RunRequest{Setup: setup}, &run)
	got, _ := json.Marshal(laid.Run)
	want, _ := json.Marshal(run)
	if string(got) != string(want) {
		t.Error("the run that comes with the table is another than the one that is asked for alone")
	}
}
