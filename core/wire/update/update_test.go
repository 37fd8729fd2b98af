package update

import (
	"container/heap"
	"fmt"
	"math/rand/v2"
	"testing"
)

// toy is one or two controllers with a memory of a few characters, as the
// exhaustive search knows them: everything that operations change.
type toy struct {
	cells  [2][6]int8
	at     [2]int8 // Unknown: in CGRAM, or anywhere
	down   [2]bool
	keeps  [2]bool // the direction in which it must be left: as it was found, or as a clear leaves it
	offset [2]int8
	last   Class
	loaded bool
	set    [2]bool // the display control was sent
}

// trial is a case: from a start to what is wanted.
type trial struct {
	m       Memory
	states  []State
	goals   []Goal
	costs   Costs
	allowed Allowed
	loads   Loads // of the first goal
}

// move is one operation of the exhaustive search. It has more than plans have:
// cursor moves and entry mode, and bytes that nobody wants.
type move struct {
	name  string
	class Class
	cost  func(c *Costs, last Class) Cost // nil: a step of the class
	do    func(s *toy) bool               // false: it cannot be done now
}

func wrap(at, by int8, n int) int8 { return (at + by + int8(n)) % int8(n) }

// moves lists all that can be done in a trial.
func (tr *trial) moves() (out []move) {
	m, n := tr.m, tr.m.Size()
	clear := func(s *toy, i int) {
		for k := range n {
			s.cells[i][k] = ' '
		}
		s.at[i], s.down[i], s.keeps[i], s.offset[i] = 0, false, false, 0
	}
	for i := range tr.states {
		for _, code := range []int8{' ', 'a', 'b'} {
			out = append(out, move{"write " + string(rune(code)), Data, nil, func(s *toy) bool {
				if s.at[i] < 0 || tr.loads.Codes[code] && !s.loaded && s.cells[i][s.at[i]] != code {
					return false
				}
				s.cells[i][s.at[i]] = code
				by := int8(1)
				if s.down[i] {
					by = -1
				}
				s.at[i] = wrap(s.at[i], by, n)
				return true
			}})
		}
		if tr.goals[i].Set != 0 {
			out = append(out, move{"set", Instruction, nil, func(s *toy) bool { s.set[i] = true; return true }})
		}
		for index := range n {
			out = append(out, move{fmt.Sprint("address ", index), Instruction, nil, func(s *toy) bool { s.at[i] = int8(index); return true }})
		}
		for _, by := range []int8{-1, 1} {
			out = append(out,
				move{"cursor", Instruction, nil, func(s *toy) bool {
					if s.at[i] < 0 {
						return false
					}
					s.at[i] = wrap(s.at[i], by, n)
					return true
				}},
				move{"entry", Instruction, nil, func(s *toy) bool { s.down[i] = by < 0; return true }})
			if tr.allowed.Shift {
				out = append(out, move{"shift", Instruction, nil, func(s *toy) bool { s.offset[i] = wrap(s.offset[i], by, m.Columns); return true }})
			}
		}
		if tr.allowed.Clear {
			out = append(out, move{"clear", Long, nil, func(s *toy) bool { clear(s, i); return true }})
		}
		if tr.allowed.Shift || tr.states[i].Offset == 0 && len(tr.states) == 1 {
			out = append(out, move{"home", Long, nil, func(s *toy) bool { s.at[i], s.offset[i] = 0, 0; return true }})
		}
	}
	if len(tr.states) == 2 && tr.allowed.Clear {
		out = append(out, move{"clear both", Long, nil, func(s *toy) bool { clear(s, 0); clear(s, 1); return true }})
	}
	if tr.loads.Runs > 0 {
		cost := func(c *Costs, last Class) Cost {
			sum := c.step(last, Instruction).plus(c.step(Instruction, Data))
			sum = sum.plus(c.step(Data, Instruction).plus(c.step(Instruction, Data)).times(tr.loads.Runs - 1))
			return sum.plus(c.step(Data, Data).times(tr.loads.Bytes - tr.loads.Runs))
		}
		out = append(out, move{"load", Data, cost, func(s *toy) bool { s.at, s.loaded = [2]int8{-1, -1}, true; return true }})
	}
	return out
}

