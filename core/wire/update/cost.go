package update

import "cmp"

// Cost is a time in any unit, and a number of operations; the time counts first.
type Cost struct {
	Time int64
	Ops  int
}

func (c Cost) plus(d Cost) Cost { return Cost{c.Time + d.Time, c.Ops + d.Ops} }

func (c Cost) times(n int) Cost { return Cost{c.Time * int64(n), c.Ops * n} }

func (c Cost) minus(d Cost) Cost { return Cost{c.Time - d.Time, c.Ops - d.Ops} }

// Compare orders costs, the least first.
func (c Cost) Compare(d Cost) int {
	return cmp.Or(cmp.Compare(c.Time, d.Time), cmp.Compare(c.Ops, d.Ops))
}

// Class is what an operation is to the wire and to what follows it.
type Class uint8

// The classes.
const (
	Instruction Class = iota // RS low, a short execution
	Data                     // RS high
	Long                     // clear and home
	Fresh                    // none yet: the levels of RS and R/W are not known
)

func (k OperationKind) class() Class {
	switch k {
	case Write, Load:
		return Data
	case Clear, Home:
		return Long
	}
	return Instruction
}

// Costs is what operations take on a link, in any unit of time.
type Costs struct {
	// After is the time from the last fall of E before an operation to its own last
	// fall of E, waits included; for the first, from its beginning. It is by the class
	// of the operation before, and whether this one is an instruction (0) or data (1).
	After [4][2]int64
	// Busy is the time from the last fall of E until the controller is free, by class.
	Busy [4]int64
}

// step is what an operation of one class costs after one of another.
func (c *Costs) step(before, class Class) Cost {
	if class == Data {
		return Cost{c.After[before][1], 1}
	}
	return Cost{c.After[before][0], 1}
}

// Bridges reports whether so many places between two that must change are better
// written again than passed over by an address.
func (c *Costs) Bridges(gap int) bool {
	write := c.step(Data, Data)
	leave := c.step(Data, Instruction).plus(c.step(Instruction, Data)).minus(write)
	return write.times(gap).Compare(leave) <= 0
}

// Reach is how many places between the address counter and one that must change are
// better written again than passed over by an address, after an operation of a class.
func (c *Costs) Reach(before Class) int {
	write := c.step(Data, Data)
	saved := c.step(before, Instruction).plus(c.step(Instruction, Data)).minus(c.step(before, Data))
	n := 0
	for write.times(n+1).Compare(saved) <= 0 && n < 80 {
		n++
	}
	return n
}
