package i2cbus

import (
	"cmp"
	"maps"
	"math"
	"slices"
)

// Wish is a part that wants an address.
type Wish struct {
	Part Part
	Now  Address // where it is; 0 where it has none yet: a backpack's pads are all open then
	Held bool    // it stays where it is
	On   int     // 0 for the bus itself, n for channel n of its multiplexer
}

// Cost is what it takes to bring parts to their addresses: pads closed or opened
// first, then other parts moved. Pads ask for a soldering iron; other parts have
// a pin, a jumper or none, so that one more of them weighs less than a pad.
type Cost struct {
	Pads  int
	Moves int
}

func (c Cost) compare(d Cost) int {
	return cmp.Or(cmp.Compare(c.Pads, d.Pads), cmp.Compare(c.Moves, d.Moves))
}

func (c Cost) plus(d Cost) Cost { return Cost{c.Pads + d.Pads, c.Moves + d.Moves} }

// cost returns what it takes to bring a part to an address.
func (w *Wish) cost(a Address) Cost {
	switch {
	case w.Part.Padded():
		now := Pads(0)
		if w.Now != 0 {
			now = PadsFor(w.Now)
		}
		return Cost{Pads: (now ^ PadsFor(a)).Count()}
	case w.Now != 0 && w.Now != a:
		return Cost{Moves: 1}
	}
	return Cost{}
}

// rank orders addresses of equal cost: of a backpack the highest first, as its
// first pads are closed first then, of other parts the lowest.
func (w *Wish) rank(a Address) int {
	if w.Part.Padded() {
		return int(LastFree - a)
	}
	return int(a)
}

// candidates lists the addresses that a part may be brought to.
func (w *Wish) candidates() []Address {
	if w.Held {
		return []Address{w.Now}
	}
	return w.Part.Addresses
}

// Assignment gives each of a list of wishes an address.
type Assignment struct {
	At     []Address // of each wish; 0 where it does not fit
	Left   []int     // wishes that do not fit
	Cost   Cost
	Proved bool // no other is better; see Assign
}

// Assign gives every wish an address of its own, at the least cost. Where that
// cannot be, it fits as many as possible, and of those ways takes a cheapest. It
// is exact: an assignment problem for each bus (Kuhn, Naval Research Logistics
// Quarterly 2, 1955), and, where channels of a multiplexer share addresses with
// the bus, a search over what the bus takes of them. That search may end after
// so many steps with the best that it found; Proved says whether it went through.
//
// Parts on the bus itself are heard on every channel; parts on different
// channels may have the same address.
func Assign(wishes []Wish) Assignment {
	channels := 0
	for _, w := range wishes {
		channels = max(channels, w.On)
	}
	var a Assignment
	if channels == 0 {
		a = solve(wishes, nil)
		a.Proved = true
	} else {
		a = search(wishes, channels)
	}
	a.settle(wishes)
	return a
}

// settle gives of equal wishes the first the cheapest address, and leaves the last
// ones out.
func (a *Assignment) settle(wishes []Wish) {
	for i := range wishes {
		for j := i + 1; j < len(wishes); j++ {
			w, o := &wishes[i], &wishes[j]
			if w.Held || o.Held || w.Now != o.Now || w.On != o.On || w.Part.Name != o.Part.Name || !slices.Equal(w.Part.Addresses, o.Part.Addresses) {
				continue
			}
			if x, y := a.At[i], a.At[j]; y != 0 && (x == 0 || w.cost(y).weight()+int64(w.rank(y)) < w.cost(x).weight()+int64(w.rank(x))) {
				a.At[i], a.At[j] = y, x
			}
		}
	}
	a.Left = nil
	for i, at := range a.At {
		if at == 0 {
			a.Left = append(a.Left, i)
		}
	}
}

// weight orders assignments: a wish left out weighs more than any number of pads,
// a pad more than any number of moves. Below all, the addresses that are handed out first are preferred. They need 64 bits on every machine.
const (
	moveWeight = 1 << 15
	padWeight  = 1 << 27
	leftWeight = 1 << 40
)

func (c Cost) weight() int64 { return int64(c.Pads)*padWeight + int64(c.Moves)*moveWeight }

