package codegen

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/i2cbus"
	"slatebell/core/ship/firmware"
	"slatebell/formats/scantext"
)

// TestScanner runs the scanner in each form on a bus with two parts, and on one with none: what it
// prints is read as the Bus view reads any scanner's print-out.
func TestScanner(t *testing.T) {
	b := bench.New("pier")
	put := func(part string) (string, *firmware.Image) {
		b.Host.Part = part
		im := firmware.Bare(&b)
		files, err := Scanner(im)
		if err != nil {
			t.Fatal(err)
		}
		dir := t.TempDir()
		for _, f := range files {
			path := filepath.Join(dir, f.Name)
			if err := os.MkdirAll(filepath.Dir(path), 0o755); err != nil {
				t.Fatal(err)
			}
			if err := os.WriteFile(path, []byte(f.Text), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		return dir, im
	}
	holds := func(form, printed string, want ...i2cbus.Address) {
		t.Helper()
		r, err := scantext.Read(strings.NewReader(printed), want)
		if len(want) == 0 && (r == nil || !r.Silent) || len(want) > 0 && (err != nil || !slices.Equal(r.Found, want)) {
			t.Errorf("%s: %v, %+v; printed:\n%s", form, err, r, printed)
		}
	}
	dir, im := put("ATmega328P")
	run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror")
	for _, there := range [][]byte{{0x27, 0x68}, nil} {
		s := boot(t, im, filepath.Join(dir, "scanner.elf"), "atmega328p", 2, false, there...)
		for {
			if _, _, ok := s.next(); !ok || strings.Contains(string(s.said), "Done.") {
				break
			}
		}
		var want []i2cbus.Address
		for _, a := range there {
			want = append(want, i2cbus.Address(a))
		}
		holds("C", string(s.said), want...)
	}
	stuck := boot(t, im, filepath.Join(dir, "scanner.elf"), "atmega328p", 2, true)
	for {
		if _, _, ok := stuck.next(); !ok || strings.Contains(string(stuck.said), "Done.") {
			break
		}
	}
	if !strings.Contains(string(stuck.said), "The bus does not move") {
		t.Errorf("a stuck bus: %q", stuck.said)
	}

	dir, _ = put("RP2040")
	small := smallBench(t)
	small.Host.Part = "RP2040"
	one, err := firmware.New(&small) // its module is at 0x27
	if err != nil {
		t.Fatal(err)
	}
	text, err := os.ReadFile(filepath.Join(dir, "scanner", "scanner.ino"))
	if err != nil {
		t.Fatal(err)
	}
	stand, _ := filepath.Abs("testdata")
	for name, text := range map[string]string{"whole.cpp": "#include \"editor.h\"\n" + string(text), "script.inc": "", "quiet.inc": ""} {
		if err := os.WriteFile(filepath.Join(dir, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	run(t, dir, "g++", "-std=gnu++17", "-Wall", "-Wextra", "-Werror", "-DROUNDS=1", "-I", ".", "-I", stand, "-o", "scanner.out", "whole.cpp")
	s := talk(t, one, exec.Command(filepath.Join(dir, "scanner.out")))
	if _, err := s.do("go"); err != nil {
		t.Error(err)
	}
	holds("a sketch", s.told, 0x27)

	python, err := os.ReadFile(filepath.Join(dir, "scanner.py"))
	if err != nil {
		t.Fatal(err)
	}
	runtime, _ := filepath.Abs("../web/node_modules/@micropython/micropython-webassembly-pyscript/micropython.mjs")
	script := fmt.Sprintf(`const { loadMicroPython } = await import(%q);
const mp = await loadMicroPython({ stdout: (text) => console.log(text) });
mp.runPython("import sys\nclass Pin:\n    def __init__(self, n): pass\nclass I2C:\n    def __init__(self, *a, **k): pass\n    def scan(self): return [0x27, 0x68]\nclass m: pass\nmachine = m()\nmachine.Pin = Pin\nmachine.I2C = machine.SoftI2C = I2C\nsys.modules['machine'] = machine");
mp.runPython(%q);`, "file://"+runtime, python)
	out, err := exec.Command("node", "--input-type=module", "-e", script).CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	holds("MicroPython", string(out), 0x27, 0x68)
}
