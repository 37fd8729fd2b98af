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
	old     []int // by place: what stands there now; Unknown
	targets []int // places that must change, ascending
}

// newTask lists what must be written for the glass to show what is wanted at an
// offset.
func newTask(m Memory, s *State, want Want, offset int) task {
	t := task{line: line{m.Size(), s.Decrement}}
	t.code, t.old = make([]int, t.size), make([]int, t.size)
	for index := range t.size {
		row, col := index/m.Columns, index%m.Columns
		// the cell that shows this index while the glass has moved by offset
		w := want[row*m.Columns+(col-offset+m.Columns)%m.Columns]
		at := t.place(index)
		t.old[at] = s.Cells[index]
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
