package api

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/field"
	"slatebell/core/finding"
	"slatebell/server/demo"
)

// TestCode asks for programs as the code view does: every region lies in its file and comes
// from a part that is there, own sections are where they are said to be, the program is
// proved, and what stands in its way is said with its place.
func TestCode(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	b.Code.Own = []bench.OwnSection{{File: "main.c", Section: "each second", Text: "        mine();"}}
	for _, r := range []CodeRequest{{b, -1, "c"}, {b, 1, "c"}, {b, 0, "micropython"}, {b, -1, "sketch"}} {
		var code WrittenCode
		if res := ask(t, "POST", s.URL+"/api/code", r, &code); res.StatusCode != 200 {
			t.Fatalf("module %d: %d", r.Module, res.StatusCode)
		}
		python := 0
		for _, f := range code.Findings {
			if f.Code == "code.no-micropython" {
				python++
			} else if f.Code != "code.input-unread" { // the demo's host has few pins left
				t.Errorf("module %d: %+v", r.Module, f)
			}
		}
		if (code.Size != nil) != (r.Language == "c") || code.Calls < 5 || !code.Proved || (python > 0) != (r.Language == "micropython") || len(code.Steps) < 2 || code.Language != r.Language {
			t.Errorf("module %d: size %+v, %d calls, %+v", r.Module, code.Size, code.Calls, code.Findings)
		}
		regions, kept := 0, false
		for _, f := range code.Files {
			lines := strings.Split(f.Text, "\n")
			for _, g := range f.Regions {
				regions++
				if g.First < 1 || g.Last < g.First || g.Last > len(lines) || r.Module >= 0 && g.Module != r.Module || g.Screen >= len(b.Modules[g.Module].Screens) {
					t.Errorf("%s: %+v of %d lines", f.Name, g, len(lines))
				}
				if g.Field >= 0 && !strings.Contains(strings.ToLower(strings.Join(lines[g.First-1:g.Last], " ")), "place") && g.Field >= len(b.Modules[g.Module].Screens[g.Screen].Fields) {
					t.Errorf("%s: %+v names no field", f.Name, g)
				}
			}
			for _, own := range f.Sections {
				if !strings.Contains(lines[own.First-2], "own section: "+own.Name) || !strings.Contains(lines[own.Last], "end of own section: "+own.Name) {
					t.Errorf("%s: section %+v is not there", f.Name, own)
				}
				kept = kept || own.Name == "each second" && own.Last == own.First && lines[own.First-1] == "        mine();"
			}
		}
		if regions < 10 || kept != (r.Language == "c") {
			t.Errorf("module %d: %d regions; own section kept: %v", r.Module, regions, kept)
		}
	}

	crowded := b
	crowded.Modules = append([]bench.Module{}, b.Modules[:1]...)
	m := &crowded.Modules[0]
	m.Screens = append([]bench.Screen{}, m.Screens...)
	m.Screens[2].Fields = []field.Field{{Name: "Gusts", Row: 0, Col: 10, Width: 6, Kind: field.Bar, Range: field.Range{Max: 12}, Gauge: field.Gauge{Frame: true}}}
	left := b
	left.Modules = append([]bench.Module{}, b.Modules...)
	left.Modules[0].Changes = "over"
	var code WrittenCode
	if ask(t, "POST", s.URL+"/api/code", CodeRequest{left, 0, "c"}, &code); code.Proved || !slices.ContainsFunc(code.Findings, func(f finding.Finding) bool { return f.Code == "code.glass-differs" }) {
		t.Errorf("written over: %+v", code.Findings)
	}
	for says, r := range map[string]CodeRequest{
		"no such module":              {b, 9, "c"},
		"/modules/0/screens/2":        {crowded, 0, "c"},
		"expected value to be one of": {b, 0, "rust"},
	} {
		var text string
		if res := ask(t, "POST", s.URL+"/api/code", r, &text); res.StatusCode != 422 || !strings.Contains(text, says) {
			t.Errorf("%s: %d, %.300s", says, res.StatusCode, text)
		}
	}
}

// TestCard asks for the cards of modules that are there, and of one that is not.
func TestCard(t *testing.T) {
	s := serve(t)
	var made struct{ ID uint }
	ask(t, "POST", s.URL+"/api/benches", demo.Bench(), &made)
	for path, want := range map[string]int{"/api/benches/1/modules/gate/card": 200, "/api/benches/1/modules/none/card": 404, "/api/benches/7/modules/gate/card": 404} {
		var text string
		res := ask(t, "GET", s.URL+path, nil, &text)
		if res.StatusCode != want {
			t.Errorf("%s: %d, want %d: %.200s", path, res.StatusCode, want, text)
		}
		if want == 200 && (!strings.HasPrefix(res.Header.Get("Content-Security-Policy"), "default-src 'none'; style-src") || strings.Contains(text, "<script")) {
			t.Errorf("%s: policy %q", path, res.Header.Get("Content-Security-Policy"))
		}
	}
}

// BenchmarkCode writes the demo's whole bench as C, and plays it.
func BenchmarkCode(b *testing.B) {
	r := CodeRequest{demo.Bench(), -1, "c"}
	for b.Loop() {
		if _, err := r.write(); err != nil {
			b.Fatal(err)
		}
	}
}

// TestTools asks for the small programs of a bench's host, and for the form that suits a host.
func TestTools(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	for tool, wants := range map[string]string{"scanner": "scanner.c", "test": "main.c"} {
		var out Tool
		if res := ask(t, "POST", s.URL+"/api/code/tools", ToolRequest{b, 0, tool}, &out); res.StatusCode != 200 || !slices.ContainsFunc(out.Files, func(f ToolFile) bool { return f.Name == wants && len(f.Text) > 400 }) {
			t.Errorf("%s: %d, %d files", tool, res.StatusCode, len(out.Files))
		}
	}
	for part, want := range map[string]string{"ATmega2560": "c", "RP2040": "micropython"} {
		b := bench.New("pier")
		b.Host.Part = part
		b.Modules[0].Link.Kind = "backpack"
		var code WrittenCode
		if ask(t, "POST", s.URL+"/api/code", CodeRequest{b, 0, ""}, &code); code.Language != want || (code.Size != nil) != (part == "ATmega2560") || code.Size != nil && code.Size.Of != part {
			t.Errorf("%s: %q, size %+v", part, code.Language, code.Size)
		}
	}
	var places InputPlaces
	if ask(t, "POST", s.URL+"/api/plan/inputs", InputRequest{b, 0, 1}, &places); len(places.Pins) != 20 || places.Most != 1023 || places.Join == nil || len(places.Left) != 11 {
		t.Errorf("%d pins, most %d, %+v, left %v", len(places.Pins), places.Most, places.Join, places.Left)
	}
}
