package touch

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/show"
	"slatebell/core/table/wiring"
)

// hands is a bench with an input of every kind.
func hands(part string) *bench.Bench {
	pins := map[string]string{"go": "D2", "back": "D3", "up": "D4", "taps": "D5", "a": "D6", "b": "D7", "tide": "A0", "light": "A1", "level": "A2", "radio": "D0", "row": "A3"}
	if part == "RP2040" {
		pins = map[string]string{"go": "GP2", "back": "GP3", "up": "GP6", "taps": "GP7", "a": "GP8", "b": "GP9", "tide": "GP26", "light": "GP27", "level": "GP28", "radio": "GP13"}
	}
	inputs := []bench.Input{
		{ID: "go", Kind: "button", Pin: pins["go"]},
		{ID: "back", Kind: "button", Pin: pins["back"], Pull: "down"},
		{ID: "up", Kind: "button", Pin: pins["up"], Pull: "up"},
		{ID: "taps", Kind: "counter", Pin: pins["taps"], Counter: bench.Counter{Count: 9}},
		{ID: "dial", Kind: "counter", Pin: pins["a"], PinB: pins["b"], Counter: bench.Counter{Count: 9}},
		{ID: "tide", Kind: "signal", Pin: pins["tide"]},
		{ID: "light", Kind: "signal", Pin: pins["light"], Signal: bench.Sensor{Circuit: bench.Circuit{Kind: "resistor", LeastOhm: 1000, MostOhm: 100_000}}},
		{ID: "level", Kind: "signal", Pin: pins["level"], Signal: bench.Sensor{Circuit: bench.Circuit{Kind: "follower"}}},
		{ID: "radio", Kind: "serial", Pin: pins["radio"], Serial: bench.Serial{SupplyMV: 5000}},
	}
	for i := range 3 {
		if pins["row"] != "" {
			inputs = append(inputs, bench.Input{ID: fmt.Sprint("row", i), Kind: "button", Pin: pins["row"], Button: bench.Button{Ladder: true}})
		}
	}
	return &bench.Bench{Host: bench.Host{Part: part}, Modules: []bench.Module{{ID: "hall", Name: "Hall", Display: bench.Display{Geometry: "16x2", Technology: "lcd", Controller: bench.Controller{ROM: "A00", Font: "5x8", OscillatorKHz: 270}}, Link: bench.Link{Kind: "backpack"}, Show: bench.Show{Inputs: inputs}}}}
}

func planned(part string) (*Circuit, *bench.Bench) {
	b := hands(part)
	net := wiring.Of(b)
	return New(b, &net, Planned(&net)), b
}

// line is what is read of an input by its id.
func line(t *testing.T, c *Circuit, b *bench.Bench, id string) Line {
	t.Helper()
	for i, in := range b.Modules[0].Show.Inputs {
		if in.ID == id {
			l, ok := c.Line(0, i)
			if !ok {
				t.Fatalf("%s is on no pin", id)
			}
			return l
		}
	}
	t.Fatalf("no input %s", id)
	return Line{}
}

// TestPlanned reads every input as planned: each works, on hosts of 5 V and of 3.3 V.
func TestPlanned(t *testing.T) {
	for _, part := range []string{"ATmega328P", "RP2040"} {
		c, b := planned(part)
		if part == "ATmega328P" { // of which a knob that is fed 5 V reads the most from 1.1 V on
			b.Modules[0].Show.Inputs[5].Signal.ReferenceMV = 1100
		}
		for i := range b.Modules[0].Show.Inputs {
			in := &b.Modules[0].Show.Inputs[i]
			if l := line(t, c, b, in.ID); !l.Works || l.Says(in.ID, in.Pin) != "" {
				t.Errorf("%s: %s: %+v", part, in.ID, l)
			}
		}
	}
}

