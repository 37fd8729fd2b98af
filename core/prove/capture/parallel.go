package capture

import (
	"cmp"
	"math"
	"math/bits"
	"slices"
	"strconv"

	"slatebell/core/wire/link"
)

// parallels are the ways to see four or eight data lines in channels.
func parallels(list []Change, channels int, moving []int, given Lines, floor float64) (out []Found) {
	widths, changes := []int{4, 8}, changesOf(list, channels)
	bests := map[int][]assignment{}
	explained := false
	for _, width := range widths {
		best := assigned(list, changes, moving, given, width, floor, lack{})
		bests[width] = best
		explained = explained || len(best) > 0 && best[0].beyondChance() >= plain*best[0].bytes && best[0].left(changes, moving) == 0 && !best[0].stands(moving)
	}
	for _, width := range widths {
		best := bests[width]
		if !explained && len(moving) >= width && (len(best) == 0 || best[0].whole()/best[0].bytes < doubtful || best[0].stands(moving)) { // E, and all but one of the others
			for _, without := range lacks(given, width) {
				if without.data > 0 && !math.IsInf(floor, -1) {
					break // where channels are turned over, no data line is missing too
				}
				other := assigned(list, changes, moving, given, width, floor, without)
				for i := range other {
					other[i].score -= without.costs()
				}
				if len(best) == 0 || len(other) > 0 && other[0].whole() > best[0].whole()-best[0].standing(moving) {
					best = other
				}
			}
		}
		if len(best) == 0 {
			continue
		}
		a := best[0]
		f := Found{Kind: link.Parallel4, Score: a.whole(), each: a.beyondChance() / a.bytes, From: a.from, Sure: surely(best), Lines: Lines{"E": a.e}}
		if a.rs >= 0 {
			f.Lines["RS"] = a.rs
		}
		if width == 8 {
			f.Kind = link.Parallel8
		}
		if a.rw >= 0 {
			f.Lines["RW"] = a.rw
		}
		for i := range width {
			if a.data[i] >= 0 {
				f.Lines[dataRole(i)] = a.data[i]
			}
		}
		if c := a.second(list, moving, given); c >= 0 {
			f.Lines["E2"], f.Sure["E2"] = c, f.Sure["E"]
		}
		if f.Lines.Has("E2") { // which is not left over
			f.Score += leftOver
		}
		out = append(out, f)
	}
	return out
}

// doubtful is up to what each byte says of the best lines they are sought without RS, or without a data line, too (ours).
const doubtful = 0.25

// second is the channel that is E of a second controller: its strobes make sense on the same lines; −1 where there is none.
func (a *assignment) second(list []Change, moving []int, given Lines) int {
	if c := given.channel("E2"); c >= 0 && slices.Contains(moving, c) {
		return c
	}
	if a.rs < 0 || slices.Contains(a.data[:a.width], none) {
		return none
	}
	first := len(strobesOf(list, a.e))
	for _, c := range moving {
		if a.uses(c) || given.names(c) {
			continue
		}
		strobes := strobesOf(list, c)
		if len(strobes) < 2*strobesLeast || len(strobes) > 3*first {
			continue
		}
		other := *a
		if other.e = c; a.width == 4 {
			other.through(strobes)
		} else {
			other.weigh(exchanges(strobes, 8, 0))
		}
		if other.frame(list) > -1 && other.beyondChance() >= plain*other.bytes {
			return c
		}
	}
	return none
}

// stands reports whether one of the data lines never changes, so that it may as well not have been recorded.
func (a *assignment) stands(moving []int) bool {
	return slices.ContainsFunc(a.data[:a.width], func(c int) bool { return c >= 0 && !slices.Contains(moving, c) })
}

// standing is by how much an assignment must be likelier than one without a line to be preferred, as a logarithm (ours): D7 stands in a text of one row,
// the others in none.
func (a *assignment) standing(moving []int) float64 {
	if d7 := a.data[0]; a.stands(moving) && (d7 < 0 || slices.Contains(moving, d7)) {
		return 20
	}
	return 0
}

