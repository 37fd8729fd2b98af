package run

import (
	"time"

	"slatebell/core/bench"
	"slatebell/core/link"
)

// Cost is what the module's screen costs over one kind of link with its usual
// settings, or over the module's own link as it is set.
type Cost struct {
	Kind     link.Kind
	HostPins []string
	Words    int           // bytes on an expander's outputs, or pulses of E
	WireTime time.Duration // the wire in use
	Finish   time.Duration // from power-up until the screen stands
}

// Costs runs the screen over every kind of link, the cheapest in host pins
// first. Its error is a bench.Problem.
func (s *Setup) Costs() ([]Cost, error) {
	var costs []Cost
	for _, k := range link.Kinds {
		other := *s
		if other.Link.Kind != string(k) {
			other.Link = bench.Link{Kind: string(k), Outputs: bench.Outputs{Address: 0x27, Backlight: true}}
		}
		r, err := other.Run(Options{})
		if err != nil {
			return nil, err
		}
		costs = append(costs, Cost{k, r.Wired.HostPins(), len(r.Program.Words), r.Program.WireTime, r.Program.Finish})
	}
	return costs, nil
}
