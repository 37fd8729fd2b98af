package api

import (
	"bytes"
	"encoding/json"
	"fmt"
	"net/http"
	"os"
	"os/exec"
	"path"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/text/field"
	"slatebell/server/api/code"
	"slatebell/server/api/table"
	"slatebell/server/demo"
)

// TestCode asks for programs as the code view does: every region lies in its file and comes
// from a part that is there, own sections are where they are said to be, the program is
// proved, and what stands in its way is said with its place.
func TestCode(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	b.Code.Own = []bench.OwnSection{{File: "main.c", Section: "each second", Text: "        mine();"}}
	for _, r := range []code.CodeRequest{{Bench: b, Module: -1, Language: "c"}, {Bench: b, Module: 1, Language: "c"}, {Bench: b, Module: 0, Language: "micropython"}, {Bench: b, Module: -1, Language: "sketch"}} {
		var written code.WrittenCode
		if res := ask(t, "POST", s.URL+"/api/code", r, &written); res.StatusCode != 200 {
			t.Fatalf("module %d: %d", r.Module, res.StatusCode)
		}
		python := 0
		for _, f := range written.Findings {
			if f.Code == "code.no-micropython" {
				python++
			} else if f.Code != "code.input-unread" { // the demo's host has few pins left
				t.Errorf("module %d: %+v", r.Module, f)
			}
		}
		if (written.Size != nil) != (r.Language == "c") || written.Calls < 5 || !written.Proved || (python > 0) != (r.Language == "micropython") || (written.Heap > 10_000) != (r.Language == "micropython") || len(written.Steps) < 2 || written.Language != r.Language {
			t.Errorf("module %d: size %+v, %d calls, %+v", r.Module, written.Size, written.Calls, written.Findings)
		}
		regions, kept := 0, false
		for _, f := range written.Files {
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
	var written code.WrittenCode
	if ask(t, "POST", s.URL+"/api/code", code.CodeRequest{Bench: left, Module: 0, Language: "c"}, &written); written.Proved || !slices.ContainsFunc(written.Findings, func(f finding.Finding) bool { return f.Code == "code.glass-differs" }) {
		t.Errorf("written over: %+v", written.Findings)
	}
	for says, r := range map[string]code.CodeRequest{
		"no such module":              {Bench: b, Module: 9, Language: "c"},
		"/modules/0/screens/2":        {Bench: crowded, Module: 0, Language: "c"},
		"expected value to be one of": {Bench: b, Module: 0, Language: "rust"},
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

// TestTools asks for the small programs of a bench's host, and for the form that suits a host.
func TestTools(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	for tool, wants := range map[string]string{"scanner": "scanner.c", "test": "main.c"} {
		var out code.Tool
		if res := ask(t, "POST", s.URL+"/api/code/tools", code.ToolRequest{Bench: b, Module: 0, Tool: tool}, &out); res.StatusCode != 200 || !slices.ContainsFunc(out.Files, func(f code.ToolFile) bool { return f.Name == wants && len(f.Text) > 400 }) {
			t.Errorf("%s: %d, %d files", tool, res.StatusCode, len(out.Files))
		}
	}
	for part, want := range map[string]string{"ATmega2560": "c", "RP2040": "micropython"} {
		b := bench.New("pier")
		b.Host.Part = part
		b.Modules[0].Link.Kind = "backpack"
		var written code.WrittenCode
		if ask(t, "POST", s.URL+"/api/code", code.CodeRequest{Bench: b, Module: 0, Language: ""}, &written); written.Language != want || (written.Size != nil) != (part == "ATmega2560") || written.Size != nil && written.Size.Of != part {
			t.Errorf("%s: %q, size %+v", part, written.Language, written.Size)
		}
	}
	var places table.InputPlaces
	if ask(t, "POST", s.URL+"/api/plan/inputs", table.InputRequest{Bench: b, Module: 0, Input: 1}, &places); len(places.Pins) != 20 || places.Most != 1023 || places.Join == nil || len(places.Left) != 11 {
		t.Errorf("%d pins, most %d, %+v, left %v", len(places.Pins), places.Most, places.Join, places.Left)
	}
}

// TestBuild builds a program with this machine's avr-gcc, as `make` does (sizes by avr-size, GNU binutils), has
// what is wrong in an own section said, and refuses whoever is not this machine's own page.
func TestBuild(t *testing.T) {
	if testing.Short() {
		t.Skip("it compiles programs")
	}
	s := serve(t)
	b := demo.Bench()
	var written code.WrittenCode
	if ask(t, "POST", s.URL+"/api/code", code.CodeRequest{Bench: b, Module: -1, Language: "c"}, &written); !written.Builds {
		t.Error("avr-gcc is here, and the page is told that it is not")
	}
	build := func(r code.BuildRequest, origin string) (int, code.BuiltCode, string) {
		t.Helper()
		body, _ := json.Marshal(r)
		req, _ := http.NewRequest("POST", s.URL+code.BuildPath, bytes.NewReader(body))
		req.Header.Set("Content-Type", "application/json")
		if origin != "" {
			req.Header.Set("Origin", origin)
		}
		res, err := http.DefaultClient.Do(req)
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		var text bytes.Buffer
		var out code.BuiltCode
		text.ReadFrom(res.Body)
		json.Unmarshal(text.Bytes(), &out)
		return res.StatusCode, out, text.String()
	}
	dir := t.TempDir()
	for _, f := range written.Files {
		if err := os.WriteFile(filepath.Join(dir, f.Name), []byte(f.Text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	if out, err := exec.Command("make", "-s", "-C", dir, "atmega328p").CombinedOutput(); err != nil {
		t.Fatalf("%v\n%s", err, out)
	}
	said, err := exec.Command("avr-size", filepath.Join(dir, "firmware.elf")).Output()
	if err != nil {
		t.Fatal(err)
	}
	var text, data, bss int
	if _, err := fmt.Sscanf(strings.SplitN(string(said), "\n", 2)[1], "%d %d %d", &text, &data, &bss); err != nil {
		t.Fatal(err)
	}
	status, out, raw := build(code.BuildRequest{Bench: b, Module: -1}, s.URL)
	if status != 200 || !out.Built || out.Said != "" || out.Size == nil || out.Size.Flash != text+data || out.Size.RAM != data+bss || out.Size.FlashOf != 32256 {
		t.Errorf("%d, want flash %d, RAM %d: %s", status, text+data, data+bss, raw)
	}
	b.Code.Own = []bench.OwnSection{{File: "main.c", Section: "each second", Text: "        mine();"}}
	if status, out, raw := build(code.BuildRequest{Bench: b, Module: -1}, s.URL); status != 200 || out.Built || out.Size != nil || !strings.Contains(out.Said, "main.c:") || !strings.Contains(out.Said, "mine") || strings.Contains(out.Said, os.TempDir()) {
		t.Errorf("an own section that does not compile: %d %s", status, raw)
	}
	b.Code.Own[0].Text = "        int idle;"
	if status, out, raw := build(code.BuildRequest{Bench: b, Module: -1}, s.URL); status != 200 || !out.Built || !strings.Contains(out.Said, "unused variable 'idle'") {
		t.Errorf("a warning: %d %s", status, raw)
	}
	other := bench.New("pier")
	other.Host.Part, other.Modules[0].Link.Kind = "RP2040", "backpack"
	if status, _, raw := build(code.BuildRequest{Bench: other, Module: -1}, s.URL); status != 422 || !strings.Contains(raw, "an RP2040 is not what avr-gcc builds") {
		t.Errorf("an RP2040: %d %s", status, raw)
	}
	for _, origin := range []string{"", "http://elsewhere.example"} {
		if status, _, raw := build(code.BuildRequest{Bench: b, Module: -1}, origin); status != 403 {
			t.Errorf("origin %q: %d %s", origin, status, raw)
		}
	}
	if left, _ := filepath.Glob(filepath.Join(os.TempDir(), "slatebell-build-*")); len(left) > 0 {
		t.Errorf("left behind: %v", left)
	}
}

// TestOwn reads own sections back out of every file that has them, in every form, and says why it
// takes nothing of another.
func TestOwn(t *testing.T) {
	s := serve(t)
	b := demo.Bench()
	var files []code.ToolFile
	var want []bench.OwnSection
	for _, language := range []string{"c", "sketch", "micropython"} {
		var written code.WrittenCode
		ask(t, "POST", s.URL+"/api/code", code.CodeRequest{Bench: b, Module: 0, Language: language}, &written)
		for _, f := range written.Files {
			for i, own := range f.Sections {
				text := fmt.Sprintf("    line %d of %s\n", i, f.Role)
				mark := "end of own section: " + own.Name
				at := strings.LastIndex(f.Text[:strings.Index(f.Text, mark)], "\n") + 1
				f.Text = f.Text[:at] + text + f.Text[at:]
				if one := (bench.OwnSection{File: f.Role, Section: own.Name, Text: text}); !slices.Contains(want, one) {
					want = append(want, one)
				}
			}
			if len(f.Sections) > 0 && !slices.ContainsFunc(files, func(o code.ToolFile) bool { return path.Base(o.Name) == path.Base(f.Name) }) {
				files = append(files, code.ToolFile{Name: f.Name, Text: f.Text})
			}
		}
	}
	var taken code.OwnTaken
	if ask(t, "POST", s.URL+"/api/code/own", code.OwnRequest{Files: files}, &taken); len(want) != 14 || !slices.Equal(taken.Own, want) || len(taken.Refused) > 0 {
		t.Errorf("taken %+v\nwant %+v\nrefused %+v", taken.Own, want, taken.Refused)
	}
	for name, wants := range map[string][2]string{
		"port_avr.S": {"", `"port_avr.S" has no own sections; expected a .h, .c, .ino or .py file`},
		"main.c":     {"int main(void) {}", "nothing stands in its own sections"},
		"main.py":    {"# ---- own section: elsewhere ----\nx\n# ---- end of own section: elsewhere ----\n", `main.py has no own section "elsewhere"; expected one of declarations, what happens, each second`},
		"other.ino":  {"/* ---- own section: what happens ---- */\n", `own section "what happens" does not end`},
	} {
		if ask(t, "POST", s.URL+"/api/code/own", code.OwnRequest{Files: []code.ToolFile{{Name: name, Text: wants[0]}}}, &taken); len(taken.Own) > 0 || len(taken.Refused) != 1 || !strings.Contains(taken.Refused[0].Why, wants[1]) {
			t.Errorf("%s: %+v", name, taken)
		}
	}
}
