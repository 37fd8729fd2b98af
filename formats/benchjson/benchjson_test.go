package benchjson

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/prove/check"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/formats/wirehex"
	"slatebell/internal/golden"
)

// outcome writes what every module of a bench does, as the program of version 1
// did when the golden files were made.
func outcome(t *testing.T, b *bench.Bench) string {
	t.Helper()
	var out bytes.Buffer
	for i := range b.Modules {
		setup, err := testbed.Of(b, testbed.At{Module: i})
		if err != nil {
			t.Fatal(err)
		}
		r, err := run.Do(&setup, run.Options{})
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprintf(&out, "module %s, contrast %.3f, wire %s, done %s\n", b.Modules[i].ID, r.Contrast, r.Program.WireTime, r.Program.Finish)
		for _, f := range r.Findings {
			if f.Code == "glyph.code-zero" || f.Code == "glyph.in-rom" {
				continue // that program did not judge them
			}
			fmt.Fprintf(&out, "%s %s: %s\n", f.Severity, f.Code, f.What)
		}
		wirehex.Write(&out, r.Program)
	}
	return out.String()
}

// TestVersion1 reads every stored example of version 1: its modules send the
// same bytes in the same time and are judged alike, and written and read again
// the document does not change. The answers are those of the program of that time,
// but for the addresses that the cheapest update does without.
func TestVersion1(t *testing.T) {
	examples, err := filepath.Glob("testdata/v1/*.json")
	if err != nil || len(examples) < 4 {
		t.Fatal(examples, err)
	}
	for _, name := range examples {
		data, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		b, err := Parse(data)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		golden.Check(t, strings.TrimSuffix(name, ".json")+".golden", []byte(outcome(t, &b)))
		var text bytes.Buffer
		if err := Write(&text, &b); err != nil {
			t.Fatal(err)
		}
		again, err := Read(&text)
		if err != nil || !reflect.DeepEqual(again, b) {
			t.Errorf("%s: written and read again it is another document, %v", name, err)
		}
	}
}

// everySetting reads a document of version 1 in which every member is set.
func everySetting(t *testing.T) bench.Bench {
	t.Helper()
	data, err := os.ReadFile("testdata/v1/every-setting.json")
	if err != nil {
		t.Fatal(err)
	}
	b, err := Parse(data)
	if err != nil {
		t.Fatal(err)
	}
	return b
}

// TestMigrationKeeps checks that each member of version 1 arrives where version
// 2 has it, from a document in which every one is set.
func TestMigrationKeeps(t *testing.T) {
	b := everySetting(t)
	gate, slip, hall, wall := b.Modules[0], b.Modules[1], b.Modules[2], b.Modules[3]
	for what, ok := range map[string]bool{
		"version":                b.Version == 2 && b.Name == "Every setting",
		"lowest host voltage":    b.Host.BearsMV == 3300 && slip.Link.HostMV == 0,
		"other host voltages":    hall.Link.HostMV == 5000 && gate.Link.HostMV == 5000,
		"slowest clock":          b.Bus.SpeedHz == 0 && wall.Link.Outputs.SpeedHz == 0,
		"another clock":          gate.Link.Outputs.SpeedHz == 400_000 && hall.Link.Outputs.SpeedHz == 4_000_000,
		"supply":                 gate.Display.Supply.MilliVolts == 3300 && *gate.Display.Supply.Contrast == 0.9 && slip.Display.Supply.Brightness == 2,
		"controller":             gate.Display.Controller.Font == "5x10" && gate.Display.Controller.OscillatorKHz == 250 && slip.Display.Controller.Family == "vfd-data-byte",
		"waits":                  gate.Link.Waits == "typical" && slip.Link.Waits == "poll",
		"outputs":                gate.Link.Outputs.Address == 0x3F && !gate.Link.Outputs.Backlight && gate.Link.Outputs.Mapping.RS == 4 && gate.Link.Outputs.Transactions == "byte" && gate.Link.Outputs.Setup == "before",
		"pins":                   slip.Link.ReadWrite && slip.Link.PinNS == 250,
		"glyphs":                 len(gate.Glyphs) == 1 && gate.Glyphs[0].Name == "oar",
		"screen":                 len(gate.Screens) == 1 && gate.Screens[0].ID == "screen-1" && strings.HasPrefix(gate.Screens[0].Rows[0], "Tide \uE0DF"),
		"size, tint, technology": hall.Display.Geometry == "40x4" && gate.Display.Tint == "grey" && slip.Display.Technology == "vfd",
	} {
		if !ok {
			t.Errorf("%s is not kept: %+v", what, b)
		}
	}
}

