// Package demo is made-up data to show the application with: Quillfish Landing,
// a rowing club's boathouse with a tide board.
package demo

import (
	"slatebell/core/bench"
	"slatebell/core/screen"
)

// Bench returns the boathouse's bench.
func Bench() bench.Bench {
	gate := bench.NewModule("gate", "Gate board")
	gate.Screen = screen.Screen{Rows: []string{"QUILLFISH  GATE", "Tide 3.2m →14:05"}}
	hall := bench.NewModule("hall", "Boat hall")
	hall.Geometry, hall.Tint, hall.ROM = "20x4", "blue", "A02"
	hall.Link.Kind = "parallel4"
	hall.Screen = screen.Screen{Rows: []string{"Tide  3.2 m  rising", "High water   14:05", "Wind  NW 4   gusts 6", "Boats out    3 of 11"}}
	slip := bench.NewModule("slip", "Slip")
	slip.Geometry, slip.Technology, slip.Tint, slip.Brightness = "20x2", "vfd", "teal", 1
	slip.Link.Kind = "parallel8"
	slip.Screen = screen.Screen{Rows: []string{"Slip clear  3 afloat", "Last boat in  18:30"}}
	return bench.Bench{Format: bench.Format, Version: bench.Version, Name: "Quillfish Landing", Modules: []bench.Module{gate, hall, slip}}
}
