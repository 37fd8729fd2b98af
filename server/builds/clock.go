package builds

import (
	_ "embed"

	"slatebell/core/bench"
	"slatebell/core/text/field"
)

//go:embed own/registers.c
var registers string

//go:embed own/second.c
var second string

//go:embed own/registers.py
var registersPython string

//go:embed own/second.py
var secondPython string

// clock: what a DS3231 and an LM75 say, by lines of its own in the program: DS3231 data sheet,
// timekeeping registers 0 to 2 in BCD; LM75 data sheet, temperature register, whose first byte is whole
// degrees (both from memory).
func clock(t *table) {
	t.m.Name = "Boathouse clock"
	t.m.Link.Waits = "poll" // so that the program can read the bus
	rows := t.middle("", "Hall       °C")
	row, left := (t.rows-2)/2, (t.cols-13)/2
	t.screen("clock", "Clock", rows,
		field.Field{Name: "Hour", Row: row, Col: (t.cols - 8) / 2, Width: 8, Kind: field.Clock, Format: "%H:%M:%S", Sample: "14:05:09"},
		field.Field{Name: "Warmth", Row: row + 1, Col: left + 6, Width: 4, Kind: field.Number, Range: field.Range{Min: -55, Max: 125}, Sample: "17"})
	t.m.Show = bench.Show{Scenes: []bench.Scene{{ID: "clock", Name: "Clock", Screen: "clock"}}}
	t.bench.Devices = []bench.Device{
		{ID: "clock", Name: "Clock chip", Part: "DS3231", Address: 0x68, CurrentMA: 1},
		{ID: "warmth", Name: "Thermometer", Part: "LM75", Address: 0x48, CurrentMA: 1},
	}
	for _, f := range []struct{ file, declarations, second string }{{"main.c", registers, second}, {"bench.ino", registers, second}, {"main.py", registersPython, secondPython}} {
		t.bench.Code.Own = append(t.bench.Code.Own, bench.OwnSection{File: f.file, Section: "declarations", Text: f.declarations}, bench.OwnSection{File: f.file, Section: "each second", Text: f.second})
	}
}
