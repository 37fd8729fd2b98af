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
	return bench.Bench{Format: bench.Format, Version: bench.Version, Name: "Quillfish Landing", Modules: []bench.Module{gate}}
}