// TestChanged makes what goes wrong at inputs, and holds what is read against what the circuit must come to
// (Ohm's law, and the rule that a pin that nothing holds keeps what it was).
func TestChanged(t *testing.T) {
	c, b := planned("ATmega328P")
	id := func(input string, n int) (pin string) {
		for i, in := range b.Modules[0].Show.Inputs {
			if in.ID == input {
				return c.Acts(0, i)[n/10].Pins[n%10]
			}
		}
		return ""
	}
	cut := func(pins ...string) Change { return Change{Cut: pins} }
	for _, one := range []struct {
		input  string
		change Change
		want   string
	}{
		{"go", cut(id("go", 0)), "“go” is never read as pressed: pin X does not change."},
		{"go", cut(id("go", 1)), "“go” is never read as pressed: pin X does not change."},
		{"go", Change{Moved: map[string]string{id("go", 1): "host/5V"}}, "“go” is never read as pressed: pin X does not change."},
		{"go", Change{Stuck: c.Acts(0, 0)}, "“go” is always read as pressed, on pin X."},
		{"back", cut("hall-back-pull/1"), "Nothing holds pin X of “back” while its contact is open."},
		{"back", Change{Moved: map[string]string{"hall-back-pull/2": "host/5V"}}, "“back” is always read as pressed, on pin X."},
		{"up", cut("hall-up-pull/2"), "Nothing holds pin X of “up” while its contact is open."},
		{"taps", Change{Stuck: c.Acts(0, 3)}, "“taps” is always read as pressed, on pin X."},
		{"dial", Change{Moved: map[string]string{id("dial", 0): id("dial", 10), id("dial", 10): id("dial", 0)}}, "“dial” counts the other way: A and B are exchanged."},
		{"dial", cut(id("dial", 1)), "“dial” is never read as pressed: pin X does not change."},
		{"tide", cut(id("tide", 2)), "Nothing comes to pin X of “tide”: what it reads is what happens to be near."},
		{"tide", cut(id("tide", 1)), "Pin X of “tide” stays at 0.0 V."},
		{"tide", cut(id("tide", 0)), "Pin X of “tide” stays at 5.0 V."},
		{"tide", Change{Moved: map[string]string{id("tide", 0): "host/5V", id("tide", 1): "host/GND"}}, "“tide” turns the other way."},
		{"light", cut("hall-light-other/1"), "Pin X of “light” stays at 0.0 V."},
		{"light", cut(id("light", 1)), "Pin X of “light” stays at 5.0 V."},
		{"level", cut("hall-level-diode/A"), "Pin X of “level” stays at 0.0 V."},
		{"radio", cut(id("radio", 2)), "What “radio” sends does not come to pin X."},
		{"radio", cut(id("radio", 0)), "What “radio” sends does not come to pin X."},
		{"row1", cut(id("row1", 1)), "“row1” is never read as pressed: pin X does not change."},
		{"row0", Change{Stuck: c.Acts(0, 9)}, "“row0” is always read as pressed, on pin X."},
		{"row2", Change{Stuck: c.Acts(0, 9)}, "“row2” is never read as pressed: pin X does not change."},
		{"row1", cut("hall-row0-top/1"), "Nothing holds pin X of “row1” while its contact is open."},
	} {
		l := line(t, c.Changed(one.change), b, one.input)
		if got := l.Says(one.input, "X"); got != one.want {
			t.Errorf("%s with %+v: %q, want %q", one.input, one.change, got, one.want)
		}
	}
}

// TestTell sends random events over lines that work and that do not: what works passes on all as it is; a
// stuck contact is told once and never again; one that nothing holds is pressed once and stays so; a knob whose
// ends are exchanged reads what is left to the most.
func TestTell(t *testing.T) {
	c, b := planned("ATmega328P")
	r := rand.New(rand.NewPCG(3, 23))
	press := func(l *Line, n int) (told []int64) {
		down := false
		if e, ok := l.Begins(0); ok {
			told, down = append(told, e.Value), e.Value != 0
		}
		for i := range 2 * n {
			if e, ok := l.Tell(show.Event{Value: int64(1 - i%2)}, down); ok {
				told, down = append(told, e.Value), e.Value != 0
			}
		}
		return told
	}
	sound, stuck := line(t, c, b, "go"), line(t, c.Changed(Change{Stuck: c.Acts(0, 0)}), b, "go")
	loose := line(t, c.Changed(Change{Cut: []string{"hall-back-pull/1"}}), b, "back")
	open := line(t, c.Changed(Change{Cut: []string{c.Acts(0, 0)[0].Pins[0]}}), b, "go")
	for _, one := range []struct {
		line *Line
		want string
	}{{&sound, "[1 0 1 0 1 0]"}, {&stuck, "[1]"}, {&loose, "[1]"}, {&open, "[]"}} {
		if got := fmt.Sprint(press(one.line, 3)); got != one.want {
			t.Errorf("%+v: told %s, want %s", one.line, got, one.want)
		}
	}
	tide := c.Acts(0, 5)[0].Pins
	turned := line(t, c.Changed(Change{Moved: map[string]string{tide[0]: "host/5V", tide[1]: "host/GND"}}), b, "tide")
	loaded := line(t, c.Changed(Change{Moved: map[string]string{tide[1]: "host/3V3"}}), b, "tide")
	for range 50 {
		v := r.Int64N(1024)
		if e, ok := turned.Tell(show.Event{Value: v}, false); !ok || e.Value < 1023-v-1 || e.Value > 1023-v+1 {
			t.Errorf("turned, %d is read as %d (%v)", v, e.Value, ok)
		}
		if e, ok := loaded.Tell(show.Event{Value: v}, false); !ok || e.Value < v*33/50-2 || e.Value > v*33/50+2 {
			t.Errorf("fed 3.3 V, %d is read as %d (%v)", v, e.Value, ok)
		}
	}
}
