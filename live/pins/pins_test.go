package pins

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"periph.io/x/conn/v3/gpio"
	"periph.io/x/conn/v3/gpio/gpiotest"
	"periph.io/x/conn/v3/i2c/i2ctest"
	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/prove/testbed"
	"slatebell/core/ship/bridge"
	"slatebell/core/wire/link"
	"slatebell/core/wire/rig"
	"slatebell/live/drive"
	"slatebell/live/protocol"
	"slatebell/live/session"
)

// wired is a bus with the expander of a rig on it, and pins that drive the header of another.
type wired struct {
	mu  sync.Mutex
	at  time.Duration // what simulated lines take, or the clock where that is later
	on  time.Time
	bus *rig.Rig
	row *rig.Rig
	to  map[string]bool
}

func (w *wired) String() string                    { return "a bus" }
func (w *wired) SetSpeed(f physic.Frequency) error { return nil }

func (w *wired) Tx(addr uint16, out, in []byte) error {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.at = max(w.at+20*time.Microsecond, time.Since(w.on))
	if addr != 0x27 {
		return errors.New("nobody acknowledges")
	}
	for _, b := range out {
		w.at += 90 * time.Microsecond
		w.bus.Feed(w.at, link.Word(b))
	}
	time.Sleep(w.at - time.Since(w.on)) // a real bus takes its time
	return nil
}

// line is a pin that tells of its levels.
type line struct {
	*gpiotest.Pin
	w    *wired
	name string
}

func (l *line) Out(level gpio.Level) error {
	l.w.mu.Lock()
	defer l.w.mu.Unlock()
	l.w.at = max(l.w.at+time.Microsecond, time.Since(l.w.on))
	l.w.to[l.name] = bool(level)
	p := link.Backlight | 0x0F
	for name, high := range l.w.to {
		if at, ok := link.LineAt(name); ok && high {
			p |= at.Bit()
		}
	}
	l.w.row.Drive(l.w.at, p)
	return l.Pin.Out(level)
}

// A computer's own bus and pins show what is composed, on a module behind a backpack and on one on four lines.
func TestOwnPins(t *testing.T) {
	b := bench.New("desk")
	b.Host = bench.Host{Part: "RP2040"} // any host with pins of that name
	b.Modules[0].Link.Kind, b.Modules[0].Link.Outputs.Address = "backpack", 0x27
	b.Modules = append(b.Modules, bench.NewModule("row", "Row"))
	b.Modules[1].Link.Kind = "parallel4"
	b.Modules[1].Link.Pins = map[string]string{"RS": "GP2", "E": "GP3", "D4": "GP4", "D5": "GP5", "D6": "GP6", "D7": "GP7"}
	for i := range b.Modules {
		b.Modules[i].Screens[0].Rows = []string{"Ebb tide 07:12", "and slack water"}
	}
	plan, err := bridge.New(&b)
	if err != nil {
		t.Fatal(err)
	}
	w := &wired{to: map[string]bool{}, on: time.Now()}
	for i, r := range []**rig.Rig{&w.bus, &w.row} {
		if *r, err = rig.New(plan.Modules[i].Display, plan.Modules[i].Link); err != nil {
			t.Fatal(err)
		}
	}
	named := map[string]string{"GP2": "RS", "GP3": "E", "GP4": "D4", "GP5": "D5", "GP6": "D6", "GP7": "D7"}
	h, err := New(plan, w, func(label string) gpio.PinIO {
		if named[label] == "" {
			return nil
		}
		return &line{&gpiotest.Pin{N: label}, w, named[label]}
	})
	if err != nil {
		t.Fatal(err)
	}
	ended := make(chan struct{})
	s, err := session.Begin(t.Context(), h.Line(func() error { close(ended); return nil }), session.Options{})
	if err != nil {
		t.Fatal(err)
	}
	for i, r := range []*rig.Rig{w.bus, w.row} {
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
		if _, err := s.Do(t.Context(), records, drive.IsRead(plan)); err != nil {
			t.Fatal(err)
		}
		moment := r.Moment()
		glass := moment.Glass(&plan.Modules[i].Display, 1)
		for at, cell := range glass.Cells {
			if cell.Code != p.Cells[at] {
				t.Fatalf("module %d, cell %d: 0x%02X; expected 0x%02X", i, at, cell.Code, p.Cells[at])
			}
		}
		if kept, _ := r.Violations(); len(kept) > 0 {
			t.Errorf("module %d: %+v", i, kept[0])
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
	if _, err := New(plan, w, func(string) gpio.PinIO { return nil }); err == nil || !strings.Contains(err.Error(), "GP2") {
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
