package update

import (
	"cmp"
	"slices"
)

// NewTwo returns the cheapest operations after which the glass of two controllers,
// each behind its own enable, shows what is wanted, and what they cost. The host
// waits for one operation before it sends the next, whichever controller it is for.
//
// Addresses and data are sent in turns, so that RS changes as seldom as pays: in
// each turn the addresses of both controllers go first, and then what each writes
// from there. For every number of turns each controller leaves open the widest of
// its gaps for which an address pays. Either controller, or both with one
// operation, may be cleared before. Cursors are put in their places at the end. The display shift is left as it is, since all
// that such a controller holds is on the glass; and but for a clear, for an address
// that is the same, and where both want the very same, no operation goes to both.
func NewTwo(m Memory, s [2]State, goal [2]Goal, c Costs, a Allowed) ([]Op, Cost) {
	loads, want := goal[0].Loads, [2]Want{goal[0].Cells, goal[1].Cells}
	begun := plan{costs: &c, last: s[0].Before, before: s[0].Before}
	if loads.Runs > 0 {
		begun.load(loads)
		s[0].At, s[1].At = Unknown, Unknown
	}
	var best *plan
	for clear := range 4 {
		if clear > 0 && !a.Clear {
			break
		}
		p, now := begun, s
		p.ops = slices.Clip(p.ops)
		for i := range now {
			if clear&(1<<i) != 0 {
				now[i] = State{Cells: slices.Repeat([]int{' '}, m.Size())}
			}
		}
		p.join(m, &now, &want, clear)
		p.settle(m, &s, &goal)
		if best == nil || p.total().Compare(best.total()) < 0 {
			best = &p
		}
	}
	if ops, cost, ok := alike(m, s, goal, c, a); ok && cost.Compare(best.total()) < 0 {
		return ops, cost
	}
	return best.ops, best.total()
}

// settle appends what each controller's cursor wants: its place, and its looks.
func (p *plan) settle(m Memory, s *[2]State, goal *[2]Goal) {
	for i := range goal {
		own := plan{}
		for _, o := range p.ops {
			if o.Which == Both || int(o.Which) == i || o.Kind == Load {
				own.ops = append(own.ops, o)
			}
		}
		if at := goal[i].Cursor; at != Unknown && own.stands(s[i].At, m.Size(), s[i].Decrement && !slices.ContainsFunc(own.ops, func(o Op) bool { return o.Kind == Clear })) != at {
			p.add(Op{Kind: Address, Which: Which(i), Index: at})
		}
		if goal[i].Set != 0 {
			p.add(Op{Kind: Set, Which: Which(i), Code: goal[i].Set})
		}
	}
}

// alike returns the cheapest operations that go to both controllers, where both are
// to show the same.
func alike(m Memory, s [2]State, goal [2]Goal, c Costs, a Allowed) ([]Op, Cost, bool) {
	if !slices.Equal(goal[0].Cells, goal[1].Cells) || goal[0].Cursor != Unknown || goal[1].Cursor != Unknown || goal[0].Set != goal[1].Set ||
		s[0].Decrement != s[1].Decrement || s[0].Offset != s[1].Offset {
		return nil, Cost{}, false
	}
	both := s[0]
	both.Cells = slices.Clone(both.Cells)
	for i, code := range s[1].Cells {
		if both.Cells[i] != code {
			both.Cells[i] = Unknown
		}
	}
	if s[0].At != s[1].At {
		both.At = Unknown
	}
	ops, cost := New(m, both, goal[0], c, Allowed{Clear: a.Clear})
	for i := range ops {
		ops[i].Which = Both
	}
	return ops, cost, true
}

// part is what one controller does in a joint plan.
type part struct {
	task
	which    Which
	cleared  bool
	at       int   // place at which the address counter stands; Unknown
	first    int   // target that the address counter comes to first
	narrower []int // targets after gaps, the widest gap first
}

// joint is two controllers to be written together.
type joint struct {
	parts [2]part
	clear int // bits: the controllers that are cleared
	costs *Costs
}

// turns says how a joint plan goes.
type turns struct {
	count     int     // of data
	data      bool    // it begins with data
	continues [2]bool // whether a controller begins where its address counter stands
}

// begins returns the turn in which a part may begin: data comes before any address
// and any clear.
func (q *part) begins(t *turns) int {
	if t.data && (q.cleared || !t.continues[q.which]) {
		return 1
	}
	return 0
}

// join appends the cheapest turns of addresses and data for two controllers, with
// a clear among the first instructions.
func (p *plan) join(m Memory, s *[2]State, want *[2]Want, clear int) {
	j := joint{clear: clear, costs: p.costs}
	most := 0
	for i := range j.parts {
		t := newTask(m, &s[i], want[i], s[i].Offset)
		q := part{task: t, which: Which(i), at: Unknown, cleared: clear&(1<<i) != 0}
		if s[i].At != Unknown && len(q.targets) > 0 {
			q.at = q.place(s[i].At)
			q.first = q.next(q.at)
		}
		for k := range q.targets {
			q.narrower = append(q.narrower, k)
		}
		slices.SortStableFunc(q.narrower, func(a, b int) int { return cmp.Compare(q.gap(b), q.gap(a)) })
		if len(q.targets) > 0 {
			begin, _ := q.opened(p.costs, len(q.targets), false)
			most = max(most, len(begin))
		}
		j.parts[i] = q
	}
	if most == 0 {
		if clear > 0 {
			p.add(j.clearing())
		}
		return
	}
	var best turns
	var least Cost
	found := false
	for mask := range 4 {
		for _, data := range []bool{false, true} {
			t := turns{data: data, continues: [2]bool{mask&1 != 0, mask&2 != 0}}
			for t.count = 1; t.count <= most+1; t.count++ {
				if c, ok := j.cost(p.last, &t); ok && (!found || c.Compare(least) < 0) {
					best, least, found = t, c, true
				}
			}
		}
	}
	j.take(p, &best)
}

