package api

import (
	"bytes"
	"encoding/json"
	"net/http"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/logbook"
	"slatebell/core/text/glyph"
	"slatebell/formats/benchjson"
	"slatebell/server/api/answer"
	"slatebell/server/api/faults"
	"slatebell/server/api/log"
	"slatebell/server/api/progress"
	"slatebell/server/demo"
)

// hall is the demo's parallel module, with its first screen.
func hall() faults.FaultyModule {
	b := demo.Bench()
	b.Wiring = bench.Wiring{}
	return faults.FaultyModule{Bench: b, Module: 1}
}

// TestFindFaults says what is seen, follows the tests that are proposed as someone would
// in whose module D6 and D7 are exchanged, and finds that.
func TestFindFaults(t *testing.T) {
	s := serve(t)
	request := faults.FindRequest{FaultyModule: hall(), Class: "row-of-blocks"}
	find := func() (out faults.FindResult) {
		t.Helper()
		if res := ask(t, "POST", s.URL+"/api/faults/find", request, &out); res.StatusCode != 200 {
			t.Fatalf("%d", res.StatusCode)
		}
		return out
	}
	r := find()
	if r.Cases < 10_000 || len(r.Looks) < 7 || len(r.Causes) != faults.ShownCauses || len(r.Tests) == 0 || len(r.Text) != 2 || r.Settled {
		t.Fatalf("%d cases, %d looks, %d causes, %d tests, text %q", r.Cases, len(r.Looks), len(r.Causes), len(r.Tests), r.Text)
	}
	if g := r.Causes[0].Glass; g.Cols != 20 || len(g.Dots) != 640 || g.Dark < 0.5 || len(g.Bare) != 80 {
		t.Errorf("a row of blocks is drawn as %+v", g)
	}
	for _, l := range r.Looks {
		if l.Class == "signs" && l.Pattern == "right" && strings.TrimSpace(l.Glass.Text[0]) != strings.TrimSpace(r.Sent.Text[0]) {
			t.Errorf("as it ought to be is drawn as %q", l.Glass.Text)
		}
	}
	mv := 5000
	request = faults.FindRequest{FaultyModule: hall(), Typed: []string{" \uE0F9", "A\u2588\uFFFD"}, Results: []faults.TestResult{{Test: "supply", MV: &mv}, {Test: "header", Outcome: "pin 1 is in its hole"}}, Found: map[string]int{"wire.swapped": 2}}
	if r = find(); r.Seen.Text[1][:1] != "A" || len(r.Causes) == 0 {
		t.Errorf("typed: %q", r.Seen.Text)
	}
	request = faults.FindRequest{FaultyModule: hall(), Class: "row-of-blocks", Printed: "I2C device found at 0x3F, 0x20, 0x68"}
	request.Module = 0 // the gate's backpack
	if r = find(); r.Causes[0].ID != "bus.address:0x3F" || r.Causes[0].Share < 0.9 || len(r.Causes[0].Remedies) != 1 {
		t.Errorf("a scan that prints 0x3F: %+v", r.Causes[0].Told)
	}
	// parts that the bench lacks stand on the real bus: address by address the cause is the same
	request.Printed = "I2C device found at 0x3F, 0x20, 0x50, 0x57, 0x68"
	if r = find(); r.Causes[0].ID != "bus.address:0x3F" || r.Causes[0].Share < 0.9 {
		t.Errorf("a scan with two strangers: %+v of %d", r.Causes[0].Told, len(r.Causes))
	}
	request.Printed = "39 104 32" // as it ought to be, in decimal
	if r = find(); strings.HasPrefix(r.Causes[0].Code, "bus.address") {
		t.Errorf("a scan as it ought to be: %+v", r.Causes[0].Told)
	}
	request.Without = []string{"meter", "upload"}
	r = find()
	for _, test := range r.Tests {
		if test.Meter || test.Upload {
			t.Errorf("%s is proposed, and what it needs is not at hand", test.ID)
		}
	}
	for _, c := range []struct {
		change func(*faults.FindRequest)
		want   string
	}{
		{func(r *faults.FindRequest) { r.Module, r.Printed = 0, "nothing but tea" }, "no address can be read"},
		{func(r *faults.FindRequest) { r.Typed = []string{"潮"} }, "not in this module’s ROM"},
		{func(r *faults.FindRequest) { r.Results = []faults.TestResult{{Test: "tea"}} }, `test \"tea\"`},
		{func(r *faults.FindRequest) { r.Module = 7 }, "module 7"},
		{func(r *faults.FindRequest) { r.Screen = 300 }, "screen 300"},
		{func(r *faults.FindRequest) { r.Class = "odd" }, "class"},
	} {
		bad := faults.FindRequest{FaultyModule: hall()}
		c.change(&bad)
		var refusal string
		if res := ask(t, "POST", s.URL+"/api/faults/find", bad, &refusal); res.StatusCode != 422 || !strings.Contains(refusal, c.want) {
			t.Errorf("%d, %s; want %s", res.StatusCode, refusal, c.want)
		}
	}
	var list []faults.FaultChoice
	ask(t, "POST", s.URL+"/api/faults", gate("Tide"), &list)
	if len(list) < 80 || list[0].What == "" {
		t.Errorf("%d faults to make", len(list))
	}
	var whole []faults.FaultChoice
	ask(t, "POST", s.URL+"/api/faults/catalogue", hall(), &whole)
	if len(whole) < 200 {
		t.Errorf("%d faults to name", len(whole))
	}
}

