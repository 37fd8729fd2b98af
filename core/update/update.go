// Package update finds the cheapest way from what a controller holds to what its
// glass is to show: the operations that take least time, and of equal ones the
// fewest.
//
// It stands beside sequence in the flow screen → cells → operations → wire
// traffic → rig → glass: it knows nothing of links, which give it their costs,
// and gives operations in their order.
package update

import (
	"cmp"
	"slices"
)

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
	Data      bool  // the operation before was a data byte
}

// Unknown stands for a code, or a place, that is not known.
const Unknown = -1

// Any stands for a code that does not matter: the place is not on the glass.
const Any = -1

// Kind says what an operation does.
type Kind uint8

// The kinds.
const (
	Write   Kind = iota // Code at the address counter, which then moves
	Address             // the address counter to Index
	Clear               // spaces everywhere, the counter to 0, upwards, unshifted
	Home                // the counter to 0, unshifted
	Left                // the glass one column to the left: what it shows moves so
	Right               // the glass one column to the right
)

// Op is one operation.
type Op struct {
	Kind  Kind
	Index int // Address: where to; Write: where the byte goes
	Code  byte
}

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

// Costs is what operations take on a link, from the end of one to the end of the
// next, the waits between them included. They depend on what went before: the
// first of each pair is after an instruction, the second after a data byte.
type Costs struct {
	Data        [2]int64
	Instruction [2]int64
	Long        int64 // what clear and home take beyond another instruction, in what follows them
}

func after(data bool) int {
	if data {
		return 1
	}
	return 0
}

func (c Costs) data(afterData bool) Cost        { return Cost{c.Data[after(afterData)], 1} }
func (c Costs) instruction(afterData bool) Cost { return Cost{c.Instruction[after(afterData)], 1} }

// Allowed says what a plan may use beside addresses and writes.
type Allowed struct {
	Clear bool // the whole memory may be cleared, what the glass does not show included
	Shift bool // the glass may be moved over the memory
}

// Want is what the glass is to show, by the index of the place at which each cell
// stands while the glass is not shifted; Any where there is no cell.
type Want []int

// New returns the cheapest operations after which the glass shows what is wanted,
// and what they cost.
//
// Runs of cells are written each from an address on. Between two cells that must
// change, the cells between are written again, or an address is set, whichever
// costs less: these choices do not depend on each other, so that they can be made
// one by one. One gap must stay open, where it all begins: at the address counter,
// or at an address. This is done for the memory as it is, after a clear, and after
// home, with the glass at each shift; the least of all wins.
func New(m Memory, s State, want Want, c Costs, a Allowed) ([]Op, Cost) {
	var best *plan
	try := func(p plan, from State) {
		for offset := range m.Columns {
			if offset != from.Offset && !a.Shift {
				continue
			}
			q := p
			q.ops = slices.Clip(p.ops)
			q.route(m, from, want, c, offset)
			if best == nil || q.cost.Compare(best.cost) < 0 {
				best = &q
			}
		}
	}
	try(plan{}, s)
	long := c.instruction(s.Data).plus(Cost{Time: c.Long})
	if a.Clear {
		blank := State{Cells: make([]int, m.Size())}
		for i := range blank.Cells {
			blank.Cells[i] = ' '
		}
		try(plan{[]Op{{Kind: Clear}}, long}, blank)
	}
	if a.Shift || s.Offset == 0 {
		home := s
		home.At, home.Offset, home.Data = 0, 0, false
		try(plan{[]Op{{Kind: Home}}, long}, home)
	}
	return best.ops, best.cost
}

// plan is operations with their cost.
type plan struct {
	ops  []Op
	cost Cost
}

func (p *plan) add(o Op, c Cost) {
	p.ops = append(p.ops, o)
	p.cost = p.cost.plus(c)
}

// line is a memory whose address counter goes up, as a router sees it: for one
// that goes down, places are counted from the other end.
type line struct {
	size int
	down bool
}

func (l line) place(index int) int {
	if l.down {
		return l.size - 1 - index
	}
	return index
}

