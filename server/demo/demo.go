// Package demo is made-up data to show the application with: Quillfish Landing,
// a rowing club's boathouse with a tide board.
package demo

import (
	"fmt"
	"slices"
	"strings"

	"slatebell/core/bench"
	"slatebell/core/table/breadboard"
	"slatebell/core/text/field"
	"slatebell/core/text/glyph"
	"slatebell/core/text/picture"
	"slatebell/core/text/screen"
)

// Bench returns the boathouse's bench.
func Bench() bench.Bench {
	gate := bench.NewModule("gate", "Gate board")
	library, named := library()
	key := func(name string) string { return string(rune(screen.KeyBase + named[name])) }
	gate.Screens = []bench.Screen{
		{ID: "screen-1", Name: "Gate", Rows: []string{"QUILLFISH  GATE", "Tide 3.2m →14:05"}},
		{ID: "tides", Name: "Tides", Rows: []string{key("high water") + " 14:05 " + key("rising tide") + " 3.2m", key("low water") + " 20:21 " + key("falling tide") + " 0.7m"}},
		{ID: "weather", Name: "Weather", Rows: []string{key("sun") + key("cloud") + " 17" + key("degree Celsius") + "  dry", key("wind") + " NW 4  gusts 6"}},
		{ID: "boats", Name: "Boats", Rows: []string{key("oar") + " out 3  " + key("boat") + " in 8", key("buoy") + " race " + key("flag") + " Sunday"}},
	}
	gate.Screens[0].Fields = []field.Field{
		{Name: "Tide", Row: 1, Col: 5, Width: 3, Kind: field.Number, Range: field.Range{Min: 0, Max: 9.9}, Digits: field.Digits{Decimals: 1}, PerSec: 1, Sample: "3.2"},
		{Name: "High water", Row: 1, Col: 11, Width: 5, Kind: field.Clock, Format: "%H:%M", Sample: "14:05"},
	}
	gate.Loading = bench.Loading{Loop: true}
	gate.Changes = "steady"

	hall := bench.NewModule("hall", "Boat hall")
	hall.Display.Geometry, hall.Display.Tint, hall.Display.Controller.ROM = "20x4", "blue", "A02"
	hall.Link.Kind = "parallel4"
	hall.Link.Pins = map[string]string{"RS": "D2", "E": "D3", "D4": "D4", "D5": "D5", "D6": "D6", "D7": "D7"}
	hall.Glyphs = glyph.Bank{glyph.New(0, "wave", wave), glyph.New(1, "rising tide", rising), glyph.New(2, "oar", oar), glyph.New(3, "falling tide", falling), glyph.New(4, "bell", bell)}
	hall.Screens[0].Rows = []string{"\uE001 Tide 3.2 m  rising", "\uE008 High water   14:05", "  Wind NW 4  gusts 6", "\uE002 Boats out  3 of 11"}
	hall.Screens[0].Fields = []field.Field{
		{Name: "Tide", Row: 0, Col: 6, Width: 4, Kind: field.Number, Range: field.Range{Min: -1.5, Max: 9.9}, Digits: field.Digits{Decimals: 1}, PerSec: 1, Sample: "3.2"},
		{Name: "Way of the tide", Row: 0, Col: 14, Width: 6, Kind: field.Text, Values: []string{"rising", "ebbing", "slack"}, Sample: "rising"},
		{Name: "High water", Row: 1, Col: 15, Width: 5, Kind: field.Clock, Format: "%H:%M", Sample: "14:05"},
		{Name: "Wind from", Row: 2, Col: 7, Width: 2, Kind: field.Choice, Values: []string{"N", "NE", "E", "SE", "S", "SW", "W", "NW"}, Sample: "7"},
		{Name: "Wind", Row: 2, Col: 9, Width: 2, Kind: field.Number, Range: field.Range{Max: 12}, PerSec: 4, Sample: "4"},
		{Name: "Gusts", Row: 2, Col: 18, Width: 2, Kind: field.Number, Range: field.Range{Max: 12}, PerSec: 4, Sample: "6"},
		{Name: "Boats out", Row: 3, Col: 12, Width: 2, Kind: field.Number, Range: field.Range{Max: 11}, Sample: "3"},
	}

	slip := bench.NewModule("slip", "Slip")
	slip.Display.Geometry, slip.Display.Technology, slip.Display.Tint, slip.Display.Supply.Brightness = "20x2", "vfd", "teal", 1
	slip.Link.Kind = "parallel8"
	slip.Link.Pins = map[string]string{"RS": "D8", "E": "D9", "D0": "D10", "D1": "D11", "D2": "D12", "D3": "D13", "D4": "A0", "D5": "A1", "D6": "A2", "D7": "A3"}
	welcome := []string{"      QUILLFISH", "       LANDING"}
	for i := range 8 { // the boathouse stands left of its name
		welcome[i/4] = insert(welcome[i/4], i%4, rune(screen.KeyBase+named["boathouse"]+i))
	}
	slip.Screens = []bench.Screen{
		{ID: "screen-1", Name: "Slip", Rows: []string{"Slip clear  3 afloat", "Last boat in  18:30"}},
		{ID: "welcome", Name: "Welcome", Rows: welcome},
	}
	slip.Screens[0].Fields = []field.Field{
		{Name: "Slip", Row: 0, Col: 5, Width: 5, Kind: field.Choice, Values: []string{"clear", "busy", "shut"}, Sample: "0"},
		{Name: "Afloat", Row: 0, Col: 11, Width: 2, Kind: field.Number, Range: field.Range{Max: 11}, Sample: "3"},
		{Name: "Last boat in", Row: 1, Col: 14, Width: 5, Kind: field.Clock, Format: "%H:%M", Sample: "18:30"},
	}
	slip.Changes = "steady"
	stage(&gate, &hall, &slip, key("rising tide")+key("boat"))

	b := bench.New("Quillfish Landing")
	b.Glyphs = library
	b.Modules = []bench.Module{gate, hall, slip}
	b.Host = bench.Host{Part: "ATmega328P", Supply: bench.HostFeed{From: "supply", LimitMA: 1000}}
	b.Bus = bench.Bus{SDA: "A4", SCL: "A5"}
	b.Devices = []bench.Device{
		{ID: "clock", Name: "Boathouse clock", Part: "DS3231", Address: 0x68, PullUpOhm: 4700, CurrentMA: 1},
		{ID: "expander", Name: "Lamps on the jetty", Part: "MCP23017", Address: 0x20, CurrentMA: 40},
	}
	b.Wiring.EachLine = true
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

// Archive returns the boathouse's bench with its log.
func Archive() bench.Archive { return bench.Archive{Bench: Bench(), Log: log()} }

// insert puts a character into a column of a row.
func insert(row string, col int, ch rune) string {
	cells := []rune(row)
	cells[col] = ch
	return string(cells)
}

// library is the bench's own glyphs: signs taken from those that ship, and a
// picture of the boathouse. It returns their keys by name; a picture's is that of
// its first cell.
func library() (glyph.Library, map[string]int) {
	var out glyph.Library
	named := map[string]int{}
	for _, name := range []string{"rising tide", "falling tide", "high water", "low water", "sun", "cloud", "wind", "degree Celsius", "oar", "boat", "buoy", "flag", "bell"} {
		i := slices.IndexFunc(glyph.Shipped(), func(d glyph.Drawing) bool { return d.Name == name })
		d := glyph.Shipped()[i]
		d.Key = len(out) + 1
		named[name] = d.Key
		out = append(out, d)
	}
	named["boathouse"] = len(out) + 1
	block := picture.Block{Cols: 4, Rows: 2}
	plane := picture.NewPlane(block.Size())
	for i, dot := range strings.ReplaceAll(boathouse, "\n", "") {
		plane.Lit[i] = dot == '#'
	}
	cells, err := block.Cut(&plane)
	if err != nil { // the tests draw it
		return out, named
	}
	for i, c := range cells {
		out = append(out, glyph.Drawing{
			Key: len(out) + 1, Name: fmt.Sprintf("boathouse %d", i+1), Rows: c.Ints(), Tags: []string{"landing"},
			Part: &glyph.InPicture{Picture: "boathouse", Col: i % 4, Row: i / 4},
		})
	}
	return out, named
}

// boathouse is drawn over 4 × 2 cells.
const boathouse = `
....................
.........##.........
.......##..##.......
.....##......##.....
...##....##....##...
.##.....#..#.....##.
####################
..#...............#.
..#..##########...#.
..#..#...##...#...#.
..#..#...##...#...#.
..#..##########...#.
####################
....................
.##...##...##...##..
#..##...##...##...##
`

// Glyphs of the tide board.
var (
	wave    = glyph.Pattern{0b00000, 0b01000, 0b10101, 0b00010, 0b01000, 0b10101, 0b00010, 0b00000}
	rising  = glyph.Pattern{0b00100, 0b01110, 0b10101, 0b00100, 0b00000, 0b01001, 0b10110, 0b00000}
	falling = glyph.Pattern{0b00100, 0b10101, 0b01110, 0b00100, 0b00000, 0b01001, 0b10110, 0b00000}
	oar     = glyph.Pattern{0b00011, 0b00011, 0b00110, 0b00100, 0b01000, 0b01000, 0b10000, 0b00000}
	bell    = glyph.Pattern{0b00100, 0b01110, 0b01110, 0b01110, 0b11111, 0b00000, 0b00100, 0b00000}
)
