package sequence

import (
	"time"

	"slatebell/core/part/hd44780"
	"slatebell/core/wire/link"
	"slatebell/core/wire/update"
)

// Costs measures what operations take on the builder's link with its waits, in
// nanoseconds, from when the controller is free to when it is free again.
func (b *Builder) Costs() *update.Costs {
	if b.costs != nil {
		return b.costs
	}
	samples := [...]hd44780.Operation{
		update.Instruction: hd44780.Command(hd44780.DDRAMBase),
		update.Data:        hd44780.Data(' '),
		update.Long:        hd44780.Command(hd44780.ClearByte),
	}
	// took is how long the last of some operations takes after those before it
	took := func(classes ...update.Class) int64 {
		scratch := b.scratch()
		var before time.Duration
		for i, class := range classes {
			if i > 0 {
				before = scratch.Done()
			}
			scratch.Do(Setting, samples[class], link.First, "")
		}
		return int64(scratch.Done() - before)
	}
	c := &update.Costs{}
	for class := range int64(2) {
		now := []update.Class{update.Instruction, update.Data}[class]
		for _, before := range []update.Class{update.Instruction, update.Data, update.Long} {
			c.After[before][class] = took(before, now)
		}
		c.After[update.Fresh][class] = took(now)
	}
	c.Busy[update.Long] = took(update.Instruction, update.Long) - c.After[update.Instruction][0]
	for class := range 2 {
		c.After[update.Long][class] += c.Busy[update.Long]
	}
	b.costs = c
	return c
}

// Measured takes costs that a builder for the same module, link and waits measured.
func (b *Builder) Measured(c *update.Costs) { b.costs = c }

// Done is when the controller is free and the wire is still.
func (b *Builder) Done() time.Duration { return max(b.readyAt, b.timeline.Now()) }

// scratch is a builder like this one that has sent nothing yet.
func (b *Builder) scratch() *Builder {
	coder := b.coder.Fresh()
	s := &Builder{module: b.module, opts: b.opts, coder: coder, timeline: link.NewTimeline(coder), shadows: b.shadows, last: update.Fresh}
	s.program.Coder = coder
	return s
}