// lacks are the lines that may not have been recorded: RS, then each data line.
func lacks(given Lines, width int) (out []lack) {
	if given.channel("RS") < 0 {
		out = append(out, lack{rs: true})
	}
	for i := range width {
		if given.channel(dataRole(i)) < 0 {
			out = append(out, lack{data: i + 1})
		}
	}
	return out
}

// lackCosts is what counts against a data line that was not recorded, as a logarithm (ours); RS is counted in seek.
const lackCosts = 6

func (l lack) costs() float64 {
	if l.data > 0 {
		return lackCosts
	}
	return 0
}

// leftOver is what counts against parallel lines for each other channel on which something changes, as a logarithm (ours): four of eight data lines
// make some sense by themselves.
const leftOver = 8

// dataRole is that of a data line, counted from D7 down.
func dataRole(i int) Role { return Role("D" + strconv.Itoa(7-i)) }

// strobesOf are the levels when a channel falls, as they stood before.
func strobesOf(list []Change, e int) (out []strobe) {
	for i := 1; i < len(list) && len(out) < strobesMost; i++ {
		if list[i-1].Levels&^list[i].Levels>>e&1 == 1 {
			out = append(out, list[i-1].Levels)
		}
	}
	return out
}

// unclean is what counts against an E in all of whose pulses another line goes up and down, as a logarithm: what stands on the lines may be set while
// E is high, but once (ours).
const unclean = 60

// frame is what the pulses of E say of an assignment.
func (a *assignment) frame(list []Change) float64 {
	var lines uint64
	for _, c := range append([]int{a.rs}, a.data[:a.width]...) {
		if c >= 0 {
			lines |= 1 << c
		}
	}
	var once, twice uint64
	pulses, bad := 0, 0
	for i := 1; i < len(list) && pulses < strobesMost; i++ {
		moved := list[i].Levels ^ list[i-1].Levels
		switch was := list[i-1].Levels>>a.e&1 == 1; {
		case moved>>a.e&1 == 0 && was:
			twice |= once & moved
			once |= moved
		case moved>>a.e&1 == 1 && was: // it falls
			if pulses++; twice&lines != 0 {
				bad++
			}
		case moved>>a.e&1 == 1:
			once, twice = 0, 0
		}
	}
	return -unclean * float64(bad) / float64(max(1, pulses))
}

// assigned are the likeliest ways in which channels are the lines of a module with so many data lines, of those that reach a floor nearly.
func assigned(list []Change, changes, moving []int, given Lines, width int, floor float64, without lack) (best []assignment) {
	least := floor
	candidates := given.among("E", moving)
	strobed := map[int][]strobe{}
	for _, e := range candidates {
		strobed[e] = strobesOf(list, e)
	}
	slices.SortStableFunc(candidates, func(a, b int) int { return cmp.Compare(len(strobed[b]), len(strobed[a])) }) // the likelier first: it bounds the others
	needed := width + 1
	if without != (lack{}) {
		needed--
	}
	busiest := slices.Max(changes)
	lively := len(slices.DeleteFunc(slices.Clone(moving), func(c int) bool { return changes[c] <= busiest/fewChanges }))
	leastLeft := float64(max(0, lively-width-otherLines)) // whatever the assignment
	for _, e := range candidates {
		strobes, others := strobed[e], beside(e, len(changes), moving, needed)
		if len(strobes) < strobesLeast || len(others) < needed {
			continue
		}
		for from := range 8 / width {
			of := exchanges(strobes, width, from)
			got := seek(of, others, given, e, width, from, least+chance*counted(of)+leftOver*leastLeft, without)
			if len(got) == 0 {
				continue
			}
			best = append(best, framedAll(got, list, changes, moving)...)
			least = math.Max(least, got[0].whole())
		}
	}
	slices.SortStableFunc(best, likelier)
	if width == 4 && without == (lack{}) && (len(best) == 0 || best[0].beyondChance() < plain*best[0].bytes) {
		for _, e := range candidates {
			if others := beside(e, len(changes), moving, needed); len(others) >= needed {
				best = append(best, framedAll(outOfStep(strobed[e], others, given, e, least), list, changes, moving)...)
			}
		}
		slices.SortStableFunc(best, likelier)
	}
	return best[:min(len(best), keptMost)]
}

