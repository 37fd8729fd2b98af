package check

import (
	"time"

	"slatebell/core/bench"
	"slatebell/core/prove/run"
	"slatebell/core/prove/testbed"
	"slatebell/core/table/setup"
)

// Choice is one way to join a module to its host, with what its screen costs so.
type Choice struct {
	setup.Option
	Words    int           // bytes on an expander's outputs, or pulses of E
	WireTime time.Duration // the wire in use for the whole screen, initialisation and all
	Finish   time.Duration // from power-up until the screen stands
	Update   time.Duration // to write the whole screen again
}

// Choices runs a module's screen over every link that it can have, the cheapest
// in host pins first. Its error is a bench.Problem, or says that there is no such
// screen.
func Choices(b *bench.Bench, at testbed.At) ([]Choice, error) {
	s, err := testbed.Of(b, at)
	if err != nil {
		return nil, err
	}
	options := setup.Options(b, at.Module)
	out := make([]Choice, len(options))
	for i, o := range options {
		s.Link = o.Link
		if !o.Fits && o.Link.Outputs.Address == 0 {
			s.Link.Outputs.Address = 0x27 // it costs the same at any
		}
		first, err := run.Do(&s, run.Options{})
		if err != nil {
			return nil, err
		}
		again, err := run.Do(&s, run.Options{NoInit: true})
		if err != nil {
			return nil, err
		}
		out[i] = Choice{Option: o, Words: len(first.Program.Words), WireTime: first.Program.WireTime, Finish: first.Program.Finish}
		if steps := again.Program.Steps; len(steps) > 0 {
			out[i].Update = again.Program.Finish - steps[0].Start
		}
	}
	return out, nil
}
