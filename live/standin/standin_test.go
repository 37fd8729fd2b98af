package standin_test

import (
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/module"
	"slatebell/core/prove/fault"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/glass"
	"slatebell/live/livetest"
)

// Every fault of the hardware that can be put in shows on the stand-in's glass, driven as a real one is, what the finder's catalogue says that
// it shows: what one would call it, and whether it is lit.
func TestPutIn(t *testing.T) {
	for _, kind := range []string{"backpack", "parallel4", "shift"} {
		b := bench.New("harbour")
		b.Modules[0].Link.Kind, b.Modules[0].Link.Outputs.Address = kind, 0x27
		b.Modules[0].Screens[0].Rows = []string{"Ebb tide 0.4 m", "High 14:05"}
		setup, err := testbed.Of(&b, testbed.At{})
		if err != nil {
			t.Fatal(err)
		}
		subject, err := run.Subject(&setup)
		if err != nil {
			t.Fatal(err)
		}
		x, err := fault.New(subject, nil)
		if err != nil {
			t.Fatal(err)
		}
		j := livetest.Join(t, &b)
		tried := 0
		for _, c := range x.Cases {
			of := &x.Faults[c.A]
			if c.B >= 0 || of.ID == fault.Sound || !of.Built() {
				continue
			}
			if kind == "shift" && (of.Code == "wire.order" || of.Code == "wire.swapped") {
				continue // what comes of data lines in another order depends on the very bytes, and those waits ask for others
			}
			if err := j.Host.PutIn(0, of.ID); err != nil {
				t.Errorf("%s, %s: %v", kind, of.ID, err)
				continue
			}
			j.Module.Lost()
			if records, err := j.Module.Show(&j.Picture); err != nil {
				t.Fatal(err)
			} else if _, err := j.Do(t.Context(), records, j.Module.IsRead); err != nil { // nobody acknowledges the address
				if !strings.Contains(err.Error(), "acknowledge") {
					t.Fatal(err)
				}
				if err := j.Again(t.Context()); err != nil {
					t.Fatal(err)
				}
			}
			shown := j.Host.Glass(0)
			is, want := glass.See(&shown, module.LCD, nil), x.View(c.View)
			if tried++; is.Class() != want.Class() || is.Light != want.Light {
				t.Errorf("%s, %s: it shows %v, lit %v; the catalogue says %v, lit %v", kind, of.ID, is.Class(), is.Light, want.Class(), want.Light)
			}
		}
		if tried < 40 {
			t.Errorf("%s: %d faults were tried", kind, tried)
		}
	}
}
