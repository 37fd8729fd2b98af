package pinout

import (
	"slices"
	"strings"
	"testing"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
	"slatebell/core/finding"
	"slatebell/core/part/host"
	"slatebell/core/table/bus"
)

// listening is a bench whose one module, behind a backpack, listens to inputs.
func listening(part string, inputs ...bench.Input) *bench.Bench {
	b := bench.New("pier")
	b.Host.Part = part
	m := bench.NewModule("gate", "Gate")
	m.Link.Kind = "backpack"
	for i := range inputs {
		if inputs[i].ID == "" {
			inputs[i].ID = inputs[i].Kind
		}
	}
	m.Show.Inputs = inputs
	b.Modules = []bench.Module{m}
	return &b
}

// TestJudgeInputs puts inputs on pins of hosts that cannot read them, or that need care (what each pin
// can do: the boards' tables, from memory of their data sheets); each remedy that is offered settles it.
func TestJudgeInputs(t *testing.T) {
	button, signal, serial := bench.Input{Kind: "button"}, bench.Input{Kind: "signal"}, bench.Input{Kind: "serial"}
	on := func(in bench.Input, pin string) bench.Input { in.Pin = pin; return in }
	for _, c := range []struct {
		part string
		in   bench.Input
		want string // code; "" for nothing
	}{
		{"ATmega328P", on(button, "D2"), ""},
		{"ATmega328P", on(button, "A0"), ""},
		{"ATmega328P", on(button, "D44"), "input.no-such-pin"},
		{"ATmega328P", on(button, "A4"), "host.pin-twice"},
		{"ATmega328P", on(button, "D1"), "input.pin-upload"},
		{"ATmega328P", on(signal, "A3"), ""},
		{"ATmega328P", on(signal, "D3"), "input.pin-unfit"},
		{"ATmega328P", on(serial, "D0"), "input.pin-upload"},
		{"ATmega328P", on(serial, "D2"), "input.pin-unfit"},
		{"ATmega2560", on(serial, "D19"), ""},
		{"ATmega2560", on(serial, "D18"), "input.pin-unfit"},
		{"ESP32", on(button, "GPIO34"), "input.no-pull"},
		{"ESP32", bench.Input{Kind: "button", Pin: "GPIO34", Pull: "down"}, ""},
		{"ESP32", on(button, "GPIO12"), "input.pin-strap"},
		{"ESP32", on(button, "GPIO7"), "input.pin-unfit"},
		{"ESP32", on(signal, "GPIO34"), ""},
		{"ESP32", bench.Input{Kind: "signal", Pin: "GPIO34", Signal: bench.Sensor{SupplyMV: 5000}}, "input.too-high"},
		{"ATmega2560", bench.Input{Kind: "signal", Pin: "A1", Signal: bench.Sensor{ReferenceMV: 2560}}, ""},
		{"ATmega328P", bench.Input{Kind: "signal", Pin: "A1", Signal: bench.Sensor{ReferenceMV: 2560}}, "input.no-reference"},
		{"ESP32", on(serial, "GPIO16"), ""},
		{"ESP8266", on(button, "D0"), "input.no-pull"},
		{"ESP8266", on(button, "A0"), "input.pin-unfit"},
		{"ESP8266", on(signal, "A0"), ""},
		{"RP2040", on(signal, "GP26"), ""},
		{"RP2040", on(signal, "GP2"), "input.pin-unfit"},
		{"RP2040", on(serial, "GP5"), ""},
		{"RP2040", on(serial, "GP1"), "host.pin-twicehost.pin-twice"}, // the bus is on it, and on its TX
		{"RP2040", on(serial, "GP13"), ""},                            // with its TX on GP12
		{"RP2040", on(serial, "GP4"), "input.pin-unfit"},              // which sends
		{"ATmega328P", bench.Input{Kind: "counter", Pin: "D2", PinB: "D50"}, "input.no-such-pin"},
	} {
		b := listening(c.part, c.in)
		found := slices.Concat(judgeInputs(b), judgePins(b, bus.Nodes(b), Uses(b)))
		codes := ""
		for _, f := range found {
			codes += f.Code
			if !strings.HasPrefix(f.Path, "/modules/0/show/inputs/0") {
				t.Errorf("%s, %+v: %s is about %s", c.part, c.in, f.Code, f.Path)
			}
			for _, r := range f.Remedies {
				patched, err := edit.Remedied(b, r)
				if err != nil {
					t.Fatal(err)
				}
				for _, left := range slices.Concat(judgeInputs(&patched), judgePins(&patched, bus.Nodes(&patched), Uses(&patched))) {
					if left.Code == f.Code {
						t.Errorf("%s, %+v: “%s” leaves %s", c.part, c.in, r.Label, left.What)
					}
				}
			}
		}
		if codes != c.want {
			t.Errorf("%s, %+v: %q, want %q", c.part, c.in, codes, c.want)
		}
	}
}