// start is the trial's beginning.
func (tr *trial) start() (s toy) {
	for i, one := range tr.states {
		for k, code := range one.Cells {
			s.cells[i][k] = int8(code)
		}
		s.at[i], s.down[i], s.keeps[i], s.offset[i], s.last = int8(one.At), one.Decrement, one.Decrement, int8(one.Offset), one.Before
	}
	s.loaded = tr.loads.Runs == 0
	return s
}

// done reports whether the glass shows what is wanted, and the glyphs are there.
func (tr *trial) done(s *toy) bool {
	for k, g := range tr.goals {
		for i, w := range g.Cells {
			row, col := i/tr.m.Columns, i%tr.m.Columns
			if w != Any && int(s.cells[k][row*tr.m.Columns+(col+int(s.offset[k]))%tr.m.Columns]) != w {
				return false
			}
		}
		if c := g.Cursor; c != Unknown && int(s.at[k]) != c/tr.m.Columns*tr.m.Columns+(c%tr.m.Columns+int(s.offset[k]))%tr.m.Columns || g.Set != 0 && !s.set[k] {
			return false
		}
	}
	return s.loaded && s.down == s.keeps
}

type entry struct {
	state toy
	cost  Cost
}

type queue []entry

func (q queue) Len() int           { return len(q) }
func (q queue) Less(i, j int) bool { return q[i].cost.Compare(q[j].cost) < 0 }
func (q queue) Swap(i, j int)      { q[i], q[j] = q[j], q[i] }
func (q *queue) Push(v any)        { *q = append(*q, v.(entry)) }
func (q *queue) Pop() any {
	old := *q
	v := old[len(old)-1]
	*q = old[:len(old)-1]
	return v
}

// cheapest is the least cost by going through everything that can be done
// (Dijkstra, Numerische Mathematik 1, 1959). Costs are counted from when the
// controller is free to when it is free again, so that none is negative.
func (tr *trial) cheapest() Cost {
	list := tr.moves()
	done := map[toy]bool{}
	c := &tr.costs
	q := &queue{{tr.start(), Cost{}}}
	for q.Len() > 0 {
		e := heap.Pop(q).(entry)
		if done[e.state] {
			continue
		}
		done[e.state] = true
		if tr.done(&e.state) {
			return e.cost
		}
		for _, mv := range list {
			next := e.state
			if !mv.do(&next) {
				continue
			}
			cost := c.step(e.state.last, mv.class)
			if mv.cost != nil {
				cost = mv.cost(c, e.state.last)
			}
			cost.Time += c.Busy[mv.class] - c.Busy[e.state.last]
			if next.last = mv.class; !done[next] {
				heap.Push(q, entry{next, e.cost.plus(cost)})
			}
		}
	}
	return Cost{Time: -1}
}

// play carries out a plan on the toy, and sums its cost up on its own.
func (tr *trial) play(t *testing.T, ops []Op) (toy, Cost) {
	t.Helper()
	s, c := tr.start(), &tr.costs
	var sum Cost
	for _, o := range ops {
		class := o.Kind.class()
		cost := c.step(s.last, class)
		if o.Kind == Load {
			for _, mv := range tr.moves() {
				if mv.name == "load" {
					cost = mv.cost(c, s.last)
				}
			}
			s.at, s.loaded = [2]int8{-1, -1}, true
		}
		sum = sum.plus(cost)
		sum.Time += c.Busy[class] - c.Busy[s.last]
		s.last = class
		for i := range tr.states {
			if o.Which != Both && int(o.Which) != i {
				continue
			}
			switch n := tr.m.Size(); o.Kind {
			case Write:
				if int(s.at[i]) != o.Index || tr.loads.Codes[o.Code] && !s.loaded && s.cells[i][s.at[i]] != int8(o.Code) {
					t.Fatalf("%q for %d goes to %d: %+v", o.Code, o.Index, s.at[i], ops)
				}
				s.cells[i][s.at[i]] = int8(o.Code)
				by := int8(1)
				if s.down[i] {
					by = -1
				}
				s.at[i] = wrap(s.at[i], by, n)
			case Set:
				s.set[i] = true
			case Address:
				s.at[i] = int8(o.Index)
			case Clear:
				for k := range n {
					s.cells[i][k] = ' '
				}
				s.at[i], s.down[i], s.keeps[i], s.offset[i] = 0, false, false, 0
			case Home:
				s.at[i], s.offset[i] = 0, 0
			case Left:
				s.offset[i] = wrap(s.offset[i], 1, tr.m.Columns)
			case Right:
				s.offset[i] = wrap(s.offset[i], -1, tr.m.Columns)
			}
		}
	}
	return s, sum
}

