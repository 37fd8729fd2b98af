// Package update finds the cheapest way from what a controller holds to what its
// glass is to show: the operations that take least time until the controller is
// free again, and of equal ones the fewest.
//
// It stands beside sequence in the flow screen → cells → operations → wire
// traffic → rig → glass: it knows nothing of links, which give it their costs,
// and gives operations in their order.
package update

import "slices"

// Memory is the DDRAM of a controller, by index: line after line. The address
// counter goes from the end of the last line to the start of the first, and back.
type Memory struct{ Lines, Columns int }

// Size is how many characters the memory holds.
func (m Memory) Size() int { return m.Lines * m.Columns }

// State is what a controller is like before an update.
type State struct {
	Cells     []int // what DDRAM holds, by index; Unknown where that is not known
	At        int   // index at which the address counter stands; Unknown also where it points into CGRAM
	Decrement bool  // the address counter goes down after a write
	Offset    int   // display shift: columns by which the glass has moved to the left
	Before    Class // of the last operation
}

// Unknown stands for a code, or a place, that is not known.
const Unknown = -1

// Any stands for a code that does not matter: the place is not on the glass.
const Any = -1

// OperationKind says what an operation does.
type OperationKind uint8

// The kinds.
const (
	Write   OperationKind = iota // Code at the address counter, which then moves
	Address                      // the address counter to Index
	Clear                        // spaces everywhere, the counter to 0, upwards, unshifted
	Home                         // the counter to 0, unshifted
	Left                         // the glass one column to the left: what it shows moves so
	Right                        // the glass one column to the right
	Set                          // Code is a display control: the cursor's looks
	Load                         // not one operation: all glyphs of Loads, after which the counter is in CGRAM
)

// Which says which controllers an operation is for.
type Which uint8

// The controllers.
const (
	First Which = iota
	Second
	Both
)

// Op is one operation.
type Op struct {
	Kind  OperationKind
	Which Which
	Index int // Address: where to; Write: where the byte goes
	Code  byte
}

// Goal is what a controller is to be like after an update.
type Goal struct {
	Cells  Want
	Cursor int   // index at which the address counter is to stand; Unknown for anywhere
	Set    byte  // the display control to be sent on the way; 0 for none
	Loads  Loads // glyphs to be loaded on the way
}

// Allowed says what a plan may use beside addresses and writes.
type Allowed struct {
	Clear bool // the whole memory may be cleared, what the glass does not show included
	Shift bool // the glass may be moved over the memory
}

// Want is what the glass is to show, by the index of the place at which each cell
// stands while the glass is not shifted; Any where there is no cell.
type Want []int

// Loads are glyphs that go to CGRAM within the update: runs of slots that lie side
// by side, each with its address, and bytes in all. Cells with the codes that show
// them are written after they are loaded. The zero value loads nothing.
type Loads struct {
	Runs, Bytes int
	Codes       [256]bool
	set         byte // the display control that is sent before them
}

// New returns the cheapest operations after which one controller is what it is to
// be like, and what they cost.
//
// Runs of cells are written each from an address on. Between two cells that must
// change, the cells between are written again, or an address is set, whichever
// costs less: these choices do not depend on each other, so that they can be made
// one by one. One gap must stay open, where it all begins: at the address counter,
// or at an address. This is done for the memory as it is, after a clear, and after
// home, with the glass at each shift; the least of all wins. Glyphs are loaded
// first, after a clear, or between the cells that are written where the address
// counter stands and the others; a display control goes where the glass is moved.
// Where the address counter is to stand in a place of its own, the cells before
// that place are written last, or its address is set at the end.
func New(m Memory, s State, goal Goal, c Costs, a Allowed) ([]Op, Cost) {
	found := search{memory: m, goal: goal, allowed: a}
	start := plan{costs: &c, last: s.Before, before: s.Before}
	try := func(loads Loads) {
		found.begin(start, s, loads)
		if loads.Runs > 0 {
			loaded, now := start, s
			loaded.ops = slices.Clip(start.ops)
			loaded.load(loads)
			now.At, now.Before = Unknown, Data
			found.begin(loaded, now, Loads{})
		}
	}
	try(goal.Loads)
	if goal.Set != 0 { // it may go out where the glass is moved, with the glyphs, or before all else
		found.goal.Set = 0
		with := goal.Loads
		if with.set = goal.Set; with.Runs > 0 {
			try(with)
		}
		start.add(Op{Kind: Set, Code: goal.Set})
		s.Before = Instruction
		try(goal.Loads)
	}
	return found.best.ops, found.best.total()
}