// solve assigns the wishes of one bus, beside addresses that are taken.
func solve(wishes []Wish, taken map[Address]bool) Assignment {
	a := Assignment{At: make([]Address, len(wishes))}
	if len(wishes) == 0 {
		return a
	}
	// What answers beside its own address takes that from all others; several of
	// its kind share it.
	blocked := map[Address]bool{}
	for _, w := range wishes {
		for _, t := range w.Part.Takes {
			blocked[t] = true
		}
	}
	// Columns: the addresses that any wish may have, then one for each wish that
	// is left out.
	var columns []Address
	for _, w := range wishes {
		columns = append(columns, w.candidates()...)
	}
	slices.Sort(columns)
	columns = slices.Compact(columns)
	columns = slices.DeleteFunc(columns, func(a Address) bool { return taken[a] || blocked[a] })
	const never = leftWeight * 1000
	matrix := make([][]int64, len(wishes))
	for i := range wishes {
		row := make([]int64, len(columns)+len(wishes))
		for j := range row {
			row[j] = never
		}
		for _, c := range wishes[i].candidates() {
			if j, ok := slices.BinarySearch(columns, c); ok {
				row[j] = wishes[i].cost(c).weight() + int64(wishes[i].rank(c))
			}
		}
		row[len(columns)+i] = leftWeight + int64(len(wishes)-i) // the last ones first
		matrix[i] = row
	}
	for i, j := range cheapest(matrix) {
		if j >= len(columns) {
			a.Left = append(a.Left, i)
			continue
		}
		a.At[i] = columns[j]
		a.Cost = a.Cost.plus(wishes[i].cost(columns[j]))
	}
	return a
}

// cheapest returns the column of each row in an assignment of least total; there
// are at least as many columns as rows. It is the method of Kuhn with potentials,
// which takes rows² × columns steps.
func cheapest(matrix [][]int64) []int {
	rows, cols := len(matrix), len(matrix[0])
	const far = math.MaxInt64
	u, v := make([]int64, rows+1), make([]int64, cols+1)
	rowOf, way := make([]int, cols+1), make([]int, cols+1)
	for i := 1; i <= rows; i++ {
		rowOf[0] = i
		least, used := slices.Repeat([]int64{far}, cols+1), make([]bool, cols+1)
		j := 0
		for rowOf[j] != 0 {
			used[j] = true
			row, delta, next := rowOf[j], int64(far), 0
			for k := 1; k <= cols; k++ {
				if used[k] {
					continue
				}
				if c := matrix[row-1][k-1] - u[row] - v[k]; c < least[k] {
					least[k], way[k] = c, j
				}
				if least[k] < delta {
					delta, next = least[k], k
				}
			}
			for k := range used {
				if used[k] {
					u[rowOf[k]] += delta
					v[k] -= delta
				} else if k > 0 {
					least[k] -= delta
				}
			}
			j = next
		}
		for j != 0 {
			rowOf[j] = rowOf[way[j]]
			j = way[j]
		}
	}
	out := make([]int, rows)
	for j := 1; j <= cols; j++ {
		if rowOf[j] > 0 {
			out[rowOf[j]-1] = j - 1
		}
	}
	return out
}

// search assigns wishes of a bus with channels. What the bus itself takes, no
// channel has: it tries what the bus's parts may take, cheapest bound first, and
// solves each channel beside that.
func search(wishes []Wish, channels int) Assignment {
	groups := make([][]int, channels+1)
	for i, w := range wishes {
		groups[w.On] = append(groups[w.On], i)
	}
	s := searcher{wishes: wishes, groups: groups, barred: map[Address]bool{}, taken: map[Address]bool{}, at: make([]Address, len(wishes)), best: -1}
	for _, w := range wishes {
		for _, t := range w.Part.Takes {
			s.barred[t] = true
		}
	}
	s.place(0)
	s.found.Proved = s.steps < maxSteps
	return s.found
}

// maxSteps bounds a search, in parts looked at; sets of a dozen parts take far
// fewer.
const maxSteps = 10_000

type searcher struct {
	wishes []Wish
	groups [][]int          // by On
	barred map[Address]bool // to the bus itself: what any part answers at besides its own
	taken  map[Address]bool // by the bus itself
	at     []Address
	best   int64
	steps  int
	found  Assignment
}

