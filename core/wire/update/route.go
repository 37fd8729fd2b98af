package update

import "slices"

// route appends the cheapest shifts, addresses and writes that show what is wanted
// at an offset.
func (p *plan) route(m Memory, s State, goal *Goal, offset int, loads Loads) {
	r := router{task: newTask(m, &s, goal.Cells, offset), plan: *p, shifts: shiftsTo(s.Offset, offset, m.Columns), loads: loads, at: s.At, end: Unknown}
	if len(r.shifts) > 0 {
		r.home = append([]Op{{Kind: Home}}, shiftsTo(0, offset, m.Columns)...)
	}
	if goal.Set != 0 {
		set := Op{Kind: Set, Code: goal.Set}
		r.shifts = append(r.shifts, set)
		if len(r.home) > 0 {
			r.home = append(r.home, set)
		}
	}
	if goal.Cursor != Unknown {
		// the place whose character the cursor's cell shows
		r.end = r.place(goal.Cursor/m.Columns*m.Columns + (goal.Cursor%m.Columns+offset)%m.Columns)
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
	late   Loads // to be loaded after all else
	at     int   // index at which the address counter stands; Unknown
	end    int   // place at which it is to stand; Unknown for any
}

// finish ends a plan: late glyphs are loaded, and the address counter goes where
// it is to stand, by an address or by writing again what lies between.
func (r *router) finish(p plan) plan {
	if r.late.Runs > 0 {
		p.load(r.late)
	}
	if r.end == Unknown {
		return p
	}
	at := p.stands(r.at, r.size, r.down)
	if at == r.place(r.end) {
		return p
	}
	set, again := p, p
	set.ops, again.ops = slices.Clip(p.ops), slices.Clip(p.ops)
	set.add(Op{Kind: Address, Index: r.place(r.end)})
	if at == Unknown {
		return set
	}
	from := r.place(at)
	way := (r.end - from + r.size) % r.size
	if c := p.costs; c.step(Data, Data).times(way).Compare(c.step(Data, Instruction).times(2)) > 0 {
		return set
	}
	again.add(r.writes(run{from, way})...)
	return r.cheapest(set, again)
}

// cheapest returns the cheaper of two plans.
func (r *router) cheapest(p, q plan) plan {
	if q.total().Compare(p.total()) < 0 {
		return q
	}
	return p
}

// cheaper returns the cheaper of two plans, the second finished; the first may be
// none yet.
func (r *router) cheaper(best plan, found bool, p plan) plan {
	p = r.finish(p)
	if !found {
		return p
	}
	return r.cheapest(best, p)
}

// ending returns the target before which a gap may be left open so that what is
// written last ends where the address counter is to stand.
func (r *router) ending() (target int, ok bool) {
	return r.next(r.end), r.end != Unknown
}

// towards lengthens a run up to the place where the address counter is to stand.
func (r *router) towards(one run) run {
	return run{one.from, one.n + (r.end-one.from-one.n+2*r.size)%r.size}
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
func (r *router) idle() (best plan) {
	for i, moves := range [][]Op{r.shifts, r.home} {
		if i > 0 && len(moves) == 0 {
			break
		}
		before, after := r.begin(), r.begin()
		before.add(moves...)
		if r.loads.Runs > 0 {
			before.load(r.loads)
			after.load(r.loads)
		}
		after.add(moves...)
		best = r.cheaper(best, i > 0, before)
		best = r.cheaper(best, true, after)
		if r.end == Unknown || r.at == Unknown || r.loads.Runs > 0 {
			continue
		}
		last := r.begin() // the place first, and then the moves
		last = r.finish(last)
		last.add(moves...)
		best = r.cheaper(best, true, last)
	}
	return best
}

// addressed is the plan in which every run begins by an address.
func (r *router) addressed() plan {
	start := r.begin()
	if r.loads.Runs > 0 {
		start.load(r.loads)
	}
	start.add(r.shifts...)
	p := start
	p.ops = slices.Clip(p.ops)
	p.add(r.ops(r.runs(r.widest(-1)), false)...)
	best := r.finish(p)
	if e, ok := r.ending(); ok {
		runs := r.runs(e)
		runs[len(runs)-1] = r.towards(runs[len(runs)-1])
		p := start
		p.ops = slices.Clip(p.ops)
		p.add(r.ops(runs, false)...)
		best = r.cheaper(best, true, p)
	}
	return best
}

// continued is the cheapest plan that begins where the address counter stands:
// what lies between there and the next target is written again. The glass is moved
// at the start, before an address or at the end; home, which moves it as well,
// can also stand for an address.
func (r *router) continued(at int) (best plan, ok bool) {
	first := r.next(at)
	keep := func(p plan) { best, ok = r.cheaper(best, ok, p), true }
	if r.loads.Runs > 0 {
		if p, ok := r.loaded(first, at); ok {
			keep(p)
		}
		if !slices.ContainsFunc(r.targets, func(t int) bool { return r.loads.Codes[r.code[t]] }) {
			after := *r
			after.loads, after.late = Loads{}, r.loads
			if p, ok := after.continued(at); ok {
				keep(p)
			}
		}
		return best, ok
	}
	if runs, ok := r.towardsEnd(first, at); ok {
		for i := range 2 {
			p := r.begin()
			if i == 0 {
				p.add(r.shifts...)
			}
			p.add(r.ops(runs[:1], true)...)
			if i == 1 && len(runs) > 1 {
				p.add(r.shifts...)
			}
			p.add(r.ops(runs[1:], false)...)
			if i == 1 && len(runs) == 1 {
				p.add(r.shifts...)
			}
			keep(p)
		}
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
	if r.end != Unknown && r.late.Runs == 0 { // the cursor's place first, and then the moves
		last := r.begin()
		last.add(r.ops(runs, true)...)
		last = r.finish(last)
		last.add(r.shifts...)
		keep(last)
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

// towardsEnd is the runs from the address counter on, in an order in which the last
// ends where the counter is to stand. It returns false where that is the first of
// several, or nowhere.
func (r *router) towardsEnd(first, at int) ([]run, bool) {
	e, ok := r.ending()
	if !ok {
		return nil, false
	}
	runs := r.runs(first, e)
	runs[0] = r.begun(runs[0], at)
	k := slices.IndexFunc(runs, func(one run) bool { return one.from == r.targets[e] }) - 1
	switch {
	case e == first:
		k = len(runs) - 1
	case k == 0:
		return nil, false
	}
	last := r.towards(runs[k])
	return append(slices.Delete(runs, k, k+1), last), true
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
// begins where the address counter stands: cells that wait for a glyph are written
// again as they are in it. It returns false where there is no such run.
func (r *router) loaded(first, at int) (best plan, ok bool) {
	n := len(r.targets)
	waits := func(t int) bool { return r.loads.Codes[r.code[t]] }
	head := r.task
	head.code = slices.Clone(r.code)
	var rest []int // targets of the head that wait
	for i := range n {
		t := r.targets[(first+i)%n]
		if waits(t) {
			if head.code[t] = r.old[t]; r.old[t] == Unknown {
				break
			}
			rest = append(rest, t)
			continue
		}
		after := *r
		after.loads, after.at = Loads{}, Unknown
		after.targets = slices.Clone(rest)
		for k := i + 1; k < n; k++ {
			after.targets = append(after.targets, r.targets[(first+k)%n])
		}
		slices.Sort(after.targets)
		after.plan = r.begin()
		after.plan.add(head.writes(run{at, (t-at+r.size)%r.size + 1})...)
		after.plan.load(r.loads)
		if len(after.targets) == 0 {
			continue // nothing waits: what is written before all glyphs is tried on its own
		}
		best, ok = r.cheaper(best, ok, after.addressed()), true
		if len(r.home) == 0 {
			continue
		}
		after.plan.add(r.home...)
		after.shifts, after.home, after.at = nil, nil, 0
		best = r.cheaper(best, true, after.addressed())
		if p, ok := after.continued(after.place(0)); ok {
			best = r.cheaper(best, true, p)
		}
	}
	return best, ok
}