// TestJoinInputs gives pins to inputs of every host in one step: each can be read there, none serves
// two, and voltages get the pins that read them though buttons come first.
func TestJoinInputs(t *testing.T) {
	for _, board := range host.Boards() {
		inputs := []bench.Input{{ID: "go", Kind: "button"}, {ID: "back", Kind: "button"}, {ID: "notch", Kind: "counter"}, {ID: "tick", Kind: "timer"}, {ID: "sum", Kind: "counter", Counter: bench.Counter{Up: "go"}}, {ID: "tide", Kind: "signal"}, {ID: "radio", Kind: "serial"}}
		b := listening(board.Part, inputs...)
		joined, left := JoinInputs(b)
		if board.Part == "ATtiny85" { // three pins beside its bus, and no serial line
			if len(joined) != 3 || !slices.Equal(left, []string{"radio", "back"}) {
				t.Errorf("ATtiny85: %d joined, %v left", len(joined), left)
			}
			continue
		}
		if len(left) > 0 || len(joined) != 5 {
			t.Errorf("%s: %d joined, %v left", board.Part, len(joined), left)
		}
		for _, e := range joined {
			e.Apply(b)
		}
		for _, f := range slices.Concat(judgeInputs(b), judgePins(b, bus.Nodes(b), Uses(b))) {
			if f.Code != "input.pin-upload" { // a host with one serial line shares it
				t.Errorf("%s: %s", board.Part, f.What)
			}
		}
		choices, err := ForInput(b, 0, 5)
		if err != nil || len(choices) != len(board.Pins) {
			t.Errorf("%s: %d pins to choose from of %d, %v", board.Part, len(choices), len(board.Pins), err)
		}
		for _, c := range choices {
			if p, _ := board.Find(c.Label); p.Has(host.Analog) != (c.Not == "") || c.Label == b.Modules[0].Show.Inputs[0].Pin && c.Taken == "" {
				t.Errorf("%s: %+v", board.Part, c)
			}
		}
	}
	b := listening("ESP8266", bench.Input{ID: "tide", Kind: "signal"}, bench.Input{ID: "wind", Kind: "signal"})
	if joined, left := JoinInputs(b); len(joined) != 1 || !slices.Equal(left, []string{"wind"}) {
		t.Errorf("two voltages for one pin: %v, %v left", joined, left)
	}
}

// TestJudgeParts joins parts of the maker's own to pins and rails (levels and currents of the hosts: their tables,
// from memory of the data sheets): what does not go together is found, and a remedy that is offered settles it.
func TestJudgeParts(t *testing.T) {
	for _, c := range []struct {
		part string
		pin  bench.OwnPin
		want string
	}{
		{"ATmega328P", bench.OwnPin{Name: "EN", To: "D5"}, ""},
		{"ATmega328P", bench.OwnPin{Name: "VM", To: "5V"}, ""},
		{"ATmega328P", bench.OwnPin{Name: "NC"}, ""},
		{"ATmega328P", bench.OwnPin{Name: "EN", To: "D77"}, "part.no-such-pin"},
		{"ATmega328P", bench.OwnPin{Name: "TXD", To: "D0", Drives: true, HighMV: 3300}, "part.pin-upload"},
		{"ATmega328P", bench.OwnPin{Name: "DO", To: "D5", Drives: true, HighMV: 2500}, "part.too-low"},
		{"ATmega328P", bench.OwnPin{Name: "IN", To: "D5", CurrentMA: 120}, "part.too-much"},
		{"ATmega328P", bench.OwnPin{Name: "DIN", To: "A4"}, "host.pin-twice"},
		{"RP2040", bench.OwnPin{Name: "DO", To: "GP5", Drives: true, HighMV: 5000}, "part.too-high"},
		{"RP2040", bench.OwnPin{Name: "DIN", To: "GP5", HighMV: 3500}, "part.too-low"},
		{"ESP32", bench.OwnPin{Name: "EN", To: "GPIO34"}, "part.pin-unfit"},
		{"ESP32", bench.OwnPin{Name: "DO", To: "GPIO34", Drives: true, HighMV: 3300}, ""},
		{"ESP32", bench.OwnPin{Name: "EN", To: "GPIO12"}, "part.pin-strap"},
	} {
		b := listening(c.part)
		b.Parts = []bench.OwnPart{{ID: "motor", Name: "Winch", Pins: []bench.OwnPin{c.pin}, CurrentMA: 300, SupplyMV: 5000}}
		found := func() []finding.Finding { return slices.Concat(judgeParts(b), judgePins(b, bus.Nodes(b), Uses(b))) }
		codes := ""
		for _, f := range found() {
			codes += f.Code
			if f.Path != "/parts/0/pins/0" {
				t.Errorf("%s, %+v: %s is about %s", c.part, c.pin, f.Code, f.Path)
			}
			for _, r := range f.Remedies {
				was := b
				mended, err := edit.Remedied(b, r)
				if err != nil {
					t.Fatal(err)
				}
				if b = &mended; len(found()) > 0 {
					t.Errorf("%s, %+v: “%s” leaves %s", c.part, c.pin, r.Label, found()[0].What)
				}
				b = was
			}
		}
		if codes != c.want {
			t.Errorf("%s, %+v: %q, want %q", c.part, c.pin, codes, c.want)
		}
	}
}
