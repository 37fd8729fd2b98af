package capture

import (
	"cmp"
	"math"
	"slices"
	"strconv"

	"slatebell/core/wire/link"
)

// parallels are the ways to see four or eight data lines in channels.
func parallels(list []Change, channels int, moving []int, given Lines, floor float64) (out []Found) {
	for _, width := range []int{4, 8} {
		best := assigned(list, channels, moving, given, width, floor, false)
		if given.channel("RS") < 0 && (len(best) == 0 || best[0].whole()/best[0].bytes < doubtfulRS) {
			if other := assigned(list, channels, moving, given, width, floor, true); len(best) == 0 || len(other) > 0 && other[0].whole() > best[0].whole() {
				best = other
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
			f.Lines[dataRole(i)] = a.data[i]
		}
		for _, c := range moving {
			if !f.Lines.names(c) {
				f.Score -= leftOver
			}
		}
		out = append(out, f)
	}
	return out
}

// doubtfulRS is up to what each byte says of the best lines they are sought without RS too (ours).
const doubtfulRS = 0.25

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
func assigned(list []Change, channels int, moving []int, given Lines, width int, floor float64, noRS bool) (best []assignment) {
	least := floor
	candidates := given.among("E", moving)
	strobed := map[int][]strobe{}
	for _, e := range candidates {
		strobed[e] = strobesOf(list, e)
	}
	slices.SortStableFunc(candidates, func(a, b int) int { return cmp.Compare(len(strobed[b]), len(strobed[a])) }) // the likelier first: it bounds the others
	needed := width + 1
	if noRS {
		needed--
	}
	for _, e := range candidates {
		strobes, others := strobed[e], beside(e, channels, moving, needed)
		if len(strobes) < strobesLeast || len(others) < needed {
			continue
		}
		for from := range 8 / width {
			of := exchanges(strobes, width, from)
			got := seek(of, others, given, e, width, from, least+chance*counted(of), noRS)
			if len(got) == 0 {
				continue
			}
			least = math.Max(least, got[0].beyondChance())
			best = append(best, framedAll(got, list)...)
		}
	}
	slices.SortStableFunc(best, likelier)
	if width == 4 && !noRS && (len(best) == 0 || best[0].beyondChance() < plain*best[0].bytes) {
		for _, e := range candidates {
			if others := beside(e, channels, moving, needed); len(others) >= needed {
				best = append(best, framedAll(outOfStep(strobed[e], others, given, e, least), list)...)
			}
		}
		slices.SortStableFunc(best, likelier)
	}
	return best[:min(len(best), keptMost)]
}

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

// framedAll are assignments with one E, with what its pulses say of them.
func framedAll(of []assignment, list []Change) []assignment {
	if len(of) == 0 {
		return nil
	}
	frame := of[0].frame(list)
	for i := range of {
		of[i].framed = frame
	}
	return of
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
			count(dataRole(k), a.data[k] == best.data[k])
		}
	}
	for r := range out {
		out[r] /= all
	}
	return out
}