// spoilt returns a new bench as text with one thing replaced.
func spoilt(t *testing.T, old, new string) []byte {
	t.Helper()
	var text bytes.Buffer
	b := bench.New("Gate")
	if err := Write(&text, &b); err != nil {
		t.Fatal(err)
	}
	out := strings.Replace(text.String(), old, new, 1)
	if out == text.String() {
		t.Fatalf("%q is not in %s", old, out)
	}
	return []byte(out)
}

func TestRefusals(t *testing.T) {
	for _, c := range []struct {
		data []byte
		want string
	}{
		{spoilt(t, `"name": "Gate",`, `"name": "Gate"`), `line 5, column 3: invalid character '"' after object key:value pair`},
		{spoilt(t, `"version": 2`, `"version": µ`), "line 3, column 14: invalid character"},
		{[]byte(`{"format": "slatebell-bench", "version": 2`), "line 1, column 43: the document ends before it is complete"},
		{[]byte(""), "line 1, column 1: the document ends before it is complete"},
		{[]byte(`{"format": 1}  []`), "line 1, column 16: there is more behind the end of the document"},
		{[]byte("{\n}\n\n x"), "line 4, column 2: "},
		{[]byte(`{"format": "slatebell-bench", "version": 2,`), "line 1, column 44: the document ends before it is complete"},
		{[]byte("nul"), "line 1, column 4: the document ends before it is complete"},
		{[]byte("[]"), `not an object; expected a bench with "format": "slatebell-bench"`},
		{[]byte(`{"format": "slatebell-program"}`), `/format: "slatebell-program"; expected "slatebell-bench"`},
		{[]byte(`{"format": "slatebell-bench"}`), "/version: missing; expected 1 to 2"},
		{spoilt(t, `"version": 2`, `"version": 3`), "/version: 3 was made by a newer Slate Bell; this one reads versions 1 to 2"},
		{spoilt(t, `"version": 2`, `"version": "2"`), `/version: "2"; expected 1 to 2`},
		{spoilt(t, `"version": 2`, `"version": 0`), `/version: 0; expected 1 to 2`},
		{spoilt(t, `"address": 39`, `"address": 400`), "/modules/0/link/outputs/address: maximum: got 400, want 127"},
		{spoilt(t, `"address": 39`, `"address": 40`), "/modules/0/link/outputs: address 0x28"},
		{spoilt(t, `"rows": []`, `"rows": [], "~a/b": 1`), "/modules/0/screens/0: additional properties '~a/b' not allowed"},
		{spoilt(t, `"rows": []`, `"rows": ["`+strings.Repeat("x", 401)+`"]`), "/modules/0/screens/0/rows/0: 401 characters"},
		{spoilt(t, `"kind": "backpack"`, `"kind": "smoke"`), "/modules/0/link/kind: value must be one of"},
		{bytes.Repeat([]byte(" "), MaxSize+1), "longer than 33554432 bytes"},
	} {
		_, err := Parse(c.data)
		if err == nil || !strings.Contains(err.Error(), c.want) || len(err.Error()) > 1000 {
			t.Errorf("error %v, want %q in it", err, c.want)
		}
	}
	if _, err := Read(bytes.NewReader(bytes.Repeat([]byte(" "), MaxSize+1))); err == nil || !strings.Contains(err.Error(), "longer than 33554432 bytes") {
		t.Errorf("a document that is too long: %v", err)
	}
	if _, err := Parse(append(spoilt(t, "Gate", "Slip"), bytes.Repeat([]byte(" "), MaxSize-len(spoilt(t, "Gate", "Slip")))...)); err != nil {
		t.Errorf("a document as long as one may be: %v", err)
	}
	if _, err := Parse(append([]byte("\uFEFF"), spoilt(t, "Gate", "Slip")...)); err != nil {
		t.Errorf("a byte order mark: %v", err)
	}
	flood := spoilt(t, `"rows": []`, `"rows": [`+strings.TrimSuffix(strings.Repeat("0,", 60), ",")+`]`)
	var all bench.Problems
	if _, err := Parse(flood); !errors.As(err, &all) || len(all) != maxProblems {
		t.Errorf("sixty wrong rows: %d problems, %v", len(all), err)
	}
}

