package plan

import (
	"slices"

	"slatebell/core/bench"
	"slatebell/core/finding"
)

// Plan is all that a bench as a whole comes to.
type Plan struct {
	Nodes    []Node
	Segments []Segment
	Levels   []Level
	Rails    []Rail
	Pins     PinLoad
	Uses     map[string][]Use
	Findings []finding.Finding // worst first
}

// Of works out the plan of a bench.
func Of(b *bench.Bench) Plan {
	p := Plan{Nodes: Nodes(b), Segments: Segments(b), Rails: Rails(b), Uses: Uses(b)}
	p.Levels, p.Pins = levels(b, p.Segments), pinLoads(b, p.Uses, p.Segments)
	p.Findings = slices.Concat(
		pinoutJudge(b, p.Nodes, p.Uses),
		busJudge(b, p.Nodes, p.Segments),
		powerJudge(b, p.Levels, p.Rails),
		judgePinLoads(b, p.Pins),
	)
	slices.SortStableFunc(p.Findings, func(a, b finding.Finding) int { return a.Severity.Rank() - b.Severity.Rank() })
	return p
}

// Check returns what is found on a bench as a whole, worst first.
func Check(b *bench.Bench) []finding.Finding { return Of(b).Findings }
