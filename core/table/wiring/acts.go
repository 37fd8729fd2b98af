package wiring

import "slatebell/core/bench"

// Does is what a part does when its input is used.
type Does string

// What parts do, each with the pins that it does it at.
const (
	Closes  Does = "closes"  // a contact, between two pins
	Gives   Does = "gives"   // a voltage: ground, supply, output
	Changes Does = "changes" // a resistance, between two pins
	Sounds  Does = "sounds"  // an alternating voltage: source, level's end, its wiper, the diode's two legs
	Sends   Does = "sends"   // characters: ground, supply, output
)

// Act is what a part does when an input is used; a rotary encoder has two, A's first.
type Act struct {
	Module, Input int
	Does          Does
	Pins          []string // full names
}

// act notes what a part does for an input of a module.
func (k *builder) act(p *Part, in *bench.Input, does Does, pins ...string) {
	inputs := k.b.Modules[p.Module].Show.Inputs
	for i := range inputs {
		if &inputs[i] == in {
			k.out.Acts = append(k.out.Acts, Act{p.Module, i, does, pins})
		}
	}
}
