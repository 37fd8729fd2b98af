package update

import "slices"

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

// task is what is to be written on one controller.
type task struct {
	line
	code    []int // by place: what is to stand there
	targets []int // places that must change, ascending
}

// newTask lists what must be written for the glass to show what is wanted at an
// offset.
func newTask(m Memory, s *State, want Want, offset int) task {
	t := task{line: line{m.Size(), s.Decrement}}
	t.code = make([]int, t.size)
	for index := range t.size {
		row, col := index/m.Columns, index%m.Columns
		// the cell that shows this index while the glass has moved by offset
		w := want[row*m.Columns+(col-offset+m.Columns)%m.Columns]
		at := t.place(index)
		switch {
		case w == Any:
			t.code[at] = s.Cells[index] // what is written in passing keeps what is there
			if s.Cells[index] == Unknown {
				t.code[at] = ' '
			}
			continue
		case s.Cells[index] != w:
			t.targets = append(t.targets, at)
		}
		t.code[at] = w
	}
	slices.Sort(t.targets)
	return t
}

// next returns the first target at a place or after it, round the end.
func (t *task) next(at int) int {
	return max(slices.IndexFunc(t.targets, func(p int) bool { return p >= at }), 0)
}

// gap returns how many places lie before a target and after the one before it.
func (t *task) gap(k int) int {
	n := len(t.targets)
	return (t.targets[k] - t.targets[(k+n-1)%n] - 1 + t.size) % t.size
}

// ops lists the operations that write runs; with there the address counter stands
// at the first already.
func (t *task) ops(runs []run, there bool) (out []Op) {
	for k, one := range runs {
		if k > 0 || !there {
			out = append(out, t.address(one))
		}
		out = append(out, t.writes(one)...)
	}
	return out
}

func (t *task) address(one run) Op { return Op{Kind: Address, Index: t.place(one.from)} }

func (t *task) writes(one run) []Op {
	out := make([]Op, one.n)
	for i := range out {
		at := (one.from + i) % t.size
		out[i] = Op{Kind: Write, Index: t.place(at), Code: byte(t.code[at])}
	}
	return out
}

// run is places written one after the other, round the end of the memory.
type run struct{ from, n int }

// begun is a run that begins at an earlier place.
func (t *task) begun(one run, at int) run {
	return run{at, one.n + (one.from-at+t.size)%t.size}
}

// route appends the cheapest shifts, addresses and writes that show what is wanted
// at an offset.
func (p *plan) route(m Memory, s State, want Want, offset int, loads Loads) {
	r := router{task: newTask(m, &s, want, offset), plan: *p, shifts: shiftsTo(s.Offset, offset, m.Columns), loads: loads}
	if len(r.shifts) > 0 {
		r.home = append([]Op{{Kind: Home}}, shiftsTo(0, offset, m.Columns)...)
	}
	if len(r.targets) == 0 {
		*p = r.idle()
		return
	}
	best := r.addressed()
	if s.At != Unknown {
		if q, ok := r.continued(r.place(s.At)); ok && q.total().Compare(best.total()) < 0 {
			best = q
		}
	}
	*p = best
}

// router finds the runs in which the targets are written.
type router struct {
	task
	plan   plan  // what goes before
	shifts []Op  // that move the glass to where it is wanted
	home   []Op  // the same by home; none where that is no way
	loads  Loads // still to be loaded
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
			if r.plan.costs.Bridges(gap) && !slices.Contains(begin, (first+k)%n) {
				last.n += gap + 1
				continue
			}
		}
		out = append(out, run{at, 1})
	}
	return out
}

// widest returns the target after the widest gap, some target left out (-1 for
// none): a run that begins there by an address saves most.
func (r *router) widest(but int) (first int) {
	best := -1
	for k := range r.targets {
		if gap := r.gap(k); gap > best && k != but {
			best, first = gap, k
		}
	}
	return first
}

// begin returns the plan so far, to be gone on with.
func (r *router) begin() plan {
	p := r.plan
	p.ops = slices.Clip(p.ops)
	return p
}

// idle is the cheapest plan where nothing is to be written.
func (r *router) idle() plan {
	p := r.begin()
	if r.loads.Runs == 0 {
		p.add(r.shifts...)
		return p
	}
	for i, moves := range [][]Op{r.shifts, r.home} {
		if i > 0 && len(moves) == 0 {
			break
		}
		before, after := r.begin(), r.begin()
		before.add(moves...)
		before.load(r.loads)
		after.load(r.loads)
		after.add(moves...)
		for _, q := range []plan{before, after} {
			if len(p.ops) == len(r.plan.ops) || q.total().Compare(p.total()) < 0 {
				p = q
			}
		}
	}
	return p
}

