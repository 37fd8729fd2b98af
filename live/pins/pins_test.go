package pins

import (
	"context"
	"strings"
	"testing"

	"periph.io/x/conn/v3/gpio"
	"periph.io/x/conn/v3/i2c/i2ctest"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/recall"
	"slatebell/live/session"
	"slatebell/live/standin"
)

// A computer's own bus and pins, simulated, show what is composed on modules of every link, with no limit broken; what can be read is
// read, the bus is scanned.
func TestOwnPins(t *testing.T) {
	b := bench.New("desk")
	b.Host = bench.Host{Part: "ATmega2560"} // any host with many pins
	b.Modules = append(b.Modules, bench.NewModule("row", "Row"), bench.NewModule("mast", "Mast"), bench.NewModule("quay", "Quay"))
	for i, kind := range []string{"backpack", "parallel4", "parallel8", "shift"} {
		m := &b.Modules[i]
		m.Link.Kind, m.Link.Outputs.Address, m.Link.ReadWrite = kind, 0x27, kind != "shift"
		m.Screens[0].Rows = []string{"Ebb tide 07:12", "and slack water"}
	}
	plan, err := bridge.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	host, err := standin.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	h, err := New(plan, host.Bus(), host.Pin)
	if err != nil {
		t.Fatal(err)
	}
	ended := make(chan struct{})
	s, err := session.Begin(t.Context(), h.Line(func() error { close(ended); return nil }), session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	for i := range b.Modules {
		d, err := drive.New(plan, &b, i)
		if err != nil {
			t.Fatal(err)
		}
		p, err := drive.Compose(&b, testbed.At{Module: i})
		if err != nil {
			t.Fatal(err)
		}
		records, err := d.Show(&p)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := s.Do(t.Context(), records, d.IsRead); err != nil {
			t.Fatal(err)
		}
		glass := host.Glass(i)
		for at, cell := range glass.Cells {
			if cell.Code != p.Cells[at] {
				t.Fatalf("module %d, cell %d: 0x%02X; expected 0x%02X", i, at, cell.Code, p.Cells[at])
			}
		}
		if d.Reads {
			if memory, err := recall.Read(t.Context(), s, d); err != nil {
				t.Errorf("module %d: %v", i, err)
			} else if differ := memory.Against(d); !differ.None() {
				t.Errorf("module %d: its memory differs: %+v", i, differ)
			}
		}
		if broken := host.Violations(i); len(broken) > 0 {
			t.Errorf("module %d: %+v", i, broken[0])
		}
	}
	bits, err := s.Do(t.Context(), []protocol.Record{{Op: protocol.OpScan}}, nil)
	if err != nil || bits[0x27/8] != 1<<(0x27%8) || strings.Count(string(bits), "\x00") != 15 {
		t.Errorf("a scan gives % X (%v)", bits, err)
	}
	if err := s.Rest(context.Background()); err != nil {
		t.Error(err)
	}
	<-ended
	if _, err := New(plan, host.Bus(), func(string) gpio.PinIO { return nil }); err == nil || !strings.Contains(err.Error(), plan.Modules[1].Lines[0].Pin) {
		t.Errorf("a pin that is not there: %v", err)
	}
}

// What goes over the bus is what periph's own recorder hears: the bytes of a data sheet's example, "A" behind the usual backpack.
func TestTransactions(t *testing.T) {
	plan := &bridge.Plan{}
	bus := &i2ctest.Playback{Ops: []i2ctest.IO{{Addr: 0x27, W: []byte{0x4D, 0x49, 0x1D, 0x19}}, {Addr: 0x27, R: []byte{0x5A}}}}
	h, err := New(plan, bus, nil)
	if err != nil {
		t.Fatal(err)
	}
	if s := h.Write(0x27, []byte{0x4D, 0x49, 0x1D, 0x19}, false); s != protocol.OK {
		t.Error(s)
	}
	in := make([]byte, 1)
	if s := h.Read(0x27, in); s != protocol.OK || in[0] != 0x5A {
		t.Errorf("%v, % X", s, in)
	}
	if err := bus.Close(); err != nil {
		t.Error(err)
	}
}