// otherLines are E, RS and R/W.
const otherLines = 3

func likelier(a, b assignment) int { return cmp.Compare(b.whole(), a.whole()) }

// beside are the channels that may be lines beside an E: those that move, and all where these are too few, as D7 stands still in a text on one line.
func beside(e, channels int, moving []int, needed int) (out []int) {
	out = slices.DeleteFunc(slices.Clone(moving), func(c int) bool { return c == e })
	if len(out) >= needed {
		return out
	}
	out = nil
	for c := range channels {
		if c != e {
			out = append(out, c)
		}
	}
	return out
}

// framedAll are assignments with one E, the likeliest first, with what its pulses say of them, and the channels that are left over.
func framedAll(of []assignment, list []Change, changes, moving []int) []assignment {
	if len(of) == 0 {
		return nil
	}
	frame := of[0].frame(list)
	for i := range of {
		of[i].framed = frame - leftOver*float64(of[i].left(changes, moving))
	}
	slices.SortStableFunc(of, likelier)
	return of
}

// changesOf is how often each channel changes.
func changesOf(list []Change, channels int) []int {
	out := make([]int, channels)
	for i := 1; i < len(list); i++ {
		for moved := list[i].Levels ^ list[i-1].Levels; moved != 0; moved &= moved - 1 {
			out[bits.TrailingZeros64(moved)]++
		}
	}
	return out
}

// fewChanges is into how many parts of E's changes those of a channel go that carries disturbances only (ours).
const fewChanges = 20

// uses reports whether a channel is one of the lines.
func (a *assignment) uses(c int) bool {
	return c == a.e || c == a.rs || c == a.rw || slices.Contains(a.data[:a.width], c)
}

// left is how many channels change about as often as lines do that an assignment has no line for.
func (a *assignment) left(changes, moving []int) (n int) {
	for _, c := range moving {
		if !a.uses(c) && changes[c] > changes[a.e]/fewChanges {
			n++
		}
	}
	return n
}

// surely is how sure each line of the best assignment is: the part of what is likely that agrees with it.
func surely(list []assignment) map[Role]float64 {
	best := &list[0]
	out := map[Role]float64{}
	all := 0.0
	for i := range list {
		a := &list[i]
		likely := math.Exp(a.whole() - best.whole())
		all += likely
		count := func(r Role, same bool) {
			if same {
				out[r] += likely
			}
		}
		count("E", a.e == best.e)
		if best.rs >= 0 {
			count("RS", a.rs == best.rs)
		}
		if best.rw >= 0 {
			count("RW", a.rw == best.rw)
		}
		for k := range best.width {
			if best.data[k] >= 0 {
				count(dataRole(k), a.data[k] == best.data[k])
			}
		}
	}
	for r := range out {
		out[r] /= all
	}
	return out
}

// Weigh is how much likelier the first changes of a recording are by lines that were found than by chance, as a logarithm; 0 for a bus or a register.
func (f *Found) Weigh(list []Change) float64 {
	if f.Kind != link.Parallel4 && f.Kind != link.Parallel8 || !f.Lines.Has("E", "RS") {
		return 0
	}
	a := assignment{e: f.Lines["E"], rs: f.Lines["RS"], rw: f.Lines.channel("RW"), width: 4}
	if f.Kind == link.Parallel8 {
		a.width = 8
	}
	for i := range a.width {
		if a.data[i] = f.Lines.channel(dataRole(i)); a.data[i] < 0 {
			return 0
		}
	}
	strobes := strobesOf(inverted(list[:min(len(list), lookedAt)], f.Invert), a.e)
	if a.width == 4 {
		a.through(strobes)
	} else {
		a.weigh(exchanges(strobes, 8, 0))
	}
	return a.beyondChance()
}
