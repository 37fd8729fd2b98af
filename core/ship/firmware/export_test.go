package firmware

import (
	"slices"

	"slatebell/core/wire/sequence"
	"slatebell/core/wire/update"
)

// Took is what the steps from one on take, by the measured costs of the link, after an
// operation of a class.
func (p *Player) Took(from int, before update.Class) (c update.Cost) {
	for _, s := range p.Program().Steps[from:] {
		class := sequence.ClassOf(s.Op)
		data := 0
		if class == update.Data {
			data = 1
		}
		c.Time += p.module.costs.After[before][data]
		c.Ops++
		before = class
	}
	return c
}

// Last is the class of the last operation.
func (p *Player) Last() update.Class { return p.last }

// Cheapest is what the cheapest update of a place takes that writes its cells alone: they
// lie in a memory of their own, with so much beside them that an address is cheaper than to
// write on.
func (p *Player) Cheapest(place int, to []byte) update.Cost {
	m, pl := p.module, &p.module.Places[place]
	size := pl.Width + 60
	state := update.State{Cells: slices.Repeat([]int{update.Unknown}, size), At: update.Unknown, Before: p.Last()}
	goal := update.Goal{Cells: slices.Repeat(update.Want{update.Any}, size), Cursor: update.Unknown}
	for i, code := range to {
		state.Cells[i], goal.Cells[i] = int(p.shadow[pl.Offset+i]), int(code)
		if p.at[pl.Controller] == int(pl.Address[i]) {
			state.At = i
		}
	}
	ops, _ := update.New(update.Memory{Lines: 1, Columns: size}, state, goal, *m.costs, update.Allowed{})
	c, before := update.Cost{}, p.Last()
	for _, o := range ops {
		class, data := update.Instruction, 0
		if o.Kind == update.Write {
			class, data = update.Data, 1
		}
		c.Time += m.costs.After[before][data]
		c.Ops++
		before = class
	}
	return c
}