// newTrial makes up a trial for some controllers.
func newTrial(rng *rand.Rand, controllers int, m Memory) *trial {
	tr := &trial{m: m, allowed: Allowed{Clear: rng.IntN(2) == 0, Shift: rng.IntN(2) == 0}}
	codes := []int{' ', 'a', 'b'}
	before := []Class{Instruction, Data, Long, Fresh}[rng.IntN(4)]
	for range controllers {
		s := State{At: rng.IntN(m.Size()+1) - 1, Decrement: rng.IntN(4) == 0, Before: before}
		if controllers == 1 {
			s.Offset = rng.IntN(m.Columns)
		}
		want := make(Want, m.Size())
		for i := range m.Size() {
			s.Cells = append(s.Cells, codes[rng.IntN(3)])
			want[i] = codes[rng.IntN(3)]
			if rng.IntN(3) == 0 {
				want[i] = s.Cells[i]
			}
			if m.Columns > 3 && i%m.Columns == m.Columns-1 {
				want[i] = Any // a column that the glass does not show
			}
		}
		g := Goal{Cells: want, Cursor: Unknown}
		if rng.IntN(4) == 0 {
			g.Cursor = rng.IntN(m.Size())
		}
		if rng.IntN(4) == 0 {
			g.Set = 0x0E
		}
		tr.states, tr.goals = append(tr.states, s), append(tr.goals, g)
	}
	if rng.IntN(3) == 0 {
		tr.loads = Loads{Runs: 1 + rng.IntN(2), Bytes: 2 + rng.IntN(4)}
		tr.loads.Codes['b'] = true
		tr.goals[0].Loads = tr.loads
	}
	if controllers == 2 {
		tr.allowed.Shift = false
	}
	tr.costs = newCosts(rng)
	return tr
}

// newCosts makes up what a link costs. A data byte costs no less after an
// instruction than after another, and an instruction no less after a data byte: a
// change of RS costs, if anything.
func newCosts(rng *rand.Rand) (c Costs) {
	var own [4][2]int64
	own[Data][1], own[Instruction][0] = 3+rng.Int64N(6), 3+rng.Int64N(6)
	own[Instruction][1], own[Data][0] = own[Data][1]+rng.Int64N(4), own[Instruction][0]+rng.Int64N(4)
	early, extra := rng.Int64N(3), rng.Int64N(5) // words that go out while a long one is busy; for levels that are not known
	for class := range 2 {
		own[Long][class] = own[class][class] - early
		own[Fresh][class] = own[class][class] + extra
	}
	c.Busy = [4]int64{rng.Int64N(3), rng.Int64N(3), 10 + rng.Int64N(25), 0} // clear and home take longer than an address with the changes of RS round it
	for before := range own {
		for class := range own[before] {
			c.After[before][class] = own[before][class] + c.Busy[before] - c.Busy[class]
		}
	}
	return c
}