// clearing is the operation that clears.
func (j *joint) clearing() Op { return Op{Kind: Clear, Which: Which(j.clear - 1)} }

// opened returns the targets before which a part leaves its gaps open, and how
// many places it writes, with so many runs at most.
func (q *part) opened(c *Costs, runs int, continues bool) (begin []int, writes int) {
	forced := q.narrower[0]
	if continues {
		forced = q.first
	}
	begin = append(begin, forced)
	writes = q.size - q.gap(forced)
	if continues {
		writes += (q.targets[forced] - q.at + q.size) % q.size
	}
	for _, k := range q.narrower {
		g := q.gap(k)
		if len(begin) == runs || c.step(Data, Data).times(g).Compare(c.step(Instruction, Instruction)) <= 0 {
			break
		}
		if k != forced {
			begin = append(begin, k)
			writes -= g
		}
	}
	return begin, writes
}

// cost returns what some turns cost until the controllers are free, after an
// operation of a class; false where they cannot be.
func (j *joint) cost(last Class, t *turns) (cost Cost, ok bool) {
	c := j.costs
	var runs [2]int
	writes := 0
	for i := range j.parts {
		q := &j.parts[i]
		if t.continues[i] && q.at == Unknown {
			return Cost{}, false
		}
		if len(q.targets) == 0 {
			continue
		}
		limit := t.count - q.begins(t)
		if limit < 1 {
			return Cost{}, false
		}
		begin, n := q.opened(c, limit, t.continues[i])
		runs[i] = len(begin)
		writes += n
	}
	step := func(class Class) {
		cost, last = cost.plus(c.step(last, class)), class
	}
	clear := 0
	if t.data {
		clear = 1
	}
	for turn := range t.count + 1 {
		instructions, data := 0, false
		for _, cleared := range []bool{false, true} {
			if cleared && j.clear > 0 && turn == clear {
				step(Long)
				instructions++
			}
			for i := range j.parts {
				q := &j.parts[i]
				k := turn - q.begins(t)
				if q.cleared != cleared || k < 0 || k >= runs[i] {
					continue
				}
				data = true
				if k > 0 || !t.continues[i] {
					step(Instruction)
					instructions++
				}
			}
		}
		if turn == t.count {
			break
		}
		if !data || (turn > 0 || !t.data) && instructions == 0 {
			return Cost{}, false
		}
		step(Data)
	}
	cost = cost.plus(c.step(Data, Data).times(writes - t.count))
	cost.Time += c.Busy[last]
	return cost, true
}

// take appends what some turns send.
func (j *joint) take(p *plan, t *turns) {
	var runs [2][]run
	for i := range j.parts {
		if q := &j.parts[i]; len(q.targets) > 0 {
			runs[i] = q.runs(p.costs, t.count-q.begins(t), t.continues[i])
		}
	}
	clear := 0
	if t.data {
		clear = 1
	}
	for turn := range t.count + 1 {
		var addresses, data []Op
		for _, cleared := range []bool{false, true} {
			if cleared && j.clear > 0 && turn == clear {
				addresses = append(addresses, j.clearing())
			}
			for i := range j.parts {
				q := &j.parts[i]
				k := turn - q.begins(t)
				if q.cleared != cleared || k < 0 || k >= len(runs[i]) {
					continue
				}
				if k > 0 || !t.continues[i] {
					addresses = append(addresses, q.aimed(q.address(runs[i][k])))
				}
				for _, o := range q.writes(runs[i][k]) {
					data = append(data, q.aimed(o))
				}
			}
		}
		if n := len(addresses); n > 1 && addresses[n-1].Kind == Address && addresses[n-2].Kind == Address && addresses[n-1].Index == addresses[n-2].Index {
			addresses = addresses[:n-1]
			addresses[n-2].Which = Both
		}
		p.add(addresses...)
		p.add(data...)
	}
}

// aimed is an operation for the part's controller.
func (q *part) aimed(o Op) Op {
	o.Which = q.which
	return o
}

// runs lists the runs of a part, of which there may be so many.
func (q *part) runs(c *Costs, most int, continues bool) (out []run) {
	begin, _ := q.opened(c, most, continues)
	n := len(q.targets)
	for i := range n {
		k := (begin[0] + i) % n
		if slices.Contains(begin, k) {
			out = append(out, run{q.targets[k], 1})
		} else {
			out[len(out)-1].n += q.gap(k) + 1
		}
	}
	if continues {
		out[0] = q.begun(out[0], q.at)
	}
	return out
}