// addressed is the plan in which every run begins by an address.
func (r *router) addressed() plan {
	p := r.begin()
	if r.loads.Runs > 0 {
		p.load(r.loads)
	}
	p.add(r.shifts...)
	p.add(r.ops(r.runs(r.widest(-1)), false)...)
	return p
}

// continued is the cheapest plan that begins where the address counter stands:
// what lies between there and the next target is written again. The glass is moved
// at the start, before an address or at the end; home, which moves it as well,
// can also stand for an address.
func (r *router) continued(at int) (best plan, ok bool) {
	first := r.next(at)
	keep := func(p plan) {
		if !ok || p.total().Compare(best.total()) < 0 {
			best, ok = p, true
		}
	}
	if r.loads.Runs > 0 {
		if p, ok := r.loaded(first, at); ok {
			keep(p)
		}
		return best, ok
	}
	runs := r.runs(first)
	runs[0] = r.begun(runs[0], at)
	p := r.begin()
	p.add(r.shifts...)
	p.add(r.ops(runs, true)...)
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
		end := r.begin()
		end.add(r.ops(runs, true)...)
		end.add(moves...)
		keep(end)
		if len(parted) > 1 {
			middle := r.begin()
			middle.add(r.ops(parted[:1], true)...)
			middle.add(moves...)
			middle.add(r.ops(parted[1:], false)...)
			keep(middle)
		}
	}
	if runs, ok := r.atZero(first); ok {
		runs[0] = r.begun(runs[0], at)
		p := r.begin()
		p.add(r.ops(runs[:1], true)...)
		p.add(r.home...)
		p.add(r.fromZero(runs[1:])...)
		keep(p)
	}
	return best, ok
}

// atZero is the runs from some target on, and from others, with one of them
// beginning at the first target after place 0, where home leaves the address
// counter. It returns false where home is no way, or that is the first run.
func (r *router) atZero(begin ...int) (runs []run, ok bool) {
	zero := r.next(r.place(0))
	if len(r.home) == 0 || zero == begin[0] {
		return nil, false
	}
	return r.runs(append(begin, zero)...), true
}

// fromZero lists the operations that write runs after home: the one at the first
// target after place 0 goes first, and needs no address.
func (r *router) fromZero(runs []run) []Op {
	zero := r.targets[r.next(r.place(0))]
	k := slices.IndexFunc(runs, func(one run) bool { return one.from == zero })
	if k < 0 {
		return r.ops(runs, false)
	}
	begun := r.begun(runs[k], r.place(0))
	return append(r.writes(begun), r.ops(slices.Concat(runs[:k], runs[k+1:]), false)...)
}

// loaded is the cheapest plan that loads the glyphs after a first run, which
// begins where the address counter stands and shows none of them. It returns false
// where the first target shows one.
func (r *router) loaded(first, at int) (best plan, ok bool) {
	n := len(r.targets)
	try := func(head []run, before []Op, after ...[]Op) {
		head[0] = r.begun(head[0], at)
		p := r.begin()
		p.add(r.ops(head, true)...)
		p.add(before...)
		p.load(r.loads)
		for _, ops := range after {
			p.add(ops...)
		}
		if !ok || p.total().Compare(best.total()) < 0 {
			best, ok = p, true
		}
	}
	for i := range n {
		if r.loads.Codes[r.code[r.targets[(first+i)%n]]] {
			break // no further: this one waits for its glyph
		}
		if i+1 == n {
			for i, moves := range [][]Op{r.shifts, r.home} {
				if i == 0 || len(moves) > 0 {
					try(r.runs(first), moves)
					try(r.runs(first), nil, moves)
				}
			}
			break
		}
		last := (first + i + 1) % n
		runs := r.runs(first, last)
		if runs[1].from != r.targets[last] {
			continue // a gap before it is left open anyway: there it was tried
		}
		try(runs[:1:1], nil, r.shifts, r.ops(runs[1:], false))
		if len(r.home) > 0 {
			try(runs[:1:1], nil, r.home, r.ops(runs[1:], false))
		}
		if runs, ok := r.atZero(first, last); ok && runs[1].from == r.targets[last] {
			try(runs[:1:1], nil, r.home, r.fromZero(runs[1:]))
		}
	}
	return best, ok
}