// search keeps the best plan that was found.
type search struct {
	memory  Memory
	goal    Goal
	allowed Allowed
	best    *plan
}

// begin tries what may come first: nothing, a clear, or home.
func (s *search) begin(p plan, from State, loads Loads) {
	s.try(p, from, loads)
	if s.allowed.Clear {
		cleared := p
		cleared.ops = slices.Clip(p.ops)
		cleared.add(Op{Kind: Clear})
		s.try(cleared, State{Cells: slices.Repeat([]int{' '}, s.memory.Size()), Before: Long}, loads)
	}
	if s.allowed.Shift || from.Offset == 0 {
		home := p
		home.ops = slices.Clip(p.ops)
		home.add(Op{Kind: Home})
		from.At, from.Offset, from.Before = 0, 0, Long
		s.try(home, from, loads)
	}
}

// try goes on with the glass at every shift that is allowed.
func (s *search) try(p plan, from State, loads Loads) {
	for offset := range s.memory.Columns {
		if offset != from.Offset && !s.allowed.Shift {
			continue
		}
		q := p
		q.ops = slices.Clip(p.ops)
		q.route(s.memory, from, &s.goal, offset, loads)
		if s.best == nil || q.total().Compare(s.best.total()) < 0 {
			s.best = &q
		}
	}
}

// plan is operations with their cost.
type plan struct {
	ops    []Op
	costs  *Costs
	cost   Cost
	before Class // of the operation before the plan
	last   Class
}

func (p *plan) add(ops ...Op) {
	for _, o := range ops {
		class := o.Kind.class()
		p.cost = p.cost.plus(p.costs.step(p.last, class))
		p.last = class
	}
	p.ops = append(p.ops, ops...)
}

// load appends all glyphs as one.
func (p *plan) load(l Loads) {
	if l.set != 0 {
		p.add(Op{Kind: Set, Code: l.set})
	}
	p.ops = append(p.ops, Op{Kind: Load})
	for range l.Runs {
		p.cost, p.last = p.cost.plus(p.costs.step(p.last, Instruction)), Instruction
		p.cost, p.last = p.cost.plus(p.costs.step(p.last, Data)), Data
	}
	p.cost = p.cost.plus(p.costs.step(Data, Data).times(l.Bytes - l.Runs))
}

// stands returns the index at which the address counter stands after the plan, for
// one that stood at another before; it goes up or down after a write.
func (p *plan) stands(before, size int, down bool) int {
	for _, o := range slices.Backward(p.ops) {
		switch o.Kind {
		case Write:
			if down {
				return (o.Index + size - 1) % size
			}
			return (o.Index + 1) % size
		case Address:
			return o.Index
		case Clear, Home:
			return 0
		case Load:
			return Unknown
		}
	}
	return before
}

// total is what the plan costs until the controller is free again, from when it
// was free before.
func (p *plan) total() Cost {
	c := p.cost
	c.Time += p.costs.Busy[p.last] - p.costs.Busy[p.before]
	return c
}

// shiftsTo lists the moves of the glass from one offset to another, the shorter
// way round.
func shiftsTo(from, to, columns int) []Op {
	left := (to - from + columns) % columns
	kind, n := Left, left
	if right := columns - left; right < left {
		kind, n = Right, right
	}
	return slices.Repeat([]Op{{Kind: kind}}, n)
}
