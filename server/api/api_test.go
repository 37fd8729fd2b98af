package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"reflect"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/part/charrom"
	"slatebell/core/prove/testbed"
	"slatebell/formats/benchjson"
	"slatebell/server/api/answer"
	"slatebell/server/api/benches"
	"slatebell/server/api/glyphs"
	"slatebell/server/api/runs"
	"slatebell/server/api/table"
	"slatebell/server/store"
)

// page is a stand-in for the built front end.
var page = fstest.MapFS{
	"index.html":    {Data: []byte(`<meta name="style-nonce" content="STYLE-NONCE">`)},
	"assets/one.js": {Data: []byte("1")},
	"bell.svg":      {Data: []byte("<svg/>")},
}

func serve(t testing.TB) *httptest.Server {
	t.Helper()
	db, err := store.Open(t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewServer(New(Options{Store: db, Files: page}))
	t.Cleanup(func() {
		s.Close()
		db.Close()
	})
	return s
}

// gate is a module as makers first buy it, with a screen.
func gate(rows ...string) testbed.Setup {
	m := bench.NewModule("gate", "Gate")
	return testbed.Setup{Display: m.Display, Link: m.Link, Rows: append([]string{}, rows...)}
}

// ask sends a request with a JSON body and reads the answer into out.
func ask(t testing.TB, method, url string, body, out any, headers ...string) *http.Response {
	t.Helper()
	var data []byte
	if body != nil {
		data, _ = json.Marshal(body)
	}
	req, err := http.NewRequest(method, url, bytes.NewReader(data))
	if err != nil {
		t.Fatal(err)
	}
	req.Header.Set("Content-Type", "application/json")
	for i := 0; i+1 < len(headers); i += 2 {
		if headers[i] == "Host" {
			req.Host = headers[i+1]
		}
		req.Header.Set(headers[i], headers[i+1])
	}
	res, err := http.DefaultClient.Do(req)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	text, _ := io.ReadAll(res.Body)
	if whole, ok := out.(*string); ok {
		*whole = string(text)
	} else if out != nil {
		if err := json.Unmarshal(text, out); err != nil {
			t.Fatalf("%s %s: %v in %s", method, url, err, text)
		}
	}
	return res
}

func TestGuard(t *testing.T) {
	s := serve(t)
	for _, c := range []struct {
		header, value string
		want          int
	}{
		{"Host", "evil.example", 403},
		{"Host", "localhost:1", 200},
		{"Host", "[::1]:8414", 200},
		{"Host", "[::1]", 200},
		{"Host", "[::2]", 403},
		{"Host", "127.0.0.1", 200},
		{"Origin", "http://evil.example", 403},
		{"Origin", "null", 403},
		{"Origin", s.URL, 200},
		{"Origin", strings.Replace(s.URL, "http:", "https:", 1), 403},
	} {
		if res := ask(t, "GET", s.URL+"/api/benches", nil, nil, c.header, c.value); res.StatusCode != c.want {
			t.Errorf("%s: %s answers %d, want %d", c.header, c.value, res.StatusCode, c.want)
		}
	}
	var text string
	res := ask(t, "GET", s.URL+"/screen", nil, &text)
	csp := res.Header.Get("Content-Security-Policy")
	_, nonce, _ := strings.Cut(strings.TrimSuffix(text, `">`), `content="`)
	if !strings.Contains(csp, "script-src 'self';") || nonce == "" || !strings.Contains(csp, "'nonce-"+nonce+"'") || strings.Contains(csp, "unsafe") {
		t.Errorf("policy %q for the page %q", csp, text)
	}
	for path, want := range map[string]string{"/bell.svg": "<svg/>", "/assets/one.js": "1"} {
		var file string
		if ask(t, "GET", s.URL+path, nil, &file); file != want {
			t.Errorf("%s is %q", path, file)
		}
	}
	if res := ask(t, "POST", s.URL+"/benches", nil, nil); res.StatusCode != 405 {
		t.Errorf("a POST to a page answers %d", res.StatusCode)
	}
	if res := ask(t, "POST", s.URL+"/api/mapping", map[string]string{"text": "RS=0,E=0"}, &text); res.StatusCode != 422 || !strings.Contains(text, "P0 drives both RS and E") {
		t.Errorf("a mapping that cannot be: %d, %s", res.StatusCode, text)
	}
	for path, want := range map[string]int{"/assets/one.js": 200, "/assets/two.js": 404, "/api/nothing": 404, "/any/view": 200} {
		if res := ask(t, "GET", s.URL+path, nil, nil); res.StatusCode != want {
			t.Errorf("%s answers %d, want %d", path, res.StatusCode, want)
		}
	}
	for _, path := range []string{"/api/benches", "/api/benches/import", "/api/wiring", "/api/glyphs/cut", "/api/benches/1/log"} {
		for _, stated := range []bool{true, false} { // by its length, and chunk by chunk
			body := io.Reader(strings.NewReader(`"` + strings.Repeat("x", 20<<20) + `"`))
			if !stated {
				body = struct{ io.Reader }{body}
			}
			res, err := http.Post(s.URL+path, "application/json", body)
			if err != nil {
				t.Errorf("%s: %v", path, err)
				continue
			}
			text, _ := io.ReadAll(res.Body)
			res.Body.Close()
			if res.StatusCode != 413 || !strings.Contains(string(text), "larger than 16 MiB") {
				t.Errorf("%s: a body of 20 MB answers %d, %.200s", path, res.StatusCode, text)
			}
		}
	}
}

func TestBenches(t *testing.T) {
	s := serve(t)
	var made, read answer.BenchDocument
	if res := ask(t, "POST", s.URL+"/api/benches", bench.New("Boathouse"), &made); res.StatusCode != 201 || made.Revision != 1 {
		t.Fatalf("create: %d, %+v", res.StatusCode, made)
	}
	url := s.URL + "/api/benches/1"
	change := map[string]any{"revision": 1, "bench": made.Bench}
	made.Bench.Modules[0].Screens[0].Rows = []string{"mine"}
	if res := ask(t, "PUT", url, change, &read); res.StatusCode != 200 || read.Revision != 2 {
		t.Errorf("update: %d, %+v", res.StatusCode, read)
	}
	var conflict answer.Conflict
	res := ask(t, "PUT", url, change, &conflict)
	if res.StatusCode != 409 || conflict.Current.Revision != 2 || conflict.Current.Bench.Name != "Boathouse" || res.Header.Get("Content-Type") != "application/problem+json" {
		t.Errorf("stale update: %d %s, %+v", res.StatusCode, res.Header.Get("Content-Type"), conflict)
	}
	bad := bench.New("bad")
	bad.Modules[0].Link.Outputs.Address = 0x50
	var text string
	if res := ask(t, "POST", s.URL+"/api/benches", bad, &text); res.StatusCode != 422 || !strings.Contains(text, "0x20–0x27") || !strings.Contains(text, "/modules/0/link/outputs") {
		t.Errorf("a bad address: %d, %s", res.StatusCode, text)
	}
	if res := ask(t, "GET", s.URL+"/api/benches/9", nil, nil); res.StatusCode != 404 {
		t.Errorf("a bench that is not there: %d", res.StatusCode)
	}
}

func TestRuns(t *testing.T) {
	s := serve(t)
	m := gate("Tide", "3.2 m")
	var run runs.RunResult
	if res := ask(t, "POST", s.URL+"/api/runs", runs.RunRequest{Setup: m}, &run); res.StatusCode != 200 {
		t.Fatalf("run: %d", res.StatusCode)
	}
	if run.Glass.Text[1] != "3.2 m           " || len(run.Glass.Dots) != 8*32 || run.Findings == nil || run.Program.AddressByte != "4E" || run.Cells[16].Address != 0x40 {
		t.Errorf("run %+v", run)
	}
	var moments []runs.Moment
	ask(t, "GET", s.URL+"/api/runs/"+run.ID+"/moments?from=0&count=256", nil, &moments)
	if len(moments) != len(run.Program.Steps)+1 || moments[0].Controllers[0].TwoLine || moments[0].Glass.On || !moments[len(moments)-1].Glass.On {
		t.Errorf("%d moments of %d steps", len(moments), len(run.Program.Steps))
	}
	for path, want := range map[string]string{"steps.csv": "step,start_us,rs,value,wire,wait_us,meaning\r\n", "wire.hex": "FB 08\n3C 38\n"} {
		var text string
		res := ask(t, "GET", s.URL+"/api/runs/"+run.ID+"/"+path, nil, &text)
		if !strings.HasPrefix(text, want) || !strings.Contains(res.Header.Get("Content-Disposition"), path) {
			t.Errorf("%s: %q", path, text[:min(len(text), 80)])
		}
	}
	if res := ask(t, "GET", s.URL+"/api/runs/none/moments", nil, nil); res.StatusCode != 404 {
		t.Errorf("a run that is not kept: %d", res.StatusCode)
	}
}

// TestLive reads operations given by hand, adds them to a run, and finds what was
// read and where the run is to stop.
func TestLive(t *testing.T) {
	s := serve(t)
	m := gate("Tide")
	var ops []runs.LiveOperation
	for _, text := range []string{"address 0", "read data"} {
		var read []runs.LiveOperation
		if res := ask(t, "POST", s.URL+"/api/live", map[string]any{"text": text, "setup": m}, &read); res.StatusCode != 200 {
			t.Fatalf("%s: %d", text, res.StatusCode)
		}
		ops = append(ops, read...)
	}
	var run runs.RunResult
	ask(t, "POST", s.URL+"/api/runs", runs.RunRequest{Setup: m, Live: ops}, &run)
	last := len(run.Program.Steps) - 1
	if len(run.Reads) != 1 || run.Reads[0] != (runs.Read{Step: last, Value: 'T', Meaning: "Read data: 0x54"}) {
		t.Errorf("reads %+v, want the T in step %d", run.Reads, last)
	}
	for at, want := range map[string]string{"0x02": "the address counter comes to 0x02", "clear": "“clear” in a step's meaning", "1": "step 1"} {
		var stops runs.Stops
		ask(t, "GET", s.URL+"/api/runs/"+run.ID+"/stops?at="+at, nil, &stops)
		if len(stops.Steps) != 1 || stops.Sought != want {
			t.Errorf("stops at %s: %+v", at, stops)
		}
	}
	var text string
	if res := ask(t, "GET", s.URL+"/api/runs/"+run.ID+"/stops?at=999", nil, &text); res.StatusCode != 422 || !strings.Contains(text, "this run has steps 1–") {
		t.Errorf("a step that is not there: %d, %s", res.StatusCode, text)
	}
	m.Link.Kind = "parallel4"
	if res := ask(t, "POST", s.URL+"/api/runs", runs.RunRequest{Setup: m, Live: ops}, &text); res.StatusCode != 422 || !strings.Contains(text, "R/W is not joined") {
		t.Errorf("a read with R/W to ground: %d, %s", res.StatusCode, text)
	}
	if res := ask(t, "POST", s.URL+"/api/live", map[string]any{"text": "polish", "setup": m}, &text); res.StatusCode != 422 || !strings.Contains(text, "is no instruction") {
		t.Errorf("nonsense by hand: %d, %s", res.StatusCode, text)
	}
}

// TestComparisons checks that ways and links are compared for the very screen,
// and that a module that cannot be is refused in words.
func TestComparisons(t *testing.T) {
	s := serve(t)
	m := gate("Tide")
	var run runs.RunResult
	var ways []runs.Way
	var links []table.LinkChoice
	b := bench.New("Boathouse")
	b.Modules[0].Screens[0].Rows = m.Rows
	ask(t, "POST", s.URL+"/api/runs", runs.RunRequest{Setup: m}, &run)
	ask(t, "POST", s.URL+"/api/ways", m, &ways)
	ask(t, "POST", s.URL+"/api/plan/links", map[string]any{"bench": b, "module": 0}, &links)
	if len(ways) != 9 || !ways[0].Best || ways[0].WireUs != run.Program.Totals.WireUs || len(ways[2].Breaks) == 0 {
		t.Errorf("ways %+v", ways)
	}
	if len(links) != 4 || links[0].Kind != "backpack" || links[0].WireUs != run.Program.Totals.WireUs || !links[0].Recommended || !links[0].Now {
		t.Errorf("links %+v", links)
	}
	m.Display.Geometry, b.Modules[0].Display.Geometry = "3x3", "3x3"
	for path, body := range map[string]any{"/api/ways": m, "/api/plan/links": map[string]any{"bench": b, "module": 0}, "/api/rom": m.Display, "/api/runs": m} {
		var text string
		if res := ask(t, "POST", s.URL+path, body, &text); res.StatusCode != 422 || !strings.Contains(text, "expected one of 8x1") {
			t.Errorf("%s: %d, %s", path, res.StatusCode, text)
		}
	}
}

// TestPatch changes a bench by RFC 6902 patches against its revision.
func TestPatch(t *testing.T) {
	s := serve(t)
	ask(t, "POST", s.URL+"/api/benches", bench.New("Boathouse"), nil)
	url := s.URL + "/api/benches/1"
	const kind = "application/json-patch+json"
	rename := finding.Patch{finding.Replace("/name", "Slip")}
	for _, c := range []struct {
		patch      any
		match      string
		kind       string
		status     int
		revision   int
		want, etag string
	}{
		{rename, `"1"`, kind, 200, 2, "", `"2"`},
		{rename, `"1"`, kind, 200, 2, "", `"2"`}, // it is so already
		{finding.Patch{finding.Replace("/name", "Gate")}, `"1"`, kind, 409, 0, `"clashes":["/name"]`, ""},
		{finding.Patch{finding.Test("/name", "Boathouse"), finding.Replace("/modules/0/name", "Hall")}, `"1"`, kind, 409, 0, `"clashes":["/name"]`, ""},
		{rename, "", kind, 428, 0, `If-Match: \"3\"`, ""},
		{rename, "soon", kind, 400, 0, "expected the revision in quotes", ""},
		{rename, `"2"`, "application/json", 415, 0, "expected application/json-patch+json", ""},
		{finding.Patch{finding.Remove("/nothing")}, `"2"`, kind, 422, 0, "operation 1 (remove", ""},
		{finding.Patch{finding.Test("/name", "Hall")}, `"2"`, kind, 422, 0, "another value stands at", ""},
		{finding.Patch{finding.Replace("/modules/0/link/outputs/address", 0x50)}, `"2"`, kind, 422, 0, "/modules/0/link/outputs: address 0x50", ""},
		{finding.Patch{finding.Add("/modules/0/screens/0/rows/0", "Tide")}, `W/"2"`, kind + "; charset=utf-8", 200, 3, "", `"3"`},
		{finding.Patch{finding.Replace("/modules/0/name", "Hall")}, `"1"`, kind, 200, 4, `"rest":[{"op":"add","path":"/modules/0/screens/0/rows/0","value":"Tide"},{"op":"replace","path":"/name","value":"Slip"}]`, `"4"`},
		{rename, `"9"`, kind, 409, 0, "nothing was overwritten", ""},
	} {
		var text string
		var stored answer.Stored
		res := ask(t, "PATCH", url, c.patch, &text, "If-Match", c.match, "Content-Type", c.kind)
		json.Unmarshal([]byte(text), &stored)
		if res.StatusCode != c.status || stored.Revision != c.revision || !strings.Contains(text, c.want) || res.Header.Get("ETag") != c.etag {
			t.Errorf("%v against %s: %d, %s", c.patch, c.match, res.StatusCode, text)
		}
	}
	var read answer.BenchDocument
	if res := ask(t, "GET", url, nil, &read); read.Bench.Name != "Slip" || read.Bench.Modules[0].Screens[0].Rows[0] != "Tide" || read.Bench.Modules[0].Name != "Hall" || res.Header.Get("ETag") != `"4"` {
		t.Errorf("%+v", read)
	}
}

// TestPatchBeforeItsTurn sends two changes side by side, the second against what the first leads to, as a page does that is left: both are
// stored, whichever arrives first.
func TestPatchBeforeItsTurn(t *testing.T) {
	s := serve(t)
	ask(t, "POST", s.URL+"/api/benches", bench.New("Boathouse"), nil)
	for revision := 1; revision < 40; revision += 2 {
		statuses := make(chan int)
		for n := range 2 {
			go func() {
				name := finding.Patch{finding.Replace("/name", fmt.Sprint("Slip ", revision+n))}
				statuses <- ask(t, "PATCH", s.URL+"/api/benches/1", name, nil, "If-Match", fmt.Sprintf("%q", fmt.Sprint(revision+n)), "Content-Type", "application/json-patch+json").StatusCode
			}()
		}
		if a, b := <-statuses, <-statuses; a != 200 || b != 200 {
			t.Fatalf("at revision %d: %d and %d", revision, a, b)
		}
		var read answer.BenchDocument
		if ask(t, "GET", s.URL+"/api/benches/1", nil, &read); read.Bench.Name != fmt.Sprint("Slip ", revision+1) {
			t.Fatalf("at revision %d: %q", revision, read.Bench.Name)
		}
	}
}

// TestRemedyEverywhere takes up a finding's first remedy through the API: the
// bench then is what the command line and the core make of it.
func TestRemedyEverywhere(t *testing.T) {
	s := serve(t)
	b := bench.New("Boathouse")
	b.Modules[0].Screens[0].Rows = []string{"Café at the landing"}
	ask(t, "POST", s.URL+"/api/benches", b, nil)
	url := s.URL + "/api/benches/1"
	var found []finding.Finding
	ask(t, "GET", url+"/findings", nil, &found)
	if len(found) != 2 || found[0].Code != "rom.missing-character" || found[0].Path != "/modules/0/screens/0/rows/0" {
		t.Fatalf("found %+v", found)
	}
	want, err := benchjson.Remedy(&b, found[0].Remedies[0])
	if err != nil {
		t.Fatal(err)
	}
	ask(t, "PATCH", url, found[0].Remedies[0].Patch, nil, "If-Match", `"1"`, "Content-Type", "application/json-patch+json")
	var read answer.BenchDocument
	ask(t, "GET", url, nil, &read)
	if !reflect.DeepEqual(read.Bench, want) || want.Modules[0].Screens[0].Rows[0] != "Cafe at the landing" {
		t.Errorf("%+v, want %+v", read.Bench, want)
	}
}

// TestManyBenches walks a bench through copying, bin, import and export.
func TestManyBenches(t *testing.T) {
	s := serve(t)
	var made, copied answer.BenchDocument
	if res := ask(t, "POST", s.URL+"/api/benches/new", nil, &made); res.StatusCode != 201 || made.Bench.Name != "New bench" {
		t.Fatalf("new: %d", res.StatusCode)
	}
	if res := ask(t, "POST", s.URL+"/api/benches/1/copies", nil, &copied); res.StatusCode != 201 || copied.Bench.Name != "New bench, copy" || copied.ID != 2 {
		t.Errorf("copy: %d, %+v", res.StatusCode, copied.Stored)
	}
	count := func(path string) int {
		var list []benches.Summary
		ask(t, "GET", s.URL+path, nil, &list)
		return len(list)
	}
	if res := ask(t, "DELETE", s.URL+"/api/benches/1", nil, nil); res.StatusCode != 204 || count("/api/benches") != 1 || count("/api/bin") != 1 {
		t.Errorf("discard: %d", res.StatusCode)
	}
	for method, body := range map[string]any{"GET": nil, "PATCH": finding.Patch{}} {
		var text string
		if res := ask(t, method, s.URL+"/api/benches/1", body, &text, "If-Match", `"1"`, "Content-Type", "application/json-patch+json"); res.StatusCode != 410 || !strings.Contains(text, "take it out to go on") {
			t.Errorf("%s of a bench in the bin: %d, %s", method, res.StatusCode, text)
		}
	}
	if res := ask(t, "POST", s.URL+"/api/benches/1/restore", nil, &made); res.StatusCode != 200 || made.Revision != 1 || count("/api/bin") != 0 {
		t.Errorf("restore: %d", res.StatusCode)
	}
	ask(t, "DELETE", s.URL+"/api/benches/2", nil, nil)
	var emptied struct{ Deleted int }
	if ask(t, "DELETE", s.URL+"/api/bin", nil, &emptied); emptied.Deleted != 1 || count("/api/bin") != 0 {
		t.Errorf("emptied of %d", emptied.Deleted)
	}
	if res := ask(t, "POST", s.URL+"/api/benches/2/restore", nil, nil); res.StatusCode != 404 {
		t.Errorf("restore of what is gone: %d", res.StatusCode)
	}

	old, err := os.ReadFile("../../formats/benchjson/testdata/v1/demo.json")
	if err != nil {
		t.Fatal(err)
	}
	var imported answer.BenchDocument
	if res := ask(t, "POST", s.URL+"/api/benches/import", json.RawMessage(old), &imported); res.StatusCode != 201 || imported.Bench.Version != 2 || imported.Bench.Name != "Quillfish Landing" {
		t.Fatalf("import: %d, %+v", res.StatusCode, imported.Stored)
	}
	var text string
	res := ask(t, "GET", fmt.Sprintf("%s/api/benches/%d/bench.json", s.URL, imported.ID), nil, &text)
	again, err := benchjson.Parse([]byte(text))
	if err != nil || !reflect.DeepEqual(again, imported.Bench) || res.Header.Get("Content-Disposition") != `attachment; filename="quillfish-landing.bench.json"` {
		t.Errorf("export: %v, %s", err, res.Header.Get("Content-Disposition"))
	}
	before := count("/api/benches")
	for body, want := range map[string]string{`{"format": "slatebell-bench",`: "line 1, column", `{"format": "x"}`: `"location":"/format"`} {
		res, err := http.Post(s.URL+"/api/benches/import", "application/json", strings.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		refusal, _ := io.ReadAll(res.Body)
		res.Body.Close()
		if res.StatusCode != 422 || !strings.Contains(string(refusal), want) || count("/api/benches") != before {
			t.Errorf("import of %s: %d, %s", body, res.StatusCode, refusal)
		}
	}
	res = ask(t, "GET", s.URL+"/api/backup", nil, &text)
	if !strings.HasPrefix(text, "SQLite format 3\x00") || !strings.HasPrefix(res.Header.Get("Content-Disposition"), `attachment; filename="slatebell-`) {
		t.Errorf("backup: %d, %.20q", res.StatusCode, text)
	}
}

// TestFiles serves what there is to keep: ROM charts, and nothing for names that
// are none.
func TestFiles(t *testing.T) {
	s := serve(t)
	for _, name := range charrom.Names() {
		var text, want strings.Builder
		rom, _ := charrom.ByName(name)
		rom.WriteTo(&want)
		res, err := http.Get(s.URL + "/api/roms/" + name)
		if err != nil {
			t.Fatal(err)
		}
		io.Copy(&text, res.Body)
		res.Body.Close()
		if text.String() != want.String() || res.Header.Get("Content-Disposition") != `attachment; filename="`+name+`.chart"` {
			t.Errorf("%s: %d, %.40q", name, res.StatusCode, text.String())
		}
	}
	if res := ask(t, "GET", s.URL+"/api/roms/A99", nil, nil); res.StatusCode != 404 {
		t.Errorf("a ROM that is not there: %d", res.StatusCode)
	}
	var chart glyphs.ROMChart
	ask(t, "POST", s.URL+"/api/rom", gate().Display, &chart)
	want, _ := charrom.ByName("A00")
	for c, e := range chart.Cells {
		dots := want.Dots(byte(c))
		ch, has := want.Rune(byte(c))
		if e.Code != c || !bytes.Equal(e.Dots, dots[:]) || e.Known != want.Known(byte(c)) || has != (e.Char != "") || has && (e.Char != string(ch) || e.Name == "") {
			t.Errorf("code %02X: %+v", c, e)
		}
	}
	if len(chart.Cells) != 256 || chart.Name != "A00" {
		t.Errorf("%d cells of %s", len(chart.Cells), chart.Name)
	}
}

// TestNames checks what copies and files are called.
func TestNames(t *testing.T) {
	for name, want := range map[string]string{
		"Gate": "Gate, copy", "": ", copy", strings.Repeat("ü", 74): strings.Repeat("ü", 74) + ", copy", strings.Repeat("ü", 75): strings.Repeat("ü", 74) + ", copy", strings.Repeat("x", 80): strings.Repeat("x", 74) + ", copy",
	} {
		if got := benches.CopyName(name); got != want {
			t.Errorf("a copy of %q is %q", name, got)
		}
	}
	for name, want := range map[string]string{"Quillfish Landing": "quillfish-landing", "  Tide: 3.2 m!": "tide-3-2-m", "漢字": "bench", "": "bench", "az09": "az09", "Æ a/../b": "a-b"} {
		if got := answer.FileName(name); got != want {
			t.Errorf("the file of %q is %q", name, got)
		}
	}
	if got := answer.Cut("Tide at the landing", 4); got != "Tide…" || answer.Cut("Tide", 4) != "Tide" {
		t.Errorf("cut to %q", got)
	}
}

// TestRefusalsAreShort checks that a request that is refused is not sent back.
func TestRefusalsAreShort(t *testing.T) {
	s := serve(t)
	many := gate(slices.Repeat([]string{strings.Repeat("tide ", 80)}, 900)...)
	for what, body := range map[string]any{
		"too many rows":   many,
		"wrong rows":      map[string]any{"display": many.Display, "link": many.Link, "rows": slices.Repeat([]any{7}, 60)},
		"a long word":     map[string]any{"display": many.Display, "link": many.Link, "rows": []string{}, "fault": strings.Repeat("x", 100_000)},
		"a foreign value": many.Rows,
	} {
		var text string
		if res := ask(t, "POST", s.URL+"/api/runs", body, &text); res.StatusCode != 422 || len(text) > 8000 {
			t.Errorf("%s: %d, %d bytes: %.300s", what, res.StatusCode, len(text), text)
		}
	}
	res, err := http.Post(s.URL+"/api/runs", "application/json", strings.NewReader(strings.Repeat("[", 100_000)))
	if err != nil {
		t.Fatal(err)
	}
	text, _ := io.ReadAll(res.Body)
	res.Body.Close()
	if res.StatusCode != 400 || len(text) > 2000 {
		t.Errorf("no JSON: %d, %d bytes", res.StatusCode, len(text))
	}
}

// TestOpenAPICurrent compares the document that the TypeScript types come from.
func TestOpenAPICurrent(t *testing.T) {
	doc, err := OpenAPI()
	if err != nil {
		t.Fatal(err)
	}
	var want bytes.Buffer
	json.Indent(&want, doc, "", "  ")
	kept, err := os.ReadFile("openapi.json")
	if err != nil || strings.TrimSpace(string(kept)) != want.String() {
		t.Errorf("openapi.json is stale: run make generate (%v)", err)
	}
}
