package export

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/host"
	"slatebell/core/prove/chart"
	"slatebell/core/ship/firmware"
	"slatebell/server/demo"
)

// TestTester makes first tests and charts of ROMs, of modules of every kind on every host: what they show is as composed, a
// block first, and those for an ATmega are built as their user would.
func TestTester(t *testing.T) {
	for _, board := range host.Boards() {
		b := bench.New("pier")
		b.Host.Part, b.Modules = board.Part, nil
		for i, geometry := range []string{"8x1", "16x2", "20x4", "40x4"} {
			m := bench.NewModule("m"+geometry, "")
			m.Display.Geometry, m.Link.Kind, m.Link.Outputs.Address = geometry, "backpack", 0x20+i
			if i%2 == 1 {
				m.Display.Controller.ROM = "A02"
			}
			b.Modules = append(b.Modules, m)
		}
		for kind, derive := range map[string]func(*bench.Bench) (*bench.Bench, error){"test": Tester, "chart-screens": chart.Bench} {
			derived, err := derive(&b)
			if err != nil {
				t.Fatal(err)
			}
			im, err := firmware.New(derived)
			if err != nil {
				t.Fatalf("%s, %s: %v", board.Part, kind, err)
			}
			for i := range im.Modules {
				if proof, err := im.Modules[i].Prove(); err != nil || len(proof.Findings) > 0 {
					t.Errorf("%s, %s, %s: %v, %+v", board.Part, kind, b.Modules[i].ID, err, proof.Findings)
				}
			}
			files, _, err := Files(&b, All, kind)
			if err != nil || len(files) == 0 {
				t.Errorf("%s, %s: %d files, %v", board.Part, kind, len(files), err)
			}
		}
	}
	b := demo.Bench()
	for kind, blinks := range map[string]int{"test": 2, "chart-screens": 0} { // the gate's backpack and the VFD
		files, _, err := Files(&b, All, kind)
		if err != nil {
			t.Fatal(err)
		}
		dir := t.TempDir()
		if err := Write(dir, files); err != nil {
			t.Fatal(err)
		}
		main, err := os.ReadFile(filepath.Join(dir, "main.c"))
		if err != nil || strings.Count(string(main), "_light(round != 0)") != blinks {
			t.Errorf("%s: %v: the lights that blink:\n%s", kind, err, main)
		}
		c := exec.Command("make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p")
		c.Dir = dir
		if out, err := c.CombinedOutput(); err != nil {
			t.Errorf("%s: %v: %s", kind, err, out)
		}
	}
}