// TestLogOfBench writes entries, reads them by query, as files, and with the bench.
func TestLogOfBench(t *testing.T) {
	s := serve(t)
	var stored answer.BenchDocument
	ask(t, "POST", s.URL+"/api/benches", demo.Archive(), &stored)
	at := s.URL + "/api/benches/1/log"
	var entries log.Log
	ask(t, "GET", at, nil, &entries)
	if entries.Total != len(demo.Archive().Log) || entries.Counts["wire.swapped"] != 1 {
		t.Fatalf("%d entries, %v", entries.Total, entries.Counts)
	}
	var e logbook.Entry
	entry := map[string]any{"at": "2026-11-01T10:00:00Z", "kind": "note", "text": "Oar & bell", "pictures": []any{map[string]any{"name": "a.png", "type": "image/png", "data": "b25l"}}}
	if res := ask(t, "POST", at, entry, &e); res.StatusCode != 201 || e.ID == 0 {
		t.Fatalf("%d, %+v", res.StatusCode, e)
	}
	ask(t, "GET", at+"?text=bell&kinds=note,seen&from=2026-10-30T00:00:00Z", nil, &entries)
	if len(entries.Entries) != 1 || entries.Entries[0].Pictures[0].Data != nil {
		t.Errorf("%+v", entries.Entries)
	}
	var picture string
	if res := ask(t, "GET", at+"/21/pictures/0", nil, &picture); res.StatusCode != 200 || res.Header.Get("Content-Type") != "image/png" || picture != "one" {
		t.Errorf("%d, %q", res.StatusCode, picture)
	}
	for ending, want := range map[string]string{"csv": "time,kind,module,text", "md": "# Log of Quillfish Landing"} {
		var text string
		if res := ask(t, "GET", at+"."+ending, nil, &text); res.StatusCode != 200 || !strings.HasPrefix(text, want) || !strings.Contains(res.Header.Get("Content-Disposition"), "quillfish-landing.log."+ending) {
			t.Errorf("%s: %d, %.80q", ending, res.StatusCode, text)
		}
	}
	if res := ask(t, "PATCH", at+"/21", map[string]string{"text": "Oar and bell"}, &e); res.StatusCode != 200 || e.Text != "Oar and bell" {
		t.Errorf("%d, %+v", res.StatusCode, e)
	}
	var exported string
	ask(t, "GET", s.URL+"/api/benches/1/bench.json", nil, &exported)
	b, err := benchjson.ParseArchive([]byte(exported))
	if err != nil || len(b.Log) != entries.Total || b.Log[len(b.Log)-1].Text != "Oar and bell" || string(b.Log[len(b.Log)-1].Pictures[0].Data) != "one" {
		t.Fatalf("exported: %d entries, %v", len(b.Log), err)
	}
	ask(t, "POST", s.URL+"/api/benches/import", json.RawMessage(exported), &stored)
	var again log.Log
	ask(t, "GET", s.URL+"/api/benches/2/log", nil, &again)
	if again.Total != entries.Total {
		t.Errorf("imported with %d entries of %d", again.Total, entries.Total)
	}
	for _, c := range []struct {
		method, path string
		body         any
		status       int
	}{
		{"DELETE", at + "/21", nil, 204}, {"DELETE", at + "/21", nil, 404}, {"GET", at + "/20/pictures/0", nil, 404}, {"GET", at + "?from=yesterday", nil, 422},
		{"POST", at, map[string]any{"at": "2026-11-01T10:00:00Z", "kind": "note", "text": " "}, 422}, {"POST", s.URL + "/api/benches/9/log", entry, 404},
		{"PATCH", at + "/20", map[string]string{"text": " "}, 422},
	} {
		if res := ask(t, c.method, c.path, c.body, nil); res.StatusCode != c.status {
			t.Errorf("%s %s: %d, want %d", c.method, c.path, res.StatusCode, c.status)
		}
	}
}

