package update

import (
	"container/heap"
	"fmt"
	"math/rand/v2"
	"testing"
)

// toy is a controller with a memory of a few characters, as the exhaustive search
// knows it: everything that operations change.
type toy struct {
	cells  [6]int8
	at     int8
	down   bool
	offset int8
	data   bool
}

// move is one operation of the exhaustive search. It has more than plans have:
// cursor moves and entry mode, and bytes that nobody wants.
type move struct {
	name string
	do   func(m Memory, s toy) toy
	data bool // a data byte
	long bool
}

func moves(m Memory, a Allowed) []move {
	wrap := func(at, by int8, n int) int8 { return (at + by + int8(n)) % int8(n) }
	up := func(s toy) int8 {
		if s.down {
			return -1
		}
		return 1
	}
	var out []move
	for _, code := range []int8{' ', 'a', 'b'} {
		out = append(out, move{"write " + string(rune(code)), func(m Memory, s toy) toy {
			s.cells[s.at] = code
			s.at = wrap(s.at, up(s), m.Size())
			return s
		}, true, false})
	}
	for index := range m.Size() {
		out = append(out, move{fmt.Sprint("address ", index), func(_ Memory, s toy) toy { s.at = int8(index); return s }, false, false})
	}
	for _, by := range []int8{-1, 1} {
		out = append(out,
			move{"cursor", func(m Memory, s toy) toy { s.at = wrap(s.at, by, m.Size()); return s }, false, false},
			move{"entry", func(_ Memory, s toy) toy { s.down = by < 0; return s }, false, false})
		if a.Shift {
			out = append(out, move{"shift", func(m Memory, s toy) toy { s.offset = wrap(s.offset, by, m.Columns); return s }, false, false})
		}
	}
	if a.Clear {
		out = append(out, move{"clear", func(m Memory, s toy) toy {
			for i := range m.Size() {
				s.cells[i] = ' '
			}
			s.at, s.down, s.offset = 0, false, 0
			return s
		}, false, true})
	}
	if a.Shift {
		out = append(out, move{"home", func(_ Memory, s toy) toy { s.at, s.offset = 0, 0; return s }, false, true})
	}
	return out
}