// TestPatch applies patches as RFC 6902 has them (section 4, and the errors of
// section 5); the document given is never changed.
func TestPatch(t *testing.T) {
	b := bench.New("Gate")
	before, _ := json.Marshal(b)
	for _, c := range []struct{ patch, want string }{
		{`[{"op": "replace", "path": "/name", "value": "Slip"}]`, ""},
		{`[{"op": "add", "path": "/modules/0/screens/0/rows/-", "value": "Tide"}, {"op": "test", "path": "/modules/0/screens/0/rows", "value": ["Tide"]}]`, ""},
		{`[{"op": "add", "path": "/devices", "value": [{"id": "clock", "name": "Clock", "part": "DS3231", "address": 104}]}]`, ""},
		{`[{"op": "copy", "from": "/modules/0", "path": "/modules/1"}]`, `/modules/1/id: "module-1" is another module's id`},
		{`[{"op": "test", "path": "/name", "value": "Gate"}, {"op": "test", "path": "/name", "value": "Slip"}]`, `operation 2: another value stands at "/name"`},
		{`[{"op": "remove", "path": "/modules/7"}]`, `operation 1 (remove "/modules/7")`},
		{`[{"op": "replace", "path": "/modules/-1/name", "value": "x"}]`, `operation 1 (replace "/modules/-1/name")`},
		{`[{"op": "remove", "path": "/modules/0"}]`, "/modules: minItems"},
		{`[{"op": "add", "path": "/colour", "value": 1}]`, "additional properties 'colour' not allowed"},
		{`[{"op": "add", "path": "/log", "value": [{"at": "2026-11-01T10:00:00Z", "kind": "note", "text": "oar"}]}]`, "/log: the log is kept by itself"},
		{`[{"op": "polish", "path": "/name"}]`, "not a JSON Patch"},
		{`{"op": "remove"}`, "expected an array of operations"},
		{`[`, "not a JSON Patch"},
	} {
		next, err := Patch(&b, []byte(c.patch))
		switch {
		case c.want == "" && (err != nil || reflect.DeepEqual(next, b)):
			t.Errorf("%s: %v, %+v", c.patch, err, next)
		case c.want != "" && (err == nil || !strings.Contains(err.Error(), c.want)):
			t.Errorf("%s: error %v, want %q in it", c.patch, err, c.want)
		}
		if after, _ := json.Marshal(b); !bytes.Equal(before, after) {
			t.Fatalf("%s changed the document it was given", c.patch)
		}
	}
}