// hold plans the trial, and holds the plan against going through everything.
func (tr *trial) hold(t *testing.T) []Op {
	t.Helper()
	ops, cost := New(tr.m, tr.states[0], tr.goals[0], tr.costs, tr.allowed)
	end, sum := tr.play(t, ops)
	if !tr.done(&end) || sum != cost {
		t.Fatalf("%+v: %+v shows %+v for %+v, said %+v", tr, ops, end, sum, cost)
	}
	if least := tr.cheapest(); cost != least {
		t.Fatalf("%+v: %+v costs %+v, the least is %+v", tr, ops, cost, least)
	}
	return ops
}

// HoldRandom does so with a trial made up for a link's own costs.
func HoldRandom(t *testing.T, rng *rand.Rand, c *Costs) {
	t.Helper()
	tr := newTrial(rng, 1, []Memory{{1, 4}, {2, 2}, {1, 5}}[rng.IntN(3)])
	tr.costs = *c
	tr.hold(t)
}

// TestCheapest holds plans on small memories against going through everything
// that a controller can be told, cursor moves, entry mode and bytes that nobody
// wants included, for random glasses, places of the address counter, directions,
// shifts, glyphs to load, places for a cursor and costs: the cost is the same to the last unit, the
// glass shows what was wanted, and no cell shows a glyph before it is there.
func TestCheapest(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 1))
	kinds := map[OperationKind]int{}
	continued, between := 0, 0
	for n := range 700 {
		m := []Memory{{1, 4}, {2, 2}, {1, 5}, {2, 3}}[rng.IntN(4)]
		if m.Size() == 6 && n%8 != 0 {
			m = Memory{1, 4}
		}
		ops := newTrial(rng, 1, m).hold(t)
		for i, o := range ops {
			kinds[o.Kind]++
			if o.Kind == Load && i > 0 {
				between++
			}
		}
		if len(ops) > 0 && ops[0].Kind == Write {
			continued++
		}
	}
	for _, k := range []OperationKind{Write, Address, Clear, Home, Left, Right, Load} {
		if kinds[k] == 0 {
			t.Errorf("kind %d was planned %d times", k, kinds[k])
		}
	}
	if continued < 20 || between < 5 {
		t.Errorf("%d plans began where the counter stood, %d loaded later", continued, between)
	}
}

// TestCheapestTwo does the same for two controllers, where operations go to one of
// them or clear both. Other operations for both are something that plans have beyond
// the search: they may be cheaper where they are used.
func TestCheapestTwo(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 2))
	clears := map[Which]int{}
	shared := 0
	for range 200 {
		m := []Memory{{1, 3}, {1, 2}, {2, 1}}[rng.IntN(3)]
		tr := newTrial(rng, 2, m)
		tr.loads = Loads{}
		sooner := tr.costs.Busy[Long] - 2 - rng.Int64N(6) // so that a clear pays on glasses as small as these
		tr.costs.Busy[Long] -= sooner
		for class := range 2 {
			tr.costs.After[Long][class] -= sooner
		}
		for i := range tr.goals { // cursors are put in their places after the rest, which is not proved
			tr.goals[i].Cursor, tr.goals[i].Set, tr.goals[i].Loads = Unknown, 0, Loads{}
		}
		ops, cost := NewTwo(m, [2]State(tr.states), [2]Goal(tr.goals), tr.costs, tr.allowed)
		end, sum := tr.play(t, ops)
		if !tr.done(&end) || sum != cost {
			t.Fatalf("%+v: %+v shows %+v for %+v, said %+v", tr, ops, end, sum, cost)
		}
		both := false
		for _, o := range ops {
			both = both || o.Kind != Clear && o.Which == Both
			if o.Kind == Clear {
				clears[o.Which]++
			}
		}
		if least := tr.cheapest(); cost != least && !(both && cost.Compare(least) < 0) {
			t.Fatalf("%+v: %+v costs %+v, the least is %+v", tr, ops, cost, least)
		}
		if both {
			shared++
		}
	}
	if clears[First]+clears[Second] == 0 || clears[Both] == 0 || shared < 5 {
		t.Errorf("cleared %v, an address for both %d times", clears, shared)
	}
}
