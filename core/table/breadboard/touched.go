package breadboard

import "slatebell/core/table/touch"

// Circuit is the inputs of the bench on the conductors as they lie.
func (t *Table) Circuit() *touch.Circuit {
	return touch.New(t.Bench, &t.Net, func(pin string) (int, bool) {
		i, ok := t.pinIndex[pin]
		if !ok {
			return 0, false
		}
		return t.root(i), true
	})
}

// Lines is what a program reads of the inputs of a module as they lie, by their indexes. Those of which
// nothing is joined up yet are left out.
func (t *Table) Lines(module int) map[int]touch.Line {
	out := map[int]touch.Line{}
	c := t.Circuit()
	joined := func(pin string) bool { return len(t.on(t.nodeOf(pin))) > 1 }
	for i := range t.Bench.Modules[module].Show.Inputs {
		if !c.OnWires(module, i, joined) {
			continue
		}
		if l, ok := c.Line(module, i); ok {
			out[i] = l
		}
	}
	return out
}
