// Package setup sets a bench up: it begins one from what a maker can see of the parts, adds modules and
// inputs, changes the host, and compares the links that a module can have. Of gives all that bus, pinout
// and power say of a bench.
//
// It stands above those three, and below wiring.
package setup

import (
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
	"slatebell/core/table/bus"
	"slatebell/core/table/pinout"
	"slatebell/core/table/power"
)

// Plan is all that a bench as a whole comes to.
type Plan struct {
	Nodes    []bus.Node
	Segments []bus.Segment
	Levels   []power.Level
	Rails    []power.Rail
	Pins     pinout.PinLoad
	Uses     map[string][]pinout.Use
	Findings []finding.Finding // worst first
}

// Of works out the plan of a bench.
func Of(b *bench.Bench) Plan {
	p := Plan{Nodes: bus.Nodes(b), Segments: bus.Segments(b), Rails: power.Rails(b), Uses: pinout.Uses(b)}
	p.Levels, p.Pins = power.Levels(b, p.Segments), pinout.Loads(b, p.Uses, p.Segments)
	p.Findings = slices.Concat(
		pinout.Judge(b, p.Nodes, p.Uses),
		bus.Judge(b, p.Nodes, p.Segments),
		power.Judge(b, p.Levels, p.Rails),
		pinout.JudgeLoads(b, p.Pins),
	)
	slices.SortStableFunc(p.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return p
}

// Check returns what is found on a bench as a whole, worst first.
func Check(b *bench.Bench) []finding.Finding { return Of(b).Findings }