// TestRemedies applies each remedy that a bench full of mistakes offers: every
// one leads to a lawful document, settles its own finding or makes it another,
// and is refused once what it was made for has changed.
func TestRemedies(t *testing.T) {
	b := everySetting(t)
	b.Modules[0].Screens[0].Rows = []string{"Café at the landing", "Wind", "~"}
	b.Modules[3].Link.Outputs.Setup = "with-e"
	b.Modules[3].Screens[0].Rows = []string{"Tide"}
	b.Modules[1].Link.PinNS = 20
	b.Modules[1].Link.Waits = "poll"
	found, err := check.Check(&b)
	if err != nil {
		t.Fatal(err)
	}
	applied := map[string]int{}
	for _, f := range found {
		for _, r := range f.Remedies {
			mended, err := Remedy(&b, r)
			if err != nil {
				t.Errorf("%s, %s: %v", f.Code, r.Label, err)
				continue
			}
			applied[f.Code]++
			after, err := check.Check(&mended)
			if err != nil {
				t.Fatal(err)
			}
			for _, left := range after {
				if left.Code == f.Code && left.What == f.What {
					t.Errorf("%s, %s: found as before: %s", f.Code, r.Label, left.What)
				}
			}
			var patch *edit.PatchError
			again, err := Remedy(&mended, r)
			if !errors.As(err, &patch) && !reflect.DeepEqual(again, mended) { // what it added is there
				t.Errorf("%s, %s: applied twice: %v", f.Code, r.Label, err)
			}
		}
	}
	for _, code := range []string{"screen.row-too-long", "screen.too-many-rows", "rom.missing-character", "link.fast-clock", "link.read-voltage", "glass.faint", "timing.t-as", "timing.pw-eh"} {
		if applied[code] == 0 {
			t.Errorf("no remedy of %s was applied; found %v", code, codes(found))
		}
	}
}

func codes(found []finding.Finding) (out []string) {
	for _, f := range found {
		out = append(out, f.Code)
	}
	return out
}

// FuzzParse checks that any text ends in a lawful document or in an error that
// says where.
func FuzzParse(f *testing.F) {
	for _, name := range []string{"demo", "every-setting", "new"} {
		data, err := os.ReadFile("testdata/v1/" + name + ".json")
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	f.Add([]byte(`{"format": "slatebell-bench", "version": 2, "name": "x", "modules": [{}]}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		b, err := Parse(data)
		var syntax *SyntaxError
		var problems bench.Problems
		switch {
		case err == nil:
			if err := b.Validate(); err != nil {
				t.Fatal(err)
			}
		case errors.As(err, &syntax):
			if lines := bytes.Count(data, []byte("\n")) + 1; syntax.Line < 1 || syntax.Line > lines || syntax.Col < 1 {
				t.Fatalf("%v of %d lines", err, lines)
			}
		case !errors.As(err, &problems):
			t.Fatal(err)
		}
	})
}

// full returns a bench of n modules, each with its screens.
func full(n int) bench.Bench {
	b := bench.New("Full")
	m := b.Modules[0]
	b.Modules = nil
	for i := range n {
		m.ID, m.Display.Geometry, m.Screens = fmt.Sprintf("module-%d", i+1), "20x4", nil
		for s := range 8 {
			m.Screens = append(m.Screens, bench.Screen{ID: fmt.Sprintf("screen-%d", s+1), Rows: []string{"Tide  3.2 m  rising", "High water   14:05", "Wind NW 4  gusts 6", "Boats out  3 of 11"}})
		}
		b.Modules = append(b.Modules, m)
	}
	return b
}

// BenchmarkParse reads benches of two sizes: time a byte is the same.
func BenchmarkParse(b *testing.B) {
	for _, n := range []int{6, 60} {
		doc := full(n)
		data, err := json.Marshal(doc)
		if err != nil {
			b.Fatal(err)
		}
		b.Run(fmt.Sprintf("%dkB", len(data)/1000), func(b *testing.B) {
			b.SetBytes(int64(len(data)))
			for b.Loop() {
				if _, err := Parse(data); err != nil {
					b.Fatal(err)
				}
			}
		})
	}
}

// BenchmarkPatch stores a keystroke into a bench of 16 modules.
func BenchmarkPatch(b *testing.B) {
	doc := full(16)
	patch := []byte(`[{"op": "replace", "path": "/modules/9/screens/0/rows/1", "value": "High water   14:06"}]`)
	for b.Loop() {
		if _, err := Patch(&doc, patch); err != nil {
			b.Fatal(err)
		}
	}
}
