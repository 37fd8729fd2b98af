package api

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"testing"
	"testing/fstest"

	"slatebell/core/bench"
	"slatebell/core/screen"
	"slatebell/server/store"
)

// page is a stand-in for the built front end.
var page = fstest.MapFS{
	"index.html":    {Data: []byte(`<meta name="style-nonce" content="STYLE-NONCE">`)},
	"assets/one.js": {Data: []byte("1")},
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
	for path, want := range map[string]int{"/assets/one.js": 200, "/assets/two.js": 404, "/api/nothing": 404, "/any/view": 200} {
		if res := ask(t, "GET", s.URL+path, nil, nil); res.StatusCode != want {
			t.Errorf("%s answers %d, want %d", path, res.StatusCode, want)
		}
	}
	if res := ask(t, "POST", s.URL+"/api/benches", strings.Repeat("x", maxBody+1), nil); res.StatusCode != 413 {
		t.Errorf("a body beyond the bound answers %d", res.StatusCode)
	}
}

func TestBenches(t *testing.T) {
	s := serve(t)
	var made, read BenchDocument
	if res := ask(t, "POST", s.URL+"/api/benches", bench.New("Boathouse"), &made); res.StatusCode != 201 || made.Revision != 1 {
		t.Fatalf("create: %d, %+v", res.StatusCode, made)
	}
	url := s.URL + "/api/benches/1"
	change := map[string]any{"revision": 1, "bench": made.Bench}
	made.Bench.Modules[0].Screen.Rows = []string{"mine"}
	if res := ask(t, "PUT", url, change, &read); res.StatusCode != 200 || read.Revision != 2 {
		t.Errorf("update: %d, %+v", res.StatusCode, read)
	}
	var conflict Conflict
	res := ask(t, "PUT", url, change, &conflict)
	if res.StatusCode != 409 || conflict.Current.Revision != 2 || conflict.Current.Bench.Name != "Boathouse" || res.Header.Get("Content-Type") != "application/problem+json" {
		t.Errorf("stale update: %d %s, %+v", res.StatusCode, res.Header.Get("Content-Type"), conflict)
	}
	bad := bench.New("bad")
	bad.Modules[0].Link.Address = 0x50
	var text string
	if res := ask(t, "POST", s.URL+"/api/benches", bad, &text); res.StatusCode != 422 || !strings.Contains(text, "0x20–0x27") || !strings.Contains(text, "modules[0].link") {
		t.Errorf("a bad address: %d, %s", res.StatusCode, text)
	}
	if res := ask(t, "GET", s.URL+"/api/benches/9", nil, nil); res.StatusCode != 404 {
		t.Errorf("a bench that is not there: %d", res.StatusCode)
	}
}

func TestRuns(t *testing.T) {
	s := serve(t)
	m := bench.NewModule("gate", "Gate")
	m.Screen = screen.Screen{Rows: []string{"Tide", "3.2 m"}}
	var run RunResult
	if res := ask(t, "POST", s.URL+"/api/runs", RunRequest{Module: m}, &run); res.StatusCode != 200 {
		t.Fatalf("run: %d", res.StatusCode)
	}
	if run.Glass.Text[1] != "3.2 m           " || len(run.Glass.Dots) != 8*32 || run.Findings == nil || run.Program.AddressByte != "4E" || run.Cells[16].Address != 0x40 {
		t.Errorf("run %+v", run)
	}
	var moments []Moment
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
	m := bench.NewModule("gate", "Gate")
	m.Screen = screen.Screen{Rows: []string{"Tide"}}
	var ops []LiveOperation
	for _, text := range []string{"address 0", "read data"} {
		var read []LiveOperation
		if res := ask(t, "POST", s.URL+"/api/live", map[string]any{"text": text, "module": m}, &read); res.StatusCode != 200 {
			t.Fatalf("%s: %d", text, res.StatusCode)
		}
		ops = append(ops, read...)
	}
	var run RunResult
	ask(t, "POST", s.URL+"/api/runs", RunRequest{Module: m, Live: ops}, &run)
	last := len(run.Program.Steps) - 1
	if len(run.Reads) != 1 || run.Reads[0] != (Read{last, 'T', "Read data: 0x54"}) {
		t.Errorf("reads %+v, want the T in step %d", run.Reads, last)
	}
	for at, want := range map[string]string{"0x02": "the address counter comes to 0x02", "clear": "“clear” in a step's meaning", "1": "step 1"} {
		var stops Stops
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
	if res := ask(t, "POST", s.URL+"/api/runs", RunRequest{Module: m, Live: ops}, &text); res.StatusCode != 422 || !strings.Contains(text, "R/W is not joined") {
		t.Errorf("a read with R/W to ground: %d, %s", res.StatusCode, text)
	}
	if res := ask(t, "POST", s.URL+"/api/live", map[string]any{"text": "polish", "module": m}, &text); res.StatusCode != 422 || !strings.Contains(text, "is no instruction") {
		t.Errorf("nonsense by hand: %d, %s", res.StatusCode, text)
	}
}

// TestComparisons checks that ways and links are compared for the very screen,
// and that a module that cannot be is refused in words.
func TestComparisons(t *testing.T) {
	s := serve(t)
	m := bench.NewModule("gate", "Gate")
	m.Screen = screen.Screen{Rows: []string{"Tide"}}
	var run RunResult
	var ways []Way
	var links []LinkCost
	ask(t, "POST", s.URL+"/api/runs", RunRequest{Module: m}, &run)
	ask(t, "POST", s.URL+"/api/ways", m, &ways)
	ask(t, "POST", s.URL+"/api/links", m, &links)
	if len(ways) != 9 || !ways[0].Best || ways[0].WireUs != run.Program.Totals.WireUs || len(ways[2].Breaks) == 0 {
		t.Errorf("ways %+v", ways)
	}
	if len(links) != 4 || links[0].Kind != "backpack" || links[0].WireUs != run.Program.Totals.WireUs {
		t.Errorf("links %+v", links)
	}
	m.Geometry = "3x3"
	for _, path := range []string{"/api/ways", "/api/links", "/api/rom"} {
		var text string
		if res := ask(t, "POST", s.URL+path, m, &text); res.StatusCode != 422 || !strings.Contains(text, "expected one of 8x1") {
			t.Errorf("%s: %d, %s", path, res.StatusCode, text)
		}
	}
}

// TestRunCache checks that the cache stays bounded and keeps the newest run.
func TestRunCache(t *testing.T) {
	s := &Server{}
	m := bench.NewModule("gate", "Gate")
	var last string
	for i := range 2000 {
		m.Name = strings.Repeat("x", i%80) + string(rune('a'+i/80))
		id, _, err := s.run(RunRequest{Module: m})
		if err != nil {
			t.Fatal(err)
		}
		last = id
	}
	if _, ok := s.runs.get(last); !ok || s.runs.moments > cachedMoments || len(s.runs.order) != len(s.runs.runs) || len(s.runs.runs) < 2 {
		t.Errorf("%d runs, %d moments, newest kept %v", len(s.runs.runs), s.runs.moments, ok)
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
