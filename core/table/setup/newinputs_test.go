package setup

import (
	"encoding/json"
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/part/host"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
)

// TestAddInputs adds each group to shows of every host, empty and not: ids are new, what is joined can be
// read, and nothing serves two but the row's one pin.
func TestAddInputs(t *testing.T) {
	for _, board := range host.Boards() {
		for _, group := range []Group{StickGroup, EncoderGroup, RowGroup} {
			b := bench.New("pier")
			b.Host.Part = board.Part
			m := &b.Modules[0]
			m.Show.Start = "kept"
			for round := range 2 {
				add, err := AddInputs(&b, 0, group)
				if err != nil {
					t.Fatal(err)
				}
				add.Apply(&b)
				m = &b.Modules[0]
				if want := map[Group]int{StickGroup: 3, EncoderGroup: 2, RowGroup: 3}[group] * (round + 1); len(m.Show.Inputs) != want || m.Show.Start != "kept" {
					t.Fatalf("%s, %s: %d inputs, want %d", board.Part, group, len(m.Show.Inputs), want)
				}
			}
			if err := b.Validate(); err != nil && !strings.Contains(err.Error(), "kept") {
				t.Errorf("%s, %s: %v", board.Part, group, err)
			}
			for _, f := range pinout.Judge(&b, bus.Nodes(&b), pinout.Uses(&b)) {
				t.Errorf("%s, %s: %s", board.Part, group, f.What)
			}
			if joined := slices.ContainsFunc(m.Show.Inputs, func(in bench.Input) bool { return in.Pin != "" }); !joined {
				t.Errorf("%s, %s: none is joined", board.Part, group)
			}
			if group == RowGroup && len(pinout.Ladders(&b)) != 1 {
				t.Errorf("%s: %d ladders of six buttons", board.Part, len(pinout.Ladders(&b)))
			}
		}
	}
	b := bench.New("pier")
	if _, err := AddInputs(&b, 0, "drum"); err == nil || !strings.Contains(err.Error(), "expected stick, encoder or row") {
		t.Error(err)
	}
	if _, err := AddInputs(&b, 3, StickGroup); err == nil {
		t.Error("a module that is not there")
	}
	b.Modules[0].Show.Inputs = make([]bench.Input, MostInputs-1)
	if _, err := AddInputs(&b, 0, StickGroup); err == nil {
		t.Error("66 inputs")
	}
}

// TestSays holds what is said of inputs' electrics against figures worked out by hand.
func TestSays(t *testing.T) {
	for wants, in := range map[string]bench.Input{
		`["From the pin to ground; 10 kΩ from the pin to the supply.","It reads 93 at 1 kΩ and 930 at 100 kΩ: 82 % of the supply lie between."]`: {Kind: "signal", Signal: bench.Sensor{Circuit: bench.Circuit{Kind: "resistor", LeastOhm: 1000, MostOhm: 100_000}}},
		`["47 kΩ and 4.7 µF let it fall from all to a tenth in 509 ms; a larger capacitor makes it slower."]`:                                    {Kind: "signal", Signal: bench.Sensor{Circuit: bench.Circuit{Kind: "follower", Ohm: 47_000, NanoF: 4700}}},
		// a stick that is fed 3.3 V on a converter of 5 V: 675 at most (common practice: 710, thresholds 175 and 530)
		`["It rests at about 337; below 169 it is tilted to one side, above 506 to the other."]`:                                                                                           {Kind: "signal", Part: "Tiller", Signal: bench.Sensor{SupplyMV: 3300}},
		`["1 kΩ and 2 kΩ divide what it hears; what it sends is high enough for the host as a rule."]`:                                                                                     {Kind: "serial", Pin: "D2", Serial: bench.Serial{SupplyMV: 3300, Sends: true}},
		`["Unplug its wires for every upload: the loader uses them."]`:                                                                                                                     {Kind: "serial", Pin: "D0"},
		`["The first of its row: from the pin to ground; the pin is held up by 10 kΩ.","Pressed, its pin is at 0 V; with resistors of 5 % it is told from the others by 2.5 V at least."]`: {Kind: "button", Pin: "A0", Button: bench.Button{Ladder: true}},
	} {
		b := bench.New("pier")
		in.ID = "x"
		b.Modules[0].Show.Inputs = []bench.Input{in}
		got, _ := json.Marshal(pinout.Says(&b, 0, 0))
		if string(got) != wants {
			t.Errorf("%+v:\n%s\nwant\n%s", in, got, wants)
		}
	}
}
