package drive_test

import (
	"bytes"
	"context"
	"math/rand/v2"
	"net"
	"testing"
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/session"
	"slatebell/live/standin"
)

// begin joins a session to the stand-in of a bench.
func begin(t *testing.T, b *bench.Bench) (*session.Session, *standin.Host, *bridge.Plan) {
	t.Helper()
	host, err := standin.New(b)
	if err != nil {
		t.Fatal(err)
	}
	plan, err := bridge.New(b)
	if err != nil {
		t.Fatal(err)
	}
	here, there := net.Pipe()
	go host.Bridge().Serve(there)
	s, err := session.Begin(context.Background(), here, session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { s.Close() })
	return s, host, plan
}

// Every link, with and without R/W, one controller and two: what is wished for is on the glass, no limit is broken, and
// what the module says of its memory is what was sent.
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
				s, host, plan := begin(t, &b)
				d, err := drive.New(plan, &b, 0)
				if err != nil {
					t.Fatal(err)
				}
				p, err := drive.Compose(&b, testbed.At{})
				if err != nil {
					t.Fatal(err)
				}
				for range 12 {
					for range rng.IntN(6) {
						p.Cells[rng.IntN(len(p.Cells))] = byte(0x20 + rng.IntN(96))
					}
					records, err := d.Show(&p)
					if err != nil {
						t.Fatal(err)
					}
					if _, err := s.Do(context.Background(), records, drive.IsRead(plan)); err != nil {
						t.Fatalf("%s %s: %v", kind, geometry, err)
					}
					shows(t, host, &p)
				}
				if len(host.Violations(0)) > 0 {
					t.Errorf("%s %s: %v", kind, geometry, host.Violations(0))
				}
				if d.Reads != (reads && kind != "shift" || kind == "backpack") {
					t.Errorf("%s %s, R/W %v: readable %v (%s)", kind, geometry, reads, d.Reads, d.Why)
				}
				if d.Reads {
					readsBack(t, s, d, plan, &p)
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

func readsBack(t *testing.T, s *session.Session, d *drive.Module, plan *bridge.Plan, p *drive.Picture) {
	t.Helper()
	records, parse, err := d.ReadMemory()
	if err != nil {
		t.Fatal(err)
	}
	results, err := s.Do(context.Background(), records, drive.IsRead(plan))
	if err != nil {
		t.Fatal(err)
	}
	memory, err := parse(results)
	if err != nil {
		t.Fatal(err)
	}
	g := &d.Display.Geometry
	for row := range g.Rows {
		for col := range g.Cols {
			controller, addr, _ := g.Locate(row, col)
			at := int(addr)
			if g.TwoLine && addr >= 0x40 {
				at = 40 + int(addr) - 0x40
			}
			if got, want := memory.DDRAM[controller][at], p.Cells[row*g.Cols+col]; got != want {
				t.Fatalf("%s: row %d, column %d reads 0x%02X; expected 0x%02X", d.Link.Kind, row, col, got, want)
			}
		}
	}
	if !bytes.Equal(memory.CGRAM[0], make([]byte, 64)) {
		t.Logf("CGRAM % X", memory.CGRAM[0])
	}
}

// A slow run waits 5 ms more after each byte, and shows the same.
func TestSlowly(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel8"} {
		b := bench.New("quay")
		b.Modules[0].Link.Kind, b.Modules[0].Link.Outputs.Address = kind, 0x27
		b.Modules[0].Screens[0].Rows = []string{"Ebb tide"}
		s, host, plan := begin(t, &b)
		d, err := drive.New(plan, &b, 0)
		if err != nil {
			t.Fatal(err)
		}
		p, err := drive.Compose(&b, testbed.At{})
		if err != nil {
			t.Fatal(err)
		}
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
			if _, err := s.Do(context.Background(), records, nil); err != nil {
				t.Fatal(err)
			}
			shows(t, host, &p)
			return sum
		}
		usual := waits()
		d.Slowly(5 * time.Millisecond)
		if more := waits() - usual; more < 5000*8 || more > 5000*60 {
			t.Errorf("%s: %d µs more for 8 characters and an initialisation", kind, more)
		}
	}
}
