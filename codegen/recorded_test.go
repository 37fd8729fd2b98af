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
	"slatebell/core/prove/capture"
	"slatebell/core/prove/replay"
	"slatebell/core/ship/firmware"
	"slatebell/core/wire/link"
	"slatebell/formats/recording"
)

// TestRecorded builds the program of a module on each link that has pins of its own, runs it on a simulated chip, and reads the value change dump that
// the simulator itself writes of the chip's pins: which pin is which line is found, the glass shows the screen, and no limit is broken.
func TestRecorded(t *testing.T) {
	tool, err := recorder()
	if err != nil {
		t.Fatal(err)
	}
	for kind, pins := range map[link.Kind]map[string]string{
		link.Parallel4: {"RS": "D7", "E": "D8", "D4": "D9", "D5": "D10", "D6": "D11", "D7": "D12"},
		link.Parallel8: {"RS": "D13", "E": "D12", "D0": "D2", "D1": "D3", "D2": "D4", "D3": "D5", "D4": "D6", "D5": "D7", "D6": "D8", "D7": "D9"},
		link.ShiftReg:  {"data": "D2", "clock": "D3", "latch": "D4"},
	} {
		b := bench.New("pier")
		m := &b.Modules[0]
		m.Link = bench.Link{Kind: string(kind), Pins: pins}
		m.Display.Geometry = "20x4"
		rows := []string{"Tide 3.2 m  rising", "High water   14:05", "Wind NW 4  gusts 6", "Boats out  3 of 11"}
		m.Screens[0].Rows = rows
		im, err := firmware.New(&b)
		if err != nil {
			t.Fatal(err)
		}
		dir, _ := write(t, im, C)
		if said := run(t, dir, "make", "-s", "AVR_CC=avr-gcc -Werror", "atmega328p"); said != "" {
			t.Errorf("make says %s", said)
		}
		name := filepath.Join(dir, "pins.vcd")
		c := exec.CommandContext(t.Context(), tool, filepath.Join(dir, "firmware.elf"), "atmega328p", fmt.Sprint(clock/2), "0", "0", "-")
		c.Env = append(os.Environ(), "VCD="+name)
		if said, err := c.CombinedOutput(); err != nil {
			t.Fatalf("%v: %.300s", err, said)
		}
		data, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		r, err := replay.Open(func() (capture.Source, error) {
			return recording.Open(strings.NewReader(string(data)), int64(len(data)), recording.Options{})
		})
		if err == nil {
			err = r.Find(nil)
		}
		if err != nil {
			t.Errorf("%s: %v", kind, err)
			continue
		}
		mod, err := m.Display.Module()
		if err != nil {
			t.Fatal(err)
		}
		played, err := r.Play(mod, -1, replay.Watch{})
		if err != nil {
			t.Fatal(err)
		}
		g := played.Glass()
		shown := g.Text(mod.ROM)
		for i := range shown {
			shown[i] = strings.TrimRight(shown[i], " ")
		}
		if !slices.Equal(shown, rows) || len(played.Findings()) > 0 || r.Found[0].Kind != kind {
			t.Errorf("%s: %q as %s, %v: %+v", kind, shown, r.Found[0].Kind, r.Found[0].Lines, played.Findings())
		}
	}
}
