// Package tabletest has benches, and what reads findings, for the tests of the table's packages.
package tabletest

import (
	"fmt"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
)

// Boards returns a bench with n backpacks at 0x27 on a host.
func Boards(n int, part string) bench.Bench {
	b := bench.New("Boathouse")
	b.Host.Part = part
	b.Modules = nil
	for i := range n {
		b.Modules = append(b.Modules, bench.NewModule(fmt.Sprintf("board-%d", i+1), fmt.Sprintf("Board %d", i+1)))
	}
	return b
}

// Landing returns a bench with a backpack, parallel lines and a shift register on one host, a clock and
// a port expander on its bus, and two inputs.
func Landing() bench.Bench {
	b := Boards(3, "ATmega328P")
	gate, hall, slip := &b.Modules[0], &b.Modules[1], &b.Modules[2]
	gate.Name, gate.Show.Inputs = "Gate board", []bench.Input{{ID: "turn", Kind: "button", Pin: "D0"}}
	hall.Display.Geometry, hall.Link = "20x4", bench.Link{Kind: "parallel4", HostMV: 5000, Pins: map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}}
	slip.Display.Geometry, slip.Display.Technology = "20x2", "vfd"
	slip.Link = bench.Link{Kind: "shift", Pins: map[string]string{"data": "D8", "clock": "D9", "latch": "D10"}}
	slip.Show.Inputs = []bench.Input{{ID: "wind", Kind: "signal", Pin: "A0"}}
	b.Devices = []bench.Device{{ID: "clock", Name: "Boathouse clock", Part: "DS3231", Address: 0x68, PullUpOhm: 4700, CurrentMA: 1}, {ID: "ports", Name: "Boat racks", Part: "MCP23017", Address: 0x20, CurrentMA: 1}}
	return b
}

// Codes joins the codes of findings, but for notes.
func Codes(list []finding.Finding) string {
	var out []string
	for _, f := range list {
		if f.Severity != finding.Note {
			out = append(out, f.Code)
		}
	}
	return strings.Join(out, " ")
}

// At returns the first finding of a code; the zero one where there is none.
func At(list []finding.Finding, code string) finding.Finding {
	for _, f := range list {
		if f.Code == code {
			return f
		}
	}
	return finding.Finding{}
}

// Apply applies the n-th remedy of the first finding of a code to the bench that it was found on, as
// the interface does.
func Apply(t *testing.T, b *bench.Bench, list []finding.Finding, code string, n int) {
	t.Helper()
	f := At(list, code)
	if len(f.Remedies) <= n {
		t.Fatalf("%s has %d remedies: %+v", code, len(f.Remedies), f)
	}
	mended, err := edit.Remedied(b, f.Remedies[n])
	if err != nil {
		t.Fatalf("%s: %s: %v", code, f.Remedies[n].Label, err)
	}
	*b = mended
}