// TestProgress follows a request that takes long, as the page does: what is told grows, is
// never more than there is to do, and nothing is kept once the answer is there.
func TestProgress(t *testing.T) {
	s := serve(t)
	const name = "p1"
	at := func() (p progress.Progress) {
		ask(t, "GET", s.URL+"/api/progress/"+name, nil, &p)
		return p
	}
	done := make(chan faults.FindResult)
	go func() {
		body, _ := json.Marshal(faults.FindRequest{FaultyModule: hall()})
		req, _ := http.NewRequest("POST", s.URL+"/api/faults/find", bytes.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		req.Header.Set("Watch", name)
		var out faults.FindResult
		if res, err := http.DefaultClient.Do(req); err == nil {
			json.NewDecoder(res.Body).Decode(&out)
			res.Body.Close()
		}
		done <- out
	}()
	told := map[string]int{}
	var last progress.Progress
	for {
		select {
		case out := <-done:
			if out.Cases == 0 || len(told) == 0 || told["Simulating faults"] != out.Cases {
				t.Errorf("%d cases; told of %v", out.Cases, told)
			}
			if p := at(); p != (progress.Progress{}) {
				t.Errorf("kept after the answer: %+v", p)
			}
			return
		default:
		}
		if p := at(); p.Of > 0 {
			if p.Done >= p.Of || p.Doing == last.Doing && p.Done < last.Done {
				t.Errorf("%+v after %+v", p, last)
			}
			told[p.Doing], last = p.Of, p
		}
	}
}

// TestRefusedPlaces asks with characters that the ROM lacks: the refusal names the place as a text
// and as data, so that a page that counts from 0 can write it.
func TestRefusedPlaces(t *testing.T) {
	s := serve(t)
	var r answer.Refusal
	ask(t, "POST", s.URL+"/api/faults/find", faults.FindRequest{FaultyModule: hall(), Typed: []string{"Tide", "is 漢"}}, &r)
	if r.Status != 422 || len(r.Places) != 1 || *r.Places[0].Row != 1 || *r.Places[0].Col != 3 || r.Places[0].Error != nil {
		t.Fatalf("%+v", r)
	}
	if p := r.Places[0]; string([]rune(r.Detail)[p.At:p.At+p.Len]) != "row 2, column 4" {
		t.Errorf("%q, place %+v", r.Detail, p)
	}
	b := demo.Bench()
	part := glyph.InPicture{Picture: "boat", Row: 3}
	b.Glyphs = glyph.Library{{Key: 1, Rows: make([]int, 8), Part: &part}, {Key: 2, Rows: make([]int, 8), Part: &part}}
	r = answer.Refusal{}
	ask(t, "POST", s.URL+"/api/plan", b, &r)
	if r.Status != 422 || len(r.Places) == 0 || r.Places[0].Error == nil || !strings.Contains(r.Errors[*r.Places[0].Error].Message, "row 4, column 1 of picture") {
		t.Errorf("%+v", r)
	}
}
