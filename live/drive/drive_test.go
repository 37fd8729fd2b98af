package drive_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/live/drive"
	"slatebell/live/livetest"
	"slatebell/live/protocol"
	"slatebell/live/standin"
)

// Every link, with and without R/W, one controller and two: what is wished for is on the glass, and no limit is broken.
func TestEveryLink(t *testing.T) {
	rng := rand.New(rand.NewPCG(25, 1))
	for _, kind := range []string{"backpack", "shift", "parallel4", "parallel8"} {
		for _, geometry := range []string{"16x2", "20x4", "40x4", "16x1split"} {
			for _, reads := range []bool{false, true} {
				b := bench.New("quay")
				m := &b.Modules[0]
				m.Display.Geometry, m.Link.Kind = geometry, kind
				m.Link.Outputs.Address = 0x27
				m.Link.ReadWrite = reads
				j := livetest.Join(t, &b)
				d, p := j.Module, j.Picture
				for range 12 {
					for range rng.IntN(6) {
						p.Cells[rng.IntN(len(p.Cells))] = byte(0x20 + rng.IntN(96))
					}
					j.Show(t, d, &p)
					shows(t, j.Host, &p)
				}
				if len(j.Host.Violations(0)) > 0 {
					t.Errorf("%s %s: %v", kind, geometry, j.Host.Violations(0))
				}
				if d.Reads != (reads && kind != "shift" || kind == "backpack") {
					t.Errorf("%s %s, R/W %v: readable %v (%s)", kind, geometry, reads, d.Reads, d.Why)
				}
			}
		}
	}
}

func shows(t *testing.T, host *standin.Host, p *drive.Picture) {
	t.Helper()
	glass := host.Glass(0)
	for i := range glass.Cells {
		if glass.Cells[i].Code != p.Cells[i] {
			t.Fatalf("cell %d holds 0x%02X; expected 0x%02X", i, glass.Cells[i].Code, p.Cells[i])
		}
	}
}

// A slow run waits 5 ms more after each byte, and shows the same.
func TestSlowly(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel8"} {
		b := bench.New("quay")
		b.Modules[0].Link.Kind, b.Modules[0].Link.Outputs.Address = kind, 0x27
		b.Modules[0].Screens[0].Rows = []string{"Ebb tide"}
		j := livetest.Join(t, &b)
		d, p := j.Module, j.Picture
		waits := func() (sum int) {
			d.Lost()
			records, err := d.Show(&p)
			if err != nil {
				t.Fatal(err)
			}
			for i := range records {
				if records[i].Op == protocol.OpWait {
					sum += int(records[i].Micros)
				}
			}
			if _, err := j.Do(t.Context(), records, nil); err != nil {
				t.Fatal(err)
			}
			shows(t, j.Host, &p)
			return sum
		}
		usual := waits()
		d.Slowly(5 * time.Millisecond)
		if more := waits() - usual; more < 5000*8 || more > 5000*60 {
			t.Errorf("%s: %d µs more for 8 characters and an initialisation", kind, more)
		}
	}
}
