package run

import (
	"time"

	"slatebell/core/finding"
	"slatebell/core/prove/testbed"
	"slatebell/core/wire/link"
)

// Way is one way of toggling E over an expander or shift register, with what it
// costs for the module's screen and which limits it breaks.
type Way struct {
	Grouping     link.Grouping // "" on a shift register
	Setup        link.Setup
	Words        int           // bytes on the expander's outputs, or shifted
	Transactions int           // on I²C
	WireTime     time.Duration // the wire in use
	Finish       time.Duration // from power-up until the screen stands
	Breaks       []finding.Finding
	Best         bool // the fastest of those that break nothing
}

// Ways runs the screen in every way that its link has, and judges each. It
// returns nil for links without outputs to group. Its error is a bench.Problem.
func Ways(s *testbed.Setup) ([]Way, error) {
	var groupings []link.Grouping
	switch link.Kind(s.Link.Kind) {
	case link.Backpack:
		groupings = []link.Grouping{link.WholeScreen, link.PerOperation, link.PerByte}
	case link.ShiftReg:
		groupings = []link.Grouping{""}
	}
	var ways []Way
	best := -1
	for _, g := range groupings {
		for _, setup := range []link.Setup{link.SetupLawful, link.SetupBefore, link.SetupWithE} {
			other := *s
			other.Link.Outputs.Transactions, other.Link.Outputs.Setup = string(g), string(setup)
			r, err := Do(&other, Options{})
			if err != nil {
				return nil, err
			}
			way := Way{Grouping: g, Setup: setup, Words: len(r.Program.Words), Transactions: r.Program.Transactions, WireTime: r.Program.WireTime, Finish: r.Program.Finish}
			for _, f := range r.Findings {
				if f.Step != nil {
					way.Breaks = append(way.Breaks, f)
				}
			}
			if len(way.Breaks) == 0 && (best < 0 || way.WireTime < ways[best].WireTime) {
				best = len(ways)
			}
			ways = append(ways, way)
		}
	}
	if best >= 0 {
		ways[best].Best = true
	}
	return ways, nil
}
