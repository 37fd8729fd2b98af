package bench

import (
	"testing"

	"slatebell/core/hd44780"
	"slatebell/core/link"
	"slatebell/core/wave"
)

// TestWavesAreWhatArrives drives a second controller by nothing but the drawn
// levels of the header pins: it ends as the rig's did, on every link, whatever
// is wrong between host and module.
func TestWavesAreWhatArrives(t *testing.T) {
	lines := map[string]hd44780.Pins{"E": hd44780.E, "RS": hd44780.RS, "RW": hd44780.RW}
	for i, name := range []string{"D0", "D1", "D2", "D3", "D4", "D5", "D6", "D7"} {
		lines[name] = 1 << i
	}
	for _, kind := range link.Kinds {
		for _, fault := range []Fault{NoFault, NoInit, WrongAddress, LostNibble, NoWaits, CrossedWires} {
			m := slice(string(kind), "Tide 3.2 m", "High 14:05")
			r := mustRun(t, m, Options{Fault: fault})
			trace := wave.Draw(r.Program, 0, len(r.Program.Steps)-1, r.Hardware)
			pins := hd44780.Pins(0xFF) // lines that are not drawn are open, pulled high
			for i, name := range trace.Signals {
				pins |= lines[name]
				if !trace.Initial[i] {
					pins &^= lines[name]
				}
			}
			c := hd44780.New(r.Module.Controller(), nil)
			c.HoldEnable(pins)
			for i, change := range trace.Changes {
				line := lines[trace.Signals[change.Signal]]
				if change.High {
					pins |= line
				} else {
					pins &^= line
				}
				if i+1 == len(trace.Changes) || trace.Changes[i+1].At != change.At {
					c.Drive(change.At, pins)
				}
			}
			if want := r.Last().Controllers[0].State; c.State != want {
				t.Errorf("%s, %q: %q, want %q", kind, fault, c.DDRAM[:10], want.DDRAM[:10])
			}
		}
	}
}