// shows reports whether the glass shows what is wanted.
func (s *toy) shows(m Memory, want Want) bool {
	for i, w := range want {
		row, col := i/m.Columns, i%m.Columns
		if w != Any && int(s.cells[row*m.Columns+(col+int(s.offset))%m.Columns]) != w {
			return false
		}
	}
	return true
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
// (Dijkstra, Numerische Mathematik 1, 1959).
func cheapest(m Memory, start toy, known bool, want Want, c Costs, a Allowed) Cost {
	list := moves(m, a)
	done := map[toy]bool{}
	q := &queue{}
	if known {
		heap.Push(q, entry{start, Cost{}})
	} else { // the counter may be anywhere, or in CGRAM: it must be set first
		for index := range m.Size() {
			s := start
			s.at, s.data = int8(index), false
			heap.Push(q, entry{s, c.instruction(start.data)})
		}
		for _, mv := range list {
			if mv.long {
				s := mv.do(m, start)
				s.data = false
				heap.Push(q, entry{s, c.instruction(start.data).plus(Cost{Time: c.Long})})
			}
		}
		if start.shows(m, want) {
			return Cost{}
		}
		if a.Shift { // the glass can be moved without it
			for by := range m.Columns {
				s := start
				s.offset = int8(by)
				if n := len(shiftsTo(int(start.offset), by, m.Columns)); n > 0 && s.shows(m, want) {
					var p plan
					p.shift(shiftsTo(int(start.offset), by, m.Columns), start.data, c)
					s.data, s.at = false, 0
					heap.Push(q, entry{s, p.cost})
				}
			}
		}
	}
	for q.Len() > 0 {
		e := heap.Pop(q).(entry)
		if done[e.state] {
			continue
		}
		done[e.state] = true
		if e.state.shows(m, want) {
			return e.cost
		}
		for _, mv := range list {
			next := mv.do(m, e.state)
			cost := c.instruction(e.state.data)
			if mv.data {
				cost = c.data(e.state.data)
			}
			if mv.long {
				cost.Time += c.Long
			}
			next.data = mv.data
			if !done[next] {
				heap.Push(q, entry{next, e.cost.plus(cost)})
			}
		}
	}
	return Cost{Time: -1}
}

// play carries out a plan on the toy, and sums its cost up on its own.
func play(t *testing.T, m Memory, s toy, ops []Op, c Costs) (toy, Cost) {
	t.Helper()
	var sum Cost
	for _, o := range ops {
		if o.Kind == Write {
			if int(s.at) != o.Index {
				t.Fatalf("a byte for %d goes to %d: %+v", o.Index, s.at, ops)
			}
			sum = sum.plus(c.data(s.data))
			s.cells[s.at] = int8(o.Code)
			by := 1
			if s.down {
				by = -1
			}
			s.at = int8((int(s.at) + by + m.Size()) % m.Size())
			s.data = true
			continue
		}
		sum = sum.plus(c.instruction(s.data))
		s.data = false
		switch o.Kind {
		case Address:
			s.at = int8(o.Index)
		case Clear:
			sum.Time += c.Long
			for i := range m.Size() {
				s.cells[i] = ' '
			}
			s.at, s.down, s.offset = 0, false, 0
		case Home:
			sum.Time += c.Long
			s.at, s.offset = 0, 0
		case Left:
			s.offset = int8((int(s.offset) + 1) % m.Columns)
		case Right:
			s.offset = int8((int(s.offset) + m.Columns - 1) % m.Columns)
		}
	}
	return s, sum
}

// TestCheapest holds plans on small memories against going through everything
// that a controller can be told, cursor moves, entry mode and bytes that nobody
// wants included, for random glasses, places of the address counter, directions,
// shifts and costs: the cost is the same to the last unit, and the glass shows
// what was wanted.
func TestCheapest(t *testing.T) {
	rng := rand.New(rand.NewPCG(10, 1))
	kinds := map[Kind]int{}
	continued := 0
	for n := range 1500 {
		m := []Memory{{1, 4}, {2, 2}, {1, 5}, {2, 3}}[rng.IntN(4)]
		if m.Size() == 6 && n%8 != 0 {
			m = Memory{1, 4}
		}
		codes := []int{' ', 'a', 'b'}
		s := State{At: rng.IntN(m.Size()+1) - 1, Decrement: rng.IntN(4) == 0, Offset: rng.IntN(m.Columns), Data: rng.IntN(2) == 0}
		start := toy{at: int8(max(s.At, 0)), down: s.Decrement, offset: int8(s.Offset), data: s.Data}
		want := make(Want, m.Size())
		for i := range m.Size() {
			s.Cells = append(s.Cells, codes[rng.IntN(3)])
			start.cells[i] = int8(s.Cells[i])
			want[i] = codes[rng.IntN(3)]
			if rng.IntN(3) == 0 {
				want[i] = s.Cells[i]
			}
			if m.Columns > 3 && i%m.Columns == m.Columns-1 {
				want[i] = Any // a column that the glass does not show
			}
		}
		a := Allowed{Clear: rng.IntN(2) == 0, Shift: rng.IntN(2) == 0}
		// a data byte costs no less after an instruction than after another, and an
		// instruction no less after a data byte: a change of RS costs, if anything
		c := Costs{Data: [2]int64{0, 3 + rng.Int64N(6)}, Instruction: [2]int64{3 + rng.Int64N(6), 0}, Long: rng.Int64N(30)}
		c.Data[0], c.Instruction[1] = c.Data[1]+rng.Int64N(4), c.Instruction[0]+rng.Int64N(4)
		ops, cost := New(m, s, want, c, a)
		end, sum := play(t, m, start, ops, c)
		if !end.shows(m, want) || sum != cost {
			t.Fatalf("%+v, %+v, want %v: %+v shows %+v for %+v, said %+v", m, s, want, ops, end, sum, cost)
		}
		if least := cheapest(m, start, s.At != Unknown, want, c, a); cost != least {
			t.Fatalf("%+v, %+v, want %v, %+v, %+v: %+v costs %+v, the least is %+v", m, s, want, c, a, ops, cost, least)
		}
		for _, o := range ops {
			kinds[o.Kind]++
		}
		if len(ops) > 0 && ops[0].Kind == Write {
			continued++
		}
	}
	for _, k := range []Kind{Write, Address, Clear, Home, Left, Right} {
		if kinds[k] < 5 {
			t.Errorf("kind %d was planned %d times", k, kinds[k])
		}
	}
	if continued < 20 {
		t.Errorf("%d plans began where the counter stood", continued)
	}
}