// route appends the cheapest shifts, addresses and writes that show what is wanted
// at an offset.
func (p *plan) route(m Memory, s State, want Want, c Costs, offset int) {
	l := line{m.Size(), s.Decrement}
	code := make([]int, l.size) // by place: what is to stand there; Any where nothing matters
	var targets []int           // places that must change
	for index := range l.size {
		row, col := index/m.Columns, index%m.Columns
		// the cell that shows this index while the glass has moved by offset
		w := want[row*m.Columns+(col-offset+m.Columns)%m.Columns]
		at := l.place(index)
		code[at] = w
		if w != Any && s.Cells[index] != w {
			targets = append(targets, at)
		} else if w == Any {
			code[at] = max(s.Cells[index], 0) // what is written in passing keeps what is there
		}
	}
	slices.Sort(targets)
	shifts := shiftsTo(s.Offset, offset, m.Columns)
	if len(targets) == 0 {
		p.shift(shifts, s.Data, c)
		return
	}
	r := router{line: l, costs: c, code: code, targets: targets, shifts: shifts, data: s.Data}
	if len(shifts) > 0 {
		r.home = append([]Op{{Kind: Home}}, shiftsTo(0, offset, m.Columns)...)
	}
	best := r.addressed()
	if s.At != Unknown {
		if q := r.continued(l.place(s.At)); q.cost.Compare(best.cost) < 0 {
			best = q
		}
	}
	p.ops = append(p.ops, best.ops...)
	p.cost = p.cost.plus(best.cost)
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

// shift appends moves of the glass, home among them, after a data byte or an instruction.
func (p *plan) shift(shifts []Op, data bool, c Costs) {
	for _, o := range shifts {
		cost := c.instruction(data)
		if o.Kind == Home {
			cost.Time += c.Long
		}
		p.add(o, cost)
		data = false
	}
}

// router finds the runs in which the targets are written.
type router struct {
	line
	costs   Costs
	code    []int
	targets []int // ascending
	shifts  []Op  // that move the glass to where it is wanted
	home    []Op  // the same by home; none where that is no way
	data    bool  // the operation before was a data byte
}

// run is places written one after the other, round the end of the memory.
type run struct{ from, n int }

// bridge reports whether so many places between two targets are better written
// again than passed over by an address.
func (r *router) bridge(gap int) bool {
	write := r.costs.data(true)
	leave := r.costs.instruction(true).plus(r.costs.data(false)).minus(write)
	return write.times(gap).Compare(leave) <= 0
}

// runs parts the targets into runs, beginning with the first of those that begin
// one in any case.
func (r *router) runs(begin ...int) (out []run) {
	first := begin[0]
	n := len(r.targets)
	for k := range n {
		at := r.targets[(first+k)%n]
		if k > 0 {
			last := &out[len(out)-1]
			gap := (at - last.from - last.n + 2*r.size) % r.size
			if r.bridge(gap) && !slices.Contains(begin, (first+k)%n) {
				last.n += gap + 1
				continue
			}
		}
		out = append(out, run{at, 1})
	}
	return out
}

// widest returns the target after the widest gap, the one before some target left
// out (-1 for none): a run that begins there by an address saves most.
func (r *router) widest(but int) (first int) {
	n, best := len(r.targets), -1
	for k := range n {
		gap := (r.targets[k] - r.targets[(k+n-1)%n] - 1 + r.size) % r.size
		if gap > best && k != but {
			best, first = gap, k
		}
	}
	return first
}

// addressed is the plan in which every run begins by an address.
func (r *router) addressed() plan {
	var p plan
	p.shift(r.shifts, r.data, r.costs)
	r.write(&p, r.runs(r.widest(-1)), r.data && len(r.shifts) == 0, false)
	return p
}

// continued is the cheapest plan that begins where the address counter stands:
// what lies between there and the next target is written again. The glass is moved
// at the start, before an address or at the end; home, which moves it as well,
// can also stand for an address.
func (r *router) continued(at int) plan {
	first := r.next(at)
	runs := r.runs(first)
	runs[0] = r.begun(runs[0], at)
	var best plan
	keep := func(p plan) {
		if best.ops == nil || p.cost.Compare(best.cost) < 0 {
			best = p
		}
	}
	var p plan
	p.shift(r.shifts, r.data, r.costs)
	r.write(&p, runs, r.data && len(r.shifts) == 0, true)
	keep(p)
	parted := runs
	if len(runs) == 1 && len(r.targets) > 1 { // a gap left open for the moves alone
		parted = r.runs(first, r.widest(first))
		parted[0] = r.begun(parted[0], at)
	}
	for _, moves := range [][]Op{r.shifts, r.home} {
		if len(moves) == 0 {
			continue
		}
		var end plan
		r.write(&end, runs, r.data, true)
		end.shift(moves, true, r.costs)
		keep(end)
		if len(parted) > 1 {
			var middle plan
			r.write(&middle, parted[:1], r.data, true)
			middle.shift(moves, true, r.costs)
			r.write(&middle, parted[1:], false, false)
			keep(middle)
		}
	}
	if zero := r.next(r.place(0)); len(r.home) > 0 && zero != first {
		runs := r.runs(first, zero)
		runs[0] = r.begun(runs[0], at)
		k := slices.IndexFunc(runs, func(one run) bool { return one.from == r.targets[zero] })
		runs[k] = r.begun(runs[k], r.place(0))
		var p plan
		r.write(&p, runs[:1], r.data, true)
		p.shift(r.home, true, r.costs)
		r.write(&p, runs[k:k+1], false, true)
		r.write(&p, slices.Concat(runs[1:k], runs[k+1:]), true, false)
		keep(p)
	}
	return best
}

// next returns the first target at a place or after it, round the end.
func (r *router) next(at int) int {
	return max(slices.IndexFunc(r.targets, func(t int) bool { return t >= at }), 0)
}

// begun is a run that begins at an earlier place.
func (r *router) begun(one run, at int) run {
	return run{at, one.n + (one.from-at+r.size)%r.size}
}

// write appends runs; with there the address counter stands at the first already.
func (r *router) write(p *plan, runs []run, data, there bool) {
	for k, one := range runs {
		if k > 0 || !there {
			p.add(Op{Kind: Address, Index: r.place(one.from)}, r.costs.instruction(data))
			data = false
		}
		for i := range one.n {
			at := (one.from + i) % r.size
			p.add(Op{Kind: Write, Index: r.place(at), Code: byte(r.code[at])}, r.costs.data(data))
			data = true
		}
	}
}