// place brings the k-th part of the bus to each of its addresses, then the rest.
func (s *searcher) place(k int) {
	bus := s.groups[0]
	if s.steps >= maxSteps && s.best >= 0 {
		return
	}
	s.steps += len(s.wishes)
	bound, rest := s.bound(k)
	if s.best >= 0 && bound >= s.best {
		return
	}
	if k == len(bus) {
		s.best, s.found = bound, rest
		return
	}
	i := bus[k]
	w := &s.wishes[i]
	options := slices.Clone(w.candidates())
	slices.SortStableFunc(options, func(a, b Address) int { return w.cost(a).compare(w.cost(b)) })
	for _, a := range options {
		if s.taken[a] || s.barred[a] || s.mirrored(k, a) {
			continue
		}
		s.taken[a], s.at[i] = true, a
		s.place(k + 1)
		delete(s.taken, a)
		s.at[i] = 0
	}
	s.place(k + 1) // or it is left out
}

// mirrored reports whether an address only swaps a part with an equal one before
// it.
func (s *searcher) mirrored(k int, a Address) bool {
	w := &s.wishes[s.groups[0][k]]
	for _, j := range s.groups[0][:k] {
		o := &s.wishes[j]
		if o.Now == w.Now && !o.Held && !w.Held && s.at[j] > a && o.Part.Name == w.Part.Name && slices.Equal(o.Part.Addresses, w.Part.Addresses) {
			return true
		}
	}
	return false
}

// bound returns the weight of what is placed with the least that the rest can
// cost: the parts still to be placed as if no channel were there, each channel as
// if they took nothing. With nothing left to place it is the weight itself.
func (s *searcher) bound(k int) (int64, Assignment) {
	out := Assignment{At: make([]Address, len(s.wishes))}
	for _, i := range s.groups[0][:k] {
		if out.At[i] = s.at[i]; s.at[i] == 0 {
			out.Left = append(out.Left, i)
		} else {
			out.Cost = out.Cost.plus(s.wishes[i].cost(s.at[i]))
		}
	}
	bus := maps.Clone(s.taken)
	maps.Copy(bus, s.barred)
	channel := maps.Clone(s.taken)
	for _, i := range s.groups[0] {
		for _, t := range s.wishes[i].Part.Takes {
			channel[t] = true
		}
	}
	s.add(&out, s.groups[0][k:], bus)
	for _, group := range s.groups[1:] {
		s.add(&out, group, channel)
	}
	slices.Sort(out.Left)
	return int64(len(out.Left))*leftWeight + out.Cost.weight(), out
}

// add solves some of the wishes beside what is taken, into an assignment of all.
func (s *searcher) add(out *Assignment, group []int, taken map[Address]bool) {
	part := make([]Wish, len(group))
	for x, i := range group {
		part[x] = s.wishes[i]
	}
	sub := solve(part, taken)
	for x, i := range group {
		out.At[i] = sub.At[x]
	}
	for _, x := range sub.Left {
		out.Left = append(out.Left, group[x])
	}
	out.Cost = out.Cost.plus(sub.Cost)
}

// maxTries bounds how many other assignments are looked for.
const maxTries = 120

// Alternatives returns up to n assignments that differ from a given one: first, for
// each wish that it moves, the best in which that one stays where it is; then, for
// each wish and each other address that it may have, the best with it there, until
// n are found that cost no more than the given one. Each kind is ordered by cost,
// and none fits fewer parts.
func Alternatives(wishes []Wish, best Assignment, n int) []Assignment {
	var stay, other []Assignment
	if !best.Proved {
		return nil // others would take as long, one by one
	}
	equal, tries := 0, 0 // equal: that cost as little as can be
	try := func(list *[]Assignment, i int, forced Wish) {
		if tries++; tries > maxTries {
			return
		}
		changed := slices.Clone(wishes)
		changed[i] = forced
		a := Assign(changed)
		same := func(o Assignment) bool { return slices.Equal(o.At, a.At) }
		if len(a.Left) <= len(best.Left) && a.At[i] != 0 && !slices.ContainsFunc(stay, same) && !slices.ContainsFunc(other, same) {
			*list = append(*list, a)
			if a.Cost == best.Cost {
				equal++
			}
		}
	}
	for i, w := range wishes {
		if w.Now != 0 && best.At[i] != w.Now {
			w.Held = true
			try(&stay, i, w)
		}
	}
	for i, w := range wishes {
		if w.Held || best.At[i] == 0 {
			continue
		}
		for _, a := range w.Part.Addresses {
			if a != best.At[i] && equal < n {
				forced := w
				forced.Part.Addresses = []Address{a}
				try(&other, i, forced)
			}
		}
	}
	byCost := func(a, b Assignment) int { return a.Cost.compare(b.Cost) }
	slices.SortStableFunc(stay, byCost)
	slices.SortStableFunc(other, byCost)
	out := append(stay, other...)
	return out[:min(n, len(out))]
}
