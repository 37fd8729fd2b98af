// Package demo is made-up data to show the application with: Quillfish Landing,
// a rowing club's boathouse with a tide board.
package demo

import (
	"slatebell/core/bench"
	"slatebell/core/breadboard"
	"slatebell/core/glyph"
)

// Bench returns the boathouse's bench.
func Bench() bench.Bench {
	gate := bench.NewModule("gate", "Gate board")
	gate.Screens[0].Rows = []string{"QUILLFISH  GATE", "Tide 3.2m →14:05"}

	hall := bench.NewModule("hall", "Boat hall")
	hall.Display.Geometry, hall.Display.Tint, hall.Display.Controller.ROM = "20x4", "blue", "A02"
	hall.Link.Kind = "parallel4"
	hall.Link.Pins = map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}
	hall.Glyphs = glyph.Bank{glyph.New(0, "wave", wave), glyph.New(1, "rising tide", rising), glyph.New(2, "oar", oar), glyph.New(3, "falling tide", falling), glyph.New(4, "bell", bell)}
	hall.Screens[0].Rows = []string{"\uE001 Tide 3.2 m  rising", "\uE000 High water   14:05", "  Wind NW 4  gusts 6", "\uE002 Boats out  3 of 11"}

	slip := bench.NewModule("slip", "Slip")
	slip.Display.Geometry, slip.Display.Technology, slip.Display.Tint, slip.Display.Supply.Brightness = "20x2", "vfd", "teal", 1
	slip.Link.Kind = "parallel8"
	slip.Link.Pins = map[string]string{"RS": "D8", "E": "D9", "D0": "D10", "D1": "D11", "D2": "D12", "D3": "D13", "D4": "A0", "D5": "A1", "D6": "A2", "D7": "A3"}
	slip.Screens[0].Rows = []string{"Slip clear  3 afloat", "Last boat in  18:30"}

	b := bench.New("Quillfish Landing")
	b.Modules = []bench.Module{gate, hall, slip}
	b.Host = bench.Host{Part: "ATmega328P", Supply: bench.HostFeed{From: "supply", LimitMA: 1000}}
	b.Bus = bench.Bus{SDA: "A4", SCL: "A5"}
	b.Devices = []bench.Device{
		{ID: "clock", Name: "Boathouse clock", Part: "DS3231", Address: 0x68, PullUpOhm: 4700, CurrentMA: 1},
		{ID: "expander", Name: "Lamps on the jetty", Part: "MCP23017", Address: 0x20, CurrentMA: 40},
	}
	if planned, err := breadboard.Plan(&b); err == nil { // the tests hold it against the document that was looked through
		b.Wiring = planned
		for _, w := range breadboard.Lay(&b).Work() { // soldered and placed; the wires come next
			if w.Section == breadboard.Solder || w.Section == breadboard.Place {
				b.Wiring.Done = append(b.Wiring.Done, w.ID)
			}
		}
	}
	return b
}

// Glyphs of the tide board.
var (
	wave    = glyph.Pattern{0b00000, 0b01000, 0b10101, 0b00010, 0b01000, 0b10101, 0b00010, 0b00000}
	rising  = glyph.Pattern{0b00100, 0b01110, 0b10101, 0b00100, 0b00000, 0b01001, 0b10110, 0b00000}
	falling = glyph.Pattern{0b00100, 0b10101, 0b01110, 0b00100, 0b00000, 0b01001, 0b10110, 0b00000}
	oar     = glyph.Pattern{0b00011, 0b00011, 0b00110, 0b00100, 0b01000, 0b01000, 0b10000, 0b00000}
	bell    = glyph.Pattern{0b00100, 0b01110, 0b01110, 0b01110, 0b11111, 0b00000, 0b00100, 0b00000}
)
