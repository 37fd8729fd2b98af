package pinout_test

import (
	"slatebell/core/table/pinout"
	"slatebell/core/table/setup"
	"slatebell/core/table/tabletest"
	"strings"
	"testing"

	"periph.io/x/conn/v3/physic"

	"slatebell/core/bench"
	"slatebell/core/bench/edit"
)

// TestParsePins reads the wirings that people really use (common practice): pins
// for RS, E, D4 to D7 of a module in 4 bits. One has RS on the serial transmit
// pin, which is found.
func TestParsePins(t *testing.T) {
	for _, c := range []struct {
		part, text string
		want       string // labels in order of the lines
		codes      string
		err        string
	}{
		{"ATmega328P", "12,11,5,4,3,2", "D12 D11 D5 D4 D3 D2", "", ""},
		{"ATmega328P", "12, 11, 10, 9, 8, 7", "D12 D11 D10 D9 D8 D7", "", ""},
		{"ATmega328P", "1 2 4 5 6 7", "D1 D2 D4 D5 D6 D7", "host.pin-upload", ""},
		{"ATmega328P", "…,…,…,6,5,4", "D2 D3 D4 D6 D5 D4", "host.pin-twice", ""},
		{"ATmega328P", "A0;a1;D5;4;3;2", "A0 A1 D5 D4 D3 D2", "", ""},
		{"ESP32", "0 2 34 6 4 13", "GPIO0 GPIO2 GPIO34 GPIO6 GPIO4 GPIO13", "host.pin-unfit host.pin-strap", ""},
		{"RP2040", "10 11 12 13 14 15", "GP10 GP11 GP12 GP13 GP14 GP15", "", ""},
		{"Harbour board", "a b c d e f", "a b c d e f", "", ""},
		{"ATmega328P", "12,11,5,4,3", "", "", "pins given: 5; expected 6, for RS, E, D4, D5, D6, D7"},
		{"ATmega328P", "12,11,5,4,3,99", "", "", `pin "99" for D7; expected a label of this host`},
	} {
		b := tabletest.Boards(1, c.part)
		b.Modules[0].Link = bench.Link{Kind: "parallel4", Pins: map[string]string{"RS": "D2", "E": "D3", "D4": "D4"}}
		pins, err := pinout.Parse(&b, 0, c.text)
		if err != nil || c.err != "" {
			if err == nil || !strings.Contains(err.Error(), c.err) || c.err == "" {
				t.Errorf("%s: %v, want %q", c.text, err, c.err)
			}
			continue
		}
		var got []string
		for _, line := range pinout.Lines(&b, &b.Modules[0]) {
			got = append(got, pins[line])
		}
		mended := edit.Applied(&b, edit.SetPins{Module: 0, Pins: pins})
		if strings.Join(got, " ") != c.want || tabletest.Codes(setup.Check(&mended)) != c.codes {
			t.Errorf("%s on %s: %s, %s", c.text, c.part, got, tabletest.Codes(setup.Check(&mended)))
		}
	}
	b := tabletest.Boards(1, "ATmega328P")
	for _, index := range []int{-1, 0, 1} { // one that is not there, and a backpack
		if pins, err := pinout.Parse(&b, index, "2"); err == nil || index != 0 && !strings.Contains(err.Error(), "modules 0–0") {
			t.Errorf("module %d: %v, %v", index, pins, err)
		}
	}
}

// TestPinLoads reckons the host's pins: 250 µA for a line of a module (HD44780U
// data sheet, ADE-207-272(Z), −I_p, from memory), and what the pull-ups of the bus
// itself give; those of a channel count once.
func TestPinLoads(t *testing.T) {
	b := tabletest.Boards(2, "ATmega328P")
	b.Modules[1].Link = bench.Link{Kind: "shift", Pins: map[string]string{"data": "D2", "clock": "D3", "latch": "D4"}}
	sink := func(ohm int) physic.ElectricCurrent { return 5 * physic.Ampere / physic.ElectricCurrent(ohm) }
	check := func(what string, most, total physic.ElectricCurrent, of string) {
		t.Helper()
		l := setup.Of(&b).Pins
		near := func(a, b physic.ElectricCurrent) bool { return a-b < physic.MicroAmpere && b-a < physic.MicroAmpere }
		if !near(l.Most, most) || !near(l.Total, total) || l.MostOf != of || l.Limit != 20*physic.MilliAmpere || l.All != 200*physic.MilliAmpere {
			t.Errorf("%s: %+v, want %s and %s", what, l, most, total)
		}
	}
	const line = 250 * physic.MicroAmpere
	check("a backpack and a shift register", sink(4700), 2*sink(4700)+3*line, "SDA or SCL held low")
	b.Bus.Multiplexer = &bench.Multiplexer{Part: "TCA9548A", Address: 0x70}
	b.Bus.PullUpOhm = 10_000
	b.Modules[0].Link.Outputs.Channel = 1
	check("behind a multiplexer", sink(10_000), 2*sink(10_000)+3*line, "SDA or SCL held low")
	b.Bus = bench.Bus{}
	b.Modules[0].Link = bench.Link{Kind: "parallel4"}
	check("no bus", line, 3*line, "a line of a module")
}
