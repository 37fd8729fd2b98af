package main

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// TestExport writes every kind into one directory, keeps an own section while the bench
// changes, and leaves files of other origin alone.
func TestExport(t *testing.T) {
	dir := t.TempDir()
	doc := filepath.Join(dir, "bench.json")
	text, _, _ := try("", "bench", "--demo")
	if err := os.WriteFile(doc, []byte(text), 0o644); err != nil {
		t.Fatal(err)
	}
	to := filepath.Join(dir, "deep", "out")
	for kind, some := range map[string]string{
		"c": "quillfish_landing.h main.c Makefile", "micropython": "quillfish_landing.py main.py", "csv": "gate-tides.csv hall-screen-1.csv", "hex": "slip-welcome.hex",
		"json": "gate-tides.json", "vcd": "hall-screen-1.vcd", "bdf": "gate.bdf library.bdf", "pbm": "hall-05-bell.pbm", "wires": "wires.csv wires.txt parts.csv",
	} {
		out, errs, code := try("", "export", doc, "--as", kind, "--to", to)
		if code != 0 {
			t.Errorf("%s: exit %d: %s", kind, code, errs)
		}
		for _, name := range strings.Fields(some) {
			if _, err := os.Stat(filepath.Join(to, name)); err != nil || !strings.Contains(out, name+"\n") {
				t.Errorf("%s: %s: %v; said %q", kind, name, err, out)
			}
		}
	}
	want, _, _ := try("", "sequence", "--geometry", "20x4", "--link", "parallel4", "--text", "plain")
	got, _ := os.ReadFile(filepath.Join(to, "hall-screen-1.csv"))
	for i := range 11 { // up to the initialisation's end both are the same
		if a, b := strings.Split(string(got), "\n"), strings.Split(want, "\n"); i >= len(a) || a[i] != b[i] {
			t.Errorf("line %d of hall-screen-1.csv is not that of sequence", i+1)
			break
		}
	}

	edit := func(name, old, fresh string) {
		t.Helper()
		path := filepath.Join(to, name)
		data, err := os.ReadFile(path)
		if err != nil || !strings.Contains(string(data), old) {
			t.Fatalf("%s: %v", name, err)
		}
		if err := os.WriteFile(path, []byte(strings.Replace(string(data), old, fresh, 1)), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	edit("main.c", "own section: each second ---- */\n", "own section: each second ---- */\n        mine();\n")
	if err := os.WriteFile(doc, []byte(strings.Replace(text, `"Tides"`, `"Tides today"`, 1)), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, errs, code := try("", "export", doc, "--as", "c", "--to", to); code != 0 {
		t.Fatalf("again: exit %d: %s", code, errs)
	}
	main, _ := os.ReadFile(filepath.Join(to, "main.c"))
	header, _ := os.ReadFile(filepath.Join(to, "quillfish_landing.h"))
	if !strings.Contains(string(main), "        mine();\n") || !strings.Contains(string(header), "GATE_BOARD_TIDES_TODAY") {
		t.Errorf("own section kept: %v; the new name is there: %v", strings.Contains(string(main), "mine"), strings.Contains(string(header), "TIDES_TODAY"))
	}

	edit("port.h", "#endif", "#endif /* mine */")
	foreign := filepath.Join(dir, "other")
	os.MkdirAll(foreign, 0o755)
	os.WriteFile(filepath.Join(foreign, "Makefile"), []byte("all:\n"), 0o644)
	for _, c := range []struct {
		args []string
		says string
	}{
		{[]string{"--as", "c", "--to", to}, "port.h (it was changed outside of its own sections"},
		{[]string{"--as", "c", "--to", foreign}, "Makefile (no export wrote it"},
		{[]string{"--as", "c"}, "--to is missing"},
		{[]string{"--as", "rust", "--to", to}, "expected one of c, sketch, micropython, scanner, test, chart-screens, bridge, csv, hex, json, vcd, bdf, pbm, wires"},
		{[]string{"--as", "c", "--to", to, "--module", "none"}, `"none" is not on this bench`},
	} {
		out, errs, code := try("", append([]string{"export", doc}, c.args...)...)
		if code != 2 || out != "" || !strings.Contains(errs, c.says) {
			t.Errorf("%v: exit %d, %q, want 2 and %q", c.args, code, errs, c.says)
		}
	}
	if names, _ := os.ReadDir(foreign); len(names) != 1 {
		t.Errorf("%d files beside one of other origin; nothing was to be written", len(names))
	}
	if _, _, code := try("", "export", doc, "--as", "micropython", "--module", "gate", "--to", filepath.Join(dir, "one")); code != 0 {
		t.Errorf("one module: exit %d", code)
	}
}
